"""From what a module contributes to its branches, to the equation of each of its unknowns with all derivatives."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from types import MappingProxyType

from hearthline.core.models.veriloga import tree
from hearthline.core.models.veriloga.declarations import GROUND, BranchKey, declare
from hearthline.core.models.veriloga.derivative import by_limited, by_terminals
from hearthline.core.models.veriloga.expressions import branch_name
from hearthline.core.models.veriloga.graph import Graph
from hearthline.core.models.veriloga.node import Limited, Node
from hearthline.core.models.veriloga.parameters import Check, Input, Parameters
from hearthline.core.models.veriloga.problems import Problems, UnusableError
from hearthline.core.models.veriloga.quantity import Quantity
from hearthline.core.models.veriloga.statements import Statements
from hearthline.core.models.veriloga.work import Message, Unset, Work

HEAT = "@heat"
"""The net of a device's own heat, as no text can call one."""
MULTIPLICITY = {"multiply": 1, "divide": -1, "": 0, "none": 0}


@dataclass(frozen=True)
class Readout:
    """An operating-point variable."""

    name: str
    unit: str
    meaning: str
    value: Node


@dataclass(frozen=True)
class Noise:
    """A noise current between two terminals: density [A²/Hz] at 1 Hz, over f^exponent."""

    name: str
    kind: str
    plus: int
    minus: int
    density: Node
    exponent: Node


@dataclass(frozen=True)
class Collapse:
    """Two terminals that are one where `shorted` is 1: the solver joins them, or gives `conductance` a large value."""

    plus: int
    minus: int
    shorted: Node
    conductance: Node


@dataclass(frozen=True)
class Said:
    """A message of the text, given while `active` is not 0."""

    message: Message
    active: Node
    arguments: tuple[Node, ...]


@dataclass
class Equations:
    """A module as equations. Rows are terminals; `conductance` and `capacitance` go by (row, column)."""

    work: Work
    inputs: list[Input]
    checks: list[Check]
    current: dict[int, Node] = field(default_factory=dict)
    charge: dict[int, Node] = field(default_factory=dict)
    conductance: dict[tuple[int, int], Node] = field(default_factory=dict)
    capacitance: dict[tuple[int, int], Node] = field(default_factory=dict)
    readouts: list[Readout] = field(default_factory=list)
    noise: list[Noise] = field(default_factory=list)
    collapses: list[Collapse] = field(default_factory=list)
    said: list[Said] = field(default_factory=list)

    @property
    def graph(self):
        """The graph that all nodes are of."""
        return self.work.graph

    @property
    def joinable(self) -> dict[int, int]:
        """Inner terminals, and what each is one with where every series resistance is zero."""
        ports, joined = len(self.work.declared.module.ports), {}
        for collapse in self.collapses:
            inner, outer = (joined.get(end, end) for end in (collapse.plus, collapse.minus))
            if inner < ports <= outer:
                inner, outer = outer, inner
            if inner >= ports and inner != outer:
                joined = {terminal: outer if end == inner else end for terminal, end in joined.items()} | {inner: outer}
        return joined


def equations_of(
    module: tree.Module, problems: Problems, joined: Mapping[int, int] = MappingProxyType({}), hot: bool = False
) -> Equations:
    """Works through a module. Mistakes go into `problems`; raises UnusableError where there are any.

    `joined`: inner terminals that are to be taken for the other one, as `Equations.joinable` gives them. Where it is `hot` the
    module has a net more, HEAT: its potential is what the device is warmer by than its surroundings [K], and what its branches
    turn into heat [W], flow times potential without what is stored, flows into it.
    """
    work = Work(declare(module, problems), Graph(joined))
    if hot:
        work.heat = work.new_terminal(HEAT, "net", "thermal")
    statements = Statements(work)
    parameters = Parameters(work, statements.expressions)
    parameters.declare_all()
    for name, variable in work.declared.variables.copy().items():
        try:
            statements.start_variable(name, variable)
        except UnusableError:
            continue
    for body in work.declared.bodies:
        statements.run(body)
    if problems.mistakes:
        raise UnusableError()
    found = Equations(work, parameters.inputs, parameters.checks)
    _Rows(found, statements).build()
    if problems.mistakes:
        raise UnusableError()
    return found


class _Rows:
    def __init__(self, found: Equations, statements: Statements):
        self.found, self.work, self.graph = found, found.work, found.graph
        self.expressions = statements.expressions
        self.parallel = self.expressions.multiplicity()
        self.rows: dict[int, tuple[Node | None, Node | None]] = {}
        self.noisy: dict[int, BranchKey] = {}
        self.power: Node | None = None

    def build(self) -> None:
        # operating-point variables first: asking for a current may still add an unknown
        self._readouts()
        for branch in tuple(self.work.branches):
            self._branch(branch)
        for terminal, quantity in self.work.states:
            self._add(terminal, quantity.value, quantity.charge)
        if self.work.heat is not None:
            self._add(self.work.heat, self.power, None, -1)
        self._said()
        self._differentiate()

    def _add(self, row: int, flow: Node | None, charge: Node | None, sign: int = 1) -> None:
        row = self.graph.joined.get(row, row)
        if row == GROUND:
            return
        before = self.rows.get(row, (None, None))
        self.rows[row] = tuple(self._sum(a, b, sign) for a, b in zip(before, (flow, charge), strict=True))

    def _sum(self, a: Node | None, b: Node | None, sign: int) -> Node | None:
        if b is None:
            return a
        if a is None:
            return b if sign > 0 else self.graph.neg(b)
        return self.graph.add(a, b) if sign > 0 else self.graph.sub(a, b)

    def _total(self, key) -> Quantity:
        """A gathered sum, of all devices in parallel."""
        quantity = self.work.get(key)
        return quantity.each(lambda part: self.graph.mul(self.parallel, part))

    def _branch(self, branch: BranchKey) -> None:
        unknown, ends = self.work.branches[branch], self._where(branch.plus, branch.minus)
        if unknown is None and ends[0] == ends[1]:
            return
        mode = self.work.get(("mode", branch)).value
        flow, potential = self._total(("flow", branch)), self.work.get(("potential", branch))
        self._noise(branch, ("flow", branch))
        is_short = potential.plain and potential.value.constant and potential.value.value == 0
        if mode.constant and not mode.value and unknown is None:
            self._ends(branch, flow.value, flow.charge)
            self._heat(branch, flow.value, self.graph.probe(branch.plus, branch.minus))
        elif mode.level < 2 and is_short and unknown is None and (pair := self._joinable(branch)):
            self._collapse(branch, pair, mode, flow)
            self._heat(branch, flow.value, self.graph.probe(branch.plus, branch.minus))
        else:
            self._with_current(branch, mode, flow, potential)

    def _where(self, *terminals: int) -> tuple[int, ...]:
        return tuple(self.graph.joined.get(terminal, terminal) for terminal in terminals)

    def _ends(self, branch: BranchKey, flow: Node | None, charge: Node | None) -> None:
        self._add(branch.plus, flow, charge)
        self._add(branch.minus, flow, charge, -1)

    def _heat(self, branch: BranchKey, flow: Node, potential: Node) -> None:
        """What a branch turns into heat, where that is asked for."""
        end = branch.minus if branch.plus == GROUND else branch.plus
        if self.work.heat is None or self.work.terminals[end].discipline != "electrical":
            return
        power = self.graph.mul(flow, potential)
        self.power = power if self.power is None else self.graph.add(self.power, power)

    def _joinable(self, branch: BranchKey) -> tuple[int, int] | None:
        """The inner terminal of a branch, and the one that it can be joined to."""
        plus, minus = self._where(branch.plus, branch.minus)
        for inner, outer in ((minus, plus), (plus, minus)):
            if inner != GROUND and self.work.terminals[inner].kind == "net":
                return inner, outer
        for inner, outer in ((minus, plus), (plus, minus)):
            if inner != GROUND and outer == GROUND:
                return inner, outer
        return None

    def _collapse(self, branch: BranchKey, pair: tuple[int, int], mode: Node, flow: Quantity) -> None:
        # of level 2, because the solver sets it after the setup
        conductance = self.graph.node("short", (len(self.found.collapses),), 2, region=self.graph.top)
        self.found.collapses.append(Collapse(*pair, mode, conductance))
        self._ends(branch, flow.value, flow.charge)
        current = self.graph.mul(conductance, self.graph.probe(branch.plus, branch.minus))
        self._ends(branch, current, None)

    def _with_current(self, branch: BranchKey, mode: Node, flow: Quantity, potential: Quantity) -> None:
        graph, unknown = self.graph, self.work.branches[branch]
        if unknown is None:
            unknown = self.work.new_terminal(f"flow({branch_name(self.work, branch)})", "current")
        current = graph.probe(unknown)
        self._ends(branch, current, None)
        voltage = graph.sub(graph.probe(branch.plus, branch.minus), potential.value)
        value = graph.select(mode, voltage, graph.sub(current, flow.value))
        across = graph.probe(branch.plus, branch.minus)
        self._heat(branch, graph.select(mode, current, flow.value), graph.select(mode, potential.value, across))
        charge = None
        if potential.charge is not None or flow.charge is not None:
            zero = graph.const(0.0)
            charge = graph.neg(graph.select(mode, potential.charge or zero, flow.charge or zero))
        self._add(unknown, value, charge)
        self._noise(branch, ("potential", branch), unknown)

    def _noise(self, branch: BranchKey, key, row: int | None = None) -> None:
        """Noise of a flow enters between the branch's ends; noise of a potential in the branch's own equation."""
        graph = self.graph
        for number, factor in self.work.get(key).noise.items():
            source = self.work.noise[number]
            if self.noisy.setdefault(number, branch) != branch:
                self.expressions.problems.mistake(
                    source.line,
                    f"noise '{source.name}' enters two branches; correlated noise is not supported: contribute it to one "
                    "inner branch, and take that branch's voltage where it is wanted",
                )
            density = graph.mul(self.work.get(("density", number)).value, graph.mul(factor, factor))
            over = self.parallel if row is None else graph.div(graph.const(1.0), self.parallel)
            exponent = self.work.get(("exponent", number)).value
            ends = self._where(branch.plus, branch.minus) if row is None else (row, GROUND)
            self.found.noise.append(Noise(source.name, source.kind, *ends, graph.mul(over, density), exponent))

    def _readouts(self) -> None:
        for name, variable in self.work.declared.variables.items():
            attributes = variable.attributes
            if "@" in name or variable.size is not None or not {"desc", "units"} & set(attributes):
                continue
            found = self.work.get(name)
            if isinstance(found, Unset):
                found = found.partly or Quantity(self.graph.const(0.0))
            power = MULTIPLICITY.get(attributes.get("multiplicity", ""), 0)
            value = self.graph.real(found.value)
            if power > 0:
                value = self.graph.mul(self.parallel, value)
            elif power < 0:
                value = self.graph.div(value, self.parallel)
            self.found.readouts.append(Readout(name, attributes.get("units", ""), attributes.get("desc", ""), value))

    def _said(self) -> None:
        for number, message in enumerate(self.work.messages):
            active = self.work.get(("said", number)).value
            arguments = tuple(self.work.get(("said", number, k)).value for k in range(message.arguments))
            self.found.said.append(Said(message, active, tuple(map(self.graph.real, arguments))))

    def _differentiate(self) -> None:
        found = self.found
        for row, (flow, charge) in sorted(self.rows.items()):
            if flow is not None:
                found.current[row] = self._extended(flow)
                found.conductance.update({(row, column): s for column, s in self._slopes(flow)})
            if charge is not None:
                found.charge[row] = self._extended(charge)
                found.capacitance.update({(row, column): s for column, s in self._slopes(charge)})

    def _slopes(self, value: Node) -> Iterable[tuple[int, Node]]:
        return by_terminals(self.graph, value, self.graph.joined).items()

    def _extended(self, value: Node) -> Node:
        """The tangent at the limited values, extended to where the unknowns are."""
        graph = self.graph
        for seed, bit, slope in by_limited(graph, value):
            value = graph.add(value, graph.mul(slope, self._excess(seed, bit)))
        return value

    def _excess(self, seed: Limited, bit: int) -> Node:
        with self.graph.within(seed.region):
            excess = self.graph.sub(self._unlimited(seed.value), self.graph.seed(bit))
        return self.graph.exported(excess)

    def _unlimited(self, node: Node) -> Node:
        """A value with each limited value in it replaced by what it would be without limits."""
        graph = self.graph
        if node.op == "seed":
            seed = graph.seeds[node.args[0]]
            return self._unlimited(seed.value) if isinstance(seed, Limited) else node
        if node.op in ("add", "sub", "neg", "mul"):
            return getattr(graph, node.op)(*(self._unlimited(argument) for argument in node.args))
        return node
