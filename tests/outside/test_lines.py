"""Lines by their cross-section against closed forms."""

from __future__ import annotations

import csv

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.constants import c as light
from scipy.constants import epsilon_0, mu_0
from scipy.special import jv

from hearthline.cli import main
from hearthline.core.fields.lines.card import card
from hearthline.core.fields.lines.charges import charges
from hearthline.core.fields.lines.closed_forms import ETA0, coplanar, microstrip
from hearthline.core.fields.lines.n_port import line_network
from hearthline.core.fields.lines.per_length import per_length, round_wire
from hearthline.core.fields.lines.section import Conductor, Layer, Section
from hearthline.core.formats.network_files import Networks
from hearthline.core.formats.touchstone import read_touchstone
from tests.approximation import approx
from tests.examples import examples

COPPER = 5.8e7


def coaxial(a: float, b: float, er: float, loss: float) -> Section:
    """A wire in the middle of a round shield."""
    middle = (0.0, 2.0 * b)
    inner, outer = Conductor(middle, middle, a), Conductor(middle, middle, b, hollow=True, ground=True)
    return Section((inner, outer), (Layer(5.0 * b, er, loss),), length=0.1)


@examples(25)
@given(st.floats(1.3, 20.0), st.floats(1.0, 12.0), st.floats(0.0, 0.05))
def test_a_coaxial_line(ratio, er, loss):
    """2 π ε / ln(b/a), μ0 ln(b/a) / 2 π, Rs (1/a + 1/b) / 2 π, and the loss tangent (Pozar, table 2.1)."""
    a = 1e-3
    found = per_length(coaxial(a, ratio * a, er, loss))
    assert found.capacitance[0, 0] == approx(2 * np.pi * epsilon_0 * er / np.log(ratio), rel=3e-4)
    assert found.inductance[0, 0] == approx(mu_0 / (2 * np.pi) * np.log(ratio), rel=3e-4)
    assert found.leak[0, 0] / found.capacitance[0, 0] == approx(loss, rel=1e-6, abs=1e-12)
    frequency = 1e10
    resistance = np.sqrt(np.pi * frequency * mu_0 / COPPER)
    wanted = resistance / (2 * np.pi) * (1 / a + 1 / (ratio * a))
    assert found.impedance(np.array([frequency]))[0, 0, 0].real == approx(wanted, rel=3e-3)


@examples(25)
@given(st.floats(1.2, 30.0))
def test_a_wire_over_the_plane(ratio):
    """2 π ε0 / arcosh(h/a), and surface losses (h/a) / √((h/a)² - 1) of the wire, 1/√((h/a)² - 1) of the plane, in those of a
    wire alone: from the density of charge of a wire beside its image (Smythe, Static and Dynamic Electricity)."""
    a = 0.5e-3
    found = per_length(Section((Conductor((0.0, ratio * a), (0.0, ratio * a), a),)))
    assert found.capacitance[0, 0] == approx(2 * np.pi * epsilon_0 / np.arccosh(ratio), rel=1e-3)
    root = np.sqrt(ratio**2 - 1)
    wanted = (ratio + 1) / root / (2 * np.pi * a * np.sqrt(COPPER))
    assert found.losses[0, 0] == approx(wanted, rel=6e-3)


def test_two_wires_over_the_plane():
    """Inductances by images of thin wires: μ0/2π ln(2h/a), μ0/4π ln(1 + 4h²/d²)."""
    a, h, d = 20e-6, 2e-3, 1.5e-3
    pair = tuple(Conductor((x, h), (x, h), a) for x in (0.0, d))
    found = per_length(Section(pair)).inductance
    assert found[0, 0] == approx(mu_0 / (2 * np.pi) * np.log(2 * h / a), rel=1e-3)
    assert found[0, 1] == approx(mu_0 / (4 * np.pi) * np.log(1 + 4 * h**2 / d**2), rel=1e-3)


@pytest.mark.parametrize("er", [1.0, 2.2, 4.3, 9.8, 12.9])
@pytest.mark.parametrize("u", [0.2, 0.945, 3.0])
def test_a_microstrip(er, u):
    """Hammerstad and Jensen 1980, for a strip of no thickness: 0.2 % each of theirs and ours, and what 1/1000 of thickness does."""
    height = 0.635e-3
    strip = Conductor((0.0, height), (u * height, height * 1.001))
    found = per_length(Section((strip,), (Layer(height, er),)))
    impedance = 1 / (light * np.sqrt(found.capacitance[0, 0] * found.bare[0, 0]))
    wanted, effective = microstrip(u * height, height, er)
    assert impedance == approx(wanted, rel=6e-3)
    assert found.capacitance[0, 0] / found.bare[0, 0] == approx(effective, rel=8e-3)


@pytest.mark.parametrize("er", [1.0, 4.3, 11.7])
@pytest.mark.parametrize(("gap", "height"), [(0.1e-3, 0.4e-3), (0.25e-3, 0.4e-3), (0.1e-3, 2e-3)])
def test_a_coplanar_line(er, gap, height):
    """Ghione and Naldi 1983: a strip between wide grounds over the plane, thin beside all of these; the card says the same."""
    width, wide = 0.3e-3, 3e-3
    half = 0.5 * width
    spans = ((-half, half, False), (half + gap, half + gap + wide, True), (-half - gap - wide, -half - gap, True))
    strips = tuple(Conductor((a, height), (b, height + 1e-3 * gap), ground=ground) for a, b, ground in spans)
    found = per_length(Section(strips, (Layer(height, er),)))
    impedance = 1 / (light * np.sqrt(found.capacitance[0, 0] * found.bare[0, 0]))
    wanted, effective = coplanar(width, gap, height, er)
    assert impedance == approx(wanted, rel=8e-3)
    assert found.capacitance[0, 0] / found.bare[0, 0] == approx(effective, rel=1e-2)
    assert card(found, 1e9).closed == approx((wanted, effective), rel=1e-12)


def even_and_odd(u: float, g: float, er: float) -> tuple[float, float, float, float]:
    """Impedances and effective permittivities of two coupled strips of no thickness, width u and gap g in heights, to 0.6 and
    0.8 % (Kirschning and Jansen, IEEE Trans. Microwave Theory Tech. 1984; from memory)."""
    alone, single = microstrip(u, 1.0, er)
    v = u * (20 + g**2) / (10 + g**2) + g * np.exp(-g)
    a = 1 + np.log((v**4 + (v / 52) ** 2) / (v**4 + 0.432)) / 49 + np.log(1 + (v / 18.1) ** 3) / 18.7
    b = 0.564 * ((er - 0.9) / (er + 3)) ** 0.053
    even = 0.5 * (er + 1) + 0.5 * (er - 1) * (1 + 10 / v) ** (-a * b)
    a = 0.7287 * (single - 0.5 * (er + 1)) * (1 - np.exp(-0.179 * u))
    b = 0.747 * er / (0.15 + er)
    c, d = b - (b - 0.207) * np.exp(-0.414 * u), 0.593 + 0.694 * np.exp(-0.562 * u)
    odd = (0.5 * (er + 1) + a - single) * np.exp(-c * g**d) + single
    q1, q2 = 0.8695 * u**0.194, 1 + 0.7519 * g + 0.189 * g**2.31
    q3 = 0.1975 + (16.6 + (8.4 / g) ** 6) ** -0.387 + np.log(g**10 / (1 + (g / 3.4) ** 10)) / 241
    q4 = 2 * q1 / q2 / (np.exp(-g) * u**q3 + (2 - np.exp(-g)) * u**-q3)
    q5 = 1.794 + 1.14 * np.log(1 + 0.638 / (g + 0.517 * g**2.43))
    q6 = 0.2305 + np.log(g**10 / (1 + (g / 5.8) ** 10)) / 281.3 + np.log(1 + 0.598 * g**1.154) / 5.1
    q7, q8 = (10 + 190 * g**2) / (1 + 82.3 * g**3), np.exp(-6.5 - 0.95 * np.log(g) - (g / 0.15) ** 5)
    q10 = (q2 * q4 - q5 * np.exp(np.log(u) * q6 * u ** -(np.log(q7) * (q8 + 1 / 16.5)))) / q2
    root = alone * np.sqrt(single)
    return root / np.sqrt(even) / (1 - root * q4 / ETA0), root / np.sqrt(odd) / (1 - root * q10 / ETA0), even, odd


@pytest.mark.parametrize("er", [4.3, 9.8])
@pytest.mark.parametrize("u", [0.5, 2.0])
@pytest.mark.parametrize("g", [0.2, 0.6, 1.5])
def test_two_coupled_strips(er, u, g):
    """Even and odd."""
    height = 0.635e-3
    places = (0.0, (u + g) * height)
    strips = tuple(Conductor((x, height), (x + u * height, height * 1.0005)) for x in places)
    found = per_length(Section(strips, (Layer(height, er),)))
    impedances, effective = [], []
    for shape in (np.array([1.0, 1.0]), np.array([1.0, -1.0])):
        filled, bare = (shape @ one @ shape / 2 for one in (found.capacitance, found.bare))
        impedances.append(1 / (light * np.sqrt(filled * bare)))
        effective.append(filled / bare)
    wanted = even_and_odd(u, g, er)
    np.testing.assert_allclose(impedances, wanted[:2], rtol=8e-3)
    np.testing.assert_allclose(effective, wanted[2:], rtol=1e-2)


def test_skin_of_a_round_wire():
    """J0 / J1 of complex argument (Ramo, Whinnery and Van Duzer); its resistance at rest, and μ0 / 8 π inside."""
    radius = 0.3e-3
    omega = 2 * np.pi * np.array([1.0, 1e4, 1e6, 1e8])
    k = np.sqrt(-1j * omega * mu_0 * COPPER)
    wanted = k / (2 * np.pi * radius * COPPER) * jv(0, k * radius) / jv(1, k * radius)
    found = round_wire(radius, COPPER, omega)
    np.testing.assert_allclose(found[:3], wanted[:3], rtol=1e-6)
    assert found[0].real == approx(1 / (COPPER * np.pi * radius**2), rel=1e-6)
    assert found[0].imag / omega[0] == approx(mu_0 / (8 * np.pi), rel=1e-3)


def test_a_strip_at_rest_and_at_high_frequencies():
    """Its resistance by the area, then a root of the frequency: with as much reactance inside."""
    strip = Conductor((0.0, 0.2e-3), (0.4e-3, 0.21e-3))
    found = per_length(Section((strip,), (Layer(0.2e-3, 4.3),)))
    low, high = found.impedance(np.array([1.0, 4e11]))[:, 0, 0]
    assert low.real == approx(1 / (COPPER * strip.area), rel=1e-6)
    inside = high - 2j * np.pi * 4e11 * found.inductance[0, 0]
    assert inside.imag == approx(inside.real, rel=0.01)


@examples(12)
@given(st.lists(st.tuples(st.floats(0.05, 1.0), st.floats(0.05, 0.8)), min_size=1, max_size=4), st.floats(1.0, 12.0))
def test_matrices_of_any_strips(strips, er):
    """Capacitances are the same both ways, positive on the diagonal, negative beside it, and grow with the layer; the n-port is
    reciprocal and passive."""
    height, x, conductors = 0.3e-3, 0.0, []
    for width, gap in strips:
        conductors.append(Conductor((x, height), (x + width * 1e-3, height * 1.05)))
        x += (width + gap) * 1e-3
    section = Section(tuple(conductors), (Layer(height, er, 0.01),), length=0.02)
    raw = charges(section).capacitance
    assert np.abs(raw - raw.T).max() < 2e-3 * raw.max()
    found = per_length(section)
    outside = found.capacitance - np.diag(np.diag(found.capacitance))
    assert (np.diag(found.capacitance) > 0).all()
    assert (outside <= 1e-6 * found.capacitance.max()).all()
    assert (np.linalg.eigvalsh(found.capacitance - found.bare) > -1e-3 * found.bare.max()).all()
    assert (np.linalg.eigvalsh(found.losses) > 0).all()
    network = line_network(found, np.linspace(0.0, 20e9, 21))
    assert network.largest.max() <= 1 + 1e-9
    assert network.asymmetry < 1e-9


def test_a_line_between_its_ends():
    """cosh and sinh of a single lossless line: matched it only turns the phase."""
    section = coaxial(1e-3, 2.302585e-3, 1.0, 0.0)
    found = per_length(section)
    impedance = np.sqrt(found.inductance[0, 0] / found.capacitance[0, 0])
    frequencies = np.array([1e9, 3e9])
    s = line_network(found, frequencies).at(impedance).s
    assert np.abs(s[:, 0, 0]).max() < 2e-3
    turned = np.angle(s[:, 1, 0] * np.exp(2j * np.pi * frequencies * section.length / light))
    assert np.abs(turned).max() < 2e-2


FILE = """format = 1
length = "30m"

[[layers]]
height = "0.635m"
er = "9.8"
tan_delta = "0.0002"

[[conductors]]
box = "0, 0.635m, 0.6m, 0.64m"

[[conductors]]
box = "0.9m, 0.635m, 1.5m, 0.64m"

[sweep]
from = "100M"
to = "10G"
points = "100"
"""


def test_a_file_of_lines(tmp_path):
    """Its matrices and its n-port; the same as a part."""
    path = tmp_path / "pair.lines.toml"
    path.write_text(FILE)
    assert main(["lines", str(path), "--out", str(tmp_path / "out")]) == 0
    rows = list(csv.DictReader((tmp_path / "out" / "lines.csv").open()))
    assert len(rows) == 100
    assert float(rows[0]["c_2_1"]) < 0 < float(rows[0]["c_1_1"])
    network = read_touchstone(tmp_path / "out" / "ports.s4p", "ports.s4p")
    assert network.ports == 4
    model = Networks(tmp_path)["pair.lines.toml"]
    np.testing.assert_allclose(model.network.s, network.s, atol=1e-12)
    assert model.passive
    assert model.causal


@pytest.mark.parametrize(
    ("old", "new", "said"),
    [
        ('er = "9.8"', 'er = "0.8"', "6: er is 1 or more, and not 0.8"),
        ('"0, 0.635m, 0.6m, 0.64m"', '"0, 0.635m, 0, 0.64m"', "10: box is its lowest corner, then its highest"),
        ('"0, 0.635m, 0.6m, 0.64m"', '"0, 0, 0.6m, 0.64m"', "10: conductors lie above the plane of ground at y = 0"),
        ('"0.9m, ', '"0.5m, ', "13: conductors 1 and 2 touch each other"),
        (
            'box = "0.9m, 0.635m, 1.5m, 0.64m"',
            'circle = "1m, 1m, 0"',
            "13: a circle is its middle and a radius above 0",
        ),
        ('length = "30m"', 'length = "long"', "2: length: "),
        ("[sweep]", "[sweeps]", "sweep"),
    ],
)
def test_what_is_wrong_with_lines(tmp_path, capsys, old, new, said):
    """With the line of the key, and exit status 2."""
    assert old in FILE
    path = tmp_path / "l.toml"
    path.write_text(FILE.replace(old, new))
    assert main(["lines", str(path), "--out", str(tmp_path / "out")]) == 2
    assert said in capsys.readouterr().err
