"""Physical constants, and temperature on its two scales."""

from __future__ import annotations

import numpy as np
from scipy.constants import elementary_charge, k, zero_Celsius

BOLTZMANN = k
"""[J/K]"""

BOLTZMANN_OVER_CHARGE = k / elementary_charge
"""[V/K]"""


def kelvin(celsius: np.ndarray) -> np.ndarray:
    """Absolute temperature [K]."""
    return np.asarray(celsius) + zero_Celsius


def thermal_voltage(celsius: np.ndarray) -> np.ndarray:
    """kT/q [V]."""
    return BOLTZMANN_OVER_CHARGE * kelvin(celsius)
