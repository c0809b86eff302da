"""Lines of a mesh that meets every face, finer where something small is."""

from __future__ import annotations

import numpy as np

from hearthline.core.constants import LIGHT
from hearthline.core.fields.box import Housing, HousingError

A_WAVELENGTH, A_THING = 20, 2
"""Cells that there are at least, in the shortest wavelength and across a thing."""
MOST_CELLS = 400_000
GROWTH, SAMPLES = 0.7, 400
"""By how much of their distance from a small cell others may be larger: neighbours then differ by a factor of two at most; and
places at which that is looked at."""
COARSEST = 3.0
"""Cells in a wavelength that a sweep needs at least."""

MEASURED, SECONDS, GIGABYTES = 14_400, 7.0, 0.45
"""Cells of a box, and what ten resonances of it took."""

Lines = tuple[np.ndarray, np.ndarray, np.ndarray]


def mesh_lines(housing: Housing, finer: float = 1.0) -> Lines:
    """Along each axis [m], so many times `finer` than is said or usual. Raises HousingError for more cells than there may be,
    and for a sweep beyond what they resolve."""
    largest = (housing.mesh or _usual(housing)) / finer
    lines = tuple(_along(housing, axis, largest, A_THING * finer) for axis in range(3))
    cells = int(np.prod([len(one) - 1 for one in lines]))
    if cells > MOST_CELLS:
        larger = f"make mesh larger than {1e3 * largest:.3g} mm"
        message = f"the mesh would have {cells} cells ({effort(cells)}), and there may be {MOST_CELLS}; {larger}"
        raise HousingError(message, "", 0, "mesh" if housing.mesh else "size")
    if housing.span is not None:
        widest = max(float(np.diff(one).max()) for one in lines)
        top = LIGHT / (COARSEST * widest * _slowest(housing))
        if housing.span.high > top:
            message = f"cells of up to {1e3 * widest:.3g} mm resolve frequencies up to {top:.4g} Hz; make mesh smaller"
            raise HousingError(message, "sweep", 0, "to")
    return lines[0], lines[1], lines[2]


def effort(cells: int) -> str:
    """How long resonances of so many cells take, about, and how much memory: by the square, and by the power of 4/3."""
    share = cells / MEASURED
    seconds, gigabytes = SECONDS * share**2, GIGABYTES * share ** (4.0 / 3.0)
    long = f"{seconds:.1g} s" if seconds < 10 else f"{seconds:.0f} s" if seconds < 120 else f"{seconds / 60:.0f} min"
    return f"about {long} and {gigabytes:.2g} GB"


def _slowest(housing: Housing) -> float:
    """By how much waves are slower in some material."""
    return max((float(np.sqrt(one.er * one.mur)) for one in housing.things if not one.metal), default=1.0)


def _usual(housing: Housing) -> float:
    """A twentieth of the shortest wavelength."""
    highest = float(housing.bare_frequencies(housing.modes)[-1])
    shortest = LIGHT / highest
    if housing.span is not None:
        shortest = min(shortest, LIGHT / (housing.span.high * _slowest(housing)))
    return shortest / A_WAVELENGTH


def _along(housing: Housing, axis: int, largest: float, a_thing: float) -> np.ndarray:
    size = housing.size[axis]
    fixed = {0.0, size}
    for one in housing.things:
        fixed |= {one.low[axis], one.high[axis]}
    for port in housing.ports:
        fixed |= {port.begin[axis], port.end[axis]}
    corners: list[float] = []
    for place in sorted(fixed):
        if not corners or place - corners[-1] > 1e-9 * size:
            corners.append(place)
    steps = np.full(len(corners) - 1, largest)
    for one in housing.things:
        inside = [
            k
            for k in range(len(steps))
            if one.low[axis] <= corners[k] + 1e-12 and corners[k + 1] <= one.high[axis] + 1e-12
        ]
        if len(inside) == 1:  # where others cut it, it has as many cells already
            steps[inside[0]] = min(steps[inside[0]], (one.high[axis] - one.low[axis]) / a_thing)
    return _graded(np.array(corners), steps)


def _graded(corners: np.ndarray, steps: np.ndarray) -> np.ndarray:
    """Lines at all corners and between them, as near as `steps` say; beside small cells others grow with their distance."""
    lengths = np.diff(corners)
    cells = np.maximum(1, np.ceil(lengths / steps - 1e-9))
    sizes, found = lengths / cells, [corners[:1]]
    for a, b, own in zip(corners[:-1], corners[1:], sizes, strict=True):
        x = np.linspace(a, b, SAMPLES)
        away = np.maximum(corners[:-1, None] - x, x - corners[1:, None]).clip(0.0)
        size = np.minimum((sizes[:, None] + GROWTH * away).min(axis=0), own)
        passed = np.concatenate([[0.0], np.cumsum(0.5 * (1.0 / size[1:] + 1.0 / size[:-1]) * np.diff(x))])
        count = max(1, int(np.ceil(passed[-1] - 1e-6)))
        inner = np.interp(np.arange(1, count) * passed[-1] / count, passed, x)
        found.append(np.append(inner, b))
    return np.concatenate(found)
