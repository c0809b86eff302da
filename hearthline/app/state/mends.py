"""What would mend the yield: foretold from the samples that are there, proposed, and proved by a run of its own."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from hearthline.app.state.judging import Judged, percent
from hearthline.app.state.logbook import PROOF
from hearthline.app.state.results import Results
from hearthline.app.state.worker import NewestWins
from hearthline.core.bench.passing import all_pass
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.engine.job import Job
from hearthline.core.spread.samples import SampleSet
from hearthline.core.spread.yields import within

if TYPE_CHECKING:
    from hearthline.core.spread.mend import Change, Foreteller, Proposal
    from hearthline.core.spread.paired import Paired
    from hearthline.core.spread.ranking import Guilt


@dataclass(frozen=True)
class Proof:
    """Samples with a mend beside those without, over the same random numbers."""

    words: str
    changes: tuple[Change, ...]
    samples: SampleSet
    comparison: Paired
    foretold: float


class Mends(QObject):
    """Of the samples and limits that it was given last."""

    changed = pyqtSignal()

    def __init__(self, results: Results, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.results = results
        self.samples: SampleSet | None = None
        self.judged: Judged | None = None
        self.proposals: Sequence[Proposal] = ()
        self.proof: Proof | None = None
        self.job = Job()
        self._teller: tuple[object, Foreteller] | None = None
        self._worker = NewestWins("mends", self)
        self._worker.answered.connect(self._take)
        self.refused = self._worker.refused
        self.refused.connect(lambda _: self.changed.emit())

    @property
    def busy(self) -> bool:
        """Whether mends are looked for or proved."""
        return self._worker.busy

    def follow(self, samples: SampleSet | None, judged: Judged) -> None:
        """Other samples, which know of no mend yet, or other limits."""
        self.judged = judged
        if samples is not self.samples:
            self.job.stop()
            self.samples, self.proposals, self.proof, self._teller = samples, (), None, None
            self.changed.emit()

    @property
    def teller(self) -> Foreteller | None:
        """Foretells yields under the limits as they are."""
        from hearthline.core.spread.mend import Foreteller

        if self.samples is None or self.judged is None or not self.judged.limits:
            return None
        key = (self.samples, tuple(self.judged.limits.items()))
        if self._teller is None or self._teller[0] != key:
            self._teller = (key, Foreteller(self.samples, self.judged.limits))
        return self._teller[1]

    def propose(self, snapshot: Snapshot | None, wanted: float, ranking: Sequence[Guilt]) -> None:
        """Looks for the smallest changes that bring the total to a wanted yield."""
        teller, samples = self.teller, self.samples
        if teller is None or samples is None or snapshot is None:
            return

        def question(report: object) -> tuple[SampleSet, object]:
            from hearthline.core.bench.mending import groups_of
            from hearthline.core.spread.mend import proposals

            return samples, proposals(teller, wanted, groups_of(snapshot, samples.variables, ranking))

        self._worker.ask(question)
        self.changed.emit()

    def prove(self, snapshot: Snapshot | None, changes: Sequence[Change], words: str) -> None:
        """Runs the changed circuit over the same random numbers, and lays old and new side by side."""
        samples, judged, teller = self.samples, self.judged, self.teller
        if samples is None or snapshot is None or teller is None or judged is None:
            return
        foretold, folder, job = teller.predict(changes).share, self.results.folder, Job()
        self.job = job

        def question(report: object) -> tuple[SampleSet, object]:
            from hearthline.core.bench.mending import mended
            from hearthline.core.bench.run import run_bench
            from hearthline.core.bench.sampled import run_samples, sample_plan
            from hearthline.core.formats.run_file import write_run
            from hearthline.core.spread.paired import paired

            setup = replace(
                snapshot.bench.samples, count=str(samples.count), seed=str(samples.seed), way=samples.way, until=""
            )
            bench = replace(snapshot.bench, samples=setup)
            variables = {one.name: one for one in samples.variables}
            plan = sample_plan(mended(replace(snapshot, bench=bench), variables, changes))
            run, new = run_bench(plan.snapshot, job), run_samples(plan, job)
            if job.stopped:
                return samples, None
            passing = {name: within(new.values[name], *both) for name, both in judged.limits.items()}
            comparison = paired(judged.together, all_pass(new, passing))
            note = f"{PROOF}{words}: {percent(comparison.old.share)} → {percent(comparison.new.share)} %"
            write_run(folder, replace(run, samples=new), datetime.now(), note)
            return samples, Proof(words, tuple(changes), new, comparison, foretold)

        self._worker.ask(question)
        self.changed.emit()

    def stop(self) -> None:
        """Ends a proof that is under way; nothing of it is kept."""
        self.job.stop()

    def _take(self, answer: tuple[SampleSet, object]) -> None:
        samples, found = answer
        if samples is self.samples:
            if isinstance(found, Proof):
                self.proof = found
                self.results.read_logbook()
            elif found is not None:
                self.proposals = found
        self.changed.emit()

    def close(self) -> None:
        """Ends the thread."""
        self.job.stop()
        self._worker.close()
