"""Exponents about a periodic state against poles, a parametric threshold, and Floquet's multipliers by integration in time."""

from __future__ import annotations

import numpy as np
from scipy.integrate import solve_ivp

from tests.approximation import approx
from tests.benches import curve, ran


def found_modes(parts: str, balance: str) -> tuple[np.ndarray, np.ndarray]:
    """Growth [1/s] and frequency [Hz]."""
    data = ran(parts, {"b": balance, "m": "modes of b"}, ports={}).results["m"]
    return curve(data, "mode.growth"), curve(data, "mode.frequency")


def test_about_a_circuit_that_does_not_bend_they_are_its_poles():
    """A damped tank and a slow capacitor beside a pump; frequencies fold into half the tone."""
    parts = "v1 p 0 sin(0 1 1meg)\nrp p q 1k\ncq q 0 10n\nl1 a 0 10u\nc1 a 0 1n\nr1 a 0 1k\n"
    growth, frequency = found_modes(parts, "balance at 1M harmonics 4")
    tank = np.roots([1, 1 / (1e3 * 1e-9), 1 / (10e-6 * 1e-9)])
    wanted = abs((abs(tank[0].imag) / 2 / np.pi + 0.5e6) % 1e6 - 0.5e6)
    k = int(np.argmin(np.abs(frequency - wanted)))
    assert growth[k] == approx(-5e5, rel=1e-3)
    assert frequency[k] == approx(wanted, rel=1e-3)
    assert growth[0] == approx(-1e5, rel=1e-6)


PUMPED = """vp p 0 sin(0 1 2meg 0 0 90)
l1 a 0 25.330296u
c1 a 0 1n
r1 a 0 {r}
b1 a 0 i={m}*v(p)*v(a)/158.8
"""


def test_a_pumped_tank_divides_by_two_beyond_its_threshold():
    """v'' + ... with a conductance g cos 2ω0 t: the half harmonic grows by (g/2 - 1/R) / (2C) (Mathieu's first tongue, to first
    order); its multiplier by integration over one period agrees."""
    resistance, pump = 5e3, 1.0
    for share, grows in ((0.7, False), (1.4, True)):
        size = share * 2 / resistance
        parts = PUMPED.format(r=resistance, m=size * 158.8)
        growth, frequency = found_modes(parts, "balance at 2M harmonics 6")
        assert (growth[0] > 0) == grows
        assert frequency[0] == approx(1e6, rel=1e-6)
        assert growth[0] == approx((size / 2 - 1 / resistance) / 2e-9, rel=0.05)

        def slope(t, y, size=size):
            conductance = 1 / resistance + size * pump * np.cos(4e6 * np.pi * t)
            return [(-y[1] - conductance * y[0]) / 1e-9, y[0] / 25.330296e-6]

        columns = [
            solve_ivp(slope, (0, 0.5e-6), start, "DOP853", rtol=1e-11, atol=1e-14).y[:, -1]
            for start in ([1.0, 0.0], [0.0, 1e-2])
        ]
        monodromy = np.column_stack([columns[0], columns[1] / 1e-2])
        largest = np.abs(np.linalg.eigvals(monodromy)).max()
        assert growth[0] == approx(np.log(largest) / 0.5e-6, rel=1e-5)
