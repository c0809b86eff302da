"""Writes scheduled values as Python statements."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable

from hearthline.core.models.veriloga.functions import FUNCTIONS
from hearthline.core.models.veriloga.graph import SETTINGS_NAMES, Branching, Graph, Limited, Loop, Node, Region
from hearthline.core.models.veriloga.schedule import Schedule

LONGEST = 160
"""Expressions that would get longer than this get a name of their own."""

MOST_TURNS = 100_000
INFIX = {
    "add": "+", "sub": "-", "mul": "*", "div": "/", "and": "and", "or": "or", "<": "<", ">": ">", "<=": "<=",
    ">=": ">=", "==": "==", "!=": "!=", "&": "&", "|": "|", "^": "^", "<<": "<<", ">>": ">>",
}  # fmt: skip
WORDS = {"real": "float", "not": "not ", "neg": "-", "idiv": "idiv", "mod": "mod", "fmod": "math.fmod"}


def number(value) -> str:
    """A literal that reads back as the same number."""
    if isinstance(value, int):
        return str(value) if value >= 0 else f"({value})"
    if math.isnan(value):
        return "math.nan"
    if math.isinf(value):
        return "math.inf" if value > 0 else "(-math.inf)"
    return repr(value) if value >= 0 else f"({value!r})"


class Writer:
    """The statements for some roots. `leaf` gives the text of what comes from outside, or None for what is computed."""

    def __init__(self, graph: Graph, leaf: Callable[[Node], str | None], trusted: bool = False):
        self.graph, self.leaf, self.trusted = graph, leaf, trusted
        self.lines: list[str] = []
        self._texts: dict[int, str] = {}
        self._indent = 0

    def write(self, roots: Iterable[Node], region: Region, indent: int) -> None:
        """Computes all roots, at this depth of indentation."""
        roots = list(roots)
        self.schedule = Schedule(self.graph, roots, lambda node: self.leaf(node) is not None, self.trusted)
        self._indent = indent
        self._region(region)

    def text(self, node: Node) -> str:
        """How a statement names a value that has been computed."""
        if node.constant:
            return number(node.value)
        return self._texts.get(node.number) or self.leaf(node) or f"n{node.number}"

    def line(self, text: str) -> None:
        """One statement."""
        self.lines.append("    " * self._indent + text)

    def _region(self, region: Region) -> None:
        for item in self.schedule.order(region):
            if isinstance(item, Branching):
                self._branching(item)
            elif isinstance(item, Loop):
                self._loop(item)
            else:
                self._node(item)

    def _node(self, node: Node) -> None:
        if node.op == "seed":
            self._seed(node)
            return
        text = self._expression(node)
        once = self.schedule.uses.get(node.number, 0) <= 1 and not isinstance(node.region.owner, Loop)
        if once and len(text) < LONGEST and not self._used_in_loop(node):
            self._texts[node.number] = f"({text})"
            return
        self.line(f"n{node.number} = {text}")

    def _used_in_loop(self, node: Node) -> bool:
        """Whether putting the expression where it is used would compute it again in each turn of a loop."""
        return bool(self.schedule.carried)

    def _seed(self, node: Node) -> None:
        bit = node.args[0]
        seed = self.graph.seeds[bit]
        if not isinstance(seed, Limited):
            minus = f" - x{seed.minus}" if seed.minus >= 0 else ""
            self.line(f"n{node.number} = x{seed.plus}{minus}")
            return
        if self.trusted:
            self.line(f"n{node.number} = {self.text(seed.value)}")
            return
        value, slot = f"u{bit}", f"w[m + {seed.memory}]"
        self.line(f"{value} = {self.text(seed.value)}")
        arguments = ", ".join([value, slot, *map(self.text, seed.arguments), "mode"])
        self.line(f"n{node.number} = limited_{seed.kind}({arguments})")
        self.line(f"{slot} = n{node.number}")
        self.line(f"moved |= abs(n{node.number} - {value}) > 1e-12 + 1e-9 * abs({value})")

    def _branching(self, branching: Branching) -> None:
        phis = [n for n in self.schedule.members.get(branching.region, ()) if n.op == "phi" and n.args[0] is branching]
        phis.sort(key=lambda node: node.number)
        sides = []
        before, indent = self.lines, self._indent
        for k, region in enumerate((branching.yes, branching.no), 1):
            self.lines, self._indent = [], indent + 1
            self._region(region)
            simple = not self.lines
            for phi in phis:
                self.line(f"n{phi.number} = {self.text(phi.args[k])}")
            sides.append((simple, self.lines))
        self.lines, self._indent = before, indent
        condition = self.text(branching.condition)
        if all(simple for simple, _ in sides) and len(phis) <= 2:
            for phi in phis:
                self.line(f"n{phi.number} = {self.text(phi.args[1])} if {condition} else {self.text(phi.args[2])}")
            return
        self.line(f"if {condition}:")
        self.lines += sides[0][1] or ["    " * (indent + 1) + "pass"]
        self.line("else:")
        self.lines += sides[1][1] or ["    " * (indent + 1) + "pass"]

    def _loop(self, loop: Loop) -> None:
        positions = sorted(self.schedule.carried[loop])
        names = [f"n{loop.carried[k][0].number}" for k in positions]
        for k, name in zip(positions, names, strict=True):
            self.line(f"{name} = {self.text(loop.carried[k][1])}")
        self.line(f"for _ in range({MOST_TURNS}):")
        self._indent += 1
        self._region(loop.body)
        condition = self.text(loop.condition)
        self.line(f"if not {condition}:")
        self.line("    break")
        following = ", ".join(self.text(loop.carried[k][2]) for k in positions)
        self.line(f"{', '.join(names)} = {following}")
        self._indent -= 1
        for node in self.schedule.live.values():
            if node.op == "loop out" and node.args[0] is loop:
                self._texts[node.number] = f"n{loop.carried[node.args[1]][0].number}"

    def _expression(self, node: Node) -> str:
        op, args = node.op, node.args
        if op in INFIX:
            return f"{self.text(args[0])} {INFIX[op]} {self.text(args[1])}"
        if op == "select":
            return f"{self.text(args[1])} if {self.text(args[0])} else {self.text(args[2])}"
        if op == "setting":
            return f"w[{SETTINGS_NAMES.index(args[0])}]"
        if op == "round":
            return f"int(math.floor({self.text(args[0])} + 0.5))"
        inner = ", ".join(map(self.text, args))
        if op in ("neg", "not"):
            return f"{WORDS[op]}{inner}"
        return f"{WORDS[op] if op in WORDS else FUNCTIONS[op].python}({inner})"
