"""Shapes of sources against their closed forms (Berkeley decks), and both sides of what jumps."""

from __future__ import annotations

import numpy as np
import pytest

from tests.approximation import approx
from tests.decks import solved


def shape(text: str, until: float) -> tuple[np.ndarray, np.ndarray]:
    """Times and values of a voltage source."""
    found = solved(f"v1 a 0 {text}\nr1 a 0 1k\n.tran {until / 200} {until}\n")
    return found["time"], found["V(a)"]


def test_sine_with_delay_damping_and_phase():
    """VO + VA exp(-(t - TD) θ) sin(2πf(t - TD) + φ), and its value at TD before."""
    t, v = shape("sin(0.3 1.2 2meg 0.15u 4e5 30)", 3e-6)
    since = np.maximum(t - 0.15e-6, 0)
    expected = 0.3 + 1.2 * np.exp(-since * 4e5) * np.sin(2 * np.pi * 2e6 * since + np.pi / 6)
    np.testing.assert_allclose(v, expected, rtol=1e-9, atol=1e-9)


def test_exponential_up_and_down():
    """V1, from TD1 to V2 with τ1, and from TD2 back with τ2."""
    t, v = shape("exp(0.2 1.4 0.3u 0.2u 1.5u 0.5u)", 4e-6)
    up = np.where(t > 0.3e-6, 1.2 * (1 - np.exp(-(t - 0.3e-6) / 0.2e-6)), 0)
    down = np.where(t > 1.5e-6, -1.2 * (1 - np.exp(-(t - 1.5e-6) / 0.5e-6)), 0)
    np.testing.assert_allclose(v, 0.2 + up + down, rtol=1e-9)


@pytest.mark.parametrize("index", [5.0, -5.0])
def test_frequency_modulation_of_either_sign(index):
    """VO + VA sin(2πFC t + MDI sin(2πFS t))."""
    t, v = shape(f"sffm(0.1 0.8 10meg {index} 1meg)", 2e-6)
    expected = 0.1 + 0.8 * np.sin(2 * np.pi * 10e6 * t + index * np.sin(2 * np.pi * 1e6 * t))
    np.testing.assert_allclose(v, expected, rtol=1e-9, atol=1e-9)
    assert len(t) > 12 * 15 * 2


def test_pulse_train():
    """Delay, edges, width and period."""
    t, v = shape("pulse(-0.5 1.5 0.1u 20n 40n 0.2u 0.5u)", 2e-6)
    phase = np.mod(t - 0.1e-6, 0.5e-6)
    expected = np.interp(phase, [0, 20e-9, 220e-9, 260e-9, 500e-9], [-0.5, 1.5, 1.5, -0.5, -0.5])
    np.testing.assert_allclose(v, np.where(t < 0.1e-6, -0.5, expected), atol=1e-6)


def test_charge_and_energy_of_an_ideal_capacitor_over_an_edge():
    """∫i dt = C V over an edge of 1 ns, to 1e-5, and no energy over a cycle: both sides of a jump are in the rows."""
    for step in ("10n", "100n"):
        found = solved(f"v1 a 0 pulse(0 1 1u 1n 1n 3u 10u)\nc1 a 0 1n\n.tran {step} 10u\n")
        t, current, volts = found["time"], -found["I(v1)"], found["V(a)"]
        assert (np.diff(t) > 0).all()
        rising = t < 3e-6
        assert np.trapezoid(current[rising], t[rising]) == approx(1e-9, rel=1e-5)
        assert abs(np.trapezoid(current * volts, t)) < 1e-5 * 0.5e-9


def test_a_switch_with_hysteresis_makes_a_relaxation_oscillator():
    """On above VT + VH, off below VT - VH (Berkeley decks): 0.3 to 0.7 V, with the period of the exponentials between."""
    found = solved(
        "v1 s 0 1\nr1 s a 10k\nc1 a 0 1n ic=0\ns1 a 0 a 0 sm\n.model sm sw ron=10 roff=1e9 vt=.5 vh=.2\n.tran 100n 60u uic\n"
    )
    t, v = found["time"], found["V(a)"]
    late = t > 20e-6
    assert v[late].min() == approx(0.3, abs=0.01)
    assert v[late].max() == approx(0.7, abs=0.01)
    rising = np.flatnonzero((v[:-1] < 0.5) & (v[1:] >= 0.5) & late[1:])
    period = 1e-5 * np.log(0.7 / 0.3) + 1e-8 * np.log(0.7 / 0.3)
    assert np.diff(t[rising]).mean() == approx(period, rel=0.01)
