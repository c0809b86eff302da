"""Physical constants against CODATA, through scipy.constants."""

from __future__ import annotations

import numpy as np
from scipy import constants

from hearthline.core.constants import BOLTZMANN, ELEMENTARY_CHARGE, ZERO_CELSIUS, thermal_voltage
from tests.approximation import approx
from tests.decks import point


def test_the_constants_are_those_of_codata():
    """CODATA through scipy.constants: the same numbers to the last bit."""
    assert (constants.k, constants.e, constants.zero_Celsius) == (BOLTZMANN, ELEMENTARY_CHARGE, ZERO_CELSIUS)


def test_thermal_voltage_is_kt_over_q():
    """CODATA through scipy.constants."""
    expected = constants.k * (27 + constants.zero_Celsius) / constants.elementary_charge
    assert thermal_voltage(np.array([27.0]))[0] == approx(expected, rel=1e-15)


def test_diode_slope_shows_the_same_thermal_voltage():
    """gd = (id + IS)/vt for the ideal junction, with vt from CODATA."""
    op = point("i1 0 a 1m\nd1 a 0 d\n.model d d is=1e-15")
    vt = constants.k * 300.15 / constants.e
    assert op["d1.gd"] == approx((op["d1.id"] + 1e-15) / vt, rel=1e-9)
