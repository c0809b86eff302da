"""Lanes: full sets of conditions, as arrays with one entry a lane."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from hearthline.core.constants import REFERENCE_TEMPERATURE


@dataclass(frozen=True)
class Lanes:
    """Conditions of each lane: corner name, temperature [degC], parameters of the root, and values set at sources
    (element name to its direct value [V or A]). `process` is added to parameters of the kit's sections, and `mismatch` to
    parameters of single instances, by (element, parameter); `shares` of their own values are added to values of parts, by
    (part, value). Parts that are `hot` have a temperature of their own [degC], by their flat name or that of a block. `around`
    is what the circuit stands in, empty where that is one for all."""

    corners: tuple[str, ...] = ("",)
    celsius: np.ndarray = field(default_factory=lambda: np.array([REFERENCE_TEMPERATURE]))
    parameters: Mapping[str, np.ndarray] = field(default_factory=dict)
    sources: Mapping[str, np.ndarray] = field(default_factory=dict)
    process: Mapping[str, np.ndarray] = field(default_factory=dict)
    mismatch: Mapping[tuple[str, str], np.ndarray] = field(default_factory=dict)
    shares: Mapping[tuple[str, str], np.ndarray] = field(default_factory=dict)
    hot: Mapping[str, np.ndarray] = field(default_factory=dict)
    around: tuple[str, ...] = ()

    def celsius_of(self, name: str) -> np.ndarray:
        """The temperature of a part in each lane [degC]."""
        return next((values for part, values in self.hot.items() if is_in(name, part)), self.celsius)

    def __len__(self) -> int:
        return len(self.corners)

    def spread(self, **axes: Sequence[float] | np.ndarray) -> Lanes:
        """Every lane at every entry of the axes, the last axis fastest.

        An axis is called `celsius`, `parameter:NAME` or `source:NAME`.
        """
        lanes = self
        for name, values in axes.items():
            lanes = lanes._spread_one(name, np.asarray(values, float))
        return lanes

    def _spread_one(self, axis: str, entries: np.ndarray) -> Lanes:
        times = len(entries)
        corners = tuple(corner for corner in self.corners for _ in range(times))
        around = tuple(one for one in self.around for _ in range(times))
        celsius = np.repeat(self.celsius, times)
        parameters = {name: np.repeat(values, times) for name, values in self.parameters.items()}
        sources = {name: np.repeat(values, times) for name, values in self.sources.items()}
        process = {name: np.repeat(values, times) for name, values in self.process.items()}
        mismatch = {key: np.repeat(values, times) for key, values in self.mismatch.items()}
        shares = {key: np.repeat(values, times) for key, values in self.shares.items()}
        hot = {key: np.repeat(values, times) for key, values in self.hot.items()}
        tiled = np.tile(entries, len(self))
        what, _, name = axis.partition(":")
        if what == "celsius":
            celsius = tiled
        elif what == "parameter":
            parameters[name] = tiled
        else:
            sources[name] = tiled
        return Lanes(corners, celsius, parameters, sources, process, mismatch, shares, hot, around)


def is_in(name: str, part: str) -> bool:
    """Whether an element is a part, or stands in it."""
    return name == part or name.startswith(f"{part}.")


def one_lane(lanes: Lanes, lane: int) -> Lanes:
    """A single one of them."""
    return some_lanes(lanes, np.array([lane]))


def some_lanes(lanes: Lanes, places: np.ndarray) -> Lanes:
    """Those at these places."""

    def only(table: Mapping) -> dict:
        return {key: values[places] for key, values in table.items()}

    return Lanes(
        tuple(lanes.corners[lane] for lane in places), lanes.celsius[places], only(lanes.parameters), only(lanes.sources),
        only(lanes.process), only(lanes.mismatch), only(lanes.shares), only(lanes.hot),
        tuple(lanes.around[lane] for lane in places) if lanes.around else (),
    )  # fmt: skip
