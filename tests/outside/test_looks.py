"""What a terminal sees both ways and the loop through it, against circuits that are cut by hand."""

from __future__ import annotations

import numpy as np
import pytest
from numpy.testing import assert_allclose

from hearthline.core.engine.connection import all_connections
from hearthline.core.engine.look import looks
from tests.approximation import approx
from tests.benches import curve, data_of
from tests.decks import circuit_of, point, solved

BAND = "from 100M to 10G points 4 spaced decade"


def looked(parts: str, terminal: str, band: str = BAND):
    """The answer of a look."""
    return data_of(parts, f"look at {terminal} {band}", ports={})


def seen(data, name: str) -> np.ndarray:
    return curve(data, f"look.{name}")


def test_a_ladder_is_seen_both_ways():
    """A resistor's terminal: one way the rest of the resistor with what is behind, the other way what feeds it."""
    data = looked("v1 s 0 1\nr0 s a 30\nc0 a 0 1p\nr1 a b 40\nl1 b 0 2n\n", "r1.p")
    s = 2j * np.pi * data.points
    into, back = 40 + 2e-9 * s, 1 / (1 / 30 + 1e-12 * s)
    assert_allclose(seen(data, "into"), into, rtol=1e-9)
    assert_allclose(seen(data, "back"), back, rtol=1e-9)
    gammas = [(z - 50) / (z + 50) for z in (into, back)]
    assert_allclose(seen(data, "gamma_into"), gammas[0], rtol=1e-9)
    assert_allclose(seen(data, "gamma_back"), gammas[1], rtol=1e-9)
    assert_allclose(seen(data, "index"), gammas[0] * gammas[1], rtol=1e-9)


def test_the_loop_of_a_known_return_ratio():
    """Bode 1945: gm through its load and a divider back to its own control, which draws nothing: T = gm Z H."""
    parts = "g1 out 0 fb 0 20m\nrl out 0 500\ncl out 0 1p\nr1 out fb 3k\nr2 fb 0 1k\nc2 fb 0 0.1p\n"
    data = looked(parts, "g1.cp")
    s = 2j * np.pi * data.points
    below = 1 / (1 / 1e3 + 0.1e-12 * s)
    load = 1 / (1 / 500 + 1e-12 * s + 1 / (3e3 + below))
    assert_allclose(seen(data, "loop"), 20e-3 * load * below / (3e3 + below), rtol=1e-9)


def two_port_of_the_cut(system: np.ndarray, part: int, net: int) -> np.ndarray:
    """Y of the two ends of a cut: the admittance matrix reduced to these two rows (Schur complement)."""
    ends = [part, net]
    rest = [k for k in range(len(system)) if k not in ends]
    inner = system[np.ix_(rest, rest)]
    left = system[np.ix_(ends, ends)] - system[np.ix_(ends, rest)] @ np.linalg.solve(inner, system[np.ix_(rest, ends)])
    return left


@pytest.mark.parametrize("terminal", ["p", "n"])
def test_a_bilateral_loop_by_the_two_port_of_its_cut(terminal):
    """Tian et al. 2001: (y12 + y21)/(y11 + y22) of the two ends, from a nodal matrix written here: a resistor in a loop that
    goes both ways, through a transconductance and a capacitance."""
    parts = "r1 a b 200\ng1 c 0 b 0 30m\nrc c 0 300\ncf c b 50f\ncg b 0 0.2p\nrf c a 1k\nra a 0 2k\n"
    data = looked(parts, f"r1.{terminal}")
    nodes = {"a": 0, "b": 1, "c": 2, "x": 3}
    own = {"p": ("x", "b", "a"), "n": ("a", "x", "b")}[terminal]
    for k, s in enumerate(2j * np.pi * data.points):
        m = np.zeros((4, 4), complex)

        def between(one, other, y, m=m):
            for here, there in ((one, other), (other, one)):
                if here in nodes:
                    m[nodes[here], nodes[here]] += y
                    if there in nodes:
                        m[nodes[here], nodes[there]] -= y

        between(own[0], own[1], 1 / 200)
        for one, other, y in (
            ("c", "0", 1 / 300),
            ("c", "b", 50e-15 * s),
            ("b", "0", 0.2e-12 * s),
            ("c", "a", 1e-3),
            ("a", "0", 1 / 2e3),
        ):
            between(one, other, y)
        m[nodes["c"], nodes["b"]] += 30e-3
        y = two_port_of_the_cut(m, nodes["x"], nodes[own[2]])
        assert seen(data, "into")[k] == approx(1 / (y[0, 0] + y[0, 1]), rel=1e-9)
        assert seen(data, "back")[k] == approx(1 / (y[1, 1] + y[1, 0]), rel=1e-9)
        assert seen(data, "loop")[k] == approx((y[0, 1] + y[1, 0]) / (y[0, 0] + y[1, 1]), rel=1e-9)


MOS = ".model n nmos level=1 vto=0.4 kp=300u lambda=0.1 tox=3n cgso=300p cgdo=300p\n"


@pytest.mark.parametrize("terminal", ["g", "d", "s"])
def test_a_transistor_against_one_that_is_cut_by_hand(terminal):
    """Both ends held at their voltage by sources: their currents are the two-port. The bias is the same, nothing is inserted."""
    rest = "vdd vdd 0 1.2\nvb b 0 0.7\nrb g b 2k\nrd vdd d 300\nld d e 1n\nce e 0 1p\ncf d g 20f\nrs s 0 20\n"
    data = looked(f"{MOS}m1 d g s 0 n w=50u l=0.13u\n{rest}", f"m1.{terminal}")
    volts = point(f"{MOS}m1 d g s 0 n w=50u l=0.13u\n{rest}")[f"V({terminal})"]
    nets = {net: "part" if net == terminal else net for net in ("d", "g", "s")}
    y = {}
    for driven, sizes in (("part", (1, 0)), ("net", (0, 1))):
        cut = f"{MOS}m1 {nets['d']} {nets['g']} {nets['s']} 0 n w=50u l=0.13u\n{rest}"
        cut += f"vp part 0 {volts!r} ac {sizes[0]}\nvn {terminal} 0 {volts!r} ac {sizes[1]}\n.ac dec 4 100meg 10g\n"
        table = solved(cut)
        for k, name in enumerate(("vp", "vn")):
            current = -(np.array(table[f"I({name}).re"]) + 1j * np.array(table[f"I({name}).im"]))
            y[k, 0 if driven == "part" else 1] = current
    assert_allclose(seen(data, "into"), 1 / (y[0, 0] + y[0, 1]), rtol=1e-6)
    assert_allclose(seen(data, "back"), 1 / (y[1, 1] + y[1, 0]), rtol=1e-6)
    assert_allclose(seen(data, "loop"), (y[0, 1] + y[1, 0]) / (y[0, 0] + y[1, 1]), rtol=1e-6, atol=1e-12)


def test_a_terminal_of_a_block_is_all_that_is_tied_to_it_inside():
    """Two resistors behind one node of a subcircuit."""
    parts = ".subckt two p q\nr1 p q 100\nr2 p 0 100\n.ends\nv1 s 0 1\nr0 s a 25\nx1 a 0 two\n"
    data = looked(parts, "x1.p")
    assert_allclose(seen(data, "into"), 50.0, rtol=1e-9)
    assert_allclose(seen(data, "back"), 25.0, rtol=1e-9)


def test_many_terminals_at_once_are_each_what_they_are_alone():
    """All terminals of a chain of stages with one factorisation, against one look after the other."""
    stages = "".join(
        f"m{k} d{k} g{k} 0 0 n w=20u l=0.13u\nr{k} vdd d{k} 500\nc{k} d{k} g{k + 1} 1p\nrb{k} g{k} b 20k\n"
        for k in range(1, 9)
    )
    system, _ = circuit_of(f"{MOS}vdd vdd 0 1.2\nvb b 0 0.6\n{stages}rb9 g9 b 20k\nrf g9 g1 5k\n")
    frequencies = np.geomspace(1e6, 1e10, 9)
    every = all_connections(system)
    together = looks(system, every, frequencies)
    for k, one in enumerate(every):
        alone = looks(system, [one], frequencies)
        for name in ("into", "back", "loop"):
            assert_allclose(getattr(together, name)[k], getattr(alone, name)[0], rtol=1e-9, atol=1e-15)
