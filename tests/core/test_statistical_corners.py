"""Statistical corners: what they deviate by, where they may stand, and what is said of wrong ones. Yields by condition."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from hearthline.app.start import DEMO
from hearthline.cli import main
from hearthline.core.bench.by_condition import at_conditions
from hearthline.core.bench.compare import changes
from hearthline.core.bench.rare import HIGH, Side, statistical_corner, with_corner
from hearthline.core.bench.readings import Reader
from hearthline.core.bench.renaming import with_part_renamed
from hearthline.core.bench.run import run_bench, solve_point
from hearthline.core.bench.sampled import run_samples, sample_plan, seconds_of
from hearthline.core.bench.statistical import StatisticalCorner, corner_of
from hearthline.core.errors import CircuitError, HearthlineError
from hearthline.core.formats.bench_file import bench_data, read_bench, write_bench
from hearthline.core.formats.bench_source import read_benches
from hearthline.core.spread.yields import yield_of
from tests import samples
from tests.approximation import approx

FOUND = '[[statistical]]\nname = "high"\nat = { "r1.r" = "-2", "r2.r" = "1.5" }\n'


def divided(folder, grid: str = '"typ", "typ+high"', more: str = FOUND):
    """The divider with 1 % and 2 % sigma, over these corners."""
    normal = '[[tolerances]]\npart = "r1"\nsigma = "1%"\n[[tolerances]]\npart = "r2"\nsigma = "2%"\n'
    path = samples.bench(folder, more=normal + more)
    path.write_text(path.read_text().replace('corners = ["typ"]', f"corners = [{grid}]"))
    return path


def test_a_corner_is_where_its_numbers_say(tmp_path):
    """-2 sigma of 1 % and 1.5 sigma of 2 %: 10.3k / (9.8k + 10.3k); two corners may be added; the samples ride on top."""
    twice = '[[statistical]]\nname = "more"\nat = { "r1.r" = "-1" }\n'
    source = read_benches(divided(tmp_path, '"typ", "typ+high", "typ+high+more"', FOUND + twice))[0]
    values = Reader(source.bench, run_bench(source.snapshot).results).all()["half"].values[::2]
    assert list(values) == approx([0.5, 10.3 / (9.8 + 10.3), 10.3 / (9.7 + 10.3)], rel=1e-9)
    at = replace(source.bench.samples, at="conditions", count="50")
    found = run_samples(sample_plan(source.snapshot, at))
    r1, r2 = found.numbers("r1.r"), found.numbers("r2.r")
    moved = found.values["half"][:, 2]
    np.testing.assert_allclose(moved, (r2 + 300) / (r1 - 200 + r2 + 300), rtol=1e-9)
    np.testing.assert_allclose(found.values["half"][:, 0], r2 / (r1 + r2), rtol=1e-9)


def test_a_corner_that_was_found_gives_the_reading_again_as_a_condition(tmp_path):
    """Found, kept by the bench, written, read, and run: the same offset; the live point has it too; runs do not take over what
    another corner of that name gave."""
    source = read_benches(DEMO, ["ota_sense_bench-offset"])[0]
    plan = sample_plan(source.snapshot)
    corner = statistical_corner(plan, Side("offset", HIGH, 0.0), 3.0)
    own = corner_of("offset", HIGH, 3.0, corner.variables, corner.normal[0])
    assert own.name == "offset_high_3s"
    bench = with_corner(source.bench, own)
    assert with_corner(bench, own) == bench
    write_bench(tmp_path / "b.toml", bench)
    assert read_bench(tmp_path / "b.toml", "b.toml") == bench
    snapshot = replace(source.snapshot, bench=bench)
    run = run_bench(snapshot)
    values = Reader(bench, run.results).all()["offset"].values
    assert run.conditions[1].corner == "typ+offset_high_3s"
    assert values[1] == approx(corner.reading("offset")[0], rel=1e-3)
    assert values[1] > 3 * abs(values[0])
    point = solve_point(snapshot, condition=run.conditions[1]).curve("V(out)")[0, 0]
    assert point != approx(solve_point(snapshot).curve("V(out)")[0, 0], rel=1e-4)
    there = replace(own, at={name: f"{-float(z):g}" for name, z in own.at.items()})
    again = run_bench(replace(snapshot, bench=replace(bench, statistical=(there,))), before=run)
    assert Reader(bench, again.results).all()["offset"].values[1] < -2 * abs(values[0])


@pytest.mark.parametrize(
    ("more", "grid", "line", "message"),
    [
        (FOUND.replace("r2.r", "r9.r"), '"typ+high"', 21, "moves 'r9.r', which does not vary"),
        (FOUND.replace('"high"', '"a b"'), '"typ"', 20, "no name for a statistical corner"),
        (FOUND + FOUND, '"typ"', 23, "two statistical corners 'high'"),
        (FOUND.replace("1.5", "25"), '"typ"', 21, "20 are the most"),
        (FOUND.replace("1.5", "far"), '"typ"', 21, "far"),
    ],
)
def test_wrong_corners_are_named(tmp_path, capsys, more, grid, line, message):
    """By file and line."""
    assert main(["run", str(divided(tmp_path, grid, more)), "--out", str(tmp_path / "o")]) == 2
    err = capsys.readouterr().err
    assert message in err
    assert err.startswith(f"{tmp_path / 'b.toml'}:{line}: "), err


def test_a_corner_cannot_have_the_name_of_one_of_the_process():
    """A plus would be ambiguous."""
    snapshot = read_benches(DEMO, ["ota_sense_bench-offset"])[0].snapshot
    bench = replace(snapshot.bench, statistical=(StatisticalCorner("r_slow", {}),))
    with pytest.raises(CircuitError, match="the process has a corner 'r_slow' already"):
        run_bench(replace(snapshot, bench=bench))


def test_changes_and_names_follow():
    """What differs between two runs in words; a part that is renamed keeps its corner and its tolerance."""
    source = read_benches(DEMO, ["lna_868_board-yield"])[0]
    old = source.bench
    new = replace(old, statistical=(StatisticalCorner("low", {"ro.r": "2", "x1.m1.dvth": "1"}),),
                  samples=replace(old.samples, seed="7"))  # fmt: skip
    words = changes({"bench": bench_data(old), "cells": {}}, {"bench": bench_data(new), "cells": {}})
    assert "statistical corner low added" in words
    assert "samples seed as usual → 7" in words
    moved = with_part_renamed(new, "RO", "ROUT")
    assert moved.statistical[0].at == {"rout.r": "2", "x1.m1.dvth": "1"}


def test_a_parameter_has_no_tolerance(tmp_path):
    """All that use it would move alike; the parts themselves are named as the place."""
    source = samples.source(tmp_path)
    point = replace(source.bench.point, parameters={"rl": "5k ±3%"})
    with pytest.raises(HearthlineError, match="a parameter has no tolerance.*give the ±3% to the parts themselves"):
        replace(source.snapshot, bench=replace(source.bench, point=point)).condition()


def test_yields_of_conditions_from_first_principles(tmp_path):
    """Two conditions whose limits bite at different samples: each, the worst, all, and who fails where."""
    parts = "v1 in 0 1\nr1 in out 10k tc1=4e-4\nr2 out 0 10k\n"
    plan = samples.source(tmp_path, parts=parts, samples='count = "300"\nat = "conditions"\n').sample_plan()
    drawn = run_samples(plan)
    found = at_conditions(drawn, {"half": (0.49, 0.51)})
    inside = np.abs(drawn.values["half"] - 0.5) <= 0.01
    assert [one.passed for one in found.yields] == inside.sum(axis=0).tolist()
    assert found.worst == int(np.argmin(inside.sum(axis=0)))
    assert found.total == yield_of(inside.all(axis=1))
    assert found.costs(found.worst)[0] == "half"
    fails = (~inside[found.failing]).sum(axis=1)
    assert (np.diff(fails) <= 0).all()
    assert fails[0] == 2
    assert len(found.failing) == 300 - found.total.passed
    assert found.columns["temperature"].tolist() == [27.0, 100.0]
    lost = at_conditions(replace(drawn, failures={int(np.flatnonzero(inside.all(axis=1))[0]): "no solution"}),
                         {"half": (0.49, 0.51)})  # fmt: skip
    assert lost.total.passed == found.total.passed - 1


def test_many_samples_are_timed_beforehand(tmp_path):
    """A few are not worth it, nor is the little that is left of many."""
    assert seconds_of(samples.source(tmp_path).sample_plan()) == 0.0
    plan = samples.source(tmp_path, samples='count = "50M"\n').sample_plan()
    assert seconds_of(plan) > 1.0
    assert seconds_of(plan, 49_000_000) == 0.0
