"""From the data of a run to its readings and verdicts; needs no engine, so that stored runs open at once."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from hearthline.core.bench.bench import Bench, Reading, Specification
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.bench.verdict import Verdict, judge
from hearthline.core.data.apply import Mark
from hearthline.core.data.dataset import Dataset
from hearthline.core.data.formula import Formula, Scope
from hearthline.core.data.operand import Operand
from hearthline.core.data.units import unit_of
from hearthline.core.errors import ExpressionError, HearthlineError
from hearthline.core.outcome import Outcome
from hearthline.core.quantity import write
from hearthline.core.spread.pvt import Condition
from hearthline.core.spread.samples import SampleSet

Failures = Mapping[str, Mapping[int, str]]
"""Why lanes failed, by analysis and lane."""


@dataclass(frozen=True)
class Run:
    """A finished or stopped run: its snapshot, a dataset for each analysis, the conditions, and a line for each help or failure
    on the way, `notes` among them, which a person must know of the results. `bases` says what each dataset was made of;
    `samples` are those that were drawn, if any; `cold` are the datasets of a circuit that heats itself where it does not."""

    snapshot: Snapshot | None
    results: Mapping[str, Dataset]
    conditions: tuple[Condition, ...]
    log: tuple[str, ...] = ()
    seconds: float = 0.0
    failures: Failures = field(default_factory=dict)
    bases: Mapping[str, str] = field(default_factory=dict)
    notes: tuple[str, ...] = ()
    samples: SampleSet | None = None
    cold: Mapping[str, Dataset] = field(default_factory=dict)

    @property
    def complete(self) -> bool:
        """Whether every point of every lane was tried."""
        outcomes = [data.outcomes for data in self.results.values()]
        return not any(((o == Outcome.NOT_RUN) | (o == Outcome.STOPPED)).any() for o in outcomes)

    def with_result(
        self, name: str, basis: str, data: Dataset, log: tuple[str, ...], failures: Mapping[int, str], seconds: float,
        notes: tuple[str, ...] = (),
    ) -> Run:  # fmt: skip
        """The run with one more analysis."""
        told = {note.partition(": ")[2] for note in self.notes}
        return replace(
            self,
            results={**self.results, name: data},
            log=(*self.log, *(f"{name}: {line}" for line in dict.fromkeys((*log, *notes)))),
            notes=(*self.notes, *(f"{name}: {note}" for note in notes if note not in told)),
            seconds=self.seconds + seconds,
            failures={**self.failures, name: failures} if failures else self.failures,
            bases={**self.bases, name: basis},
        )

    def failed(self) -> dict[int, str]:
        """Conditions that failed in any analysis, with the first reason."""
        return {k: f"{name}: {self.failures[name][lane]}" for k, (name, lane) in self.failed_at().items()}

    def failed_at(self) -> dict[int, tuple[str, int]]:
        """Conditions that failed, with the analysis and the lane of it that did first."""
        found: dict[int, tuple[str, int]] = {}
        for name, failures in self.failures.items():
            for lane in sorted(failures):
                found.setdefault(lane // self.results[name].per_condition, (name, lane))
        return found


@dataclass(frozen=True)
class Numbers:
    """What a reading gave: `values` (lanes,) of its analysis, its unit, where it was taken, and what was wrong, if anything."""

    values: np.ndarray
    unit: str = ""
    marks: tuple[Mark, ...] = ()
    problem: str = ""


class Reader:
    """Takes the readings of a bench from the datasets of a run; formulas may use each other's results."""

    def __init__(self, bench: Bench, results: Mapping[str, Dataset]):
        self.bench, self.results = bench, results
        self._known: dict[str, Numbers] = {}
        self._busy: list[str] = []

    def all(self) -> dict[str, Numbers]:
        """Every reading by name."""
        return {reading.name: self.read(reading) for reading in self.bench.readings}

    def read(self, reading: Reading) -> Numbers:
        """One reading. Where its formula does not fit, NaN and the problem."""
        if reading.name not in self._known:
            try:
                self._known[reading.name] = self._read(reading)
            except HearthlineError as error:
                data = self.results.get(self.bench.analysis_of(reading))
                lanes = data.lanes if data else next((one.lanes for one in self.results.values()), 0)
                self._known[reading.name] = Numbers(np.full(lanes, np.nan), reading.unit, problem=str(error))
        return self._known[reading.name]

    def scope(self, analysis: str) -> Scope:
        """What a formula of an analysis is evaluated on. Raises ExpressionError where the run does not have it."""
        if analysis not in self.results:
            known = ", ".join(self.results) or "none"
            raise ExpressionError(f"this run has no analysis '{analysis}'; it has {known}. Press Run")
        return Scope(self.results[analysis], self.results, self._number, analysis)

    def _read(self, reading: Reading) -> Numbers:
        if reading.name in self._busy:
            raise ExpressionError(f"the reading depends on itself: {' > '.join([*self._busy, reading.name])}")
        self._busy.append(reading.name)
        try:
            formula = Formula.parse(reading.formula, self.bench.analysis_names)
            scope = self.scope(self.bench.analysis_of(reading))
            marks: list[Mark] = []
            found = formula.evaluate(scope, marks)
            values = formula.number_of(found, scope.data.lanes).astype(float)
        finally:
            self._busy.pop()
        for name in formula.needs(self.bench.analysis_of(reading)):
            data = self.results.get(name)
            if data is not None and data.lanes == len(values):
                values[~data.complete] = np.nan  # half a curve has no reading
        unit = str(found.unit) if found.unit is not None else reading.unit
        if found.unit is not None and found.unit.plain and reading.unit:
            unit = reading.unit
        return Numbers(values, unit, tuple(marks))

    def _number(self, word: str) -> Operand | None:
        reading = next((one for one in self.bench.readings if one.word == word), None)
        if reading is None:
            return None
        found = self.read(reading)
        if found.problem:
            raise ExpressionError(f"reading '{reading.name}': {found.problem}")
        return Operand(found.values[:, None], unit_of(found.unit) if found.unit else None)


class Judge:
    """Turns numbers into verdicts; what has not changed since the last time is not judged again."""

    def __init__(self) -> None:
        self._known: dict[str, tuple[Specification, Numbers | None, Verdict]] = {}

    def all(self, bench: Bench, values: Mapping[str, Numbers]) -> dict[str, Verdict]:
        """The verdict of each specification, by reading. A limit that is no number leaves its specification without one."""
        found = {}
        for spec in bench.specifications:
            numbers, known = values.get(spec.reading), self._known.get(spec.reading)
            if known is None or known[0] != spec or known[1] is not numbers:
                found[spec.reading] = _judged(spec, numbers)
            else:
                found[spec.reading] = known[2]
            self._known[spec.reading] = (spec, numbers, found[spec.reading])
        return found


def _judged(spec: Specification, numbers: Numbers | None) -> Verdict:
    try:
        return judge(spec, numbers.unit if numbers else "", numbers.values if numbers else None)
    except HearthlineError:
        return judge(spec, "", None)


def describe_lane(dataset: Dataset, lane: int) -> str:
    """The condition of a lane in words: `fs −40 °C 1.08 V`."""
    words = [str(dataset.conditions["corner"][lane])]
    for name, values in dataset.conditions.items():
        if values.dtype.kind == "U":
            if name != "corner":
                words.append(str(values[lane]))
            continue
        unit = "°C" if name == "temperature" else dataset.units.get(name, "")
        text = write(float(f"{values[lane]:.6g}"), unit) if unit != "°C" else f"{values[lane]:g} °C".replace("-", "−")
        words.append(text if unit in ("V", "°C") else f"{name} {text}")
    return " ".join(words)
