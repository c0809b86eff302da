"""Samples of benches: what varies, files, stops, other limits, and what is wrong by file and line."""

from __future__ import annotations

import csv
import json
from pathlib import Path

import numpy as np
import pytest

from hearthline.app.start import DEMO
from hearthline.cli import main
from hearthline.core.bench.passing import passing
from hearthline.core.bench.sampled import run_samples
from hearthline.core.circuit.flatten import parts_of_device
from hearthline.core.circuit.netlist import Element, Netlist
from hearthline.core.engine.instances import DeviceInstances
from hearthline.core.engine.job import Job
from hearthline.core.engine.lanes import Lanes
from hearthline.core.errors import CircuitError, FileError, QuantityError
from hearthline.core.expression import Expression, parse_value
from hearthline.core.formats.bench_source import read_benches
from hearthline.core.formats.kit_folder import INSTALLED, read_kit
from hearthline.core.formats.run_file import read_run
from hearthline.core.process.kit import Statistics
from hearthline.core.spread.pvt import Condition
from hearthline.core.spread.variables import BenchStatistics, variables_of
from hearthline.core.tolerance import Tolerance, split
from tests import samples
from tests.approximation import approx

KIT = read_kit(INSTALLED / "lm130")


def table(path: Path) -> list[dict[str, str]]:
    """A table of results."""
    with path.open(encoding="utf-8") as file:
        return list(csv.DictReader(file))


# -- tolerances as they are typed


@pytest.mark.parametrize(
    ("text", "value", "tolerance"),
    [
        ("5k ±3%", 5000.0, Tolerance(0.03)),
        ("5k ± 1 % sigma", 5000.0, Tolerance(sigma=0.01)),
        ("5k±1%sigma ±3%", 5000.0, Tolerance(0.03, 0.01)),
        ("5k +-3%", 5000.0, Tolerance(0.03)),
        ("2*2.5k ±3%", 5000.0, Tolerance(0.03)),
        ("5%3", 2.0, None),
    ],
)
def test_a_tolerance_is_typed_behind_the_value(text, value, tolerance):
    """And written again it says the same."""
    found = parse_value(text, "Ω")
    assert found.value({}) == approx(value)
    assert found.tolerance == tolerance
    if tolerance:
        assert split(f"{found.plain} {tolerance.text}") == (found.plain, tolerance)


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("5k ±0%", "above 0 %"),
        ("5k ±120%", "below 100 %"),
        ("5k ±3", "write it as 5k ±3%"),
        ("5k ±3% ±4%", "the same twice"),
        ("5k ±3% sigma ±0.1%", "keeps nothing"),
    ],
)
def test_tolerances_that_cannot_be(text, said):
    """Each says what would be right."""
    with pytest.raises(QuantityError, match=said):
        parse_value(text, "Ω")


# -- what varies


def numbers(**values: float) -> dict:
    """Expressions of plain numbers."""
    return {name: Expression.constant(value) for name, value in values.items()}


def test_devices_that_are_small_circuits_see_the_process_and_their_corner():
    """The oxide of a spiral and of a pad: `fcap` of each lane, by corner and deviation."""
    drawn = Element("l1", "X", ("a", "b"), numbers(d=200e-6, w=8e-6, s=2e-6, turns=3.5), "l_spiral")
    parts = tuple(parts_of_device(KIT.templates["l_spiral"], drawn))
    lanes = Lanes(
        ("typ", "typ+c_slow", "typ"), np.full(3, 27.0), process={"fcap": np.array([0.0, 0.0, 0.05])},
    )  # fmt: skip
    found = {one.name: one for one in DeviceInstances(Netlist(parts), KIT.models, lanes).all()}
    column = found["l1.ca"].values[:, 0]
    assert column / column[0] == approx([1.0, 1.105, 1.05])


def test_a_wider_resistor_varies_less():
    """The area law: four times the area, half the spread."""
    sigmas = []
    for scale in (1.0, 2.0):
        one = Element("r1", "X", ("a", "0"), numbers(w=scale * 1e-6, l=scale * 10e-6), "r_poly")
        (found,) = variables_of(Netlist((one,)), KIT.statistics, Condition("typ", 27.0), kinds=["mismatch"])
        sigmas.append(found.sigma)
    assert sigmas[0] / sigmas[1] == approx(2.0)
    assert sigmas[0] == approx(KIT.statistics.mismatch["r_poly"]["dr"] / np.sqrt(2 * 10e-12))


def test_tolerances_of_drawings_give_way_to_those_of_the_bench():
    """By part and value; every part of an array has its own."""
    parts = tuple(Element(f"r{k}", "R", ("a", "0"), {"r": parse_value("1k ±3%", "Ω")}) for k in (1, 2))
    own = BenchStatistics({("R1", ""): Tolerance(sigma=0.01)})
    found = variables_of(Netlist(parts), Statistics(), Condition("typ", 27.0), own)
    assert [(one.name, one.tolerance) for one in found] == [("r1.r", Tolerance(sigma=0.01)), ("r2.r", Tolerance(0.03))]


# -- runs


def test_a_run_writes_what_its_contract_says(tmp_path, capsys):
    """Samples, yields, contributions; rows of the nominal circuit have no sample; the run reads back."""
    path = samples.bench(tmp_path, more=samples.TOLERANCES, asked=samples.HALF + 'yield = "99%"\n')
    assert main(["run", str(path), "--out", str(tmp_path / "o")]) == 3
    assert capsys.readouterr().err.splitlines() == ["d-b: op (1 of 1)", "d-b: samples (1 of 1)"]
    drawn = table(tmp_path / "o/samples.csv")
    assert list(drawn[0]) == ["corner", "temperature", "sample", "r1.r", "r2.r", "half"]
    assert len(drawn) == 400
    for row in drawn[:50]:
        r1, r2 = float(row["r1.r"]), float(row["r2.r"])
        assert float(row["half"]) == approx(r2 / (r1 + r2), rel=1e-9)
        assert 9500 <= r1 <= 10500
    verdict = json.loads((tmp_path / "o/verdict.json").read_text())
    passed = sum(0.49 <= float(row["half"]) <= 0.51 for row in drawn)
    assert verdict["yield"]["passed"] == verdict["specifications"][0]["yield"]["passed"] == passed
    assert verdict["specifications"][0]["state"] == "fails"
    assert verdict["specifications"][0]["worst"] == approx(0.5)
    readings = table(tmp_path / "o/readings.csv")
    assert [row["sample"] for row in readings[:3]] == ["", "", "1"]
    curves = table(tmp_path / "o/op.csv")
    assert curves[2]["sample"] == "1"
    assert float(curves[2]["V(out)"]) == float(drawn[0]["half"])
    shares = {row["variable"]: float(row["share"]) for row in table(tmp_path / "o/contributions.csv")}
    assert sum(shares.values()) == approx(1.0)
    stored = read_run(tmp_path / "o/run.nc").run.samples
    np.testing.assert_array_equal(stored.numbers("r1.r"), [float(row["r1.r"]) for row in drawn])
    assert stored.variables[0].tolerance == Tolerance(0.05)


def test_a_run_is_judged_again_without_simulating(tmp_path, capsys):
    """`hearthline yield`; limits that are not named stay, the file stays."""
    main(["run", str(samples.bench(tmp_path)), "--out", str(tmp_path / "o")])
    before = (tmp_path / "o/yield.csv").read_text()
    capsys.readouterr()
    assert main(["yield", str(tmp_path / "o"), "--limit", "half=0.4..0.6"]) == 0
    rows = list(csv.DictReader(capsys.readouterr().out.splitlines()))
    assert [row["reading"] for row in rows] == ["half", "all"]
    assert rows[0]["passed"] == "400"
    assert main(["yield", str(tmp_path / "o"), "--limit", "half=..0.5"]) == 0
    assert ",,0.5," in capsys.readouterr().out
    assert main(["yield", str(tmp_path / "o"), "--without", "half"]) == 0
    assert len(capsys.readouterr().out.splitlines()) == 1
    assert (tmp_path / "o/yield.csv").read_text() == before
    for wrong, said in ((["--limit", "gain=1..2"], "there is no reading 'gain'"), (["--limit", "half=2"], "READING=LOW..HIGH"),
                        (["--limit", "half=2..1"], "above"), (["--without", "x"], "there is no reading 'x'")):  # fmt: skip
        assert main(["yield", str(tmp_path / "o"), *wrong]) == 2
        assert said in capsys.readouterr().err


def test_equal_seeds_give_equal_samples_however_they_are_computed(tmp_path):
    """On one thread or two, in one go or two; another seed gives others; a longer run begins with the shorter."""
    source = samples.source(tmp_path)
    plan = source.sample_plan()
    first = run_samples(plan, Job(1))
    np.testing.assert_array_equal(first.values["half"], run_samples(plan, Job(2)).values["half"])
    longer = source.with_samples("900", None).sample_plan()
    gone_on = run_samples(longer, before=first)
    assert gone_on.count == 900
    np.testing.assert_array_equal(gone_on.values["half"], run_samples(longer).values["half"])
    np.testing.assert_array_equal(gone_on.values["half"][:400], first.values["half"])
    other = run_samples(source.with_samples(None, "4").sample_plan())
    assert not np.array_equal(other.values["half"], first.values["half"])


def test_a_stop_keeps_whole_samples_and_a_rule_ends_a_run(tmp_path):
    """Stop after the first portion; or once the interval of the total is narrow enough."""
    source = samples.source(tmp_path, samples='count = "5000"\n')
    job = Job()
    found = run_samples(source.sample_plan(), job, told=lambda _: job.stop())
    assert 0 < found.count < 5000
    assert np.isfinite(found.values["half"]).all()
    ruled = run_samples(samples.source(tmp_path, samples='count = "50000"\nuntil = "6%"\n').sample_plan())
    assert 100 <= ruled.count < 2000


def test_samples_at_all_conditions_pass_where_they_pass_at_each(tmp_path):
    """A resistor with a temperature coefficient: two rows a sample."""
    parts = "v1 in 0 1\nr1 in out 10k tc1=2e-4\nr2 out 0 10k\n"
    plan = samples.source(tmp_path, parts=parts, samples='count = "200"\nat = "conditions"\n').sample_plan()
    found = run_samples(plan)
    assert found.values["half"].shape == (200, 2)
    assert found.rows["temperature"].tolist() == [27.0, 100.0]
    inside = (found.values["half"] >= 0.49) & (found.values["half"] <= 0.51)
    np.testing.assert_array_equal(passing(plan.snapshot.bench, found)["half"], inside.all(axis=1))
    assert inside[:, 0].sum() > inside.all(axis=1).sum()


def test_samples_that_do_not_converge_fail_and_are_named(tmp_path, capsys):
    """A source that draws more than a resistor gives has no operating point for some."""
    parts = "v1 in 0 1\nr1 in out 10k\nb1 out 0 i=v(out)>0.2?50u:1/(v(out)-v(out))\n"
    path = samples.bench(tmp_path, parts=parts, more='[[tolerances]]\npart = "r1"\nwithin = "90%"\n')
    status = main(["run", str(path), "--out", str(tmp_path / "o")])
    drawn = read_run(tmp_path / "o/run.nc").run.samples
    assert status == 0
    assert 0 < len(drawn.failures) < drawn.count
    assert f"{len(drawn.failures)} of 400 samples did not converge and fail" in capsys.readouterr().err
    total = table(tmp_path / "o/yield.csv")[-1]
    assert int(total["passed"]) <= 400 - len(drawn.failures)


def test_process_and_mismatch_of_decks_follow_their_table(tmp_path):
    """sigma = A / sqrt(w l m) for one device, common shifts for all of a model; a value that the card leaves out is its default."""
    parts = "v1 d 0 1\nm1 d d 0 0 n1 w=4u l=1u\nm2 d d 0 0 n1 w=1u l=1u\n.model n1 nmos (level=1 kp=200u)\n"
    more = '[samples.mismatch]\nn1 = { vto = "5e-9" }\n[samples.process]\nn1 = { vto = "10m" }\n'
    asked = '[[analyses]]\nname = "op"\nline = "point"\n' + "".join(
        f'[[readings]]\nname = "{name}"\nformula = "{name}.vth"\n' for name in ("m1", "m2")
    )
    drawn = run_samples(samples.source(tmp_path, parts=parts, more=more, asked=asked).sample_plan())
    assert drawn.names == ("process.n1.vto", "m1.vto", "m2.vto")
    assert [one.sigma for one in drawn.variables] == approx([0.01, 2.5e-3, 5e-3])
    for name in ("m1", "m2"):
        own = drawn.numbers("process.n1.vto") + drawn.numbers(f"{name}.vto")
        np.testing.assert_allclose(drawn.reading(name), own, atol=1e-12)


def test_the_demos_amplifier_spreads_as_its_pair_does():
    """Offset of `ota_sense`: three sigma of its input pair by Pelgrom is the most of it."""
    source = read_benches(DEMO, ["ota_sense_bench-loop"])[0].only(["around"]).with_samples("60", None)
    source = source.only(["around"])
    plan = source.sample_plan()
    assert any(one.name.endswith("m1.dvth") for one in plan.space.variables)
    assert run_samples(plan).count == 60


# -- what is wrong


@pytest.mark.parametrize(
    ("said", "line", "message"),
    [
        (dict(samples='count = "1e8x"\n'), 11, "count"),
        (dict(samples='count = "0"\n'), 11, "count is a whole number from 1"),
        (dict(samples='count = "1e8"\n'), 11, "GB, and at most 2 GB are kept; ask for fewer"),
        (dict(samples='way = "halton"\n'), 11, "there are random, latin, sobol"),
        (dict(samples='of = "luck"\n'), 11, "not of 'luck'"),
        (dict(samples='at = "noon"\n'), 11, "there are point, conditions, picked"),
        (dict(samples='at = "picked"\n'), 11, "none is picked"),
        (dict(samples='until = "0%"\n'), 11, "between 0 % and 100 %"),
        (dict(samples='of = "process"\n'), 11, "nothing varies"),
        (dict(more='[[tolerances]]\npart = "r1"\nwithin = "0%"\n'), 15, "above 0 %"),
        (dict(more='[[tolerances]]\npart = "r1"\nwithin = "100%"\n'), 15, "below 100 %"),
        (dict(more='[[tolerances]]\npart = "r1"\n'), 14, "how far (within)"),
        (dict(more='[[tolerances]]\npart = "r9"\nwithin = "1%"\n'), 14, "no part 'r9'"),
        (dict(more='[[tolerances]]\npart = "r1"\nof = "w"\nwithin = "1%"\n'), 15, "r1 has no value 'w'; it has r"),
        (dict(more='[samples.mismatch]\nq7 = { is = "1" }\n'), 14, "no part has that model"),
        (dict(asked=samples.HALF + 'yield = "120%"\n'), 31, "at most 100 %"),
    ],
)  # fmt: skip
def test_wrong_input_is_named_by_file_and_line(tmp_path, capsys, said, line, message):
    """With what would be right; nothing is written."""
    assert main(["run", str(samples.bench(tmp_path, **said)), "--out", str(tmp_path / "o")]) == 2
    err = capsys.readouterr().err
    assert err.startswith(f"{tmp_path / 'b.toml'}:{line}: "), err
    assert message in err
    assert not (tmp_path / "o").exists() or not list((tmp_path / "o").iterdir())


def test_a_device_without_area_and_a_value_of_nothing_are_named():
    """Instead of an infinite spread, or none."""
    at = Condition("typ", 27.0)
    one = Element("m1", "M", ("a", "a", "0", "0"), numbers(w=0.0, l=1.0), "n_rvt")
    with pytest.raises(CircuitError, match="m1: it has no area"):
        variables_of(Netlist((one,)), Statistics({}, {"n_rvt": {"dvth": 1e-9}}), at)
    with pytest.raises(CircuitError, match="v1: its dc is 0"):
        variables_of(Netlist((Element("v1", "V", ("a", "0"), {"dc": parse_value("0 ±3%", "V")}),)), Statistics(), at)


def test_a_bench_without_reading_or_limit_says_so(tmp_path, capsys):
    """No reading: wrong input. No limit: it runs, and there is no yield."""
    asked = '[[analyses]]\nname = "op"\nline = "point"\n'
    with pytest.raises(FileError, match="has no reading"):
        samples.source(tmp_path, asked=asked).sample_plan()
    asked += '[[readings]]\nname = "half"\nformula = "V(out)"\n'
    assert main(["run", str(samples.bench(tmp_path, asked=asked)), "--out", str(tmp_path / "o")]) == 0
    assert "so there is no yield" in capsys.readouterr().err
    assert (tmp_path / "o/yield.csv").read_text().count("\n") == 1
