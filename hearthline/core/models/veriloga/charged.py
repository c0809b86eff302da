"""Whether an instance has charges at all: many cards leave all of a model's capacitances at 0, and then charges and their
slopes, which are half of an evaluation, need not be worked out.

A product is nothing where one factor is, a sum where both terms are; what does not depend on the unknowns is looked at when
the instance is set up; everything else counts as something.
"""

from __future__ import annotations

from collections.abc import Iterable

from hearthline.core.models.veriloga.graph import Graph
from hearthline.core.models.veriloga.node import Node


def any_of(graph: Graph, nodes: Iterable[Node]) -> Node:
    """A truth that does not depend on the unknowns: false only where all of these values are 0 whatever the unknowns are."""
    found = graph.const(False)
    known: dict[int, Node] = {}
    for node in nodes:
        found = graph.either(found, _something(graph, node, known))
    return found


def _something(graph: Graph, node: Node, known: dict[int, Node]) -> Node:
    """Whether a value may be anything but 0. Without recursion: expressions are deep."""
    todo = [node]
    while todo:
        here = todo[-1]
        if here.number in known:
            todo.pop()
            continue
        parts = _parts(here)
        missing = [part for part in parts if part.number not in known]
        if missing:
            todo += missing
            continue
        todo.pop()
        known[here.number] = _of(graph, here, [known[part.number] for part in parts])
    return known[node.number]


def _parts(node: Node) -> tuple[Node, ...]:
    """What decides."""
    if node.level < 2:
        return ()
    if node.op in ("add", "sub", "mul"):
        return node.operands
    if node.op in ("div", "neg", "real"):
        return node.operands[:1]
    if node.op in ("select", "phi"):
        return node.operands[-2:]
    return ()


def _condition(node: Node) -> Node | None:
    """What decides between two sides, where that is known when the instance is set up."""
    if node.op not in ("select", "phi"):
        return None
    condition: Node = node.args[0] if node.op == "select" else node.args[0].condition
    return condition if condition.level < 2 else None


def _of(graph: Graph, node: Node, parts: list[Node]) -> Node:
    if node.level < 2:
        return graph.const(bool(node.value != 0)) if node.constant else graph.truth(node)
    if not parts:
        return graph.const(True)
    if node.op == "mul":
        return graph.both(*parts)
    condition = _condition(node)
    if condition is not None:  # of a side that is not taken nothing counts
        yes, no = parts
        return graph.either(graph.both(graph.truth(condition), yes), graph.both(graph.not_(graph.truth(condition)), no))
    found = parts[0]
    for part in parts[1:]:
        found = graph.either(found, part)
    return found
