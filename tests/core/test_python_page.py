"""The page about Python shows what works: its example is run as it stands."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np
import pytest

from hearthline.app.start import DEMO
from tests.approximation import approx

PAGE = Path(__file__).parents[2] / "docs" / "python.md"


def test_the_example_runs(tmp_path, monkeypatch, capsys):
    """And its numbers agree with each other: gain of AC, of the sweep's slope, and of the small-signal values."""
    monkeypatch.chdir(tmp_path)
    _, example = re.findall(r"```python\n(.*?)```", PAGE.read_text(encoding="utf-8"), re.DOTALL)
    found: dict = {}
    exec(compile(example, "python.md", "exec"), found)
    assert "(6, 1)" in capsys.readouterr().out
    volts = found["sweep"].curve("V(out)")
    slope = (volts[:, 51] - volts[:, 49]) / 0.02
    np.testing.assert_allclose(found["gain"][:, 0], np.abs(slope), rtol=5e-3)
    assert len(found["run"].tracks) == 6
    assert not found["run"].failed_lanes
    late = found["time"] > 1e-6
    swing = np.ptp(found["volts"][late, 2]) / 2e-3
    assert abs(swing / found["gain"][-1, 30] - 1) < 5e-3  # at 1 MHz


def test_the_front(tmp_path, monkeypatch, capsys):
    """A divider by hand, in pandas and xarray."""
    monkeypatch.chdir(tmp_path)
    example, _ = re.findall(r"```python\n(.*?)```", PAGE.read_text(encoding="utf-8"), re.DOTALL)
    found: dict = {}
    exec(compile(example, "python.md", "exec"), found)
    assert "(6, 101)" in capsys.readouterr().out
    frame = found["frame"]
    assert list(frame.columns[:4]) == ["corner", "temperature", "rl", "vin"]
    np.testing.assert_allclose(frame["V(out)"], frame["vin"] * 1e3 / (1e3 + frame["rl"]), rtol=1e-9)
    np.testing.assert_allclose(found["volts"].sel(vin=2.0), [1.0, 0.5] * 3, rtol=1e-9)


def test_a_bench_from_python():
    """The same numbers as the command writes."""
    from hearthline import HearthlineError, read_bench, read_project, run

    result = run(read_bench(DEMO, "peak_mem_bench-loop"))
    assert list(result) == ["drive"]
    assert result.verdict["state"] in ("holds", "fails")
    table = result.table()
    assert list(table.columns[:2]) == ["corner", "temperature"]
    assert set(result.readings) <= set(table.columns)
    assert not result.failures
    assert "inv_x1-transfer" in read_project(DEMO)
    with pytest.raises(HearthlineError, match="several benches"):
        read_bench(DEMO)


def test_what_a_deck_does_not_have_is_said(tmp_path):
    """Nothing that was asked for is passed over: parameters, corners, two analyses of one name."""
    from hearthline import HearthlineError, read_deck

    path = tmp_path / "d.cir"
    path.write_text("t\n.param rl=1k\nv1 a 0 2\nr1 a b {rl}\nr2 b 0 1k\n")
    deck = read_deck(path)
    found = deck.run("point", parameters={"RL": [1e3, 3e3]})["point"]
    assert found.curve("V(b)")[:, 0] == approx([1.0, 0.5], rel=1e-9)
    for arguments, named, said in (
        (("point",), dict(parameters={"rx": [1.0]}), "no parameter 'rx'"),
        (("point",), dict(corners=["a", "b"]), "would all be the same"),
        (("point", "point within v1 at 1,2"), {}, "two analyses have one name"),
        (("pointt",), {}, "is not an analysis"),
    ):
        with pytest.raises(HearthlineError, match=said):
            deck.run(*arguments, **named)


def test_readings_of_different_nests_are_asked_for_by_name(tmp_path):
    """One table would repeat them against each other."""
    from hearthline import HearthlineError, read_bench, run

    (tmp_path / "d.cir").write_text("t\nv1 a 0 2\nr1 a b 1k\nr2 b 0 1k\n")
    lines = "".join(
        f'[[analyses]]\nname = "{name}"\nline = "point within {what}"\n'
        f'[[readings]]\nname = "{name}"\nformula = "V(b)"\nanalysis = "{name}"\n'
        for name, what in (("first", "v1 at 1,2"), ("second", "temperature at 0,50"))
    )
    (tmp_path / "b.toml").write_text(
        'format = 3\nname = "n"\ndeck = "d.cir"\n[point]\ncorner = "typ"\ntemperature = "27"\n'
        '[grid]\ncorners = ["typ"]\ntemperatures = ["27"]\n' + lines
    )
    result = run(read_bench(tmp_path / "b.toml"))
    assert list(result.table("first")["first"]) == approx([0.5, 1.0], rel=1e-9)
    with pytest.raises(HearthlineError, match="name the analysis of one: first, second"):
        result.table()


def test_the_example_of_samples_runs(tmp_path, monkeypatch, capsys):
    """Its numbers against the laws that it states: r1 uniform within 5 %, r2 normal of 1 %."""
    monkeypatch.chdir(tmp_path)
    page = PAGE.with_name("samples.md").read_text(encoding="utf-8")
    (example,) = re.findall(r"```python\n(.*?)```", page, re.DOTALL)
    found: dict = {}
    exec(compile(example, "samples.md", "exec"), found)
    frame = found["found"].yields()
    assert list(frame["reading"]) == ["half", "all"]
    r1, r2 = found["resistors"], found["found"].samples.numbers("r2.r")
    assert r1.min() >= 9500
    assert r1.max() <= 10500
    np.testing.assert_allclose(found["values"], r2 / (r1 + r2), rtol=1e-9)
    inside = np.mean(np.abs(found["values"] - 0.5) <= 0.01)
    assert frame["yield"][1] == approx(inside)
    assert found["wider"]["yield"][1] > inside
    assert found["found"].ranking()["part"][0] == "r1"
    shares = found["found"].contributions("half").set_index("variable")["share"]
    assert shares["r1.r"] == approx(0.05**2 / 3 / (0.05**2 / 3 + 0.01**2), rel=0.05)
    assert len(found["again"].samples.normal) == 3000
    tail = found["far"].tail
    truth = sum(_beyond(limit, side) for limit, side in ((0.46, -1), (0.54, 1)))
    assert tail.low <= truth <= tail.high


def _beyond(limit: float, side: int) -> float:
    """How likely V(out) is beyond a limit: the mean over r1 of the normal law of r2 (SciPy's quad)."""
    from scipy import stats
    from scipy.integrate import quad

    def given(r1: float) -> float:
        r2 = limit * r1 / (1 - limit)  # as far as V(out) is concerned
        return stats.norm.sf(side * (r2 / 1e4 - 1) / 0.01)

    return quad(given, 9500, 10500, epsabs=0)[0] / 1000
