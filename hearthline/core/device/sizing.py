"""The width for a wanted current: by the square law, and by the full model, and how far they differ."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from hearthline.core.device.subject import DUT, Subject
from hearthline.core.engine.dc import operating_point
from hearthline.core.engine.lanes import Lanes
from hearthline.core.errors import CircuitError

MOST_STEPS = 12


@dataclass(frozen=True)
class Sizing:
    """Widths [m] by both ways, the current that the model gives at the square law's width [A], the gate voltage [V], and the
    gain factor that the square law was used with [A/V²]."""

    square_law: float
    full_model: float
    current_of_square_law: float
    vgs: float
    gain_factor: float

    @property
    def difference(self) -> float:
        """How far the square law's device is off in current [%]."""
        return 100.0 * (self.current_of_square_law / self.wanted - 1.0)

    wanted: float = math.nan


class _Points:
    """Operating points of a transistor in saturation for lists of widths and gate voltages."""

    def __init__(self, subject: Subject, corner: str, celsius: float, vds: float):
        self.subject, self.corner, self.celsius, self.vds = subject, corner, celsius, vds

    def at(self, width: float, vgs: np.ndarray) -> dict[str, np.ndarray]:
        """Readouts (vgs,) of a width [m] at gate voltages [V], those of an n-type device."""
        subject = self.subject.with_values(w=repr(float(width)))
        p = subject.polarity
        lanes = Lanes((self.corner,), np.array([self.celsius])).spread(**{
            "source:vd": np.array([p * self.vds]), "source:vg": p * np.atleast_1d(vgs),
        })  # fmt: skip
        found = operating_point(subject.netlist(), subject.models, lanes).dataset
        return {label.removeprefix(f"{DUT}."): values[:, 0] for label, values in found.curves.items()}


def size_by_overdrive(subject: Subject, current: float, overdrive: float, corner: str, celsius: float = 27.0,
                      vds: float | None = None) -> Sizing:  # fmt: skip
    """The width for a current [A] at an overdrive [V] above the model's own threshold.

    The square law I = K/2 · W/L · Vov² is used with the K that the model has at a small overdrive of a long, wide
    device's kind: its own gm² / (2·id·W/L) at that overdrive. Raises CircuitError for what cannot be.
    """
    if current <= 0 or overdrive <= 0:
        raise CircuitError("current and overdrive must be above 0")
    length, start = subject.number("l"), subject.number("w")
    points = _Points(subject, corner, celsius, vds if vds is not None else max(0.5 * subject.supply, overdrive + 0.2))
    threshold = _threshold(points, start)
    vgs = threshold + overdrive
    at = points.at(start, np.array([vgs]))
    factor = _gain_factor(points, start, length, threshold)
    square = 2 * current / (factor * overdrive**2) * length
    width = start * current / abs(at["id"][0])
    for _ in range(MOST_STEPS):
        found = abs(points.at(width, np.array([vgs]))["id"][0])
        if abs(found / current - 1) < 1e-6:
            break
        width *= current / found
    off = abs(points.at(square, np.array([vgs]))["id"][0])
    return Sizing(square, width, off, subject.polarity * vgs, factor, current)


def size_by_efficiency(subject: Subject, current: float, efficiency: float, corner: str, celsius: float = 27.0,
                       vds: float | None = None) -> Sizing:  # fmt: skip
    """The width for a current [A] at an efficiency gm/ID [1/V]; the overdrive of the square law is 2/(gm/ID)."""
    if current <= 0 or efficiency <= 0:
        raise CircuitError("current and gm/ID must be above 0")
    length, start = subject.number("l"), subject.number("w")
    points = _Points(subject, corner, celsius, vds if vds is not None else 0.5 * subject.supply)
    gates = np.linspace(-0.2, subject.supply, 281)
    at = points.at(start, gates)
    ratio = at["gm"] / np.abs(at["id"])
    top = int(np.nanargmax(ratio))
    falling = slice(top, None)
    if not ratio[falling].min() <= efficiency <= ratio[top]:
        raise CircuitError(
            f"gm/ID of {efficiency:g} 1/V is out of reach at this length; it goes from {ratio[falling].min():.3g} "
            f"to {ratio[top]:.3g}"
        )
    vgs = float(np.interp(efficiency, ratio[falling][::-1], gates[falling][::-1]))
    found = abs(points.at(start, np.array([vgs]))["id"][0])
    width = start * current / found
    for _ in range(MOST_STEPS):
        now = abs(points.at(width, np.array([vgs]))["id"][0])
        if abs(now / current - 1) < 1e-6:
            break
        width *= current / now
    threshold = _threshold(points, start)
    factor = _gain_factor(points, start, length, threshold)
    overdrive = 2 / efficiency
    square = 2 * current / (factor * overdrive**2) * length
    off = abs(points.at(square, np.array([threshold + overdrive]))["id"][0])
    return Sizing(square, width, off, subject.polarity * vgs, factor, current)


def _threshold(points: _Points, width: float) -> float:
    """The model's own threshold at this drain voltage [V]."""
    return float(abs(points.at(width, np.array([0.5 * points.subject.supply]))["vth"][0]))


def _gain_factor(points: _Points, width: float, length: float, threshold: float) -> float:
    """K of the square law [A/V²] where the model comes nearest to it: the largest d(sqrt id)/d vgs, squared, doubled."""
    gates = threshold + np.linspace(0.02, 0.5, 97)
    root = np.sqrt(np.abs(points.at(width, gates)["id"]))
    return 2 * float(np.max(np.gradient(root, gates))) ** 2 * length / width
