"""Brings the values that are needed into an order in which they can be computed, region by region."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from hearthline.core.models.veriloga.graph import Graph
from hearthline.core.models.veriloga.node import Branching, Limited, Loop, Node, Region

Item = Node | Branching | Loop


class Schedule:
    """What is live for some roots, where each lives, and in which order the items of a region come.

    `is_leaf` says which nodes are given from outside. `trusted`: limited values are the plain ones.
    """

    def __init__(self, graph: Graph, roots: Iterable[Node], is_leaf: Callable[[Node], bool], trusted: bool):
        self.graph, self.is_leaf, self.trusted = graph, is_leaf, trusted
        self.live: dict[int, Node] = {}
        self.leaves: dict[int, Node] = {}
        self.members: dict[Region, list[Node]] = {}
        self.nested: dict[Branching | Loop, list[Node]] = {}
        self.carried: dict[Loop, list[int]] = {}
        self._collect(list(roots))
        for node in self.live.values():
            self.members.setdefault(node.region, []).append(node)
            self._nest(node)

    def operands(self, node: Node) -> tuple[Node, ...]:
        """What a node is computed from, limiting and loops included."""
        if node.op == "seed":
            seed = self.graph.seeds[node.args[0]]
            if isinstance(seed, Limited):
                return (seed.value,) if self.trusted else (seed.value, seed.at)
            return ()
        if node.op == "phi":
            return (node.args[0].condition, *node.args[1:])
        if node.op in ("loop out", "loop variable"):
            loop, position = node.args
            return (loop.condition, *loop.carried[position])
        return node.operands

    def _collect(self, stack: list[Node]) -> None:
        while stack:
            node = stack.pop()
            if node.constant or node.number in self.live or node.number in self.leaves:
                continue
            if self.is_leaf(node):
                self.leaves[node.number] = node
                continue
            self.live[node.number] = node
            if node.op in ("loop out", "loop variable"):
                loop, position = node.args
                positions = self.carried.setdefault(loop, [])
                if position not in positions:
                    positions.append(position)
            stack.extend(self.operands(node))

    def _nest(self, node: Node) -> None:
        """Notes the node with every structure that it lives inside of, and with the one that it comes out of."""
        region = node.region
        while region is not None and region.owner is not None:
            self.nested.setdefault(region.owner, []).append(node)
            region = region.parent
        if node.op in ("phi", "loop out"):
            self.nested.setdefault(node.args[0], []).append(node)

    def item(self, node: Node) -> Item:
        """What stands in the order for a node: itself, or the structure that it comes out of."""
        return node.args[0] if node.op in ("phi", "loop out") else node

    def order(self, region: Region) -> list[Item]:
        """The items of a region, each after what it needs."""
        members = sorted(self.members.get(region, ()), key=lambda node: node.number)
        items = dict.fromkeys(self.item(node) for node in members if node.op != "loop variable")
        for structure in self.nested:
            if structure.region is region:
                items.setdefault(structure)
        done: dict[Item, None] = {}
        for start in items:
            self._visit(start, region, done)
        return list(done)

    def _visit(self, start: Item, region: Region, done: dict[Item, None]) -> None:
        stack: list[tuple[Item, bool]] = [(start, False)]
        entered: set[Item] = set()
        while stack:
            item, ready = stack.pop()
            if item in done:
                continue
            if ready:
                done[item] = None
                continue
            if item in entered:
                continue
            entered.add(item)
            stack.append((item, True))
            stack.extend((needed, False) for needed in self._needs(item, region) if needed not in done)

    def _needs(self, item: Item, region: Region) -> list[Item]:
        if isinstance(item, Node):
            nodes = self.operands(item)
        else:
            nodes = [operand for node in self.nested[item] for operand in self.operands(node)]
            nodes.append(item.condition)
        needs = (
            self.item(node) for node in nodes
            if node.number in self.live and node.region is region and node.op != "loop variable"
        )  # fmt: skip
        return [needed for needed in dict.fromkeys(needs) if needed is not item]
