"""The Python file of a module: its description, its setup and its kernel."""

from __future__ import annotations

import pprint

from hearthline.core.models.veriloga.emit import Writer
from hearthline.core.models.veriloga.equations import Equations
from hearthline.core.models.veriloga.graph import Limited, Node

HEADER = '''"""Made by Hearthline's Verilog-A compiler from module {name} of {file}. Not to be edited."""

import math

import numba as nb

from hearthline.core.models.signature import KERNEL, OPTIONS
from hearthline.core.models.veriloga.runtime import (
    idiv, limexp, limited_channel, limited_gate, limited_junction, mod, power_slope
)

MODULE = {description}
'''
INPUTS = {"parameter": "p", "given": "given", "connected": "connected", "environment": "environment"}


class _Generator:
    def __init__(self, equations: Equations):
        self.equations, self.graph = equations, equations.graph
        self.slots: dict[int, int] = {}
        self.stored: list[Node] = []

    # what the kernel reads
    def _leaf(self, node: Node) -> str | None:
        """Values that do not depend on the unknowns are read from where the setup put them."""
        if node.constant or (node.level == 2 and node.op != "short"):
            return None
        return f"v{self._slot(node)}"

    def _slot(self, node: Node) -> int:
        if node.number not in self.slots:
            self.slots[node.number] = len(self.stored)
            self.stored.append(node)
        return self.slots[node.number]

    # the kernel
    def _flow_roots(self) -> list[tuple[str, Node]]:
        found = self.equations
        stores = [(f"w[f + {row}]", node) for row, node in found.flow.items()]
        return stores + [(f"w[s + {k}]", node) for k, node in enumerate(found.slope.values())]

    def _charge_roots(self) -> list[tuple[str, Node]]:
        found = self.equations
        stores = [(f"w[q + {row}]", node) for row, node in found.charge.items()]
        return stores + [(f"w[c + {k}]", node) for k, node in enumerate(found.capacity.values())]

    def _readout_roots(self) -> list[tuple[str, Node]]:
        nodes = [readout.value for readout in self.equations.readouts]
        for said in self.equations.said:
            if said.active.level == 2:
                nodes += [said.active, *said.arguments]
        return [(f"w[r + {k}]", node) for k, node in enumerate(nodes)]

    def _noise_roots(self) -> list[tuple[str, Node]]:
        nodes = [node for noise in self.equations.noise for node in (noise.density, noise.exponent)]
        return [(f"w[d + {k}]", node) for k, node in enumerate(nodes)]

    def kernel(self) -> list[str]:
        """The kernel: one loop over the instances for each set of wishes."""
        lines = ["", "", "def kernel(wants, span, nodes, w):", "    count, limited = span[0], 0"]
        flow, charge = self._flow_roots(), self._charge_roots()
        if flow:
            lines += ["    if wants == 1:", *self._loop(flow, False), "        return limited"]
        if charge:
            lines += ["    if wants & 3:", *self._loop(flow + charge, False)]
        elif flow:
            lines += ["    if wants & 1:", *self._loop(flow, False)]
        for bit, roots in ((4, self._readout_roots()), (8, self._noise_roots())):
            if roots:
                lines += [f"    if wants & {bit}:", *self._loop(roots, True)]
        return [*lines, "    return limited"]

    def _loop(self, stores: list[tuple[str, Node]], trusted: bool) -> list[str]:
        writer = Writer(self.graph, self._leaf, trusted)
        writer.write([node for _, node in stores], self.graph.top, 3)
        for target, node in stores:
            writer.line(f"{target} = {writer.text(node)}")
        limits = [] if trusted else [n for n in writer.schedule.live.values() if self._limit(n)]
        before = []
        for k in sorted(self._terminals(writer)):
            before.append(f"x{k} = w[nodes[n + {k}]]")
        for node in sorted(writer.schedule.leaves.values(), key=lambda node: self._slot(node)):
            before.append(f"v{self._slot(node)} = w[p + {self._slot(node)}]")
        head = ["        for k in range(count):", *("            " + line for line in self._places(stores, limits))]
        if limits:
            before.append("moved = False")
        body = [*head, *("            " + line for line in before), *writer.lines]
        if limits:
            body.append("            limited += moved")
        if limits:
            # in the wishes without currents nothing is limited
            body.insert(0, "        mode = w[2] if wants & 1 else 2.0")
        return body

    def _limit(self, node: Node) -> bool:
        return node.op == "seed" and isinstance(self.graph.seeds[node.args[0]], Limited)

    def _terminals(self, writer: Writer) -> set[int]:
        used = set()
        for node in writer.schedule.live.values():
            if node.op == "seed":
                seed = self.graph.seeds[node.args[0]]
                if not isinstance(seed, Limited):
                    used |= {seed.plus, seed.minus} - {-1}
        return used

    def _places(self, stores, limits) -> list[str]:
        found, width = self.equations, len(self.equations.work.terminals)
        memory = sum(isinstance(seed, Limited) for seed in self.graph.seeds)
        sizes = {
            "f": (4, width), "s": (5, len(found.slope)), "q": (6, width), "c": (7, len(found.capacity)),
            "r": (8, len(self._readout_roots())), "d": (9, 2 * len(found.noise)),
        }  # fmt: skip
        letters = dict.fromkeys(target[2] for target, _ in stores)
        places = [f"n = span[1] + {width} * k", "p = span[2] + VALUES * k"]
        if limits:
            places.append(f"m = span[3] + {memory} * k")
        return places + [f"{letter} = span[{sizes[letter][0]}] + {sizes[letter][1]} * k" for letter in letters]

    # the setup
    def setup(self) -> list[str]:
        """What does not depend on the unknowns, for each row of parameters."""
        found = self.equations
        stored = self.stored.copy()
        notes = [check.violated for check in found.checks] + [c.shorted for c in found.collapses]
        for said in found.said:
            if said.active.level < 2:
                notes += [said.active, *(a if a.level < 2 else self.graph.const(0.0) for a in said.arguments)]
        writer = Writer(self.graph, self._input)
        plain = [node for node in stored if node.op != "short"]
        writer.write([*plain, *notes], self.graph.setup, 2)
        for slot, node in enumerate(stored):
            value = "0.0" if node.op == "short" else f"float({writer.text(node)})"
            writer.line(f"out[k, {slot}] = {value}")
        for column, node in enumerate(notes):
            writer.line(f"notes[k, {column}] = float({writer.text(node)})")
        head = ["", "", "def setup(p, given, connected, environment, out, notes):", "    for k in range(p.shape[0]):"]
        return [*head, *(writer.lines or ["        pass"])]

    @staticmethod
    def _input(node: Node) -> str | None:
        if node.op != "input":
            return None
        kind, index = node.args
        text = f"{INPUTS[kind]}[k, {index}]"
        return f"int({text})" if node.whole else text

    # the description
    def description(self, file: str) -> dict:
        """Everything a reader must know to use the two functions."""
        found, work = self.equations, self.equations.work
        shorts = {node.args[0]: slot for slot, node in enumerate(self.stored) if node.op == "short"}
        return {
            "name": work.declared.module.name, "file": file, "ports": len(work.declared.module.ports),
            "terminals": [(t.name, t.kind, t.discipline) for t in work.terminals],
            "inputs": [(i.name, i.type, i.default, i.allowed, i.unit, i.meaning, i.instance) for i in found.inputs],
            "aliases": dict(work.declared.aliases), "strings": list(work.strings),
            "values": len(self.stored), "memory": sum(isinstance(seed, Limited) for seed in self.graph.seeds),
            "slope": list(found.slope), "capacity": list(found.capacity),
            "readouts": [(r.name, r.unit, r.meaning) for r in found.readouts],
            "noise": [(n.name, n.kind, n.plus, n.minus) for n in found.noise],
            "checks": [check.index for check in found.checks],
            "collapses": [(c.plus, c.minus, shorts.get(k, -1)) for k, c in enumerate(found.collapses)],
            "said": [
                (s.message.kind, s.message.text, len(s.arguments), s.message.line, s.active.level == 2)
                for s in found.said
            ],
            "warnings": [(w.file, w.line, w.message) for w in work.problems.warnings],
            "meaning": work.declared.module.attributes.get("desc", ""),
            "source": work.declared.module.attributes.get("source", ""),
        }  # fmt: skip


def generate(equations: Equations, file: str) -> str:
    """The text of the Python file."""
    generator = _Generator(equations)
    kernel = generator.kernel()
    setup = generator.setup()
    description = generator.description(file)
    head = HEADER.format(
        name=description["name"], file=file, description=pprint.pformat(description, width=120, sort_dicts=False)
    )
    text = "\n".join([head.rstrip(), f"VALUES = {len(generator.stored)}", *kernel, *setup])
    tail = (
        "\n\n\ndef compiled():\n"
        '    """The two functions, compiled or read from the cache."""\n'
        "    rows = nb.float64[:, ::1]\n"
        "    return nb.njit(KERNEL, **OPTIONS)(kernel), nb.njit(nb.void(*(rows,) * 6), **OPTIONS)(setup)\n"
    )
    return text + tail
