"""What charts are made of, without a window: traces and their scales, families, markers, ticks, the words of conditions."""

from __future__ import annotations

from dataclasses import replace
from types import SimpleNamespace

import numpy as np
import pytest

from hearthline.app.charts.axis import PrefixAxis, prefix_exponent
from hearthline.app.charts.curves import Trace, groups, range_at, read_at, trace_of
from hearthline.app.charts.family import axes_of, group_lanes, telling_axis
from hearthline.app.charts.markers import CROSSING, PEAK, Marker, lines_of, neighbour, places_of, snap
from hearthline.app.pvt.effects import EffectsPlot
from hearthline.app.pvt.matrix import Matrix
from hearthline.app.pvt.multiples import Multiples
from hearthline.app.start import DEMO
from hearthline.app.state.pointing import current_formula, toggled, voltage_formula, watched_terminals
from hearthline.core.bench.bench import Reading, Specification, Watch
from hearthline.core.bench.effects import main_effects
from hearthline.core.bench.readings import Numbers
from hearthline.core.bench.verdict import State, judge
from hearthline.core.circuit.instance import Instance, instance_at
from hearthline.core.data.dataset import Dataset
from hearthline.core.formats.project_folder import read_project
from hearthline.core.spread.pvt import Condition
from tests.approximation import approx

PROJECT = read_project(DEMO)
BENCH = PROJECT.benches["inv_x1-transfer"]
X = np.linspace(0.0, 1.0, 101)


def dataset(kind="dc", axis="vin", unit="V", x=X, **curves) -> Dataset:
    """Four lanes: two corners at two supplies."""
    vdd, shape = np.array([1.0, 2.0, 1.0, 2.0]), (4, len(x))
    curves = curves or {"V(out)": np.outer(vdd, 1 - x), "V(in)": np.tile(x, (4, 1))}
    conditions = {"corner": np.array(["typ", "typ", "ff", "ff"]), "temperature": np.full(4, 27.0), "vdd": vdd}
    return Dataset(
        kind, axis, unit, x, curves, {"V(out)": "V", "V(in)": "V", "vdd": "V"}, conditions, np.zeros(shape, int)
    )


def trace(formula="V(out)", scale="", data=None) -> Trace:
    """A watch on such curves."""
    return trace_of(BENCH, {"transfer": data or dataset()}, Watch(formula, scale=scale))


# -- traces


def test_scales_of_a_small_signal():
    """Decibels where nothing is said; phase; magnitude for linear and log. Closed forms of one pole."""
    f = np.logspace(0, 6, 61)
    pole = np.tile(10 / (1 + 1j * f / 1e3), (4, 1))
    data = dataset("ac", "frequency", "Hz", f, **{"V(out)": pole})
    assert (trace("V(out)", "", data).unit, trace("V(out)", "phase", data).unit) == ("dB", "°")
    np.testing.assert_allclose(trace("V(out)", "", data).y[0], 20 * np.log10(np.abs(pole[0])))
    np.testing.assert_allclose(trace("V(out)", "phase", data).y[0], -np.degrees(np.arctan(f / 1e3)), atol=1e-9)
    np.testing.assert_allclose(trace("V(out)", "linear", data).y[0], np.abs(pole[0]))
    assert trace("V(out)", "log", data).log
    assert trace("V(out)", "log", data).unit == "V"


@pytest.mark.parametrize(
    ("formula", "problem"),
    [
        ("V(gone)", "no curve 'V(gone)'"),
        ("peak(V(out))", "is a number; a chart wants a curve"),
        ("V(out) + vin * 1", ""),
        ("vss", "not known"),
    ],
)
def test_a_watch_that_does_not_fit_is_empty_and_says_why(formula, problem):
    """The others are not touched by it."""
    found = trace(formula)
    assert problem in found.problem
    assert bool(found.problem) == (found.y.size == 0)


def test_a_trace_knows_its_values_slopes_and_ends():
    """Straight between points, nothing outside, 0 where it is nothing beside the largest."""
    found = trace("V(out) * V(in)")
    assert found.value(1, 0.505) == approx(2 * 0.505 * 0.495, abs=1e-4)
    assert np.isnan(found.value(0, 1.5))
    assert found.slope(1, 0.25) == approx(2 * (1 - 0.5), abs=1e-6)
    assert found.slope_unit == "V²/V"
    assert trace("V(out)").slope_unit == ""
    tiny = replace(found, y=np.vstack([found.y[0], 1e-12 * found.y[1], found.y[2], found.y[3]]))
    assert tiny.value(1, 0.5) == 0.0
    down = replace(trace(), x=X[::-1], y=trace().y[:, ::-1])
    assert down.value(0, 0.2) == approx(0.8)
    assert not down.rises


def test_watches_of_an_analysis_stand_in_their_strips():
    """Those of the same word together, in the order of the bench."""
    bench = PROJECT.benches["inv_x1_bench-edges"]
    assert [[one.formula for one in strip] for strip in groups(bench, "edges")] == [["V(in)", "V(out)"], ["-I(vdd)"]]
    assert [[one.formula for one in strip] for strip in groups(bench, "transfer")] == [["V(out)"]]


def test_the_cursor_reads_each_curve_and_the_range_of_all():
    """Values straight between points; the slope as the axis shows it."""
    one = trace()
    assert list(read_at(one, [(0, "1 V"), (1, "2 V")], 0.25)) == [(0, "1 V", "750.0 mV"), (1, "2 V", "1.500 V")]
    assert range_at(one, 0.25) == "750 mV … 1.50 V"
    assert one.slope_along(0, 0.25, False) == (approx(-1.0), "")


def test_the_slope_along_a_logarithmic_axis_is_per_decade():
    """A first-order fall of 20 dB a decade, read halfway between points too."""
    hertz = np.logspace(3, 6, 61)
    one = Trace(Watch("V(out)", "V"), "dB", hertz, -20 * np.log10(hertz)[None, :], "frequency", "Hz")
    slope, unit = one.slope_along(0, 2.34e4, True)
    assert (slope, unit) == (approx(-20.0, rel=0.02), "dB/decade")


# -- families


def test_lanes_are_grouped_by_the_axis_that_matters():
    """Supplies here; the lane that stands for a group is that of the live point, or the middle one."""
    data = dataset()
    assert axes_of(data) == ["corner", "vdd"]
    assert telling_axis(data, data.curves["V(out)"]) == "vdd"
    family = group_lanes(data, "vdd", {"corner": "ff"})
    assert family.mains == [(2, "1 V"), (3, "2 V")]
    assert group_lanes(data, "corner", {"vdd": 2.0}).mains == [(1, "typ"), (3, "ff")]
    assert group_lanes(data, "", {}).mains == [(0, "")]


def test_conditions_that_do_not_cross_have_a_lane_each():
    """Picked by hand, no group is left without one that stands for it."""
    data = dataset()
    odd = replace(data, conditions={**data.conditions, "temperature": np.array([27.0, 27.0, 85.0, 150.0])})
    assert len(group_lanes(odd, "temperature", {"corner": "typ", "vdd": 1.0}).mains) == 3


# -- markers


def wave() -> Trace:
    """Two sines, of 1 and 2 V, about zero."""
    x = np.linspace(0, 2, 2001)
    y = np.outer([1.0, 2.0, 1.0, 2.0], np.sin(2 * np.pi * x))
    return Trace(Watch("V(out)"), "V", x, y, "time", "s")


def test_markers_snap_to_crossings_before_summits_before_points():
    """Within their reach; else they stay where they were dropped."""
    found = places_of(wave(), 0)
    assert [round(p, 6) for p, kind in found if kind == PEAK] == [0.25, 0.75, 1.25, 1.75]
    assert [round(p, 3) for p, kind in found if kind == CROSSING][:2] == [0.5, 1.0]
    assert snap(wave(), 0, 0.49, 0.02) == (approx(0.5), CROSSING)
    assert snap(wave(), 0, 0.26, 0.02) == (approx(0.25), PEAK)
    assert snap(wave(), 0, 0.1003, 0.0005) == (approx(0.1), "point")
    assert snap(wave(), 0, 0.10033, 1e-9) == (0.10033, "")


def test_markers_snap_to_where_two_curves_of_a_strip_meet():
    """The second watch is 0.5 V: reached at a twelfth of the period."""
    other = replace(wave(), y=np.full_like(wave().y, 0.5), watch=Watch("V(level)"))
    assert snap(wave(), 0, 0.08, 0.01, [wave(), other])[0] == approx(1 / 12, abs=1e-6)


def test_markers_step_along_points_crossings_and_peaks():
    """Forth and back, and no further than the last."""
    one = wave()
    assert neighbour(one, 0, 0.1, 1) == approx(0.101)
    assert neighbour(one, 0, 0.1, -5) == approx(0.095)
    assert neighbour(one, 0, 0.3, 1, PEAK) == approx(0.75)
    assert neighbour(one, 0, 0.3, -1, PEAK) == approx(0.25)
    assert neighbour(one, 0, 1.9, 1, PEAK) == 1.9
    assert neighbour(one, 0, 0.6, 1, CROSSING) == approx(1.0, abs=1e-6)


def test_markers_tell_their_differences():
    """With one over the time between; a marker whose curve is gone says so."""
    markers = [
        Marker("a", "V(out)", "", 0, 0.25),
        Marker("a", "V(out)", "", 0, 0.75),
        Marker("a", "V(gone)", "", 0, 0.1),
    ]
    lines = lines_of(markers, {("V(out)", ""): wave()}, {0: "typ"})
    assert "y 1.0000 V" in lines[0]
    assert "Δtime 500.0 ms" in lines[1]
    assert "Δy −2.000 V" in lines[1]
    assert "1/Δ 2.000 Hz" in lines[1]
    assert lines[2] == "3  V(gone): not in this run"


# -- axes


@pytest.mark.parametrize(
    ("largest", "exponent"), [(1.2, 0), (0.5, -3), (3e-6, -6), (2.5e9, 9), (0.0, 0), (999.0, 0), (1000.0, 3)]
)
def test_the_prefix_of_an_axis(largest, exponent):
    """That leaves 1 to 999."""
    assert prefix_exponent(largest) == exponent


def test_decades_are_named_with_prefixes(qtbot):
    """Whole decades, 2 and 5 between; no prefix for decibels."""
    axis = PrefixAxis("bottom")
    axis.set_quantity("Hz", 1e9, log=True)
    texts = axis.logTickStrings([0.0, 3.0, 4.0, np.log10(2e5), np.log10(3e5), 9.0], 1.0, 1.0)
    assert texts == ["1", "1k", "10k", "200k", "", "1G"]
    axis.set_quantity("dB", 120.0)
    assert axis.unit_text == "dB"
    axis.set_quantity("dB", 3000.0)
    assert axis.unit_text == "dB"


# -- small pictures


def test_effects_and_multiples_paint_whatever_there_is(qtbot):
    """Nothing, one axis, three axes; a click on a small picture chooses a lane of it."""
    data = dataset()
    plot, small = EffectsPlot(), Multiples()
    for widget in (plot, small):
        qtbot.addWidget(widget)
        widget.resize(400, 200)
        assert not widget.grab().isNull()
    plot.show_effects(main_effects(data.conditions, np.array([1.0, 2.0, 1.1, np.nan])), "V", dict(data.units))
    assert plot.words()[0].startswith("vdd moves it by")
    assert not plot.grab().isNull()
    small.show_trace(data, trace(), np.array([True, False, False, False]))
    assert not small.grab().isNull()
    with qtbot.waitSignal(small.chosen) as caught:
        from PyQt6.QtCore import Qt
        from PyQt6.QtTest import QTest

        QTest.mouseClick(small, Qt.MouseButton.LeftButton, pos=small._box(1, 0).center().toPoint())
    assert data.conditions["corner"][caught.args[0]] == "ff"


# -- pointing


def test_what_is_pointed_at_becomes_a_formula_and_back():
    """Nets and terminals of the cell, and those inside a block by their flat names."""
    bench = PROJECT.benches["ota_sense_bench-loop"]
    top = PROJECT.cells["ota_sense_bench"]
    from hearthline.core.circuit.flatten import Library

    library = Library(PROJECT.cells, PROJECT.kit.symbols, PROJECT.kit.templates, PROJECT.kit.modules)
    here, inside = Instance(top), instance_at(top, ("X1",), library)
    assert voltage_formula(here, "out", "in") == "V(out, in)"
    assert voltage_formula(inside, "tail") == "V(x1.tail)"
    source, resistor = top.part("VIN"), top.part("R1")
    assert current_formula(here, source, "p", library.symbol(source)) == "I(vin)"
    assert current_formula(here, source, "n", library.symbol(source)) == "-I(vin)"
    assert current_formula(here, resistor, "n", library.symbol(resistor)) == "-r1.i"
    transistor = inside.cell.part("M1")
    symbol = library.symbol(transistor)
    assert current_formula(inside, transistor, "d", symbol) == "x1.m1.id"
    assert current_formula(inside, transistor, "s", symbol) == "-x1.m1.id"
    assert current_formula(inside, transistor, "g", symbol) == ""
    watched = toggled(toggled(bench, "sine", "-r1.i"), "sine", "I(vin)")
    assert watched.watches[-1] == Watch("I(vin)", analysis="sine")
    assert set(watched_terminals(watched, "sine", here, library)) == {("R1", "n"), ("VIN", "p")}
    assert toggled(watched, "sine", "I(vin)").watches[-1].formula == "-r1.i"


# -- the matrix of conditions


def test_a_condition_stands_by_the_worst_of_its_nested_sweep():
    """Two conditions of three lanes each, at least 5: the failing lane stands for its condition, not the one farthest from
    the mean; without limits it is the farthest."""
    values = np.array([4.9, 20.0, 10.0, 12.0, 11.0, 10.0])
    numbers, limited = Numbers(values, "V"), judge(Specification("gain", "5"), "V", values)
    conditions = tuple(Condition(corner, 27.0, {}) for corner in ("typ", "ff"))
    bench = replace(BENCH, readings=(Reading("gain", "peak(V(out))"),))
    results = SimpleNamespace(
        run=SimpleNamespace(conditions=conditions), bench=bench, numbers={"gain": numbers}, verdicts={"gain": limited},
        failures={}, condition=-1,
    )  # fmt: skip
    matrix = Matrix(results)
    matrix.show()
    assert [matrix.state(row, "gain") for row in (0, 1)] == [State.FAILS, State.HOLDS]
    assert matrix.values["gain"].tolist() == [4.9, 10.0]
    assert [matrix.is_worst(row, "gain") for row in (0, 1)] == [True, False]
    assert matrix.data(matrix.index(0, 2)) == "▲ worst 4.900 V"
    results.verdicts = {}
    matrix.show()
    assert matrix.values["gain"].tolist() == [20.0, 10.0]
    assert matrix.state(0, "gain") is State.UNKNOWN
    results.numbers = {"gain": Numbers(values[:5], "V")}
    matrix.show()
    assert np.isnan(matrix.values["gain"]).all()
