"""An absorber, posts or another height, tried: where the resonances go, and how much is left of them."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from hearthline.app.housing.mode_chart import figure
from hearthline.app.housing.try_chart import TryChart
from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import chip, clear, heading, quiet
from hearthline.app.state.housings import Housings
from hearthline.app.theme.fonts import figure_font
from hearthline.core.fields.study import WAYS, Resonating
from hearthline.core.quantity import write

SHOWN = 3
"""Resonances of each."""


class TryPanel(QWidget):
    """`taken(housing)` when one of them is to be the housing from now on."""

    taken = pyqtSignal(object)

    def __init__(self, housings: Housings) -> None:
        super().__init__()
        self.housings, self.trials = housings, housings.trials
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        row = QHBoxLayout()
        row.addWidget(heading("Try"))
        for name, way in WAYS.items():
            row.addWidget(chip(name, lambda name=name: self._begin(name), way.meaning))
        self.values = QLineEdit()
        self.values.setAccessibleName("values to try")
        self.values.returnPressed.connect(self._ask)
        self.go = chip(
            "try these", self._ask, "resonances with each of these values, beside those of the housing as it is"
        )
        row.addStretch()
        layout.addLayout(row)
        typed = QHBoxLayout()
        typed.addWidget(self.values, 1)
        typed.addWidget(self.go)
        layout.addLayout(typed)
        self.said = quiet("")
        layout.addWidget(self.said)
        self.table = QGridLayout()
        self.table.setHorizontalSpacing(12)
        self.table.setVerticalSpacing(1)
        layout.addLayout(self.table)
        self.chart = TryChart()
        layout.addWidget(self.chart)
        self.way = ""
        self.values.hide()
        self.go.hide()
        self.trials.changed.connect(self._list)

    def _begin(self, way: str) -> None:
        """Offers usual values of a way."""
        if self.housings.housing is None:
            return
        self.way = way
        self.values.setText(WAYS[way].usual(self.housings.housing))
        self.values.setToolTip(WAYS[way].meaning)
        self.values.show()
        self.go.show()
        self.values.setFocus()

    def _ask(self) -> None:
        if self.housings.housing is not None and self.way:
            self.trials.ask(self.housings.housing, self.way, self.values.text())

    def _list(self) -> None:
        clear(self.table)
        trials = self.trials
        self.said.setText(str(trials.error) if trials.error else "trying …" if trials.busy else "")
        self.said.setVisible(bool(self.said.text()))
        found = trials.found
        self.chart.show_tried(found)
        if found is None:
            return
        for k in range(SHOWN):
            self.table.addWidget(_right(quiet(f"resonance {k + 1}", wrap=False)), 0, 1 + k)
        for row, (value, one) in enumerate(zip(found.values, found.found, strict=True), 1):
            self.table.addWidget(quiet(f"{found.way} {value}" if value else "as it is", wrap=False), row, 0)
            for k, text in enumerate(_figures(one)):
                label = Label(text)
                label.setFont(figure_font(11))
                self.table.addWidget(_right(label), row, 1 + k)
            if value:
                take = chip("take it", lambda value=value: self._take(value), "the housing is this one from now on")
                self.table.addWidget(take, row, 1 + SHOWN)
        self.updateGeometry()

    def _take(self, value: str) -> None:
        housing, found = self.housings.housing, self.trials.found
        if housing is not None and found is not None:
            self.taken.emit(WAYS[found.way].housing(housing, value))


def _figures(one: Resonating) -> list[str]:
    pairs = zip(one.modes.frequencies[:SHOWN], one.modes.quality[:SHOWN], strict=True)
    return [f"{write(float(f), 'Hz', 4)}, Q {figure(float(q))}" for f, q in pairs]


def _right(label: Label) -> Label:
    label.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
    return label
