"""Every reading over the samples, with its yield, what it costs, and limits to be dragged."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import chip, clear, quiet
from hearthline.app.spread.distribution import Distribution
from hearthline.app.state.desk import Desk
from hearthline.app.state.judging import percent, share_text
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.theme import theme
from hearthline.core.bench.bench import Specification
from hearthline.core.bench.passing import limits_of
from hearthline.core.quantity import field_text, write
from hearthline.core.spread.yields import spread_of


class ReadingStrip(QFrame):
    """One reading."""

    def __init__(self, desk: Desk, name: str) -> None:
        super().__init__()
        self.desk, self.spread, self.name = desk, desk.spread, name
        self.setObjectName("card")
        self.setFixedHeight(112)
        self.title, self.figure, self.cost = Label(name), Label(), quiet("", wrap=True)
        self.title.setFont(text_font(12, bold=True))
        self.title.setWordWrap(True)
        self.figure.setFont(figure_font(12))
        self.counts = chip("counts", self._toggle, "whether this specification counts in the yield of all", True)
        self.keep = chip("keep", self._keep, "the bench takes these limits")
        self.back = chip("back", lambda: self.spread.take_back(name), "the limits of the bench again")
        self.plot = Distribution()
        self.plot.setAccessibleName(f"distribution of {name}")
        self.plot.moved.connect(lambda low, high: self.spread.move_limit(name, low, high))
        self.facts = Label()
        self.facts.setFont(figure_font(10))
        self.facts.setProperty("quiet", True)
        self._drawn: tuple | None = None
        self._role = ""
        self._lay_out()

    def _lay_out(self) -> None:
        chips = QHBoxLayout()
        chips.setSpacing(2)
        for button in (self.counts, self.keep, self.back):
            chips.addWidget(button)
        chips.addStretch()
        left = QVBoxLayout()
        left.setSpacing(1)
        for label in (self.title, self.figure, self.cost):
            left.addWidget(label)
        left.addStretch()
        left.addLayout(chips)
        side = QWidget()
        side.setLayout(left)
        left.setContentsMargins(0, 0, 0, 0)
        side.setFixedWidth(182)
        self.facts.setFixedWidth(104)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(10, 6, 8, 6)
        layout.addWidget(side)
        layout.addWidget(self.plot, 1)
        layout.addWidget(self.facts)

    def show_samples(self) -> None:
        """Takes values, limits and yields as they are."""
        samples, judged = self.spread.samples, self.spread.judged
        if samples is None or self.name not in samples.values:
            return
        unit = samples.units.get(self.name, "")
        low, high = judged.limits.get(self.name) or self.spread.moved.get(self.name) or self._own()
        if (
            self._drawn is None or self._drawn[0] is not samples or self._drawn[1:] != (low, high)
        ):  # while a limit is dragged the other strips only say their yields anew
            self._drawn = samples, low, high
            values = worst_of(samples.values[self.name], low, high)
            self.plot.show_values(values, low, high, unit)
            self._say_facts(values, low, high, unit)
        limited = math.isfinite(low) or math.isfinite(high)
        counted = self.name in judged.passing
        if counted:
            self.figure.setText(share_text(judged.of(self.name)))
            without = judged.without(self.name)
            gain = without.share - judged.total.share
            self.cost.setText(f"without it {percent(without.share)} %" if gain > 0 else "costs nothing")
        else:
            self.figure.setText("left out" if limited else "no limit")
            self.cost.setText("")
        role = "ember_ink" if counted and judged.of(self.name).share < judged.total.share + 1e-12 else "ink"
        if role != self._role:
            self._role = role
            self.restyle()
        self.counts.setVisible(limited)
        self.counts.setChecked(counted)
        moved = self.name in self.spread.moved
        self.keep.setVisible(moved)
        self.back.setVisible(moved)

    def restyle(self) -> None:
        """Follows the theme."""
        self.figure.setStyleSheet(f"color: {theme.color(self._role or 'ink').name()}")
        self.plot.update()

    def _own(self) -> tuple[float, float]:
        spec = self._specification
        return limits_of(spec, self.spread.samples) if spec is not None else (-math.inf, math.inf)

    @property
    def _specification(self) -> Specification | None:
        bench = self.desk.bench
        return next((one for one in bench.specifications if one.reading == self.name), None) if bench else None

    def _say_facts(self, values: np.ndarray, low: float, high: float, unit: str) -> None:
        found = spread_of(values, low, high)
        lines = [f"mean {write(found.mean, unit, 4)}", f"σ {write(found.sigma, unit, 3)}", f"skew {found.skew:.2f}"]
        if math.isfinite(found.cpk):
            lines.append(f"Cpk {found.cpk:.2f}")
        ends = [end for end, limit in ((found.low, low), (found.high, high)) if math.isfinite(limit)]
        ends = ends or [found.low, found.high]
        lines.append("99.7 %")
        lines += [f"  {write(end, unit, 4)}" for end in ends]
        if found.missing:
            lines.append(f"{found.missing} missing")
        self.facts.setText("\n".join(lines).replace("-", "−"))

    def _toggle(self) -> None:
        self.spread.leave_out(self.name, self.name in self.spread.judged.passing)

    def _keep(self) -> None:
        """The bench's limits are these now."""
        low, high = self.spread.moved.get(self.name, (-math.inf, math.inf))
        texts = {
            end: field_text(float(f"{value:.4g}")) if math.isfinite(value) else ""
            for end, value in (("low", low), ("high", high))
        }
        old, bench = self._specification, self.desk.bench
        self.spread.moved.pop(self.name, None)
        if old is None:
            new = replace(bench, specifications=(*bench.specifications, Specification(self.name, **texts)))
            self.desk.change_bench(new, f"limits of {self.name}")
        else:
            self.desk.change_limit(replace(old, **texts), "")


def worst_of(table: np.ndarray, low: float, high: float) -> np.ndarray:
    """Of values (samples, rows) the one of each sample that is nearest to failing."""
    if table.shape[1] == 1:
        return table[:, 0]
    margins = np.minimum(table - low, high - table) if math.isfinite(low) or math.isfinite(high) else np.abs(table)
    margins = np.where(np.isfinite(margins), margins, -np.inf)
    return table[np.arange(len(table)), np.argmin(margins, axis=1)]


class YieldPage(QScrollArea):
    """All readings, those with limits first."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.strips: list[ReadingStrip] = []
        self.quantiles = False
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        body = QWidget()
        self.column = QVBoxLayout(body)
        self.column.setContentsMargins(10, 4, 10, 8)
        self.column.setSpacing(6)
        self.setWidget(body)
        desk.spread.samples_changed.connect(self._build)
        desk.spread.judged_changed.connect(self._show)
        theme.changed.connect(self._restyle)
        self._build()

    def show_quantiles(self, wanted: bool) -> None:
        """Probability plots in the place of histograms."""
        self.quantiles = wanted
        for strip in self.strips:
            strip.plot.quantiles = wanted
            strip.plot.update()

    def _build(self) -> None:
        samples, bench = self.desk.spread.samples, self.desk.bench
        names = list(samples.values) if samples is not None else []
        limited = [one.reading for one in bench.specifications] if bench is not None else []
        names.sort(key=lambda name: (name not in limited, limited.index(name) if name in limited else 0))
        if [strip.name for strip in self.strips] != names:
            clear(self.column)
            self.strips = [ReadingStrip(self.desk, name) for name in names]
            for strip in self.strips:
                strip.plot.quantiles = self.quantiles
                self.column.addWidget(strip)
            self.column.addStretch()
        self._show()

    def _restyle(self) -> None:
        for strip in self.strips:
            strip.restyle()

    def _show(self) -> None:
        for strip in self.strips:
            strip.show_samples()
