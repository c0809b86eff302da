"""Failures that samples do not meet: how rare, where; and the points at which a reading is worst at some sigma."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import chip, clear, heading, offer, quiet
from hearthline.app.panels.text_line import TextLine
from hearthline.app.spread.parts_page import ShareBar, unit_of
from hearthline.app.state.desk import Desk
from hearthline.app.state.shown_sample import point_of
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.theme import theme
from hearthline.core.bench.rare import HIGH, LOW, RareFailure, Side, with_corner
from hearthline.core.bench.statistical import corner_of
from hearthline.core.quantity import write
from hearthline.core.spread.samples import SampleSet
from hearthline.core.spread.variables import TOLERANCE

TERMS, CARDS = 5, 6
ANY = "any limit"


class RarePage(QScrollArea):
    """Questions above, answers below each."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk, self.rare = desk, desk.spread.rare
        self.name, self.reading, self.end = "", "", HIGH
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(10, 0, 10, 8)
        column.setSpacing(4)
        self.setWidget(body)
        self.which, self.of, self.side = (_word_button() for _ in range(3))
        self.which.clicked.connect(lambda _=False: self._offer_limits())
        self.of.clicked.connect(lambda _=False: self._offer_readings())
        self.side.clicked.connect(lambda _=False: self._turn())
        self.error = _number("10 %", "wanted error", _share_problem)
        self.most = _number("5000", "most simulations", _count_problem)
        self.sigma = _number("3", "sigma of the corner", _sigma_problem)
        self.look, self.find = QPushButton("Look"), QPushButton("Find")
        self.look.clicked.connect(lambda _=False: self._look())
        self.find.clicked.connect(lambda _=False: self._find())
        self.note = quiet("")
        self.answer, self.corners = QVBoxLayout(), QVBoxLayout()
        self._lay_out(column)
        self.rare.changed.connect(self.refresh)
        self.rare.progressed.connect(self._progress)
        desk.bench_changed.connect(self.rare.forget)
        desk.document_changed.connect(self._name)
        theme.changed.connect(self.refresh)
        self.refresh()

    def _lay_out(self, column: QVBoxLayout) -> None:
        row = QHBoxLayout()
        row.addWidget(heading("How rarely is it passed:"))
        for widget in (self.which, _word("within"), self.error, _word("in at most"), self.most, self.look):
            row.addWidget(widget)
        row.addStretch()
        column.addLayout(row)
        column.addWidget(self.note)
        column.addLayout(self.answer)
        row = QHBoxLayout()
        row.addWidget(heading("Worst"))
        for widget in (self.sigma, _word("sigma of"), self.of, self.side, self.find):
            row.addWidget(widget)
        row.addStretch()
        column.addLayout(row)
        column.addLayout(self.corners)
        column.addStretch()

    def showEvent(self, event) -> None:
        """Catches up."""
        super().showEvent(event)
        self.refresh()

    # -- asking

    def _limits(self) -> list[str]:
        bench = self.desk.bench
        return [one.reading for one in bench.specifications if one.low or one.high] if bench is not None else []

    def _readings(self) -> list[str]:
        bench = self.desk.bench
        return [one.name for one in bench.readings] if bench is not None else []

    def _offer_limits(self) -> None:
        offer(self.which, [(name or ANY, lambda name=name: self._take(name=name)) for name in ["", *self._limits()]])

    def _offer_readings(self) -> None:
        offer(self.of, [(name, lambda name=name: self._take(reading=name)) for name in self._readings()])

    def _turn(self) -> None:
        self._take(end=LOW if self.end == HIGH else HIGH)

    def _take(self, **words: str) -> None:
        for name, word in words.items():
            setattr(self, name, word)
        self._name()

    def _name(self) -> None:
        readings = self._readings()
        if self.name not in self._limits():
            self.name = ""
        if self.reading not in readings:
            self.reading = next(iter(self._limits()), next(iter(readings), ""))
        self.which.setText(f"{self.name or ANY} ▾")
        self.of.setText(f"{self.reading} ▾")
        self.side.setText(f"{self.end} ⇅")
        self.look.setEnabled(self.rare.busy or bool(self._limits()))
        self.find.setEnabled(self.rare.busy or bool(readings))

    def _look(self) -> None:
        if self.rare.busy:
            self.rare.stop()
        elif self.desk.snapshot is not None:
            share = float(self.error.text().strip().removesuffix("%")) / 100.0
            limits = self.desk.spread.judged.limits
            self.rare.look(self.desk.snapshot, self.name, limits, share, int(float(self.most.text())))

    def _find(self) -> None:
        if self.rare.busy:
            self.rare.stop()
        elif self.desk.snapshot is not None:
            self.rare.find_corner(self.desk.snapshot, self.reading, self.end, float(self.sigma.text()))

    # -- answers

    def _progress(self) -> None:
        job = self.rare.job
        if self.rare.busy:
            words = f"{job.whole[0]} simulations" if job.stage[0] == "rare failures" else job.stage[0]
            self.note.setText(f"working: {words or 'making the circuit ready'} …")

    def refresh(self) -> None:
        """Takes the answers as they are; only while they can be seen."""
        if not self.isVisible():
            return
        self._name()
        busy = self.rare.busy
        for button, word in ((self.look, "Look"), (self.find, "Find")):
            button.setText("Stop" if busy else word)
        clear(self.answer)
        clear(self.corners)
        failure = self.rare.failure
        self.note.setVisible(busy or failure is None)
        if not busy:
            self.note.setText(
                "The likeliest failing points are looked for, then samples are drawn about them and weighed by how likely they "
                "are: failures of five sigma in some thousand simulations." if self._limits() else
                "No specification has a limit, so nothing can fail."
            )  # fmt: skip
        if failure is not None:
            self._add_failure(failure)
        for side, sigma, found in self.rare.corners[:CARDS]:
            self.corners.addWidget(self._corner(side, sigma, found))

    def _add_failure(self, failure: RareFailure) -> None:
        tail = failure.tail
        card, layout = _card()
        words = f"{small(tail.probability)} fail ({small(tail.low)} to {small(tail.high)}), {tail.sigma:.2f} σ"
        title = Label(f"{self.rare.asked or ANY}: {words}" if tail.points else f"{self.rare.asked or ANY}: none found")
        title.setFont(text_font(13, bold=True))
        layout.addWidget(title)
        halves = " and ".join(map(small, tail.halves))
        figures = Label(
            f"{tail.simulations} simulations; {tail.effective:.0f} failing ones count, the largest weighs "
            f"{100 * tail.largest:.2g} %; halves {halves}"
        )
        figures.setFont(figure_font(10))
        figures.setWordWrap(True)
        layout.addWidget(figures)
        doubt = quiet(tail.doubtful or "weights and halves agree")
        doubt.setStyleSheet(f"color: {theme.color('ember_ink' if tail.doubtful else 'quiet').name()}")
        layout.addWidget(doubt)
        self.answer.addWidget(card)
        for k, point in enumerate(tail.points[:CARDS]):
            side = failure.sides[point.limit]
            unit = failure.points.units.get(side.reading, "")
            where = "below" if side.end == LOW else "above"
            words = f"{side.reading} {where} {write(side.limit, unit, 4)}, likeliest at {point.distance:.2f} σ"
            name = f"{side.reading} at {point.distance:.2f} σ"
            self.answer.addWidget(self._point(words, name, failure.points, k))

    def _corner(self, side: Side, sigma: float, found: SampleSet) -> QFrame:
        unit = found.units.get(side.reading, "")
        value = write(float(found.reading(side.reading)[0]), unit, 4)
        words = f"{side.reading} at worst {value}, {'lowest' if side.end == LOW else 'highest'} at {sigma:g} σ"
        keep = chip(
            "as condition", lambda: self._keep(side, sigma, found), "the bench keeps this corner, picked for every run"
        )
        return self._point(words, f"worst {sigma:g} σ of {side.reading}", found, 0, keep)

    def _point(self, words: str, name: str, found: SampleSet, number: int, more: QPushButton | None = None) -> QFrame:
        """One point: its words, what moves most in it, and a way to the desk."""
        card, layout = _card()
        row = QHBoxLayout()
        title = Label(words)
        title.setFont(text_font(12, bold=True))
        title.setWordWrap(True)
        row.addWidget(title, 1)
        point = point_of(found, number, name)
        row.addWidget(
            chip("show", lambda: self._show(point), "operating point and curves of this point on the whole desk")
        )
        if more is not None:
            row.addWidget(more)
        layout.addLayout(row)
        grid = QGridLayout()
        grid.setColumnStretch(1, 1)
        grid.setHorizontalSpacing(12)
        normal = found.normal[number]
        squares = np.square(normal) / max(float(np.square(normal).sum()), 1e-300)
        for k, index in enumerate(np.argsort(-squares)[:TERMS]):
            if squares[index] < 5e-3:
                break
            variable = found.variables[index]
            value = float(variable.values(normal[index : index + 1])[0])
            shown = (
                write(value, unit_of(variable), 3)
                if variable.kind == TOLERANCE or unit_of(variable)
                else f"{value:+.3g}"
            )
            for column, text in ((0, variable.name), (2, f"{normal[index]:+.2f} σ"), (3, shown)):
                label = Label(text.replace("-", "−"))
                label.setFont(figure_font(11) if column else text_font(11))
                label.setAlignment(Qt.AlignmentFlag.AlignRight if column else Qt.AlignmentFlag.AlignLeft)
                grid.addWidget(label, k, column)
            grid.addWidget(ShareBar(float(squares[index]), False), k, 1)
        layout.addLayout(grid)
        return card

    def _show(self, point) -> None:
        self.desk.spread.one.show(point, self.desk.snapshot)

    def _keep(self, side: Side, sigma: float, found: SampleSet) -> None:
        """The bench has the corner, and a picked condition with it."""
        corner = corner_of(side.reading, side.end, sigma, found.variables, found.normal[0])
        self.desk.change_bench(with_corner(self.desk.bench, corner), f"statistical corner {corner.name}")


def small(probability: float) -> str:
    """`1.9e−7`"""
    return f"{probability:.2g}".replace("e-0", "e-").replace("-", "−")


def _card() -> tuple[QFrame, QVBoxLayout]:
    card = QFrame()
    card.setObjectName("card")
    layout = QVBoxLayout(card)
    layout.setContentsMargins(10, 6, 8, 6)
    layout.setSpacing(2)
    return card, layout


def _word(text: str) -> Label:
    return quiet(text, wrap=False)


def _word_button() -> QPushButton:
    button = QPushButton()
    button.setProperty("plain", True)
    button.setFont(text_font(12, bold=True))
    return button


def _number(text: str, name: str, problem: Callable[[str], str]) -> TextLine:
    line = TextLine(text, problem)
    line.setAccessibleName(name)
    line.setMaximumWidth(54)
    return line


def _value(text: str) -> float:
    try:
        return float(text.strip().removesuffix("%"))
    except ValueError:
        return float("nan")


def _share_problem(text: str) -> str:
    return "" if 1 <= _value(text) <= 100 else "how sure, from 1 % to 100 %, as 10 %"


def _count_problem(text: str) -> str:
    return "" if 500 <= _value(text) <= 1e6 else "from 500 to 1000000 simulations"


def _sigma_problem(text: str) -> str:
    return "" if 0 < _value(text) <= 9 else "above 0 and at most 9"
