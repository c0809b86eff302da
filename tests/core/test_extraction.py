"""Numbers taken from curves, against curves whose numbers are known."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.constants import e as q
from scipy.constants import k

from hearthline.core.data import extraction as ex
from hearthline.core.errors import FileError
from hearthline.core.formats.points_file import read_points
from tests.approximation import approx

UT = k * 300.15 / q


@given(st.floats(0.1, 1.0), st.floats(1e-6, 1e-2), st.floats(0.0, 0.2))
def test_extrapolated_threshold_of_a_straight_curve(threshold, factor, vds):
    """id = K·(vgs - vth - vds/2) above threshold has its threshold there."""
    vgs = np.linspace(0, 2, 401)
    current = factor * np.maximum(vgs - threshold - vds / 2, 0)
    found = ex.threshold_extrapolated(vgs, current, vds)
    assert found.value == approx(threshold, abs=1e-6)
    (foot, _), _ = found.lines[0]
    assert foot == approx(threshold + vds / 2, abs=1e-6)


def test_constant_current_threshold_is_read_in_decades():
    """An exponential passes 100 nA·W/L exactly where it says."""
    vgs = np.linspace(0, 0.5, 21)
    current = 1e-12 * np.exp(vgs / (1.3 * UT))
    expected = 1.3 * UT * np.log(100e-9 * 10 / 1e-12)
    assert ex.threshold_constant_current(vgs, current, 10).value == approx(expected, rel=1e-9)
    assert np.isnan(ex.threshold_constant_current(vgs, 1e-15 * np.ones(21), 10).value)


def test_second_derivative_threshold_of_a_softened_corner():
    """ln(1 + e^x) bends most in its middle."""
    vgs = np.linspace(0, 1.2, 241)
    assert ex.threshold_second_derivative(vgs, np.logaddexp(0, (vgs - 0.45) / 0.03)).value == approx(0.45, abs=2e-3)


@given(st.floats(0.01, 0.5), st.sampled_from([1.0, -1.0]))
def test_lambda_from_two_points(modulation, sign):
    """(I2 - I1)/(I1·V2 - I2·V1) of I·(1 + lambda·V) is lambda, for either polarity."""
    vds = sign * np.linspace(0, 2, 101)
    current = sign * 1e-4 * (1 + modulation * np.abs(vds))
    found = ex.lambda_from_two_points(vds, current, sign * 1.0, sign * 1.8)
    assert found.value == approx(modulation, rel=1e-9)
    assert found.lines[0][0][0] == approx(-sign / modulation, rel=1e-9)


def test_slopes_and_resistances():
    """Tangents of a parabola, on resistance of a straight line, Early voltage of a tangent."""
    x = np.linspace(-1, 1, 41)
    assert ex.slope(x, 3 * x**2 + x, 0.37, "gm", "S", "").value == approx(6 * 0.37 + 1, rel=1e-9)
    assert ex.on_resistance(x, x / 470.0).value == approx(470.0)
    assert ex.early_voltage(x, 1e-3 * (1 + x / 40), 0.5).value == approx(40.0)
    assert ex.largest(x, -(x**2) + 2, "top", "", "").value == 2.0


@given(st.floats(1.0, 2.0), st.floats(1.0, 200.0))
def test_ideality_and_series_resistance(n, ohms):
    """A diode with a resistor in series: both come back."""
    current = np.logspace(-11, -2.5, 300)
    v = n * UT * np.log(current / 1e-15) + ohms * current
    assert ex.ideality(v, current, 300.15, 1e-10, 1e-8).value == approx(n, rel=1e-4)
    assert ex.series_resistance(v, current, 300.15, 1e-10, 1e-8).value == approx(ohms, rel=0.02)


def test_points_of_a_data_sheet(tmp_path):
    """CSV with a header, prefixes, comments and other separators; the error in percent against a curve."""
    path = tmp_path / "points.csv"
    path.write_text("vds,id\n0.5,110u\n1.0;210u # measured\n\n1.5\t300e-6\n")
    points = read_points(path)
    np.testing.assert_allclose(points, [[0.5, 110e-6], [1.0, 210e-6], [1.5, 300e-6]])
    x = np.linspace(0, 1.2, 13)
    model, off = ex.against_reference(x, 200e-6 * x, points)
    np.testing.assert_allclose(off[:2], [-100 / 11, -100 / 21])
    assert np.isnan(off[2])
    assert np.isnan(model[2])


@pytest.mark.parametrize(
    ("text", "said"), [("", "holds no points"), ("x,y\n1,2\n3\n", ":3: two numbers"), ("1,a b\n2,b\n3,4", ":2: two")]
)
def test_points_that_cannot_be_read(tmp_path, text, said):
    """File and line."""
    path = tmp_path / "points.csv"
    path.write_text(text)
    with pytest.raises(FileError, match=said):
        read_points(path)
