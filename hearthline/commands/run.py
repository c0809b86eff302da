"""`hearthline run`: benches over cells or decks, their curves, readings and verdicts as files."""

from __future__ import annotations

import argparse
import sys
import threading
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from hearthline.commands.status import DONE, FAILS, NOT_CONVERGED
from hearthline.core.errors import HearthlineError

if TYPE_CHECKING:  # loaded when something is run
    from collections.abc import Iterator

    from hearthline.core.bench.readings import Run
    from hearthline.core.bench.sampled import SamplePlan
    from hearthline.core.engine.job import Job
    from hearthline.core.formats.bench_source import BenchSource

OFTEN = 0.2
"""Seconds between looks at how far a run is."""


def run(options: argparse.Namespace) -> int:
    """Runs them in their order. Raises HearthlineError for wrong input, before anything is run where it can be seen then."""
    from hearthline.core.formats.bench_source import read_benches
    from hearthline.stopping import heed_signals

    heed_signals()
    sources = read_benches(Path(options.path), options.names)
    if options.only:
        sources = [source.only(options.only) for source in sources]
    if options.isothermal:
        sources = [source.isothermal() for source in sources]
    out = Path(options.out)
    folders = [out / source.folder for source in sources] if len(sources) > 1 else [out]
    sources = [source.with_samples(options.samples, options.seed) for source in sources]
    for source in sources:
        source.check()
    plans = [source.sample_plan() for source in sources]
    found = [_run_one(*one) for one in zip(sources, folders, plans, strict=True)]
    return NOT_CONVERGED if NOT_CONVERGED in found else max(found)


def _run_one(source: BenchSource, folder: Path, plan: SamplePlan | None) -> int:
    from hearthline.core.bench.run import run_bench
    from hearthline.core.bench.sampled import run_samples
    from hearthline.core.formats.results_folder import folder_for_results
    from hearthline.core.formats.run_folder import write_run_folder
    from hearthline.stopping import stoppable

    def work(job: Job) -> Run:
        with _Progress(source.bench.key, job):
            found = run_bench(source.snapshot, job)
            return found if plan is None else replace(found, samples=run_samples(plan, job))

    with folder_for_results(folder, str(folder)) as out:
        try:
            found = stoppable(work)
        except HearthlineError as error:
            raise source.problem(error) from None
        judgement = write_run_folder(out, source, found)
    for note in (*found.notes, *_of_samples(found)):
        print(f"{source.shown}: {note}", file=sys.stderr)
    for line in judgement.failed:
        print(f"{source.shown}: {line}", file=sys.stderr)
    if judgement.failed or judgement.state == "incomplete":
        return NOT_CONVERGED
    return FAILS if judgement.state == "fails" else DONE


def _of_samples(run: Run) -> Iterator[str]:
    """What must be known of them."""
    from hearthline.core.bench.passing import judged_limits
    from hearthline.core.bench.samples import SampleSetup

    samples = run.samples
    if samples is None:
        return
    if samples.failures:
        first, text = next(iter(sorted(samples.failures.items())))
        yield f"{len(samples.failures)} of {samples.count} samples did not converge and fail; the first is {first + 1}: {text}"
    if samples.count < samples.asked and run.snapshot and not (run.snapshot.bench.samples or SampleSetup()).until:
        yield f"{samples.count} of {samples.asked} samples were done"
    if run.snapshot and not judged_limits(run.snapshot.bench, samples):
        yield "no specification has a limit, so there is no yield"


class _Progress:
    """Says on standard error how far a run is: one line that renews itself on a terminal, one an analysis elsewhere."""

    def __init__(self, key: str, job: Job):
        self.key, self.job = key, job
        self.terminal = sys.stderr.isatty()
        self.ended = threading.Event()
        self.thread = threading.Thread(target=self._watch, daemon=True)

    def __enter__(self) -> None:
        self.job.on_stage = self._begun
        self.thread.start()

    def __exit__(self, *about: object) -> None:
        self.ended.set()
        self.thread.join()
        if self.terminal:
            print("\r\x1b[K", end="", file=sys.stderr, flush=True)

    def _begun(self, stage: str, number: int, count: int) -> None:
        if not self.terminal:
            print(f"{self.key}: {stage} ({number} of {count})", file=sys.stderr, flush=True)

    def _watch(self) -> None:
        while self.terminal and not self.ended.wait(OFTEN):
            stage, number, count = self.job.stage
            share = 100 * self.job.share
            print(
                f"\r\x1b[K{self.key}: {stage} ({number} of {count}) {share:.0f} %", end="", file=sys.stderr, flush=True
            )
