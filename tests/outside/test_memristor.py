"""The threshold memristor against its published equations: Kvatinsky, Ramadan, Friedman and Kolodny, IEEE Transactions on
Circuits and Systems II, 62, 2015, integrated by scipy's solve_ivp."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.constants import k
from scipy.integrate import solve_ivp

from hearthline.core.device.sheets import characterise
from hearthline.core.device.subject import of_module
from hearthline.core.device.sweeps import Conditions, LoopPlan, run_loop
from hearthline.core.models.library import library_module
from tests.approximation import approx
from tests.modules import Device
from tests.outside.laws import TN

RON, ROFF, VOFF, VON, KOFF, KON, AOFF, AON = 1e3, 1e5, 0.4, -0.4, 1e6, -1e6, 3.0, 3.0
AMPLITUDE = 1.2


def rate(t: float, w: float, hertz: float) -> float:
    """dw/dt of the paper for a sine, with its hard ends."""
    v = AMPLITUDE * np.sin(2 * np.pi * hertz * t)
    if v > VOFF and w < 1:
        return KOFF * (v / VOFF - 1) ** AOFF
    if v < VON and w > 0:
        return KON * (v / VON - 1) ** AON
    return 0.0


def loop(hertz: float):
    """Our second period: state, current, voltage, and its times."""
    subject = of_module(library_module("memristor"))
    plan = LoopPlan("loop", "vp", AMPLITUDE, ("i", "v", "state"), frequencies=(hertz,))
    found = run_loop(subject, plan, Conditions())
    times = (1 + found.points) / hertz
    return found.curve("state")[0], found.curve("i")[0], found.curve("v")[0], times


@pytest.mark.parametrize("hertz", [5e6, 2e7])
def test_state_along_a_sine(hertz):
    """To 0.1 % of its range (checks.md)."""
    state, _, _, times = loop(hertz)
    exact = solve_ivp(lambda t, w: [rate(t, w[0], hertz)], (0, times[-1]), [0.5], "Radau", times, rtol=1e-10, atol=1e-12,
                      max_step=1e-3 / hertz)  # fmt: skip
    assert np.abs(state - exact.y[0]).max() < 1e-3
    assert np.ptp(exact.y[0]) > 0.02


def test_the_loop_is_pinched_at_the_origin():
    """No voltage, no current; and between the crossings it is open."""
    state, current, voltage, _ = loop(5e6)
    near = np.abs(voltage) < 1e-9
    assert near.sum() >= 2
    assert np.abs(current[near]).max() < 1e-9 / RON * 10
    np.testing.assert_allclose(current, voltage / (RON + (ROFF - RON) * state), rtol=1e-9, atol=1e-18)
    assert np.ptp(state) > 0.1


def test_the_sheet_finds_a_frequency_at_which_the_loop_is_open():
    """The first chart is the loop, at three frequencies, and it narrows as they go up: Chua and Kang, Proceedings of the IEEE,
    1976 (a fingerprint of memristive systems)."""
    found = characterise(of_module(library_module("memristor")), Conditions())
    dataset = found.datasets["loop"]
    assert not found.problems
    swings = np.ptp(dataset.curve("state"), axis=1)
    assert swings[0] > 0.1
    assert swings[0] > swings[2]


@pytest.mark.parametrize("x", [0.0, 0.0004, 0.3, 0.9, 0.9996, 1.0])
@pytest.mark.parametrize(("v", "window"), [(1.0, 2.0), (-0.9, 1.0), (1.0, 0.0), (-0.9, 0.0)])
def test_windows_of_a_memristor(x, v, window):
    """Biolek, Biolek and Biolková (Radioengineering 18, 2009): 1 - x^2p towards off, 1 - (1 - x)^2p towards on; without one the
    state runs into its ends within a thousandth (the page of the device)."""
    found = Device(library_module("memristor"), static=False, window=window).at(v, 0.0, x)
    rest = 1 - x if v > 0 else x
    f = 1 - (1 - rest) ** (2 * window) if window else min(rest / 1e-3, 1.0)
    expected = (KOFF * (v / VOFF - 1) ** AOFF if v > 0 else KON * (v / VON - 1) ** AON) * f
    assert -found.current[3] == approx(expected, rel=1e-9, abs=1e-3)
    assert found.noise["thermal"][0] == approx(4 * k * TN * found.current[0] / v, rel=1e-9)


@pytest.mark.parametrize(
    ("x", "linear", "curved"),
    [(0.4, 40_600, 1e3 * 100**0.4), (-0.2, 1.0, 1e3 * 100**-0.1), (1.3, 129_700, 1e3 * 100**1.1)],
)
def test_resistance_of_a_memristor(x, linear, curved):
    """Between RON and ROFF, straight or exponential (Kvatinsky et al.); beyond the ends it stays above nothing."""
    for law, expected in ((0.0, linear), (1.0, curved)):
        assert Device(library_module("memristor"), curved=law).at(1.0, 0.0, x).readout["res"] == approx(
            expected, rel=1e-9
        )
