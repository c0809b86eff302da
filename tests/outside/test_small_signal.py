"""AC and noise against closed forms, random networks in NumPy, and the laws of Nyquist and Schottky."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import constants
from scipy.signal import buttap, zpk2tf

from hearthline.core.analyses.frequencies import spaced
from hearthline.core.engine.small_signal import ac, noise
from tests.approximation import approx
from tests.decks import circuit_of, point, solved
from tests.examples import examples

FOUR_KT = 4 * constants.k * (273.15 + 27)


def phasor(table, label):
    """Two columns as a complex array."""
    return table[f"{label}.re"] + 1j * table[f"{label}.im"]


@pytest.mark.parametrize("order", [3, 5, 7])
def test_butterworth_ladder(order):
    """Element values 2·sin((2k - 1)π/2n) and the poles of SciPy's prototype."""
    lines, net = ["v1 in 0 ac 1", "rs in n0 1"], "n0"
    for k in range(1, order + 1):
        value = float(2 * np.sin((2 * k - 1) * np.pi / (2 * order)))
        if k % 2:
            lines.append(f"c{k} {net} 0 {value!r}")
        else:
            lines.append(f"l{k} {net} n{k} {value!r}")
            net = f"n{k}"
    table = solved("\n".join([*lines, f"rl {net} 0 1", ".ac dec 20 0.01 1"]) + "\n")
    numerator, denominator = zpk2tf(*buttap(order))
    s = 2j * np.pi * table["frequency"]
    expected = 0.5 * np.polyval(numerator, s) / np.polyval(denominator, s)
    np.testing.assert_allclose(phasor(table, f"V({net})"), expected, rtol=1e-9, atol=1e-12)


@examples(30)
@given(seed=st.integers(0, 10**6), nets=st.integers(2, 12))
def test_random_networks_against_matrices_written_here(seed, nets):
    """R, C, L and controlled currents between random nets; complex nodal analysis in NumPy, to 1e-9."""
    rng = np.random.default_rng(seed)
    omega = 2 * np.pi * 1e6
    y, lines = np.zeros((nets + 1, nets + 1), complex), ["i1 0 1 ac 1"]
    for k in range(3 * nets):
        a, b = (int(n) for n in rng.choice(nets + 1, 2, replace=False)) if k >= nets else (k + 1, 0)
        kind = rng.choice(["r", "c", "l"]) if k >= nets else "r"
        value = {"r": 10 ** rng.uniform(1, 4), "c": 10 ** rng.uniform(-12, -9), "l": 10 ** rng.uniform(-6, -3)}[kind]
        admittance = {"r": 1 / value, "c": 1j * omega * value, "l": 1 / (1j * omega * value + 0.1)}[kind]
        if kind == "l":  # with a resistance, so that no loop of inductors is closed at direct current
            lines.append(f"l{k} {a} m{k} {value!r}\nrl{k} m{k} {b} 0.1")
        else:
            lines.append(f"{kind}{k} {a} {b} {value!r}")
        y[a, a] += admittance
        y[b, b] += admittance
        y[a, b] -= admittance
        y[b, a] -= admittance
    out, control = (int(n) for n in rng.choice(np.arange(1, nets + 1), 2, replace=False))
    lines.append(f"g1 {out} 0 {control} 0 1m")
    y[out, control] += 1e-3
    expected = np.linalg.solve(y[1:, 1:], np.eye(nets)[0])
    table = solved("\n".join([*lines, ".ac lin 1 1meg 1meg"]) + "\n")
    found = np.array([phasor(table, f"V({k})")[0] for k in range(1, nets + 1)])
    np.testing.assert_allclose(found, expected, rtol=1e-9, atol=1e-9 * np.abs(expected).max())


def test_thermal_noise_of_a_divider():
    """Nyquist 1928: 4kTR of the two in parallel."""
    table = solved("v1 a 0 1 ac 1\nr1 a b 1k\nr2 b 0 3k\n.noise v(b) v1 dec 1 1k 1k\n")
    assert table["output_noise"][0] ** 2 == approx(FOUR_KT * 750, rel=1e-6)
    assert table["input_noise"][0] == approx(table["output_noise"][0] / 0.75, rel=1e-9)
    parts = table["r1.thermal"][0] ** 2 + table["r2.thermal"][0] ** 2
    assert parts == approx(table["output_noise"][0] ** 2, rel=1e-12)


def test_noise_of_a_capacitor_is_kt_over_c():
    """kT/C, whatever the resistance; the band is wide enough for 1e-3."""
    for ohms in ("1k", "100k"):
        system, _ = circuit_of(f"v1 a 0 ac 1\nr1 a b {ohms}\nc1 b 0 1p\n")
        answer = noise(system, spaced("decade", 1.0, 1e12, 50), ("b", "0"), "v1")
        assert answer.integrated()[0] ** 2 == approx(constants.k * 300.15 / 1e-12, rel=1e-3)
        assert answer.contributions() == {"r1.thermal": approx(1.0)}


def test_shot_noise_of_a_diode():
    """Schottky: 2qI in the diode, across its own rd = N·VT/I."""
    table = solved("i1 0 a 1m ac 1\nd1 a 0 dm\n.model dm d is=1e-14\n.noise v(a) i1 dec 1 1k 1k\n")
    dynamic = constants.k * 300.15 / constants.e / 1e-3
    assert table["output_noise"][0] == approx(np.sqrt(2 * constants.e * 1e-3) * dynamic, rel=1e-4)
    assert table["input_noise"][0] == approx(np.sqrt(2 * constants.e * 1e-3), rel=1e-4)


def test_flicker_noise_of_a_transistor():
    """KF·ID^AF/(COX·L²·f) through the load: the law of the Berkeley decks."""
    deck = "vd d 0 1.2\nvg g 0 0.8 ac 1\nrl d o 1k\nm1 o g 0 0 n w=10u l=1u\n.model n nmos vto=0.4 kp=200u tox=4n kf=1e-26 af=1\n"
    table = solved(deck + ".noise v(o) vg lin 2 1 2\n")
    cox = 3.9 * constants.epsilon_0 / 4e-9
    drain = point(deck)["m1.id"]
    expected = np.sqrt(1e-26 * drain / (cox * 1e-12 * table["frequency"])) * 1e3
    np.testing.assert_allclose(table["m1.flicker"], expected, rtol=1e-3)


def test_gain_of_a_stage_is_that_of_its_small_signal_values():
    """-gm·(RL || 1/gds), from the operating point of the same deck."""
    deck = "vd d 0 1.2\nvg g 0 0.7 ac 2\nrl d o 5k\nm1 o g 0 0 n w=10u l=1u\n.model n nmos vto=0.4 kp=200u lambda=0.1\n"
    values, table = point(deck), solved(deck + ".ac dec 1 1 10\n")
    assert table["V(o).re"][0] == approx(-2 * values["m1.gm"] / (1 / 5e3 + values["m1.gds"]), rel=1e-6)


def test_device_quantities_over_frequency():
    """The drain current of a stage is gm·vgs + gds·vds at any frequency, and lanes come as one dataset."""
    deck = "vd d 0 1.2\nvg g 0 0.7 ac 1\nrl d o 5k\ncl o 0 1p\nm1 o g 0 0 n w=10u l=1u\n.model n nmos vto=0.4 kp=200u lambda=0.1\n"
    values, (system, _) = point(deck), circuit_of(deck)
    frequencies = np.array([1e3, 1e8, 1e10])
    data = ac(system, frequencies).dataset(variables=("m1.id", "m1.vds"))
    expected = values["m1.gm"] + values["m1.gds"] * data.curve("V(o)")[0]
    np.testing.assert_allclose(data.curve("m1.id")[0], expected, rtol=1e-5)
    np.testing.assert_allclose(data.curve("m1.vds"), data.curve("V(o)"), rtol=1e-5)
    heard = noise(system, frequencies, ("o", "0"), "vg").dataset()
    total = sum(
        heard.curve(name) ** 2 for name in ("rl.thermal", "m1.channel", "m1.flicker", "m1.bulk-drain", "m1.bulk-source")
    )
    np.testing.assert_allclose(total, heard.curve("output_noise") ** 2, rtol=1e-12)
    assert heard.units["input_noise"] == "V/√Hz"
    driven, _ = circuit_of("i1 0 a 1m ac 1\nr1 a 0 1k\n")
    assert noise(driven, frequencies, ("a", "0"), "i1").dataset().units["input_noise"] == "A/√Hz"
    assert heard.to_xarray()["output_noise"].dims == ("lane", "frequency")
