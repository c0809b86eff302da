"""Transients against solutions that nobody here wrote: SciPy's Radau on equations written in the test, and closed forms."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from scipy.integrate import solve_ivp
from scipy.optimize import brentq

from tests.approximation import approx
from tests.decks import solved

CORNERS = [0.0, 1e-6, 1.1e-6, 6.1e-6, 6.3e-6, 20e-6]
PULSE = "v1 a 0 pulse(0 1 1u 0.1u 0.2u 5u 40u)"


def source(t: float) -> float:
    """The pulse of the decks, written out."""
    return float(np.interp(t, CORNERS, [0, 0, 1, 1, 0, 0]))


def reference(slope, start, times):
    """Radau at 1e-10, from corner to corner, at the given times."""
    found, state = np.zeros((len(start), len(times))), list(start)
    for begin, end in pairwise(CORNERS):
        here = (times >= begin) & (times <= end)
        done = solve_ivp(slope, (begin, end), state, "Radau", rtol=1e-10, atol=1e-13, dense_output=True)
        found[:, here], state = done.sol(times[here]), done.y[:, -1]
    return found


def test_rc_follows_a_pulse_to_a_thousandth():
    """SciPy solve_ivp (Radau, rtol 1e-10)."""
    table = solved(f"{PULSE}\nr1 a b 1k\nc1 b 0 1n\n.tran 1u 20u\n")
    (expected,) = reference(lambda t, y: [(source(t) - y[0]) / 1e-6], [0.0], table["time"])
    np.testing.assert_allclose(table["V(b)"], expected, atol=2e-4)


def test_rlc_rings_like_the_reference():
    """SciPy solve_ivp (Radau, rtol 1e-10); a resonance of 20 periods, voltage and current."""
    table = solved(f"{PULSE}\nr1 a b 20\nl1 b c 10u\nc1 c 0 1n\n.options reltol=1e-5\n.tran 1u 20u\n")
    current, volts = reference(
        lambda t, y: [(source(t) - 20 * y[0] - y[1]) / 1e-5, y[0] / 1e-9], [0.0, 0.0], table["time"]
    )
    np.testing.assert_allclose(table["V(c)"], volts, atol=2e-3)
    np.testing.assert_allclose(table["I(l1)"], current, atol=2e-5)


def test_rectifier_charges_its_capacitor():
    """SciPy solve_ivp (Radau) with the exponential law written in the test, N·VT = 25.8649 mV at 27 °C."""
    vt = 1.380649e-23 * 300.15 / 1.602176634e-19
    table = solved(
        "v1 a 0 sin(0 2 10k)\nr1 a x 100\nd1 x b dm\nc1 b 0 100n\nrl b 0 10k\n.model dm d is=1e-14\n.tran 1u 300u\n"
    )

    def current(t, v):
        drive = 2 * np.sin(2e4 * np.pi * t) - v
        return brentq(
            lambda i: i - 1e-14 * np.expm1((drive - 100 * i) / vt), -1e-13, max(drive / 100, 0) + 1e-12, xtol=1e-16
        )

    done = solve_ivp(
        lambda t, y: [(current(t, y[0]) - y[0] / 1e4) / 1e-7], (0, 3e-4), [0.0], "Radau", rtol=1e-8, atol=1e-10,
        t_eval=table["time"][1:-1], max_step=2e-6,
    )  # fmt: skip
    np.testing.assert_allclose(table["V(b)"][1:-1], done.y[0], atol=1e-3 * 2)


def test_energy_of_a_tank_stays():
    """A lossless LC tank keeps its energy: common practice, no source. 100 periods, to a thousandth; it begins as told."""
    table = solved("l1 a 0 1u ic=0\nc1 a 0 1n ic=1\nr1 a 0 1t\n.tran 2n 19.87u uic\n")
    energy = 0.5e-9 * table["V(a)"] ** 2 + 0.5e-6 * table["I(l1)"] ** 2
    assert table["V(a)"][0] == 1.0
    assert table["I(l1)"][0] == 0.0
    np.testing.assert_allclose(energy / energy[0], 1.0, atol=1e-3)


@pytest.mark.parametrize("method", ["trap", "gear"])
def test_order_of_the_rule_by_step_halving(method):
    """Both rules are of second order: halving the largest step divides the error by four (Hairer, Norsett, Wanner)."""
    errors = []
    for longest in (20e-9, 10e-9, 5e-9):
        table = solved(
            f"v1 a 0 sin(0 1 1meg)\nr1 a b 1k\nc1 b 0 100p\n.options method={method} reltol=100\n.tran 1u 3u 0 {longest}\n"
        )
        t, w, tau = table["time"], 2e6 * np.pi, 1e-7
        exact = (np.sin(w * t) - w * tau * np.cos(w * t) + w * tau * np.exp(-t / tau)) / (1 + (w * tau) ** 2)
        errors.append(np.abs(table["V(b)"] - exact)[t > 1e-6].max())
    orders = np.log2(np.array(errors[:-1]) / errors[1:])
    assert np.abs(orders - 2.0).max() < 0.1


def test_current_through_a_capacitor_does_not_ring():
    """A voltage source across a capacitor: i = C dv/dt, without alternation from step to step."""
    table = solved("v1 a 0 sin(0 1 1meg)\nc1 a 0 1n\n.tran 10n 3u\n")
    expected = -1e-9 * 2e6 * np.pi * np.cos(2e6 * np.pi * table["time"])
    error = (table["I(v1)"] - expected)[5:] / 6.28e-3
    assert np.abs(error).max() < 2e-3


def test_ring_oscillator_period():
    """SciPy solve_ivp (Radau, rtol 1e-9) on the square-law inverters with a capacitor each, written in the test: 0.1 %."""

    def current(vgs, vds, beta):
        over = vgs - 0.4
        with_modulation = beta * (1 + 0.1 * vds)
        return np.where(
            over <= 0, 0.0,
            np.where(over <= vds, 0.5 * with_modulation * over**2, with_modulation * vds * (over - 0.5 * vds)),
        )  # fmt: skip

    def slope(t, v):
        before = np.roll(v, 1)
        return (current(1.2 - before, 1.2 - v, 8e-4) - current(before, v, 1e-3)) / 10e-15

    start = np.array([0.0, 1.2, 0.0, 1.2, 0.6])
    cards = ".model n nmos vto=0.4 kp=200u lambda=0.1 is=1e-20\n.model p pmos vto=-0.4 kp=80u lambda=0.1 is=1e-20\n"
    ring = "".join(
        f"mn{k} n{k} n{(k - 1) % 5} 0 0 n w=1u l=0.2u\nmp{k} n{k} n{(k - 1) % 5} vdd vdd p w=2u l=0.2u\nc{k} n{k} 0 10f\n"
        for k in range(5)
    )
    given = " ".join(f"v(n{k})={value}" for k, value in enumerate(start))
    table = solved(f"vdd vdd 0 1.2\n{cards}{ring}.ic {given}\n.tran 10p 2n 0 10p\n")

    def period(t, v):
        rising = np.flatnonzero((v[:-1] < 0.6) & (v[1:] >= 0.6))
        crossings = t[rising] + (0.6 - v[rising]) / (v[rising + 1] - v[rising]) * (t[rising + 1] - t[rising])
        return np.diff(crossings)[3:].mean()

    done = solve_ivp(slope, (0, 2e-9), start, "Radau", rtol=1e-9, atol=1e-10, dense_output=True)
    fine = np.linspace(0, 2e-9, 40001)
    assert period(table["time"], table["V(n0)"]) == approx(period(fine, done.sol(fine)[0]), rel=1e-3)


def test_coupled_coils_at_the_coupling_of_an_ideal_transformer():
    """v2/v1 = k·sqrt(L2/L1) without load, and the mutual inductance in the primary with the secondary shorted: 1 - k²."""
    deck = "v1 a 0 ac 1\nrs a b 1m\nl1 b 0 1u\nl2 c 0 4u\nk1 l1 l2 0.8\n{}\n.ac lin 1 10meg 10meg\n"
    open_ = solved(deck.format("rl c 0 1g"))
    assert open_["V(c).re"][0] == approx(1.6, rel=1e-4)
    shorted = solved(deck.format("rl c 0 1u"))
    reactance = -1.0 / complex(shorted["I(v1).re"][0], shorted["I(v1).im"][0])
    assert reactance.imag == approx(2e7 * np.pi * 1e-6 * (1 - 0.64), rel=1e-4)


def test_line_reflects_as_bounce_diagrams_say():
    """Reflection coefficients of 1 and -1/3 (common practice, no source), and a matched line is a pure delay."""
    table = solved("v1 a 0 pwl(0 0 10p 1)\nrs a b 25\nt1 b 0 c 0 z0=50 td=1n\nrl c 0 1g\n.tran 50p 9n\n")
    heights = [float(np.interp(t, table["time"], table["V(c)"])) for t in (0.5e-9, 1.5e-9, 3.5e-9, 5.5e-9, 7.5e-9)]
    np.testing.assert_allclose(heights, [0, 4 / 3, 8 / 9, 28 / 27, 80 / 81], atol=1e-6)
    table = solved("v1 a 0 sin(0 1 300meg)\nrs a b 50\nt1 b 0 c 0 z0=50 td=1n\nrl c 0 50\n.tran 50p 10n\n")
    late = table["time"] > 1e-9
    expected = 0.5 * np.sin(6e8 * np.pi * (table["time"] - 1e-9))
    np.testing.assert_allclose(table["V(c)"][late], expected[late], atol=1e-5)


def test_line_transforms_impedances():
    """Zin = Z0 (ZL + j Z0 tan βl) / (Z0 + j ZL tan βl) (Pozar, Microwave Engineering, ch. 2)."""
    table = solved("v1 a 0 ac 1\nrs a b 50\nt1 b 0 c 0 z0=75 td=1n\nrl c 0 100\n.ac lin 7 100meg 700meg\n")
    tangent = np.tan(2 * np.pi * table["frequency"] * 1e-9)
    seen = 75 * (100 + 75j * tangent) / (75 + 100j * tangent)
    np.testing.assert_allclose(table["V(b).re"] + 1j * table["V(b).im"], seen / (seen + 50), atol=1e-12)


def test_lossy_line_attenuates_like_its_propagation_constant():
    """V2/V1 of a line that is terminated in its own impedance: exp(-γ·len), γ = √((R + jωL)(G + jωC)) (Pozar, ch. 2)."""
    deck = "v1 a 0 ac 1\nt1 a 0 b 0 r=20 l=250n g=1m c=100p len=0.5\nrl b 0 {}\n.ac lin 1 200meg 200meg\n"
    omega = 4e8 * np.pi
    series, shunt = 20 + 1j * omega * 250e-9, 1e-3 + 1j * omega * 100e-12
    impedance, gamma = np.sqrt(series / shunt), np.sqrt(series * shunt)
    table = solved(deck.format(50))
    reflection = (50 - impedance) / (50 + impedance)
    travel = np.exp(-0.5 * gamma)
    expected = travel * (1 + reflection) / (1 + reflection * travel**2)
    assert table["V(b).re"][0] + 1j * table["V(b).im"][0] == approx(expected, rel=1e-3)
