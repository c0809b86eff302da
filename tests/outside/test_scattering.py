"""S-parameters, two-port figures and noise of two-ports, against definitions written out here and worked examples."""

from __future__ import annotations

import numpy as np
import pytest
from numpy.testing import assert_allclose
from scipy.constants import k as boltzmann

from hearthline.core.nports.n_port import NoiseParameters, NPort
from tests.approximation import approx
from tests.benches import curve, data_of
from tests.decks import point

T0 = 290.0
COLD = str(T0 - 273.15)
TWO = "scattering from 1G to 2G points 3 spaced even"


def polar(size: float, degrees: float) -> complex:
    return size * np.exp(1j * np.radians(degrees))


def matrix(data, ports: int = 2) -> np.ndarray:
    """S (frequencies, ports, ports) of the only lane."""
    rows = [[curve(data, f"S({a},{b})") for b in range(1, ports + 1)] for a in range(1, ports + 1)]
    return np.moveaxis(np.array(rows), -1, 0)


def by_definition(z: np.ndarray, ports: np.ndarray) -> np.ndarray:
    """Kurokawa 1965, equation 18: S = F (Z - G*) (Z + G)⁻¹ F⁻¹ with G the ports' impedances, F = 1/(2 sqrt(Re G))."""
    g, f = np.diag(ports), np.diag(0.5 / np.sqrt(ports.real))
    return f @ (z - g.conj()) @ np.linalg.inv(z + g) @ np.linalg.inv(f)


# -- waves


def test_waves_of_a_tee_at_complex_impedances():
    """A tee of R, L and C by its Z-matrix."""
    parts = "r1 a x 20\nl1 x m 3n\nc1 m y 2p\nr2 m y 400\nr3 y 0 7\nl2 m b 1n\n"
    data = data_of(parts, TWO, ports={"a": "40+10j", "b": "75-20j"})
    s = 2j * np.pi * data.points
    za, zb, zc = 20 + 3e-9 * s, 1e-9 * s, 1 / (2e-12 * s + 1 / 400) + 7
    expected = [
        by_definition(np.array([[a + c, c], [c, b + c]]), np.array([40 + 10j, 75 - 20j]))
        for a, b, c in zip(za, zb, zc, strict=True)
    ]
    assert_allclose(matrix(data), expected, rtol=1e-9)


def test_a_splitter_of_three_resistors():
    """Matched at all ports, half the voltage to each (Pozar, section 7.2)."""
    data = data_of("ra a m {50/3}\nrb b m {50/3}\nrc c m {50/3}\n", TWO, ports={"a": "50", "b": "50", "c": "50"})
    assert_allclose(matrix(data, 3), np.broadcast_to(0.5 * (1 - np.eye(3)), (3, 3, 3)), atol=1e-12, rtol=1e-12)


def test_one_port_is_its_reflection():
    """Γ = (Z - Z0*)/(Z + Z0)."""
    data = data_of("r1 a 0 30\nc1 a 0 1p\n", TWO, ports={"a": "50+25j"})
    z = 1 / (1 / 30 + 2j * np.pi * data.points * 1e-12)
    assert_allclose(curve(data, "S(1,1)"), (z - (50 - 25j)) / (z + 50 + 25j), rtol=1e-9)


def test_a_line_is_its_delay():
    """|S21| = 1, S11 = 0, the phase and the delay those of the line, at a single frequency too."""
    data = data_of("t1 a 0 b 0 z0=50 td=370p\nrg a 0 1e12\n", "scattering from 3G to 3G points 1 spaced even")
    assert curve(data, "S(2,1)")[0] == approx(np.exp(-2j * np.pi * 3e9 * 370e-12), rel=1e-9)
    assert abs(curve(data, "S(1,1)")[0]) < 1e-9
    assert curve(data, "twoport.delay")[0] == approx(370e-12, rel=1e-9)


def test_the_delay_of_a_low_pass_is_the_slope_of_its_phase():
    """S21 = 2/(2 + sCR) of a shunt capacitance: τ = a/(1 + ω²a²) with a = CR/2."""
    data = data_of("c1 a 0 1p\nr1 a b 1u\n", TWO)
    a = 50e-12 / 2
    omega = 2 * np.pi * data.points
    assert_allclose(curve(data, "twoport.delay"), a / (1 + (omega * a) ** 2), rtol=1e-6)


def test_a_port_brings_bias_behind_its_resistance():
    """1 V behind 50 Ω into 50 Ω: half of it; the reactance counts for scattering alone."""
    text = "p1 a 0 number=1 impedance=50 reactance=30 dc=1\nr1 a 0 50\n"
    assert point(text)["V(a)"] == approx(0.5, rel=1e-9)
    assert point(text)["I(p1)"] == approx(0.01, rel=1e-9)


# -- figures


S4 = np.array([[polar(0.72, -116), polar(0.03, 57)], [polar(2.60, 76), polar(0.73, -54)]])


def as_file(s: np.ndarray, **more) -> NPort:
    f = np.array([0.5e9, 1e9, 2e9, 4e9])
    return NPort(f, np.broadcast_to(s, (len(f), 2, 2)), np.full(2, 50.0), **more)


def of_file(s: np.ndarray, celsius: str = COLD, **more):
    """Figures of a two-port with the same waves at all frequencies."""
    return data_of("rbig q 0 1\n", "scattering from 1G to 2G points 2 spaced even", {"d.s2p": as_file(s, **more)},
                   blocks={"d.s2p": ("a", "b")}, celsius=celsius)  # fmt: skip


def test_a_worked_amplifier():
    """Pozar, Microwave Engineering, example 12.3 (from memory): K 1.195, conjugate match 16.7 dB."""
    data = of_file(S4)
    assert_allclose(matrix(data)[0], S4, rtol=1e-9)
    assert curve(data, "twoport.k")[0] == approx(1.195, rel=5e-3)
    assert 10 * np.log10(curve(data, "twoport.gain_max")[0]) == approx(16.7, rel=5e-3)


def test_figures_by_their_definitions():
    """Rollett 1962, Edwards and Sinsky 1992, Mason 1954 (by Y), and the gains at matched ports."""
    s = S4
    data = of_file(s)
    delta = s[0, 0] * s[1, 1] - s[0, 1] * s[1, 0]
    k = (1 - abs(s[0, 0]) ** 2 - abs(s[1, 1]) ** 2 + abs(delta) ** 2) / (2 * abs(s[0, 1] * s[1, 0]))
    loop = abs(s[0, 1] * s[1, 0])
    y = np.linalg.inv(50 * (np.eye(2) + s) @ np.linalg.inv(np.eye(2) - s))
    mason = abs(y[1, 0] - y[0, 1]) ** 2 / (4 * (y[0, 0].real * y[1, 1].real - y[0, 1].real * y[1, 0].real))
    expected = {
        "k": k, "delta": delta,
        "mu": (1 - abs(s[0, 0]) ** 2) / (abs(s[1, 1] - delta * s[0, 0].conjugate()) + loop),
        "mu_prime": (1 - abs(s[1, 1]) ** 2) / (abs(s[0, 0] - delta * s[1, 1].conjugate()) + loop),
        "gain_max": abs(s[1, 0] / s[0, 1]) * (k - np.sqrt(k * k - 1)),
        "gain_available": abs(s[1, 0]) ** 2 / (1 - abs(s[1, 1]) ** 2),
        "gain_transducer": abs(s[1, 0]) ** 2,
        "gain_unilateral": mason,
    }  # fmt: skip
    for name, value in expected.items():
        assert curve(data, f"twoport.{name}")[0] == approx(value, rel=1e-9), name


def test_below_k_of_one_the_largest_gain_is_that_which_is_stable():
    """|S21/S12|."""
    s = np.array([[polar(0.9, -60), polar(0.08, 50)], [polar(3.0, 120), polar(0.8, -30)]])
    data = of_file(s)
    assert curve(data, "twoport.k")[0] < 1
    assert curve(data, "twoport.gain_max")[0] == approx(abs(s[1, 0] / s[0, 1]), rel=1e-9)


def test_an_isolator_has_no_way_back():
    """K infinite, gains the unilateral limits; passive, so its loss is its noise factor at T0 (Bosma 1967)."""
    t = 10 ** (-3 / 20)
    data = of_file(np.array([[0.0, 0.0], [t, 0.0]], complex))
    assert np.isposinf(curve(data, "twoport.k")).all()
    assert_allclose(curve(data, "twoport.gain_max"), t * t, rtol=1e-9)
    assert_allclose(curve(data, "twoport.noise_factor"), 1 / t**2, rtol=1e-9)


# -- noise


@pytest.mark.parametrize("decibels", [1.0, 6.0])
def test_an_attenuator(decibels):
    """F = L at T0 (Pozar), and 1 + (L - 1) T/T0 when it is hot; the ports' own noise is left out."""
    loss = 10 ** (decibels / 10)
    a = np.sqrt(loss)
    shunt, series = 50 * (a + 1) / (a - 1), 50 * (a * a - 1) / (2 * a)
    parts = f"ra a 0 {shunt}\nrb a b {series}\nrc b 0 {shunt}\n"
    assert curve(data_of(parts, TWO, celsius=COLD), "twoport.noise_factor") == approx(np.full(3, loss), rel=1e-9)
    hot = data_of(parts, TWO, celsius="127")
    assert curve(hot, "twoport.noise_factor") == approx(np.full(3, 1 + (loss - 1) * 400.15 / T0), rel=1e-9)
    assert_allclose(
        curve(hot, "ra.thermal") + curve(hot, "rb.thermal") + curve(hot, "rc.thermal"),
        (loss - 1) * 400.15 / T0,
        rtol=1e-9,
    )


def test_what_has_no_loss_has_no_noise():
    """F = Fmin = 1 of a line."""
    data = data_of("t1 a 0 b 0 z0=70 td=200p\nrg a 0 1e15\n", TWO)
    assert_allclose(curve(data, "twoport.noise_factor"), 1.0, rtol=1e-9)


def test_a_resistor_across_the_line():
    """F = 1 + Rs/R (Friis; from memory), with R at T0; of a shunt conductance the best source is a short: Rn = 0, Fmin = 1."""
    data = data_of("r1 a 0 200\nr2 a b 1u\n", TWO, ports={"a": "50", "b": "50"}, celsius=COLD)
    assert_allclose(curve(data, "twoport.noise_factor"), 1 + 50 / 200, rtol=1e-6)


def test_noise_data_of_a_file_are_what_comes_out():
    """Pozar, example 12.5 (from memory): Fmin 1.6 dB, Γopt 0.62 at 100°, Rn 20 Ω; at 50 Ω by his equation 12.55."""
    s = np.array([[polar(0.60, -60), polar(0.05, 26)], [polar(1.9, 81), polar(0.5, -60)]])
    least, best, rn = 10**0.16, polar(0.62, 100), 20.0
    f = np.array([0.5e9, 4e9])
    noise = NoiseParameters(f, np.full(2, least), np.full(2, best), np.full(2, rn), 50.0)
    data = of_file(s, noise=noise)
    assert curve(data, "twoport.noise_factor_min")[0] == approx(least, rel=1e-9)
    assert curve(data, "twoport.gamma_opt")[0] == approx(best, rel=1e-9)
    assert curve(data, "twoport.rn")[0] == approx(rn, rel=1e-9)
    factor = least + 4 * rn / 50 * abs(best) ** 2 / abs(1 + best) ** 2
    assert curve(data, "twoport.noise_factor")[0] == approx(factor, rel=1e-9)


def test_a_transistor_with_a_gate_resistance():
    """By hand, everything at T0: i² = 4kT (2/3) gm in the channel seen through gm (1 + jωC Rg), Rg before the gate.

    With P = (2/3)/gm: v = Rg + P (1 + ω²C²Rg²), i = P ω²C², <v i*> = P (1 + jωCRg)(-jωC), all over 4kT: from these Rn, the
    best source (Rothe and Dahlke 1956) and the least factor.
    """
    rg, c, model = 12.0, 150e-15, ".model n nmos level=1 vto=0.4 kp=300u\n"
    gm = point(f"{model}vg g 0 0.8\nvd d 0 1.2\nm1 d g 0 0 n w=40u l=0.2u\n.temp {COLD}\n")["m1.gm"]
    gate = f"cin a in 1\nrg in g {rg}\nlg bias g 1\nvg bias 0 0.8\nc1 g 0 {c}\n"
    drain = "m1 d g 0 0 n w=40u l=0.2u\nld d supply 1\nvd supply 0 1.2\ncout d b 1\n"
    ends = "ra a 0 1e12\nrb b 0 1e12\n"
    data = data_of(model + gate + drain + ends, "scattering from 2G to 2G points 1 spaced even", celsius=COLD)
    w, p = 2 * np.pi * 2e9, 2 / 3 / gm
    vv, ii, vi = rg + p * (1 + (w * c * rg) ** 2), p * (w * c) ** 2, p * (1 + 1j * w * c * rg) * (-1j * w * c)
    susceptance = vi.imag / vv
    conductance = np.sqrt(ii / vv - susceptance**2)
    best = conductance + 1j * susceptance
    assert curve(data, "twoport.rn")[0] == approx(vv, rel=1e-4)
    assert curve(data, "twoport.noise_factor_min")[0] == approx(1 + 2 * (vi.real + vv * conductance), rel=1e-4)
    z = 1 / best
    assert curve(data, "twoport.gamma_opt")[0] == approx((z - 50) / (z + 50), rel=1e-3)


def test_the_noise_of_a_port_counts_outside_of_noise_factors():
    """Its resistance at the circuit's temperature: 4kT R seen across an open end, R/4 of it in a match."""
    data = data_of("r1 a 0 1e12\n", "noise of a by p1 from 1G to 1G points 1 spaced even", ports={"a": "50"})
    assert curve(data, "noise.output")[0] ** 2 == approx(4 * boltzmann * 300.15 * 50, rel=1e-6)
