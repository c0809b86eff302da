"""Any two readings or variables of all samples; a click shows that sample on the whole desk."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from hearthline.app.panels.rows import chip, offer, quiet
from hearthline.app.spread.parts_page import unit_of
from hearthline.app.spread.scatter import Scatter
from hearthline.app.state.desk import Desk
from hearthline.app.state.shown_sample import point_of
from hearthline.app.theme.fonts import text_font
from hearthline.app.theme.theme import theme


class ScatterPage(QWidget):
    """Two buttons choose what stands against what."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk, self.spread = desk, desk.spread
        self.names = ["", ""]
        self.cloud = Scatter()
        self.cloud.setAccessibleName("samples against each other")
        self.buttons = [QPushButton(), QPushButton()]
        self.note = quiet("")
        self.failing = chip("next failing", self._next, "shows one failing sample after the other on the whole desk")
        self.back = chip("nominal", self.spread.one.back, "the whole desk shows the nominal circuit again")
        row = QHBoxLayout()
        for k, button in enumerate(self.buttons):
            button.setProperty("plain", True)
            button.setFont(text_font(12, bold=True))
            button.clicked.connect(lambda _=False, k=k: self._offer(k))
            row.addWidget(quiet("against" if k else "", wrap=False))
            row.addWidget(button)
        row.addStretch()
        row.addWidget(self.failing)
        row.addWidget(self.back)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(10, 0, 10, 6)
        layout.addLayout(row)
        layout.addWidget(self.cloud, 1)
        layout.addWidget(self.note)
        self.cloud.chosen.connect(self._choose)
        for signal in (self.spread.samples_changed, self.spread.judged_changed, self.spread.one.changed):
            signal.connect(self.refresh)
        theme.changed.connect(self.cloud.restyle)

    def showEvent(self, event) -> None:
        """Catches up."""
        super().showEvent(event)
        self.refresh()

    def _known(self) -> list[str]:
        samples = self.spread.samples
        return [*samples.values, *samples.names] if samples is not None else []

    def _offer(self, k: int) -> None:
        def chooser(name: str) -> Callable[[], None]:
            def choose() -> None:
                self.names[k] = name
                self.refresh()

            return choose

        offer(self.buttons[k], [(name, chooser(name)) for name in self._known()])

    def _values(self, name: str) -> tuple[np.ndarray, str]:
        samples = self.spread.samples
        if name in samples.values:
            return samples.reading(name), samples.units.get(name, "")
        return samples.numbers(name), unit_of(samples.variables[samples.names.index(name)])

    def refresh(self) -> None:
        """Takes the samples as they are; only while it can be seen."""
        samples, known = self.spread.samples, self._known()
        if not self.isVisible() or samples is None or not samples.count:
            return
        self._usual(known)
        (y, unit_y), (x, unit_x) = self._values(self.names[0]), self._values(self.names[1])
        for button, name in zip(self.buttons, self.names, strict=True):
            button.setText(f"{name} ▾")
        fails = ~self.spread.judged.together
        self.cloud.show_points(x, y, fails, (self.names[1], self.names[0]), (unit_x, unit_y), self.spread.one.number)
        self.failing.setEnabled(bool(fails.any()))
        self.back.setVisible(self.spread.one.point is not None)
        self.note.setText(self._words(x, y))

    def _usual(self, known: list[str]) -> None:
        """The reading that fails most against the variable of the guiltiest part."""
        judged, analysis = self.spread.judged, self.spread.analysis
        if self.names[0] not in known:
            self.names[0] = min(judged.limits, key=lambda name: judged.of(name).share, default=known[0])
        if self.names[1] not in known:
            guilty = [one.variables[0] for one in analysis.ranking] if analysis is not None else []
            self.names[1] = next(iter([*guilty, *[name for name in known if name != self.names[0]], known[0]]))

    def _words(self, x: np.ndarray, y: np.ndarray) -> str:
        known = np.isfinite(x) & np.isfinite(y)
        if self.spread.one.number >= 0:
            k = self.spread.one.number
            why = self.spread.samples.failures.get(k, "")
            failed = [name for name, one in self.spread.judged.passing.items() if not one[k]]
            words = f"sample {k + 1} on the whole desk: " + (f"fails {', '.join(failed)}" if failed else "passes")
            return f"{words}; {why}" if why else words
        if known.sum() < 3 or not x[known].std() or not y[known].std():
            return ""
        return f"correlation {np.corrcoef(x[known], y[known])[0, 1]:.3f}; × fails. A click shows a sample on the whole desk."

    def _next(self) -> None:
        failing = np.flatnonzero(~self.spread.judged.together)
        later = failing[failing > self.spread.one.number]
        self._choose(int(later[0] if len(later) else failing[0]))

    def _choose(self, sample: int) -> None:
        self.spread.one.show(point_of(self.spread.samples, sample), self.desk.snapshot)
