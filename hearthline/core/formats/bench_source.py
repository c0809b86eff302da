"""Benches to be run without a window: from a bench file or a project's folder, over cells or over decks, with the place in the
file of whatever is wrong."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from difflib import get_close_matches
from functools import cached_property
from pathlib import Path

from hearthline.core.bench.bench import Bench, Reading, Watch
from hearthline.core.bench.check import labels_of
from hearthline.core.bench.heat import SECTION as HEAT
from hearthline.core.bench.heat import SOURCES
from hearthline.core.bench.only import with_only
from hearthline.core.bench.sampled import SamplePlan, sample_plan
from hearthline.core.bench.samples import SampleSetup, sampling_of
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.circuit.cell import Cell
from hearthline.core.data.formula import Formula
from hearthline.core.errors import AnalysisError, BenchError, CircuitError, FileError, HearthlineError
from hearthline.core.formats.bench_file import bench_of, wrong_key
from hearthline.core.formats.deck.bench import snapshot_over_deck
from hearthline.core.formats.project_folder import Project, path_problem, read_project
from hearthline.core.formats.toml_table import Table, read_toml
from hearthline.core.quantity import read
from hearthline.core.thermal.die import PlanError

BENCHES = "benches"
TAKEN = ("readings", "samples", "yield", "contributions")
"""No analysis can be called so: a table of the results is."""


@dataclass(frozen=True)
class BenchSource:
    """A bench with the file that it stands in; `project` is that of a bench over a cell."""

    path: Path
    shown: str
    table: Table
    bench: Bench
    project: Project | None = None

    # -- what it is made of

    @cached_property
    def snapshot(self) -> Snapshot:
        """What a run is made of. Raises FileError with the place of what is wrong."""
        if self.bench.deck:
            try:
                return snapshot_over_deck(self.bench, self.path.parent)
            except BenchError as error:
                raise self._at(error.section, error.index, error.key, str(error)) from None
        project = self.project
        if project is None:
            message = "a bench over a cell belongs to a project: put it into its folder `benches`, beside project.toml"
            raise self.table.error(message, "cell")
        if project.kit is None or self.bench.cell not in project.cells:
            raise self._unreadable(project)
        return Snapshot(self.bench, project.cells, project.kit)

    def _unreadable(self, project: Project) -> HearthlineError:
        """Why there is no kit, or no cell."""
        wanted = "kit" if project.kit is None else f"cells/{self.bench.cell}.toml"
        for problem in project.problems:
            if wanted == "kit" or wanted in str(problem):
                return problem
        known = ", ".join(project.cells) or "none"
        return self.table.error(f"there is no cell '{self.bench.cell}'; the project has {known}", "cell")

    def only(self, names: Iterable[str]) -> BenchSource:
        """The same with some of its analyses, and what is taken from them. Raises FileError for another name."""
        names = list(names)
        for name in names:
            if name not in self.bench.analysis_names:
                known = ", ".join(self.bench.analysis_names) or "none"
                raise FileError(f"{self.shown} has no analysis '{name}'; it has {known}", "--only")
        return replace(self, bench=with_only(self.bench, set(names)))

    def isothermal(self) -> BenchSource:
        """The same with heat switched off."""
        heat = self.bench.heat
        return self if heat is None else replace(self, bench=replace(self.bench, heat=replace(heat, isothermal=True)))

    def with_samples(self, count: str | None, seed: str | None) -> BenchSource:
        """The same with another number of samples (0: none), and drawn from another seed. Raises FileError."""
        own = self.bench.samples
        if count is not None and count.strip() == "0":
            return replace(self, bench=replace(self.bench, samples=None))
        if count is None and (own is None or seed is None):
            return self
        setup = own or SampleSetup()
        setup = replace(setup, count=setup.count if count is None else count, seed=setup.seed if seed is None else seed)
        try:
            sampling_of(setup, self.bench.tolerances)
        except BenchError as error:
            raise FileError(str(error), "--seed" if error.key == "seed" else "--samples") from None
        return replace(self, bench=replace(self.bench, samples=setup))

    def sample_plan(self) -> SamplePlan | None:
        """What is to be sampled, where the bench has samples. Raises FileError at what is wrong."""
        if self.bench.samples is None:
            return None
        try:
            return sample_plan(self.snapshot)
        except BenchError as error:
            raise self._at(error.section, error.index, error.key, str(error)) from None
        except CircuitError as error:
            parts = [one.part.lower() for one in self.bench.tolerances]
            if error.part.lower() in parts:
                raise self._at("tolerances", parts.index(error.part.lower()), ("of", "part"), str(error)) from None
            if error.part in {**self.bench.samples.mismatch, **self.bench.samples.process}:
                raise self._at("samples", 0, error.part, str(error)) from None
            raise self.problem(error) from None

    def check(self) -> None:
        """Raises FileError at what can be seen to be wrong before anything is run."""
        for name in self.bench.analysis_names:
            if name in TAKEN:
                message = f"{name}.csv is a table of the results; call the analysis otherwise"
                raise self.at_item("analyses", name, "name", message)
        snapshot = self.snapshot
        self._check_conditions(snapshot)
        try:
            known = labels_of(snapshot)
        except HearthlineError as error:
            raise self.problem(error) from None
        items: tuple[Watch | Reading, ...] = (*self.bench.watches, *self.bench.readings)
        for item in items:
            formula = Formula.parse(item.formula, self.bench.analysis_names)
            for name, labels in formula.needs(self.bench.analysis_of(item)).items():
                for label in labels:
                    if label not in known[name]:
                        raise self._of_formula(item, _no_quantity(label, name, known[name]))

    def _check_conditions(self, snapshot: Snapshot) -> None:
        """Raises FileError at a temperature or parameter that is no number."""
        grid, point = self.bench.grid, self.bench.point
        texts = [("grid", "temperatures", "temperature", text, "°C") for text in grid.temperatures]
        texts.append(("point", "temperature", "temperature", point.temperature, "°C"))
        texts += [("point", name, name, text, "V") for name, text in point.parameters.items()]
        texts += [("grid", name, name, text, "V") for name, values in grid.parameters.items() for text in values]
        for section, key, owner, text, unit in texts:
            try:
                read(text, unit) if unit == "°C" else snapshot.number(owner, text, unit)
            except HearthlineError as error:
                raise self._at(section, 0, key, str(error)) from None

    def _of_formula(self, item: Watch | Reading, message: str) -> FileError:
        if isinstance(item, Watch):
            return self.of_watch(item, message)
        return self.at_item("readings", item.name, "formula", message)

    @property
    def folder(self) -> str:
        """What a folder of its results is called. Raises FileError for a name that leads out of the one above it."""
        if problem := path_problem(self.bench.key):
            raise self.table.error(problem, "name")
        return self.bench.key

    # -- where things stand

    def problem(self, error: HearthlineError) -> HearthlineError:
        """The error with its place in the file, where it has none."""
        if isinstance(error, FileError) or (isinstance(error, CircuitError) and error.file and error.line):
            return error
        if isinstance(error, BenchError):
            return self._at(error.section, error.index, error.key, str(error))
        if isinstance(error, PlanError):
            return self._of_heat(error)
        if isinstance(error, AnalysisError):
            return self.at_item("analyses", error.analysis, "line", error.message)
        if isinstance(error, CircuitError):
            return self._of_circuit(error)
        return FileError(str(error), self.shown)

    def _of_heat(self, error: PlanError) -> FileError:
        own = self.table.table(HEAT)
        lines = zip(own.tables(SOURCES), self.bench.heat.sources if self.bench.heat else (), strict=True)
        where = next((item for item, line in lines if line.part.lower() == error.part), own)
        return where.error(str(error), error.key)

    def _of_circuit(self, error: CircuitError) -> HearthlineError:
        names = [one.name.lower() for one in self.bench.stimuli]
        part = error.part.lower()
        if part in names:
            wrong = wrong_key(self.bench.stimuli[names.index(part)], str(error))
            keys = ("pin", "to") if "has no" in str(error) else (wrong, "wave", "dc", "ac")
            return self._at("stimuli", names.index(part), keys, str(error))
        blocks = [one.name.lower() for one in self.bench.blocks]
        if part in blocks:
            return self._at("blocks", blocks.index(part), ("nets", "file"), str(error))
        if part.startswith("parameter ") or part in self.bench.point.parameters:
            return self._at("point", 0, error.part.removeprefix("parameter "), str(error))
        if self.project is None or self.bench.cell not in self.project.cells:
            return FileError(str(error), self.shown)
        return _in_cell(self.project, self.project.cells[self.bench.cell], error)

    def at_item(self, section: str, name: str, key: str, message: str) -> FileError:
        """An error at a key of the entry of that name in a list."""
        names = [item.get("name", "") for item in self.table.data.get(section, [])]
        return self._at(section, names.index(name) if name in names else 0, key, message)

    def of_watch(self, watch: Watch, message: str) -> FileError:
        """An error at the formula of a watch."""
        index = next((k for k, one in enumerate(self.bench.watches) if one is watch), 0)
        formulas = [item.get("formula", "") for item in self.table.data.get("watches", [])]
        index = formulas.index(watch.formula) if watch.formula in formulas else index
        return self._at("watches", index, "formula", message)

    def _at(self, section: str, index: int, key: str | tuple[str, ...], message: str) -> FileError:
        value = self.table.data.get(section)
        if isinstance(value, list) and index < len(value):
            table = self.table.tables(section)[index]
        elif isinstance(value, dict):  # tables inside it follow in the file
            table = Table(value, self.table.file, self.table.text, self.table.table(section).first)
        elif not section:
            table = self.table
        else:
            return self.table.error(message, section)
        keys = (key,) if isinstance(key, str) else key
        there = next((one for one in keys if table.has(one)), keys[0])
        return table.error(message, there)


def _no_quantity(label: str, analysis: str, known: frozenset[str]) -> str:
    near = get_close_matches(label, known, 3, 0.5) or sorted(known)[:12]
    return f"there is no '{label}' in {analysis}; did you mean {', '.join(near)}?"


def _in_cell(project: Project, cell: Cell, error: CircuitError) -> FileError:
    """At the part in the file of the cell, where it is one."""
    shown = f"cells/{cell.name}.toml"
    base = error.part.partition(".")[0].lower()
    for k, part in enumerate(cell.parts):
        if part.name.lower() == base:
            try:
                return read_toml(project.folder / shown, shown).tables("parts")[k].error(str(error), "name")
            except (HearthlineError, IndexError):
                break
    return FileError(str(error), shown)


def read_benches(path: Path, names: Iterable[str] = ()) -> list[BenchSource]:
    """The bench in a file, or those of a project: the ones asked for by their keys, or all. Raises FileError."""
    names = list(names)
    if path.is_dir():
        return _of_project(path, names)
    if names:
        raise FileError("names of benches go with a project's folder, and this is a file", str(path))
    table = read_toml(path, str(path))
    bench = bench_of(table)
    here = path.resolve().parent
    folder = next((one for one in (here.parent, here) if (one / "project.toml").is_file()), None)
    project = read_project(folder) if folder and bench.cell else None
    return [BenchSource(path, str(path), table, bench, project)]


def _of_project(folder: Path, names: list[str]) -> list[BenchSource]:
    if not (folder / "project.toml").is_file():
        raise FileError("is no project: it has no project.toml; name a bench file, or a project's folder", str(folder))
    project = read_project(folder)
    keys = {file: key for key, file in project.bench_files.items()}
    wanted = names or list(project.benches)
    found = []
    for name in wanted:
        key = keys.get(name, name)
        if key not in project.benches:
            raise _no_bench(project, name)
        shown = f"{BENCHES}/{project.bench_files[key]}.toml"
        path = folder / shown
        found.append(BenchSource(path, shown, read_toml(path, shown), project.benches[key], project))
    for problem in project.problems if not names else ():
        raise problem
    if not found:
        raise FileError("the project has no bench", "project.toml")
    return found


def _no_bench(project: Project, name: str) -> HearthlineError:
    for problem in project.problems:
        if isinstance(problem, FileError) and problem.file == f"{BENCHES}/{name}.toml":
            return problem
    known = ", ".join(project.benches) or "none"
    return FileError(f"there is no bench '{name}'; the project has {known}", "project.toml")
