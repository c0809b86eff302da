"""What a person feels, measured in the real window, offscreen; the floor is the time that is allowed."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
from functools import cache
from pathlib import Path

from benchmarks.chain import write_project
from benchmarks.row import Row

STAGES = 30
KEYSTROKES = 40
PARTS_OPENED, PARTS_PANNED = 500, 2000
MILLION = 1_000_000
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
    return [*_start(), *_keystrokes(), *_large_cells(), *_charts(), _circles(), _limit()]


@cache
def the_application():
    """The one application of all windows; it must outlive them."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PyQt6.QtWidgets import QApplication

    return QApplication.instance() or QApplication([])


def _large_cells() -> list[Row]:
    """Reading and painting a cell of 500 parts, and frames of panning and zooming over one of 2000."""
    from PyQt6.QtTest import QTest

    from hearthline.app.start import open_window

    application = the_application()
    rows = []
    for stages, parts in ((PARTS_OPENED // 3, PARTS_OPENED), (PARTS_PANNED // 3 + 1, PARTS_PANNED)):
        with tempfile.TemporaryDirectory() as scratch:
            folder = Path(scratch) / "chain"
            write_project(folder, stages)
            window = open_window(folder)
            window.show()
            while window.desk.point is None:
                QTest.qWait(5)
            if parts == PARTS_OPENED:
                rows.append(_opening(application, window, folder))
            else:
                rows += _frames(window)
            window.leave()
    return rows


def _opening(application, window, folder: Path) -> Row:
    """The project read anew, its cell painted; the operating point follows."""
    times = []
    for _ in range(3):
        begin = time.perf_counter()
        window.desk.open(folder)
        window.drawing.repaint()
        times.append(time.perf_counter() - begin)
        application.processEvents()
    return Row(f"opening a cell of {PARTS_OPENED} parts", min(times), 0.3, 1.0, "allowed")


def _frames(window) -> list[Row]:
    from PyQt6.QtTest import QTest

    drawing, rows = window.drawing, []
    for scale in (drawing.view.scale, 6.0, 12.0):
        drawing.zoom(scale / drawing.view.scale)
        for what, step in (("pan", lambda k: drawing.pan(9 if k % 40 < 20 else -9, 3)),
                           ("zoom", lambda k: drawing.zoom(1.1 if k % 20 < 10 else 1 / 1.1))):  # fmt: skip
            times = []
            for k in range(60):
                begin = time.perf_counter()
                step(k)
                drawing.repaint()
                times.append(time.perf_counter() - begin)
            times.sort()
            figure = f"frame of {what}, {PARTS_PANNED} parts, {drawing.view.scale:.1f} pixels a step, 95th of 100"
            rows.append(Row(figure, times[int(0.95 * len(times))], 1 / 60, 1.0, "allowed"))
        drawing.zoom(1.2)
        while drawing.sharpening:  # the picture that was stretched is drawn anew when the wheel rests
            QTest.qWait(5)
        begin = time.perf_counter()
        drawing.forget_picture()
        drawing.repaint()
        figure = f"the same drawn sharp once the wheel rests, {drawing.view.scale:.1f} pixels a step"
        rows.append(Row(figure, time.perf_counter() - begin, 0.1, 1.0, "allowed"))
    return rows


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
    from PyQt6.QtCore import QEventLoop
    from PyQt6.QtTest import QTest

    from hearthline.app.start import open_window

    application = the_application()
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


def demo_window(scratch: str):
    """The demo in a window of its own, its first bench run."""
    import shutil

    from PyQt6.QtTest import QTest

    from hearthline.app.start import DEMO, open_window

    folder = Path(scratch) / "kilnwatch"
    shutil.copytree(DEMO, folder, ignore=shutil.ignore_patterns("runs"))
    window = open_window(folder)
    window.show()
    while window.desk.point is None:
        QTest.qWait(5)
    window.desk.run()
    while not window.desk.results.entries:
        QTest.qWait(5)
    QTest.qWait(100)
    return window


def _charts() -> list[Row]:
    """Frames of panning and zooming over a curve of a million points, drawn in the real strip."""
    from dataclasses import replace

    import numpy as np

    the_application()
    found = []
    with tempfile.TemporaryDirectory() as scratch:
        window = demo_window(scratch)
        strip = window.sheet.strips[0]
        x = np.linspace(0, 1, MILLION)
        y = (np.sin(2e3 * x) + 0.1 * np.random.default_rng(1).standard_normal(MILLION))[None, :]
        family = replace(strip.family, group=np.zeros(1, int), main=np.ones(1, bool))
        strip.show_traces([replace(strip.trace, x=x, y=y)], family)
        for what in ("pan", "zoom"):
            times = []
            for k in range(60):
                begin = time.perf_counter()
                left = 0.3 * k / 60 if what == "pan" else 0.45 * k / 60
                strip.plot.setXRange(left, left + 0.6 if what == "pan" else 1.0 - left, padding=0)
                strip.plot.grab()
                times.append(time.perf_counter() - begin)
            times.sort()
            found.append(
                Row(f"frame of {what} of a curve of a million points, 95th of 100", times[57], 1 / 30, 1.0, "allowed")
            )
        window.leave()
    return found


def _circles() -> Row:
    """From a moved cursor to the painted chart: circles of stability, gain and noise over curves at 45 conditions."""
    from PyQt6.QtTest import QTest
    from PyQt6.QtWidgets import QApplication

    the_application()
    with tempfile.TemporaryDirectory() as scratch:
        window = demo_window(scratch)
        desk = window.desk
        desk.show_bench("lna_868_bench-figures")
        while desk.point is None or desk.point.snapshot.bench.key != "lna_868_bench-figures":
            QTest.qWait(5)
        before = len(desk.results.entries)
        desk.run()
        while len(desk.results.entries) <= before or desk.results.loading:
            QTest.qWait(5)
        sheet = window.sheet
        sheet.circle_kinds.update({"stability", "gain", "noise"})
        sheet.held = True
        times = []
        for k in range(60):
            begin = time.perf_counter()
            desk.results.move_cursor(6e8 + 1e7 * k)
            QApplication.processEvents()
            times.append(time.perf_counter() - begin)
        window.leave()
    return Row(
        "frame of dragging the frequency of circles, 45 conditions, median", sorted(times)[30], 1 / 30, 1.0, "allowed"
    )


def _limit() -> Row:
    """From a changed limit to new verdicts on the hearth line: ten specifications of ten thousand values each."""
    from dataclasses import replace

    import numpy as np

    from hearthline.core.bench.bench import Reading, Specification
    from hearthline.core.bench.readings import Numbers

    the_application()
    with tempfile.TemporaryDirectory() as scratch:
        window = demo_window(scratch)
        desk, rng = window.desk, np.random.default_rng(1)
        readings = tuple(Reading(f"r{k}", "peak(V(out))") for k in range(10))
        specifications = tuple(Specification(f"r{k}", "-6", "6") for k in range(10))
        desk.change_bench(replace(desk.bench, readings=readings, specifications=specifications), "many")
        while desk.results.loading:
            the_application().processEvents()
        desk.results.numbers = {f"r{k}": Numbers(rng.standard_normal(10_000), "") for k in range(10)}
        times = []
        for k in range(30):
            begin = time.perf_counter()
            desk.change_limit(Specification("r3", "-6", f"{3 + 0.05 * k:.2f}"), f"limit {k}")
            window.hearth.segments[3].repaint()  # the others say what they said, and are not painted
            times.append(time.perf_counter() - begin)
        window.leave()
    times.sort()
    return Row("a changed limit to new verdicts, 10 000 values × 10 limits", times[15], 0.016, 1.0, "allowed")
