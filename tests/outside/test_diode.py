"""The junction diode against the exponential law, solved in closed form by the Lambert function of SciPy."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import constants
from scipy.special import lambertw

from tests.approximation import approx
from tests.decks import point, solved

VT = constants.k * 300.15 / constants.e


def series_current(volts: np.ndarray, saturation: float, ohms: float, n: float = 1.0) -> np.ndarray:
    """Current [A] of a diode in series with a resistance: i = n·vt/R·W(IS·R/(n·vt)·exp((V + IS·R)/(n·vt))) - IS."""
    nvt = n * VT
    argument = saturation * ohms / nvt * np.exp((volts + saturation * ohms) / nvt)
    return nvt / ohms * lambertw(argument).real - saturation


@pytest.mark.parametrize(("saturation", "ohms", "n"), [(1e-14, 1e3, 1.0), (2.5e-9, 47.0, 1.8), (1e-16, 1e6, 1.1)])
def test_current_through_a_resistor_follows_lambert(saturation, ohms, n):
    """Exponential law with series R by Lambert W; current to 1e-9 relative."""
    table = solved(f"v1 in 0 0\nr1 in a {ohms}\nd1 a 0 dm\n.model dm d is={saturation} n={n}\n.dc v1 0.05 3 0.05")
    expected = series_current(table["v1"], saturation, ohms, n)
    np.testing.assert_allclose(table["d1.id"], expected, rtol=1e-9)


def test_own_series_resistance_is_the_same_as_one_outside():
    """The parameter RS against Lambert W."""
    table = solved("v1 a 0 0\nd1 a 0 dm\n.model dm d is=1e-14 rs=12\n.dc v1 0.3 2 0.1")
    np.testing.assert_allclose(-table["I(v1)"], series_current(table["v1"], 1e-14, 12.0), rtol=1e-9)


def test_reverse_current_is_the_saturation_current():
    """No leakage is added that the model does not have."""
    assert point("v1 a 0 -5\nd1 a 0 dm\n.model dm d is=1e-14")["d1.id"] == approx(-1e-14, rel=1e-9)


def test_breakdown_carries_ibv_at_bv():
    """Berkeley equations: at v = -BV the breakdown current is IBV."""
    op = point("v1 a 0 -6.2\nd1 a 0 dm\n.model dm d is=1e-14 bv=6.2 ibv=5m")
    assert op["d1.id"] == approx(-5e-3, rel=1e-6)


@pytest.mark.parametrize(
    ("saturation", "minimum", "maximum"), [(1e-14, 0.6, 0.75), (2e-6, 0.15, 0.35)], ids=["silicon", "germanium"]
)
def test_knee(saturation, minimum, maximum):
    """Knee 0.6 to 0.75 V for silicon, about 0.3 V for germanium: common practice, no source."""
    op = point(f"i1 0 a 1m\nd1 a 0 dm\n.model dm d is={saturation}")
    assert minimum < op["V(a)"] < maximum


def test_forward_voltage_falls_by_two_millivolts_a_kelvin():
    """Near -2 mV/K for silicon at constant current: common practice, no source."""
    table = solved("i1 0 a 1m\nd1 a 0 dm\n.model dm d is=1e-14\n.dc temp 20 40 10")
    slope = np.diff(table["V(a)"]) / 10
    assert np.all((slope < -1.5e-3) & (slope > -2.5e-3))
