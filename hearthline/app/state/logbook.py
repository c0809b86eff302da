"""The logbook: every stored run of the project, newest first, each with what changed since the one before; which are pinned,
and the rule by which old ones may be cleaned away."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache
from pathlib import Path

from hearthline.core.bench.compare import changes
from hearthline.core.errors import FileError
from hearthline.core.formats.atomic import write_atomically
from hearthline.core.formats.run_file import Record, read_record

KEPT = 20
"""Runs of each bench that cleaning leaves, where nothing else is said."""
RULE = "logbook.json"
PROOF = "proof: "
"""Begins the note of a run that proved a mend."""


@dataclass(frozen=True)
class LogEntry:
    """One line of the logbook."""

    path: Path
    made: datetime
    bench: str
    change: str
    words: tuple[str, ...] = ()
    size: int = 0
    pinned: bool = False
    record: Record | None = None

    @property
    def proof(self) -> bool:
        """Whether it proved a mend, and is not of the circuit as it was drawn."""
        return self.record is not None and self.record.note.startswith(PROOF)


@dataclass(frozen=True)
class Rule:
    """How many runs of each bench are kept, and the names of those that are kept in any case."""

    kept: int = KEPT
    pinned: tuple[str, ...] = ()


@lru_cache(maxsize=4096)
def _record(path: Path, changed: int) -> Record:
    """The record of a file; it is never overwritten, so it is read once."""
    return read_record(path)


def read_logbook(folder: Path) -> tuple[list[LogEntry], list[FileError]]:
    """All runs stored in `folder` and what could not be read."""
    stored, problems, rule = [], [], read_rule(folder)
    for path in sorted(folder.glob("*.nc")):
        try:
            stored.append(_record(path, path.stat().st_mtime_ns))
        except FileError as error:
            problems.append(error)
        except OSError:
            continue
    stored.sort(key=lambda record: record.made)
    entries = []
    last: dict[str, Record] = {}
    for run in stored:
        words = changes(_tables(last.get(run.bench_key)), _tables(run))
        short = run.note or _short(words)
        pinned = run.path.name in rule.pinned
        entries.append(LogEntry(run.path, run.made, run.bench_key, short, tuple(words), run.size, pinned, run))
        last[run.bench_key] = run
    return entries[::-1], problems


def _tables(record: Record | None) -> dict | None:
    if record is None:
        return None
    return {
        "bench": record.bench, "cells": record.cells, "kit": record.kit, "fingerprint": record.fingerprint,
        "files": record.files,
    }  # fmt: skip


def _short(words: list[str]) -> str:
    if not words:
        return "nothing changed"
    return words[0] if len(words) == 1 else f"{words[0]} and {len(words) - 1} more"


def difference(before: Record, after: Record) -> list[str]:
    """What is different between any two runs."""
    return changes(_tables(before), _tables(after))


def read_rule(folder: Path) -> Rule:
    """The rule of this project; the usual one where there is none that can be read."""
    try:
        data = json.loads((folder / RULE).read_text(encoding="utf-8"))
        return Rule(int(data["kept"]), tuple(map(str, data["pinned"])))
    except (OSError, ValueError, KeyError, TypeError, OverflowError, RecursionError):
        return Rule()


def write_rule(folder: Path, rule: Rule) -> None:
    """Keeps the rule. Raises FileError."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileError(f"cannot be made: {error.strerror}", folder.name) from None
    write_atomically(folder / RULE, json.dumps({"kept": rule.kept, "pinned": list(rule.pinned)}, indent=1))


def to_clean(entries: list[LogEntry], rule: Rule) -> list[LogEntry]:
    """The runs that the rule gives up: of each bench those beyond the newest, but none that is pinned."""
    count: dict[str, int] = {}
    found = []
    for entry in entries:
        if not entry.pinned:
            count[entry.bench] = count.get(entry.bench, 0) + 1
            if count[entry.bench] > rule.kept:
                found.append(entry)
    return found
