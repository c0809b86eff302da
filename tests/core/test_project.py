"""Project folders: read, changed, written, read again; and what is said when a file is wrong."""

from __future__ import annotations

import os
import shutil
from dataclasses import replace
from datetime import datetime

import numpy as np
import pytest

from hearthline.app.start import DEMO
from hearthline.core.bench.bench import Specification
from hearthline.core.bench.readings import Judge, Reader
from hearthline.core.bench.run import run_bench, solve_point
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.bench.verdict import State, judge
from hearthline.core.errors import CircuitError, DeckError, FileError, QuantityError
from hearthline.core.formats.journal import Journal, forget, left_over
from hearthline.core.formats.journal import read as read_journal
from hearthline.core.formats.kit_folder import INSTALLED, read_kit
from hearthline.core.formats.project_folder import read_project, save_bench, save_cell
from hearthline.core.formats.run_file import read_record, read_run, write_run
from tests.approximation import approx

BENCH = "inv_x1-transfer"


@pytest.fixture
def folder(tmp_path):
    """A copy of the demo project."""
    shutil.copytree(DEMO, tmp_path / "kilnwatch", ignore=shutil.ignore_patterns("runs"))
    return tmp_path / "kilnwatch"


def snapshot(folder) -> Snapshot:
    """The demo bench with its project."""
    project = read_project(folder)
    return Snapshot(project.benches[BENCH], project.cells, project.kit)


def read(snap: Snapshot, run) -> dict:
    """All readings of a run."""
    return Reader(snap.bench, run.results).all()


# -- round trips


def test_the_demo_has_no_problems(folder):
    """And its bench asks for 45 conditions."""
    project = read_project(folder)
    assert project.problems == ()
    assert len(snapshot(folder).conditions()) == 45


def test_a_saved_change_touches_one_line_and_keeps_comments(folder):
    """Diff-friendly: only what changed is written."""
    project = read_project(folder)
    before = (folder / "cells" / "inv_x1.toml").read_text().splitlines()
    cell = project.cells["inv_x1"]
    save_cell(project, cell.with_part(cell.part("M2").with_value("w", "3.2u")))
    after = (folder / "cells" / "inv_x1.toml").read_text().splitlines()
    changed = [(a, b) for a, b in zip(before, after, strict=True) if a != b]
    assert changed == [(changed[0][0], changed[0][0].replace("2.4u", "3.2u"))]
    assert read_project(folder).cells["inv_x1"].part("M2").values["w"] == "3.2u"


def test_everything_comes_back_from_fresh_files(folder):
    """Cells and benches written where no file was."""
    project = read_project(folder)
    for path in (*folder.glob("cells/*.toml"), *folder.glob("benches/*.toml")):
        path.unlink()
    for cell in project.cells.values():
        save_cell(project, cell)
    for bench in project.benches.values():
        save_bench(project, bench)
    again = read_project(folder)
    assert (again.cells, again.benches, again.problems) == (project.cells, project.benches, ())


def test_a_file_that_cannot_be_written_leaves_the_old_one(folder):
    """Atomic: the old text is still there, and no half file beside it."""
    project = read_project(folder)
    cells = folder / "cells"
    before = (cells / "inv_x1.toml").read_text()
    target = cells / "inv_x1.toml"
    listed = sorted(os.listdir(cells))
    target.unlink()
    target.mkdir()
    with pytest.raises(FileError, match=r"inv_x1\.toml: cannot be written"):
        save_cell(project, project.cells["inv_x1"])
    assert sorted(os.listdir(cells)) == listed
    target.rmdir()
    target.write_text(before)
    assert read_project(folder).problems == ()


def test_the_journal_holds_what_is_not_saved(folder):
    """To the last value; what cannot be read is nothing, since the files are still there."""
    project = read_project(folder)
    cell, bench = project.cells["inv_x1"], project.benches[BENCH]
    wider = cell.with_part(cell.part("M2").with_value("w", "9u"))
    journal = Journal(folder)
    journal.write([wider, bench], {"own.va": "module own"})
    path = folder / ".unsaved" / "journal.json"
    assert read_journal(path).documents == (wider, bench)
    assert read_journal(path).texts == {"own.va": "module own"}
    assert left_over(folder) == []  # its window lives
    other = Journal(folder)
    other.write([bench])
    assert other.path != path
    other.clear()
    assert read_journal(path).documents == (wider, bench)
    kept = path.read_text()
    journal.clear()
    assert not (folder / ".unsaved").exists()
    path.parent.mkdir()
    path.write_text(kept)
    assert left_over(folder) == [path]
    for damaged in (
        '{"cells": {"inv_x1": 3}}',
        "[" * 100_000,
        '{"cells": []',
        '{"cells": {"../../x": {"format": 1}}}',
        "\x00",
    ):
        path.write_text(damaged)
        assert not read_journal(path).documents
    path.write_text(kept.replace('"inv_x1"', '"../../inv_x1"', 1))
    assert read_journal(path).documents == (bench,)
    forget(left_over(folder))
    assert not (folder / ".unsaved").exists()


# -- mistakes in files


def spoil(folder, name: str, old: str, new: str) -> None:
    """Exchanges a piece of a file."""
    path = folder / name
    text = path.read_text()
    assert old in text
    path.write_text(text.replace(old, new, 1))


CELL, BENCH_FILE = "cells/inv_x1.toml", "benches/inv_x1-transfer.toml"


@pytest.mark.parametrize(
    ("name", "old", "new", "said"),
    [
        (CELL, "at = [-12, 0]", "at = [-12, 0", r"cells/inv_x1\.toml:7: unclosed array; put this line right"),
        (CELL, "at = [-12, 0]", "at = [-12, 0.5]", r"cells/inv_x1\.toml:7: 'at' should be a point"),
        (CELL, 'kind = "input"', 'kind = "inward"', r"cells/inv_x1\.toml:6: pin in: there is no kind 'inward'"),
        (CELL, 'device = "p_rvt"', 'devise = "p_rvt"', r"cells/inv_x1\.toml:25: 'device' is missing"),
        (CELL, "points = [[-12, 0], [-7, 0]]", "points = [[-12, 0]]", r"inv_x1\.toml:\d+: 'points' needs two points"),
        (CELL, "format = 1", "format = 9", r"inv_x1\.toml:2: this file has format 9"),
        (CELL, "format = 1", 'format = 1\ncolour = "red"', r"inv_x1\.toml:3: 'colour' is not known here"),
        (BENCH_FILE, "points 1001", "point 1001", r"transfer\.toml:\d+: 'point' at column 29: sweep takes of, from"),
        (BENCH_FILE, "cross(V(out) - V(in)))", "cross(V(out) - V(in))", r"transfer\.toml:\d+: a closing bracket"),
        (BENCH_FILE, 'name = "transfer"\nline', 'name = "mean"\nline', r"transfer\.toml:\d+: 'mean' is the name of a function"),
        (BENCH_FILE, 'low = "0.44"', 'low = "0.44x"', r"transfer\.toml:\d+: 'x' in '0\.44x'"),
        (BENCH_FILE, 'low = "0.44"', 'low = "0.75"', "lower limit 0.75 is above"),
        (BENCH_FILE, 'dc = "580m"', 'dc = "580m"\nwave = "pwl(0 0 2n 1 1n 0)"', "runs backwards: 1e-09 s stands after 2e-09 s"),
        (BENCH_FILE, 'target = "0.5"', 'target = "0.9"', "the target 0.9 is beyond the limits"),
        (BENCH_FILE, 'reading = "switching point"', 'reading = "speed"', "there is no reading 'speed'"),
        (BENCH_FILE, 'corners = ["typ", "ff", "ss", "fs", "sf"]', "corners = []", "'corners' needs one entry"),
        ("project.toml", 'kit = "lm130"', 'kit = "lm90"', "no kit 'lm90'; installed are lm130"),
        ("project.toml", 'cells = ["inv_x1", ', 'cells = ["inv_x1", "lost", ', "cells/lost.toml, and there is no such file"),
    ],
)  # fmt: skip
def test_a_wrong_line_is_named_and_the_rest_opens(folder, name, old, new, said):
    """File, line and mend; the other documents are there."""
    spoil(folder, name, old, new)
    project = read_project(folder)
    assert len(project.problems) == 1
    with pytest.raises(FileError, match=said):
        raise project.problems[0]
    assert ("inv_x1" in project.cells) == (name != CELL)
    assert (BENCH in project.benches) == (name != BENCH_FILE)


def test_a_project_that_is_none_says_so(tmp_path):
    """No project.toml, or one that is not a text."""
    with pytest.raises(FileError, match=r"project\.toml: cannot be read"):
        read_project(tmp_path)
    (tmp_path / "project.toml").write_bytes(b"\xff\xfe\x00")
    with pytest.raises(FileError, match="not a text file"):
        read_project(tmp_path)


def test_a_kit_may_be_a_folder_of_the_project(folder):
    """And a mistake in its cards names file and line."""
    shutil.copytree(INSTALLED / "lm130", folder / "mine")
    spoil(folder, "project.toml", 'kit = "lm130"', 'kit = "mine"')
    assert read_project(folder).kit.name == "LM130"
    spoil(folder, "mine/lm130_mos.inc", "gamma=0.63", "gamma={0.63")
    problem = read_project(folder).problems[0]
    assert isinstance(problem, DeckError)
    assert (problem.file, problem.line) == ("lm130_mos.inc", 7)


# -- from the snapshot to a verdict


def test_corners_differ_the_way_their_names_say(folder):
    """A fast NMOS switches earlier, a fast PMOS later."""
    snap = snapshot(folder)
    values = read(snap, run_bench(snap))["switching point"].values.reshape(5, -1)
    typ, _, _, fs, sf = values
    assert (fs < typ).all()
    assert (sf > typ).all()


def test_threshold_falls_with_the_temperature(folder):
    """As the kit's page says: 0.7 mV/K at the NMOS."""
    snap = snapshot(folder)
    vth = [
        solve_point(replace(snap, bench=replace(snap.bench, point=replace(snap.bench.point, temperature=t)))).curve(
            "m1.vth"
        )[0, 0]
        for t in ("27", "127")
    ]
    # the drain's share moves a little with it
    assert vth[1] - vth[0] == approx(-0.07, abs=4e-3)


def test_a_bench_parameter_does_not_reach_into_the_process(folder):
    """A parameter that happens to have the name of one in the cards changes nothing there."""
    snap = snapshot(folder)
    point = replace(snap.bench.point, parameters={**snap.bench.point.parameters, "dvn": "0.2"})
    before, after = (
        solve_point(s).curve("m1.vth")[0, 0] for s in (snap, replace(snap, bench=replace(snap.bench, point=point)))
    )
    assert before == after


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (lambda b: replace(b, cell="nand"), "wants cell 'nand'"),
        (lambda b: replace(b, point=replace(b.point, corner="tt")), "no corner 'tt'; the process has typ, ff"),
        (lambda b: replace(b, point=replace(b.point, temperature="warm")), "temperature: 'warm'"),
        (lambda b: b.with_stimulus(replace(b.stimulus("vin"), dc="3.2x")), "stimulus vin: 'x' in '3.2x'"),
        (lambda b: b.with_stimulus(replace(b.stimulus("vin"), pin="inn")), "no pin 'inn'; it has in, out, vdd"),
        (lambda b: b.with_stimulus(replace(b.stimulus("vin"), dc="vcc")), "unknown parameter 'vcc'"),
        (lambda b: replace(b, stimuli=b.stimuli[:1]), "net in has no DC path"),
        (
            lambda b: replace(b, stimuli=(*b.stimuli, replace(b.stimuli[0], name="m1", pin="out"))),
            "has the name of a part",
        ),
    ],
)
def test_what_is_wrong_on_a_bench_is_said(folder, change, said):
    """Before anything is solved."""
    snap = snapshot(folder)
    with pytest.raises(CircuitError, match=said):
        solve_point(replace(snap, bench=change(snap.bench)))


def test_a_run_is_stored_and_read_back_whole(folder, tmp_path):
    """To the last bit; never over another; and xarray opens it with one line."""
    import xarray

    snap = snapshot(folder)
    run = run_bench(snap)
    made = datetime(2026, 1, 2, 3, 4, 5)
    first, second = (write_run(tmp_path / "runs", run, made) for _ in range(2))
    assert first != second
    stored = read_run(first)
    ours, theirs = run.results["transfer"], stored.run.results["transfer"]
    for label, values in ours.curves.items():
        np.testing.assert_array_equal(theirs.curves[label], values)
    assert theirs.conditions["corner"].tolist() == ours.conditions["corner"].tolist()
    assert (stored.run.conditions, stored.run.bases) == (run.conditions, run.bases)
    assert stored.record.made == made
    assert read_record(first).cells["inv_x1"]["parts"][1]["values"]["w"] == "2.4u"
    before, after = read(snap, run), read(snap, stored.run)
    for name in before:
        np.testing.assert_array_equal(before[name].values, after[name].values)
        np.testing.assert_allclose(stored.record.readings[name][0], before[name].values)
    with xarray.open_dataset(first, engine="h5netcdf", group="transfer") as dataset:
        assert dataset["V(out)"].sel(vin=0.0).shape == (45,)


def test_a_damaged_run_file_says_so(tmp_path):
    """And not what HDF5 thinks of it."""
    (tmp_path / "x.nc").write_bytes(b"not a run")
    with pytest.raises(FileError, match=r"x\.nc: is not a run of Hearthline or is damaged"):
        read_run(tmp_path / "x.nc")


def test_a_condition_without_the_reading_fails(folder):
    """NaN is no margin."""
    verdict = judge(Specification("x", "0.4", "0.6"), "", np.array([0.5, np.nan, 0.58]))
    assert verdict.state is State.FAILS
    assert (verdict.lane, verdict.missing) == (2, 1)


@pytest.mark.parametrize(
    ("low", "high", "values", "state", "lane", "relative"),
    [
        ("0.45", "0.62", [0.46, 0.5], State.HOLDS, 0, 0.01 / 0.085), ("0.45", "0.62", [0.455, 0.5], State.CLOSE, 0, 0.005 / 0.085),
        ("0.45", "0.62", [0.5, 0.63], State.FAILS, 1, -0.01 / 0.085), ("", "150u", [100e-6, 120e-6], State.HOLDS, 1, 0.2),
        ("0.3 V", "", [0.31, 0.5], State.CLOSE, 0, 0.01 / 0.3), ("", "", [1.0], State.AIMED, 0, np.nan), ("", "-8", [-10.0], State.HOLDS, 0, 0.25),
    ],
)  # fmt: skip
def test_margin_in_units_of_the_limit(low, high, values, state, lane, relative):
    """Half the window between two limits, or the size of the only one."""
    unit = "V" if "V" in low else ""
    verdict = judge(Specification("x", low, high), unit, np.array(values))
    assert (verdict.state, verdict.lane) == (state, lane)
    assert verdict.relative == approx(relative, nan=True)


def test_new_limits_need_no_new_run(folder):
    """Another verdict from the same numbers; limits that are no numbers are refused."""
    snap = snapshot(folder)
    values = read(snap, run_bench(snap))
    assert Judge().all(snap.bench, values)["switching point"].state is State.FAILS
    loose = snap.bench.with_specification(Specification("switching point", "0.4", "0.62"))
    assert Judge().all(loose, values)["switching point"].state is State.HOLDS
    wrong = Specification("switching point", "0.4x", "")
    assert Judge().all(snap.bench.with_specification(wrong), values)["switching point"].state is State.UNKNOWN
    with pytest.raises(QuantityError, match="0.4x"):
        judge(wrong, "", np.array([0.5]))


def test_a_target_says_how_far_off_the_worst_is():
    """It fails nothing; beyond the limits it cannot be met."""
    values = np.array([0.46, 0.52, 0.61])
    verdict = judge(Specification("x", "0.45", "0.62", "0.5"), "", values)
    assert (verdict.state, verdict.away) == (State.HOLDS, approx(0.11))
    alone = judge(Specification("x", target="0.5"), "", values)
    assert (alone.state, alone.lane) == (State.AIMED, 2)
    with pytest.raises(QuantityError, match=r"target 0\.7 is beyond the limits"):
        judge(Specification("x", "0.45", "0.62", "0.7"), "", values)


def test_the_kit_is_what_its_page_says():
    """Five corners, two devices, sizes from 130 nm."""
    kit = read_kit(INSTALLED / "lm130")
    assert kit.models.names == ("typ", "ff", "ss", "fs", "sf")
    assert kit.size_error("n_rvt", "l", 120e-9, "m") == "n_rvt allows 130 nm to 10 µm"
    assert kit.size_error("n_rvt", "l", 130e-9, "m") == ""
