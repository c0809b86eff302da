"""Formulas and measures: numbers from curves, and where a formula is wrong."""

from __future__ import annotations

import numpy as np
import pytest

from hearthline.core.data import measure
from hearthline.core.data.dataset import Dataset
from hearthline.core.data.formula import Formula
from hearthline.core.errors import ExpressionError, HearthlineError
from tests.approximation import approx

X = np.linspace(0.0, 2.0, 401)


def data(**curves: np.ndarray) -> Dataset:
    """Two lanes at supplies 1 and 2."""
    named = {
        "V(out)": np.vstack([X**2, 4 - X]),
        "V(in)": np.vstack([X, X]),
        "I(vdd)": np.vstack([-np.sin(X), -np.cos(X)]),
    }
    named |= {"m1.gm": np.vstack([X, 2 * X]), "V(x1.n3)": np.vstack([X, X]) + 1}
    conditions = {
        "corner": np.array(["typ", "ff"]),
        "temperature": np.array([27.0, -40.0]),
        "vdd": np.array([1.0, 2.0]),
    }
    return Dataset("dc", "vin", "V", X, named | curves, {}, conditions, np.zeros((2, len(X)), int))


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("cross(V(out) - V(in), number=-1)", [1.0, 2.0]), ("cross(V(out), 1.44) / vdd", [1.2, np.nan]),
        ("at(V(out), 0.5)", [0.25, 3.5]), ("at(deriv(V(out)), 1.5)", [3.0, -1.0]), ("peak(-I(vdd))", [1.0, 1.0]),
        ("integral(V(in))", [2.0, 2.0]), ("mean(V(in))", [1.0, 1.0]), ("rms(V(in))", [np.sqrt(4 / 3)] * 2),
        ("peak(m1.gm) + temperature", [29.0, -36.0]), ("at(V(out, in), 2)", [2.0, 0.0]), ("db20(vdd * 10)", [20.0, 26.0206]),
        ("at(V(x1.n3), 1)", [2.0, 2.0]), ("max(vdd, 1.5) - min(vdd, 1.5)", [0.5, 0.5]), ("at(vin * 2, 1)", [2.0, 2.0]),
        ("at(V(0), 1)", [0.0, 0.0]), ("-(2 ** 3) + +vdd", [-7.0, -6.0]),
    ],
)  # fmt: skip
def test_numbers_from_curves(text, expected):
    """Closed forms of the curves above, lane by lane; NaN where there is no such point."""
    np.testing.assert_allclose(Formula.parse(text).number(data()), expected, rtol=2e-5)


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("rising(V(in), vdd / 2)", [0.5, 1.0]), ("falling(V(out), 3)", [np.nan, 1.0]),
        ("delay(V(in), V(x1.n3), 0.5, 2.5)", [1.0, 1.0]), ("overshoot(V(in))", [0.0, 0.0]),
        ("rise(V(in), 0.2, 0.8)", [1.2, 1.2]), ("slew(V(in))", [1.0, 1.0]), ("gain(10 * V(in) + 10 - 10 * V(in))", [20.0, 20.0]),
    ],
)  # fmt: skip
def test_readings_by_their_names_in_formulas(text, expected):
    """On straight lines; levels may differ from lane to lane."""
    np.testing.assert_allclose(Formula.parse(text).number(data()), expected, rtol=1e-6, atol=1e-12)


def test_margins_by_formula_on_a_complex_curve():
    """One pole: 90 degrees and a little are left (closed form)."""
    x = np.logspace(0, 9, 901)
    loop = 1000.0 / (1 + 1j * x / 1e4)
    found = Dataset(
        "ac", "frequency", "Hz", x, {"V(out)": loop[None, :]}, {}, {"corner": np.array(["typ"])}, np.zeros((1, len(x)))
    )
    margin = Formula.parse("phase_margin(V(out))").number(found)[0]
    assert margin == approx(180 - np.degrees(np.arctan(np.sqrt(1000.0**2 - 1))), abs=1e-3)
    assert Formula.parse("at(phase_deg(V(out)), 1e4)").number(found)[0] == approx(-45, abs=0.5)
    assert Formula.parse("bandwidth(V(out)) / 1e3").number(found)[0] == approx(10, rel=1e-3)


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("cross(V(out) - V(in)", "closing bracket is missing.*column 6"), ("V(out))", "closing bracket too many"),
        ("frob(V(out))", "unknown function 'frob'"), ("V(out) +", "not a formula"), ("[1, 2]", "only sums"),
        ("__import__('os')", "unknown function"), ("V(out).real.__class__('x')", "unknown function"), ("'text'", "number is wanted"),
    ],
)  # fmt: skip
def test_mistakes_in_a_formula_are_placed(text, said):
    """In words, with a column where it helps; nothing of Python gets through."""
    with pytest.raises(ExpressionError, match=said):
        Formula.parse(text)


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("V(out)", "is a curve; take a number"),
        ("vss", "'vss' at column 1 is not known"),
        ("cross()", "column 1 .* wants a curve"),
        ("at(V(out), 1, 2, 3)", "wrong arguments; it takes curve, where"),
        ("rise(V(out), V(in))", "wants a number in the place of a curve"),
        ("V(q)", "no curve"),
    ],
)
def test_what_does_not_fit_the_run_is_said(text, said):
    """A curve where a number is wanted, an unknown name."""
    with pytest.raises(HearthlineError, match=said):
        Formula.parse(text).number(data())


def test_a_formula_knows_the_curves_it_needs():
    """So that a run keeps just those."""
    formula = Formula.parse("cross(V(out, in) - m1.gm) / vdd + at(I(vdd), V(x1.n3) + x1.m2.id)")
    assert set(formula.quantities) == {"V(out)", "V(in)", "m1.gm", "I(vdd)", "V(x1.n3)", "x1.m2.id"}


def test_crossings_are_counted_and_found_from_either_end():
    """Of sin(2πx): 0.5, 1, 1.5 inside; a point exactly on the level counts once."""
    x = np.linspace(0.1, 1.9, 1801)
    row = np.sin(2 * np.pi * x)[None, :]
    assert measure.cross(row, x, number=2)[0, 0] == approx(1.0, abs=1e-9)
    assert measure.cross(row, x, number=-1)[0, 0] == approx(1.5, abs=1e-9)
    assert np.isnan(measure.cross(row, x, number=4)[0, 0])
    assert measure.cross(np.array([[-1.0, 0.0, 0.0, 1.0]]), np.arange(4.0))[0, 0] == 1.0


def test_peak_lies_between_points():
    """The summit of a parabola that no point hits, and an end that is highest."""
    x = np.linspace(0, 1, 11)
    assert measure.peak(-((x - 0.534) ** 2)[None, :], x)[0, 0] == approx(0.0, abs=1e-12)
    assert measure.peak(x[None, :], x)[0, 0] == 1.0


def test_slope_is_second_order_at_the_ends_too():
    """Exact for a parabola."""
    np.testing.assert_allclose(measure.deriv((X**2)[None, :], X)[0], 2 * X, atol=1e-12)


def test_dataset_opens_in_a_notebook():
    """As an xarray Dataset with axes, units and conditions."""
    dataset = data().to_xarray()
    assert dataset["V(out)"].dims == ("lane", "vin")
    assert dataset.vin.attrs["units"] == "V"
    assert dataset["V(out)"].sel(vin=1.5).values[0] == approx(2.25)
    assert list(dataset.corner.values) == ["typ", "ff"]
