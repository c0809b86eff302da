"""How warm the die is at the operating point of the drawing, worked out while it is shown."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from hearthline.app.state.worker import NewestWins
from hearthline.core.thermal.die import Plan
from hearthline.core.thermal.picture import Picture, picture


@dataclass(frozen=True)
class _Question:
    plan: Plan
    powers: np.ndarray
    celsius: float

    def __call__(self, report: object) -> Picture:
        return picture(self.plan, self.powers, self.celsius)


class DieState(QObject):
    """`found` is the last picture."""

    changed = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.found: Picture | None = None
        self._worker = NewestWins("die", self)
        self._worker.answered.connect(self._take)

    @property
    def busy(self) -> bool:
        """Whether a picture is still to come."""
        return self._worker.busy

    def ask(self, plan: Plan, powers: np.ndarray, celsius: float) -> None:
        """Of powers [W] of the parts (parts,) about a temperature [°C]."""
        self._worker.ask(_Question(plan, powers, celsius))

    def close(self) -> None:
        """Ends the thread."""
        self._worker.close()

    def _take(self, found: Picture) -> None:
        self.found = found
        self.changed.emit()
