"""A module as code in the language of LLVM: its kernel and its setup, and its description for whoever uses them."""

from __future__ import annotations

from collections.abc import Iterable

from hearthline.core.compiled.language import Code, real
from hearthline.core.compiled.machine import has_vectors
from hearthline.core.models.layout import COUNT, NODE0, SPAN
from hearthline.core.models.signature import PREPARE
from hearthline.core.models.veriloga.abreast import preamble_abreast
from hearthline.core.models.veriloga.abreast_instances import Abreast, Rest, prepared
from hearthline.core.models.veriloga.charged import any_of
from hearthline.core.models.veriloga.code import PREAMBLE, REAL, TRUTH, WHOLE, Writer, declarations
from hearthline.core.models.veriloga.equations import Equations
from hearthline.core.models.veriloga.graph import SETTINGS_NAMES, TRUTHS
from hearthline.core.models.veriloga.instances import PARAMETERS, WORTHWHILE, Instances, OneByOne, alone, fewest, shared
from hearthline.core.models.veriloga.node import Limited, Loop, Node
from hearthline.core.models.veriloga.schedule import Schedule

INPUTS = {"parameter": "%p", "given": "%given", "connected": "%connected", "environment": "%environment"}

Store = tuple[str, int, Node]


class Generator:
    """Makes the two functions of one module."""

    def __init__(self, equations: Equations):
        self.equations, self.graph = equations, equations.graph
        self.stored: list[Node] = []
        self._slots: dict[int, int] = {}
        self.terminals = [k for k in range(len(equations.work.terminals)) if k not in self.graph.joined]
        """Those that the kernel has, in its order."""
        self.memory = sum(isinstance(seed, Limited) for seed in self.graph.seeds)
        self._schedules: dict[tuple[int, ...], Schedule] = {}
        self.abreast = has_vectors() and self._pays(self._charges(self._stores()))
        self.others: dict[str, tuple[int, str]] = {}
        """Functions that lanes of vectors call one after the other."""

    def text(self) -> str:
        """Both functions in LLVM's language."""
        made = [*self._kernel(), *self._setup()]
        return "\n".join([PREAMBLE, declarations(), preamble_abreast(self.others) if self.abreast else "", *made])

    # the kernel
    def _stores(self) -> dict[str, list[Store]]:
        found = self.equations
        readouts = [readout.value for readout in found.readouts]
        for said in found.said:
            if said.active.level == 2:
                readouts += [said.active, *said.arguments]
        noise = [node for one in found.noise for node in (one.density, one.exponent)]
        return {
            "current": [("current", self._place(row), node) for row, node in found.current.items()]
            + [("conductance", k, node) for k, node in enumerate(found.conductance.values())],
            "charge": [("charge", self._place(row), node) for row, node in found.charge.items()]
            + [("capacitance", k, node) for k, node in enumerate(found.capacitance.values())],
            "readout": [("readout", k, node) for k, node in enumerate(readouts)],
            "noise": [("noise", k, node) for k, node in enumerate(noise)],
        }

    @staticmethod
    def _charges(stores: dict[str, list[Store]]) -> list[Store]:
        return stores["current"] + stores["charge"]

    def _place(self, terminal: int) -> int:
        terminal = self.graph.joined.get(terminal, terminal)
        return self.terminals.index(terminal) if terminal >= 0 else terminal

    def _pairs(self, pairs) -> list[tuple[int, int]]:
        return [(self._place(row), self._place(column)) for row, column in pairs]

    def _kernel(self) -> list[str]:
        """Currents alone are what Newton's method asks for most, so they have a loop of their own."""
        stores = self._stores()
        bodies = {
            "currents": (stores["current"], False), "charges": (self._charges(stores), False),
            "readouts": (stores["readout"], True), "noise": (stores["noise"], True),
        }  # fmt: skip
        lines = []
        for name, (wanted, trusted) in bodies.items():
            lines += self._body(name, wanted, trusted)
        lines += self._charges_of_some(stores["charge"])
        if self.abreast:
            lines += prepared(self._rest(self._charges(stores)))
        lines += [f"define i64 @kernel({PARAMETERS}) {{", "entry:"]
        code = Code()
        plain = code.put("icmp eq i64 %wants, 1")
        code.do(f"br i1 {plain}, label %quick, label %full")
        code.begin("quick")
        code.do(f"ret i64 {code.put(self._call('currents'))}")
        code.begin("full")
        total = "0"
        for bits, name in ((3, "charges_of_some"), (4, "readouts"), (8, "noise")):
            yes, after = code.name("yes"), code.name("after")
            before = code.block
            bit = code.put(f"and i64 %wants, {bits}")
            code.do(f"br i1 {code.put(f'icmp ne i64 {bit}, 0')}, label %{yes}, label %{after}")
            code.begin(yes)
            more = code.put(f"add i64 {total}, {code.put(self._call(name))}")
            code.do(f"br label %{after}")
            code.begin(after)
            total = code.put(f"phi i64 [ {total}, %{before} ], [ {more}, %{yes} ]")
        if self.abreast:
            yes, after = code.name("yes"), code.name("after")
            bit = code.put(f"and i64 %wants, {PREPARE}")
            code.do(f"br i1 {code.put(f'icmp ne i64 {bit}, 0')}, label %{yes}, label %{after}")
            code.begin(yes)
            code.do("call void @prepare(i64 %wants, ptr %span, ptr %nodes, ptr %w)")
            code.do(f"br label %{after}")
            code.begin(after)
        code.do(f"ret i64 {total}")
        return [*lines, *code.lines, "}"]

    def _charges_of_some(self, stores: list[Store]) -> list[str]:
        """Currents and charges; where no instance has any charge, currents alone, and nothing in the place of charges."""
        head = f"define internal i64 @charges_of_some({PARAMETERS}) {{"
        flag = any_of(self.graph, (node for *_, node in stores))
        if flag.constant:
            return [head, "entry:", f"  %all = {self._call('charges')}", "  ret i64 %all", "}"]
        code = Code()
        count = code.load(WHOLE, "%span", COUNT)
        values = code.load(WHOLE, "%span", SPAN["value"])
        code.do("br label %look")
        code.begin("look")
        code.do("%k = phi i64 [ 0, %entry ], [ %k_next, %next ]")
        code.do(f"br i1 {code.put(f'icmp slt i64 %k, {count}')}, label %one, label %none")
        code.begin("one")
        row = code.put("mul i64 %k, VALUES")
        place = code.put(f"add i64 {code.put(f'add i64 {values}, {row}')}, {self._slot(flag)}")
        there = code.put(f"fcmp une double {code.load(REAL, '%w', place)}, 0.0")
        code.do(f"br i1 {there}, label %some, label %next")
        code.begin("next")
        code.do("%k_next = add i64 %k, 1")
        code.do("br label %look")
        code.begin("some")
        code.do(f"ret i64 {code.put(self._call('charges'))}")
        code.begin("none")
        for stretch, width in (("charge", len(self.terminals)), ("capacitance", len(self.equations.capacitance))):
            start = code.put(f"getelementptr double, ptr %w, i64 {code.load(WHOLE, '%span', SPAN[stretch])}")
            size = code.put(f"mul i64 {count}, {8 * width}")
            code.do(f"call void @llvm.memset.p0.i64(ptr {start}, i8 0, i64 {size}, i1 false)")
        code.do(f"ret i64 {code.put(self._call('currents'))}")
        return [head, "entry:", *code.lines, "}"]

    @staticmethod
    def _call(name: str) -> str:
        return f"call i64 @{name}(i64 %wants, ptr %span, ptr %nodes, ptr %w)"

    def _body(self, name: str, stores: list[Store], trusted: bool) -> list[str]:
        """A function that computes and stores what is wanted for all instances; gives back how many were limited."""
        if not stores:
            return [f"define internal i64 @{name}({PARAMETERS}) {{", "entry:", "  ret i64 0", "}"]
        lines = self._loop(OneByOne(f"{name}_one_by_one"), stores, trusted)
        if trusted or not self.abreast or not self._pays(stores):
            return [*lines, *alone(name)]
        loop = Abreast(name, self.others, self._widths(stores), self._rest(stores))
        return [*lines, *self._loop(loop, stores, trusted), *shared(name, fewest(self._computed(stores)))]

    def _computed(self, stores: list[Store]) -> int:
        """How many values are worked out for what is stored; none where that takes loops, which end for each instance when it
        likes."""
        schedule = self._scheduled(stores)
        return 0 if any(isinstance(one, Loop) for one in schedule.nested) else len(schedule.live)

    def _pays(self, stores: list[Store]) -> bool:
        """Whether it is worth writing this for instances abreast."""
        return self._computed(stores) >= WORTHWHILE

    def _rest(self, stores: list[Store]) -> Rest | None:
        """Which terminals decide about what is stored; None where time does too, the scale of sources, or nothing about
        currents."""
        stored = self._stores()
        watched, currents = (self._watched(one) for one in (stores, stored["current"]))
        settings = {node.args[0] for node in self._leaves(self._charges(stored)) if node.op == "setting"}
        stays = currents and settings.isdisjoint(("time", "scale"))
        return Rest(len(self.terminals), watched, currents[0]) if stays else None

    def _leaves(self, stores: list[Store]) -> Iterable[Node]:
        return self._scheduled(stores).leaves.values()

    def _watched(self, stores: list[Store]) -> tuple[int, ...]:
        return tuple(sorted(map(self._place, self._terminals(self._scheduled(stores)))))

    def _scheduled(self, stores: list[Store]) -> Schedule:
        """Made once for the same stores."""
        key = tuple(node.number for *_, node in stores)
        if key not in self._schedules:
            self._schedules[key] = Schedule(self.graph, [node for *_, node in stores], self._is_given, False)
        return self._schedules[key]

    def _loop(self, loop: Instances, stores: list[Store], trusted: bool) -> list[str]:
        writer = loop.writer(self.graph, lambda node: self._leaf(writer, node), trusted)
        schedule = writer.plan([node for *_, node in stores], self._is_given)
        loop.open()
        self._places(loop, self._widths(stores))
        for terminal in sorted(self._terminals(schedule)):
            loop.terminal(f"x{terminal}", self._place(terminal))
        loop.look()
        for node in sorted(filter(self._is_leaf, schedule.leaves.values()), key=self._slot):
            loop.number(f"v{self._slot(node)}", "values", self._slot(node))
        for k in range(self.memory if not trusted else 0):
            loop.number(f"m{k}", "memory", k)
        self._settings(loop)
        writer.write(self.graph.top)
        for stretch, place, node in stores:
            value = writer.value(node, REAL)
            loop.store(writer.unless_overrun(value) if stretch == "current" else value, stretch, place)
        loop.close()
        return [loop.head, "entry:", *loop.entry.lines, *loop.code.lines, "}"]

    @staticmethod
    def _settings(loop: Instances) -> None:
        code = loop.entry
        for k, setting in enumerate(SETTINGS_NAMES):
            place = code.put(f"getelementptr double, ptr %w, i64 {k}")
            loop.setting(f"setting_{setting}", f"load double, ptr {place}")
        # where no currents are asked for, nothing is limited
        iterating = code.put(f"icmp ne i64 {code.put('and i64 %wants, 1')}, 0")
        start = code.load(REAL, "%w", SETTINGS_NAMES.index("start"))
        loop.setting("mode", f"select i1 {iterating}, double {start}, double 2.0")

    def _places(self, loop: Instances, widths: dict[str, int | str]) -> None:
        loop.place("nodes_k", "%nodes", "i32", NODE0, len(self.terminals))
        loop.place("memory", "%w", REAL, SPAN["memory"], self.memory)
        for stretch, width in widths.items():
            loop.place(stretch, "%w", REAL, SPAN["value" if stretch == "values" else stretch], width)

    def _widths(self, stores: list[Store]) -> dict[str, int | str]:
        """How much of each stretch an instance has: of its values, and of what is stored."""
        found = self.equations
        terminals = len(self.terminals)
        widths: dict[str, int | str] = {
            "values": "VALUES", "current": terminals, "conductance": len(found.conductance), "charge": terminals,
            "capacitance": len(found.capacitance), "readout": len(self._stores()["readout"]), "noise": 2 * len(found.noise),
        }  # fmt: skip
        stored = {stretch for stretch, *_ in stores}
        return {stretch: width for stretch, width in widths.items() if stretch == "values" or stretch in stored}

    @staticmethod
    def _is_leaf(node: Node) -> bool:
        """What the kernel reads: values of the setup, and what the solver sets."""
        return node.level < 2 or node.op == "short"

    @staticmethod
    def _is_given(node: Node) -> bool:
        """What needs no computing in the kernel: leaves, and what each loop has loaded already."""
        return Generator._is_leaf(node) or node.op in ("setting", "mode", "memory")

    def _slot(self, node: Node) -> int:
        if node.number not in self._slots:
            self._slots[node.number] = len(self.stored)
            self.stored.append(node)
        return self._slots[node.number]

    def _leaf(self, writer: Writer, node: Node) -> str | None:
        if node.op == "setting":
            return f"%setting_{node.args[0]}"
        if node.op == "mode":
            return "%mode"
        if node.op == "memory":
            return f"%m{node.args[0]}"
        if not self._is_leaf(node):
            return None
        value = f"%v{self._slot(node)}"
        if node.op == "short" or not node.whole:
            return value
        # stored as a real number
        return writer.converted(value, REAL, TRUTH if node.op in TRUTHS else WHOLE)

    def _terminals(self, schedule) -> set[int]:
        used = set()
        for node in schedule.live.values():
            if node.op == "seed":
                seed = self.graph.seeds[node.args[0]]
                if not isinstance(seed, Limited):
                    used |= {seed.plus, seed.minus} - {-1}
        return used

    # the setup
    def _notes(self) -> list[Node]:
        found = self.equations
        notes = [check.violated for check in found.checks] + [collapse.shorted for collapse in found.collapses]
        for said in found.said:
            if said.active.level < 2:
                notes += [said.active, *(a if a.level < 2 else self.graph.const(0.0) for a in said.arguments)]
        return notes

    def _setup(self) -> list[str]:
        """What does not depend on the unknowns, for each row of parameters."""
        code, notes = Code(), self._notes()
        names = ("p", "given", "connected", "environment", "out", "notes")
        head = f"define void @setup(i64 %rows, {', '.join(f'ptr noalias %{name}_0' for name in names)}) {{"
        writer = Writer(self.graph, code, lambda node: self._input(code, node))
        plain = [node for node in self.stored if node.op != "short"]
        writer.plan([*plain, *notes], lambda node: node.op == "input")
        widths = dict(zip(names, (len(self.equations.inputs), len(self.equations.inputs),
                                  len(self.equations.work.declared.module.ports), 2, len(self.stored), len(notes)),
                          strict=True))  # fmt: skip
        code.do(f"br i1 {code.put('icmp sgt i64 %rows, 0')}, label %loop, label %done")
        code.begin("loop")
        code.do("%k = phi i64 [ 0, %entry ], [ %k_next, %loop_end ]")
        code.do("%k_next = add i64 %k, 1")
        for name in names:
            offset = code.put(f"mul i64 %k, {widths[name]}")
            code.do(f"%{name} = getelementptr double, ptr %{name}_0, i64 {offset}")
        code.do("store i64 0, ptr %turns")
        writer.write(self.graph.setup)
        for slot, node in enumerate(self.stored):
            value = real(0.0) if node.op == "short" else writer.unless_overrun(writer.value(node, REAL))
            code.store(REAL, value, "%out", slot)
        for column, node in enumerate(notes):
            code.store(REAL, writer.value(node, REAL), "%notes", column)
        code.do("br label %loop_end")
        code.begin("loop_end")
        code.do(f"br i1 {code.put('icmp eq i64 %k_next, %rows')}, label %done, label %loop")
        code.begin("done")
        code.do("ret void")
        return [head, "entry:", "  %turns = alloca i64", *code.lines, "}"]

    @staticmethod
    def _input(code: Code, node: Node) -> str | None:
        if node.op != "input":
            return None
        which, index = node.args
        value = code.load(REAL, INPUTS[which], index)
        if not node.whole:
            return value
        return code.put(f"call i64 @llvm.fptosi.sat.i64.f64(double {value})")

    # the description
    def description(self, file: str) -> dict:
        """Everything a reader must know to use the two functions."""
        found, work = self.equations, self.equations.work
        shorts = {node.args[0]: slot for slot, node in enumerate(self.stored) if node.op == "short"}
        return {
            "name": work.declared.module.name, "file": file, "ports": len(work.declared.module.ports),
            "terminals": [(t.name, t.kind, t.discipline) for t in (work.terminals[k] for k in self.terminals)],
            "parameters": [(i.name, i.type, i.default, i.allowed, i.unit, i.meaning, i.instance) for i in found.inputs],
            "aliases": dict(work.declared.aliases), "strings": list(work.strings),
            "values": len(self.stored), "memory": self.memory,
            "abreast": len(self.stored) + len(self.terminals) if self.abreast else 0,
            "conductance": self._pairs(found.conductance), "capacitance": self._pairs(found.capacitance),
            "readouts": [(r.name, r.unit, r.meaning) for r in found.readouts],
            "noise": [(n.name, n.kind, *self._pairs([(n.plus, n.minus)])[0]) for n in found.noise],
            "checks": [check.index for check in found.checks],
            "collapses": [
                (*self._pairs([(c.plus, c.minus)])[0], shorts.get(k, -1)) for k, c in enumerate(found.collapses)
            ],
            "said": [
                (s.message.kind, s.message.text, len(s.arguments), s.message.line, s.active.level == 2)
                for s in found.said
            ],
            "warnings": [(w.file, w.line, w.message) for w in work.problems.warnings],
            "meaning": work.declared.module.attributes.get("desc", ""),
            "source": work.declared.module.attributes.get("source", ""),
        }  # fmt: skip


def generate(equations: Equations, file: str) -> tuple[dict, str]:
    """The description of a module, and its code."""
    generator = Generator(equations)
    text = generator.text()
    return generator.description(file), text.replace(", VALUES", f", {len(generator.stored)}")
