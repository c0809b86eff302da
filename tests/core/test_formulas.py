"""Units that follow, places on the curve, prefixes, curves over other axes, lanes with points of their own."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from hearthline.core.data.dataset import Dataset, joined
from hearthline.core.data.formula import Formula, Scope
from hearthline.core.data.functions import FUNCTIONS
from hearthline.core.data.renaming import renamed
from hearthline.core.data.thinning import thinned
from hearthline.core.data.units import unit_of
from hearthline.core.errors import ExpressionError
from tests.approximation import approx

T = np.linspace(0.0, 4e-6, 4001)
UNITS = {"V(out)": "V", "V(in)": "V", "I(vdd)": "A", "m1.gm": "S", "noise.output": "V/√Hz", "vdd": "V"}


def data(axis="time", unit="s", x=T, **more) -> Dataset:
    """Two lanes at supplies 1 and 2: sines of 1 MHz."""
    sine = np.sin(2 * np.pi * 1e6 * T)
    curves = {
        "V(out)": np.vstack([sine, 2 * sine]),
        "V(in)": np.vstack([sine, sine]) * 0.5,
        "I(vdd)": np.full((2, len(T)), -1e-3),
        "m1.gm": np.full((2, len(T)), 2e-3),
        "noise.output": np.full((2, len(T)), 1e-8),
    }
    conditions = {"corner": np.array(["typ", "ff"]), "temperature": np.array([27.0, 27.0]), "vdd": np.array([1.0, 2.0])}
    return Dataset("tran", axis, unit, x, curves | more, UNITS, conditions, np.zeros((2, len(T)), int))


@pytest.mark.parametrize(
    ("text", "unit"),
    [
        ("V(out) / I(vdd)", "Ω"), ("V(out) * I(vdd)", "W"), ("integral(V(out) * I(vdd))", "J"), ("charge(-I(vdd), V(out))", "C"),
        ("deriv(V(out))", "V/s"), ("frequency(V(out))", "Hz"), ("1 / period(V(out))", "Hz"), ("V(out) - 600m", "V"), ("V(out) / vdd", ""),
        ("m1.gm / I(vdd)", "1/V"), ("db20(V(out) / V(in))", "dB"), ("rms(V(out)) ** 2", "V²"), ("sqrt(peak(V(out) * V(out)))", "V"),
        ("noise.output ** 2", "V²/Hz"), ("I(vdd) / deriv(V(out))", "F"), ("V(out) / deriv(I(vdd))", "H"), ("temperature", "°C"),
        ("delay(V(in), V(out))", "s"), ("2 * 3", ""), ("-V(out)", "V"), ("max(V(out), 1)", "V"), ("duty(V(out))", ""),
    ],
)  # fmt: skip
def test_units_follow(text, unit):
    """By the algebra of the SI."""
    found = Formula.parse(text).evaluate(data()).unit
    assert str(found or "") == unit


@pytest.mark.parametrize(
    ("text", "said", "column"),
    [
        ("V(out) + I(vdd)", "at column 8 .*: V and A cannot be added", 8), ("peak(V(out)) - period(V(out))", "V and s cannot be subtracted", 14),
        ("1 + (V(out) * 2 - I(vdd))", "V and A cannot be subtracted", 17), ("max(V(out), I(vdd))", r"max\(\) at column 1 .* compares V with A", 1),
        ("V(out) + speed", "'speed' at column 10 is not known", 10), ("  peak(V(out)", "closing bracket is missing.*column 7", 7),
        ("V(out)) + 1", "too many .*column 7", 7), ("peak(V(out)) + frob(1)", "unknown function 'frob' at column 16", 16),
        ("other(V(out))", "unknown function 'other'", 1), ("spectrum(V(out), window=square)", "no window 'square'; there are boxcar", 1),
        ("at(V(out), V(in))", "wants a number in the place of a curve", 1), ("against(V(out), 3)", "wants two curves", 1), ("", "a formula is wanted", 1),
        ("V(out) @ V(in)", "only sums, products", 1),
    ],
)  # fmt: skip
def test_a_mistake_points_at_its_character(text, said, column):
    """Counted from 1, with accesses and prefixes in the text."""
    with pytest.raises(ExpressionError, match=said) as caught:
        Formula.parse(text).evaluate(data())
    assert caught.value.column == column


def test_numbers_take_prefixes():
    """As everywhere else; names with digits stay names."""
    assert Formula.parse("600m + 2k * 1u").number(data())[0] == approx(0.602)
    assert Formula.parse("at(V(out), 250n)").number(data())[1] == approx(2.0, abs=1e-5)
    assert Formula.parse("mean(m1.gm) * 1e3 + 2.5").number(data())[0] == approx(4.5)


def test_another_analysis_is_called_by_its_name():
    """What is inside is taken from there; numbers of both may be joined, curves over different points may not."""
    x = np.logspace(0, 6, 61)
    shape = (2, len(x))
    other = Dataset(
        "ac",
        "frequency",
        "Hz",
        x,
        {"V(out)": np.full(shape, 10.0 + 0j)},
        UNITS,
        data().conditions,
        np.zeros(shape, int),
    )
    scope = Scope(data(), {"step": data(), "response": other}, analysis="step")
    names = ("step", "response")
    formula = Formula.parse("peak(V(out)) * 10 ** (gain(response(V(out))) / 20)", names)
    np.testing.assert_allclose(formula.number(scope), [10.0, 20.0], rtol=1e-6)
    assert formula.needs("step") == {"step": ("V(out)",), "response": ("V(out)",)}
    with pytest.raises(ExpressionError, match="at column 8 .* curves over different points"):
        Formula.parse("V(out) + response(V(out))", names).evaluate(scope)
    with pytest.raises(ExpressionError, match="no analysis 'response' in this run"):
        Formula.parse("response(V(out))", names).evaluate(data())


@pytest.mark.parametrize(
    ("text", "kind", "old", "new", "wanted"),
    [
        ("gain(response(V(out))) + xresponse(1)", "analysis", "response", "loop", "gain(loop(V(out))) + xresponse(1)"),
        ("V(out, In) - V(out2) + V(x1.out)", "net", "out", "y", "V(y, In) - V(out2) + V(x1.out)"),
        ("I(out) * V(OUT)", "net", "out", "y", "I(out) * V(y)"),
        ("m1.gm / M1.gds + x.m1.gm + I(m1) + V(m1)", "part", "m1", "ma", "ma.gm / ma.gds + x.m1.gm + I(ma) + V(m1)"),
        ("V(x1.n) + x1.m1.gm + I(x1.v) + V(x12.n)", "part", "x1", "y", "V(y.n) + y.m1.gm + I(y.v) + V(x12.n)"),
        ("high - 2*low(V(low)) + spectrum(V(a), low=3)", "word", "low", "base",
         "high - 2*low(V(low)) + spectrum(V(a), low=3)"),
        ("(high - Low) / low + m.low + 3 * lower", "word", "low", "base", "(high - base) / base + m.low + 3 * lower"),
    ],
)  # fmt: skip
def test_a_new_name_is_followed_where_it_is_meant_and_nowhere_else(text, kind, old, new, wanted):
    """Analyses, nets, parts with what is inside, readings."""
    assert renamed(text, kind, old, new) == wanted


def test_marks_say_where_a_number_was_taken():
    """With the text of the curve, in every lane."""
    marks = []
    Formula.parse("rise(2 * V(out)) + rising(V(in), vdd / 4, 2)").evaluate(data(), marks)
    assert [(m.function, m.text, m.axis) for m in marks] == [
        ("rise", "2 * V(out)", "time"),
        ("rising", "V(in)", "time"),
    ]
    assert marks[0].places.shape == (2, 2)
    np.testing.assert_allclose(marks[1].places[:, 0], [1e-6 + np.arcsin(0.5) / (2e6 * np.pi), 1.25e-6], rtol=1e-3)


def test_every_function_with_places_finds_them_in_itself():
    """Places are numbers of the axis, one row a lane, for each function on a curve it can read."""
    for name in (
        "peak",
        "least",
        "period",
        "slew",
        "settling",
        "overshoot",
        "rise",
        "fall",
        "steepest",
        "offset",
        "output_range",
    ):
        marks = []
        formula = Formula.parse(f"{name}(V(out))")
        formula.evaluate(data(), marks)
        assert marks[0].places.shape[0] == 2, name
        inside = marks[0].places[np.isfinite(marks[0].places)]
        assert ((inside >= T[0]) & (inside <= T[-1])).all(), name
    assert {name for name, one in FUNCTIONS.items() if one.places or one.itself} > {
        "gain",
        "phase_margin",
        "charge",
        "noise_margin_low",
    }


def test_a_spectrum_runs_over_frequency():
    """A sine of amplitude 1 reads 1 at its frequency, by every window (SciPy's windows)."""
    for window in ("boxcar", "hann", "blackman", "flattop"):
        found = Formula.parse(f"spectrum(V(out), 1024, window={window})").evaluate(data())
        assert (found.axis.name, str(found.axis.unit), str(found.unit)) == ("frequency", "Hz", "V")
        k = int(np.argmin(np.abs(found.axis.points - 1e6)))
        np.testing.assert_allclose(found.values[:, k], [1.0, 2.0], rtol=2e-3)


def test_one_curve_over_another():
    """The points of the axis are the other's values."""
    found = Formula.parse("against(I(vdd), V(out))").evaluate(data())
    np.testing.assert_array_equal(found.axis.points, data().curves["V(out)"])
    assert (found.axis.name, str(found.axis.unit)) == ("V(out)", "V")


def ragged() -> Dataset:
    """Lanes of 5 and 3 points of their own: y = x and y = 2x."""
    x = np.array([[0.0, 1, 2, 3, 4], [0.0, 2, 4, np.nan, np.nan]])
    conditions = {"corner": np.array(["a", "b"]), "temperature": np.zeros(2), "k": np.array([1.0, 2.0])}
    curves = {"V(out)": np.vstack([x[0], 2 * x[1]])}
    return Dataset("tran", "time", "s", x, curves, {"V(out)": "V"}, conditions, np.zeros((2, 5), int))


def test_lanes_with_points_of_their_own():
    """Each is read over its own; curves keep their gaps."""
    np.testing.assert_allclose(Formula.parse("at(V(out), 3)").number(ragged()), [3.0, 6.0])
    np.testing.assert_allclose(Formula.parse("integral(V(out))").number(ragged()), [8.0, 16.0])
    np.testing.assert_allclose(Formula.parse("cross(V(out), 2 * k)").number(ragged()), [2.0, 2.0])
    slope = Formula.parse("deriv(V(out))").value(ragged())
    np.testing.assert_allclose(slope[1, :3], 2.0)
    assert np.isnan(slope[1, 3:]).all()
    table = ragged().to_xarray()
    assert table["V(out)"].dims == ("lane", "step")


def test_joined_lanes_keep_their_points():
    """Of two datasets in any order; the shorter is filled up."""
    whole = joined([ragged(), ragged()], np.array([1, 2, 3]))
    np.testing.assert_array_equal(whole.x(0), [0.0, 2.0, 4.0])
    np.testing.assert_array_equal(whole.x(1), [0.0, 1.0, 2.0, 3.0, 4.0])
    assert whole.conditions["corner"].tolist() == ["b", "a", "b"]


@given(st.lists(st.floats(-1e3, 1e3), min_size=1, max_size=400), st.integers(8, 60))
def test_thinning_keeps_ends_and_extremes(values, maximum):
    """Whatever the curve; and no more points than a little over what was asked."""
    y = np.array(values)
    x = np.arange(len(y), dtype=float)
    tx, ty = thinned(x, y, maximum)
    assert ty.min() == y.min()
    assert ty.max() == y.max()
    assert (tx[0], tx[-1]) == (x[0], x[-1])
    assert (np.diff(tx) > 0).all()
    assert len(tx) <= max(2 * maximum + 8, 12)


@pytest.mark.parametrize("text", ["V", "A²/Hz", "V/√Hz", "Ω", "1/V", "V/s", "dB", "°C", "", "F", "V²"])
def test_a_unit_written_is_the_unit_read(text):
    """In the trade's spelling."""
    assert str(unit_of(text)) == text
