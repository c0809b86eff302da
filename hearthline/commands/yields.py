"""`hearthline yield`: a finished run judged again under other limits, from its samples."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Mapping
from pathlib import Path

from hearthline.commands.status import DONE
from hearthline.core.errors import FileError, HearthlineError
from hearthline.core.quantity import read

LIMIT, WITHOUT = "--limit", "--without"


def run(options: argparse.Namespace) -> int:
    """Prints the table of yields. Raises FileError for a run without samples, and a limit that cannot be."""
    from hearthline.core.bench.passing import yield_rows
    from hearthline.core.formats.run_file import made_of, read_run
    from hearthline.core.formats.run_folder.samples import yield_table
    from hearthline.core.formats.table import csv_text

    folder = Path(options.folder)
    path = folder / "run.nc"
    if not path.is_file():
        raise FileError("holds no run.nc; name a folder that `hearthline run` wrote", str(folder))
    stored = read_run(path)
    samples, (bench, _) = stored.run.samples, made_of(stored.record)
    if samples is None:
        raise FileError("the run has no samples; give its bench [samples], or run it with --samples N", str(folder))
    known = tuple(samples.values)
    changed = dict(_limit(text, known, samples.units) for text in options.limit)
    for name in options.without:
        _known(name, known, WITHOUT)
    sys.stdout.write(csv_text(yield_table(yield_rows(bench, samples, changed, options.without))))
    return DONE


def _known(name: str, known: tuple[str, ...], where: str) -> str:
    if name not in known:
        raise FileError(f"there is no reading '{name}'; the run has {', '.join(known)}", where)
    return name


def _limit(text: str, known: tuple[str, ...], units: Mapping[str, str]) -> tuple[str, tuple[float, float]]:
    """`gain=10..14`: a reading and its limits."""
    name, equal, ends = text.rpartition("=")
    low, dots, high = ends.partition("..")
    if not equal or not dots:
        raise FileError(f"a limit is READING=LOW..HIGH, of which one end may be left out, and not '{text}'", LIMIT)
    name = _known(name.strip(), known, LIMIT)
    unit = units.get(name, "")
    try:
        found = (read(low, unit) if low.strip() else float("-inf"), read(high, unit) if high.strip() else float("inf"))
    except HearthlineError as error:
        raise FileError(f"{name}: {error}", LIMIT) from None
    if found[0] > found[1]:
        raise FileError(f"{name}: the lower limit {low} is above the upper limit {high}", LIMIT)
    return name, found
