"""Random linear circuits against modified nodal analysis written straight in NumPy here."""

from __future__ import annotations

import numpy as np
from hypothesis import HealthCheck, assume, given

from hearthline.core.circuit.netlist import GROUND
from hearthline.core.engine.dc import operating_point
from hearthline.core.engine.lanes import Lanes
from hearthline.core.process.models import Corner, ModelSet
from tests.examples import examples
from tests.strategies import LinearPart, linear_circuits, netlist_of


def mna(parts: list[LinearPart]) -> tuple[dict[str, float], float]:
    """Voltages of all nets [V] and the condition number: A·x = z, one row a net and one a branch (Ho et al. 1975)."""
    nets = list(dict.fromkeys(net for part in parts for net in part.nets if net != GROUND))
    branches = [k for k, part in enumerate(parts) if part.kind in "VEH"]
    row = {net: k for k, net in enumerate(nets)} | {GROUND: -1}
    branch = {k: len(nets) + position for position, k in enumerate(branches)}
    size = len(nets) + len(branches)
    matrix, right = np.zeros((size + 1, size + 1)), np.zeros(size + 1)
    source = branch[next(k for k, part in enumerate(parts) if part.kind == "V")]
    for k, part in enumerate(parts):
        a, b = row[part.nets[0]], row[part.nets[1]]
        if part.kind == "R":
            for i, j, sign in ((a, a, 1), (b, b, 1), (a, b, -1), (b, a, -1)):
                matrix[i, j] += sign / part.value
        elif part.kind == "I":
            right[a] -= part.value
            right[b] += part.value
        elif part.kind == "G":
            c, d = row[part.nets[2]], row[part.nets[3]]
            for i, j, sign in ((a, c, 1), (a, d, -1), (b, c, -1), (b, d, 1)):
                matrix[i, j] += sign * part.value
        elif part.kind == "F":
            matrix[a, source] += part.value
            matrix[b, source] -= part.value
        else:
            own = branch[k]
            matrix[a, own] += 1
            matrix[b, own] -= 1
            matrix[own, a] += 1
            matrix[own, b] -= 1
            if part.kind == "V":
                right[own] += part.value
            elif part.kind == "E":
                matrix[own, row[part.nets[2]]] -= part.value
                matrix[own, row[part.nets[3]]] += part.value
            else:
                matrix[own, source] -= part.value
    inner = matrix[:size, :size]
    return dict(zip(nets, np.linalg.solve(inner, right[:size]), strict=False)), np.linalg.cond(inner)


@examples(80, [HealthCheck.too_slow])  # each is solved twice
@given(linear_circuits())
def test_every_net_has_the_voltage_that_numpy_finds(parts):
    """Node voltages to 1e-9."""
    expected, condition = mna(parts)
    assume(condition < 1e7)
    result = operating_point(netlist_of(parts), ModelSet({"": Corner({})}), Lanes())
    assert not len(result.solution.failed_lanes)
    for net, volts in expected.items():
        found = result.dataset.curves[f"V({net})"][0, 0]
        assert abs(found - volts) <= 1e-9 * max(1.0, abs(volts))


def test_conductance_of_a_ladder_is_the_continued_fraction():
    """A resistor ladder, worked by series and parallel rules in NumPy."""
    from tests.decks import point

    text = "v1 in 0 1\n" + "\n".join(
        f"rs{k} {'in' if k == 0 else f'n{k}'} n{k + 1} 1k\nrp{k} n{k + 1} 0 2k" for k in range(30)
    )
    ohms = np.inf
    for _ in range(30):
        ohms = 1e3 + 1 / (1 / 2e3 + 1 / ohms)
    assert abs(-1 / point(text)["I(v1)"] / ohms - 1) < 1e-12
