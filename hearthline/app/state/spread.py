"""The samples of the shown run as a person looks at them: limits that are moved, specifications left out, the sample and the
part that were chosen, and what would mend the yield."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from hearthline.app.state.logbook import PROOF
from hearthline.app.state.results import Results, Shown
from hearthline.app.state.worker import NewestWins
from hearthline.core.bench.bench import Bench
from hearthline.core.bench.passing import all_pass, judged_limits
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.circuit.cell import Cell
from hearthline.core.circuit.instance import Instance
from hearthline.core.spread.draws import Draws, Space
from hearthline.core.spread.samples import SampleSet
from hearthline.core.spread.yields import Yield, within, yield_of

if TYPE_CHECKING:
    from hearthline.core.spread.contributions import Contribution
    from hearthline.core.spread.mend import Change, Foreteller, Proposal
    from hearthline.core.spread.paired import Paired
    from hearthline.core.spread.ranking import Guilt

Limits = tuple[float, float]
REST_MILLISECONDS = 60
"""After a limit has come to rest, before the parts are ranked anew."""
PARTS_WARM = 0.02
"""Share of all failing under which a part stays cold."""


@dataclass(frozen=True)
class Judged:
    """Samples under limits: by reading whether each is within (samples,), all together, and how many fail a reading."""

    limits: Mapping[str, Limits]
    passing: Mapping[str, np.ndarray]
    together: np.ndarray

    @cached_property
    def total(self) -> Yield:
        """Of all specifications."""
        return yield_of(self.together)

    @cached_property
    def _fails(self) -> np.ndarray:
        return np.sum([~one for one in self.passing.values()], axis=0) if self.passing else np.zeros(0)

    def of(self, name: str) -> Yield:
        """Of one specification."""
        return yield_of(self.passing[name])

    def without(self, name: str) -> Yield:
        """Of all but one."""
        return yield_of(self._fails - ~self.passing[name] == 0)


@dataclass(frozen=True)
class Analysis:
    """What was worked out of samples: parts by how they cost the yield, and what makes each reading vary."""

    ranking: Sequence[Guilt]
    contributions: Mapping[str, Sequence[Contribution]]


@dataclass(frozen=True)
class Proof:
    """Samples with a mend beside those without, over the same random numbers."""

    words: str
    changes: tuple[Change, ...]
    samples: SampleSet
    comparison: Paired
    foretold: float


class SpreadState(QObject):
    """`samples` are those of the shown run, None where it has none."""

    samples_changed = pyqtSignal()
    judged_changed = pyqtSignal()
    analysed = pyqtSignal()
    chosen_changed = pyqtSignal()
    part_changed = pyqtSignal()
    mends_changed = pyqtSignal()
    told = pyqtSignal(object)

    def __init__(self, results: Results, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.results = results
        self.samples: SampleSet | None = None
        self.moved: dict[str, Limits] = {}
        self.left_out: set[str] = set()
        self.judged = Judged({}, {}, np.zeros(0, bool))
        self.analysis: Analysis | None = None
        self.chosen = -1
        self.part = ""
        self.proposals: Sequence[Proposal] = ()
        self.proof: Proof | None = None
        self._teller: tuple[object, Foreteller] | None = None
        self._nominal: Shown | None = None
        self._worker, self._mender = NewestWins("samples", self), NewestWins("mends", self)
        self._one = NewestWins("one sample", self)
        self._worker.answered.connect(self._take_analysis)
        self._mender.answered.connect(self._take_mend)
        self._one.answered.connect(self._take_one)
        for worker in (self._worker, self._mender, self._one):
            worker.refused.connect(self.told)
        self._rest = QTimer(self, singleShot=True, interval=REST_MILLISECONDS)
        self._rest.timeout.connect(self._analyse)
        results.run_changed.connect(self._follow_run)

    # -- what is there

    @property
    def bench(self) -> Bench | None:
        """That the samples are of."""
        return self.results.bench

    @property
    def busy(self) -> bool:
        """Whether something is being worked out."""
        return self._worker.busy or self._mender.busy or self._one.busy or self._rest.isActive()

    @property
    def mending(self) -> bool:
        """Whether mends are looked for or proved."""
        return self._mender.busy

    def _follow_run(self) -> None:
        run = self.results.run
        samples = run.samples if run is not None else None
        if self.chosen >= 0 and samples is self.samples:
            return
        if samples is self.samples:
            return
        self.samples, self.chosen, self._nominal = samples, -1, None
        self.analysis, self.proposals, self.proof, self._teller = None, (), None, None
        if samples is not None:
            self.moved = {name: both for name, both in self.moved.items() if name in samples.values}
        self.samples_changed.emit()
        self.chosen_changed.emit()
        self.mends_changed.emit()
        self.judge()

    # -- limits

    def follow_bench(self) -> None:
        """The limits of the bench may be others now; one that was typed is no longer a trial."""
        self.judge()

    def judge(self) -> None:
        """Under the limits as they are."""
        if self.samples is None or self.bench is None:
            self.judged = Judged({}, {}, np.zeros(0, bool))
        else:
            limits = judged_limits(self.bench, self.samples, self.moved, self.left_out)
            known = self.judged
            passing = {
                name: known.passing[name]
                if known.limits.get(name) == both and len(known.passing[name]) == self.samples.count and self._same
                else within(self.samples.values[name], *both)
                for name, both in limits.items()
            }
            self.judged = Judged(limits, passing, all_pass(self.samples, passing))
        self._judged_of = self.samples
        self.judged_changed.emit()
        self._rest.start()

    _judged_of: SampleSet | None = None

    @property
    def _same(self) -> bool:
        return self._judged_of is self.samples

    def move_limit(self, name: str, low: float, high: float) -> None:
        """A trial of other limits of a reading; the bench keeps its own."""
        if low <= high and self.moved.get(name) != (low, high):
            self.moved[name] = (low, high)
            self.judge()

    def take_back(self, name: str) -> None:
        """The bench's own limits again."""
        if self.moved.pop(name, None) is not None:
            self.judge()

    def leave_out(self, name: str, out: bool) -> None:
        """A specification counts or does not."""
        if (name in self.left_out) != out:
            self.left_out.symmetric_difference_update({name})
            self.judge()

    # -- what costs the yield

    def _analyse(self) -> None:
        samples, judged = self.samples, self.judged
        if samples is None or not samples.count:
            return

        def question(report: object) -> tuple[SampleSet, Judged, Analysis]:
            from hearthline.core.spread.contributions import contributions  # late: SciPy
            from hearthline.core.spread.ranking import ranking

            known = self.analysis.contributions if self.analysis is not None else {}
            made = {name: known.get(name) or contributions(samples, samples.reading(name), curved=True)
                    for name in samples.values}  # fmt: skip
            return samples, judged, Analysis(ranking(samples, judged.together), made)

        self._worker.ask(question)

    def _take_analysis(self, answer: tuple[SampleSet, Judged, Analysis]) -> None:
        samples, _, analysis = answer
        if samples is self.samples:
            self.analysis = analysis
            names = [one.part for one in analysis.ranking]
            if self.part not in names:
                self.part = next(iter(names), "")
                self.part_changed.emit()
            self.analysed.emit()

    def sigmas(self, name: str) -> float:
        """How many standard deviations the mean of a reading is within its limits; below 0 beyond them, NaN where it does not
        vary."""
        values, (low, high) = self.samples.values[name], self.judged.limits[name]
        mean, sigma = np.nanmean(values, axis=0), np.nanstd(values, axis=0)
        with np.errstate(all="ignore"):
            room = np.minimum(mean - low, high - mean) / sigma
        return float(np.nanmin(room)) if np.isfinite(room).any() else float("nan")

    def choose_part(self, part: str) -> None:
        """The part whose values are looked at."""
        if part != self.part:
            self.part = part
            self.part_changed.emit()

    def on(self, cell: Cell, instance: Instance) -> Iterator[tuple[str, str, float]]:
        """(part, "", heat) on a shown cell, by the share of the failing that goes with each part; of a block the most in it."""
        if self.analysis is None:
            return
        guilty = [one for one in self.analysis.ranking if one.guilty and one.share > PARTS_WARM]
        guilty = [one for one in guilty if not one.part.startswith("process.")]
        most = max((one.share for one in guilty), default=1.0)
        hot = {one.part: (one.share / most) ** 0.5 for one in guilty}
        for part in cell.parts:
            flat = instance.part(part.name)
            own = [heat for name, heat in hot.items() if name == flat or name.startswith(f"{flat}.")]
            if own:
                yield part.name, "", max(own)

    # -- one sample on the whole desk

    @property
    def draws(self) -> Draws | None:
        """What the chosen sample deviates by; None where none is chosen."""
        if self.samples is None or not 0 <= self.chosen < self.samples.count:
            return None
        return Space(self.samples.variables).draws(self.samples.normal[self.chosen : self.chosen + 1])

    def choose_sample(self, number: int, snapshot: Snapshot | None) -> None:
        """Shows one sample's operating point and curves everywhere; -1 goes back to the nominal circuit."""
        if number == self.chosen or self.samples is None or snapshot is None:
            return
        self.chosen = number
        if number < 0:
            nominal, self._nominal = self._nominal, None
            if nominal is not None:
                self.results.show_for_now(nominal)
            self.chosen_changed.emit()
            return
        self._nominal = self._nominal or self.results.shown
        samples, shown = self.samples, self._nominal

        def question(report: object) -> tuple[int, Shown]:
            from hearthline.core.bench.sampled import one_sample, sample_plan

            plan = sample_plan(snapshot)
            plan = replace(plan, space=Space(samples.variables, plan.space.root))
            run = replace(
                shown.run, results=one_sample(plan, samples.normal[number]), conditions=plan.conditions, failures={}
            )
            return number, replace(shown, run=run, note=f"sample {number + 1}")

        self._one.ask(question)
        self.chosen_changed.emit()

    def _take_one(self, answer: tuple[int, Shown]) -> None:
        number, shown = answer
        if number == self.chosen:
            self.results.show_for_now(shown)

    # -- mends

    @property
    def teller(self) -> Foreteller | None:
        """Foretells yields under the limits as they are."""
        from hearthline.core.spread.mend import Foreteller

        if self.samples is None or not self.judged.limits:
            return None
        key = (self.samples, tuple(self.judged.limits.items()))
        if self._teller is None or self._teller[0] != key:
            self._teller = (key, Foreteller(self.samples, self.judged.limits))
        return self._teller[1]

    def propose(self, wanted: float) -> None:
        """Looks for the smallest changes that bring the total to a wanted yield."""
        teller, ranking = self.teller, self.analysis.ranking if self.analysis is not None else ()
        if teller is None:
            return
        samples = self.samples
        names = [name for one in ranking for name in one.variables[:1] if not name.startswith("process.")]

        def question(report: object) -> tuple[str, SampleSet, object]:
            from hearthline.core.spread.mend import proposals

            return "proposals", samples, proposals(teller, wanted, names)

        self._mender.ask(question)
        self.mends_changed.emit()

    def prove(self, snapshot: Snapshot | None, changes: Sequence[Change], words: str) -> None:
        """Runs the changed circuit over the same random numbers, and lays old and new side by side."""
        samples, judged, teller = self.samples, self.judged, self.teller
        if samples is None or snapshot is None or teller is None:
            return
        foretold, folder = teller.predict(changes).share, self.results.folder

        def question(report: object) -> tuple[str, SampleSet, object]:
            from hearthline.core.bench.mending import mended
            from hearthline.core.bench.run import run_bench
            from hearthline.core.bench.sampled import run_samples, sample_plan
            from hearthline.core.formats.run_file import write_run
            from hearthline.core.spread.paired import paired

            setup = replace(snapshot.bench.samples, count=str(samples.count), until="")
            bench = replace(snapshot.bench, samples=setup)
            variables = {one.name: one for one in samples.variables}
            plan = sample_plan(mended(replace(snapshot, bench=bench), variables, changes))
            run, new = run_bench(plan.snapshot), run_samples(plan)
            passing = {name: within(new.values[name], *both) for name, both in judged.limits.items()}
            comparison = paired(judged.together, all_pass(new, passing))
            note = f"{PROOF}{words}: {percent(comparison.old.share)} → {percent(comparison.new.share)} %"
            write_run(folder, replace(run, samples=new), datetime.now(), note)
            return "proof", samples, Proof(words, tuple(changes), new, comparison, foretold)

        self._mender.ask(question)
        self.mends_changed.emit()

    def _take_mend(self, answer: tuple[str, SampleSet, object]) -> None:
        what, samples, found = answer
        if samples is self.samples:
            if what == "proof":
                self.proof = found
                self.results.read_logbook()
            else:
                self.proposals = found
            self.mends_changed.emit()

    def close(self) -> None:
        """Ends the threads."""
        self._rest.stop()
        for worker in (self._worker, self._mender, self._one):
            worker.close()


def percent(share: float) -> str:
    """A share in percent, with more digits where it nears all: `93.7`, `99.62`, `99.994`."""
    away = 1.0 - share
    if away < 5e-6:
        return "100"
    return f"{100 * share:.{1 if away >= 0.01 else 2 if away >= 0.001 else 3}f}"


def share_text(share: Yield) -> str:
    """`93.7 % (92.0 to 95.1)`"""
    return f"{percent(share.share)} % ({percent(share.low)} to {percent(share.high)})"
