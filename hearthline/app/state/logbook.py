"""The logbook: every stored run of the project, newest first, each with what changed since the one before."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from hearthline.core.errors import FileError
from hearthline.core.formats.run_file import Record, read_record


@dataclass(frozen=True)
class Entry:
    """One line of the logbook."""

    path: Path
    made: datetime
    bench: str
    change: str


def read_logbook(folder: Path, most: int = 30) -> tuple[list[Entry], list[FileError]]:
    """The newest runs stored in `folder` and what could not be read."""
    stored, problems = [], []
    for path in sorted(folder.glob("*.nc"))[-most - 1 :]:
        try:
            stored.append(read_record(path))
        except FileError as error:
            problems.append(error)
    stored.sort(key=lambda record: record.made)
    entries = []
    last: dict[str, Record] = {}
    for run in stored:
        key = run.bench_key
        entries.append(Entry(run.path, run.made, key, changes(last.get(key), run)))
        last[key] = run
    return entries[::-1][:most], problems


def changes(before: Record | None, after: Record) -> str:
    """What is different between two runs, in a few words."""
    if before is None:
        return "first run"
    words = [
        f"{_named(path)} {old} → {new}"
        for path, old, new in _differences(
            {"cells": before.cells, "bench": before.bench}, {"cells": after.cells, "bench": after.bench}
        )
    ]
    if not words:
        return "nothing changed"
    return words[0] if len(words) == 1 else f"{words[0]} and {len(words) - 1} more"


def _differences(old, new, path: tuple[str, ...] = ()):
    if isinstance(old, Mapping) and isinstance(new, Mapping):
        for key in dict.fromkeys([*old, *new]):
            yield from _differences(old.get(key, "–"), new.get(key, "–"), (*path, str(key)))
    elif isinstance(old, list) and isinstance(new, list) and len(old) == len(new):
        for k, (a, b) in enumerate(zip(old, new, strict=True)):
            name = (a.get("name") or a.get("reading") or str(k)) if isinstance(a, Mapping) else ""
            yield from _differences(a, b, (*path, name))
    elif old != new:
        yield path, _short(old), _short(new)


def _short(value) -> str:
    text = ", ".join(map(str, value)) if isinstance(value, list) else str(value)
    return text if len(text) <= 24 else text[:23] + "…"


def _named(path: tuple[str, ...]) -> str:
    """The telling end of a path: `M2.w`, `vin.dc`, `grid corners`."""
    words = [
        word for word in path if word not in ("cells", "bench", "parts", "values", "stimuli", "specifications", "")
    ]
    if len(words) > 1 and path[0] == "cells":
        words = words[1:]
    return ".".join(words[-2:])
