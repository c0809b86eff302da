"""Physical constants and the laws of silicon that every device's temperature behaviour needs."""

from __future__ import annotations

import numpy as np
from scipy.constants import elementary_charge, epsilon_0, k, zero_Celsius

BOLTZMANN_OVER_CHARGE = k / elementary_charge
CHARGE = elementary_charge
SILICON_PERMITTIVITY = 11.7 * epsilon_0
OXIDE_PERMITTIVITY = 3.9 * epsilon_0


def thermal_voltage(celsius: np.ndarray) -> np.ndarray:
    """kT/q [V]."""
    return BOLTZMANN_OVER_CHARGE * kelvin(celsius)


def kelvin(celsius: np.ndarray) -> np.ndarray:
    """Absolute temperature [K]."""
    return np.asarray(celsius) + zero_Celsius


def gap(celsius: np.ndarray) -> np.ndarray:
    """Band gap of silicon [V], 1.16 - 7.02e-4·T²/(T + 1108), as in the Berkeley equations."""
    temperature = kelvin(celsius)
    return 1.16 - 7.02e-4 * temperature**2 / (temperature + 1108.0)


def potential_at(potential: np.ndarray, nominal: np.ndarray, celsius: np.ndarray) -> np.ndarray:
    """A surface or junction potential [V] given at `nominal` [degC], at `celsius`.

    phi(T) = phi·T/Tnom - 3·vt·ln(T/Tnom) - Eg(Tnom)·T/Tnom + Eg(T): from the intrinsic density's law.
    """
    ratio = kelvin(celsius) / kelvin(nominal)
    return potential * ratio - 3 * thermal_voltage(celsius) * np.log(ratio) - gap(nominal) * ratio + gap(celsius)


def critical_voltage(vt: np.ndarray, saturation: np.ndarray) -> np.ndarray:
    """Junction voltage [V] where the exponential bends most sharply; limiting starts there."""
    return vt * np.log(vt / (np.sqrt(2.0) * np.maximum(saturation, 1e-30)))
