"""From the data of a run to its readings and verdicts; needs no engine, so that stored runs open at once."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from hearthline.core.bench.bench import Bench
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.bench.verdict import Verdict, judge
from hearthline.core.data.dataset import Dataset
from hearthline.core.data.formula import Formula
from hearthline.core.engine.outcome import Outcome
from hearthline.core.errors import HearthlineError


@dataclass(frozen=True)
class Run:
    """A finished or stopped run: its snapshot, its data, and a line for each help or failure on the way."""

    snapshot: Snapshot
    dataset: Dataset
    log: tuple[str, ...] = ()
    seconds: float = 0.0
    failures: Mapping[int, str] = field(default_factory=dict)

    @property
    def complete(self) -> bool:
        """Whether every point of every lane was tried."""
        unfinished = (self.dataset.outcomes == Outcome.NOT_RUN) | (self.dataset.outcomes == Outcome.STOPPED)
        return not unfinished.any()


def read_all(bench: Bench, dataset: Dataset) -> dict[str, np.ndarray]:
    """Every reading (lanes,) by name; NaN in all lanes for one whose formula does not fit the run's curves."""
    values = {}
    for reading in bench.readings:
        try:
            values[reading.name] = Formula.parse(reading.formula).number(dataset)
        except HearthlineError:
            values[reading.name] = np.full(dataset.lanes, np.nan)
    return values


def judge_all(bench: Bench, values: Mapping[str, np.ndarray]) -> dict[str, Verdict]:
    """The verdict of each specification, by reading. Raises QuantityError for limits that are no numbers."""
    units = {reading.name: reading.unit for reading in bench.readings}
    return {
        spec.reading: judge(spec, units.get(spec.reading, ""), values.get(spec.reading))
        for spec in bench.specifications
    }


def describe_lane(dataset: Dataset, lane: int) -> str:
    """The condition of a lane in words: `fs −40 °C 1.08 V`."""
    words = [str(dataset.conditions["corner"][lane])]
    words.append(f"{dataset.conditions['temperature'][lane]:g} °C".replace("-", "−"))
    words += [f"{v[lane]:g} V" for k, v in dataset.conditions.items() if k not in ("corner", "temperature")]
    return " ".join(words)
