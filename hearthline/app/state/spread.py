"""The samples of the shown run as a person looks at them: limits that are moved, specifications left out, the sample and the
part that were chosen, and what would mend the yield."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from hearthline.app.state.judging import Judged, Limits
from hearthline.app.state.mends import Mends
from hearthline.app.state.rare import RareState
from hearthline.app.state.results import Results
from hearthline.app.state.shown_sample import ShownSample
from hearthline.app.state.worker import NewestWins
from hearthline.core.bench.bench import Bench
from hearthline.core.bench.passing import all_pass, judged_limits
from hearthline.core.circuit.cell import Cell
from hearthline.core.circuit.instance import Instance
from hearthline.core.spread.samples import SampleSet
from hearthline.core.spread.yields import within

if TYPE_CHECKING:
    from hearthline.core.spread.contributions import Contribution
    from hearthline.core.spread.ranking import Guilt

REST_MILLISECONDS = 60
"""After a limit has come to rest, before the parts are ranked anew."""
PARTS_WARM = 0.02
"""Share of all failing under which a part stays cold."""


@dataclass(frozen=True)
class Analysis:
    """What was worked out of samples: parts by how they cost the yield, and what makes each reading vary."""

    ranking: Sequence[Guilt]
    contributions: Mapping[str, Sequence[Contribution]]


class SpreadState(QObject):
    """`samples` are those of the shown run, None where it has none."""

    samples_changed = pyqtSignal()
    judged_changed = pyqtSignal()
    analysed = pyqtSignal()
    part_changed = pyqtSignal()
    told = pyqtSignal(object)

    def __init__(self, results: Results, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.results = results
        self.samples: SampleSet | None = None
        self.moved: dict[str, Limits] = {}
        self.left_out: set[str] = set()
        self.judged = Judged({}, {}, np.zeros(0, bool))
        self.analysis: Analysis | None = None
        self.part = ""
        self.one, self.mends, self.rare = ShownSample(results, self), Mends(results, self), RareState(self)
        self._worker = NewestWins("samples", self)
        self._worker.answered.connect(self._take_analysis)
        for worker in (self._worker, self.one, self.mends, self.rare):
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
        return self._worker.busy or self.mends.busy or self.one.busy or self.rare.busy or self._rest.isActive()

    def _follow_run(self) -> None:
        run = self.results.run
        samples = run.samples if run is not None else None
        if samples is self.samples:
            return
        self.samples, self.analysis = samples, None
        if samples is not None:
            self.moved = {name: both for name, both in self.moved.items() if name in samples.values}
        self.samples_changed.emit()
        self.one.forget()
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
        self.mends.follow(self.samples, self.judged)
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

    def close(self) -> None:
        """Ends the threads."""
        self._rest.stop()
        for worker in (self._worker, self.one, self.mends, self.rare):
            worker.close()
