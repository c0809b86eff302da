"""Physical constants, most of them exact by the definition of the SI units since 2019, and temperature on its two scales."""

from __future__ import annotations

import numpy as np

BOLTZMANN = 1.380649e-23
"""[J/K]; BIPM, The International System of Units, 9th edition, 2019"""

ELEMENTARY_CHARGE = 1.602176634e-19
"""[C]; as above"""

LIGHT = 299_792_458.0
"""Speed of light [m/s]; as above"""

MU0 = 1.25663706127e-6
"""[H/m]; CODATA 2022"""

EPSILON0 = 1.0 / (MU0 * LIGHT**2)
"""[F/m]"""

ZERO_CELSIUS = 273.15
"""[K]"""

REFERENCE_TEMPERATURE = 27.0
"""Temperature [degC] of a circuit, and of model parameters (TNOM), unless something else is said."""

BELOW_ZERO = f"below absolute zero, {-ZERO_CELSIUS} °C; temperatures are in degrees Celsius"
"""What is wrong with a colder one."""

BOLTZMANN_OVER_CHARGE = BOLTZMANN / ELEMENTARY_CHARGE
"""[V/K]"""


def kelvin(celsius: np.ndarray) -> np.ndarray:
    """Absolute temperature [K]."""
    return np.asarray(celsius) + ZERO_CELSIUS


def thermal_voltage(celsius: np.ndarray) -> np.ndarray:
    """kT/q [V]."""
    return BOLTZMANN_OVER_CHARGE * kelvin(celsius)
