"""From an impedance to a wanted one: networks of the kit's parts, the way of each on a chart, and a click that places it."""

from __future__ import annotations

import re
from collections.abc import Callable

import numpy as np
import pyqtgraph as pg
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFrame, QGridLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from hearthline.app.charts.plane_grid import PlaneGrid
from hearthline.app.charts.plane_strip import plain
from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import chip, clear, heading, quiet
from hearthline.app.panels.text_line import TextLine
from hearthline.app.state.desk import Desk
from hearthline.app.state.matching import Wanted
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.theme import theme
from hearthline.core.circuit.cell import Cell
from hearthline.core.data.plane import BOTH
from hearthline.core.errors import HearthlineError
from hearthline.core.matching.proposals import Proposal
from hearthline.core.quantity import field_text, read, write

MOST = 12
"""Rows."""


class ProposalRow(QFrame):
    """One network."""

    pointed = pyqtSignal(object)

    def __init__(self, proposal: Proposal, place: Callable[[Proposal], None]) -> None:
        super().__init__()
        self.proposal = proposal
        self.setObjectName("card")
        layout = QGridLayout(self)
        layout.setContentsMargins(10, 5, 10, 5)
        name = Label(f"{proposal.network.form}: {proposal.network.words}")
        name.setFont(text_font(12, bold=True))
        loss, band = write(proposal.loss, "dB", 3), write(proposal.band, "Hz", 3)
        figures = Label(f"loses {loss} · 10 dB over {band} · off by {proposal.reflection:.2g}")
        figures.setFont(figure_font(11))
        parts = quiet(", ".join(f"{one.device} {' '.join(text for _, text in one.values)}" for one in proposal.parts))
        layout.addWidget(name, 0, 0)
        layout.addWidget(figures, 1, 0)
        layout.addWidget(parts, 2, 0)
        layout.addWidget(chip("place", lambda: place(proposal), "takes its parts in hand for the drawing"), 0, 1)
        layout.setColumnStretch(0, 1)

    def enterEvent(self, event) -> None:
        """Its way on the chart."""
        self.pointed.emit(self.proposal)


class WayChart(pg.PlotWidget):
    """The way from the load to what is wanted, on impedances and admittances."""

    def __init__(self) -> None:
        self.grid = PlaneGrid()
        super().__init__()
        self.setMinimumHeight(220)
        self.setFrameShape(self.Shape.NoFrame)
        self.hideButtons()
        self.setMenuEnabled(False)
        self.setMouseEnabled(False, False)
        for side in ("left", "bottom"):
            self.hideAxis(side)
        self.getViewBox().setAspectLocked(True)
        self.setRange(xRange=(-1.05, 1.05), yRange=(-1.05, 1.05), padding=0)
        self.grid.show_plane(BOTH)
        self.addItem(self.grid, ignoreBounds=True)
        self.way = pg.PlotCurveItem()
        self.ends = pg.ScatterPlotItem(size=10)
        for item in (self.way, self.ends):
            self.addItem(item, ignoreBounds=True)
        self.restyle()
        theme.changed.connect(self.restyle)

    def show_way(self, points: np.ndarray) -> None:
        """Reflections from the load on; none for nothing."""
        self.way.setData(points.real.copy(), points.imag.copy(), pen=pg.mkPen(theme.color("ember"), width=2.6))
        ends = points[[0, -1]] if len(points) else points
        brushes = [pg.mkBrush(theme.color(role)) for role in ("paper", "ember")][: len(ends)]
        pen = pg.mkPen(theme.color("ember"), width=2)
        self.ends.setData(
            [{"pos": (p.real, p.imag), "brush": b, "pen": pen} for p, b in zip(ends, brushes, strict=True)]
        )

    def restyle(self) -> None:
        """Takes the colours of the theme."""
        self.setBackground(theme.color("paper"))
        self.grid.update()


class MatchingView(QWidget):
    """Three fields, the chart, the proposals."""

    def __init__(self, desk: Desk, place: Callable[[Cell], None]) -> None:
        super().__init__()
        self.desk, self._place = desk, place
        self.load = TextLine("20-60j", lambda text: _problem(text))
        self.wanted = TextLine("50", lambda text: _problem(text))
        self.frequency = TextLine("868M", _frequency_problem)
        self.button = QPushButton("Propose")
        self.button.clicked.connect(lambda _=False: self.propose())
        fields = QGridLayout()
        for k, (word, line) in enumerate((("from", self.load), ("to", self.wanted), ("at", self.frequency))):
            line.setAccessibleName(f"match {word}")
            line.settled.connect(lambda _: self.propose())
            fields.addWidget(quiet(word), 0, 2 * k)
            fields.addWidget(line, 0, 2 * k + 1)
        fields.addWidget(self.button, 0, 6)
        self.chart = WayChart()
        area, body = QScrollArea(), QWidget()
        area.setWidgetResizable(True)
        area.setFrameShape(QFrame.Shape.NoFrame)
        self.column = QVBoxLayout(body)
        self.column.setContentsMargins(0, 4, 0, 4)
        area.setWidget(body)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 10, 14, 10)
        layout.addWidget(heading("Match an impedance"))
        layout.addLayout(fields)
        layout.addWidget(self.chart, 2)
        layout.addWidget(area, 3)
        desk.matching.changed.connect(self._list)
        desk.matching.started.connect(self._start)
        self._start()
        self._list()

    def _start(self) -> None:
        """What a chart proposed."""
        start = self.desk.matching.start
        if start is not None:
            self.load.show_text(_text(start.load))
            self.wanted.show_text(_text(start.wanted))
            self.frequency.show_text(field_text(float(f"{start.frequency:.6g}")))
            self.propose()

    def propose(self) -> None:
        """Asks for the networks."""
        try:
            what = Wanted(_complex(self.load.text()), _complex(self.wanted.text()), read(self.frequency.text(), "Hz"))
        except (HearthlineError, ValueError):
            return
        self.desk.matching.ask(self.desk.project.kit if self.desk.project else None, what)

    def _list(self) -> None:
        clear(self.column)
        matching = self.desk.matching
        self.button.setText("looking …" if matching.busy else "Propose")
        if matching.error is not None:
            label = quiet(str(matching.error))
            label.setWordWrap(True)
            self.column.addWidget(label)
        elif not matching.found:
            self.column.addWidget(
                quiet("L, pi and T networks of the kit's inductors and capacitors, with what they lose.")
            )
        for proposal in matching.found[:MOST]:
            row = ProposalRow(proposal, self._put)
            row.pointed.connect(lambda one: self.chart.show_way(one.way))
            self.column.addWidget(row)
        self.column.addStretch()
        self.chart.show_way(matching.found[0].way if matching.found else np.zeros(0, complex))

    def _put(self, proposal: Proposal) -> None:
        from hearthline.core.matching.piece import piece_of

        self._place(piece_of(proposal.network, proposal.parts))


def _complex(text: str) -> complex:
    """`40+10j`, `40 + j10`, `1k`. Raises ValueError or QuantityError."""
    plain_text = re.sub(r"j\s*([\d.]+)", r"\1j", text.replace(" ", "").replace("Ω", ""))
    try:
        return complex(plain_text)
    except ValueError:
        return complex(read(text, "Ω"))


def _text(value: complex) -> str:
    return plain(value).replace(" ", "") if value.imag else f"{value.real:.4g}"


def _problem(text: str) -> str:
    try:
        value = _complex(text)
    except (HearthlineError, ValueError):
        return "an impedance, as 50 or 20-60j"
    return "" if value.real > 0 else "its real part must be above 0 Ω"


def _frequency_problem(text: str) -> str:
    try:
        return "" if read(text, "Hz") > 0 else "a frequency above 0"
    except HearthlineError as error:
        return str(error)
