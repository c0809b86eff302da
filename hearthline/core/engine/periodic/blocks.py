"""Y: the part of a linearised balance that mixes nothing, one matrix for each product or sideband."""

from __future__ import annotations

from functools import cached_property

import numpy as np

from hearthline.core.engine.kernels.blocks import blocks_factored, blocks_solved
from hearthline.core.engine.linear.pattern import Pattern
from hearthline.core.engine.linear.sparse import FULL, GOOD, LuRoom, lu_room
from hearthline.core.engine.periodic.circuit import Along, LaneCircuit

USUAL, MORE = 4, 3
"""Entries of the factors for each one of a matrix that there is room for at first, and how many times as many next time."""


class Blocks:
    """Of the slopes' means `along` a period, for derivatives in time that multiply by `s` (blocks,) [1/s], at `frequencies`
    [Hz], which what disperses follows; with a `shunt` [S] from each of the nets `shunted` to ground."""

    def __init__(
        self, circuit: LaneCircuit, along: Along, s: np.ndarray, frequencies: np.ndarray, shunted: tuple[int, ...] = (),
        shunt: float = 0.0,
    ):  # fmt: skip
        self.circuit = circuit
        self.values = along.slopes.mean(axis=0) + s[:, None] * along.capacitances.mean(axis=0)
        entries, gains = circuit.dispersion(frequencies)
        for k, entry in enumerate(entries):
            self.values[:, entry] += gains[:, k]
        if shunt:
            self.values[:, np.asarray(circuit.arrays.diagonal)[1 + np.array(shunted)]] += shunt

    @cached_property
    def factors(self) -> LuRoom:
        """Of all blocks. Raises LinAlgError where one is singular."""
        pattern = self.circuit.pattern
        room = min(USUAL * len(pattern.rows) + pattern.size, pattern.room)
        held = self._room(pattern._replace(room=room))
        while (done := blocks_factored(held, self.values)) == FULL and room < pattern.room:
            room = min(MORE * room, pattern.room)
            held = self._room(pattern._replace(room=room))
        if done == FULL:
            raise np.linalg.LinAlgError("factors of the balance have more entries than there is room for")
        if done != GOOD:
            raise np.linalg.LinAlgError(f"block {done - 1} of the balance is singular")
        return held

    def _room(self, pattern: Pattern) -> LuRoom:
        """For the factors of all blocks, one in a row."""
        one, count = lu_room(pattern, np.complex128), len(self.values)
        index, whole, numbers = (
            np.zeros((count, len(part)), part.dtype) for part in (one.index, one.whole, one.numbers)
        )
        index[0], whole[0] = one.index, one.whole
        return one._replace(index=index, whole=whole, numbers=numbers)

    def solve(self, right: np.ndarray, transposed: bool = False) -> np.ndarray:
        """Y x = b in each block: (blocks, unknowns, cases)."""
        found = np.array(right, complex, order="C")
        blocks_solved(self.factors, transposed, found)
        return found

    def answers(self, rows: np.ndarray, weights: np.ndarray) -> np.ndarray:
        """Of all unknowns to `weights` (rows, cases) in these rows, the same in each block: (blocks, unknowns, cases)."""
        right = np.zeros((len(self.values), self.circuit.size, weights.shape[1]), complex)
        right[:, rows] = weights
        return self.solve(right)
