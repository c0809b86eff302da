"""Starts the window."""

from __future__ import annotations

import gc
import os
import shutil
import sys
from pathlib import Path

from platformdirs import user_data_dir

from hearthline.core.errors import HearthlineError

DEMO = Path(__file__).resolve().parents[1] / "demo" / "kilnwatch"
"""The demo as it is shipped; it is opened as a copy, so that a person may change and save it."""


def start(folder: str | None, bench: str | None) -> int:
    """Opens a project, by default the demo, and runs the window. Returns the exit status."""
    if not _has_display():
        print(
            "There is no display to open a window on; `make screenshots` renders the main views into docs/screenshots."
        )
        return 2
    from hearthline.app.state.memory import Memory, memory_file
    from hearthline.app.theme.size import NAME, USUAL, scale_texts

    scale_texts(Memory(memory_file()).get(NAME, USUAL), os.environ)
    from PyQt6.QtWidgets import QApplication

    application = QApplication(sys.argv[:1])
    application.setApplicationName("Hearthline")
    from hearthline.app.faults import Faults
    from hearthline.app.panels.label import PlainTips

    application.installEventFilter(PlainTips(application))
    window = open_window(Path(folder) if folder else demo_copy(), bench, memory_file())
    Faults(window).install()
    window.show()
    return application.exec()


def demo_copy() -> Path:
    """The person's own copy of the demo project, made at the first start."""
    copy = Path(user_data_dir("hearthline", appauthor=False)) / DEMO.name
    if not (copy / "project.toml").exists():
        shutil.copytree(DEMO, copy, ignore=shutil.ignore_patterns("runs", ".unsaved"), dirs_exist_ok=True)
    return copy


def open_window(folder: Path, bench: str | None = None, remembered: Path | None = None):
    """The window with a project on its desk; an unreadable project is a message in it. `remembered` is the file that says how
    desks were divided the last time."""
    from PyQt6.QtCore import Qt

    from hearthline.app.state.desk import Desk
    from hearthline.app.state.last_points import LastPoints
    from hearthline.app.state.memory import Memory
    from hearthline.app.theme.fonts import load_fonts
    from hearthline.app.theme.palette import DAY
    from hearthline.app.theme.theme import theme
    from hearthline.app.window import Window

    load_fonts()
    theme.apply(DAY)
    desk = Desk(last_points=LastPoints(remembered.parent / "points" if remembered else None))
    window = Window(desk, Memory(remembered))
    # what is loaded by now stays; the collector need not go through it again, which takes 100 ms in mid-typing
    desk.point_solved.connect(gc.freeze, Qt.ConnectionType.SingleShotConnection)
    try:
        desk.open(folder, bench)
    except HearthlineError as error:
        desk.tell(error)
    return window


def _has_display() -> bool:
    platform = os.environ.get("QT_QPA_PLATFORM", "")
    return bool(platform) or bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))
