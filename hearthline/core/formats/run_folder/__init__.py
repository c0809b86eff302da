"""A run as files that other people's tools read: tables, a verdict, and the run itself."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path

from hearthline.core.bench.readings import Reader, Run
from hearthline.core.formats.bench_source import BenchSource
from hearthline.core.formats.run_file import write_run_file
from hearthline.core.formats.run_folder.curves import curve_tables
from hearthline.core.formats.run_folder.heat import heat_tables
from hearthline.core.formats.run_folder.readings import reading_tables
from hearthline.core.formats.run_folder.samples import sample_tables, with_samples
from hearthline.core.formats.run_folder.verdict import FAILS, HOLDS, INCOMPLETE, Judgement, judged
from hearthline.core.formats.run_folder.waves import write_waves
from hearthline.core.formats.table import write_csv

__all__ = ["FAILS", "HOLDS", "INCOMPLETE", "Judgement", "write_run_folder"]


def write_run_folder(folder: Path, source: BenchSource, run: Run) -> Judgement:
    """All files of a run, and what they say. Raises FileError at the formula that does not fit, with nothing written, and
    where a file cannot be."""
    reader = Reader(source.bench, run.results)
    numbers = reader.all()
    for reading in source.bench.readings:
        if numbers[reading.name].problem:
            raise source.at_item("readings", reading.name, "formula", numbers[reading.name].problem)
    readings = with_samples(source.bench, run, reading_tables(source.bench, run, numbers))
    tables = {**curve_tables(source, run, reader), **readings, **sample_tables(source.bench, run)}
    tables |= heat_tables(source, run)
    found = judged(source.bench, run, numbers)
    write_run_file(folder / "run.nc", run, datetime.now(), "", numbers)
    for name, columns in tables.items():
        write_csv(folder / f"{name}.csv", columns)
    write_waves(folder, run)
    found.write(folder)
    return found
