"""Derivatives of values by seeds: forward differentiation on the graph, only where they can be non-zero.

Each derivative is a node of its own, in the region of what it is the derivative of, so that it can be differentiated
again (`ddx` inside an equation), and what it shares with the value is computed once.
"""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType

from hearthline.core.models.veriloga.functions import FUNCTIONS
from hearthline.core.models.veriloga.graph import Graph
from hearthline.core.models.veriloga.node import Limited, Node, Probe


def derivative(graph: Graph, node: Node, bit: int) -> Node | None:
    """d node / d seed `bit`; None where it is zero."""
    if not node.seeds >> bit & 1:
        return None
    if bit not in node.slopes:
        if node.op != "loop variable":
            for below in _missing(node, bit):
                below.slopes[bit] = _made(graph, below, bit)
        node.slopes.setdefault(bit, _made(graph, node, bit))
    return node.slopes[bit]


def _missing(node: Node, bit: int) -> list[Node]:
    """What has to be differentiated before `node`, the first first; without recursion, for long sums."""
    order, seen, stack = [], set(), [(node, False)]
    while stack:
        top, done = stack.pop()
        if done:
            order.append(top)
            continue
        if (
            top.number in seen
            or bit in top.slopes
            or not top.seeds >> bit & 1
            or top.op in ("loop out", "loop variable")
        ):
            continue
        seen.add(top.number)
        stack.append((top, True))
        stack.extend((a, False) for a in top.operands)
    return order


def _made(graph: Graph, node: Node, bit: int) -> Node | None:
    if bit in node.slopes:
        return node.slopes[bit]
    with graph.within(node.region):
        return _RULES.get(node.op, _function)(graph, node, bit)


def _zero_or(graph: Graph, slope: Node | None) -> Node:
    return graph.const(0.0) if slope is None else slope


def _seed(graph, node, bit):
    return graph.const(1.0)


def _add(graph, node, bit):
    a, b = (derivative(graph, x, bit) for x in node.args)
    if a is None or b is None:
        return a or b
    return graph.add(a, b)


def _sub(graph, node, bit):
    a, b = (derivative(graph, x, bit) for x in node.args)
    if b is None:
        return a
    return graph.neg(b) if a is None else graph.sub(a, b)


def _neg(graph, node, bit):
    return graph.neg(derivative(graph, node.args[0], bit))


def _mul(graph, node, bit):
    a, b = node.args
    da, db = derivative(graph, a, bit), derivative(graph, b, bit)
    if a is b:
        return graph.mul(graph.mul(graph.const(2.0), a), da)
    parts = [graph.mul(da, b)] if da is not None else []
    parts += [graph.mul(a, db)] if db is not None else []
    return parts[0] if len(parts) == 1 else graph.add(*parts)


def _div(graph, node, bit):
    a, b = node.args
    da, db = derivative(graph, a, bit), derivative(graph, b, bit)
    if db is None:
        return graph.div(da, b)
    through = graph.mul(node, db)
    return graph.div(graph.neg(through) if da is None else graph.sub(da, through), b)


def _same(graph, node, bit):
    return derivative(graph, node.args[0], bit)


def _fmod(graph, node, bit):
    a, b = node.args
    da, db = derivative(graph, a, bit), derivative(graph, b, bit)
    if db is None:
        return da
    through = graph.mul(graph.div(graph.sub(a, node), b), db)  # the whole quotient stays as it is
    return graph.neg(through) if da is None else graph.sub(da, through)


def _select(graph, node, bit):
    condition, a, b = node.args
    da, db = (_zero_or(graph, derivative(graph, x, bit)) for x in (a, b))
    return graph.select(condition, da, db)


def _phi(graph, node, bit):
    branching, a, b = node.args
    return graph.phi(branching, *(_zero_or(graph, derivative(graph, x, bit)) for x in (a, b)))


def _loop_variable(graph, node, bit):
    """The derivative is carried beside the variable: its first value and its next are the derivatives of those."""
    loop, position = node.args
    _, first, following = loop.carried[position]
    slope = graph.node("loop variable", (loop, len(loop.carried)), 2, node.seeds, False, region=loop.body)
    entry: list[Node | None] = [slope, _zero_or(graph, derivative(graph, first, bit)), None]
    loop.carried.append(entry)
    node.slopes[bit] = slope
    entry[2] = _zero_or(graph, derivative(graph, following, bit))
    return slope


def _loop_out(graph, node, bit):
    loop, position = node.args
    slope = derivative(graph, loop.carried[position][0], bit)
    if slope is None:
        return None
    return graph.node("loop out", slope.args, 2, slope.seeds, False, region=loop.region)


def _function(graph, node, bit):
    """The chain rule for a mathematical function."""
    if node.op not in FUNCTIONS:
        return None
    total = None
    for k, argument in enumerate(node.args):
        inner = derivative(graph, argument, bit)
        outer = FUNCTIONS[node.op].slope(graph, node, k) if inner is not None else None
        if outer is None:
            continue
        part = graph.mul(outer, inner)
        total = part if total is None else graph.add(total, part)
    return total


_RULES = {
    "seed": _seed, "add": _add, "sub": _sub, "neg": _neg, "mul": _mul, "div": _div, "real": _same, "fmod": _fmod,
    "select": _select, "phi": _phi, "loop variable": _loop_variable, "loop out": _loop_out,
}  # fmt: skip


def by_probes(graph: Graph, node: Node) -> dict[Probe, Node]:
    """Derivatives of `node` by every difference of unknowns, through limited values too."""
    totals: dict[Probe, Node] = {}

    def gather(value: Node, factor: Node | None) -> None:
        for bit, seed in enumerate(tuple(graph.seeds)):
            slope = derivative(graph, value, bit)
            if slope is None:
                continue
            slope = slope if factor is None else graph.mul(factor, graph.exported(slope))
            if isinstance(seed, Limited):
                gather(seed.value, slope)
            else:
                totals[seed] = graph.add(totals[seed], slope) if seed in totals else slope

    gather(node, None)
    return totals


def by_limited(graph: Graph, node: Node) -> list[tuple[Limited, int, Node]]:
    """Derivatives of `node` by each limited value that it uses directly, with the seed's number."""
    found = []
    for bit, seed in enumerate(tuple(graph.seeds)):
        if isinstance(seed, Limited):
            slope = derivative(graph, node, bit)
            if slope is not None:
                found.append((seed, bit, slope))
    return found


def by_terminals(graph: Graph, node: Node, joined: Mapping[int, int] = MappingProxyType({})) -> dict[int, Node]:
    """Derivatives of `node` by the unknown of each terminal; those by `joined` ones are of what they are joined to."""
    totals: dict[int, Node] = {}
    for probe, slope in by_probes(graph, node).items():
        plus, minus = (joined.get(terminal, terminal) for terminal in (probe.plus, probe.minus))
        if plus == minus:
            continue
        for terminal, part in ((plus, slope), (minus, graph.neg(slope))):
            if terminal >= 0:
                totals[terminal] = graph.add(totals[terminal], part) if terminal in totals else part
    return {terminal: slope for terminal, slope in totals.items() if not (slope.constant and slope.value == 0)}
