"""The columns that say at which condition a row was computed."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from hearthline.core.bench.bench import Bench
from hearthline.core.data.dataset import AROUND, Dataset


def crossed(bench: Bench) -> list[str]:
    """The parameters that a run goes through: those of the grid, not those of the point alone."""
    picked = (name for one in bench.grid.picked for name in one.parameters)
    return list(dict.fromkeys([*bench.grid.parameters, *picked]))


def plain_columns(bench: Bench) -> list[str]:
    """What conditions are told apart by: corner, temperature, parameters of the grid, surroundings where there are any."""
    return ["corner", "temperature", *crossed(bench), *([AROUND] if bench.surroundings else [])]


def nested_in(bench: Bench, name: str, data: Dataset) -> str:
    """What an analysis was made within, as its dataset calls it; nothing where it was not."""
    analysis = next((one for one in bench.analyses if one.name == name), None)
    said = analysis.settings.get("within", "") if analysis else ""
    return next((key for key in data.conditions if key.lower() == said.lower()), "") if said else ""


def condition_columns(bench: Bench, name: str, data: Dataset) -> Mapping[str, np.ndarray]:
    """Corner, temperature, each parameter of the grid, surroundings, then what the analysis was made within: (lanes,) each."""
    keys = plain_columns(bench)
    if (inner := nested_in(bench, name, data)) and inner not in keys:
        keys.append(inner)
    return {key: data.conditions[key] for key in keys if key in data.conditions}


def at_lane(bench: Bench, name: str, data: Dataset, lane: int) -> dict[str, object]:
    """The condition of a lane as plain values."""
    return {key: values[lane].item() for key, values in condition_columns(bench, name, data).items()}
