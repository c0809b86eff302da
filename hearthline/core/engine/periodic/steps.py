"""Steps of Newton on a balance with a matrix that is kept."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.compiled.codes import Words
from hearthline.core.engine.kernels.turn import TURN, Turn, missing_at, turned
from hearthline.core.engine.periodic.circuit import Along, LaneCircuit
from hearthline.core.engine.periodic.ends import Ends
from hearthline.core.engine.periodic.matrix import Jacobian
from hearthline.core.engine.periodic.mixing import Mixing


@dataclass(frozen=True)
class Equations:
    """Of a balance: for derivatives in time that multiply by `s` (products,) [1/s], with `sources` (products, unknowns), and
    what disperses by `rows` and `columns` with its `gains` (products, entries)."""

    s: np.ndarray
    sources: np.ndarray
    rows: np.ndarray
    columns: np.ndarray
    gains: np.ndarray

    def missing(self, x: np.ndarray, along: Along) -> np.ndarray:
        """What is left of them at phasors x (products, unknowns)."""
        found = np.empty_like(x)
        missing_at(self.sources, self.s, along.both, self.rows, self.columns, self.gains, x, found)
        return found


def equations(circuit: LaneCircuit, frequencies: np.ndarray, sources: np.ndarray) -> Equations:
    """Of a circuit, for products at frequencies [Hz]."""
    entries, gains = circuit.dispersion(frequencies)
    rows, columns = circuit.rows[entries], circuit.columns[entries]
    return Equations(
        2j * np.pi * frequencies, np.ascontiguousarray(sources), rows, columns, np.ascontiguousarray(gains)
    )  # fmt: skip


class Steps:
    """With one matrix, from phasors x on; `distance` is how many times its tolerance the last one moved an unknown at most."""

    def __init__(self, matrix: Jacobian, wanted: Equations, ends: Ends, x: np.ndarray):
        self.matrix, self.wanted, self.ends, self.distance = matrix, wanted, ends, np.inf
        self._mixing = Mixing(ends.weights(x), len(x))
        self._turn = None if matrix.large else self._words()

    def _words(self) -> Words:
        wanted = self.wanted
        turn = Turn(
            self.matrix.linear, self._mixing.past, wanted.sources, wanted.rows, wanted.columns, wanted.gains
        )  # fmt: skip
        return Words.of(TURN, turn)

    def taken(self, x: np.ndarray, along: Along) -> np.ndarray:
        """Where a step leads from phasors x. Raises LinAlgError where there is none."""
        step, found = self._turned(x, along) if self._turn is not None else self._iterated(x, along)
        if not np.isfinite(step).all():
            raise np.linalg.LinAlgError("a step is not a number")
        self.distance = self.ends.distance_of(step, found, float(np.abs(along.flows).max()))
        return found

    def _turned(self, x: np.ndarray, along: Along) -> tuple[np.ndarray, np.ndarray]:
        step, found = np.empty((2, *x.shape), complex)
        turned(self._turn, self._mixing.count, along.both, x, along.limited, step, found)
        self._mixing.count += not along.limited
        return step, found

    def _iterated(self, x: np.ndarray, along: Along) -> tuple[np.ndarray, np.ndarray]:
        step = self.matrix.solve(self.wanted.missing(x, along))
        return step, x + (step if along.limited else self._mixing.mixed(x, step))
