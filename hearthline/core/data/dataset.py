"""Results as labelled arrays: quantities over lanes (conditions) and one axis, with names and units.

In memory this is light, because the window must start fast; `to_xarray` gives the Dataset that a notebook wants, and
the result files are netCDF-4 which xarray opens with one line.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from hearthline.core.errors import HearthlineError


@dataclass(frozen=True)
class Dataset:
    """What an analysis gave.

    `curves` maps labels (`V(out)`, `m1.gm`) to arrays (lanes, points); `axis` is the swept quantity's name, with its
    values (points,); `conditions` maps `corner`, `temperature` and parameters to arrays (lanes,).
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

    @property
    def lanes(self) -> int:
        """How many conditions there are."""
        return self.outcomes.shape[0]

    def curve(self, label: str) -> np.ndarray:
        """The quantity (lanes, points); raises HearthlineError listing what there is."""
        key = label.replace(" ", "")
        if key not in self.curves:
            known = ", ".join(list(self.curves)[:12])
            raise HearthlineError(f"there is no curve '{label}' in this run; it has {known}")
        return self.curves[key]

    def to_xarray(self):
        """The same as an xarray Dataset with dimensions `lane` and the axis."""
        import xarray  # late: it brings pandas, most of a second

        dims = ("lane", self.axis)
        data = {name: (dims, values, {"units": self.units.get(name, "")}) for name, values in self.curves.items()}
        data["outcome"] = (dims, self.outcomes)
        coords = {self.axis: (self.axis, self.points, {"units": self.axis_unit})}
        coords |= {name: ("lane", values) for name, values in self.conditions.items()}
        return xarray.Dataset(data, coords, dict(self.attributes))
