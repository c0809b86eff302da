"""What a person feels, measured in the real window, offscreen; the floor is the time that is allowed."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from benchmarks.chain import write_project
from benchmarks.row import Row

STAGES = 30
KEYSTROKES = 40
START = """
import time
begin = time.clock_gettime(time.CLOCK_MONOTONIC)
import sys, shutil, tempfile
from pathlib import Path
from PyQt6.QtWidgets import QApplication
from PyQt6.QtTest import QTest
application = QApplication([])
from hearthline.app.start import DEMO, open_window
folder = Path(tempfile.mkdtemp()) / "kilnwatch"
shutil.copytree(DEMO, folder)
window = open_window(folder)
window.show()
application.processEvents()
shown = time.clock_gettime(time.CLOCK_MONOTONIC)
while window.desk.point is None:
    QTest.qWait(2)
window.grab()
print(float(sys.argv[1]), shown, time.clock_gettime(time.CLOCK_MONOTONIC))
window.leave()
shutil.rmtree(folder.parent)
"""


def rows() -> list[Row]:
    """All of them."""
    return [*_start(), *_keystrokes()]


def _start() -> list[Row]:
    """From the start of the process to a window, and to a live operating point on it; the second start of two."""
    shown = live = 0.0
    for _ in range(3):
        begin = time.clock_gettime(time.CLOCK_MONOTONIC)
        environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
        done = subprocess.run(
            [sys.executable, "-c", START, str(begin)], env=environment, capture_output=True, text=True, check=True
        )
        first, second, third = (float(word) for word in done.stdout.split()[-3:])
        shown, live = second - first, third - first
    allowed = "allowed"
    return [
        Row("start to the first window", shown, 2.0, 1.0, allowed),
        Row("start to the operating point on the drawing", live, 2.0, 1.0, allowed),
    ]


def _keystrokes() -> list[Row]:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PyQt6.QtCore import QEventLoop
    from PyQt6.QtTest import QTest
    from PyQt6.QtWidgets import QApplication

    from hearthline.app.start import open_window

    application = QApplication.instance() or QApplication([])
    with tempfile.TemporaryDirectory() as scratch:
        folder = Path(scratch) / "chain"
        write_project(folder, STAGES)
        window = open_window(folder)
        window.show()
        desk = window.desk
        while desk.point is None:
            QTest.qWait(2)
        desk.select("part", "MP3")
        field = window.details.lines["w"]
        field.setFocus()
        times = []
        solved = QEventLoop()
        desk.point_solved.connect(solved.quit)
        for k in range(KEYSTROKES):
            field.setText(f"{2 + k % 7}.5")
            application.processEvents()
            begin = time.perf_counter()
            QTest.keyClicks(field, "u")
            solved.exec()
            window.drawing.repaint()
            times.append(time.perf_counter() - begin)
        window.leave()
    times.sort()
    return [
        Row(
            f"keystroke to the new operating point, {2 * STAGES} devices, median",
            times[len(times) // 2],
            0.05,
            1.0,
            "allowed",
        ),
        Row("the same, slowest of 40", times[-1], 0.05, 1.0, "allowed"),
    ]
