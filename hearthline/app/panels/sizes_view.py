"""Which size to change for a reading: those that do most first, with what is foretold, a run that proves it, and the drawing
taking it over."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from hearthline.app.panels.bar import Bar
from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import chip, clear, heading, offer, quiet
from hearthline.app.panels.text_line import TextLine
from hearthline.app.state.desk import Desk
from hearthline.app.state.sizes import Proved
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.theme import theme
from hearthline.core.bench.mending import edited
from hearthline.core.bench.sizing import Leverage, wanted_way
from hearthline.core.errors import HearthlineError
from hearthline.core.quantity import read, write

MOST, BUTTONS = 30, 84
"""Rows; and pixels that their buttons take, so that bars stand under each other."""
LEAST, LEAST_DB = 1e-3, 0.01
"""Change of another reading that is said, as a share or in decibels."""
USUAL, LARGEST = "10 %", 1.0
"""By how much a size is changed, and at most."""


class SizeRow(QFrame):
    """One size: from what to what, what is foretold, what else would fail, and what a run found."""

    clicked = pyqtSignal(int)

    def __init__(self, view: SizesView, found: Leverage, reading: str, size: int, factor: float, heat: float) -> None:
        super().__init__()
        self.size_ = size
        self.setObjectName("card")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        layout = QGridLayout(self)
        layout.setContentsMargins(10, 5, 8, 6)
        layout.setVerticalSpacing(2)
        one = found.sizes[size]
        name = Label(one.name)
        name.setFont(text_font(12, bold=True))
        first = one.edits(factor)[0]
        layout.addWidget(name, 0, 0)
        layout.addWidget(quiet(f"{first.old} → {first.new}", wrap=False), 0, 1)
        layout.addWidget(Bar(heat), 0, 2)
        self.figures = Label(_foretold(found, reading, size, factor))
        self.figures.setFont(figure_font(11))
        layout.addWidget(self.figures, 1, 0, 1, 3)
        broken, beside = found.broken(size, factor), _beside(found, reading, size, factor)
        if broken or beside:
            said = quiet(f"{', '.join(broken)} would not hold" if broken else beside)
            said.setToolTip(beside)
            if broken:
                said.setStyleSheet(f"color: {theme.color('amber_ink').name()}")
            layout.addWidget(said, 2, 0, 1, 3)
        sizes = view.desk.sizes
        prove = chip("proving …" if sizes.proving == size else "prove", lambda: view.prove(size), "runs it so")
        prove.setEnabled(not sizes.busy)
        layout.addWidget(prove, 0, 3, 2, 1)
        proof = sizes.proofs.get(size)
        if proof is not None:
            self._add_proof(layout, view, proof, reading)
        layout.setColumnStretch(1, 1)
        layout.setColumnMinimumWidth(3, BUTTONS)

    def _add_proof(self, layout: QGridLayout, view: SizesView, proof: Proved, reading: str) -> None:
        found = proof.of
        values, unit = proof.values[reading], found.units[reading]
        value = float(values[found.row(reading)])
        typed = found.sizes[proof.size].edits(proof.factor)[0].new
        self.proof = Label(f"run with {typed}: {_number(value, unit)}")
        self.proof.setFont(figure_font(12))
        layout.addWidget(self.proof, 3, 0, 1, 3)
        layout.addWidget(chip("take over", lambda: view.adopt(proof), "the drawing takes this size"), 3, 3)

    def mousePressEvent(self, event) -> None:
        """Shows the part."""
        self.clicked.emit(self.size_)


class SizesView(QScrollArea):
    """Asks when it is wanted, follows the answer."""

    def __init__(self, desk: Desk, show: Callable[[str], None]) -> None:
        super().__init__()
        self.desk, self._show = desk, show
        self.reading = ""
        self.setObjectName("findings")
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(14, 10, 14, 10)
        self.setWidget(body)
        column.addWidget(heading("Which size to change"))
        column.addLayout(self._head())
        self.said = quiet("")
        column.addWidget(self.said)
        self.column = QVBoxLayout()
        column.addLayout(self.column)
        column.addStretch()
        desk.sizes.changed.connect(self._list)
        desk.bench_changed.connect(self._list)
        desk.document_changed.connect(self._follow)
        theme.changed.connect(self._list)
        self._list()

    def _head(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.which = QPushButton()
        self.which.setProperty("plain", True)
        self.which.setFont(text_font(12, bold=True))
        self.which.clicked.connect(lambda _=False: self._offer())
        self.by = TextLine(USUAL, _share_problem)
        self.by.setAccessibleName("change of a size")
        self.by.setMaximumWidth(64)
        self.by.settled.connect(lambda _: self._list())
        self.ask = QPushButton()
        self.ask.clicked.connect(lambda _=False: self._ask())
        row.addWidget(self.which)
        row.addWidget(quiet("by", wrap=False))
        row.addWidget(self.by)
        row.addStretch()
        row.addWidget(self.ask)
        return row

    @property
    def _readings(self) -> list[str]:
        return [one.name for one in self.desk.bench.readings] if self.desk.bench is not None else []

    def _offer(self) -> None:
        offer(self.which, [(name, lambda name=name: self.take(name)) for name in self._readings])

    def take(self, reading: str) -> None:
        """Shows the sizes of another reading."""
        self.reading = reading
        self._list()

    def _ask(self) -> None:
        if self.desk.sizes.busy:
            self.desk.sizes.stop()
        else:
            self.desk.sizes.ask(self.desk.snapshot)

    def factor(self, found: Leverage, size: int) -> float:
        """How many times as large, towards what is wanted of the reading."""
        share = _share(self.by.text())
        way = wanted_way(found.snapshot, self.reading)
        slope = found.slopes[self.reading][size, found.row(self.reading)]
        return 1.0 / (1.0 + share) if way * slope < 0 else 1.0 + share

    def prove(self, size: int) -> None:
        """Runs the circuit with a size changed."""
        found = self.desk.sizes.found
        if found is not None:
            self.desk.sizes.prove(size, self.factor(found, size))

    def adopt(self, proof: Proved) -> None:
        """The drawing takes a size, as one step."""
        size = proof.of.sizes[proof.size]
        old = new = self.desk.project.cells[size.cell]
        for edit in size.edits(proof.factor):
            new = edited(new, edit)
        self.desk.documents.exchange_all([(old, new)], f"{size.name} of {size.cell}")

    def _follow(self) -> None:
        """The readings as they are now."""
        sizes, names = self.desk.sizes, self._readings
        if self.reading not in names:
            self.reading = _first_wanted(self.desk, names)
        self.which.setText(f"{self.reading} ▾" if self.reading else "no reading")
        self.which.setEnabled(bool(names))
        self.ask.setText("Stop" if sizes.busy else "Try every size")
        self.ask.setEnabled(self.desk.snapshot is not None and bool(names))

    def _list(self) -> None:
        clear(self.column)
        self._follow()
        found = self.desk.sizes.found
        self.said.setText(_said(self.desk, found, self.reading))
        if found is None or self.reading not in found.values:
            return
        ranked = found.ranked(self.reading)[:MOST]
        row = found.row(self.reading)
        slopes = found.slopes[self.reading][:, row]
        for size in ranked:
            heat = abs(slopes[size] / slopes[ranked[0]])
            card = SizeRow(self, found, self.reading, size, self.factor(found, size), heat)
            card.clicked.connect(lambda one: self._show(found.sizes[one].targets[0][0]))
            self.column.addWidget(card)


def _first_wanted(desk: Desk, names: list[str]) -> str:
    """The reading that a person comes for: one of noise, or the first."""
    if desk.bench is None or not names:
        return ""
    noisy = [one.name for one in desk.bench.readings if "noise" in one.formula]
    return (noisy or names)[0]


def _said(desk: Desk, found: Leverage | None, reading: str) -> str:
    if desk.sizes.error is not None:
        return str(desk.sizes.error)
    if desk.sizes.busy and found is None:
        return "trying every size …"
    if found is None:
        return (
            "Every size on the drawings is moved a little to both sides, at the point of the bench, and every reading is "
            "taken. Parts that are the same in all their values stay alike."
        )
    row = found.row(reading) if reading in found.values else 0
    now = found.values[reading][row] if reading in found.values else float("nan")
    way = {1: ", more is better", -1: ", less is better", 0: ""}[wanted_way(found.snapshot, reading)]
    lost = f"; {len(found.lost)} had no solution beside" if found.lost else ""
    return f"now {_number(float(now), found.units.get(reading, ''))}{way}; {len(found.sizes)} sizes tried{lost}"


def _beside(found: Leverage, reading: str, size: int, factor: float) -> str:
    """What it does to the other readings, where that can be seen."""
    changes = {}
    for name, values in found.values.items():
        row = found.row(name)
        now, unit = float(values[row]), found.units[name]
        change = found.foretold(name, size, factor) - now
        if name != reading and abs(change) > (LEAST_DB if unit.startswith("dB") else LEAST * abs(now)):
            changes[name] = _change(now, change, unit)
    return ", ".join(f"{name} {text}" for name, text in changes.items())


def _change(now: float, change: float, unit: str) -> str:
    if unit.startswith("dB"):
        text = f"{change:+.3g} {unit}"
    else:
        text = f"{100.0 * change / abs(now):+.3g} %" if now else f"{change:+.3g} {unit}"
    return text.replace("-", "−")


def _foretold(found: Leverage, reading: str, size: int, factor: float) -> str:
    row, unit = found.row(reading), found.units[reading]
    value, now = found.foretold(reading, size, factor), float(found.values[reading][row])
    return f"foretold {_number(value, unit)} ({_change(now, value - now, unit)})"


def _number(value: float, unit: str) -> str:
    return write(value, unit, 5).replace("-", "−")


def _share(text: str) -> float:
    """`10 %` or `0.1` as a number. Raises QuantityError."""
    text = text.strip()
    return read(text.removesuffix("%"), "") / (100.0 if text.endswith("%") else 1.0)


def _share_problem(text: str) -> str:
    try:
        value = _share(text)
    except HearthlineError as error:
        return str(error)
    return "" if 0.0 < value <= LARGEST else f"a size is changed by more than 0 and at most {100 * LARGEST:.0f} %"
