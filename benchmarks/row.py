"""One row of the table, and how a duration is taken."""

from __future__ import annotations

import hashlib
import statistics
import time
from collections.abc import Callable
from dataclasses import dataclass


class Measured(float):
    """A duration [s] that was taken several times: `spread` is how far its repeats lie apart, as a share of it (half of the
    distance of the quartiles, of ratios to the floor where there is one)."""

    spread: float = 0.0

    @classmethod
    def of(cls, value: float, repeats: list[float]) -> Measured:
        """The value that counts, and all that were taken."""
        made = cls(value)
        if len(repeats) > 2:
            low, middle, high = statistics.quantiles(repeats, n=4)
            made.spread = (high - low) / 2.0 / middle if middle else 0.0
        return made


@dataclass(frozen=True)
class Row:
    """A figure [s], what it is held against [s], and the ratio that is wanted."""

    figure: str
    ours: float
    floor: float
    target: float
    against: str
    unit: str = "s"

    @property
    def ratio(self) -> float:
        """Ours over the floor."""
        return self.ours / self.floor

    @property
    def spread(self) -> float:
        """Of its repeats, 0 where it was taken once."""
        return getattr(self.ours, "spread", 0.0)


def best(action: Callable[[], object], times: int = 5) -> Measured:
    """The shortest of several runs [s]: what the machine can do when nothing else disturbs it."""
    taken = [timed(action) for _ in range(times)]
    return Measured.of(min(taken), taken)


def timed(action: Callable[[], object]) -> float:
    """How long one call takes [s]."""
    begin = time.perf_counter()
    action()
    return time.perf_counter() - begin


def paired(ours: Callable[[], object], floor: Callable[[], object], times: int = 9) -> tuple[Measured, float]:
    """Both in turn, so that a drift of the machine hits both; the pair with the middle ratio."""
    pairs = [(timed(ours), timed(floor)) for _ in range(times)]
    middle = sorted(pairs, key=lambda pair: pair[0] / pair[1])[times // 2]
    return Measured.of(middle[0], [a / b for a, b in pairs]), middle[1]


def machine_state() -> float:
    """How long the machine takes for a fixed piece of work [s]: it has a fast and a slow state."""
    data = bytes(1 << 22)
    return min(timed(lambda: hashlib.sha256(data).digest()) for _ in range(7))


def write(seconds: float, unit: str = "s") -> str:
    """A duration in the unit that reads best, or a number in its unit."""
    if unit != "s":
        return f"{seconds:.3g} {unit}"
    for unit, size in (("s", 1.0), ("ms", 1e-3), ("µs", 1e-6)):
        if seconds >= size:
            return f"{seconds / size:.3g} {unit}"
    return f"{seconds / 1e-9:.3g} ns"
