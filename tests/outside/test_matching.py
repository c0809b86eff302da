"""Matching networks: what they look like with ideal parts, what the kit's parts make of them, and the drawing of one."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from hearthline.core.circuit.flatten import Library, flatten
from hearthline.core.circuit.symbols import GROUND_SYMBOL
from hearthline.core.formats.kit_folder import INSTALLED, read_kit
from hearthline.core.matching.networks import CAPACITOR, INDUCTOR, SERIES, networks
from hearthline.core.matching.passives import Passives
from hearthline.core.matching.piece import piece_of
from hearthline.core.matching.proposals import proposals
from tests.approximation import approx
from tests.benches import data_of
from tests.outside.silicon import _lib

KIT = read_kit(INSTALLED / "lm130")
IMPEDANCES = st.builds(complex, st.floats(1, 500), st.floats(-500, 500))


@given(IMPEDANCES, IMPEDANCES)
def test_every_network_makes_the_wanted_impedance(load, wanted):
    """With ideal parts, all of them positive; an L is always among them, and pi and T."""
    found = networks(load, wanted, 1e9)
    assert {"L", "pi", "T"} & {one.form for one in found} or abs(load - wanted) < 1e-3
    for one in found:
        assert all(branch.value > 0 for branch in one.branches)
        assert complex(one.seen(np.asarray(load), 2e9 * np.pi)) == approx(wanted, rel=1e-6)


def test_a_worked_match():
    """Pozar, example 5.1 (from memory): 200 - j100 Ω to 100 Ω at 500 MHz by a shunt 0.92 pF and a series 38.8 nH, or by a
    series 2.61 pF and a shunt 46.1 nH."""
    ells = [one for one in networks(200 - 100j, 100, 500e6) if one.form == "L"]
    values = [{branch.part: branch.value for branch in one.branches} for one in ells if len(one.branches) == 2]
    assert any(v[CAPACITOR] == approx(0.92e-12, rel=0.01) and v[INDUCTOR] == approx(38.8e-9, rel=0.01) for v in values)
    assert any(v[CAPACITOR] == approx(2.61e-12, rel=0.01) and v[INDUCTOR] == approx(46.1e-9, rel=0.01) for v in values)


@pytest.mark.parametrize(("load", "wanted"), [(-5 + 1j, 50), (50, -1), (0, 50)])
def test_impedances_that_cannot_be_matched(load, wanted):
    """Said with the impedance."""
    with pytest.raises(ValueError, match="must have a real part above 0 Ω"):
        networks(complex(load), complex(wanted), 1e9)


@pytest.mark.parametrize(
    ("kind", "value"), [(CAPACITOR, 0.3e-12), (CAPACITOR, 40e-12), (INDUCTOR, 1.5e-9), (INDUCTOR, 5e-9)]
)
def test_a_part_of_the_kit_has_the_value(kind, value):
    """Between its ends at the frequency, within what interpolation and the rounding of sizes cost."""
    part = Passives(KIT, 2e9).sized(kind, value)
    assert part.device == {CAPACITOR: "c_mim", INDUCTOR: "l_spiral"}[kind]
    z = complex(-1 / Passives(KIT, 2e9).two_port(part, np.array([2e9]))[0, 0, 1])
    omega = 4e9 * np.pi
    assert (z.imag / omega if kind == INDUCTOR else -1 / (omega * z.imag)) == approx(value, rel=0.01)


def test_what_the_kit_does_not_have_is_ideal():
    """A microhenry."""
    assert Passives(KIT, 2e9).sized(INDUCTOR, 1e-6).device == "inductor"


def test_a_proposal_is_what_its_circuit_is():
    """The second one as a deck between the load and a port: reflection against what is wanted, and loss, by S-parameters."""
    load, wanted, frequency = 20 - 60j, 50.0, 2.4e9
    one = next(p for p in proposals(KIT, load, wanted, frequency) if p.network.form == "pi")
    lines, net = [], "b"
    for k, (branch, part) in enumerate(zip(one.network.branches, one.parts, strict=True)):
        other = f"n{k}" if branch.way == SERIES else "0"
        values = " ".join(f"{name}={text}" for name, text in part.values)
        lines.append(f"x{k} {net} {other} {part.device} {values}")
        net = other if branch.way == SERIES else net
    line = f"scattering from {frequency} to {frequency} points 1 spaced even"
    data = data_of(f"{_lib('typ')}\nrj {net} a 1u\n" + "\n".join(lines), line, ports={"a": "50", "b": "20-60j"})
    s11, s21 = data.curves["S(1,1)"][0, 0], data.curves["S(2,1)"][0, 0]
    assert abs(s11) == approx(one.reflection, rel=1e-3)
    assert -10 * np.log10(abs(s21) ** 2 / (1 - abs(s11) ** 2)) == approx(one.loss, rel=1e-3)


def test_the_piece_joins_its_parts():
    """Series parts in a row, shunts to ground, in their order."""
    one = next(
        p
        for p in proposals(KIT, 20 - 60j, 50.0, 2.4e9)
        if p.network.form == "pi" and p.network.branches[1].way == SERIES
    )
    piece = piece_of(one.network, one.parts)
    assert sum(part.device == GROUND_SYMBOL for part in piece.parts) == 2
    elements = flatten(piece, Library({}, KIT.symbols, {}, KIT.modules)).elements
    ends = [set(element.nets) for element in elements]
    assert "0" in ends[0]
    assert "0" in ends[2]
    assert len((ends[0] | ends[2]) & ends[1]) == 2
