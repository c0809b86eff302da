"""A circuit made passive: every controlled flow off, what is negative taken positive. What is left of each part is a network of
conductances and capacitances between its terminals, inductances, and windings, none of which can make a pole grow.

Of an admittance from one terminal to another, the two entries of the matrix that say it are equal where nothing controls it;
where they differ, the smaller one is what both share, and the rest is controlled. Of the equation of a branch, entries that
mirror those of its current in the sums of currents are the branch itself, and the others control it.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from hearthline.core.elements import ELEMENTS
from hearthline.core.elements.device import DeviceKind
from hearthline.core.engine.module import ModuleKind
from hearthline.core.engine.system import System

SAME = 1e-9
"""Relative difference up to which two entries are one."""


def made_passive(
    system: System, conductances: np.ndarray, capacitances: np.ndarray, mirrored: bool = True
) -> tuple[np.ndarray, np.ndarray]:
    """Conductances and capacitances of all parts, without what is controlled; what is negative is mirrored, or left out. Lines
    and passive parts from files stay."""
    found = conductances.copy(), capacitances.copy()
    for at in system.instance_places:
        kind = at.kind
        if kind.dispersion is not None:
            place = slice(at.conductance, at.conductance + len(kind.conductance))
            if kind.without_gain is not None:
                found[0][place] = kind.without_gain(found[0][place])
            continue
        nets = _nets(kind)
        for values, first, pattern in (
            (found[0], at.conductance, kind.conductance),
            (found[1], at.capacitance, kind.capacitance),
        ):
            place = slice(first, first + len(pattern))
            values[place] = _passive(values[place], pattern, kind.width, nets, _disciplines(kind), mirrored)
    return found


def _nets(kind: DeviceKind | ModuleKind) -> np.ndarray:
    """Which terminals are nets; others are currents of branches, or states."""
    if isinstance(kind, ModuleKind):
        return np.array([one.kind in ("port", "net") for one in kind.module.terminals])
    if any(one.device is kind and one.couples for one in ELEMENTS.values()):
        return np.zeros(kind.width, bool)
    return np.arange(kind.width) < kind.terminals


def _disciplines(kind: DeviceKind | ModuleKind) -> list[str]:
    if isinstance(kind, ModuleKind):
        return [one.discipline for one in kind.module.terminals]
    return ["electrical"] * kind.width


def _passive(
    values: np.ndarray, pattern: tuple[tuple[int, int], ...], width: int, nets: np.ndarray, disciplines: list[str],
    mirrored: bool,
) -> np.ndarray:  # fmt: skip
    """The entries of one part's matrix that are left."""
    matrix = np.zeros((width, width))
    for (row, column), value in zip(pattern, values, strict=True):
        matrix[row, column] += value
    left = np.zeros_like(matrix)
    for a, b in _pairs(width):
        one, other = matrix[a, b], matrix[b, a]
        if nets[a] and nets[b]:
            if disciplines[a] == disciplines[b]:
                left[a, b] = left[b, a] = -min(abs(one), abs(other)) if mirrored or min(one, other) < 0 else 0.0
        elif one and other:
            left[a, b], left[b, a] = one, other
    _diagonal(left, matrix, nets, mirrored)
    given = {pair: k for k, pair in reversed(list(enumerate(pattern)))}
    out = np.zeros(len(values))
    for pair, k in given.items():
        out[k] = left[pair]
    return out


def _pairs(width: int) -> Iterator[tuple[int, int]]:
    return ((a, b) for a in range(width) for b in range(a + 1, width))


def _diagonal(left: np.ndarray, matrix: np.ndarray, nets: np.ndarray, mirrored: bool) -> None:
    """Of a net what its admittances to others sum up to, with that to ground; of a branch its own impedance."""
    inside = np.flatnonzero(nets)
    block = matrix[np.ix_(inside, inside)]
    size = np.abs(block).sum(axis=1) + np.abs(block).sum(axis=0) if len(inside) else np.zeros(0)
    for place, a in enumerate(inside):
        out, back = block[place].sum(), block[:, place].sum()
        to_ground = min(abs(out), abs(back))
        if to_ground < SAME * size[place] or not (mirrored or max(out, back) > 0):
            to_ground = 0.0
        left[a, a] = to_ground - left[a, inside].sum()
    for a in np.flatnonzero(~nets):
        own = matrix[a, a]
        signs = {np.sign(matrix[a, b] * matrix[b, a]) for b in inside} - {0.0}
        left[a, a] = -abs(own) if signs == {1.0} else abs(own) if signs == {-1.0} else own
