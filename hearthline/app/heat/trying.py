"""Another pitch, number of fingers or thickness of the die, tried: how hot the part gets, and every reading."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import chip, clear, heading, quiet
from hearthline.app.state.desk import Desk
from hearthline.app.state.trials import Trials
from hearthline.app.theme.fonts import figure_font
from hearthline.core.bench.heat_trying import FINGERS, WAYS
from hearthline.core.quantity import write

MOST = 4
"""Readings."""


class TryPanel(QWidget):
    """Of the part that is selected on the die."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk, self.trials, self.part = desk, desk.trials, ""
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        row = QHBoxLayout()
        row.addWidget(heading("Try another"))
        self.chips = {way: chip(way, lambda way=way: self._ask(way), _tip(way)) for way in WAYS}
        for one in self.chips.values():
            row.addWidget(one)
        self.said = quiet("", wrap=False)
        row.addWidget(self.said, 1)
        layout.addLayout(row)
        self.table = QGridLayout()
        self.table.setHorizontalSpacing(10)
        self.table.setVerticalSpacing(1)
        layout.addLayout(self.table)
        self.trials.changed.connect(self._list)
        self.hide()

    def show_part(self, part: str) -> None:
        """Another part, by its flat name; nothing where it does not stand on the die."""
        if part != self.part:
            self.part = part
            self.trials.forget()
        self.setVisible(bool(part))

    def _ask(self, way: str) -> None:
        snapshot = self.desk.snapshot
        if snapshot is not None and self.part:
            self.trials.ask(snapshot, self.part, way)

    def _list(self) -> None:
        clear(self.table)
        found = self.trials.found
        self.said.setText(_said(self.trials))
        if found is None or found.part != self.part:
            return
        scale, title = (1.0, found.way) if found.way == FINGERS else (1e6, f"{found.way} [µm]")
        units = {one.name: one.unit for one in self.desk.bench.readings} if self.desk.bench is not None else {}
        columns = [(title, [f"{scale * value:.3g}" for value in found.values])]
        columns.append(("peak [°C]", [_figure(value, "°C") for value in found.peaks]))
        for name, values in [*found.readings.items()][:MOST]:
            columns.append((name, [_figure(value, units.get(name, "")) for value in values]))
        now = int(np.argmin(np.abs(found.values - found.now)))
        for column, (name, texts) in enumerate(columns):
            self.table.addWidget(_word(quiet(name, wrap=False)), 0, column)
            for k, text in enumerate(texts):
                label = Label(text)
                font = figure_font(11)
                font.setBold(k == now)
                label.setFont(font)
                self.table.addWidget(_word(label), 1 + k, column)


def _word(label: Label) -> Label:
    label.setAlignment(Qt.AlignmentFlag.AlignRight)
    return label


def _tip(way: str) -> str:
    return f"the part's peak temperature and every reading at several values of its {way}, at the point of the bench"


def _said(trials: Trials) -> str:
    if trials.error is not None:
        return str(trials.error)
    if trials.found is not None:
        return trials.found.problem
    return "trying …" if trials.busy else ""


def _figure(value: float, unit: str) -> str:
    if not np.isfinite(value):
        return "–"
    return f"{value:.1f}" if unit == "°C" else write(float(value), unit, 4).replace("-", "−")
