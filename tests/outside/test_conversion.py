"""Small signals and noise about a periodic state, against closed forms, integration in time, and thermodynamics."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from hearthline.core.constants import BOLTZMANN
from hearthline.core.errors import HearthlineError
from tests.approximation import approx
from tests.benches import curve, ran

KT = BOLTZMANN * 300.15


def test_about_a_circuit_that_does_not_bend_it_is_ac_and_noise():
    """To the last digits, however large the signal."""
    parts = "v1 a 0 sin(0 0.1 1meg)\nv2 in 0 0 ac 1\nr1 in b 1k\nc1 b 0 100p\nr2 a b 5k\n"
    lines = {
        "b": "balance at 1M harmonics 3", "c": "conversion of b by v2 sideband 0 into b from 1k to 10M points 2",
        "a": "ac by v2 from 1k to 10M points 2", "n": "noise of b by v2 from 1k to 10M points 2",
    }  # fmt: skip
    found = ran(parts, lines, ports={}).results
    np.testing.assert_allclose(curve(found["c"], "V(b)"), curve(found["a"], "V(b)"), rtol=1e-12)
    np.testing.assert_allclose(curve(found["c"], "noise.output"), curve(found["n"], "noise.output"), rtol=1e-12)


def test_a_multiplier_takes_half_to_each_side():
    """cos a cos b = (cos(a - b) + cos(a + b)) / 2; its load's noise is its own."""
    parts = "vlo lo 0 sin(0 1 1g 0 0 90)\nvrf rf 0 0 ac 1\nb1 0 out i=v(rf)*v(lo)*1m\nr1 out 0 1k\n"
    lines = {
        "b": "balance at 1G harmonics 3",
        "c": "conversion of b by vrf sideband 1 into out from 1M to 10M points 1",
    }
    found = ran(parts, lines, ports={}).results
    np.testing.assert_allclose(curve(found["c"], "V(out)"), 0.5, rtol=1e-9)
    np.testing.assert_allclose(curve(found["c"], "noise.output"), np.sqrt(4 * KT * 1e3), rtol=1e-9)


def test_a_changing_conductance_is_what_integration_in_time_says():
    """g(t) = g0 (1 + 0.9 cos ω0 t) into a capacitor, driven at f0/4 and at f0 + f0/4; SciPy's DOP853 until it has settled."""
    parts = "vlo lo 0 sin(0 1 1meg 0 0 90)\nvs s 0 0 ac 1\nb1 s out i=1m*(1+0.9*v(lo))*v(s,out)\nc1 out 0 300p\n"
    for sideband in (0, 1, -1):
        lines = {
            "b": "balance at 1M harmonics 12",
            "c": f"conversion of b by vs sideband {sideband} into out from 250k to 250k points 1 spaced even",
        }
        found = curve(ran(parts, lines, ports={}).results["c"], "V(out)")[0]
        omega = 2 * np.pi * (0.25e6 + sideband * 1e6)

        def slope(t, v, omega=omega):
            here = 1e-3 * (1 + 0.9 * np.cos(2e6 * np.pi * t)) / 300e-12 * (np.exp(1j * omega * t) - (v[0] + 1j * v[1]))
            return [here.real, here.imag]

        times = 20e-6 + np.arange(512) / 512 * 4e-6
        v = solve_ivp(slope, (0, 24e-6), [0.0, 0.0], "DOP853", times, rtol=1e-10, atol=1e-12).y
        wanted = np.mean((v[0] + 1j * v[1]) * np.exp(-2j * np.pi * 0.25e6 * times))
        assert found == approx(wanted, rel=1e-6)


def test_a_switched_capacitor_has_the_noise_of_thermodynamics():
    """Whatever a transistor without a direct voltage does in time, the mean square on the capacitor is kT/C: its noise folds
    from all sidebands into one."""
    parts = "vg g 0 sin(0.7 0.6 10meg)\nvs s 0 0 ac 1\nm1 s g out 0 nn w=4u l=1u\nc1 out 0 20p\n.model nn mos type=1\n"
    lines = {
        "b": "balance at 10M harmonics 40",
        "c": "conversion of b by vs sideband 0 into out from 1k to 390M points 40",
    }
    found = ran(parts, lines, ports={}).results
    noise = found["c"]
    assert np.ptp(curve(found["b"].wave, "m1.gds")) > 1e-5
    density, at = curve(noise, "noise.output") ** 2, noise.points
    whole = np.trapezoid(density, at) + density[0] * at[0]
    assert whole == approx(KT / 20e-12, rel=0.02)


def test_noise_figures_of_a_mixer_without_noise_of_its_own():
    """Its source alone, at 290 K: of both sidebands 1, of one of two alike 2, with the load left out; gain of the power match."""
    more = "".join(
        f'[[stimuli]]\nname = "p{k}"\npin = "{net}"\nkind = "port"\nnumber = "{k}"\n'
        for k, net in ((1, "rf"), (2, "out"))
    )
    parts = "vlo lo 0 sin(0 1 1g 0 0 90)\nb1 0 out i=0.1*v(rf)*v(lo)\n"
    lines = {"b": "balance at 1G harmonics 3", "c": "conversion of b by p1 sideband 1 into out from 1M to 10M points 1"}
    noise = ran(parts, lines, ports={}, more=more).results["c"]
    np.testing.assert_allclose(curve(noise, "conversion.noise_factor_double"), 1.0, rtol=1e-9)
    np.testing.assert_allclose(curve(noise, "conversion.noise_factor"), 2.0, rtol=1e-9)
    np.testing.assert_allclose(curve(noise, "conversion.gain"), 4 * 50 * 50 * 0.05**2, rtol=1e-9)


TANK = "l1 a 0 1u\nc1 a 0 1n\nr1 a 0 10k\nb1 a 0 i=1e-6*v(a)**3-1.5e-4*v(a)\nin 0 a 0 ac 1\n"
"""A tank with i = c v³ - g v: weakly bent, so that amplitude and phase are apart; the amplitude dies back by (g - 1/R) / C."""


def test_about_an_oscillation_there_is_the_noise_of_phase_and_amplitude():
    """Beside the carrier the phase's is half a carrier's power times L, and the amplitude's the same but for a corner where it
    is held (averaging, as in texts on oscillators; common practice)."""
    lines = {
        "o": "oscillation harmonics 9", "p": "phase_noise of o from 100 to 100k points 2",
        "c": "conversion of o by in sideband 0 into a beside 1 from 100 to 100k points 2",
    }  # fmt: skip
    found = ran(TANK, lines, ports={}).results
    amplitude, at, held = abs(curve(found["o"], "V(a)")[1]), found["c"].points, 5e4 / (2 * np.pi)
    phase = curve(found["p"], "noise.phase") * amplitude**2 / 2
    wanted = phase * (1 + at**2 / (at**2 + held**2))
    np.testing.assert_allclose(
        curve(found["c"], "noise.output")[:-1] ** 2, wanted[:-1], rtol=1e-2
    )  # the last is far out


def test_about_an_oscillation_a_current_moves_the_phase_by_its_sensitivity():
    """1 A beside the carrier: dα/dt is the sensitivity's harmonic times it, and the carrier turns by ω α; its amplitude moves by
    1 / (4 C) over how fast that dies back."""
    lines = {
        "o": "oscillation harmonics 9",
        "c": "conversion of o by in sideband 0 into a beside 1 from 10 to 100 points 1",
    }
    found = ran(TANK, lines, ports={}).results
    frequency, carrier = found["o"].points[1], curve(found["o"], "V(a)")[1]
    shift = np.fft.fft(curve(found["o"].wave, "shift(a)"))[-1] / found["o"].wave.width
    turned = 2j * np.pi * frequency * shift / (2j * np.pi * found["c"].points)
    np.testing.assert_allclose(curve(found["c"], "V(a)"), carrier / 2 * turned + 1 / (4e-9 * 5e4), rtol=1e-3)


def test_an_oscillation_stands_by_what_holds_its_amplitude():
    """Its phase, which is free, is no mode."""
    found = ran(TANK, {"o": "oscillation harmonics 9", "m": "modes of o"}, ports={}).results["m"]
    assert curve(found, "mode.growth")[0] == approx(-5e4, rel=1e-4)


def test_a_sideband_beyond_the_harmonics_is_refused():
    """Before anything is run where their number is given, else when it is known."""
    sine = "v1 a 0 sin(0 0.1 1meg)\nr1 a 0 1k\nv2 b 0 0 ac 1\nr2 b a 1k\n"
    line = "conversion of b by v2 sideband {} into a beside {} from 1k to 10k points 1"
    for large, sideband, beside in (
        ("harmonics 3", 4, 0),
        ("harmonics 3", 2, 2),
        ("harmonics 3", 0, 1.5),
        ("", -30, 0),
    ):
        with pytest.raises(HearthlineError, match=r"up to 3 harmonics|whole number|has \d+ harmonics"):
            ran(sine, {"b": f"balance at 1M {large}", "c": line.format(sideband, beside)}, ports={})
