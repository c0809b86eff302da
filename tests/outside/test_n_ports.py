"""N-ports: their descriptions by definition, chains, and parts from files against the circuits that these were made from."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.testing import assert_allclose
from scipy.constants import k as boltzmann

from hearthline.core.nports.conversions import FORMS, converted, renormalised
from hearthline.core.nports.model import Model
from hearthline.core.nports.n_port import NPort
from hearthline.core.nports.passivity import largest, places
from hearthline.core.nports.planes import cascaded, de_embedded, shifted
from tests.approximation import approx
from tests.benches import curve, data_of, ran

COMPLEX = st.complex_numbers(max_magnitude=1.0, allow_nan=False, allow_infinity=False)


# -- descriptions


def test_descriptions_of_a_two_port_by_their_definitions():
    """Of one Z-matrix, written out (Pozar, tables 4.1 and 4.2, from memory)."""
    z = np.array([[30 + 4j, 11 - 2j], [25 + 9j, 60 - 7j]])
    delta = z[0, 0] * z[1, 1] - z[0, 1] * z[1, 0]
    expected = {
        "Y": np.array([[z[1, 1], -z[0, 1]], [-z[1, 0], z[0, 0]]]) / delta,
        "H": np.array([[delta, z[0, 1]], [-z[1, 0], 1]]) / z[1, 1],
        "G": np.array([[1, -z[0, 1]], [z[1, 0], delta]]) / z[0, 0],
        "ABCD": np.array([[z[0, 0], delta], [1, z[1, 1]]]) / z[1, 0],
    }  # fmt: skip
    for form, value in expected.items():
        assert_allclose(converted(z, "Z", form), value, rtol=1e-12, err_msg=form)
    s = converted(z, "Z", "S", 50.0)
    d = (z[0, 0] + 50) * (z[1, 1] + 50) - z[0, 1] * z[1, 0]
    assert_allclose(s, np.array([[(z[0, 0] - 50) * (z[1, 1] + 50) - z[0, 1] * z[1, 0], 100 * z[0, 1]],
                                 [100 * z[1, 0], (z[0, 0] + 50) * (z[1, 1] - 50) - z[0, 1] * z[1, 0]]]) / d, rtol=1e-12)  # fmt: skip
    t = np.array([[-(s[0, 0] * s[1, 1] - s[0, 1] * s[1, 0]), s[0, 0]], [-s[1, 1], 1]]) / s[1, 0]
    assert_allclose(converted(s, "S", "T", 50.0), t, rtol=1e-12)


@given(st.tuples(COMPLEX, COMPLEX, COMPLEX, COMPLEX), st.sampled_from(FORMS))
def test_there_and_back(entries, form):
    """Any description gives S back, where it exists."""
    s = np.array(entries).reshape(2, 2) * 0.45 + np.array([[0.0, 0.2], [0.6, 0.0]])
    z = np.array([40 + 5j, 70 - 20j])
    other = converted(s, "S", form, z)
    if np.isfinite(other).all() and np.abs(other).max() < 1e6:
        assert_allclose(converted(other, form, "S", z), s, atol=1e-9)


def test_other_impedances_by_the_definition():
    """Through Z: S' = F(Z - G*)(Z + G)⁻¹F⁻¹ (Kurokawa 1965), three ports, complex impedances."""
    rng = np.random.default_rng(2)
    s = 0.3 * (rng.normal(size=(3, 3)) + 1j * rng.normal(size=(3, 3)))
    z = 50 * (np.eye(3) + s) @ np.linalg.inv(np.eye(3) - s)
    g = np.array([40 + 10j, 75, 20 - 30j])
    f = np.diag(0.5 / np.sqrt(g.real))
    expected = f @ (z - np.diag(g.conj())) @ np.linalg.inv(z + np.diag(g)) @ np.linalg.inv(f)
    assert_allclose(renormalised(s, 50.0, g), expected, rtol=1e-9)


def test_what_has_no_impedances_says_so_by_infinity():
    """A series resistor has no Z, and all the rest."""
    s = converted(np.array([[1.0, 75.0], [0.0, 1.0]]), "ABCD", "S")
    assert not np.isfinite(converted(s, "S", "Z")).any()
    assert_allclose(converted(s, "S", "Y"), np.array([[1, -1], [-1, 1]]) / 75, atol=1e-12)


@pytest.mark.parametrize(
    ("form", "wanted", "ports", "message"),
    [("X", "S", 2, "no form 'X'"), ("S", "H", 3, "H is of two-ports, and this has 3 ports")],
)
def test_forms_that_are_not(form, wanted, ports, message):
    """By name."""
    with pytest.raises(ValueError, match=message):
        converted(np.eye(ports), form, wanted)


# -- chains


def line(f: np.ndarray, z0: float, delay: float, loss: float = 0.0) -> np.ndarray:
    """S at 50 Ω of a line; `loss` [neper] at 1 GHz, by skin effect."""
    g = 2j * np.pi * f * delay + loss * (1 + 1j) * np.sqrt(f / 1e9)
    m = np.array([[np.cosh(g), z0 * np.sinh(g)], [np.sinh(g) / z0, np.cosh(g)]])
    return converted(np.moveaxis(m, -1, 0), "ABCD", "S", 50.0)


F = np.linspace(0.1e9, 10e9, 34)


def test_planes_move_along_matched_lines():
    """The same as a matched line before each port."""
    s = line(F, 80, 50e-12)
    turns = 2j * np.pi * F[:, None] * np.array([30e-12, 70e-12])
    assert_allclose(shifted(s, turns), cascaded(line(F, 50, 30e-12), s, line(F, 50, 70e-12)), atol=1e-12)
    assert_allclose(shifted(shifted(s, turns), -turns), s, atol=1e-12)


def test_a_chain_by_its_products():
    """ABCD multiply; what stands before and behind comes off again."""
    parts = [line(F, z, t, 0.02) for z, t in ((70, 40e-12), (30, 60e-12), (90, 20e-12))]
    product = converted(parts[0], "S", "ABCD") @ converted(parts[1], "S", "ABCD") @ converted(parts[2], "S", "ABCD")
    whole = cascaded(*parts)
    assert_allclose(whole, converted(product, "ABCD", "S"), rtol=1e-9, atol=1e-12)
    assert_allclose(de_embedded(whole, parts[0], parts[2]), parts[1], atol=1e-9)
    with pytest.raises(ValueError, match="nothing gets through what stands before"):
        de_embedded(whole, np.zeros((2, 2)))


# -- models in time


@pytest.mark.parametrize("low", [0.0, 0.1e9])
@pytest.mark.parametrize(("delay", "loss"), [(100e-12, 0.0), (300e-12, 0.05)])
def test_a_line_has_a_passive_model(low, delay, loss):
    """Follows to 1e-3, all poles stable, no wave grows at any frequency; exact at 0 Hz where the file has it."""
    f = np.linspace(low, 10e9, 201)
    model = Model("line", NPort(f, line(f, 60, delay, loss), np.full(2, 50.0)))
    assert model.passive
    assert model.reciprocal
    assert model.causal
    assert model.error < 1e-3
    assert (model.rational.poles.real < 0).all()
    omega = 2 * np.pi * f
    assert largest(model.rational, places(model.rational, omega)).max() < 1 + 1e-5
    assert np.array_equal(model.s(f), model.rational.at(omega) + (model.network.s - model.rational.at(omega)))
    if low == 0.0:
        assert_allclose(model.rational.at(np.zeros(1))[0], [[0, 1], [1, 0]], atol=1e-9)


def test_a_model_finds_the_circuit_it_came_from():
    """Series L and R, shunt C between 50 Ω: two poles, to rounding."""
    f = np.linspace(0, 10e9, 201)
    s = 2j * np.pi * f
    one, nothing = np.ones_like(s), np.zeros_like(s)
    series, shunt = np.array([[one, 5 + 1e-9 * s], [nothing, one]]), np.array([[one, nothing], [1e-12 * s, one]])
    chain = np.moveaxis(series, -1, 0) @ np.moveaxis(shunt, -1, 0)
    model = Model("rlc", NPort(f, converted(chain, "ABCD", "S"), np.full(2, 50.0)))
    assert model.error < 1e-7
    far = np.array([100e9])
    assert_allclose(
        model.s(far)[0, 1, 0],
        2
        / (
            2
            + 2j * np.pi * far[0] * 1e-12 * 50
            + (5 + 2j * np.pi * far[0] * 1e-9) * (1 / 50 + 2j * np.pi * far[0] * 1e-12)
        ),
        rtol=1e-3,
    )


def test_what_goes_before_its_cause_is_told():
    """A line of a negative delay follows no stable model."""
    f = np.linspace(0, 10e9, 201)
    model = Model("early", NPort(f, line(f, 50, 300e-12).conj(), np.full(2, 50.0)))
    assert not model.causal
    assert (model.rational.poles.real < 0).all()


# -- parts

INSIDE = "r1 a2 m1 5\nl1 m1 m2 2n\nc1 m2 0 1p\nr2 m2 0 1k\nr3 m2 m3 3\nl2 m3 b2 1n\n"
AROUND = "vin in 0 dc 1 ac 1 pulse(0 1 1n 0.1n 0.1n 5n 20n)\nrs in a 50\nrl b 0 75\nrs2 in a2 50\nrl2 b2 0 75\n"


@pytest.fixture(scope="module")
def ladder() -> NPort:
    """Waves of `INSIDE` from 0 to 5 GHz, written here."""
    f = np.linspace(0, 5e9, 251)
    s = 2j * np.pi * f
    one, nothing = np.ones_like(s), np.zeros_like(s)
    steps = [np.array([[one, 5 + 2e-9 * s], [nothing, one]]), np.array([[one, nothing], [1e-12 * s + 1e-3, one]]),
             np.array([[one, 3 + 1e-9 * s], [nothing, one]])]  # fmt: skip
    a, b, c = (np.moveaxis(step, -1, 0) for step in steps)
    return NPort(f, converted(a @ b @ c, "ABCD", "S"), np.full(2, 50.0))


def test_a_part_from_a_file_is_its_circuit(ladder):
    """Beside the circuit itself in every analysis: rest, AC inside and outside of the file, noise (Bosma 1967), in time, seen
    from its terminal, and no pole grows."""
    lines = {
        "rest": "point", "ac": "ac from 1M to 50G points 10", "time": "transient to 20n",
        "n1": "noise of b by vin from 10M to 20G points 5", "n2": "noise of b2 by vin from 10M to 20G points 5",
        "into": "look at x1.1 from 10M to 20G points 5", "into2": "look at r1.p from 10M to 20G points 5",
        "poles": "stability from 1M to 100G points 5",
    }  # fmt: skip
    run = ran(AROUND + INSIDE, lines, {"pi.s2p": ladder}, ports={}, blocks={"pi.s2p": ("a", "b")})
    found = run.results
    for analysis, accuracy in (("rest", 1e-9), ("ac", 1e-6), ("time", 1e-4)):
        for one, other in (("V(a)", "V(a2)"), ("V(b)", "V(b2)")):
            assert_allclose(curve(found[analysis], one), curve(found[analysis], other), atol=accuracy, err_msg=analysis)
    assert_allclose(curve(found["n1"], "noise.output"), curve(found["n2"], "noise.output"), rtol=1e-6)
    assert_allclose(curve(found["into"], "look.into"), curve(found["into2"], "look.into"), rtol=1e-5)
    assert abs(curve(found["poles"], "stability.turns")).max() < 0.5
    told = [note for note in run.notes if "its file says nothing" in note]
    assert told == ["ac: x1: above 5.000 GHz its file says nothing; a rational model stands in there"]


def test_at_its_frequencies_a_file_counts_to_the_last_digit():
    """Whatever the model makes of it: random numbers, which no model follows."""
    rng = np.random.default_rng(4)
    f = np.linspace(1e9, 2e9, 11)
    s = 0.3 * (rng.normal(size=(11, 2, 2)) + 1j * rng.normal(size=(11, 2, 2)))
    run = ran("rq q 0 1\n", {"one": "scattering from 1G to 2G points 11 spaced even"}, {"r.s2p": NPort(f, s, np.full(2, 50.0))},
              blocks={"r.s2p": ("a", "b")})  # fmt: skip
    for a in range(2):
        for b in range(2):
            assert_allclose(curve(run.results["one"], f"S({a + 1},{b + 1})"), s[:, a, b], rtol=1e-9)
    assert any("at 0 Hz a rational model stands in" in note for note in run.notes)


def test_a_common_terminal_of_its_own():
    """A two-port between three nets: an attenuator above ground, against its three resistors."""
    loss, f = 10 ** (6 / 20), np.linspace(0, 1e9, 5)
    s = np.broadcast_to(np.array([[0, 1 / loss], [1 / loss, 0]]), (5, 2, 2))
    shunt, series = 50 * (loss + 1) / (loss - 1), 50 * (loss * loss - 1) / (2 * loss)
    parts = f"v1 s 0 1 ac 1\nr0 s a 20\nrl b 0 30\nre e 0 70\nr02 s a2 20\nrl2 b2 0 30\nre2 e2 0 70\nra a2 e2 {shunt}\nrb a2 b2 {series}\nrc b2 e2 {shunt}\n"
    data = data_of(
        parts, "point", {"p.s2p": NPort(f, s, np.full(2, 50.0))}, ports={}, blocks={"p.s2p": ("a", "b", "e")}
    )
    for one in "abe":
        assert curve(data, f"V({one})")[0] == approx(curve(data, f"V({one}2)")[0], rel=1e-9)


def test_four_ports_in_time():
    """Two coupled lines as a file of four ports against two lines of even and odd impedance (Pozar, section 7.6)."""
    f = np.linspace(0, 20e9, 401)
    even, odd = line(f, 60, 200e-12, 0.01), line(f, 42, 200e-12, 0.01)
    s = np.zeros((len(f), 4, 4), complex)  # ports 1 and 3 at one end of the lines, 2 and 4 at the other
    for i, j in np.ndindex(2, 2):
        both, apart = 0.5 * (even[:, i, j] + odd[:, i, j]), 0.5 * (even[:, i, j] - odd[:, i, j])
        s[:, i, j] = s[:, i + 2, j + 2] = both
        s[:, i, j + 2] = s[:, i + 2, j] = apart
    network = NPort(f, s, np.full(4, 50.0))
    parts = "v1 s 0 pulse(0 1 0.1n 0.2n 0.2n 2n)\nr0 s a 50\nr1 b 0 50\nr2 c 0 50\nr3 d 0 50\n"
    run = ran(parts, {"time": "transient to 3n"}, {"l.s4p": network}, ports={}, blocks={"l.s4p": ("a", "b", "c", "d")})
    data = run.results["time"]
    t = data.x(0)
    # by the Fourier transform of the pulse, on a grid that is long and fine enough
    n, step = 1 << 15, 2e-12
    times, w = np.arange(n) * step, 2 * np.pi * np.fft.rfftfreq(n, step)
    pulse = np.interp(times, [0, 0.1e-9, 0.3e-9, 2.3e-9, 2.5e-9, 1], [0, 0, 1, 1, 0, 0])
    e, o = line(w / 2 / np.pi, 60, 200e-12, 0.01), line(w / 2 / np.pi, 42, 200e-12, 0.01)
    for net, wave in (
        ("b", 0.5 * (e[:, 1, 0] + o[:, 1, 0])),
        ("c", 0.5 * (e[:, 0, 0] - o[:, 0, 0])),
        ("d", 0.5 * (e[:, 1, 0] - o[:, 1, 0])),
    ):
        expected = np.fft.irfft(np.fft.rfft(pulse) * wave / 2, n)
        assert_allclose(curve(data, f"V({net})")[: len(t)], np.interp(t, times, expected), atol=5e-3)


def test_a_network_with_gain_is_quiet_and_told():
    """And counts in stability: a reflection of 1.2 against an open end makes a pole grow, against a match none."""
    f = np.linspace(0, 10e9, 101)
    s = 1.2 / (1 + 1j * f / 3e9)
    network = NPort(f, s[:, None, None], np.full(1, 50.0))
    lines = {"poles": "stability from 1M to 1T points 10"}
    turns = {}
    for load in ("50", "10k"):
        run = ran(f"c1 a 0 1f\nr1 a 0 {load}\n", lines, {"g.s1p": network}, ports={}, blocks={"g.s1p": ("a",)})
        turns[load] = curve(run.results["poles"], "stability.turns")[-1]
        assert any("gives out more than goes in" in note and "quiet" in note for note in run.notes)
    assert abs(turns["50"]) < 0.2
    assert abs(turns["10k"] - 1) < 0.2


def test_a_hot_part_from_a_file():
    """4kTR of a one-port at the circuit's temperature."""
    f = np.linspace(0, 10e9, 5)
    network = NPort(f, np.full((5, 1, 1), (100 - 50) / (100 + 50), complex), np.full(1, 50.0))
    data = data_of("v1 s 0 1\nl1 s a 1\n", "noise of a by v1 from 1G to 1G points 1 spaced even", {"r.s1p": network}, ports={},
                   blocks={"r.s1p": ("a",)}, celsius="127")  # fmt: skip
    assert curve(data, "noise.output")[0] ** 2 == approx(4 * boltzmann * 400.15 * 100, rel=1e-6)
