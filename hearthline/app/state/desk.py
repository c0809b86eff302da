"""The state of the window: what is open, selected, solved and run. Panels watch it and never call each other."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from hearthline.app.state.bench_names import next_bench, problem_of_name
from hearthline.app.state.contributors import warm_parts
from hearthline.app.state.die import DieState
from hearthline.app.state.documents import Documents
from hearthline.app.state.housings import Housings
from hearthline.app.state.interconnects import Interconnects
from hearthline.app.state.last_points import LastPoints
from hearthline.app.state.live import CheckRequest, LiveSolver, PointAnswer
from hearthline.app.state.matching import Matching
from hearthline.app.state.offers import Offers
from hearthline.app.state.results import Results
from hearthline.app.state.runner import RunRequest
from hearthline.app.state.selection import Selection, picked_by_name, selection_of
from hearthline.app.state.sizes import Sizes
from hearthline.app.state.snapshots import Snapshots
from hearthline.app.state.spread import SpreadState
from hearthline.app.state.study import DeviceStudy
from hearthline.app.state.trials import Trials
from hearthline.app.state.values import PointValues, current_into
from hearthline.app.state.warmth import Warmth
from hearthline.app.state.worker import NewestWins
from hearthline.core.bench.bench import Bench, Specification, bare_bench
from hearthline.core.bench.first import first_bench
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.circuit.cell import Cell, Part
from hearthline.core.circuit.edit.picked import Picked
from hearthline.core.circuit.flatten import Library
from hearthline.core.circuit.instance import Instance, instance_at
from hearthline.core.circuit.rules.finding import ERROR, Finding
from hearthline.core.errors import CircuitError, HearthlineError
from hearthline.core.formats.project_folder import Project
from hearthline.core.formats.run_file import Record, made_of

CHECK_MILLISECONDS = 120
"""How long after an operating point the checks begin, so that they do not slow down the next one under a typing hand."""


class Desk(QObject):
    """Plain values with signals; one for each thing that can change."""

    project_changed = pyqtSignal()
    bench_changed = pyqtSignal()
    document_changed = pyqtSignal()
    selection_changed = pyqtSignal()
    trail_changed = pyqtSignal()
    findings_changed = pyqtSignal()
    pointed_net_changed = pyqtSignal()
    point_solved = pyqtSignal()
    message_changed = pyqtSignal()
    said = pyqtSignal(str)
    show_reading = pyqtSignal(str)

    def __init__(self, parent: QObject | None = None, last_points: LastPoints | None = None) -> None:
        super().__init__(parent)
        self._last_points = last_points or LastPoints()
        self.bench_key = ""
        self._bare: dict[str, Bench] = {}
        self.trail: tuple[str, ...] = ()
        self.picked = Picked()
        self.last_values: PointValues | None = None
        self.findings: tuple[Finding, ...] = ()
        self.selection = Selection()
        self.pointed_net = ""
        self.point: PointAnswer | None = None
        self.message: HearthlineError | None = None
        self.documents = Documents(self)
        self.live = LiveSolver(self)
        self.study = DeviceStudy(self)
        self.device_shown = False
        self.results = Results(self)
        self.warmth = Warmth(self)
        self.offers, self.die, self.sizes = Offers(self), DieState(self), Sizes(self)
        self.trials, self.housings = Trials(self), Housings(self)
        self.interconnects = Interconnects("interconnect", self)
        self.matching = Matching(self)
        self.spread = SpreadState(self.results, self)
        self._snapshots = Snapshots(self.tell)
        self.documents.changed.connect(self._take_change)
        for signal in (self.documents.changed, self.bench_changed):
            signal.connect(self.warmth.forget)
            signal.connect(self.sizes.forget)
            signal.connect(self.trials.forget)
        self.documents.failed.connect(self.tell)
        self.housings.stored.connect(self.take_changed_files)
        self.live.answered.connect(self._take_point)
        self.checker = NewestWins("checks", self)
        self._check_soon = QTimer(self, singleShot=True, interval=CHECK_MILLISECONDS)
        self._check_soon.timeout.connect(self._check)
        self.checker.answered.connect(self._take_findings)
        self.results.told.connect(self.tell)
        self.results.follow_wanted.connect(lambda: self.results.follow(self.bench, self.snapshot))
        self.results.condition_changed.connect(self._solve)
        self.spread.one.changed.connect(self._solve)
        self.spread.told.connect(self.tell)
        self.document_changed.connect(self.spread.follow_bench)

    # -- what is open

    def open(self, folder: Path, bench: str | None = None) -> None:
        """Opens the project in `folder`. Raises FileError where it has no readable project.toml."""
        self.documents.open(folder)
        self._bare = {}
        self.message = self.project.problems[0] if self.project.problems else None
        self.project_changed.emit()
        self.message_changed.emit()
        keys = list(self.project.benches)
        if keys or not self.project.cells:
            self.show_bench(bench if bench in keys else keys[0] if keys else "")
        else:
            self.show_cell(next(iter(self.project.cells)))

    def show_bench(self, key: str) -> None:
        """Makes the bench of that key the current one, with the newest of its stored runs."""
        self.bench_key, self.trail = key, ()
        self.select("", "")
        self.point = None
        self.last_values, self.findings = self._last_points.values(self.project.folder, key), ()
        self.findings_changed.emit()
        self.bench_changed.emit()
        self.results.show_bench(self.bench, self.project.folder / "runs")
        self.document_changed.emit()
        self._solve()

    @property
    def project(self) -> Project | None:
        """The open project as it is now, saved or not."""
        return self.documents.project

    @property
    def bench(self) -> Bench | None:
        """The current bench; of a cell that has none, a bare one that is not kept."""
        if not self.project:
            return None
        return self.project.benches.get(self.bench_key) or self._bare.get(self.bench_key)

    @property
    def top(self) -> Cell | None:
        """The cell of the bench."""
        return self.project.cells.get(self.bench.cell) if self.bench else None

    @property
    def instance(self) -> Instance | None:
        """The shown cell as the instance that the trail of blocks leads to; blocks that are gone end the trail."""
        if self.top is None or not self.trail:
            return Instance(self.top) if self.top else None
        for length in range(len(self.trail), -1, -1):
            try:
                found = instance_at(self.top, self.trail[:length], self.library)
            except CircuitError:
                continue
            self.trail = self.trail[:length]
            return found
        return None

    @property
    def cell(self) -> Cell | None:
        """The shown cell: that of the bench, or one inside it."""
        instance = self.instance
        return instance.cell if instance else None

    def show_cell(self, name: str) -> None:
        """Shows a cell by itself: with the bench on it, or without any."""
        key = next((key for key, bench in self.project.benches.items() if bench.cell == name), "")
        if not key:
            key = f"cell {name}"
            corners = self.project.kit.models.names if self.project.kit else ("",)
            self._bare.setdefault(key, bare_bench(name, corners[0], self._usual_parameters()))
        self.show_bench(key)

    def follow_rename(self, keys: Mapping[str, str], old: str, new: str) -> None:
        """Keeps showing what is shown when a cell and its benches are about to get other names."""
        bare = self._bare.pop(f"cell {old}", None)
        if bare is not None:
            self._bare[f"cell {new}"] = replace(bare, cell=new)
            keys = {**keys, f"cell {old}": f"cell {new}"}
        self.bench_key = keys.get(self.bench_key, self.bench_key)

    @property
    def stands_alone(self) -> bool:
        """Whether a cell with pins is shown without a bench."""
        return self.bench is not None and not self.bench.name and bool(self.top and self.top.pins)

    def _usual_parameters(self) -> Mapping[str, str]:
        """Parameters of the other benches, so that a cell that is shown alone finds its supply."""
        found: dict[str, str] = {}
        for bench in self.project.benches.values():
            found = {**bench.point.parameters, **found}
        return found

    def enter(self, block: str) -> bool:
        """Goes into a block of the shown cell; False where it is none."""
        part = next((part for part in self.cell.parts if part.name == block), None) if self.cell else None
        if part is None or part.device not in self.project.cells:
            return False
        self._walk((*self.trail, block))
        return True

    def leave_block(self, length: int | None = None) -> bool:
        """Goes back out, by one block or to a `length` of the trail; False at the top."""
        if not self.trail:
            return False
        block = self.trail[-1] if length is None else ""
        self._walk(self.trail[:-1] if length is None else self.trail[:length])
        if block:
            self.select("part", block)
        return True

    def _walk(self, trail: tuple[str, ...]) -> None:
        self.select("", "")
        self.trail = trail
        self.trail_changed.emit()
        self.document_changed.emit()
        self._check()

    @property
    def snapshot(self) -> Snapshot | None:
        """What a run would be made of now, the same as long as nothing changes; None without bench or kit."""
        return self._snapshots.of(self.project, self.bench)

    @property
    def library(self) -> Library:
        """What parts may be, with the kit's devices as far as there is a kit."""
        kit = self.project.kit
        return (
            Library(self.project.cells, kit.symbols, kit.templates, kit.modules, kit.networks)
            if kit
            else Library(self.project.cells, {})
        )

    # -- selection

    def select(self, kind: str, name: str) -> None:
        """Selects a part, pin or net."""
        self._choose(Selection(kind, name), picked_by_name(kind, name))

    def pick(self, picked: Picked) -> None:
        """Selects anything on the drawing, one thing or many."""
        self._choose(selection_of(picked, self._net_at), picked)

    def _choose(self, selection: Selection, picked: Picked) -> None:
        if (self.selection, self.picked) != (selection, picked):
            self.documents.end_typing()
            self.selection, self.picked = selection, picked
            self.selection_changed.emit()

    def _net_at(self, place) -> str:
        nets = self.library.nets(self.cell)
        return nets.at.get(place, "") if nets else ""

    def point_at(self, net: str) -> None:
        """The net under the pointer, on the drawing or in a chart."""
        if self.pointed_net != net:
            self.pointed_net = net
            self.pointed_net_changed.emit()

    # -- changes, each undoable

    def change_part(self, part: Part, field: str) -> None:
        """Exchanges a part of the current cell; typing in one field is one step back."""
        old = self.cell
        text = f"{part.name} {field} = {part.values.get(field, '')}"
        self.documents.exchange(old, old.with_part(part), text, f"{old.name}/{part.name}/{field}")

    def change_bench(self, new: Bench, text: str, field: str = "") -> None:
        """Exchanges the current bench."""
        if self.bench_key in self._bare:
            self._bare[self.bench_key] = new
            self._take_change()
            return
        self.documents.exchange(self.bench, new, text, field and f"{new.key}/{field}")

    def new_bench(self, name: str) -> None:
        """A bench for the cell of the desk: pins tied by their kinds, or a copy of the bench that is there."""
        cell, now = self.top, self.bench
        if (cell is None and not (now and now.deck)) or not name.strip():
            return
        kit, usual = self.project.kit, self._usual_parameters()
        made = (
            replace(now, name=name.strip())
            if now is not None and now.name
            else first_bench(name.strip(), cell, kit, usual)
        )
        if self._can_be_called(made):
            self.documents.exchange(None, made, f"bench {made.title}")
            self.show_bench(made.key)

    def rename_bench(self, name: str) -> None:
        """Another name for the bench; its runs stay in the logbook under the old one."""
        now = self.bench
        if now is None or not now.name:
            return
        new = replace(now, name=name.strip())
        if self._can_be_called(new):
            self.bench_key = new.key
            self.documents.exchange(now, new, f"bench {now.name} → {new.name}")
            self.show_bench(new.key)

    def _can_be_called(self, bench: Bench) -> bool:
        """Whether a bench may come under its name; says why not."""
        problem = problem_of_name(bench, self.project)
        if problem:
            self.tell(HearthlineError(problem))
        return not problem

    def delete_bench(self) -> None:
        """Takes the bench out of the project; its runs stay."""
        now = self.bench
        if now is not None and now.name:
            key = next_bench(now, self.project)
            self.documents.exchange(now, None, f"bench {now.title} deleted")
            if key or not now.cell:
                self.show_bench(key)
            else:
                self.show_cell(now.cell)

    def change_limit(self, specification: Specification, field: str) -> None:
        """New limits of one reading: the verdict follows from the stored numbers."""
        self.change_bench(self.bench.with_specification(specification), f"{specification.reading} limit", field)

    def take_changed_files(self) -> None:
        """What parts are made of was written: circuits are made anew."""
        self._snapshots.forget()
        self.documents.changed.emit()

    def _take_change(self) -> None:
        over_a_deck = self.bench is not None and self.bench.deck
        if (
            self.top is None and self.project and not over_a_deck
        ):  # what was shown is gone, or has another name, by an undo
            self.show_bench(next(iter(self.project.benches), ""))
            return
        if self.cell is not None:
            kept = self.picked.within(self.cell)
            if kept != self.picked:
                self.pick(kept)
        self.results.follow(self.bench, self.snapshot)
        self.document_changed.emit()
        self._solve()

    # -- solving

    def _solve(self) -> None:
        snapshot = self.snapshot
        if snapshot:  # checks follow the answer, so that they do not delay it
            self.live.ask(snapshot, self.results.chosen, self.spread.one.draws)

    def heats(self, cell: Cell) -> Iterator[tuple[str, str, float]]:
        """(part, terminal, heat) on the shown cell: where it wants to oscillate, or else where the shown noise comes from and
        what costs the yield."""
        instance = self.instance
        if instance is not None:
            if self.warmth.found:
                yield from self.warmth.on(cell, instance)
            else:
                yield from warm_parts(self.results.dataset, cell, instance)
                yield from self.spread.on(cell, instance)

    def _check(self) -> None:
        """Asks for what the checks find on the shown cell."""
        if self.snapshot and self.cell:
            self.checker.ask(CheckRequest(self.snapshot, self.cell))

    def _take_findings(self, findings: tuple[Finding, ...]) -> None:
        if findings != self.findings:
            self.findings = findings
            self.findings_changed.emit()

    def _take_point(self, answer: PointAnswer) -> None:
        self.point = answer
        if answer.values is not None:
            self.last_values = answer.values
            self._last_points.put(self.project.folder, self.bench_key, answer.dataset)
        self.point_solved.emit()
        self._check_soon.start()

    def pin_currents(self, block: str) -> dict[str, float]:
        """Currents [A] into the pins of a block of the shown cell, as far as its devices tell them."""
        answer, instance = self.point, self.instance
        if answer is None or answer.values is None or instance is None:
            return {}
        try:
            inner = instance.inside(block, self.library)
            elements = answer.inside(inner.prefix)
        except CircuitError:
            return {}
        found = {pin: current_into(net, elements, answer.values) for pin, net in inner.outside.items()}
        return {pin: current for pin, current in found.items() if current is not None}

    def run(self, names: tuple[str, ...] | None = None, asked: bool = False, anew: bool = False) -> None:
        """Runs the analyses of the bench, or those of `names`, over all its conditions: what the shown run holds is taken over,
        or all is computed `anew`."""
        if self.bench is not None and self.bench.deck:  # edited elsewhere
            self._snapshots.forget()
            self._take_change()
        snapshot = self.snapshot
        if snapshot is None:
            if self.bench is None or not self.bench.deck:
                self.tell(
                    HearthlineError("nothing can be run: the project has no bench, or its process kit is missing")
                )
            return
        wrong = next((f for f in self.findings if f.weight == ERROR), None) if not self.trail else None
        if wrong is not None:
            self.tell(CircuitError(f"{wrong.message}; put this right before the run", part=wrong.part, net=wrong.net))
            return
        self.tell(None)
        before = None if anew else self.results.run
        self.results.runner.run(RunRequest(snapshot, self.project.folder / "runs", names, before, asked))

    def restore(self, record: Record) -> None:
        """Circuit and bench of a stored run in the place of today's, as one step."""
        try:
            bench, cells = made_of(record)
        except HearthlineError as error:
            self.tell(error)
            return
        reached = [name for name in cells if name == bench.cell or _reaches(cells, bench.cell, name)]
        pairs = [(self.project.cells.get(name), cells[name]) for name in reached]
        pairs.append((self.project.benches.get(bench.key), bench))
        self.documents.exchange_all(pairs, f"circuit of {record.made:%d %b %H:%M}")

    def repeat(self, record: Record) -> None:
        """The same circuit, bench and conditions computed once more, whatever is on the desk."""
        try:
            bench, cells = made_of(record)
        except HearthlineError as error:
            self.tell(error)
            return
        if self.project.kit is None:
            self.tell(HearthlineError("the process kit is missing"))
            return
        if bench.deck:
            self.tell(
                HearthlineError(f"the run holds the texts of {bench.deck} as they were; Run takes it as it is now")
            )
            return
        self.tell(None)
        snapshot = Snapshot(bench, cells, self.project.kit)
        note = f"{record.made:%H:%M:%S} repeated"
        self.results.runner.run(RunRequest(snapshot, self.project.folder / "runs", None, None, True, note))

    def stop(self) -> None:
        """Stops the run; what is done is kept."""
        self.results.runner.stop()

    # -- messages

    def tell(self, error: HearthlineError | None) -> None:
        """Shows an error, or takes the last one away."""
        self.message = error
        self.message_changed.emit()

    def say(self, text: str) -> None:
        """Good news, such as where something was written."""
        self.said.emit(text)

    def close(self) -> None:
        """Ends all threads, and keeps the last operating points."""
        self._last_points.write()
        self.results.close()
        self.live.close()
        self._check_soon.stop()
        self.checker.close()
        self.warmth.close()
        self.offers.close()
        self.die.close()
        self.sizes.close()
        self.trials.close()
        self.housings.close()
        self.interconnects.close()
        self.matching.close()
        self.spread.close()
        self.study.close()


def _reaches(cells: Mapping[str, Cell], top: str, name: str) -> bool:
    """Whether a cell stands somewhere inside another."""
    return Library(cells, {}).reaches(top, name)
