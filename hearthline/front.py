"""Hearthline from Python: read a deck, a bench or a project, run it, and get labelled data. What stands here stays as it is."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING

from hearthline.core.analyses.line import parse_analysis
from hearthline.core.bench.bench import Bench, GridSetup, PointSetup
from hearthline.core.bench.readings import Numbers, Reader, Run
from hearthline.core.data.dataset import Dataset
from hearthline.core.errors import ConvergenceError, HearthlineError
from hearthline.core.formats.bench_source import BenchSource, read_benches

if TYPE_CHECKING:
    import pandas

    from hearthline.core.bench.rare import RareFailure
    from hearthline.core.bench.snapshot import Snapshot
    from hearthline.core.engine.job import Job
    from hearthline.core.formats.deck.circuit import DeckCircuit
    from hearthline.core.spread.samples import SampleSet

__all__ = [
    "Bench", "ConvergenceError", "Dataset", "Deck", "HearthlineError", "Result",
    "rare_failure", "read_bench", "read_deck", "read_project", "run",
]  # fmt: skip

Values = float | str | Sequence[float] | Sequence[str]


@dataclass(frozen=True)
class Result(Mapping[str, Dataset]):
    """What a run gave: a Dataset by the name of each analysis; `failures` says why conditions failed, by their number."""

    made: Run

    @property
    def bench(self) -> Bench:
        """What was run."""
        assert self.made.snapshot is not None
        return self.made.snapshot.bench

    def __getitem__(self, name: str) -> Dataset:
        return self.made.results[name]

    def __iter__(self) -> Iterator[str]:
        return iter(self.made.results)

    def __len__(self) -> int:
        return len(self.made.results)

    @property
    def failures(self) -> Mapping[int, str]:
        """Conditions that failed in any analysis, and why."""
        return self.made.failed()

    @property
    def log(self) -> tuple[str, ...]:
        """What was said on the way."""
        return self.made.log

    @property
    def readings(self) -> Mapping[str, Numbers]:
        """The readings by name: `values` one a condition, in SI units, `unit`, and `problem` where there is none."""
        return Reader(self.bench, self.made.results).all()

    def table(self, analysis: str = "") -> pandas.DataFrame:
        """Readings with the conditions they were taken at, a row each, as a pandas DataFrame. Where analyses are made within
        different things each has a table of its own, and `analysis` says which. Raises HearthlineError."""
        import pandas

        from hearthline.core.formats.run_folder.readings import reading_tables

        tables = reading_tables(self.bench, self.made, self.readings)
        name = next(iter(tables)) if len(tables) == 1 else f"readings-{analysis}"
        if name not in tables:
            known = ", ".join(one.removeprefix("readings-") for one in tables)
            raise HearthlineError(f"there are several tables; name the analysis of one: {known}")
        return pandas.DataFrame(dict(tables[name]))

    @property
    def samples(self) -> SampleSet | None:
        """What varied and what was read in each sample; None where the bench draws none."""
        return self.made.samples

    def yields(
        self, limits: Mapping[str, tuple[float, float]] | None = None, without: Sequence[str] = ()
    ) -> pandas.DataFrame:
        """The yield of each specification, last that of `all`, as `yield.csv` has it; under other `limits` of readings
        (infinite for none), and without some. Raises HearthlineError for a reading that is not there."""
        import pandas

        from hearthline.core.bench.passing import yield_rows
        from hearthline.core.formats.run_folder.samples import yield_table

        samples = self._samples()
        for name in (*(limits or {}), *without):
            if name not in samples.values:
                raise HearthlineError(f"there is no reading '{name}'; the run has {', '.join(samples.values)}")
        return pandas.DataFrame(dict(yield_table(yield_rows(self.bench, samples, limits, without))))

    def ranking(self) -> pandas.DataFrame:
        """The parts by how they cost the yield of all, the guiltiest first: `part`, `variables`, `statistic` (chi squared),
        `significance` (corrected for the number of parts), `guilty`, and the `share` of all failing that goes with it."""
        import pandas

        from hearthline.core.bench.passing import all_pass, passing
        from hearthline.core.spread.ranking import ranking

        samples = self._samples()
        found = ranking(samples, all_pass(samples, passing(self.bench, samples)))
        return pandas.DataFrame([vars(one) for one in found])

    def contributions(self, reading: str) -> pandas.DataFrame:
        """How much of a reading's variance each `variable` makes, pairs and squares too, largest first; last `rest`."""
        import pandas

        from hearthline.core.spread.contributions import contributions

        samples = self._samples()
        if reading not in samples.values:
            raise HearthlineError(f"there is no reading '{reading}'; the run has {', '.join(samples.values)}")
        found = contributions(samples, samples.reading(reading), curved=True)
        return pandas.DataFrame({"variable": [one.name for one in found], "share": [one.share for one in found]})

    def _samples(self) -> SampleSet:
        if self.samples is None:
            raise HearthlineError("the run has no samples; give its bench [samples], or run it with samples=1000")
        return self.samples

    @property
    def verdict(self) -> Mapping[str, object]:
        """The state of the bench (`holds`, `fails`, `incomplete`) and of each specification, as `verdict.json` has it."""
        from hearthline.core.formats.run_folder.verdict import judged

        found = judged(self.bench, self.made, self.readings)
        plain = {"state": found.state, "specifications": list(found.specifications), "seconds": found.seconds}
        return plain | ({"yield": found.share} if found.share is not None else {})


@dataclass(frozen=True)
class Deck:
    """A deck's circuit, ready to be asked; it is read again for each run."""

    path: Path
    circuit: DeckCircuit

    @property
    def nets(self) -> tuple[str, ...]:
        """Names of its nets."""
        return self.circuit.first.netlist.nets

    @property
    def parameters(self) -> Mapping[str, float]:
        """Its `.param`s as they stand."""
        return self.circuit.parameters

    def run(
        self,
        *lines: str,
        corners: Sequence[str] = (),
        temperatures: Iterable[float] = (),
        parameters: Mapping[str, Values] | None = None,
        job: Job | None = None,
        **named: str,
    ) -> Result:
        """Runs analyses, each a line as in a bench (`ac from 1 to 1G points 20`), over corners, temperatures [degC] and
        parameters, all crossed. An analysis is called by its kind, or as its keyword. Raises HearthlineError for wrong input;
        a condition that does not converge is marked in the result."""
        from hearthline.core.formats.deck.bench import snapshot_over_deck

        grid = {name: _texts(values) for name, values in (parameters or {}).items()}
        celsius = tuple(repr(float(one)) for one in temperatures) or (repr(self.circuit.temperature),)
        corners = tuple(corners) or ("",)
        point = PointSetup(corners[0], celsius[0], {})
        asked = [(line.split(maxsplit=1)[0] if line.split() else "", line) for line in lines] + list(named.items())
        analyses = tuple(parse_analysis(name, line) for name, line in asked)
        if len({one.name for one in analyses}) < len(analyses):
            raise HearthlineError("two analyses have one name; give them names of their own: first='ac from ...'")
        bench = Bench("", "", (), point, GridSetup(corners, celsius, grid), analyses, deck=self.path.name)
        return _run(snapshot_over_deck(bench, self.path.parent), job)


def _texts(values: Values) -> tuple[str, ...]:
    if isinstance(values, str):
        return (values,)
    each = values if isinstance(values, Iterable) else (values,)
    return tuple(one if isinstance(one, str) else repr(float(one)) for one in each)


def read_deck(path: str | Path) -> Deck:
    """The circuit of a deck; its analysis cards are passed over. Raises DeckError with file and line."""
    from hearthline.core.formats.deck.circuit import DeckCircuit

    circuit = DeckCircuit(Path(path), str(path))
    circuit.checked()
    return Deck(Path(path), circuit)


def read_bench(path: str | Path, name: str = "") -> BenchSource:
    """The bench in a file, or that of this key in a project's folder. Raises FileError."""
    found = read_benches(Path(path), [name] if name else [])
    if len(found) != 1:
        raise HearthlineError(
            f"there are several benches: {', '.join(one.bench.key for one in found)}; name one of them"
        )
    return found[0]


def read_project(folder: str | Path) -> Mapping[str, BenchSource]:
    """The benches of a project by their keys. Raises FileError."""
    return {one.bench.key: one for one in read_benches(Path(folder))}


def run(
    bench: BenchSource, *only: str, job: Job | None = None, samples: int | None = None, seed: int | None = None
) -> Result:
    """Runs a bench at all of its conditions, or the named ones of its analyses, and its samples, where it has any or `samples`
    says how many. Raises HearthlineError for wrong input."""
    bench = bench.only(only) if only else bench
    bench = bench.with_samples(*(None if one is None else str(one) for one in (samples, seed)))
    bench.check()
    result = _run(bench.snapshot, job)
    plan = bench.sample_plan()
    if plan is None:
        return result
    from hearthline.core.bench.sampled import run_samples

    return Result(replace(result.made, samples=run_samples(plan, job)))


def rare_failure(
    bench: BenchSource,
    limits: Mapping[str, tuple[float, float]] | None = None,
    error: float = 0.1,
    most: int = 5000,
    job: Job | None = None,
) -> RareFailure | None:
    """How rarely the specifications of a bench fail, or other `limits` by reading, where samples would not meet a failure:
    until the 95 % interval is within this `error` of the probability, or `most` simulations are spent. None where the `job`
    was stopped. Raises HearthlineError."""
    from hearthline.core.bench.rare import rare_failure as found
    from hearthline.core.bench.sampled import sample_plan

    bench.check()
    return found(bench.sample_plan() or sample_plan(bench.snapshot), limits, job, error, most)


def _run(snapshot: Snapshot, job: Job | None) -> Result:
    from hearthline.core.bench.run import run_bench

    return Result(run_bench(snapshot, job))
