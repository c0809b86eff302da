"""When Newton is done with unknowns along a period."""

from __future__ import annotations

import numpy as np

from hearthline.core.engine.periodic.circuit import LaneCircuit

ROUNDING = 1e-13
"""Share of the largest current under which a step of a branch current means nothing."""
CERTAIN = 0.1
"""Of its tolerance that the next step may be expected to be, to be left out."""


class Ends:
    """When Newton is done: each unknown has moved by less than its tolerance, or is certain to with the next step."""

    def __init__(self, circuit: LaneCircuit):
        self.limits, nets = circuit.tolerances, np.arange(circuit.size) < circuit.system.net_count
        self.nets = nets
        self.floor = np.where(nets, self.limits.vntol, self.limits.abstol)
        self.moved = np.full(circuit.size, np.inf)
        self.distance, self.shrunk = np.inf, 0.0

    def weights(self, x: np.ndarray) -> np.ndarray:
        """The tolerance of each unknown (unknowns,), at phasors x."""
        return self.limits.reltol * np.abs(x).max(axis=0) + self.floor

    def distance_of(self, step: np.ndarray, x: np.ndarray, largest: float) -> float:
        """How many times its tolerance a step to x moves an unknown at most, where currents are up to `largest`."""
        self.moved = np.abs(step).max(axis=0)
        rounding = np.where(self.nets, 0.0, ROUNDING * largest)
        return float((self.moved / (self.weights(x) + rounding)).max())

    def small(self, step: np.ndarray, x: np.ndarray) -> bool:
        """Whether a step is so small that rounding decides where it leads."""
        return self.distance_of(step, x, 0.0) <= 10.0

    def reached(self, now: float, limited: int, newton: bool) -> bool:
        """Whether this was the last step, which moved by `now` and with which so many devices were limited. With a matrix of
        its own the next one would be as much smaller again, squared; with one that is kept, as much smaller again."""
        before, self.distance = self.distance, now
        self.shrunk = now / before if before < np.inf else 0.0
        ahead = now * (self.shrunk**2 if newton else self.shrunk / max(1.0 - self.shrunk, 1e-3))
        certain = now < before < np.inf and ahead <= CERTAIN
        known = newton or before < np.inf
        return not limited and ((now <= 1.0 and known) or certain)
