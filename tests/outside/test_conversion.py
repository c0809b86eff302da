"""Small signals and noise about a periodic state, against closed forms, integration in time, and thermodynamics."""

from __future__ import annotations

import numpy as np
from scipy.integrate import solve_ivp

from hearthline.core.constants import BOLTZMANN
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
