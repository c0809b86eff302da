"""The cross-section of coupled lines: layers over a plane of ground, and conductors in them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

COPPER = 5.8e7


class SectionError(ValueError):
    """A cross-section that cannot be: which `section` of its description, which entry of it, and which `key`."""

    def __init__(self, message: str, section: str = "", index: int = 0, key: str = ""):
        super().__init__(message)
        self.section, self.index, self.key = section, index, key


@dataclass(frozen=True)
class Layer:
    """A layer of that height [m], over those before it."""

    height: float
    er: float
    tan_delta: float = 0.0


@dataclass(frozen=True)
class Conductor:
    """A rectangle from its lowest to its highest corner [m], or a circle: middle and radius [m]; a `hollow` one goes round the
    others. What is `ground` is at the same potential as the plane."""

    low: tuple[float, float] = (0.0, 0.0)
    high: tuple[float, float] = (0.0, 0.0)
    radius: float = 0.0
    hollow: bool = False
    ground: bool = False
    conductivity: float = COPPER

    @property
    def round(self) -> bool:
        """Whether it is a circle, whose middle is `low`."""
        return self.radius > 0.0

    @property
    def area(self) -> float:
        """That current flows through [m²]."""
        if self.round:
            return float(np.pi * self.radius**2)
        return (self.high[0] - self.low[0]) * (self.high[1] - self.low[1])


@dataclass(frozen=True)
class Section:
    """Layers from the plane of ground at y = 0 up, air over them; the plane's conductivity [S/m], and the lines' length [m]."""

    conductors: tuple[Conductor, ...]
    layers: tuple[Layer, ...] = ()
    plane: float = COPPER
    length: float = 1.0

    @property
    def lines(self) -> tuple[int, ...]:
        """Which conductors carry waves."""
        return tuple(k for k, one in enumerate(self.conductors) if not one.ground)

    @property
    def tops(self) -> np.ndarray:
        """Where layers end [m]."""
        return np.cumsum([one.height for one in self.layers])

    def permittivity(self, y: np.ndarray, lossy: bool) -> np.ndarray:
        """Relative, at heights [m]; complex with losses."""
        values = [one.er * (1.0 - 1j * one.tan_delta * lossy) for one in self.layers] + [1.0 + 0j]
        found = np.array(values)[np.searchsorted(self.tops, y, side="right")]
        return found if lossy else found.real
