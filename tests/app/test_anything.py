"""A person who does anything, in any order: nothing may fail, and undo leads all the way back."""

from __future__ import annotations

import random

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton

from hearthline.app.panels.bench.line_row import PlainLine

PLAIN, SHIFT = Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier
CONTROL, ALT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier
KEYS = [
    getattr(Qt.Key, f"Key_{name}")
    for name in [
        "D",
        "T",
        "Y",
        "N",
        "L",
        "J",
        "K",
        "B",
        "U",
        "0",
        "1",
        "2",
        "3",
        "Delete",
        "Escape",
        "Return",
        "Backspace",
        "Plus",
        "Minus",
        "Left",
        "Up",
    ]
]
WITH_CONTROL = [getattr(Qt.Key, f"Key_{name}") for name in ["Z", "Z", "Z", "C", "V", "X", "A", "B"]]
WORDS = (
    "n_rvt", "resistor", "voltage source", "inv_x1 block", "ground mark", "supply mark", "input pin", "note", "net name", "coupling",
    "transmission", "align left", "even across", "route", "devices", "netlist", "findings", "charts", "cell, show", "bench", "c_mim",
    "sweep analysis", "noise analysis", "take as reading", "run the bench", "new bench", "rename the bench", "delete the bench",
    "delete the cell", "rename the cell", "new cell", "dissolve", "shape",
)  # fmt: skip
LINES = (
    "V(out)",
    "sweep of vin points 11",
    "ac",
    "1.1, 1.2",
    "in voltage 1",
    "typ, ss",
    "peak(V(out)",
    "ss 27",
    "x",
    "",
    "0.3",
    "transient to 1n",
)
TYPED = ("1u", "3k", "2*x", "", "zz", "M1", "-1", "rn = 2k", "pulse(0 1)")
EVENTS = 160


class Anyone:
    """Random events on one window."""

    def __init__(self, person, seed: int):
        self.person, self.window, self.desk = person, person.window, person.desk
        self.drawing, self.random = person.window.drawing, random.Random(seed)

    def place(self) -> QPoint:
        """Mostly on something."""
        scene, pick = self.drawing.scene, self.random
        if not scene or not scene.cell.parts or pick.random() < 0.2:
            return QPoint(pick.randrange(self.drawing.width()), pick.randrange(self.drawing.height()))
        if pick.random() < 0.5:
            return self.drawing.screen_place("part", pick.choice(scene.cell.parts).name).toPoint()
        return self.drawing.view.to_screen(*pick.choice(list(scene.anchors) or [(0, 0)])).toPoint()

    def click(self) -> None:
        """With any button."""
        at, button = self.place(), self.random.choice([Qt.MouseButton.LeftButton] * 5 + [Qt.MouseButton.RightButton])
        QTest.mouseMove(self.drawing, at)
        QTest.mouseClick(self.drawing, button, self.random.choice([PLAIN, PLAIN, SHIFT, CONTROL, ALT]), at)

    def drag(self) -> None:
        """From anywhere to anywhere."""
        a, b, modifier = self.place(), self.place(), self.random.choice([PLAIN, PLAIN, SHIFT, CONTROL, ALT])
        QTest.mouseMove(self.drawing, a)
        QTest.mousePress(self.drawing, Qt.MouseButton.LeftButton, modifier, a)
        for place in ((a + b) / 2, b):
            QTest.mouseMove(self.drawing, place)
        QTest.mouseRelease(self.drawing, Qt.MouseButton.LeftButton, modifier, b)

    def double(self) -> None:
        """Into blocks, among others."""
        QTest.mouseDClick(self.drawing, Qt.MouseButton.LeftButton, PLAIN, self.place())

    def key(self) -> None:
        """A key of the drawing."""
        self.drawing.setFocus()
        QTest.keyClick(self.drawing, self.random.choice(KEYS), self.random.choice([PLAIN, PLAIN, PLAIN, SHIFT]))

    def with_control(self) -> None:
        """Undo, redo, clipboard, blocks."""
        self.drawing.setFocus()
        shift = self.random.choice([PLAIN, PLAIN, SHIFT])
        QTest.keyClick(self.drawing, self.random.choice(WITH_CONTROL), CONTROL | shift)

    def find(self) -> None:
        """Through the search."""
        self.window.open_search()
        QTest.keyClicks(self.window.search.field, self.random.choice(WORDS))
        QTest.keyClick(self.window.search.field, Qt.Key.Key_Return)

    def type(self) -> None:
        """Into a field of the details."""
        lines = [line for line in self.window.details.lines.values() if line.isVisible()]
        if lines:
            line = self.random.choice(lines)
            line.setFocus()
            line.selectAll()
            QTest.keyClicks(line, self.random.choice(TYPED))
            QTest.keyClick(line, Qt.Key.Key_Return)

    def beside(self) -> None:
        """In a view beside the drawing: another view, a chip of it, or a line that is typed."""
        side = self.window.side
        QTest.mouseClick(self.random.choice(list(side.words.values())), Qt.MouseButton.LeftButton)
        view = side.stack.currentWidget()
        lines = [line for line in view.findChildren(PlainLine) if line.isVisible()]
        if lines and self.random.random() < 0.6:
            line = self.random.choice(lines)
            line.setFocus()
            line.selectAll()
            QTest.keyClicks(line, self.random.choice(LINES))
            QTest.keyClick(line, Qt.Key.Key_Return)
        buttons = [b for b in view.findChildren(QPushButton) if b.isVisible() and b.isEnabled() and "…" not in b.text()]
        buttons = [b for b in buttons if not b.text().startswith(("ready", "▸", "repeat", "Clean"))]
        if buttons:
            QTest.mouseClick(self.random.choice(buttons), Qt.MouseButton.LeftButton)

    def answer(self) -> None:
        """What is asked at the pointer."""
        QTest.keyClicks(self.window.prompt.field, self.random.choice(["a", "out", "vdd", "1 bad", "fresh"]))
        QTest.keyClick(self.window.prompt.field, self.random.choice([Qt.Key.Key_Return, Qt.Key.Key_Escape]))

    def do_something(self) -> None:
        """One event."""
        if self.window.prompt.isVisible():
            self.answer()
            return
        if self.window.search.isVisible():
            self.window.search.put_away()
        doings = [self.click] * 5 + [self.drag] * 4 + [self.key] * 4 + [self.with_control] * 2 + [self.find] * 2
        self.random.choice([*doings, self.double, self.type, self.beside, self.beside])()


@pytest.mark.parametrize("seed", [3, 14])
def test_nothing_fails_and_undo_leads_back(person, seed):
    """Any fault in a handler fails the test; the project is in the end what it was in the beginning."""
    anyone, desk = Anyone(person, seed), person.desk
    cells, benches = dict(desk.project.cells), dict(desk.project.benches)
    for _ in range(EVENTS):
        anyone.do_something()
    desk.stop()
    person.wait(lambda: not desk.checker.busy and not desk.results.runner.busy)
    while desk.documents.undo.canUndo():
        desk.documents.undo.undo()
    assert dict(desk.project.cells) == cells
    assert dict(desk.project.benches) == benches
