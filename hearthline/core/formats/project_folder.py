"""A project as a folder of small text files. What one file says wrong never keeps the others from opening."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from functools import partial
from pathlib import Path
from typing import Any

from hearthline.core import limits
from hearthline.core.bench.bench import Bench
from hearthline.core.circuit.cell import Cell
from hearthline.core.errors import FileError, HearthlineError
from hearthline.core.formats.atomic import write_atomically
from hearthline.core.formats.bench_file import read_bench, write_bench
from hearthline.core.formats.cell_file import read_cell, write_cell
from hearthline.core.formats.kit_folder import find_kit, read_kit
from hearthline.core.formats.network_files import Networks
from hearthline.core.formats.toml_table import Table, read_toml, read_version, write_toml
from hearthline.core.models.module import Module
from hearthline.core.models.veriloga.compiler import compile_file
from hearthline.core.process.kit import ProcessKit

FORMAT = 1
_NOT_IN_A_NAME = re.compile(r"[/\\\x00-\x1f\x7f]")
ANYTHING = object()
"""For saving without looking at what is there."""
DEVICES = "devices"
"""Folder of the project's own Verilog-A texts."""


@dataclass(frozen=True)
class Project:
    """An open project: cells by name, benches by key, the kit (None where it could not be read) with the modules of the
    project's own device texts (`texts`, names of files in `devices`), and the problems. `unread` are listed files that
    could not be read."""

    folder: Path
    name: str
    kit: ProcessKit | None
    cells: Mapping[str, Cell]
    benches: Mapping[str, Bench]
    problems: tuple[HearthlineError, ...] = ()
    note: str = ""
    bench_files: Mapping[str, str] = field(default_factory=dict)
    texts: tuple[str, ...] = ()
    unread: tuple[str, ...] = ()


def read_project(folder: Path, patient: bool = False) -> Project:
    """Opens the project in `folder`. Raises FileError only where `project.toml` itself cannot be read; every other
    mistake is one of the project's problems, and the rest opens. For a `patient` one see `Networks`."""
    table = read_toml(folder / "project.toml", "project.toml")
    read_version(table, FORMAT)
    name, kit_name = table.string("name"), table.string("kit")
    cell_names, bench_names = _names(table, "cells"), _names(table, "benches")
    if problem := path_problem(kit_name, inside=True):
        raise table.error(f"kit: {problem}", "kit")
    note = table.string("note", "")
    table.done()
    problems: list[HearthlineError] = []
    kit = _attempt(problems, lambda: read_kit(find_kit(kit_name, folder)))
    texts = tuple(sorted(path.name for path in (folder / DEVICES).glob("*.va")))
    modules = {module.name.lower(): module for text in texts for module in _modules(folder, text, problems)}
    kit = kit.with_modules(modules) if kit and modules else kit
    kit = replace(kit, networks=Networks(folder / DEVICES, f"{DEVICES}/", patient)) if kit else kit
    cells = {n: _attempt(problems, partial(_cell, folder, n)) for n in cell_names}
    benches = {n: _attempt(problems, partial(_bench, folder, n)) for n in bench_names}
    found = {file: bench for file, bench in benches.items() if bench is not None}
    return Project(
        folder, name, kit,
        {n: cell for n, cell in cells.items() if cell is not None},
        {bench.key: bench for bench in found.values()},
        tuple(problems), note,
        {bench.key: file for file, bench in found.items()}, texts,
        tuple(n for n in (*cell_names, *bench_names) if {**cells, **benches}.get(n) is None),
    )  # fmt: skip


def path_problem(name: str, inside: bool = False) -> str:
    """Why a name cannot be that of a file of the project, or nothing; `inside` allows folders of the project."""
    pieces = name.split("/") if inside else [name]
    if any(piece in ("", ".", "..") or len(piece) > limits.NAME or _NOT_IN_A_NAME.search(piece) for piece in pieces):
        return f"'{name[:60]}' leads out of the project or is no name of a file; use letters, digits, _ and -"
    return ""


def _names(table: Table, key: str) -> tuple[str, ...]:
    names = table.strings(key, ())
    if len(names) > limits.LISTED:
        raise table.error(f"'{key}' lists {len(names)}; a project has at most {limits.LISTED}", key)
    for name in names:
        if problem := path_problem(name):
            raise table.error(f"{key}: {problem}", key)
    return names


def _modules(folder: Path, text: str, problems: list[HearthlineError]) -> tuple[Module, ...]:
    shown = f"{DEVICES}/{text}"
    return _attempt(problems, lambda: compile_file(folder / DEVICES / text, shown)) or ()


def save_text(folder: Path, name: str, text: str, opened: str | None = None) -> None:
    """Writes a device text of the project; `opened` is what the file held when it was read, None where that is not known.

    Raises FileError where it cannot be written, or somebody else has changed it since.
    """
    path = folder / DEVICES / _sound(name)
    if opened is not None and path.is_file():
        try:
            now = path.read_text(encoding="utf-8", errors="replace")
        except OSError:
            now = opened
        if now not in (opened, text):
            raise FileError(
                "was changed by somebody else since it was opened; rename that file to keep both, then save again",
                f"{DEVICES}/{name}",
            )
    try:
        path.parent.mkdir(exist_ok=True)
    except OSError as error:
        raise FileError(f"cannot be written: {error.strerror}", f"{DEVICES}/{name}") from None
    write_atomically(path, text)


def _attempt(problems: list[HearthlineError], action: Callable[[], Any]) -> Any:
    try:
        return action()
    except HearthlineError as error:
        problems.append(error)
    except Exception as error:  # a fault of ours in one file must not keep the others from opening
        problems.append(HearthlineError(f"a file of the project could not be read ({type(error).__name__}: {error})"))
    return None


def _cell(folder: Path, name: str) -> Cell:
    shown = f"cells/{name}.toml"
    return read_cell(_existing(folder, shown), shown)


def _bench(folder: Path, name: str) -> Bench:
    shown = f"benches/{name}.toml"
    return read_bench(_existing(folder, shown), shown)


def _existing(folder: Path, shown: str) -> Path:
    path = folder / shown
    if not path.is_file():
        raise FileError(f"lists {shown}, and there is no such file; restore it or take it off the list", "project.toml")
    return path


def save_cell(project: Project, cell: Cell, opened: Cell | object | None = ANYTHING) -> None:
    """Writes one cell of the project; `opened` is what the file held when it was read, None of a cell that has none yet.

    Raises FileError where the file cannot be written, or somebody else has changed it since.
    """
    shown = f"cells/{_sound(cell.name)}.toml"
    _refuse_conflict(project.folder / shown, shown, read_cell, opened)
    write_cell(project.folder / shown, cell)


def _sound(name: str) -> str:
    if problem := path_problem(name):
        raise FileError(problem, name[:60])
    return name


def save_bench(project: Project, bench: Bench, opened: Bench | object | None = ANYTHING) -> None:
    """Writes one bench of the project; as `save_cell`."""
    shown = f"benches/{_sound(project.bench_files.get(bench.key, bench.key))}.toml"
    _refuse_conflict(project.folder / shown, shown, read_bench, opened)
    write_bench(project.folder / shown, bench)


def save_listing(project: Project, opened: tuple[tuple[str, ...], tuple[str, ...]] = ((), ())) -> None:
    """Writes which cells and benches the project has; what another window has added since `opened` (cells, benches) stays.
    Raises FileError."""
    path = project.folder / "project.toml"
    table = read_toml(path, "project.toml")
    for folder in ("cells", "benches"):
        try:
            (project.folder / folder).mkdir(exist_ok=True)
        except OSError as error:
            raise FileError(f"cannot be made: {error.strerror}", folder) from None
    listed = {
        "cells": list(project.cells),
        "benches": [project.bench_files.get(key, key) for key in project.benches],
    }
    before = {"cells": set(opened[0]), "benches": {project.bench_files.get(key, key) for key in opened[1]}}
    for key, names in listed.items():  # what could not be read stays listed
        there = table.strings(key, ())
        names += [name for name in there if name not in names and (name in project.unread or name not in before[key])]
    write_toml(path, {**table.data, **listed})


def _refuse_conflict(path: Path, shown: str, read: Callable, opened: Cell | Bench | object | None) -> None:
    if opened is ANYTHING or not path.is_file():
        return
    if opened is None:
        raise FileError(
            "is there already, and was not opened here; rename that file to keep both, then save again", shown
        )
    if read(path, shown) != opened:
        raise FileError(
            "was changed by somebody else since it was opened; rename that file to keep both, then save again", shown
        )
