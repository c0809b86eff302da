"""Bond wires and substrates against closed forms."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.constants import epsilon_0, mu_0

from hearthline.cli import main
from hearthline.core.fields.substrate.card import card as substrate_card
from hearthline.core.fields.substrate.network import Bed, Substrate, admittance, substrate_network
from hearthline.core.fields.wires.card import card as wires_card
from hearthline.core.fields.wires.n_port import Wire, inductances, wires_network
from hearthline.core.formats.network_files import Networks
from hearthline.core.formats.touchstone import read_touchstone
from hearthline.core.thermal.die import Die
from hearthline.core.thermal.series import resistances
from tests.approximation import approx
from tests.examples import examples

GOLD, RADIUS = 4.1e7, 12.5e-6


def straight(*points: tuple[float, float, float]) -> Wire:
    return Wire(np.array(points), RADIUS, GOLD)


@given(st.floats(0.05e-3, 5e-3), st.floats(0.05e-3, 3e-3))
def test_two_parallel_wires(length, apart):
    """Grover, Inductance Calculations, chapters 5 and 6."""
    pair = (straight((0, 0, 0), (length, 0, 0)), straight((0, apart, 0), (length, apart, 0)))
    found = inductances(pair, plane=False)
    ratio = length / apart
    mutual = np.log(ratio + np.hypot(1, ratio)) - np.hypot(1, 1 / ratio) + 1 / ratio
    assert found[0, 1] == approx(mu_0 * length / (2 * np.pi) * mutual, rel=1e-6)
    ratio = length / RADIUS
    own = np.log(ratio + np.hypot(1, ratio)) - np.hypot(1, 1 / ratio) + 1 / ratio
    assert found[0, 0] == approx(mu_0 * length / (2 * np.pi) * own, rel=1e-12)


def test_a_square_loop():
    """2 μ0 a / π (ln(a/ρ) - 0.774) for thin wire (Grover, chapter 8), from four pieces and what is between them."""
    a = 10e-3
    loop = straight((0, 0, 0), (a, 0, 0), (a, a, 0), (0, a, 0), (0, 0, 0))
    assert inductances((loop,), plane=False)[0, 0] == approx(
        2 * mu_0 * a / np.pi * (np.log(a / RADIUS) - 0.774), rel=1e-3
    )


@given(st.integers(1, 6), st.floats(0.1e-3, 1e-3))
def test_a_wire_in_pieces_is_the_same_wire(count, height):
    """However it is cut; over a plane it is near to μ0/2π ln(2h/ρ) per length where it is long."""
    length = 1.0
    points = [(x, 0.0, height) for x in np.linspace(0, length, count + 1)]
    whole = inductances((straight(points[0], points[-1]),), plane=True)[0, 0]
    assert inductances((straight(*points),), plane=True)[0, 0] == approx(whole, rel=1e-4)
    assert whole == approx(mu_0 / (2 * np.pi) * np.log(2 * height / RADIUS), rel=3e-3)


def test_wires_at_right_angles_do_not_know_of_each_other():
    """And the way back of a via is its image, which goes on in it."""
    pair = (straight((0, 0, 0), (1e-3, 0, 0)), straight((0, 1e-3, 0.5e-3), (0, 2e-3, 0.5e-3)))
    assert inductances(pair, plane=False)[0, 1] == approx(0.0, abs=1e-20)
    via = straight((0, 0, 0), (0, 0, 0.2e-3))
    doubled = straight((0, 0, -0.2e-3), (0, 0, 0.2e-3))
    alone = inductances((doubled,), plane=False)[0, 0]
    assert inductances((via,), plane=True)[0, 0] == approx(alone / 2, rel=1e-3)


@examples(20)
@given(
    st.lists(st.tuples(*[st.floats(0, 2e-3)] * 2), min_size=1, max_size=4, unique_by=lambda one: round(one[1] * 1e4))
)
def test_any_wires_are_passive(places):
    """And reciprocal; their inductances positive definite."""
    wires = tuple(straight((x, y, 0.1e-3), (x + 0.5e-3, y, 0.4e-3), (x + 1e-3, y, 0.1e-3)) for x, y in places)
    network = wires_network(wires, True, np.array([0.0, 1e6, 1e9, 2e10]))
    assert network.largest.max() <= 1 + 1e-9
    assert network.asymmetry < 1e-9
    assert np.linalg.eigvalsh(inductances(wires, True)).min() > 0
    rest = network.s[0]
    ohms = 100 * rest[0, 0].real / rest[1, 0].real
    assert ohms == approx(wires[0].length / (GOLD * np.pi * RADIUS**2), rel=1e-6)


# -- substrate


def test_a_contact_over_all_of_it():
    """σ A / D, and ε A / D beside it."""
    whole = Substrate(300e-6, 200e-6, (Bed(150e-6, 10.0, 11.7),), ((150e-6, 100e-6, 300e-6, 200e-6),))
    wanted = 6e-8 / 150e-6 * (10.0 + 2j * np.pi * 5e9 * 11.7 * epsilon_0)
    assert admittance(whole, 5e9)[0, 0] == approx(wanted, rel=1e-9)
    network = substrate_network(whole, np.array([0.0, 5e9]))
    assert (1 - network.s[1, 0, 0]) / (1 + network.s[1, 0, 0]) / 50 == approx(wanted, rel=1e-9)


def test_layers_under_a_contact_over_all_of_it():
    """In series."""
    beds = (Bed(5e-6, 100.0, 11.7), Bed(100e-6, 5.0, 11.7), Bed(2e-6, 1e-9, 3.9))
    whole = Substrate(300e-6, 200e-6, beds, ((150e-6, 100e-6, 300e-6, 200e-6),))
    wanted = 1 / sum(
        bed.thickness / (6e-8 * (bed.conductivity + 2j * np.pi * 1e9 * epsilon_0 * bed.er)) for bed in beds
    )
    assert admittance(whole, 1e9)[0, 0] == approx(wanted, rel=1e-9)


def test_a_small_square_on_a_thick_substrate():
    """The capacitance of a square plate, 0.3667 · 4 π ε a, is its conductance into both sides times ε/σ (Maxwell; 0.3667 by many)."""
    a = 20e-6
    small = Substrate(2e-3, 2e-3, (Bed(2e-3, 10.0),), ((1e-3, 1e-3, a, a),))
    assert admittance(small, 0.0)[0, 0].real == approx(2 * np.pi * 0.3667 * 10.0 * a, rel=0.03)


def test_two_contacts_by_the_series_of_heat():
    """Far apart and small the current between them is that of even ones: the double cosine series in another program part."""
    places = np.array([[100e-6, 150e-6, 4e-6, 4e-6], [200e-6, 150e-6, 4e-6, 4e-6]])
    substrate = Substrate(300e-6, 300e-6, (Bed(200e-6, 10.0),), tuple(map(tuple, places.tolist())))
    even = resistances(Die(300e-6, 300e-6, 200e-6, 10.0), places) / 10.0
    found = np.linalg.inv(admittance(substrate, 0.0).real)
    assert found[0, 1] == approx(even[0, 1], rel=1e-3)
    assert found[0, 0] == approx(even[0, 0], rel=0.1)
    assert found[0, 0] < even[0, 0]


def test_numbers_of_wires_and_contacts_are_those_of_their_ports():
    """A card says in numbers what the n-port does: a wire's ends with the far one at rest are its resistance and inductance, and
    a contact's current with all at one potential is what flows to the back (Kirchhoff)."""
    wires = (straight((0, 0, 0.2e-3), (1e-3, 0, 0.2e-3)), straight((0, 0.2e-3, 0.2e-3), (1e-3, 0.2e-3, 0.2e-3)))
    frequency = np.array([3e9])
    one = wires_card(wires, True, 3e9)
    series = np.diag(one.resistances) + 2j * np.pi * 3e9 * one.inductances
    s = wires_network(wires, True, frequency).s[0]
    y = np.linalg.solve(np.eye(4) + s, np.eye(4) - s) / 50.0
    np.testing.assert_allclose(np.linalg.inv(y[::2, ::2]), series, rtol=1e-6)
    assert one.couplings[0, 1] == approx(one.inductances[0, 1] / one.inductances[0, 0], rel=1e-9)
    substrate = Substrate(1e-3, 1e-3, (Bed(3e-4, 10.0),), ((3e-4, 5e-4, 1e-4, 1e-4), (7e-4, 5e-4, 1e-4, 1e-4)))
    two, y = substrate_card(substrate, 1e9), admittance(substrate, 1e9)
    flows = 1.0 / two.resistances + 2j * np.pi * 1e9 * two.capacitances
    np.testing.assert_allclose(np.diag(flows), y.sum(axis=1), rtol=1e-9)
    assert flows[0, 1] == approx(-y[0, 1], rel=1e-9)


def test_an_open_back_takes_nothing():
    """What flows into one contact flows out of the others; more is between two than with a tied back through it alone."""
    contacts = ((60e-6, 150e-6, 30e-6, 30e-6), (200e-6, 150e-6, 30e-6, 60e-6), (250e-6, 40e-6, 20e-6, 20e-6))
    substrate = Substrate(300e-6, 300e-6, (Bed(200e-6, 10.0),), contacts, tied=False)
    found = admittance(substrate, 0.0).real
    assert np.abs(found.sum(axis=1)).max() < 1e-9 * found.max()
    assert (np.diag(found) > 0).all()
    assert (found - np.diag(np.diag(found)) <= 0).all()


WIRES = """format = 1

[[wires]]
points = "0, 0, 0.1m; 0.3m, 0, 0.4m; 1m, 0, 0.1m"
diameter = "25u"

[sweep]
from = "100M"
to = "20G"
points = "50"
"""
SUBSTRATE = """format = 1
size = "300u, 300u"

[[layers]]
thickness = "200u"
conductivity = "10"

[[contacts]]
at = "100u, 150u"
size = "30u, 30u"

[[contacts]]
at = "200u, 150u"
size = "30u, 30u"

[sweep]
from = "100M"
to = "20G"
points = "50"
"""


@pytest.mark.parametrize(("name", "text"), [("a.wires.toml", WIRES), ("a.substrate.toml", SUBSTRATE)])
def test_files_are_parts(tmp_path, name, text):
    """And their S-parameters are written by a command."""
    (tmp_path / name).write_text(text)
    model = Networks(tmp_path)[name]
    assert model.network.ports == 2
    assert model.passive
    assert model.causal
    assert main(["ports", str(tmp_path / name), "--out", str(tmp_path / "out")]) == 0
    np.testing.assert_allclose(read_touchstone(tmp_path / "out" / "ports.s2p", "p").s, model.network.s, atol=1e-12)


@pytest.mark.parametrize(
    ("text", "old", "new", "said"),
    [
        (WIRES, "0.3m, 0, 0.4m", "0.3m, 0", "4: points are 2 to 50 of three numbers"),
        (WIRES, "0, 0, 0.1m;", "0, 0, -0.1m;", "4: wires lie above the plane of ground at z = 0"),
        (WIRES, '"25u"', '"2m"', "4: pieces of a wire are longer than its radius"),
        (SUBSTRATE, '"300u, 300u"', '"300u, 0"', "2: both measures of size are above 0"),
        (SUBSTRATE, '"200u, 150u"', '"290u, 150u"', "13: the contact lies outside of the substrate"),
        (SUBSTRATE, '"200u, 150u"', '"110u, 150u"', "13: contacts 1 and 2 overlap"),
        (SUBSTRATE, 'thickness = "200u"', 'thickness = "0"', "5: thickness is above 0"),
    ],
)
def test_what_is_wrong(tmp_path, capsys, text, old, new, said):
    """With the line, and exit status 2."""
    assert old in text
    name = "a.wires.toml" if text is WIRES else "a.substrate.toml"
    (tmp_path / name).write_text(text.replace(old, new))
    assert main(["ports", str(tmp_path / name), "--out", str(tmp_path / "out")]) == 2
    assert said in capsys.readouterr().err
    assert main(["ports", str(tmp_path / "a.txt"), "--out", str(tmp_path / "out")]) == 2
    assert "a file is known by its ending" in capsys.readouterr().err
