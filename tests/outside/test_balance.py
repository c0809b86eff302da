"""Harmonic balance against closed forms, small signals, and integration in time by SciPy."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.constants import elementary_charge
from scipy.integrate import quad, solve_ivp
from scipy.special import iv

from hearthline.core.bench.readings import Reader
from hearthline.core.constants import BOLTZMANN
from hearthline.core.engine.periodic import matrix
from tests.approximation import approx
from tests.benches import curve, data_of, ran
from tests.examples import examples

VT = BOLTZMANN * 300.15 / elementary_charge


def port(number: int, net: str, power: str = "") -> str:
    """A port of 50 Ω at a net, with a power or two."""
    said = f'power = "{power}"\n' if power else ""
    return f'[[stimuli]]\nname = "p{number}"\npin = "{net}"\nkind = "port"\nnumber = "{number}"\n{said}'


def test_an_exponential_law_has_modified_bessel_functions():
    """exp(x cos θ) = I0(x) + 2 sum of In(x) cos nθ (Abramowitz and Stegun 9.6.34)."""
    data = data_of(
        "v1 a 0 sin(0.5 0.2 1meg 0 0 90)\nd1 a 0 dd\n.model dd d is=1e-14\n", "balance at 1M harmonics 9", ports={}
    )
    orders = np.arange(10)
    wanted = np.where(orders, 2.0, 1.0) * 1e-14 * np.exp(0.5 / VT) * iv(orders, 0.2 / VT) - 1e-14 * (orders == 0)
    np.testing.assert_allclose(curve(data, "I(v1)"), -wanted, rtol=1e-6)


LINEAR = """v1 in 0 sin(0.3 0.5 1g 0 0 90) ac 0.5
r1 in a 25
l1 a b 3n
c1 b 0 2p
t1 b 0 c 0 z0=70 td=0.13n
r2 c 0 90
e1 d 0 c 0 3
r3 d e 1k
c2 e 0 0.1p
"""


def test_a_circuit_without_bends_is_what_small_signals_say():
    """Lines too, which are exact at each frequency."""
    found = ran(LINEAR, {"b": "balance at 1G harmonics 3", "a": "ac from 1G to 2G points 2 spaced even"}, ports={})
    large, small = found.results["b"], found.results["a"]
    for net in "abcde":
        assert curve(large, f"V({net})")[1] == approx(curve(small, f"V({net})")[0], rel=1e-9)
        assert abs(curve(large, f"V({net})")[2]) < 1e-12


def test_a_square_law_has_a_mean_and_one_harmonic_more():
    """β/2 (vov + A cos θ)²: β/2 (vov² + A²/2), β vov A, β A²/4."""
    beta, over, size = 200e-6 * 10, 0.3, 0.1
    data = data_of(
        "vd d 0 3\nv1 g 0 sin(0.8 0.1 1meg 0 0 90)\nm1 d g 0 0 n w=10u l=1u\n.model n nmos vto=0.5 kp=200u lambda=0\n",
        "balance at 1M harmonics 4", ports={},
    )  # fmt: skip
    wanted = [0.5 * beta * (over**2 + 0.5 * size**2), beta * over * size, 0.25 * beta * size**2, 0.0, 0.0]
    np.testing.assert_allclose(curve(data, "m1.id").real, wanted, atol=1e-12)


CUBIC = "b1 0 out i=v(in)-0.5*v(in)**3\nr1 in 0 50\nr2 out 0 50\n"


def test_two_tones_through_a_cubic_law():
    """a x + c x³: a A + 9/4 c A³ at each tone, 3/4 c A³ at each product of third order (any text on intermodulation)."""
    parts = "v1 a 0 sin(0 0.2 1g 0 0 90)\nv2 in a sin(0 0.2 1.01g 0 0 90)\n" + CUBIC
    data = data_of(parts, "balance at 1G,1.01G order 5", ports={})
    k1, k2 = curve(data, "k1"), curve(data, "k2")

    def at(a: int, b: int) -> complex:
        return curve(data, "V(out)")[(k1 == a) & (k2 == b)][0]

    assert at(1, 0) == approx(50 * (0.2 - 0.5 * 9 / 4 * 0.2**3), rel=1e-9)
    for product in ((2, -1), (-1, 2), (2, 1), (1, 2)):
        assert at(*product) == approx(-50 * 0.5 * 0.75 * 0.2**3, rel=1e-9)
    assert at(3, 0) == approx(-50 * 0.5 * 0.25 * 0.2**3, rel=1e-9)
    assert (np.diff(data.points) >= 0).all()
    assert data.points[0] == 0.0


def test_the_intercept_lies_9_6_db_above_the_compression_point():
    """Of a cubic law, both at the input: 10 log10((4/3) / (0.145 * 4/3)) = 9.64 dB (any text on intermodulation). Products of
    third order rise by 3 dB a dB."""
    more = port(1, "in", "pin") + port(2, "out") + "".join(
        f'[[readings]]\nname = "{name}"\nanalysis = "{name[0]}"\nformula = "{formula}"\n'
        for name, formula in (
            ("one", "compression_at(power_gain(2, 1), pin)"),
            ("two", "third_intercept(2)"),
            ("tslope", "dbm(mixing_product(port2.delivered, 2, -1))"),
            ("tcept", "intercept_at(dbm(mixing_product(port2.delivered, 1, 0)), dbm(mixing_product(port2.delivered, 2, -1)))"),
        )
    )  # fmt: skip
    lines = {
        "o": "balance at 1G harmonics 5 within pin at -45 to 5 step 0.5",
        "t": "balance at 1G,1.01G order 5 within pin at -50,-40",
    }
    parts = ".param pin=-20\n" + CUBIC.replace("r1 in 0 50\n", "r1 in 0 1g\n")
    more = more.replace('power = "pin"', 'power = "pin, pin"')
    found = ran(parts, lines, ports={}, more=more)
    numbers = Reader(found.snapshot.bench, found.results).all()
    assert not [one.problem for one in numbers.values() if one.problem]
    gain = 20 * np.log10(2 * 25)  # the open port gives twice the voltage of a matched one, into 25 Ω
    assert numbers["two"].values[0] - gain - numbers["one"].values[0] == approx(9.64, abs=0.03)
    assert np.diff(numbers["tslope"].values)[0] == approx(30.0, abs=0.01)
    np.testing.assert_allclose(numbers["tcept"].values, numbers["two"].values[0], atol=1e-9)


@examples(10)
@given(
    st.floats(0.02, 0.2), st.floats(0.0, 0.2), st.floats(0.0, 0.2), st.floats(0.1, 0.35), st.floats(-0.5, 0.5)
)  # fmt: skip
def test_pulses_have_their_exact_coefficients(delay, rise, fall, width, low):
    """Against integration by quadrature; edges of no length are steps."""
    high, period = 1.0, 1e-6
    numbers = " ".join(f"{one * period:.12g}" for one in (delay, rise, fall, width, 1.0))
    data = data_of(f"v1 a 0 pulse({low:.12g} 1 {numbers})\nr1 a 0 1k\n", "balance at 1M harmonics 7", ports={})
    corners = [delay, delay + rise, delay + rise + width, delay + rise + width + fall]

    def value(t: float) -> float:
        return float(np.interp(t, corners, [low, high, high, low]))

    for k in (0, 1, 2, 7):
        c, s = (
            quad(lambda t, turn=turn, k=k: value(t) * turn(2 * np.pi * k * t), 0, 1, points=corners, limit=200)[0]
            for turn in (np.cos, np.sin)
        )
        wanted = c if k == 0 else 2 * (c - 1j * s)
        assert curve(data, "V(a)")[k] == approx(wanted, abs=1e-7)


def test_a_rectifier_is_what_integration_in_time_settles_at():
    """Radau of SciPy over many periods; a diode with a capacitor at its load."""
    data = data_of(
        "v1 a 0 sin(0 2 1meg)\nd1 a b dd\nr1 b 0 1k\nc1 b 0 1n\n.model dd d is=1e-12\n",
        "balance at 1M harmonics 150",
        ports={},
    )

    def slope(t, v):
        return [(1e-12 * np.expm1((2 * np.sin(2e6 * np.pi * t) - v[0]) / VT) - v[0] / 1e3) / 1e-9]

    times = 19e-6 + data.wave.points
    settled = solve_ivp(slope, (0, 20e-6), [0.0], "Radau", times, rtol=1e-9, atol=1e-9, max_step=5e-9).y[0]
    np.testing.assert_allclose(curve(data.wave, "V(b)"), settled, atol=2e-5)


def test_iterative_and_direct_solutions_agree(monkeypatch):
    """GMRES takes over where what is left is large; both are the same Newton."""
    parts = "v1 in 0 sin(0.5 0.3 1meg)\nr1 in a 1k\nd1 a 0 dd\nd2 a b dd\nr2 b 0 1k\nc2 b 0 1n\n.model dd d is=1e-14 cjo=1p\n"
    direct = data_of(parts, "balance at 1M harmonics 12", ports={})
    monkeypatch.setattr(matrix, "MOST_DENSE", 3)
    iterated = data_of(parts, "balance at 1M harmonics 12", ports={})
    for label in ("V(a)", "V(b)", "I(v1)"):
        np.testing.assert_allclose(curve(iterated, label), curve(direct, label), rtol=1e-7, atol=1e-12)


def test_the_number_of_harmonics_is_found():
    """Raised until the last ones are small, and said; more change nothing of weight."""
    parts = "v1 a 0 sin(0 1 1meg)\nr0 a b 100\nd1 b 0 dd\n.model dd d is=1e-14\n"
    found = ran(parts, {"auto": "balance", "many": "balance at 1M harmonics 200"}, ports={})
    auto, many = found.results["auto"], found.results["many"]
    assert len(auto.points) < len(many.points)
    np.testing.assert_allclose(curve(auto, "V(b)"), curve(many, "V(b)")[: len(auto.points)], atol=3e-4)
    assert any("harmonics" in line for line in found.log)
