"""The analog operators of the language: each makes a quantity of its call."""

from __future__ import annotations

from collections.abc import Callable

from hearthline.core.models.veriloga import tree
from hearthline.core.models.veriloga.declarations import ACCESSES, net
from hearthline.core.models.veriloga.derivative import by_terminals
from hearthline.core.models.veriloga.making import Making
from hearthline.core.models.veriloga.node import Node, Probe
from hearthline.core.models.veriloga.quantity import Quantity
from hearthline.core.models.veriloga.work import NoiseSource


def _ddt(made: Making, node: tree.Call) -> Quantity:
    made.count(node, 1, 2)
    return Quantity(made.graph.const(0.0), made.value(node.arguments[0]))


def _idt(made: Making, node: tree.Call) -> Quantity:
    made.count(node, 1, 3)
    if made.graph.current is not made.graph.top or made.work.in_loop:
        raise made.problems.mistake(node.line, "idt cannot stand inside a condition that may change, or a loop")
    rate = made.value(node.arguments[0])
    terminal = made.work.new_state("idt")
    state = made.graph.probe(terminal)
    flow = made.graph.neg(rate)
    if len(node.arguments) > 1:
        start = made.value(node.arguments[1])
        flow = made.graph.select(_static(made), made.graph.sub(state, start), flow)
    made.work.states.append((terminal, Quantity(flow, state)))
    return Quantity(state)


def _static(made: Making) -> Node:
    return made.graph.compare("!=", made.graph.setting("static", (0.0, 1.0)), made.graph.const(0.0))


def _ddx(made: Making, node: tree.Call) -> Quantity:
    made.count(node, 2, 2)
    access = node.arguments[1]
    if not isinstance(access, tree.Call) or access.name not in ACCESSES or len(access.arguments) != 1:
        raise made.problems.mistake(node.line, "ddx differentiates by V(net) or I(branch); write ddx(id, V(g))")
    value = made.value(node.arguments[0])
    if access.name in ("V", "Temp"):
        named = access.arguments[0]
        if not isinstance(named, tree.Name):
            raise made.problems.mistake(node.line, "ddx differentiates by the voltage of a net; write ddx(id, V(g))")
        terminal = net(made.work.declared, named.name, node.line)
        made.check_access(access, [terminal])
        slope = by_terminals(made.graph, value).get(terminal)
    else:
        probe = made.access(access)
        seed = made.graph.seeds[probe.seeds.bit_length() - 1]
        assert isinstance(seed, Probe)  # a current is never limited
        terminal = seed.plus
        slope = by_terminals(made.graph, value).get(terminal)
        slope = None if slope is None else made.graph.mul(slope, made.multiplicity())
    return Quantity(made.graph.const(0.0) if slope is None else slope)


def _limexp(made: Making, node: tree.Call) -> Quantity:
    made.count(node, 1, 1)
    return Quantity(made.graph.make("limexp", made.graph.real(made.value(node.arguments[0]))))


def _white_noise(made: Making, node: tree.Call) -> Quantity:
    made.count(node, 1, 2)
    return _noise(made, node, "white", made.graph.const(0.0), 1)


def _flicker_noise(made: Making, node: tree.Call) -> Quantity:
    made.count(node, 2, 3)
    return _noise(made, node, "flicker", made.value(node.arguments[1]), 2)


def _noise(made: Making, node: tree.Call, kind: str, exponent: Node, position: int) -> Quantity:
    density = made.graph.real(made.value(node.arguments[0]))
    name = node.arguments[position] if len(node.arguments) > position else None
    text = name.value if isinstance(name, tree.Text) else kind
    number = len(made.work.noise)
    made.work.noise.append(NoiseSource(text, kind, node.line))
    made.work.values["density", number] = Quantity(density)
    made.work.values["exponent", number] = Quantity(made.graph.real(exponent))
    return Quantity(made.graph.const(0.0), None, {number: made.graph.const(1.0)})


def _analysis(made: Making, node: tree.Call) -> Quantity:
    result = made.graph.const(0)
    for argument in node.arguments:
        word = argument.value if isinstance(argument, tree.Text) else ""
        if word in ("static", "dc", "ic", "op", "nodeset"):
            result = made.graph.either(result, _static(made))
        elif word in ("tran", "transient"):
            result = made.graph.either(result, made.graph.not_(_static(made)))
        else:
            made.problems.warn(node.line, f'analysis("{word}") counts as never; "static" and "tran" are told apart')
    return Quantity(result)


OPERATORS: dict[str, Callable[[Making, tree.Call], Quantity]] = {
    "ddt": _ddt,
    "idt": _idt,
    "ddx": _ddx,
    "limexp": _limexp,
    "white_noise": _white_noise,
    "flicker_noise": _flicker_noise,
    "analysis": _analysis,
}  # fmt: skip
"""By their names in the language."""
