"""The heat of a bench in its file: what is told, and what is wrong with line and cause."""

from __future__ import annotations

import csv
from dataclasses import replace

import pytest

from hearthline.app.start import DEMO
from hearthline.cli import main
from hearthline.core.bench.heat import HeatLine, HeatSetup
from hearthline.core.bench.run import solve_point
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.formats.bench_file import read_bench, write_bench
from hearthline.core.formats.project_folder import read_project
from tests.approximation import approx
from tests.benches import bench_text, ran

PARTS = "v1 a 0 1\nr1 a b 10\nm1 b b 0 0 n w=10u l=1u\nc1 b 0 1p\n.model n nmos vto=0.4 kp=200u"
DECK = f"test\n{PARTS}\n.end\n"
HEAT = '[heat]\ndie = "400u, 300u, 100u"\nconductivity = "148"\nexponent = "-1.3"\n'
SOURCE = '[[heat.sources]]\npart = "r1"\nat = "200u, 150u"\nsize = "2u, 20u"\nfingers = "3"\npitch = "10u"\n'


def run(folder, more: str, *options: str, lines: dict[str, str] | None = None) -> int:
    (folder / "circuit.cir").write_text(DECK)
    (folder / "b.toml").write_text(bench_text(lines or {"point": "point"}, {}, more=more))
    return main(["run", str(folder / "b.toml"), "--out", str(folder / "out"), *options])


def rows(folder, name: str) -> list[dict[str, str]]:
    with (folder / "out" / f"{name}.csv").open() as file:
        return list(csv.DictReader(file))


def test_heat_is_told_finger_by_finger(tmp_path):
    """For the operating point, each swept point and a balance; the part's temperature is a curve."""
    more = HEAT + SOURCE + SOURCE.replace("r1", "m1").replace("200u, 150u", "300u, 150u").replace('"3"', '"1"')
    lines = {"point": "point", "over": "sweep of v1 from 0 to 1 points 3", "large": "balance at 1M harmonics 2"}
    assert run(tmp_path, more, lines=lines) == 0
    found = rows(tmp_path, "heat")
    assert list(found[0]) == ["corner", "temperature", "analysis", "at", "part", "finger", "power", "hot"]
    assert [(one["analysis"], one["at"]) for one in found[::4]] == [
        ("point", ""), ("over", "0.0"), ("over", "0.5"), ("over", "1.0"), ("large", "")
    ]  # fmt: skip
    assert [(one["part"], one["finger"]) for one in found[:4]] == [("r1", "1"), ("r1", "2"), ("r1", "3"), ("m1", "1")]
    (point,) = rows(tmp_path, "point")
    mean = sum(float(one["hot"]) for one in found[:3]) / 3
    assert float(point["r1.temperature"]) == approx(mean, abs=1e-4)
    power = float(point["r1.i"]) * float(point["r1.v"])
    assert sum(float(one["power"]) for one in found[:3]) == approx(power, rel=1e-5)


def test_isothermal_is_as_without_heat_to_the_last_bit(tmp_path):
    """Temperatures are the condition's, and there is no heat.csv."""
    one, other = tmp_path / "one", tmp_path / "other"
    for folder in (one, other):
        folder.mkdir()
    assert run(one, HEAT + SOURCE, "--isothermal") == 0
    assert run(other, "") == 0
    assert not (one / "out" / "heat.csv").exists()
    (cold,), (plain,) = rows(one, "point"), rows(other, "point")
    for label in ("temperature", "peak_temperature", "finger1.hot", "finger2.hot", "finger3.hot"):
        assert cold.pop(f"r1.{label}") == "27.0"
    assert cold == plain


@pytest.mark.parametrize(
    ("more", "said"),
    [
        (HEAT + SOURCE.replace('"10u"', '"1u"'), "r1: its fingers lie over each other"),
        (HEAT + SOURCE.replace("200u, 150u", "395u, 150u"), "r1: its finger 3 lies outside of the die"),
        (HEAT + SOURCE.replace("r1", "r9"), "r9: it is not in the circuit; parts that do are r1, m1"),
        (HEAT + SOURCE.replace("r1", "c1"), "c1: it turns no power into heat"),
        (HEAT + SOURCE + SOURCE, "r1: it stands on the die twice"),
        (HEAT + SOURCE + SOURCE.replace("r1", "m1"), "r1: a finger lies over one of m1"),
        (HEAT.replace("100u", "0") + SOURCE, "die is above 0, and not 0"),
        (HEAT.replace("400u, ", "") + SOURCE, "die is 3 numbers with commas between them"),
        (HEAT.replace('"148"', '"-1"') + SOURCE, "conductivity is above 0, and not -1"),
        (HEAT + SOURCE.replace('"3"', '"2.5"'), "fingers are a whole number of 1 or more, and not 2.5"),
        (HEAT, "nothing stands on the die"),
        (HEAT + SOURCE.replace("2u, 20u", "2u, x"), "size"),
    ],
)
def test_what_is_wrong_with_a_plan(tmp_path, capsys, more, said):
    """Exit status 2, with the line."""
    assert run(tmp_path, more) == 2
    error = capsys.readouterr().err
    assert said in error
    assert "b.toml:" in error


def test_a_run_away_is_no_solution(tmp_path, capsys):
    """Exit status 1, naming the part."""
    (tmp_path / "circuit.cir").write_text("t\nv1 a 0 20\nr1 a 0 r=10 tc1=-5e-3\n.end\n")
    (tmp_path / "b.toml").write_text(bench_text({"point": "point"}, {}, more=HEAT + SOURCE))
    assert main(["run", str(tmp_path / "b.toml"), "--out", str(tmp_path / "out")]) == 1
    assert "r1 runs away with its heat" in capsys.readouterr().err


def test_a_bench_keeps_its_heat(tmp_path):
    """Written and read again."""
    (tmp_path / "b.toml").write_text(bench_text({"point": "point"}, {}, more=HEAT + SOURCE))
    bench = read_bench(tmp_path / "b.toml", "b.toml")
    line = HeatLine("r1", "200u, 150u", "2u, 20u", "3", "10u")
    assert bench.heat == HeatSetup("400u, 300u, 100u", "148", "-1.3", "0", "", (line,))
    write_bench(tmp_path / "c.toml", bench)
    assert read_bench(tmp_path / "c.toml", "c.toml") == bench


def test_the_point_of_the_drawing_is_hot_too():
    """What stands on the drawing is what a run finds, and what the bench without heat does not."""
    project = read_project(DEMO)
    hot = Snapshot(project.benches["pa_868_bench-hot"], project.cells, project.kit)
    point = solve_point(hot)
    assert 70.0 < point.curves["x1.m2.temperature"][0, 0] < 100.0
    cold = replace(hot, bench=replace(hot.bench, heat=None))
    currents = [float(one.curves["x1.m2.id"][0, 0]) for one in (point, solve_point(cold))]
    assert 0.01 < abs(currents[0] / currents[1] - 1.0) < 0.3


def test_what_has_no_solution_when_cold_does_not_run_away(tmp_path, capsys):
    """An oscillation that there is not: its own reason, and nothing about heat."""
    (tmp_path / "circuit.cir").write_text("t\nv1 a 0 1\nr1 a b 1k\nc1 b 0 1p\nl1 b 0 1u\n.end\n")
    (tmp_path / "b.toml").write_text(bench_text({"swing": "oscillation"}, {}, more=HEAT + SOURCE))
    assert main(["run", str(tmp_path / "b.toml"), "--out", str(tmp_path / "out")]) == 1
    error = capsys.readouterr().err
    assert "no pole of the operating point grows" in error
    assert "runs away" not in error


def test_a_capacity_says_what_it_follows_with():
    """How many time constants, and how exact they are, in the log; without one nothing moves."""
    with_one = ran(PARTS, {"p": "point"}, ports={}, more=HEAT + 'capacity = "1.63e6"\n' + SOURCE)
    assert any("time constants from" in line for line in with_one.log)
    without = ran(PARTS, {"p": "point"}, ports={}, more=HEAT + SOURCE)
    assert not any("time constants" in line for line in without.log)
