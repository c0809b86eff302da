"""What was run: the shown run with its readings and verdicts, the pinned one behind it, the condition and cursor that all
views share, and the logbook."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from hearthline.app.state.logbook import LogEntry, Rule, read_logbook, read_rule, to_clean, write_rule
from hearthline.app.state.runner import RunAnswer, Runner
from hearthline.app.state.worker import NewestWins
from hearthline.core.bench.bench import Bench, Reading
from hearthline.core.bench.readings import Judge, Numbers, Reader, Run
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.bench.verdict import Verdict
from hearthline.core.data.apply import Mark
from hearthline.core.data.dataset import Dataset
from hearthline.core.errors import HearthlineError
from hearthline.core.formats.run_file import read_run
from hearthline.core.spread.pvt import Condition, key_of


@dataclass(frozen=True)
class Shown:
    """A run on the desk: when it was made, what is said of it, where it is stored."""

    run: Run
    made: datetime
    note: str
    path: Path | None = None
    bench: str = ""


ISOTHERMAL = "the same without its heat"


class Results(QObject):
    """Plain values with signals; the desk says which bench they are for."""

    run_changed = pyqtSignal()
    analysis_changed = pyqtSignal()
    verdicts_changed = pyqtSignal()
    lane_changed = pyqtSignal()
    cursor_changed = pyqtSignal()
    condition_changed = pyqtSignal()
    ghost_changed = pyqtSignal()
    stale_changed = pyqtSignal()
    logbook_changed = pyqtSignal()
    marked_changed = pyqtSignal()
    told = pyqtSignal(object)
    too_large = pyqtSignal(object)
    follow_wanted = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.bench: Bench | None = None
        self.folder = Path()
        self.shown: Shown | None = None
        self.ghost: Shown | None = None
        self.analysis = ""
        self.numbers: dict[str, Numbers] = {}
        self._read_for: tuple = ()
        self._judging = Judge()
        self.verdicts: dict[str, Verdict] = {}
        self.marked = ""
        self.lane = self.condition = -1
        self.cursor: float | None = None
        self.stale, self.missing = False, 0
        self.entries: list[LogEntry] = []
        self.rule = Rule()
        self.runner = Runner(self)
        self.runner.finished.connect(self._take_run)
        self.runner.grown.connect(self._take_part)
        self.runner.stored.connect(self._take_stored)
        self.loader, self.reader = NewestWins("stored run", self), NewestWins("readings", self)
        self.basis, self.pinner = NewestWins("basis", self), NewestWins("pinned run", self)
        self.loader.answered.connect(self._take_loaded)
        self.loader.refused.connect(self._refused)
        self.reader.answered.connect(self._take_numbers)
        self.basis.answered.connect(self._take_bases)
        self.pinner.answered.connect(self._take_ghost)
        self.pinner.refused.connect(self.told)

    # -- the bench it is for

    def show_bench(self, bench: Bench | None, folder: Path) -> None:
        """Forgets the run of another bench, and shows the newest stored one of this."""
        self.bench, self.folder = bench, folder
        self.analysis = next(iter(bench.analysis_names), "") if bench is not None else ""
        self.ghost, self.cursor, self.lane, self.condition, self.marked = None, None, -1, -1, ""
        self._show(None)
        self.read_logbook()
        own = (entry for entry in self.entries if bench is not None and entry.bench == bench.key)
        newest = next((entry for entry in own if not entry.proof), None)
        if newest:
            self.show_run(newest.path)

    def follow(self, bench: Bench | None, snapshot: Snapshot | None) -> None:
        """The document has changed: readings and verdicts follow, and whether the run is still of this circuit."""
        self.bench = bench
        if bench is None:
            return
        if self.analysis not in bench.analysis_names:
            self.show_analysis(next(iter(bench.analysis_names), ""))
        if self._read_for != _formulas(bench):
            self._read()
        else:
            self._judge()
        self._ask_basis(snapshot)

    def _ask_basis(self, snapshot: Snapshot | None) -> None:
        if self.run is None or snapshot is None:
            return
        run, names = self.run, tuple(self.run.bases)

        def question(report: object) -> tuple[Run, dict[str, str], int]:
            from hearthline.core.bench.basis import basis_of  # late: it loads the engine

            known = {key_of(one) for one in run.conditions}
            missing = sum(key_of(one) not in known for one in snapshot.conditions())
            return run, {a.name: basis_of(snapshot, a) for a in snapshot.bench.analyses if a.name in names}, missing

        self.basis.ask(question)

    def _take_bases(self, answer: tuple[Run, dict[str, str], int]) -> None:
        run, bases, missing = answer
        if run is not self.run:
            return
        stale = any(name in bases and bases[name] != basis for name, basis in run.bases.items())
        if (stale, missing) != (self.stale, self.missing):
            self.stale, self.missing = stale, missing
            self.stale_changed.emit()

    # -- what is shown

    @property
    def run(self) -> Run | None:
        """The shown run."""
        return self.shown.run if self.shown else None

    @property
    def dataset(self) -> Dataset | None:
        """Of the shown analysis."""
        return self.run.results.get(self.analysis) if self.run else None

    @property
    def behind(self) -> tuple[Mapping[str, Dataset], str]:
        """What stands behind the curves, and what it is called: the pinned run, or the shown one without its heat."""
        if self.ghost is not None:
            return self.ghost.run.results, self.ghost.note
        cold = self.run.cold if self.run is not None else {}
        return cold, ISOTHERMAL if cold else ""

    @property
    def note(self) -> str:
        """What is said of the shown run."""
        return self.shown.note if self.shown else ""

    @property
    def readings(self) -> dict[str, np.ndarray]:
        """Values (lanes,) by name."""
        return {name: numbers.values for name, numbers in self.numbers.items()}

    @property
    def failures(self) -> Mapping[int, str]:
        """Conditions without a solution, with the reason."""
        return self.run.failed() if self.run else {}

    @property
    def conditions(self) -> tuple[Condition, ...]:
        """Of the shown run."""
        return self.run.conditions if self.run else ()

    @property
    def chosen(self) -> Condition | None:
        """The condition that the whole desk shows, in the place of the bench's point."""
        return self.conditions[self.condition] if 0 <= self.condition < len(self.conditions) else None

    def reading(self, name: str) -> Reading | None:
        """A reading of the bench."""
        return next((one for one in self.bench.readings if one.name == name), None) if self.bench else None

    def dataset_of(self, name: str) -> Dataset | None:
        """The dataset that a reading was taken from, whose lanes its values are of."""
        reading = self.reading(name)
        if reading is None or self.run is None:
            return None
        found = self.run.results.get(self.bench.analysis_of(reading))
        values = self.numbers[name].values if name in self.numbers else ()
        if found is not None and found.lanes == len(values):
            return found
        return next((data for data in self.run.results.values() if data.lanes == len(values)), None)

    def _show(self, shown: Shown | None, numbers: dict[str, Numbers] | None = None) -> None:
        self.shown, self.stale, self.missing = shown, False, 0
        names = self.run.results if self.run else ()
        if self.bench is not None and self.analysis not in names:
            self.analysis = next(iter(names), next(iter(self.bench.analysis_names), ""))
        self.lane = -1
        if not 0 <= self.condition < len(self.conditions):
            self._set_condition(-1)
        self.lane_changed.emit()
        if numbers is None:
            self.numbers, self._read_for = {}, ()
            self._read()
        else:
            self.numbers, self._read_for = numbers, _formulas(self.bench)
            self._judge()
        self.run_changed.emit()

    def show_for_now(self, shown: Shown) -> None:
        """Curves and readings of one sample in the place of the run's, or the run again."""
        self._wanted = None
        self._show(shown)

    def _read(self) -> None:
        """Takes the readings from the shown run, off this thread."""
        if self.bench is None or self.run is None:
            self.numbers = {}
            self._judge()
            return
        bench, results = self.bench, self.run.results
        self._read_for = _formulas(bench)
        self.reader.ask(lambda report: (results, Reader(bench, results).all()))

    def _take_numbers(self, answer: tuple[Mapping, dict[str, Numbers]]) -> None:
        results, numbers = answer
        if self.run is not None and self.run.results is results:
            self.numbers = numbers
            self._judge()

    def _judge(self) -> None:
        self.verdicts = self._judging.all(self.bench, self.numbers) if self.bench else {}
        self.verdicts_changed.emit()

    # -- what all views share

    def show_analysis(self, name: str) -> None:
        """The charts show another analysis."""
        if name != self.analysis:
            self.analysis, self.cursor, self.lane = name, None, -1
            self.lane_changed.emit()
            self.analysis_changed.emit()
            self.cursor_changed.emit()

    def choose_lane(self, lane: int) -> None:
        """The lane of the shown analysis that stands out in the charts; -1 for none."""
        if self.lane != lane:
            self.lane = lane
            self.lane_changed.emit()

    def choose_condition(self, condition: int) -> None:
        """The condition that the whole desk shows; -1 for the bench's own point."""
        if condition != self.condition:
            self._set_condition(condition)
        data = self.dataset
        if data is not None:
            self.choose_lane(condition * data.per_condition if condition >= 0 else -1)

    def _set_condition(self, condition: int) -> None:
        if condition != self.condition:
            self.condition = condition
            self.condition_changed.emit()

    def move_cursor(self, x: float | None) -> None:
        """The shared cursor of all strips, in units of the axis."""
        if self.cursor != x:
            self.cursor = x
            self.cursor_changed.emit()

    def mark(self, reading: str) -> None:
        """The reading whose construction is drawn on the curves; nothing for none."""
        if reading != self.marked:
            self.marked = reading
            self.marked_changed.emit()

    @property
    def marks(self) -> tuple[Mark, ...]:
        """Where the marked reading was taken."""
        return self.numbers[self.marked].marks if self.marked in self.numbers else ()

    # -- runs

    def _take_run(self, answer: RunAnswer) -> None:
        if answer.size:
            self.too_large.emit(answer)
            return
        if answer.run is not None and self.bench is not None and answer.request.snapshot.bench.key == self.bench.key:
            self._wanted = None
            same = _formulas(answer.request.snapshot.bench) == _formulas(self.bench)
            self._show(Shown(answer.run, answer.made, _note(answer.run)), answer.numbers if same else None)
        self.told.emit(answer.error)

    def _take_part(self, answer: RunAnswer) -> None:
        """A run as far as it is: shown, and judged when it is whole."""
        here = self.bench is not None and answer.request.snapshot.bench.key == self.bench.key
        if not here or not self.runner.busy or _formulas(answer.request.snapshot.bench) != _formulas(self.bench):
            return
        self._wanted = None
        self.shown = Shown(answer.run, answer.made, "as far as it is")
        if self.analysis not in answer.run.results:
            self.analysis = next(reversed(answer.run.results))
        self.numbers, self._read_for = answer.numbers, _formulas(self.bench)
        self.run_changed.emit()

    def _take_stored(self, path: Path | None, error: HearthlineError | None) -> None:
        if error is not None:
            self.told.emit(error)
        elif self.shown is not None and self.shown.path is None:
            self.shown = replace(self.shown, path=path)
        self.read_logbook()

    def show_run(self, path: Path) -> None:
        """Shows a stored run of the bench again."""

        def question(report: object) -> Shown:
            stored = read_run(path)
            note = f"run of {stored.record.made:%d %b %H:%M}"
            return Shown(stored.run, stored.record.made, note, path, stored.record.bench_key)

        self._wanted = path
        self.loader.ask(question)

    _wanted: Path | None = None
    """The stored run that was asked for; none once a newer one has come."""

    def _take_loaded(self, shown: Shown) -> None:
        if self._is_here(shown) and shown.path == self._wanted:
            self._show(shown)
            self.follow_wanted.emit()

    def _is_here(self, shown: Shown) -> bool:
        """Whether a run that was read is still of the bench on the desk."""
        return self.bench is not None and shown.bench == self.bench.key

    def _refused(self, error: HearthlineError) -> None:
        self.told.emit(error)

    def show_ghost(self, path: Path | None) -> None:
        """Keeps the curves of a stored run behind those of the shown one; None takes them away."""
        if path is None:
            self._take_ghost(None)
            return

        def question(report: object) -> Shown:
            stored = read_run(path)
            return Shown(stored.run, stored.record.made, f"{stored.record.made:%H:%M}", path, stored.record.bench_key)

        self.pinner.ask(question)

    def _take_ghost(self, ghost: Shown | None) -> None:
        if ghost is not None and not self._is_here(ghost):
            return
        self.ghost = ghost
        self.ghost_changed.emit()

    @property
    def loading(self) -> bool:
        """Whether a stored run, its readings, or what is asked of them is still to come."""
        return self.loader.busy or self.reader.busy or self.pinner.busy or self.basis.busy

    # -- the logbook

    def read_logbook(self) -> None:
        """Reads the list of stored runs anew."""
        self.entries, problems = read_logbook(self.folder)
        self.rule = read_rule(self.folder)
        if problems:
            self.told.emit(problems[0])
        self.logbook_changed.emit()

    def pin(self, entry: LogEntry, pinned: bool) -> None:
        """A pinned run is never cleaned away."""
        names = [name for name in self.rule.pinned if name != entry.path.name]
        self._keep_rule(replace(self.rule, pinned=(*names, entry.path.name) if pinned else tuple(names)))

    def keep(self, count: int) -> None:
        """How many runs of each bench cleaning leaves."""
        self._keep_rule(replace(self.rule, kept=count))

    def _keep_rule(self, rule: Rule) -> None:
        try:
            write_rule(self.folder, rule)
        except HearthlineError as error:
            self.told.emit(error)
        self.read_logbook()

    @property
    def cleanable(self) -> list[LogEntry]:
        """What the rule would give up now; never the run on the desk or behind it."""
        shown = {one.path for one in (self.shown, self.ghost) if one}
        return [entry for entry in to_clean(self.entries, self.rule) if entry.path not in shown]

    def clean(self) -> None:
        """Deletes what the rule gives up."""
        for entry in self.cleanable:
            entry.path.unlink(missing_ok=True)
        self.read_logbook()

    def close(self) -> None:
        """Ends all threads."""
        self.runner.close()
        for worker in (self.loader, self.reader, self.basis, self.pinner):
            worker.close()


def _formulas(bench: Bench | None) -> tuple:
    """What readings depend on beside the curves."""
    return (bench.readings, bench.analysis_names) if bench else ()


def _note(run: Run) -> str:
    points = sum(data.outcomes.size for data in run.results.values())
    count = len(run.conditions)
    note = f"{count} condition{'s' * (count != 1)}, {points} points"
    note += f" in {run.seconds:.2f} s" if run.seconds else ", nothing was new"
    if run.failures:
        note += f" · {len(run.failed())} did not converge"
    if not run.complete:
        note += " · stopped"
    return note
