"""The state of the window: what is open, selected, solved and run. Panels watch it and never call each other."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from hearthline.app.state.documents import Documents
from hearthline.app.state.live import LiveSolver, PointAnswer
from hearthline.app.state.logbook import Entry, read_logbook
from hearthline.app.state.runner import RunAnswer, Runner
from hearthline.app.state.study import DeviceStudy
from hearthline.core.bench.bench import Bench, Reading, Specification
from hearthline.core.bench.readings import judge_all, read_all
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.bench.verdict import Verdict
from hearthline.core.circuit.cell import Cell, Part
from hearthline.core.circuit.flatten import Library
from hearthline.core.data.dataset import Dataset
from hearthline.core.errors import HearthlineError
from hearthline.core.formats.bench_file import bench_data
from hearthline.core.formats.cell_file import cell_data
from hearthline.core.formats.project_folder import Project
from hearthline.core.formats.run_file import read_run


@dataclass(frozen=True)
class Selection:
    """What is selected on the drawing: a `part`, a `pin` or a `net`, by name; nothing where the kind is empty."""

    kind: str = ""
    name: str = ""


class Desk(QObject):
    """Plain values with signals; one for each thing that can change."""

    project_changed = pyqtSignal()
    bench_changed = pyqtSignal()
    document_changed = pyqtSignal()
    selection_changed = pyqtSignal()
    pointed_net_changed = pyqtSignal()
    point_solved = pyqtSignal()
    run_changed = pyqtSignal()
    verdicts_changed = pyqtSignal()
    lane_changed = pyqtSignal()
    cursor_changed = pyqtSignal()
    logbook_changed = pyqtSignal()
    message_changed = pyqtSignal()
    show_reading = pyqtSignal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.bench_key = ""
        self.selection = Selection()
        self.pointed_net = ""
        self.point: PointAnswer | None = None
        self.dataset: Dataset | None = None
        self.run_note = ""
        self.run_basis: dict = {}
        self.run_log: tuple[str, ...] = ()
        self.failures: Mapping[int, str] = {}
        self.readings: dict[str, np.ndarray] = {}
        self._read_formulas: tuple[Reading, ...] = ()
        self.verdicts: dict[str, Verdict] = {}
        self.lane = -1
        self.cursor: float | None = None
        self.entries: list[Entry] = []
        self.message: HearthlineError | None = None
        self.shown_run: Path | None = None
        self.documents = Documents(self)
        self.live = LiveSolver(self)
        self.study = DeviceStudy(self)
        self.device_shown = False
        self.runner = Runner(self)
        self.documents.changed.connect(self._take_change)
        self.documents.failed.connect(self.tell)
        self.live.answered.connect(self._take_point)
        self.runner.finished.connect(self._take_run)

    # -- what is open

    def open(self, folder: Path, bench: str | None = None) -> None:
        """Opens the project in `folder`. Raises FileError where it has no readable project.toml."""
        self.documents.open(folder)
        self.message = self.project.problems[0] if self.project.problems else None
        self.project_changed.emit()
        self.message_changed.emit()
        keys = list(self.project.benches)
        self.show_bench(bench if bench in keys else keys[0] if keys else "")

    def show_bench(self, key: str) -> None:
        """Makes the bench of that key the current one, with the newest of its stored runs."""
        self.bench_key = key
        self.select("", "")
        self.point, self.cursor, self.lane = None, None, -1
        self._forget_run()
        self.bench_changed.emit()
        self.document_changed.emit()
        self.read_logbook()
        newest = next((entry for entry in self.entries if entry.bench == key), None)
        if newest:
            self.show_run(newest.path)
        self._solve()

    @property
    def project(self) -> Project | None:
        """The open project as it is now, saved or not."""
        return self.documents.project

    @property
    def bench(self) -> Bench | None:
        """The current bench."""
        return self.project.benches.get(self.bench_key) if self.project else None

    @property
    def cell(self) -> Cell | None:
        """The cell under test."""
        return self.project.cells.get(self.bench.cell) if self.bench else None

    @property
    def snapshot(self) -> Snapshot | None:
        """What a run would be made of now; None without bench or kit."""
        if not self.bench or not self.project.kit:
            return None
        return Snapshot(self.bench, self.project.cells, self.project.kit)

    @property
    def library(self) -> Library:
        """What parts may be, with the kit's devices as far as there is a kit."""
        kit = self.project.kit
        return (
            Library(self.project.cells, kit.symbols, kit.templates, kit.modules)
            if kit
            else Library(self.project.cells, {})
        )

    # -- selection

    def select(self, kind: str, name: str) -> None:
        """Selects a part, pin or net."""
        if self.selection != Selection(kind, name):
            self.documents.end_typing()
            self.selection = Selection(kind, name)
            self.selection_changed.emit()

    def point_at(self, net: str) -> None:
        """The net under the pointer, on the drawing or in a chart."""
        if self.pointed_net != net:
            self.pointed_net = net
            self.pointed_net_changed.emit()

    def choose_lane(self, lane: int) -> None:
        """The condition that stands out in the charts; -1 for none."""
        if self.lane != lane:
            self.lane = lane
            self.lane_changed.emit()

    def move_cursor(self, x: float | None) -> None:
        """The shared cursor of all charts, in units of the swept quantity."""
        if self.cursor != x:
            self.cursor = x
            self.cursor_changed.emit()

    # -- changes, each undoable

    def change_part(self, part: Part, field: str) -> None:
        """Exchanges a part of the current cell; typing in one field is one step back."""
        old = self.cell
        text = f"{part.name} {field} = {part.values.get(field, '')}"
        self.documents.exchange(old, old.with_part(part), text, f"{old.name}/{part.name}/{field}")

    def change_bench(self, new: Bench, text: str, field: str = "") -> None:
        """Exchanges the current bench."""
        self.documents.exchange(self.bench, new, text, field and f"{new.key}/{field}")

    def change_limit(self, specification: Specification, field: str) -> None:
        """New limits of one reading: the verdict follows from the stored numbers."""
        self.change_bench(self.bench.with_specification(specification), f"{specification.reading} limit", field)

    def _take_change(self) -> None:
        self.document_changed.emit()
        self._judge()
        self._solve()

    # -- solving

    def _solve(self) -> None:
        snapshot = self.snapshot
        if snapshot:
            self.live.ask(snapshot)

    def _take_point(self, answer: PointAnswer) -> None:
        self.point = answer
        self.point_solved.emit()

    def run(self) -> None:
        """Runs the bench over all its conditions."""
        snapshot = self.snapshot
        if snapshot is None:
            self.tell(HearthlineError("nothing can be run: the project has no bench, or its process kit is missing"))
            return
        self.tell(None)
        self.runner.run(snapshot, self.project.folder / "runs")

    def stop(self) -> None:
        """Stops the run; what is done is kept."""
        self.runner.stop()

    def _take_run(self, answer: RunAnswer) -> None:
        if answer.run and answer.run.snapshot.bench.key == self.bench_key:
            self.shown_run = answer.path
            made_of = answer.run.snapshot
            self.run_basis = _basis(bench_data(made_of.bench), _cells_data(made_of.cells))
            run = answer.run
            self._show_dataset(run.dataset, _note(run), run.log, run.failures)
        self.tell(answer.error)
        self.read_logbook()

    def show_run(self, path: Path) -> None:
        """Shows a stored run of the current bench again."""
        try:
            stored = read_run(path)
        except HearthlineError as error:
            self.tell(error)
            return
        self.shown_run = path
        self.run_basis = _basis(stored.record.bench, stored.record.cells)
        self._show_dataset(stored.dataset, f"run of {stored.record.made:%d %b %H:%M}", stored.log, stored.failures)

    @property
    def stale(self) -> bool:
        """Whether the shown run was made of another circuit, sweep or grid than what is on the desk now."""
        if self.dataset is None or self.bench is None:
            return False
        return self.run_basis != _basis(bench_data(self.bench), _cells_data(self.project.cells))

    def _show_dataset(self, dataset: Dataset, note: str, log: tuple[str, ...], failures: Mapping[int, str]) -> None:
        self.dataset, self.run_note, self.run_log, self.failures = dataset, note, log, failures
        self.choose_lane(-1)
        self._read()
        self.run_changed.emit()
        self._judge()

    def _forget_run(self) -> None:
        self.dataset, self.run_note, self.shown_run, self.readings = None, "", None, {}
        self.run_changed.emit()

    def _read(self) -> None:
        """Takes the readings from the shown run; they change with the run and with their formulas only."""
        self.readings = read_all(self.bench, self.dataset) if self.bench and self.dataset else {}
        self._read_formulas = self.bench.readings if self.bench else ()

    def _judge(self) -> None:
        if not self.bench:
            return
        if self.bench.readings != self._read_formulas:
            self._read()
        self.verdicts = judge_all(self.bench, self.readings)
        self.verdicts_changed.emit()

    def read_logbook(self) -> None:
        """Reads the list of stored runs anew."""
        if self.project:
            self.entries, problems = read_logbook(self.project.folder / "runs")
            if problems:
                self.tell(problems[0])
            self.logbook_changed.emit()

    # -- messages

    def tell(self, error: HearthlineError | None) -> None:
        """Shows an error, or takes the last one away."""
        self.message = error
        self.message_changed.emit()

    def close(self) -> None:
        """Ends all threads."""
        self.runner.close()
        self.live.close()
        self.study.close()


def _note(run) -> str:
    lanes = run.dataset.lanes
    note = f"{lanes} conditions × {len(run.dataset.points)} points in {run.seconds:.2f} s"
    if run.failures:
        note += f" · {len(run.failures)} did not converge"
    if not run.complete:
        note += " · stopped"
    return note


def _cells_data(cells: Mapping[str, Cell]) -> dict:
    return {name: cell_data(cell) for name, cell in cells.items()}


def _basis(bench: Mapping, cells: Mapping[str, Mapping]) -> dict:
    """What the curves of a run depend on: circuits, grid, sweep and stimuli, but not the swept one's own value."""
    stimuli = [
        {k: v for k, v in s.items() if k != "dc" or s["name"] != bench["sweep"]["stimulus"]} for s in bench["stimuli"]
    ]
    return {"cells": dict(cells), "stimuli": stimuli, "grid": bench["grid"], "sweep": bench["sweep"]}
