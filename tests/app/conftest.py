"""The real window on a copy of the demo, offscreen, driven by mouse and keys; no thread may be left behind."""

from __future__ import annotations

import os
import shutil
import threading

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import pyqtgraph as pg
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLineEdit, QWidget

from hearthline.app.start import DEMO, open_window
from hearthline.app.theme.palette import DAY
from hearthline.app.theme.theme import theme
from hearthline.app.window import Window

PATIENCE = 30_000
pg.setConfigOption("mouseRateLimit", -1)  # a test's pointer may move faster than a hand


@pytest.fixture
def folder(tmp_path):
    """A copy of the demo project."""
    shutil.copytree(DEMO, tmp_path / "kilnwatch", ignore=shutil.ignore_patterns("runs"))
    return tmp_path / "kilnwatch"


class Person:
    """What a person does at the window."""

    def __init__(self, window: Window, qtbot):
        self.window, self.desk, self.qtbot = window, window.desk, qtbot

    def wait(self, condition) -> None:
        """Until the window has caught up."""
        self.qtbot.waitUntil(condition, timeout=PATIENCE)

    def click(self, widget: QWidget, place: QPoint | QPointF | None = None) -> None:
        """Presses and releases the left button."""
        place = place.toPoint() if isinstance(place, QPointF) else place or widget.rect().center()
        QTest.mouseClick(widget, Qt.MouseButton.LeftButton, pos=place)

    def click_on_drawing(self, kind: str, name: str) -> None:
        """Clicks the body of a part or pin."""
        drawing = self.window.drawing
        self.click(drawing, drawing.screen_place(kind, name))

    def type_into(self, field: QLineEdit, text: str) -> None:
        """Replaces the text of a field, key by key."""
        self.click(field)
        field.selectAll()
        QTest.keyClicks(field, text)

    def key(self, key: Qt.Key, modifier=Qt.KeyboardModifier.NoModifier) -> None:
        """A key with the window in front."""
        QTest.keyClick(self.window, key, modifier)

    def voltage(self, net: str) -> float:
        """The live voltage of a net."""
        return float(self.desk.point.dataset.curve(f"V({net})")[0, 0])

    def width(self) -> str:
        """The width of M2 in the snapshot that the live point was solved for."""
        return self.desk.point.snapshot.cell.part("M2").values["w"]

    def die(self) -> None:
        """Lets go of the journal's lock, as the end of the window's process would."""
        journal = self.desk.documents._own
        os.close(journal._lock)
        journal._lock = None

    def run(self) -> None:
        """Presses Run and waits for the result."""
        before = len(self.desk.results.entries)
        self.click(self.window.topline.run_button)
        self.wait(lambda: not self.desk.results.runner.busy and len(self.desk.results.entries) > before)

    def chart_place(self, strip: int, x: float, y: float) -> QPoint:
        """A place of a chart in pixels of its widget."""
        plot = self.window.sheet.strips[strip].plot
        return plot.mapFromScene(plot.getPlotItem().vb.mapViewToScene(QPointF(x, y)))

    def point_at_chart(self, strip: int, x: float, y: float) -> None:
        """Moves the pointer over a chart."""
        viewport = self.window.sheet.strips[strip].plot.viewport()
        QTest.mouseMove(viewport, QPoint(1, 1))
        QTest.mouseMove(viewport, self.chart_place(strip, x, y))


@pytest.fixture
def opened(qtbot):
    """Opens windows, and closes them with all their threads."""
    windows = []

    def open_(folder, ready=True) -> Person:
        window = open_window(folder)
        windows.append(window)
        window.show()
        qtbot.waitExposed(window)
        person = Person(window, qtbot)
        if ready:
            person.wait(lambda: person.desk.point is not None)
        return person

    yield open_
    for window in windows:
        window.leave()
        window.deleteLater()
    theme.apply(DAY)
    names = [thread.name for thread in threading.enumerate()]
    assert "operating point" not in names
    assert "run" not in names


@pytest.fixture
def person(opened, folder) -> Person:
    """A person at the open demo, its operating point solved."""
    return opened(folder)
