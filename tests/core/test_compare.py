"""What is different between two runs, in words, and their readings side by side; the logbook and its rule."""

from __future__ import annotations

import json
from dataclasses import replace
from datetime import datetime, timedelta

import h5netcdf
import numpy as np
import pytest

from hearthline.app.start import DEMO
from hearthline.app.state.logbook import Rule, difference, read_logbook, read_rule, to_clean, write_rule
from hearthline.core.analyses.line import parse_analysis
from hearthline.core.bench.bench import GridSetup, Reading, Specification
from hearthline.core.bench.compare import changes, side_by_side
from hearthline.core.bench.readings import Run
from hearthline.core.bench.run import run_bench
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.bench.surroundings import Surroundings
from hearthline.core.formats.bench_file import bench_data
from hearthline.core.formats.cell_file import cell_data
from hearthline.core.formats.project_folder import read_project
from hearthline.core.formats.run_file import made_of, read_run, write_run

PROJECT = read_project(DEMO)
BENCH = PROJECT.benches["inv_x1-transfer"]


def tables(bench=BENCH, cells=PROJECT.cells, fingerprint="f") -> dict:
    """As they stand in the file of a run."""
    cells = {name: cell_data(cell) for name, cell in cells.items()}
    return {"bench": bench_data(bench), "cells": cells, "kit": "LM130", "fingerprint": fingerprint}


def with_part(name: str, **values: str) -> dict:
    """The cells with other values of one part."""
    cell = PROJECT.cells["inv_x1"]
    part = cell.part(name)
    for key, text in values.items():
        part = part.with_value(key, text)
    return {**PROJECT.cells, "inv_x1": cell.with_part(part)}


@pytest.mark.parametrize(
    ("after", "words"),
    [
        (tables(), []), (tables(cells=with_part("M2", w="5.2u")), ["M2.w 2.4u → 5.2u"]),
        (tables(replace(BENCH, grid=replace(BENCH.grid, temperatures=("-40", "27", "85", "150")))), ["temperature 85 added"]),
        (tables(replace(BENCH, grid=replace(BENCH.grid, corners=("typ", "ff", "ss")))), ["corner fs left out", "corner sf left out"]),
        (tables(replace(BENCH, grid=replace(BENCH.grid, temperatures=("-40", "27", "125")))), ["temperature 150 → 125"]),
        (tables(BENCH.with_stimulus(replace(BENCH.stimulus("vin"), dc="600m"))), ["vin.dc 580m → 600m"]),
        (tables(BENCH.with_analysis(parse_analysis("transfer", "sweep of vin points 11"))),
         ["transfer sweep of vin from 0 to 1.32 points 1001 → sweep of vin points 11"]),
        (tables(replace(BENCH, readings=(*BENCH.readings, Reading("x", "vdd")))), ["reading x added"]),
        (tables(BENCH.with_specification(Specification("noise margin low", "0.25"))), ["limit of noise margin low low 0.24 → 0.25"]),
        (tables(fingerprint="g"), ["models changed"]),
        (tables(cells={**PROJECT.cells, "slicer": replace(PROJECT.cells["slicer"], parts=())}), []),
    ],
)  # fmt: skip
def test_differences_in_words(after, words):
    """Of what the bench reaches; a cell that it does not use does not count."""
    assert changes(tables(), after) == words


def test_parts_and_blocks_that_come_and_go():
    """With the block they stand in, where that is not the cell of the bench."""
    bench = PROJECT.benches["inv_x1_bench-edges"]
    cell = PROJECT.cells["inv_x1"]
    fewer = {**PROJECT.cells, "inv_x1": replace(cell, parts=cell.parts[1:])}
    gone = cell.parts[0].name
    assert f"inv_x1/{gone} gone" in changes(tables(bench), tables(bench, fewer))
    assert f"inv_x1/{gone} added" in changes(tables(bench, fewer), tables(bench))
    assert changes(None, tables()) == ["first run"]


def test_other_surroundings_in_words():
    """Added, with another file, as an axis, and at the point."""
    box = Surroundings("in the box", {"x1": "box.s2p"})
    grid = replace(BENCH.grid, surroundings=("in the box",))
    one = replace(BENCH, surroundings=(box,), grid=grid)
    assert changes(tables(), tables(one)) == ["surroundings in the box added", "surroundings added: in the box"]
    other = replace(one, surroundings=(replace(box, files={"x1": "lid.s2p"}),))
    assert changes(tables(one), tables(other)) == ["surroundings in the box {'x1': 'box.s2p'} → {'x1': 'lid.s2p'}"]
    there = replace(one, point=replace(one.point, surroundings="in the box"))
    assert changes(tables(one), tables(there)) == ["surroundings the first → in the box"]


def test_readings_side_by_side():
    """Median, least and greatest of each; what one run does not have is left empty."""
    first = {"a": ([1.0, 3.0, 2.0], "V"), "gone": ([1.0], "s")}
    second = {"a": ([2.0, None, 4.0], "V"), "new": ([5.0], "")}
    rows = {one.name: one for one in side_by_side(first, second)}
    assert rows["a"].first == (2.0, 1.0, 3.0)
    assert rows["a"].second == (3.0, 2.0, 4.0)
    assert rows["gone"].second is None
    assert rows["new"].first is None


@pytest.fixture
def runs(tmp_path):
    """Three stored runs, the second with a wider transistor."""
    grid = GridSetup(("typ",), ("27",), {"vdd": ("1.2", "1.32")})
    analyses = (
        parse_analysis("transfer", "sweep of vin points 21"),
        parse_analysis("response", "ac from 1 to 1k points 2 by vin"),
    )
    bench = replace(BENCH, grid=grid, analyses=analyses)
    made = datetime(2026, 1, 2, 3, 4, 5)
    for k, cells in enumerate((PROJECT.cells, with_part("M2", w="3u"), with_part("M2", w="3u"))):
        run: Run = run_bench(Snapshot(bench, cells, PROJECT.kit))
        write_run(tmp_path, run, made + timedelta(minutes=k))
    return tmp_path


def test_the_logbook_reads_what_changed_and_how_large_it_is(runs):
    """Newest first; a damaged file is told and keeps nobody from the rest."""
    (runs / "broken.nc").write_bytes(b"no netCDF")
    entries, problems = read_logbook(runs)
    assert [entry.change for entry in entries] == ["nothing changed", "M2.w 2.4u → 3u", "first run"]
    assert all(entry.size > 1000 for entry in entries)
    assert "broken.nc" in str(problems[0])
    assert difference(entries[2].record, entries[0].record) == ["M2.w 2.4u → 3u"]


def test_complex_curves_and_what_a_run_was_made_of_come_back(runs):
    """Small signals as real and imaginary part; bench and cells as they were."""
    entry = read_logbook(runs)[0][0]
    stored = read_run(entry.path)
    assert np.iscomplexobj(stored.run.results["response"].curve("V(out)"))
    bench, cells = made_of(entry.record)
    assert cells["inv_x1"].part("M2").values["w"] == "3u"
    again = run_bench(Snapshot(bench, cells, PROJECT.kit))
    np.testing.assert_array_equal(
        again.results["response"].curve("V(out)"), stored.run.results["response"].curve("V(out)")
    )
    assert again.bases == stored.run.bases


def test_the_rule_keeps_the_newest_and_the_pinned(runs):
    """Of each bench; a rule that cannot be read is the usual one."""
    entries, _ = read_logbook(runs)
    write_rule(runs, Rule(1, (entries[2].path.name,)))
    assert read_rule(runs) == Rule(1, (entries[2].path.name,))
    entries, _ = read_logbook(runs)
    assert [entry.pinned for entry in entries] == [False, False, True]
    assert to_clean(entries, read_rule(runs)) == [entries[1]]
    (runs / "logbook.json").write_text("{")
    assert read_rule(runs) == Rule()


def test_a_run_of_the_first_format_is_read(tmp_path):
    """One sweep at the root of the file; it is taken for one of another basis, and its bench becomes one of today."""
    data = {
        "format": 1, "name": "transfer", "cell": "inv_x1", "point": {"corner": "typ", "temperature": "27", "parameters": {"vdd": "1.2"}},
        "grid": {"corners": ["typ"], "temperatures": ["27"], "parameters": {"vdd": ["1.2", "1.3"]}},
        "sweep": {"stimulus": "vin", "from": "0", "to": "1", "points": 3}, "stimuli": [{"name": "vin", "pin": "in", "dc": "0"}],
    }  # fmt: skip
    path = tmp_path / "old.nc"
    with h5netcdf.File(path, "w") as file:
        file.dimensions = {"lane": 2, "vin": 3}
        file.create_variable("vin", ("vin",), data=np.array([0.0, 0.5, 1.0])).attrs["units"] = "V"
        file.create_variable("corner", ("lane",), data=np.zeros(2, np.int32)).attrs["flag_meanings"] = "typ"
        file.create_variable("temperature", ("lane",), data=np.full(2, 27.0))
        file.create_variable("vdd", ("lane",), data=np.array([1.2, 1.3]))
        file.create_variable("V(out)", ("lane", "vin"), data=np.arange(6.0).reshape(2, 3)).attrs["units"] = "V"
        file.create_variable("outcome", ("lane", "vin"), data=np.zeros((2, 3), np.int8))
        cells = {"inv_x1": cell_data(PROJECT.cells["inv_x1"])}
        attributes = {"hearthline_format": 1, "made": "2026-01-02T03:04:05", "analysis": "dc", "process": "LM130", "seconds": 0.5,
                      "conditions": "corner temperature vdd", "curves": json.dumps(["V(out)"]), "bench": json.dumps(data),
                      "cells": json.dumps(cells), "log": "[]", "failures": "{}"}  # fmt: skip
        for name, value in attributes.items():
            file.attrs[name] = value
    stored = read_run(path)
    np.testing.assert_array_equal(stored.run.results["transfer"].curve("V(out)")[1], [3.0, 4.0, 5.0])
    assert [one.parameters["vdd"] for one in stored.run.conditions] == [1.2, 1.3]
    assert made_of(stored.record)[0].analyses[0].text == "sweep of vin from 0 to 1 points 3"
    entries, problems = read_logbook(tmp_path)
    assert (entries[0].change, problems) == ("first run", [])
