"""Heat that follows in time: against the exact series of a slab, finite differences, and circuits in closed form."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.sparse import diags_array
from scipy.sparse.linalg import splu

from hearthline.core.engine.electrothermal import Die as Resistances
from hearthline.core.thermal.die import Die, HeatSource, Plan
from tests.approximation import approx
from tests.benches import curve, ran
from tests.outside.test_heat import conduction, heat

CAPACITY = 1.6e6
PULSE = "i1 0 a pulse(0 {} 1u 1n 1n 1 2) ac 1\nr1 a 0 r=10 tc1={}\n"


def warm(behind: float = 0.0, capacity: float = CAPACITY) -> str:
    """A die with a resistor on it."""
    return heat("r1:200u, 150u:1", more=f'capacity = "{capacity:g}"\nresistance = "{behind:g}"')


WARM = warm()


def following(plan: Plan):
    """With the rises at rest beside it."""
    die = Resistances(plan)
    return die.following, die.between


def test_a_slab_warms_up_as_its_series_says():
    """All of the top heated: 1 - Σ 8 / ((2p+1)² π²) exp(-(2p+1)² π² k t / (4 c D²)) (Carslaw and Jaeger)."""
    die = Die(200e-6, 100e-6, 50e-6, 100.0, 0.0, 0.0, CAPACITY)
    found, between = following(Plan(die, (HeatSource("r1", (100e-6, 50e-6), (200e-6, 100e-6)),)))
    assert between[0, 0] == approx(50e-6 / (200e-6 * 100e-6), rel=1e-6)
    assert found.matrices.sum() == approx(between[0, 0], rel=1e-9)
    t = np.geomspace(0.02, 3.0, 30) * CAPACITY * die.thickness**2 / die.conductivity
    p = 2 * np.arange(400)[:, None] + 1
    wanted = 1 - (
        8 / (p * np.pi) ** 2 * np.exp(-((p * np.pi) ** 2) * t * 100.0 / (4 * CAPACITY * die.thickness**2))
    ).sum(0)
    steps = (found.matrices[:, 0, 0, None] * (1 - np.exp(-t / found.times[:, None]))).sum(axis=0) / between[0, 0]
    assert steps == approx(wanted, abs=1.5 * found.error)
    assert found.error < 0.05


@pytest.mark.parametrize("behind", [0.0, 1.0, 60.0, 900.0])
@pytest.mark.parametrize("layers", [(), ((10e-6, 2.0, 2e6), (300e-6, 390.0, 3.4e6))])
def test_a_slab_on_layers_and_a_resistance(layers, behind):
    """All of the top heated: from the back up, with κ² = jω c/k of each, z becomes (z + tanh(κd)/kκ) / (1 + z kκ tanh(κd)), and the
    first z is the resistance times the area (Carslaw and Jaeger)."""
    die = Die(200e-6, 100e-6, 50e-6, 100.0, 0.0, behind, CAPACITY, layers)
    found, between = following(Plan(die, (HeatSource("r1", (100e-6, 50e-6), (200e-6, 100e-6)),)))
    area, through = die.length * die.width, found.through
    s = 1j * np.geomspace(0.001, 1e4, 60) * die.conductivity / (CAPACITY * die.thickness**2)

    def shown(first: float) -> np.ndarray:
        z = np.full(len(s), first + 0j)
        for thick, k, c in reversed(((50e-6, 100.0, CAPACITY), *layers)):
            kappa = np.sqrt(s * c / k)
            reached = np.tanh(kappa * thick)
            z = (z + reached / (k * kappa)) / (1.0 + z * k * kappa * reached)
        return z / area

    wanted, alone = shown(behind * area), between[0, 0] / die.conductivity
    own = (found.matrices[:, 0, 0] / (1.0 + s[:, None] * found.times)).sum(axis=1) / die.conductivity
    slow = behind * (through.weights / (1.0 + s[:, None] * through.times)).sum(axis=1)
    said = found.error * alone + through.error * behind
    assert np.abs(own + slow - wanted).max() <= 1.2 * said + 2e-3 * (alone + behind)
    assert said < 0.08 * (alone + behind)
    assert abs(own[-1] + slow[-1]) < 0.02 * (alone + behind)


def test_a_die_that_is_cut_into_layers_is_the_die():
    """Of one stuff, at every frequency, each part by itself and by the other."""
    places = (HeatSource("a", (100e-6, 150e-6), (4e-6, 20e-6)), HeatSource("b", (300e-6, 150e-6), (10e-6, 40e-6)))
    shown = []
    for thick, layers in ((100e-6, ()), (60e-6, ((40e-6, 148.0, CAPACITY),))):
        found, between = following(Plan(Die(400e-6, 300e-6, thick, 148.0, 0.0, 0.0, CAPACITY, layers), places))
        omega = np.geomspace(1e2, 1e9, 30)[:, None, None, None]
        shown.append((found.matrices / (1.0 + 1j * omega * found.times[:, None, None])).sum(axis=1))
        assert found.matrices.sum(axis=0) == approx(between, rel=1e-9)
        assert all(np.linalg.eigvalsh(one).min() >= -1e-12 * np.trace(between) for one in found.matrices)
    assert np.abs(shown[0] - shown[1]).max() < 0.01 * np.abs(shown[0]).max()


def by_cells(n: int, omega: np.ndarray) -> np.ndarray:
    """Means over the heated rectangle and another one at angular frequencies [rad/s], of a box of 10 n x 8 n x 6 n cells, its
    back held, of a conductivity of 1, by SciPy: (frequencies, 2)."""
    h = 4e-6 / n
    found, index = conduction((10 * n, 8 * n, 6 * n), h)
    matrix = found.tocsc()
    heated, other = index[2 * n : 5 * n, 2 * n : 6 * n, 0], index[7 * n : 9 * n, n : 4 * n, 0]
    power = np.zeros(index.size)
    power[heated.ravel()] = 1.0 / heated.size
    up, answers = 0.5 * h / (heated.size * h * h), []
    for one in omega:
        field = splu((matrix + diags_array(np.full(index.size, 1j * one * CAPACITY / 100.0 * h**3))).tocsc()).solve(
            power + 0j
        )
        answers.append((field[heated].mean() + up, field[other].mean()))
    return np.array(answers)


def test_it_follows_as_finite_differences_do():
    """Of one part by itself, and by another, where most of the heat has time to come and where little has; cells of 4 µm and of
    2 µm, their errors of second order taken away."""
    die = Die(40e-6, 32e-6, 24e-6, 100.0, 0.0, 0.0, CAPACITY)
    places = (HeatSource("a", (14e-6, 16e-6), (12e-6, 16e-6)), HeatSource("b", (32e-6, 10e-6), (8e-6, 12e-6)))
    found, between = following(Plan(die, places))
    omega = np.array([1e5, 1e6])
    wanted = (4.0 * by_cells(2, omega) - by_cells(1, omega)) / 3.0
    made = (found.matrices[None] / (1.0 + 1j * omega[:, None] * found.times)[:, :, None, None]).sum(axis=1)
    for k in range(2):
        assert abs(made[k, 0, 0] - wanted[k, 0]) < (found.error + 0.02) * between[0, 0]
        assert abs(made[k, 1, 0] - wanted[k, 1]) < (found.error + 0.02) * between[1, 0]


def test_no_more_heat_comes_out_than_goes_in():
    """Every gathering of modes is a sum of squares, and two parts act on each other alike."""
    die = Die(400e-6, 300e-6, 100e-6, 148.0, 0.0, 0.0, CAPACITY)
    places = (
        HeatSource("a", (100e-6, 150e-6), (4e-6, 20e-6), 3, 10e-6),
        HeatSource("b", (240e-6, 60e-6), (10e-6, 10e-6)),
    )
    found, between = following(Plan(die, places))
    assert found.matrices.sum(axis=0) == approx(between, rel=1e-9)
    for one in found.matrices:
        assert one == approx(one.T, rel=1e-9)
        assert np.linalg.eigvalsh(one).min() > -1e-9 * np.trace(one)


def test_a_resistor_warms_up_in_a_transient():
    """A step of power into a resistor without a coefficient: its curve of temperature is the step answer of the die; the middle of
    its finger is hotter, and the fast part of both comes first."""
    run = ran(PULSE.format(0.1, 0), {"t": "transient to 200u error 1e-5"}, ports={}, more=WARM)
    data = run.results["t"]
    t = data.points[0] if data.points.ndim > 1 else data.points
    die = Die(400e-6, 300e-6, 100e-6, 100.0, 0.0, 0.0, CAPACITY)
    found, between = following(Plan(die, (HeatSource("r1", (200e-6, 150e-6), (4e-6, 20e-6)),)))
    later = t > 1.02e-6
    steps = found.matrices[:, 0, 0, None] * (1.0 - np.exp(-(t[later] - 1.0005e-6) / found.times[:, None]))
    wanted = 27.0 + 0.1 * steps.sum(axis=0) / 100.0
    here = curve(data, "r1.temperature")[later]
    assert here == approx(wanted, abs=2e-3 * 0.1 * between[0, 0] / 100.0)
    assert (curve(data, "r1.peak_temperature")[later] > here).all()
    assert curve(data, "r1.temperature")[0] == approx(27.0, abs=1e-6)


def test_layers_and_what_is_behind_warm_up_to_where_they_rest():
    """After many of its time constants a step of power has the temperatures of an operating point; early on what lies below is
    cold still."""
    more = f'capacity = "{CAPACITY:g}"\nresistance = "200"\nlayers = "25u 50 2M, 300u 390 3.4M"'
    parts, below = PULSE.format(0.1, 0), heat("r1:200u, 150u:1", more=more)
    run = ran(parts, {"t": "transient to 1 error 1e-4"}, ports={}, more=below).results["t"]
    still = ran("i1 0 a 0.1\nr1 a 0 r=10\n", {"p": "point"}, ports={}, more=below).results["p"]
    rise, t = curve(run, "r1.temperature") - 27.0, np.ravel(run.points)
    whole = curve(still, "r1.temperature")[0] - 27.0
    assert rise[-1] == approx(whole, rel=1e-3)
    assert np.interp(20e-6, t, rise) < 0.75 * whole


@pytest.mark.parametrize("behind", [0.0, 300.0])
def test_small_signals_take_the_heat_along_below_its_corner(behind):
    """v = i R(T), T following i² R: from R + i R' 2 Z i R / (1 - Z i² R') at rest to R where nothing follows, with the thermal
    impedance Z of the die, and what lies behind it, between."""
    amps, a = 0.1, 4e-3
    parts = f"i1 0 a {amps} ac 1\nr1 a 0 r=10 tc1={a}\n"
    lines = {"p": "point", "c": "ac from 1 to 1T points 2", "n": "noise of a by i1 from 1 to 1T points 2"}
    run = ran(parts, lines, ports={}, more=warm(behind)).results
    die = Die(400e-6, 300e-6, 100e-6, 100.0, 0.0, behind, CAPACITY)
    found, _ = following(Plan(die, (HeatSource("r1", (200e-6, 150e-6), (4e-6, 20e-6)),)))
    rise = curve(run["p"], "r1.temperature")[0] - 27.0
    resistance, slope = 10.0 * (1.0 + a * rise), 10.0 * a
    z = (found.matrices[:, 0, 0] / 100.0 / (1.0 + 2j * np.pi * run["c"].points[:, None] * found.times)).sum(axis=1)
    through = found.through
    z = z + behind * (through.weights / (1.0 + 2j * np.pi * run["c"].points[:, None] * through.times)).sum(axis=1)
    wanted = resistance + 2.0 * z * amps**2 * resistance * slope / (1.0 - z * amps**2 * slope)
    np.testing.assert_allclose(curve(run["c"], "V(a)"), wanted, rtol=1e-6)
    assert abs(wanted[0]) > 1.3 * resistance
    assert abs(wanted[-1]) == approx(resistance, rel=1e-3)
    x = z[0].real * amps**2 * slope  # noise is no power of its own: V = R (i - n) with T following V²/R
    quiet = curve(run["n"], "noise.output")
    assert quiet[0] / quiet[-1] == approx((1.0 + x) / (1.0 - x), rel=2e-3)


@pytest.mark.parametrize(
    ("frequency", "follows", "capacity"),
    [("1m", True, CAPACITY), ("1G", False, CAPACITY), ("1G", False, 0.0), ("1m", False, 0.0)],
)
@pytest.mark.parametrize("behind", [0.0, 300.0])
def test_a_large_sine_heats_at_twice_its_frequency(frequency, follows, capacity, behind):
    """So slow that the resistor is at the temperature of each moment, it bends as the static law of its heat; so fast that
    only the mean is left, or where nothing is told of what the die holds, it is straight."""
    parts, a = f"v1 a 0 sin(0 2 {frequency})\nr1 a 0 r=10 tc1=4e-3\n", 4e-3
    data = ran(parts, {"b": f"balance at {frequency} harmonics 15"}, ports={}, more=warm(behind, capacity)).results["b"]
    plan = Plan(Die(400e-6, 300e-6, 100e-6, 100.0), (HeatSource("r1", (200e-6, 150e-6), (4e-6, 20e-6)),))
    rth = float(Resistances(plan).between[0, 0]) / 100.0 + behind
    phase = 2 * np.pi * np.arange(512) / 512
    power = (2.0 * np.sin(phase)) ** 2 / 10.0 if follows else np.full(512, 0.2)
    rise = (-1.0 + np.sqrt(1.0 + 4.0 * a * rth * power)) / (2.0 * a)
    current = 2.0 * np.sin(phase) / (10.0 * (1.0 + a * rise))
    wanted = 2.0 * np.abs(np.fft.fft(current)[1:6:2]) / 512
    found = np.abs(curve(data, "I(v1)"))[1:6:2]
    assert found[0] == approx(wanted[0], rel=1e-3)
    assert found[1:] == approx(wanted[1:], abs=1e-3 * wanted[0])


def test_very_small_fingers_on_a_large_die_take_no_longer():
    """Modes beyond a number of them go together; at rest nothing is lost, and nothing gives out heat."""
    die = Die(200e-6, 100e-6, 200e-6, 148.0, 0.0, 0.0, CAPACITY)
    found, between = following(Plan(die, (HeatSource("a", (100e-6, 50e-6), (130e-9, 5e-6), 4, 1e-6),)))
    assert found.matrices.sum(axis=0) == approx(between, rel=1e-9)
    assert (found.matrices >= 0.0).all()
    assert found.error < 0.1
