"""The journal of a project: changes that are not saved yet, kept beside the files in case the window ends by itself.

It holds the same tables as the files, as JSON: nobody edits it, and it is written while a person types. Each window has one of
its own and holds a lock beside it while it lives, so that another neither offers nor deletes what is still at work.
"""

from __future__ import annotations

import fcntl
import json
import os
from collections.abc import Iterable, Mapping
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path

from hearthline.core.bench.bench import Bench
from hearthline.core.circuit.cell import Cell
from hearthline.core.errors import FileError, HearthlineError
from hearthline.core.formats.atomic import write_atomically
from hearthline.core.formats.bench_file import bench_data, bench_of
from hearthline.core.formats.cell_file import cell_data, cell_of
from hearthline.core.formats.project_folder import path_problem
from hearthline.core.formats.toml_table import Table, check_values
from hearthline.core.texts import read_text

FOLDER, FILE = ".unsaved", "journal.json"
MOST = 100
Document = Cell | Bench


@dataclass(frozen=True)
class Unsaved:
    """What a journal holds: cells and benches, and device texts by the name of their file."""

    documents: tuple[Document, ...] = ()
    texts: Mapping[str, str] = field(default_factory=dict)


class Journal:
    """The journal of one window, made when there is something to keep."""

    def __init__(self, project: Path):
        self.folder = project / FOLDER
        self.path: Path | None = None
        self._lock: int | None = None

    def write(self, documents: Iterable[Document], texts: Mapping[str, str] | None = None) -> None:
        """Makes the journal hold just this. Raises FileError."""
        try:
            self.folder.mkdir(exist_ok=True)
            if self.path is None:
                self._take_a_name()
        except OSError as error:
            raise FileError(f"the journal cannot be written: {error.strerror}", str(self.folder)) from None
        cells, benches = {}, []
        for document in documents:
            if isinstance(document, Cell):
                cells[document.name] = cell_data(document)
            else:
                benches.append(bench_data(document))
        write_atomically(self.path, json.dumps({"cells": cells, "benches": benches, "texts": dict(texts or {})}))

    def clear(self) -> None:
        """Forgets it; those of other windows stay."""
        if self.path is not None:
            _remove(self.path)
            self.path = None
        if self._lock is not None:
            os.close(self._lock)
            self._lock = None
        with suppress(OSError):
            self.folder.rmdir()  # where nothing else is in it

    def _take_a_name(self) -> None:
        """The first that no file has and no window holds."""
        for number in range(1, MOST):
            path = self.folder / (FILE if number == 1 else f"journal-{number}.json")
            if path.exists():
                continue
            handle = os.open(_lock_of(path), os.O_RDWR | os.O_CREAT, 0o600)
            try:
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except OSError:
                os.close(handle)
                continue
            self.path, self._lock = path, handle
            return
        raise FileError(f"there are {MOST} journals already; look into them and delete some", str(self.folder))


def left_over(project: Path) -> list[Path]:
    """Journals of windows that ended by themselves, the oldest first."""
    found = []
    for path in (project / FOLDER).glob("journal*.json"):
        with suppress(OSError):
            if not _is_held(path):
                found.append((path.stat().st_mtime, path))
    return [path for _, path in sorted(found)]


def _is_held(path: Path) -> bool:
    try:
        handle = os.open(_lock_of(path), os.O_RDWR)
    except FileNotFoundError:
        return False
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return True
    finally:
        os.close(handle)
    return False


def forget(paths: Iterable[Path]) -> None:
    """Deletes journals that were answered for."""
    folders = set()
    for path in paths:
        _remove(path)
        folders.add(path.parent)
    for folder in folders:
        for half_written in folder.glob(".journal*.new"):
            with suppress(OSError):
                half_written.unlink()
        with suppress(OSError):
            folder.rmdir()


def _remove(path: Path) -> None:
    for one in (path, _lock_of(path)):
        with suppress(OSError):
            one.unlink()


def _lock_of(path: Path) -> Path:
    return path.with_suffix(".lock")


def read(path: Path) -> Unsaved:
    """What a journal holds; of what cannot be read nothing, since the saved files are still there."""
    try:
        text = read_text(path, path.name)
        found = json.loads(text)
    except (OSError, ValueError, RecursionError, FileError):
        return Unsaved()
    documents: list[Document] = []
    for name, data in _items(found, "cells"):
        with suppress(HearthlineError, TypeError, ValueError, KeyError, AttributeError):  # the others are still good
            if not path_problem(str(name)):
                documents.append(cell_of(_table(data, text), str(name)))
    for _, data in _items(found, "benches"):
        with suppress(HearthlineError, TypeError, ValueError, KeyError, AttributeError):
            bench = bench_of(_table(data, text))
            if not path_problem(bench.key):
                documents.append(bench)
    texts = {
        str(name): kept
        for name, kept in _items(found, "texts")
        if isinstance(kept, str) and str(name).endswith(".va") and not path_problem(str(name))
    }
    return Unsaved(tuple(documents), texts)


def _items(found: object, key: str) -> list:
    inner = found.get(key) if isinstance(found, dict) else None
    if isinstance(inner, dict):
        return list(inner.items())
    return list(enumerate(inner)) if isinstance(inner, list) else []


def _table(data: dict, text: str) -> Table:
    table = Table(data, FILE, text)
    check_values(table)
    return table
