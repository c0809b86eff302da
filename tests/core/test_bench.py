"""Benches: analyses and stimuli as lines, what the circuit says, conditions, runs that complete each other."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from hearthline.app.start import DEMO
from hearthline.core.analyses import ANALYSES
from hearthline.core.analyses.line import Analysis, parse_analysis
from hearthline.core.analyses.plan import Plan
from hearthline.core.bench.basis import basis_of
from hearthline.core.bench.bench import Bench, GridSetup, PointSetup, Reading, Specification, Stimulus, Watch
from hearthline.core.bench.effects import main_effects
from hearthline.core.bench.readings import Reader
from hearthline.core.bench.ready import ready_for
from hearthline.core.bench.renaming import (
    with_analysis_renamed,
    with_part_renamed,
    with_pin_renamed,
    with_reading_renamed,
    with_stimulus_renamed,
)  # fmt: skip
from hearthline.core.bench.run import run_bench, size_of
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.bench.stimuli import parse_stimulus, text_of, waveform_of_table
from hearthline.core.circuit.edit.names import renamed_part, renamed_pin
from hearthline.core.data.formula import Formula
from hearthline.core.data.functions import FUNCTIONS
from hearthline.core.data.shorthands import SHORTHANDS
from hearthline.core.engine.job import Job
from hearthline.core.errors import CircuitError, ExpressionError, HearthlineError
from hearthline.core.expression import Expression
from hearthline.core.formats.bench_file import bench_of, bench_text
from hearthline.core.formats.project_folder import read_project
from hearthline.core.formats.toml_table import parse_toml
from hearthline.core.outcome import Outcome
from tests.approximation import approx


@pytest.fixture(scope="module")
def project():
    """The demo."""
    return read_project(DEMO)


def snapshot(project, key="inv_x1-transfer", **changed) -> Snapshot:
    """A bench of the demo, with something exchanged."""
    return Snapshot(replace(project.benches[key], **changed), project.cells, project.kit)


def few(**parameters) -> GridSetup:
    """One corner and one temperature."""
    return GridSetup(("typ",), ("27",), {name: tuple(values) for name, values in parameters.items()})


# -- lines


@pytest.mark.parametrize(
    "text",
    [
        "point", "sweep of vin from 0 to 1.2 points 241", "sweep of temperature from -40 to 150 step 5 within vdd at 1.0,1.1,1.2",
        "transient to 4u from 1u step 1n begin given rule gear", "ac from 1 to 10G points 20 spaced decade by vin",
        "noise of out,ref by vin from 10 to 1M points 5",
    ],
)  # fmt: skip
def test_a_line_read_and_written_is_the_same(text):
    """For every kind."""
    assert parse_analysis("a", text).text == text
    assert parse_analysis("a", text) == parse_analysis("a", parse_analysis("a", text).text)


@pytest.mark.parametrize(
    ("text", "said", "column"),
    [
        ("swep of vin", "'swep' is not an analysis; there are point, sweep", 1), ("", "nothing is not an analysis", 1),
        ("sweep of vin form 0", "'form' at column 14: sweep takes of, from", 14), ("ac from", "'from' at column 4 has no value", 4),
        ("transient to 1u to 2u", "'to' stands twice", 17), ("transient rule euler", "'euler' at column 16: rule is one of trap, gear", 16),
        ("point to 3", "point takes within, at", 7), ("point at 3", "say what takes these values before it", 7),
    ],
)  # fmt: skip
def test_a_wrong_line_says_where(text, said, column):
    """The column of the word that is not understood."""
    with pytest.raises(ExpressionError, match=said) as caught:
        parse_analysis("a", text)
    assert caught.value.column == column


def test_lists_may_have_blanks_and_expressions_too():
    """Brackets hold together, and so does what follows a comma."""
    found = parse_analysis("a", "sweep of vin to {vdd * 2} within vdd at 1.0, 1.1, 1.2")
    assert found.settings["at"] == "1.0,1.1,1.2"
    assert found.settings["to"] == "{vdd * 2}"


@pytest.mark.parametrize(
    "text",
    ["vdd voltage vdd", "in voltage 580m ac 1 phase 90 wave pulse(0 1.2 1n 10p 10p 2n 4n)", "out capacitance 10f to vdd",
     "out resistance 1k", "in current 1u wave sin(0 1u 1k)", "vss ground", "in voltage wave pwl(0 0 1n 1)"],
)  # fmt: skip
def test_a_stimulus_read_and_written_is_the_same(text):
    """Sources, loads and ties to ground."""
    assert text_of(parse_stimulus("s", text)) == text


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("in volts 1", "'volts' is not understood"), ("in", "write a pin and one of voltage"), ("out resistance", "needs a value in Ω"),
        ("in voltage 1 loud 2", "'loud' at column 14: there are to, ac, phase and wave"), ("out capacitance 1p ac 1", "a capacitance has no ac"),
        ("in voltage wave pwl(0 0 2n 1 1n 0)", "runs backwards: 1e-09 s stands after 2e-09 s"), ("in voltage 3.2x", "'x' in '3.2x'"),
        ("in voltage wave pulse(0)", "too few numbers"),
    ],
)  # fmt: skip
def test_a_wrong_stimulus_is_refused(text, said):
    """Before it is tied to anything."""
    with pytest.raises(HearthlineError, match=said):
        parse_stimulus("s", text)


@pytest.mark.parametrize(
    "text",
    [
        "0 0\n1n 1.2\n3n 0",
        "time,value\n0,0\n1e-9,1.2\n3e-9,0\n",
        "# edges\n0;0\n1n;1.2\n\n3n;0",
        "0\t0\n1ns\t1.2V\n3ns\t0V",
    ],
)
def test_a_course_from_a_table(text):
    """Pasted columns or CSV, with a head of names or without."""
    course = waveform_of_table(text)
    numbers = [float(e.value({})) for e in parse_wave(course).numbers]
    np.testing.assert_allclose(numbers, [0, 0, 1e-9, 1.2, 3e-9, 0])


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("0 0", "two lines or more"),
        ("0 0\n1n x", "line 2: '1n x' is not"),
        ("0 0 0\n1 1 1", "line 1: .* 3 numbers"),
        ("0 0\n2n 1\n1n 0", "runs backwards"),
    ],
)
def test_a_wrong_table_names_its_line(text, said):
    """And nothing is changed."""
    with pytest.raises(HearthlineError, match=said):
        waveform_of_table(text)


def parse_wave(text):
    """The wave of the circuit."""
    from hearthline.core.elements.wave import parse_wave

    return parse_wave(text)


def test_every_demo_bench_is_its_own_text(project):
    """Written as text and read again; with any of its settings."""
    for bench in project.benches.values():
        assert bench_of(parse_toml(bench_text(bench), "line")) == bench


def test_a_bench_of_the_first_format_is_read():
    """One sweep in a table of its own becomes an analysis."""
    text = 'format = 1\nname = "t"\ncell = "c"\n[point]\ncorner = "typ"\ntemperature = "27"\n[grid]\ncorners = ["typ"]\ntemperatures = ["27"]\n'
    sweep = '[sweep]\nstimulus = "vin"\nfrom = "0"\nto = "1.2"\npoints = 11\n'
    bench = bench_of(parse_toml(text + sweep, "line"))
    assert bench.analyses[0].text == "sweep of vin from 0 to 1.2 points 11"


# -- what the circuit says


def test_settings_come_from_the_circuit(project):
    """Range from the supply at its highest, time from the periods of the stimuli, the output from its pin."""
    around = snapshot(project).circuit
    assert Plan(around, Analysis("a", "sweep")).settings == {"of": "vin", "from": "0", "to": "1.32", "points": "201"}
    assert Plan(around, Analysis("a", "noise")).settings["of"] == "out"
    pulse = replace(project.benches["inv_x1-transfer"].stimulus("vin"), wave="pulse(0 1.2 1n 10p 10p 2n 4n)")
    moving = snapshot(project, stimuli=(project.benches["inv_x1-transfer"].stimuli[0], pulse))
    assert Plan(moving.circuit, Analysis("a", "transient")).settings["to"] == "17n"
    sine = snapshot(project, stimuli=(moving.bench.stimuli[0], replace(pulse, wave="sin(0.6 0.1 1M)")))
    assert Plan(sine.circuit, Analysis("a", "transient")).settings["to"] == "4u"
    assert Plan(around, Analysis("a", "ac")).settings["by"] == "vin"
    with pytest.raises(CircuitError, match="no source or parameter 'vx' to sweep; there are vin, vdd"):
        _ = Plan(around, Analysis("a", "sweep", {"of": "vx"})).settings


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("sweep of vin from 0 to 1 step 0", "a step of nothing never arrives"), ("sweep of vin from 0 to 1 step -0.1", "leads away"),
        ("sweep of vin points 1", "points is a whole number of 2 or more"), ("sweep of vin within vdd", "within vdd needs its values"),
        ("sweep of vin within vx at 1,2", "no source or parameter 'vx'"), ("ac from 0 to 10", "rise from more than 0 Hz"),
        ("transient to 1u from 2u", "ends after it begins"), ("noise of q by vin", "no net 'q'"), ("ac by vx", "no source 'vx'"),
        ("transient to 1u step 0", "longest step is more than nothing"), ("sweep of vin to 3x", "a: to: 'x' in '3x'"),
    ],
)  # fmt: skip
def test_settings_that_cannot_be_are_refused(project, line, said):
    """With the name of the analysis, before anything is solved."""
    snap = snapshot(project, analyses=(parse_analysis("a", line),), readings=(), specifications=(), grid=few())
    with pytest.raises(CircuitError, match=said):
        run_bench(snap)


def test_a_billion_points_are_counted_not_made(project):
    """So that the person can be asked first."""
    snap = snapshot(project, analyses=(parse_analysis("a", "sweep of vin from 0 to 1 step 1n"),))
    points, size = size_of(snap)
    assert points == 45 * (1_000_000_000 + 1)
    assert size > 1e12


def test_ready_readings_use_functions_that_there_are(project):
    """And are formulas that can be read, for every analysis."""
    words = dict.fromkeys(("out", "in", "supply", "supply_net"), "x") | {"other": "a", "here": "b", "of": "a"}
    for one in (one for kind in ANALYSES.values() for one in kind.ready):
        formula = Formula.parse(one.formula.format(**words), ("a", "b"))
        assert formula.text.partition("(")[0].lstrip("-") in {*FUNCTIONS, *SHORTHANDS}
        assert formula.quantities or "carrier" in one.formula  # which the axis says
    found = {one.name: one for one in ready_for(snapshot(project, readings=(), specifications=()))}
    assert found["switching point"].formula == "switching_point(V(out), V(in))"
    assert "phase margin" not in found


# -- conditions


def test_axes_are_crossed_alone_or_picked(project):
    """Each condition once; picked ones are added."""
    grid = GridSetup(("typ", "ss"), ("27", "150"), {"vdd": ("1.08", "1.2")})
    picked = (PointSetup("ff", "-40", {"vdd": "1.32"}), PointSetup("typ", "27", {"vdd": "1.2"}))
    assert len(snapshot(project, grid=grid).conditions()) == 8
    alone = snapshot(project, grid=replace(grid, how="alone")).conditions()
    assert [(c.corner, c.celsius, c.parameters["vdd"]) for c in alone] == [
        ("typ", 27.0, 1.2), ("ss", 27.0, 1.2), ("typ", 150.0, 1.2), ("typ", 27.0, 1.08)
    ]  # fmt: skip
    both = snapshot(project, grid=replace(grid, picked=picked)).conditions()
    assert len(both) == 9
    only = snapshot(project, grid=replace(grid, how="picked", picked=picked)).conditions()
    assert [(c.corner, c.parameters["vdd"]) for c in only] == [("ff", 1.32), ("typ", 1.2)]


def test_any_parameter_of_the_cell_may_be_an_axis(project):
    """It stands before the value in the cell, with nothing copied."""
    grid = GridSetup(("typ",), ("27",), {"vdd": ("1.2",), "rz": ("1", "2k")})
    snap = snapshot(project, "ota_sense-step", grid=grid, analyses=(Analysis("point", "point"),))
    snap = replace(snap, bench=replace(snap.bench, watches=(Watch("r1.res"),), readings=(), specifications=()))
    data = run_bench(snap).results["point"]
    np.testing.assert_array_equal(data.conditions["rz"], [1.0, 2000.0])
    lowered = snap.circuit.netlist.elements
    assert next(e for e in lowered if e.name == "r1").values["r"].text == "rz"


# -- running


def test_kinds_of_analyses_agree_on_an_rc(project):
    """A resistor and a capacitor at the pins of an inverter that is off: corner, rise time and noise in closed form."""
    bench = replace(
        project.benches["inv_x1-transfer"],
        stimuli=(Stimulus("vdd", "vdd", "0"), Stimulus("vin", "in", "0", ac="1", wave="pulse(0 1m 1n 1p 1p 1)"),
                 Stimulus("r", "out", "1k", "resistance", to="in"), Stimulus("c", "out", "100p", "capacitance")),
        grid=few(), point=PointSetup("typ", "27", {}), watches=(), specifications=(),
        analyses=(Analysis("response", "ac", {"from": "1k", "to": "1G", "points": "50"}),
                  parse_analysis("step", "transient to 2u error 1e-4"), Analysis("density", "noise", {"of": "out", "by": "vin"})),
        readings=(Reading("corner", "bandwidth(V(out))"), Reading("rise", "rise(V(out))", analysis="step"),
                  Reading("noise", "at(noise.output, 1k)", analysis="density"),
                  Reading("product", "corner * rise / 0.35")),
    )  # fmt: skip
    found = Reader(bench, run_bench(Snapshot(bench, project.cells, project.kit)).results).all()
    tau = 1e3 * 100e-12
    assert found["corner"].values[0] == approx(1 / (2 * np.pi * tau), rel=2e-3)
    assert found["rise"].values[0] == approx(tau * np.log(9), rel=5e-3)
    assert found["noise"].values[0] == approx(np.sqrt(4 * 1.380649e-23 * 300.15 * 1e3), rel=2e-3)
    assert [found[n].unit for n in ("corner", "rise", "noise", "product")] == ["Hz", "s", "V/√Hz", ""]


def test_a_sweep_of_temperature_and_one_inside_another(project):
    """Each point at its own temperature; the outer values are lanes of their condition."""
    heat = parse_analysis("heat", "sweep of temperature from -40 to 150 points 5")
    nested = parse_analysis("nested", "sweep of vin points 11 within vdd at 1.0,1.2")
    snap = snapshot(
        project,
        analyses=(heat, nested),
        grid=few(vdd=["1.1", "1.3"]),
        watches=(Watch("m1.vth"),),
        readings=(),
        specifications=(),
    )
    results = run_bench(snap).results
    vth = results["heat"].curve("m1.vth")
    assert vth.shape == (2, 5)
    assert (np.diff(vth, axis=1) < 0).all()
    assert results["nested"].curve("V(out)").shape == (4, 11)
    assert results["nested"].per_condition == 2
    np.testing.assert_array_equal(results["nested"].curve("V(vdd)")[:, 0], [1.0, 1.2, 1.0, 1.2])


def test_a_run_computes_only_what_is_new(project):
    """Added conditions, in any order; the numbers are those of a run from nothing, to the last bit."""
    short = (parse_analysis("transfer", "sweep of vin from 0 to 1.2 points 41"),)
    grid = GridSetup(("typ", "ff"), ("27",), {"vdd": ("1.2", "1.08")})
    before = run_bench(snapshot(project, analyses=short, grid=replace(grid, corners=("ff",))))
    snap = snapshot(project, analyses=short, grid=grid)
    job = Job()
    after = run_bench(snap, job, before=before)
    assert job.total == 2 * 41
    assert "2 of 4 conditions computed, the others were there" in after.log[0]
    whole = run_bench(snap)
    assert after.conditions == whole.conditions
    np.testing.assert_allclose(
        after.results["transfer"].curve("V(out)"), whole.results["transfer"].curve("V(out)"), atol=1e-7
    )
    again = run_bench(snap, before=after)
    assert again.log == ("transfer: nothing new to compute",)
    np.testing.assert_array_equal(again.results["transfer"].curve("V(out)"), after.results["transfer"].curve("V(out)"))


def test_another_circuit_or_setting_takes_nothing_over(project):
    """Nor another model; where parts stand and what limits are does not count."""
    snap = snapshot(project)
    transfer, cell = snap.bench.analyses[0], snap.cell
    basis = basis_of(snap, transfer)

    def with_cell(new):
        return replace(snap, cells={**snap.cells, "inv_x1": new})

    assert basis_of(with_cell(cell.with_part(cell.part("M2").with_value("w", "3u"))), transfer) != basis
    assert basis_of(snap, replace(transfer, settings={**transfer.settings, "points": "11"})) != basis
    moved = with_cell(replace(cell, note="another note"))
    assert basis_of(moved, transfer) == basis
    other = snap.bench.with_stimulus(replace(snap.bench.stimulus("vin"), dc="600m"))
    assert basis_of(replace(snap, bench=other), transfer) == basis  # it is the one that is swept
    loaded = snap.bench.with_stimulus(replace(snap.bench.stimulus("vdd"), dc="vdd - 0.1"))
    assert basis_of(replace(snap, bench=loaded), transfer) != basis


def test_a_failing_condition_leaves_the_others_and_is_run_again_alone(project):
    """Marked with its reason, without readings; when the cause is gone only it is computed."""
    bench = project.benches["inv_x1-transfer"]
    trouble = replace(bench.stimulus("vdd"), dc="vdd > 1.3 ? 1e200 : vdd")
    short = (parse_analysis("transfer", "sweep of vin from 0 to 1.2 points 21"),)
    snap = snapshot(project, analyses=short, grid=few(vdd=["1.2", "1.32"]), stimuli=(trouble, bench.stimulus("vin")))
    run = run_bench(snap)
    assert list(run.failed()) == [1]
    assert "not a number" in run.failed()[1]
    values = Reader(snap.bench, run.results).all()["switching point"].values
    assert np.isfinite(values).tolist() == [True, False]
    job = Job()
    again = run_bench(snap, job, before=run)
    assert job.total == 21
    assert list(again.failed()) == [1]


def test_a_stopped_run_keeps_what_is_done(project):
    """And the next one goes on from there."""
    job = Job()
    job.stop()
    short = (parse_analysis("transfer", "sweep of vin from 0 to 1.2 points 21"),)
    snap = snapshot(project, analyses=short, grid=few(vdd=["1.2", "1.32"]))
    stopped = run_bench(snap, job)
    assert not stopped.complete
    assert (stopped.results["transfer"].outcomes != Outcome.SOLVED).all()
    assert run_bench(snap, before=stopped).complete


def test_a_watch_on_a_net_that_is_gone_keeps_the_others(project):
    """It is missing from the run, and says so when it is asked for."""
    snap = snapshot(project, watches=(Watch("V(gone)"), Watch("V(out)")), grid=few())
    run = run_bench(snap)
    data = run.results["transfer"]
    assert "V(out)" in data.curves
    with pytest.raises(HearthlineError, match=r"no curve 'V\(gone\)' in this run"):
        data.curve("V(gone)")


def test_readings_may_use_each_other_but_not_themselves(project):
    """By their names with underscores; a circle says its way."""
    readings = (
        Reading("level", "cross(V(out) - V(in))"),
        Reading("share of it", "level / vdd"),
        Reading("a", "b + 1"),
        Reading("b", "a + 1"),
    )
    snap = snapshot(project, readings=readings, specifications=(), grid=few())
    found = Reader(snap.bench, run_bench(snap).results).all()
    assert found["share of it"].values[0] == approx(found["level"].values[0] / 1.2)
    assert found["share of it"].unit == ""
    assert "depends on itself: a > b" in found["a"].problem


def test_the_gains_of_three_analyses_agree(project):
    """Small signals, slope of the sweep, and amplitudes in time of the same amplifier."""
    snap = snapshot(project, "ota_sense_bench-loop", grid=GridSetup(("typ", "ss"), ("27",), {"vdd": ("1.2",)}))
    found = Reader(snap.bench, run_bench(snap).results).all()
    ac, dc, time = (found[f"gain from {one}"].values for one in ("AC", "DC", "time"))
    np.testing.assert_allclose(dc, ac, atol=1e-4)
    np.testing.assert_allclose(time, ac, atol=1e-3)
    np.testing.assert_allclose(found["open loop from DC"].values, found["open loop gain"].values, atol=0.2)


# -- what moves a reading


def test_main_effects_of_a_plane():
    """Means at the levels, over everything else: closed form."""
    a, b = np.repeat([0.0, 1.0, 2.0], 2), np.tile([10.0, 20.0], 3)
    effects = main_effects({"a": a, "b": b, "same": np.ones(6)}, 3 * a + 0.01 * b)
    assert [one.axis for one in effects] == ["a", "b"]
    assert effects[0].spread == approx(6.0)
    np.testing.assert_allclose(effects[1].means, [3.1, 3.2])
    assert sum(one.share for one in effects) == approx(1.0)


def test_the_nanotube_slicer_moves_with_supply_and_hardly_with_temperature(project):
    """As its demo says, shown by main effects."""
    snap = snapshot(project, "cnt_slicer_bench-levels")
    run = run_bench(snap)
    data = run.results["transfer"]
    values = Reader(snap.bench, run.results).all()["level"].values
    effects = {one.axis: one.spread for one in main_effects(data.conditions, values)}
    assert effects["vdd"] > 0.1
    assert effects["temperature"] < 0.01 * effects["vdd"]


# -- what must not be taken for the same


def test_a_run_of_one_analysis_never_lends_the_lanes_of_other_conditions(project):
    """One analysis is run alone over other conditions: the other one is left out, and computed whole when it is asked for."""
    short = (parse_analysis("transfer", "sweep of vin from 0 to 1.2 points 21"), parse_analysis("rest", "point"))
    first = run_bench(snapshot(project, analyses=short, grid=few(vdd=["1.2", "1.08"])))
    other = snapshot(project, analyses=short, grid=few(vdd=["1.32", "1.2"]))
    alone = run_bench(other, names=("rest",), before=first)
    assert list(alone.results) == ["rest"]
    both = run_bench(other, before=alone)
    np.testing.assert_array_equal(both.results["transfer"].curve("V(vdd)")[:, 0], [1.32, 1.2])
    np.testing.assert_array_equal(both.results["rest"].curve("V(vdd)")[:, 0], [1.32, 1.2])
    fewer = run_bench(snapshot(project, analyses=short, grid=few(vdd=["1.2"])), names=("rest",), before=both)
    np.testing.assert_array_equal(fewer.results["transfer"].curve("V(vdd)")[:, 0], [1.2])


def test_a_parameter_of_the_cell_is_swept(project):
    """Without an axis of that name and without a copy on the bench; its own value holds elsewhere."""
    line = parse_analysis("r", "sweep of rz from 1k to 3k points 3")
    snap = snapshot(
        project,
        "ota_sense-step",
        grid=few(),
        analyses=(line,),
        watches=(Watch("r1.res"),),
        readings=(),
        specifications=(),
    )
    data = run_bench(snap).results["r"]
    assert (data.axis, data.points.tolist()) == ("rz", [1000.0, 2000.0, 3000.0])
    own = replace(snap, bench=replace(snap.bench, analyses=(Analysis("p", "point"),)))
    assert "rz" not in own.parameters


@pytest.mark.parametrize(
    ("line", "points"),
    [("ac from 1 to 1k points 10", 31), ("ac from 1 to 1024 points 3 spaced octave", 31), ("ac from 1 to 2 points 7 spaced even", 7),
     ("sweep of vin from 0 to 1 step 0.1 within vdd at 1,2", 22), ("point", 1)],
)  # fmt: skip
def test_the_size_of_a_run_is_known_before(project, line, points):
    """As many points as the analysis then has."""
    snap = snapshot(
        project, analyses=(parse_analysis("a", line),), readings=(), specifications=(), watches=(), grid=few()
    )
    assert size_of(snap)[0] == points
    data = run_bench(snap).results["a"]
    assert data.outcomes.size == points


@pytest.mark.parametrize(
    ("line", "said"),
    [("ac from 0 to 10", "rise from more than 0 Hz"), ("sweep of vin within vin at 1,2", "within itself")],
)
def test_what_cannot_be_is_said_when_its_size_is_asked(project, line, said):
    """The window asks for the size first."""
    with pytest.raises(CircuitError, match=said):
        size_of(snapshot(project, analyses=(parse_analysis("a", line),)))


def test_a_changed_model_of_any_kind_is_another_basis(project):
    """A card, a parameter of a section, a device that is a small circuit, a variant."""
    models = project.kit.models
    corner = models.corners["typ"]
    name, template = next(iter(corner.templates.items()))
    bigger = replace(template, defined={**template.defined, "more": Expression.constant(2.0)})
    card = corner.cards["n_rvt"]
    other = replace(card, values={**card.values, "vto": Expression.constant(0.5)})
    group, variants = next(iter(models.variants.items()))
    variant, section = next(iter(variants.items()))
    kits = [
        replace(models, corners={**models.corners, "typ": replace(corner, templates={**corner.templates, name: bigger})}),
        replace(models, corners={**models.corners, "typ": replace(corner, cards={**corner.cards, "n_rvt": other})}),
        replace(models, variants={**models.variants, group: {**variants, variant: replace(section, cards={})}}),
    ]  # fmt: skip
    found = {project.kit.fingerprint, *(replace(project.kit, models=one).fingerprint for one in kits)}
    assert len(found) == 4
    assert replace(project.kit, note="another").fingerprint == project.kit.fingerprint


# -- new names


def test_a_bench_follows_new_names(project):
    """Of a pin, a part, a source, a reading and an analysis: under them a run gives the same numbers."""
    before = snapshot(
        project, grid=few(vdd=("1.2",)), watches=(Watch("V(out)", analysis="hiss"),),
        analyses=(parse_analysis("transfer", "sweep of vin points 21"), parse_analysis("hiss", "noise of V(out) by VIN points 2")),
        readings=(Reading("v low", "least(V(out))"), Reading("one", "v_low + peak(V(out) - vin) + 0 * vdd"),
                  Reading("two", "peak(transfer(m1.id)) + peak(transfer(I(vdd)))", analysis="hiss")),
        specifications=(Specification("v low", "", "1"),),
    )  # fmt: skip
    bench = with_part_renamed(with_pin_renamed(before.bench, "out", "y"), "m1", "down")
    bench = with_reading_renamed(with_stimulus_renamed(bench, "vin", "drive"), "v low", "bottom")
    bench = with_analysis_renamed(with_stimulus_renamed(bench, "vdd", "supply"), "transfer", "up")
    assert [one.text for one in bench.analyses] == ["sweep of drive points 21", "noise of V(y) by drive points 2"]
    assert [one.formula for one in bench.readings] == [
        "least(V(y))", "bottom + peak(V(y) - drive) + 0 * vdd", "peak(up(down.id)) + peak(up(I(supply)))"
    ]  # fmt: skip
    assert (bench.watches[0].formula, bench.specifications[0].reading) == ("V(y)", "bottom")
    cell = renamed_part(renamed_pin(project.cells["inv_x1"], "out", "y"), "M1", "down", before.library)
    after = Snapshot(bench, {**project.cells, cell.name: cell}, project.kit)
    old, new = (list(Reader(one.bench, run_bench(one).results).all().values()) for one in (before, after))
    assert [one.problem for one in (*old, *new)] == [""] * 6
    for a, b in zip(old, new, strict=True):
        np.testing.assert_allclose(a.values, b.values, rtol=1e-9)


def test_a_load_between_pins_follows_both():
    """With its second pin too; what only looks alike stays."""
    load = Stimulus("l", "a", "1k", "resistance", to="y")
    bench = Bench("b", "c", (load,), PointSetup("typ", "27"), few(), watches=(Watch("V(y2) - V(a, Y)"),))
    found = with_pin_renamed(bench, "y", "z")
    assert (found.stimuli[0].pin, found.stimuli[0].to, found.watches[0].formula) == ("a", "z", "V(y2) - V(a, z)")
