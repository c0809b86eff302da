"""Results as labelled arrays: quantities over lanes (conditions) and one axis, with names and units.

In memory this is light, because the window must start fast; `to_xarray` gives the Dataset that a notebook wants, and
the result files are netCDF-4 which xarray opens with one line.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from hearthline.core.errors import HearthlineError
from hearthline.core.outcome import Outcome

AROUND = "surroundings"
"""What a condition's surroundings are called among its columns, where there are several."""


@dataclass(frozen=True)
class Dataset:
    """What an analysis gave.

    `curves` maps labels (`V(out)`, `m1.gm`) to arrays (lanes, points), complex for small signals; `axis` is the swept
    quantity's name, with its values (points,), or (lanes, points) where each lane has its own, NaN behind its last.
    `conditions` maps `corner`, `temperature`, parameters, `surroundings`, and what is swept outside of the axis, to (lanes,);
    `per_condition` lanes in a row belong to one condition of the bench. `wave` is the same over a period of time, of what
    repeats.
    """

    kind: str
    axis: str
    axis_unit: str
    points: np.ndarray
    curves: Mapping[str, np.ndarray]
    units: Mapping[str, str]
    conditions: Mapping[str, np.ndarray]
    outcomes: np.ndarray
    attributes: Mapping[str, object] = field(default_factory=dict)
    per_condition: int = 1
    wave: Dataset | None = None

    @property
    def lanes(self) -> int:
        """How many there are."""
        return self.outcomes.shape[0]

    @property
    def width(self) -> int:
        """Points of a lane, of the longest where they differ."""
        return self.points.shape[-1]

    @property
    def ragged(self) -> bool:
        """Whether each lane has points of its own."""
        return self.points.ndim == 2

    def x(self, lane: int) -> np.ndarray:
        """The points of a lane."""
        if not self.ragged:
            return self.points
        row = self.points[lane]
        return row[: np.count_nonzero(np.isfinite(row))]

    @property
    def span(self) -> tuple[float, float]:
        """First and last value of the axis, over all lanes."""
        if not self.points.size:
            return 0.0, 0.0
        return float(np.nanmin(self.points)), float(np.nanmax(self.points))

    @property
    def complete(self) -> np.ndarray:
        """Whether each lane (lanes,) came to its end."""
        return (self.outcomes == Outcome.SOLVED).all(axis=1)

    def curve(self, label: str) -> np.ndarray:
        """The quantity (lanes, points); raises HearthlineError listing what there is."""
        key = label.replace(" ", "")
        if key not in self.curves:
            known = ", ".join(list(self.curves)[:12])
            raise HearthlineError(f"there is no curve '{label}' in this run; it has {known}")
        return self.curves[key]

    def to_xarray(self):
        """The same as an xarray Dataset with dimensions `lane` and the axis, or `step` where each lane has its own."""
        import xarray  # late: it brings pandas, most of a second

        along = "step" if self.ragged else self.axis
        dims = ("lane", along)
        data = {name: (dims, values, {"units": self.units.get(name, "")}) for name, values in self.curves.items()}
        data["outcome"] = (dims, self.outcomes)
        coords = {self.axis: (dims if self.ragged else self.axis, self.points, {"units": self.axis_unit})}
        coords |= {name: ("lane", values) for name, values in self.conditions.items()}
        return xarray.Dataset(data, coords, dict(self.attributes))

    def to_pandas(self):
        """The same as a pandas DataFrame: a row a point, with its conditions, the axis, and every curve; points without a
        solution are left out."""
        import pandas

        rows = self.solved_rows
        lane = rows // self.width
        found = {name: values[lane] for name, values in self.conditions.items()}
        if self.axis != "point":
            found[self.axis] = np.broadcast_to(self.points, self.outcomes.shape).reshape(-1)[rows]
        return pandas.DataFrame(found | {label: values.reshape(-1)[rows] for label, values in self.curves.items()})

    @property
    def solved_rows(self) -> np.ndarray:
        """Indices of the points that have a solution, lane after lane."""
        solved = self.outcomes == Outcome.SOLVED
        return np.flatnonzero((solved & np.isfinite(self.points) if self.ragged else solved).reshape(-1))


def joined(parts: list[Dataset], order: np.ndarray | None = None) -> Dataset:
    """Lanes of several datasets of one analysis in one, all in a row, or as `order` (lanes,) picks them from that.

    Where points differ each lane keeps its own. Curves that not all of them have are left out.
    """
    first = parts[0]
    ragged = any(part.ragged or not np.array_equal(part.points, first.points) for part in parts)
    width = max(part.width for part in parts)

    def stack(arrays: list[np.ndarray], fill: float) -> np.ndarray:
        padded = [a if a.shape[1] == width else np.pad(a, ((0, 0), (0, width - a.shape[1])), constant_values=fill)
                  for a in arrays]  # fmt: skip
        return picked(padded)

    def picked(arrays: list[np.ndarray]) -> np.ndarray:
        together = np.concatenate(arrays) if len(arrays) > 1 else arrays[0]
        return together if order is None else together[order]

    points = [np.broadcast_to(part.points, part.outcomes.shape) for part in parts]
    labels = [label for label in first.curves if all(label in part.curves for part in parts)]
    return replace(
        first,
        points=stack([p.astype(float) for p in points], np.nan) if ragged else first.points,
        curves={label: stack([part.curves[label] for part in parts], np.nan) for label in labels},
        conditions={name: picked([part.conditions[name] for part in parts]) for name in first.conditions},
        outcomes=stack([part.outcomes for part in parts], Outcome.SOLVED),
        wave=_joined_waves(parts, order),
    )  # fmt: skip


def _joined_waves(parts: list[Dataset], order: np.ndarray | None) -> Dataset | None:
    waves = [part.wave for part in parts if part.wave is not None]
    return joined(waves, order) if len(waves) == len(parts) else None
