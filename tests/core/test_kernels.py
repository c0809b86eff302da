"""Kernels keep their own promises: conductances are derivatives of currents, currents add up to nothing, limiting ends."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from hearthline.core.circuit.netlist import Card, Element, Netlist
from hearthline.core.engine.lanes import Lanes
from hearthline.core.engine.system import System, lower
from hearthline.core.engine.worker import VALUE_PLACE
from hearthline.core.expression import Expression
from hearthline.core.models.layout import NODE0
from hearthline.core.models.signature import (
    CAPACITANCE0,
    CHARGE,
    CHARGE0,
    CONDUCTANCE0,
    CURRENT,
    CURRENT0,
    MEMORY0,
    SCALE,
    SETTINGS,
    START_MODE,
    STATIC,
    TRUST,
)
from hearthline.core.models.veriloga.compiler import compile_text
from hearthline.core.process.models import Corner, ModelSet
from tests.approximation import approx
from tests.examples import examples
from tests.modules import evaluate

CARDS = {
    "n": ("NMOS", dict(vto=0.4, kp=2e-4, gamma=0.4, phi=0.7, **{"lambda": 0.1})),
    "p": ("PMOS", dict(vto=-0.4, kp=1e-4, gamma=0.3, phi=0.7, **{"lambda": 0.1})),
    "d": ("D", dict(bv=5.0, n=1.2, **{"is": 1e-14})),
}
PARTS = {
    "R": ("R", 2, "", {"r": 50.0}), "C": ("C", 2, "", {"c": 1e-12}), "L": ("L", 2, "", {"l": 1e-9}),
    "V": ("V", 2, "", {"dc": 1.5}), "I": ("I", 2, "", {"dc": 1e-3}), "E": ("E", 4, "", {"gain": 3.0}),
    "G": ("G", 4, "", {"gm": 1e-3}), "F": ("F", 2, "", {"gain": 2.0}), "H": ("H", 2, "", {"gain": 20.0}),
    "D": ("D", 2, "d", {}), "NMOS": ("M", 4, "n", {"w": 1e-6, "l": 1e-7}), "PMOS": ("M", 4, "p", {"w": 1e-6, "l": 1e-7}),
}  # fmt: skip


def system_with(name: str) -> System:
    """The part between nets that resistors hold, and a source whose current can control it."""
    kind, terminals, model, values = PARTS[name]
    constants = {key: Expression.constant(value) for key, value in values.items()}
    nets = tuple(f"n{k}" for k in range(terminals))
    part = Element("part", kind, nets, constants, model, control="vc" if kind in "FH" else "")
    loads = [Element(f"r{k}", "R", (net, "0"), {"r": Expression.constant(100.0)}) for k, net in enumerate(nets)]
    source = Element("vc", "V", ("c", "0"), {"dc": Expression.constant(1.0)})
    cards = {
        key: Card(key, card, {n: Expression.constant(v) for n, v in numbers.items()})
        for key, (card, numbers) in CARDS.items()
    }
    return lower(Netlist((part, source, *loads)), ModelSet({"": Corner(cards)}), Lanes())


class Evaluated:
    """One kernel of a system at a solution vector: currents, conductances, charges and capacitances of the part alone."""

    def __init__(self, system: System, x: np.ndarray, wants: int):
        self.system, self.x = system, x
        group = next(k for k, span in enumerate(system.spans) if self._first(span))
        span, address = system.spans[group], system.kernels[group].address
        work = np.zeros(system.places[-1])
        work[SCALE], work[START_MODE], work[STATIC] = 1.0, TRUST, 1.0
        work[SETTINGS : SETTINGS + len(x)] = x
        work[system.places[VALUE_PLACE] : system.places[VALUE_PLACE + 1]] = system.values[0]
        assert evaluate(address, wants, span.copy(), system.static.circuit.nodes, work) == 0
        kind = system.kinds[group]
        width = kind.width
        self.nodes = system.nodes[span[NODE0] : span[NODE0] + width]
        self.current, self.charge = (work[span[k] : span[k] + width] for k in (CURRENT0, CHARGE0))
        self.conductance = self._matrix(width, kind.conductance, work[span[CONDUCTANCE0] :])
        self.capacitance = self._matrix(width, kind.capacitance, work[span[CAPACITANCE0] :])

    def _first(self, span) -> bool:
        """Whether a span is that of the part under test, which the netlist has first."""
        index = {unknown.name: k + 1 for k, unknown in enumerate(self.system.unknowns[: self.system.net_count])}
        wanted = [index[net] for net in self.system.netlist.elements[0].nets]
        return list(self.system.nodes[span[NODE0] : span[NODE0] + len(wanted)]) == wanted

    @staticmethod
    def _matrix(width, pattern, entries) -> np.ndarray:
        found = np.zeros((width, width))
        for (row, column), value in zip(pattern, entries, strict=False):
            found[row, column] += value
        return found


@pytest.mark.parametrize("name", PARTS)
@examples(25)
@given(data=st.data())
def test_slopes_are_the_derivatives_of_the_flows(name, data):
    """Against central differences, over the whole bias plane; away from the corners of the piecewise laws."""
    system = system_with(name)
    size = len(system.unknowns) + 1
    x = np.array([0.0, *data.draw(st.lists(st.floats(-1.0, 0.55), min_size=size - 1, max_size=size - 1))])
    x = np.round(x, 3) + 0.00037 * np.arange(size)
    x[0] = 0.0
    center = Evaluated(system, x, CURRENT)
    step = 1e-6
    for node in center.nodes:
        up, down = x.copy(), x.copy()
        up[node] += step
        down[node] -= step
        numeric = (Evaluated(system, up, CURRENT).current - Evaluated(system, down, CURRENT).current) / (2 * step)
        scale = np.abs(center.conductance).max() + 1e-12
        columns = np.flatnonzero(center.nodes == node)
        np.testing.assert_allclose(center.conductance[:, columns].sum(axis=1), numeric, rtol=2e-4, atol=1e-6 * scale)


@pytest.mark.parametrize("name", PARTS)
def test_current_that_flows_in_flows_out(name):
    """The currents at the terminals add up to nothing (branch equations aside)."""
    system = system_with(name)
    x = np.linspace(0.0, 0.7, len(system.unknowns) + 1)
    found = Evaluated(system, x, CURRENT)
    nets = found.nodes <= system.net_count
    assert abs(found.current[nets].sum()) <= 1e-12 * np.abs(found.current).max() + 1e-25


def test_charge_of_capacitor_and_flux_of_inductor():
    """q = C·v with its slopes; flux L·i on the branch row."""
    system = system_with("C")
    x = np.zeros(len(system.unknowns) + 1)
    x[system.nets.index("n0") + 1] = 0.8
    found = Evaluated(system, x, CHARGE)
    np.testing.assert_allclose(found.charge, [0.8e-12, -0.8e-12])
    np.testing.assert_allclose(found.capacitance, [[1e-12, -1e-12], [-1e-12, 1e-12]])
    system = system_with("L")
    x = np.zeros(len(system.unknowns) + 1)
    x[[u.label for u in system.unknowns].index("I(part)") + 1] = 2e-3
    assert Evaluated(system, x, CHARGE).charge[2] == approx(-2e-12)


LIMITED = """`include "disciplines.vams"
module limited(j, g, d);
    inout j, g, d;
    electrical j, g, d;
    parameter real threshold = 0.4;
    analog begin
        I(j) <+ $limit(V(j), "pnjlim", 0.026, 0.6);
        I(g) <+ $limit(V(g), "fetlim", threshold);
        I(d) <+ $limit(V(d), "vdslim");
    end
endmodule
"""


def limits(proposed: float, before: float, threshold: float = 0.4) -> np.ndarray:
    """What a junction, a gate and a channel are linearised at, when Newton proposes a voltage after another."""
    (module,) = compile_text(LIMITED, "limited.va")
    values = np.zeros((1, module.values))
    notes, environment = np.zeros((1, module.notes)), np.array([[300.0, 1.0]])
    module.setup(np.array([[threshold]]), np.ones((1, 1)), np.ones((1, 3)), environment, values, notes)
    work = np.zeros(100)
    work[SETTINGS : SETTINGS + 4] = [0.0, proposed, proposed, proposed]
    span = np.array([1, 0, 20, 40, 50, 60, 70, 80, 90, 95])
    work[20 : 20 + module.values] = values[0]
    work[40:43] = before
    limited = evaluate(module.address, CURRENT, span, np.arange(SETTINGS + 1, SETTINGS + 4, dtype=np.int32), work)
    np.testing.assert_allclose(work[50:53], proposed, atol=1e-9 * max(1.0, abs(proposed)))
    found = work[span[MEMORY0] : span[MEMORY0] + 3].copy()
    assert limited == (np.abs(found - proposed) > 1e-12 + 1e-9 * abs(proposed)).any()
    return found


volts = st.floats(-20, 20)


@given(volts, volts)
def test_limits_let_small_steps_pass(before, threshold):
    """A step that is small is not touched, so that limiting always ends."""
    after = before + 0.01
    if before < threshold <= after:
        return
    np.testing.assert_allclose(limits(after, before, threshold), after, rtol=1e-15)


@given(st.floats(0.6, 1e6), volts)
def test_a_junction_never_jumps_far_up(proposed, before):
    """The voltage to linearise at stays where an exponential is a number; the equations stay the tangent there."""
    assert limits(proposed, before)[0] < max(before, 0.0) + 2.0
