"""Oscillations against expansions, closed forms, transients, and kicks of charge."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from hearthline.core.bench.readings import Reader
from hearthline.core.constants import BOLTZMANN
from hearthline.core.data.products import accumulated_jitter, flicker_corner
from tests.approximation import approx
from tests.benches import curve, data_of, ran

TANK = "l1 a 0 1u\nc1 a 0 1n\nr1 a 0 10k\nb1 a 0 i=1e-6*v(a)**3-1.5e-4*v(a)\n"
"""i = c v³ - g v about a tank: an amplitude of 2 √((g - 1/R) / (3 c))."""


LEVEL1 = ".model n nmos vto=0.4 kp=200u lambda=0.1\n"


def pol(epsilon: float) -> str:
    """v'' - ε (1 - v²) v' + v = 0."""
    return f"l1 a 0 1\nc1 a 0 1\nb1 a 0 i={epsilon}*(v(a)**3/3-v(a))\n"


@pytest.mark.parametrize("epsilon", [0.05, 0.2])
def test_van_der_pol_at_small_epsilon(epsilon):
    """ω = 1 - ε²/16 + 17 ε⁴/3072 (Andersen and Geer, SIAM J. Appl. Math. 1982, first terms)."""
    data = data_of(pol(epsilon), "oscillation harmonics 15", ports={})
    wanted = 1 - epsilon**2 / 16 + 17 * epsilon**4 / 3072
    assert 2 * np.pi * data.points[1] == approx(wanted, abs=2 * epsilon**6 / 1000)
    assert abs(curve(data, "V(a)")[1]) == approx(2.0, abs=epsilon**2 / 10)


def test_a_strong_van_der_pol_has_the_period_of_integration_in_time():
    """ε = 1.5: SciPy's DOP853 over settled periods."""
    data = data_of(pol(1.5), "oscillation", ports={})

    def slope(t, y):
        return [y[1], 1.5 * (1 - y[0] ** 2) * y[1] - y[0]]

    def passes(t, y):
        return y[0]

    passes.direction = 1
    found = solve_ivp(slope, (0, 150), [0.5, 0.0], "DOP853", events=passes, rtol=1e-11, atol=1e-12).t_events[0]
    assert 1 / data.points[1] == approx(np.diff(found[-6:]).mean(), rel=1e-6)


@pytest.mark.parametrize(("epsilon", "period"), [(5, 11.612230667), (10, 19.078369567)])
def test_a_relaxation_oscillator_is_found_though_its_poles_do_not_swing(epsilon, period):
    """Periods of van der Pol's equation at large epsilon, from memory of published tables (Strasberg 1973); checked here by
    SciPy's DOP853."""

    def slope(t, y):
        return [y[1], epsilon * (1 - y[0] ** 2) * y[1] - y[0]]

    def passes(t, y):
        return y[0]

    passes.direction = 1
    found = solve_ivp(slope, (0, 6 * period), [2.0, 0.0], "DOP853", events=passes, rtol=1e-10, atol=1e-11).t_events[0]
    assert np.diff(found)[-1] == approx(period, rel=1e-6)
    data = data_of(pol(epsilon), "oscillation harmonics 99", ports={})
    assert 1 / data.points[1] == approx(period, rel=3e-5 if epsilon > 5 else 1e-7)


def test_a_ring_swings_as_its_transient_does():
    """Level 1, eleven stages; nothing pushes it but its poles."""
    stages = "".join(
        f"mn{k} n{(k + 1) % 11} n{k} 0 0 n w=1u l=0.2u\nmp{k} n{(k + 1) % 11} n{k} vdd vdd p w=2u l=0.2u\nc{k} n{k} 0 10f\n"
        for k in range(11)
    )
    parts = "vdd vdd 0 1.2\n.model n nmos vto=0.4 kp=200u lambda=0.1\n.model p pmos vto=-0.4 kp=80u lambda=0.1\n.ic v(n0)=0 v(n1)=1.2\n"
    lines = {"o": "oscillation harmonics 31", "t": "transient to 12n from 6n step 10p begin given error 1e-5"}
    found = ran(parts + stages, lines, ports={})
    course, v = found.results["t"].points, curve(found.results["t"], "V(n3)")
    if course.ndim == 2:
        course = course[0]
    k = np.flatnonzero((v[:-1] < 0.6) & (v[1:] >= 0.6))
    passings = course[k] + (0.6 - v[k]) * (course[k + 1] - course[k]) / (v[k + 1] - v[k])
    assert found.results["o"].points[1] == approx(1 / np.diff(passings).mean(), rel=1e-4)
    assert curve(found.results["o"].wave, "V(n3)").max() == approx(v.max(), abs=2e-3)


def test_a_nearly_sinusoidal_tank_in_closed_form():
    """Amplitude; sensitivity -sin θ / (C A ω); phase noise of a resistor, (f0/f)² kT / (R C² A² ω²)."""
    found = ran(
        TANK, {"o": "oscillation near 5M harmonics 9", "p": "phase_noise of o from 1k to 10M points 1"}, ports={}
    )
    data, noise = found.results["o"], found.results["p"]
    frequency = data.points[1]
    size = 2 * np.sqrt((1.5e-4 - 1e-4) / 3e-6)
    assert abs(curve(data, "V(a)")[1]) == approx(size, rel=1e-6)
    omega = 2 * np.pi * frequency
    phase = omega * data.wave.points + np.angle(curve(data, "V(a)")[1])
    np.testing.assert_allclose(
        curve(data.wave, "shift(a)"), -np.sin(phase) / (1e-9 * size * omega), atol=1e-3 / (1e-9 * size * omega)
    )
    wanted = (frequency / noise.points) ** 2 * BOLTZMANN * 300.15 / (1e4 * (1e-9 * size * omega) ** 2)
    np.testing.assert_allclose(curve(noise, "noise.phase"), wanted, rtol=1e-3)
    np.testing.assert_allclose(curve(noise, "r1.thermal"), curve(noise, "noise.phase"))


def test_the_phase_answers_to_a_charge_as_a_kicked_transient_does():
    """A strongly bent oscillation, kicked at 16 phases: by how much later passings come earlier for good (SciPy's DOP853)."""
    data = data_of(pol(1.0), "oscillation harmonics 41", ports={})
    wave, period = data.wave, 1 / data.points[1]
    volts, amps, shift = (curve(wave, label) for label in ("V(a)", "I(l1)", "shift(a)"))

    def slope(t, y):
        return [-(y[0] ** 3 / 3 - y[0]) - y[1], y[0]]

    def passes(t, y):
        return y[0]

    passes.direction = 1

    def last(k: int, charge: float) -> float:
        start = [volts[k] + charge, amps[k]]
        found = solve_ivp(slope, (0, 12 * period), start, "DOP853", events=passes, rtol=1e-11, atol=1e-12)
        return found.t_events[0][-1]

    charge = 1e-3
    for k in range(0, len(volts), len(volts) // 16):
        moved = (last(k, -charge) - last(k, charge)) / (2 * charge)
        moved = (moved + period / 4 / charge) % (period / 2 / charge) - period / 4 / charge
        assert shift[k] == approx(moved, rel=0.01, abs=0.01 * np.abs(shift).max())


def test_a_tank_locks_within_adlers_range():
    """Either way I / (2 C A) in angular frequency, which is ω0 I / (2 Q I0) (Adler, Proc. IRE 1946); a kicked oscillation within
    it follows, and outside of it does not (SciPy's DOP853)."""
    more = '[[readings]]\nname = "band"\nformula = "lock_range(in_time(shift(a)), 10u)"\nanalysis = "o"\n'
    found = ran(TANK, {"o": "oscillation harmonics 9"}, ports={}, more=more)
    band = Reader(found.snapshot.bench, found.results).all()["band"].values[0]
    size, natural = 2 * np.sqrt(0.5e-4 / 3e-6), found.results["o"].points[1]
    assert band == approx(2 * 10e-6 / (2 * 1e-9 * size) / (2 * np.pi), rel=1e-3)

    def drift(frequency: float) -> float:
        """How far the phase against the current moves over the last half of 800 periods."""
        omega = 2 * np.pi * frequency

        def slope(t, y):
            v, i = y
            return [(10e-6 * np.cos(omega * t) - i - v / 1e4 - 1e-6 * v**3 + 1.5e-4 * v) / 1e-9, v / 1e-6]

        times = np.array([400, 800]) / frequency
        v, i = solve_ivp(slope, (0, times[-1]), [size, 0.0], "DOP853", times, rtol=1e-8, atol=1e-9).y
        angles = np.angle(
            (v + 1j * i * np.sqrt(1e3) * np.sqrt(1e-6 / 1e-9) / np.sqrt(1e3)) * np.exp(1j * omega * times)
        )
        return abs(np.angle(np.exp(1j * (angles[1] - angles[0]))))

    assert drift(natural + 0.4 * band) < 0.05
    assert drift(natural + 0.7 * band) > 0.05


def test_flicker_goes_up_by_the_mean_of_the_sensitivity():
    """A diode's flicker in an oscillation whose halves are not alike: (f0/f)² of half the square of the mean of shift times the
    root of the density at each moment (Hajimiri and Lee 1998); white shot noise by the mean of the square."""
    parts = TANK.replace("v(a)**3", "(v(a)-0.5)**3") + "d1 a 0 dd\n.model dd d is=1e-9 n=40 kf=1e-12 af=1\n"
    lines = {"o": "oscillation near 5M harmonics 15", "p": "phase_noise of o from 1k to 100k points 1"}
    more = '[[watches]]\nformula = "d1.id"\nanalysis = "o"\n'
    found = ran(parts, lines, ports={}, more=more)
    data, noise = found.results["o"], found.results["p"]
    shift, current = curve(data.wave, "shift(a)"), curve(data.wave, "d1.id")
    at = noise.points
    flicker = 0.5 * (data.points[1] / at) ** 2 * (shift * np.sqrt(1e-12 * np.abs(current))).mean() ** 2 / at
    names = [name for name in noise.curves if name.startswith("d1.")]
    ours = {name: curve(noise, name) for name in names}
    steep = [rows for rows in ours.values() if rows[0] / rows[1] > 500]
    assert len(steep) == 1
    np.testing.assert_allclose(steep[0], flicker, rtol=6e-4)  # a root has kinks: both are sums over samples


def test_a_tuning_curve_within_a_parameter():
    """1 / (2π √(L C)) of a tank with little bend; phase noise within the same."""
    parts = ".param cap=1n\n" + TANK.replace("1n", "{cap}")
    lines = {
        "o": "oscillation harmonics 5 within cap at 0.5n,1n,2n",
        "p": "phase_noise of o from 1k to 10k points 1 within cap at 0.5n,1n,2n",
    }
    found = ran(parts, lines, ports={})
    caps = np.array([0.5e-9, 1e-9, 2e-9])
    np.testing.assert_allclose(found.results["o"].points[:, 1], 1 / (2 * np.pi * np.sqrt(1e-6 * caps)), rtol=1e-5)
    sizes = found.results["p"].curves["noise.phase"][:, 0]
    np.testing.assert_allclose(sizes[1:] / sizes[:-1], 0.25, rtol=1e-3)  # (f / (C ω))²


@pytest.mark.parametrize(
    ("parts", "said"),
    [
        (TANK.replace("1.5e-4", "0.5e-4"), "no pole of the operating point grows"),
        ("v1 a 0 1\nr1 a b 1k\nc1 b 0 1p\n", "no pole that swings"),
        (TANK.replace("1e-6*v(a)**3-", "-"), "no device limits it"),
    ],
)
def test_what_does_not_oscillate_says_so(parts, said):
    """With its poles, or with how far it grew; never the solution at rest."""
    with pytest.raises(AssertionError, match=said):
        ran(parts, {"o": "oscillation harmonics 9"}, ports={})


def test_it_begins_as_its_conductances_say():
    """Of the tank: growth (g - G) / 2C, and g over G, in closed form."""
    data = data_of(TANK, "oscillation harmonics 7", ports={})
    assert curve(data, "start.growth")[0] == approx(0.5e-4 / 2e-9, rel=1e-6)
    assert curve(data, "start.margin")[0] == approx(1.5, rel=1e-6)


def test_parts_dissipate_what_the_supply_gives():
    """Over a period: all power that resistors and devices take in is that of the sources."""
    parts = f"vdd vdd 0 1.2\nv1 g 0 sin(0.6 0.3 1meg)\nm1 d g 0 0 n w=10u l=0.2u\nr1 vdd d 2k\nc1 d 0 10p\n{LEVEL1}"
    wave = data_of(parts, "balance at 1M harmonics 40", ports={}).wave
    taken = sum(curve(wave, f"{part}.power").mean() for part in ("m1", "r1"))
    given = (
        -(curve(wave, "V(vdd)") * curve(wave, "I(vdd)")).mean() - (curve(wave, "V(g)") * curve(wave, "I(v1)")).mean()
    )
    assert taken == approx(given, rel=1e-6)
    assert curve(wave, "m1.power").mean() > 0.1 * taken


def test_jitter_and_corner_of_known_slopes():
    """c f0²/f² gives a variance of c τ (Demir 2002); with 1/f³ beside it, numbers by quadrature of 8/ω0² L sin²(πfτ)."""
    x, f0, c, k = np.logspace(2, 7, 40), 1e9, 1e-18, 3e-13
    white, both = c * f0**2 / x**2, c * f0**2 / x**2 + k * f0**2 / x**3
    assert accumulated_jitter(white[None], x, f0, 25)[0, 0] == approx(np.sqrt(c * 25 / f0), rel=1e-6)
    assert flicker_corner(both[None], x)[0, 0] == approx(k / c, rel=1e-6)
    fine = np.logspace(2, 12, 4_000_001)
    density = (c / fine**2 + k / fine**3) * np.sin(np.pi * fine * 1000 / f0) ** 2
    wanted = 8 / (2 * np.pi) ** 2 * np.trapezoid(density, fine)
    wanted += 8 / (2 * np.pi) ** 2 * c * (1000 / f0 * np.pi) ** 2 * 100  # of white noise all of it, from 0 on
    assert accumulated_jitter(both[None], x, f0, 1000)[0, 0] == approx(np.sqrt(wanted), rel=1e-4)


def test_what_each_mechanism_does_along_the_period_adds_up():
    """The mean square of what white noise does is its part of the phase's noise; its density is 4 kT/R."""
    run = ran(TANK, {"o": "oscillation harmonics 15", "n": "phase_noise of o from 1k to 1M points 4"}, ports={})
    noise, wave = run.results["n"], run.results["n"].wave
    frequency = run.results["o"].points[1]
    done = (curve(wave, "r1.thermal.action") ** 2).mean()
    assert 0.5 * (frequency / noise.points) ** 2 * done == approx(curve(noise, "r1.thermal"), rel=1e-9)
    assert curve(wave, "r1.thermal.strength")[0] == approx(np.sqrt(4 * BOLTZMANN * 300.15 / 1e4), rel=1e-9)
    assert curve(wave, "r1.thermal.shift") == approx(
        np.interp(wave.points, run.results["o"].wave.points, curve(run.results["o"].wave, "shift(a)")),
        abs=1e-3 * abs(curve(wave, "r1.thermal.shift")).max(),
    )
