"""Charges that a card leaves at nothing are not worked out, and never missed where they are something."""

from __future__ import annotations

import numpy as np
import pytest

from hearthline.core.engine.lanes import Lanes
from hearthline.core.engine.small_signal import ac
from hearthline.core.engine.system import lower
from hearthline.core.formats.deck.flatten import flatten
from hearthline.core.formats.deck.reader import read
from hearthline.core.models.veriloga.charged import any_of
from hearthline.core.models.veriloga.graph import Graph
from tests.approximation import approx
from tests.modules import Device, module

BODY = """parameter real c = 0;
parameter real k = 0;
parameter real g = 1m;
real q;
analog begin
  q = c * V(p, n);
  if (k > 0)
    q = q + k * exp(V(p, n)) / k;
  I(p, n) <+ g * V(p, n) + ddt(q);
end"""


@pytest.mark.parametrize(
    ("given", "charge", "capacitance"),
    [
        ({}, 0.0, 0.0),
        ({"c": 2e-12}, 1e-12, 2e-12),
        ({"k": 1.0}, np.exp(0.5), np.exp(0.5)),
        ({"c": float("nan")}, np.nan, np.nan),
    ],
)
def test_charges_are_what_the_text_says(given, charge, capacitance):
    """With nothing given no charges; a side that is not taken counts for nothing, though it divides by 0; what is not a number
    is not taken for nothing."""
    found = Device(module(BODY), **given).at(0.5, 0.0)
    assert found.current[0] == approx(5e-4)
    np.testing.assert_allclose(found.charge, [charge, -charge], rtol=1e-12)
    np.testing.assert_allclose(found.capacitance[0, 0], capacitance, rtol=1e-12)


def test_one_lane_leaves_no_charges_to_the_next(tmp_path):
    """The same worker solves a device with overlap capacitance, then one without: its answer falls at no frequency."""
    path = tmp_path / "d.cir"
    path.write_text(
        "t\nvd d 0 1\nvg g 0 dc 1 ac 1\nrg g gi 1meg\nm1 d gi 0 0 n w=10u l=1u\n.param c=1n\n"
        ".model n nmos vto=0.4 kp=100u cgso={c}\n"
    )
    netlist, models = flatten(read(path))
    system = lower(netlist, models, Lanes().spread(**{"parameter:c": [1e-9, 0.0, 1e-9, 0.0]}))
    found = np.abs(ac(system, np.array([1.0, 1e9])).of("V(gi)"))
    assert found[:, 0] == approx(1.0, rel=1e-6)
    assert (found[[0, 2], 1] < 0.1).all()
    assert found[[1, 3], 1] == approx(1.0, rel=1e-9)


def test_what_makes_a_value_nothing():
    """Factors, sums, sides; everything else is something."""
    graph = Graph()
    x, a, b = graph.probe(0), graph.input("parameter", 0), graph.input("parameter", 1)

    def of(node):
        return any_of(graph, [node])

    assert of(graph.mul(a, x)) is graph.truth(a)
    assert of(graph.mul(graph.const(0.0), x)).value == 0
    assert of(x).value == 1
    assert of(graph.make("exp", graph.mul(a, x))).value == 1
    assert of(graph.neg(graph.div(graph.mul(a, x), graph.make("exp", x)))) is graph.truth(a)
    both = of(graph.add(graph.mul(a, x), graph.mul(b, graph.mul(x, x))))
    assert both.op == "or"
    assert set(both.operands) == {graph.truth(a), graph.truth(b)}
    side = of(graph.select(graph.truth(b), graph.mul(a, x), graph.const(0.0)))
    assert side.op == "and"
