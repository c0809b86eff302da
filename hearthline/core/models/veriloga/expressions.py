"""From an expression of the text to a value of the graph."""

from __future__ import annotations

from collections.abc import Callable

from hearthline.core import limits
from hearthline.core.models.veriloga import tree
from hearthline.core.models.veriloga.declarations import ACCESSES, FLOW_OF, GROUND, POTENTIAL_OF, BranchKey, net
from hearthline.core.models.veriloga.functions import FUNCTIONS, IN_THE_LANGUAGE, INF, LARGEST_EXPONENT
from hearthline.core.models.veriloga.node import Branching, Limited, Node
from hearthline.core.models.veriloga.operators import OPERATORS
from hearthline.core.models.veriloga.problems import UnusableError
from hearthline.core.models.veriloga.quantity import Quantity, add, choose
from hearthline.core.models.veriloga.system_functions import SYSTEM_FUNCTIONS
from hearthline.core.models.veriloga.work import Work
from hearthline.core.models.veriloga.written import written

COMPARE = ("<", ">", "<=", ">=", "==", "!=")
WHOLE = {"&": "&", "|": "|", "^": "^", "<<": "<<", ">>": ">>", "<<<": "<<", ">>>": ">>"}

NOT_SUPPORTED = {
    "absdelay": "a delay is not available in this version; approximate it by a chain of RC sections",
    "laplace_nd": "write the transfer function with internal nets and ddt", "laplace_np": "use internal nets and ddt",
    "laplace_zp": "use internal nets and ddt", "laplace_zd": "use internal nets and ddt",
    "zi_nd": "sampled filters are not available", "zi_zp": "sampled filters are not available",
    "zi_np": "sampled filters are not available", "zi_zd": "sampled filters are not available",
    "idtmod": "use idt, and take the remainder of what it gives", "transition": "use tanh of a voltage for a soft step",
    "slew": "use an internal net with a limited current into a capacitance", "last_crossing": "use a measurement",
    "noise_table": "use white_noise and flicker_noise", "noise_table_log": "use white_noise and flicker_noise",
    "ac_stim": "use a source part beside the device", "$random": "spread of parameters is the kit's business",
    "$rdist_normal": "spread of parameters is the kit's business", "$table_model": "use a formula",
}  # fmt: skip


class Expressions:
    """Evaluates expressions in the state of `work`."""

    def __init__(self, work: Work):
        self.work, self.graph, self.problems = work, work.graph, work.problems
        # set by whoever walks through the statements, since functions are made of those
        self.call_function: Callable[[tree.Function, tree.Call], Node]
        self.call_limit: Callable[[str, tuple[Node, ...], tree.Node], Node]

    # entry points
    def quantity(self, node: tree.Node) -> Quantity:
        """The value of an expression, with what stands under d/dt and noise kept apart."""
        return _MAKERS[type(node)](self, node)

    def value(self, node: tree.Node) -> Node:
        """The value of an expression where only a value will do."""
        return self.as_value(self.quantity(node), node.line)

    def as_value(self, quantity: Quantity, line: int) -> Node:
        """A quantity as one value: d/dt of something becomes an unknown of its own."""
        if quantity.noise:
            raise self.problems.mistake(line, "noise may only be scaled, added and contributed")
        if quantity.charge is None:
            return quantity.value
        if self.graph.current is not self.graph.top:
            raise self.problems.mistake(
                line,
                "ddt inside a condition may only be scaled, added and contributed; compute it before the condition",
            )
        terminal = self.work.new_state("ddt")
        state = self.graph.probe(terminal)
        self.work.states.append((terminal, Quantity(self.graph.neg(state), quantity.charge)))
        return self.graph.add(quantity.value, state)

    # literals and names
    def _number(self, node):
        if not -(2.0**63) <= node.value < 2.0**63 and node.whole:
            raise self.problems.mistake(node.line, "this is too large for an integer; write it with a point, as 1.0e20")
        return Quantity(self.graph.const(int(node.value) if node.whole else node.value))

    def _text(self, node):
        return Quantity(self.work.text(node.value))

    def _array(self, node):
        raise self.problems.mistake(node.line, "a list of values cannot stand here")

    def _name(self, node):
        name = self.resolve(node.name)
        work = self.work
        if name in work.parameters:
            found = work.parameters[name]
            if isinstance(found, tuple):
                raise self.problems.mistake(node.line, f"'{node.name}' is an array; say which element: {node.name}[0]")
            return Quantity(found)
        variable = work.declared.variables.get(name)
        if variable is None:
            raise self._not_a_value(node)
        if variable.size is not None:
            raise self.problems.mistake(node.line, f"'{node.name}' is an array; say which element: {node.name}[0]")
        return self._read(name, node)

    def resolve(self, name: str) -> str:
        """The full name of a variable or parameter: those of the innermost block first."""
        for scope in reversed(self.work.scopes):
            if name in scope:
                return scope[name]
        return self.work.declared.aliases.get(name, name)

    def _not_a_value(self, node) -> UnusableError:
        declared = self.work.declared
        if node.name in declared.parameters:
            return self.problems.mistake(node.line, f"parameter '{node.name}' is used before it is declared")
        if node.name in declared.nets:
            return self.problems.mistake(node.line, f"'{node.name}' is a net; write V({node.name}) for its voltage")
        if node.name in declared.branches:
            return self.problems.mistake(
                node.line, f"'{node.name}' is a branch; write V({node.name}) or I({node.name})"
            )
        return self.work.unknown(node.name, node.line, declared.names())

    def _read(self, key, node) -> Quantity:
        found = self.work.get(key)
        if isinstance(found, Quantity):
            return found
        where = self.problems.place(found.line)[1] if found.line else 0
        reason = f"is set on one side only of the condition at line {where}" if where else "is read before it is set"
        raise self.problems.mistake(
            node.line, f"variable '{node.name}' {reason}; what it held before would be hidden state. Set it first"
        )

    def _element(self, node):
        name = self.resolve(node.name)
        index = self.value(node.index)
        if name in self.work.parameters and isinstance(self.work.parameters[name], tuple):
            first = self.array_first(self.work.declared.parameters[name])
            return self._pick([Quantity(e) for e in self.work.parameters[name]], first, index, node)
        variable = self.work.declared.variables.get(name)
        if variable is None or variable.size is None:
            raise self.problems.mistake(node.line, f"'{node.name}' is no array")
        first, count = self.array_span(variable)
        if index.constant:
            self._check_index(index.value, first, count, node)
            return self._read((name, int(index.value)), node)
        return self._pick([self._read((name, first + k), node) for k in range(count)], first, index, node)

    def _check_index(self, index, first: int, count: int, node) -> None:
        if not first <= index < first + count:
            last = first + count - 1
            raise self.problems.mistake(node.line, f"index {index} of '{node.name}' is outside [{first}:{last}]")

    def _pick(self, items, first, index, node) -> Quantity:
        if index.constant:
            self._check_index(index.value, first, len(items), node)
            return items[int(index.value) - first]
        result = items[-1].value
        for k, item in reversed(list(enumerate(items[:-1]))):
            hit = self.graph.compare("==", index, self.graph.const(first + k))
            result = self.graph.select(hit, item.value, result)
        return Quantity(result)

    def array_span(self, declared) -> tuple[int, int]:
        """First index and count of an array's elements."""
        ends = [self.value(end) for end in declared.size]
        if not all(end.constant for end in ends):
            raise self.problems.mistake(declared.line, f"the size of '{declared.name}' must be a number")
        if not all(abs(end.value) <= 1e9 for end in ends):
            raise self.problems.mistake(declared.line, f"the size of '{declared.name}' must be a small whole number")
        low, high = sorted(int(end.value) for end in ends)
        if high - low >= limits.ELEMENTS:
            raise self.problems.mistake(
                declared.line, f"'{declared.name}' has {high - low + 1} elements; at most {limits.ELEMENTS} are allowed"
            )
        return low, high - low + 1

    def array_first(self, declared) -> int:
        """First index of an array."""
        return self.array_span(declared)[0]

    # operators
    def _unary(self, node):
        inner = self.quantity(node.operand)
        if node.operator == "-":
            return inner.each(self.graph.neg)
        if node.operator == "+":
            return inner
        value = self.as_value(inner, node.line)
        if node.operator == "!":
            return Quantity(self.graph.not_(self.graph.truth(value)))
        return Quantity(self.graph.sub(self.graph.const(-1), self.graph.to_whole(value)))

    def _binary(self, node):
        links = []
        while isinstance(node, tree.Binary):  # a long sum is a chain to the left: without recursion
            links.append(node)
            node = node.left
        found = self.quantity(node)
        for link in reversed(links):
            found = self._joined(link, found)
        return found

    def _joined(self, node, a: Quantity) -> Quantity:
        """What an operator makes of the quantity before it and the expression behind it."""
        operator = node.operator
        if operator in ("&&", "||"):
            x, y = self.graph.truth(self.as_value(a, node.line)), self.graph.truth(self.value(node.right))
            return Quantity(self.graph.both(x, y) if operator == "&&" else self.graph.either(x, y))
        b = self.quantity(node.right)
        if operator == "+":
            return add(self.graph, a, b)
        if operator == "-":
            return add(self.graph, a, b.each(self.graph.neg))
        if operator == "*":
            return self._times(a, b, node)
        if operator == "/":
            return self._over(a, b, node)
        x, y = self.as_value(a, node.line), self.as_value(b, node.line)
        if operator in COMPARE:
            return Quantity(self.graph.compare(operator, x, y))
        if operator == "**":
            if x.whole and y.whole and not (y.constant and y.value < 0):
                return Quantity(self.graph.to_whole(self.graph.make("pow", self.graph.real(x), self.graph.real(y))))
            return Quantity(self.graph.make("pow", self.graph.real(x), self.graph.real(y)))
        if operator == "%":
            both = x.whole and y.whole
            return Quantity(self.graph.whole_op("mod", x, y) if both else self.graph.real_mod(x, y))
        return Quantity(self.graph.whole_op(WHOLE[operator], x, y))

    def _times(self, a: Quantity, b: Quantity, node) -> Quantity:
        if not b.plain and a.plain:
            a, b = b, a
        if a.plain or (b.plain and b.value.level < 2):
            factor = b.value
            return a.each(lambda part: self.graph.mul(part, factor))
        if b.plain and a.charge is None:  # noise times a bias-dependent factor
            return a.each(lambda part: self.graph.mul(part, b.value))
        return Quantity(self.graph.mul(self.as_value(a, node.line), self.as_value(b, node.line)))

    def _over(self, a: Quantity, b: Quantity, node) -> Quantity:
        divisor = self.as_value(b, node.line)
        self._warn_of_zero(divisor, node)
        if a.value.whole and divisor.whole:
            return Quantity(self.graph.whole_op("idiv", a.value, divisor))
        if a.plain or divisor.level < 2 or a.charge is None:
            return a.each(lambda part: self.graph.div(part, divisor))
        return Quantity(self.graph.div(self.as_value(a, node.line), divisor))

    def _warn_of_zero(self, divisor: Node, node) -> None:
        """Where the bounds of the divisor are known to hold 0, or where it is a voltage or current that may be 0."""
        if not divisor.low <= 0 <= divisor.high or self._guarded(divisor):
            return
        if divisor.constant:
            self.problems.mistake(node.line, "division by zero")
        bounded = divisor.low > -INF or divisor.high < INF
        if divisor.level == 2 and (reaches_everything(divisor) or (bounded and divisor.low != 0)):
            self.problems.warn(
                node.line, f"division by {written(node.right)}, which can be 0; bound it, or test it before"
            )
        elif divisor.op == "select" and bounded:
            self.problems.warn(
                node.line, f"division by {written(node.right)}, which may be given as 0; exclude that from its range"
            )

    def _guarded(self, node: Node) -> bool:
        """Whether a condition around here speaks of this very value."""
        stack = list(self.work.guards)
        while stack:
            guard = stack.pop()
            if guard is node:
                return True
            if guard.op in ("and", "or", "not", "<", ">", "<=", ">=", "==", "!="):
                stack.extend(guard.operands)
        return False

    def _ternary(self, node):
        condition = self.graph.truth(self.value(node.condition))
        if condition.constant:
            return self.quantity(node.yes if condition.value else node.no)
        branching = Branching(condition, self.graph.current)
        with self.work.side(branching, True):
            yes = self.quantity(node.yes)
        with self.work.side(branching, False):
            no = self.quantity(node.no)
        return choose(self.graph, branching, yes, no)

    # functions and accesses
    def _call(self, node):
        name = node.name
        if name in ACCESSES and name not in self.work.declared.functions:
            return Quantity(self.access(node))
        if name in OPERATORS:
            return OPERATORS[name](self, node)
        if name in self.work.declared.functions:
            return Quantity(self.call_function(self.work.declared.functions[name], node))
        if name in NOT_SUPPORTED:
            raise self.problems.mistake(node.line, f"{name} is not supported; {NOT_SUPPORTED[name]}")
        if name not in IN_THE_LANGUAGE:
            known = [*IN_THE_LANGUAGE, *self.work.declared.functions, "ddt", "idt", "ddx", "limexp", "white_noise"]
            raise self.work.unknown(name, node.line, known, "function")
        return Quantity(self._mathematical(name, node))

    def _mathematical(self, name: str, node) -> Node:
        function = FUNCTIONS[name]
        if len(node.arguments) != function.arity:
            raise self.problems.mistake(
                node.line, f"{name} takes {function.arity} argument(s), not {len(node.arguments)}"
            )
        arguments = [self.value(argument) for argument in node.arguments]
        if name in ("min", "max", "abs") and all(a.whole for a in arguments):
            return self.graph.to_whole(self.graph.make(name, *map(self.graph.real, arguments)))
        arguments = [self.graph.real(a) for a in arguments]
        if name == "exp":
            self._warn_of_overflow(arguments[0], node)
        return self.graph.make(name, *arguments)

    def _warn_of_overflow(self, argument: Node, node) -> None:
        if argument.high <= LARGEST_EXPONENT or not reaches_everything(argument) or self._guarded(argument):
            return
        seeds = self.graph.seeds
        if all(isinstance(seeds[k], Limited) for k in range(len(seeds)) if argument.seeds >> k & 1):
            return
        what = written(node.arguments[0])
        self.problems.warn(node.line, f'exp({what}) can overflow; use limexp, or $limit the voltage with "pnjlim"')

    def access(self, node) -> Node:
        """V(a, b), I(a, b), Temp(t), Pwr(t)."""
        branch, sign = self.branch(node)
        if node.name in ("V", "Temp"):
            value = self.graph.probe(branch.plus, branch.minus)
        else:
            terminal = self.work.branches.get(branch)
            if terminal is None:
                terminal = self.work.new_terminal(f"flow({branch_name(self.work, branch)})", "current")
                self.work.branches[branch] = terminal
            value = self.graph.div(self.graph.probe(terminal), self.multiplicity())
        return value if sign > 0 else self.graph.neg(value)

    def branch(self, node) -> tuple[BranchKey, int]:
        """The branch that an access names, and -1 where it is named the other way round."""
        declared = self.work.declared
        names = []
        for argument in node.arguments:
            if not isinstance(argument, tree.Name):
                raise self.problems.mistake(node.line, f"{node.name}(...) takes nets or a branch by name")
            names.append(argument.name)
        if not 1 <= len(names) <= 2:
            raise self.problems.mistake(node.line, f"{node.name}(...) takes one or two nets, or a branch")
        if len(names) == 1 and names[0] in declared.branches:
            key = declared.branches[names[0]]
            self.check_access(node, (key.plus, key.minus))
            return key, 1
        ends = [net(declared, name, node.line) for name in names]
        self.check_access(node, ends)
        plus, minus = ends[0], ends[1] if len(ends) > 1 else GROUND
        if plus == minus:
            raise self.problems.mistake(node.line, f"both ends of {node.name}({', '.join(names)}) are the same net")
        if plus == GROUND or (minus != GROUND and minus < plus):
            return BranchKey(minus, plus), -1
        return BranchKey(plus, minus), 1

    def check_access(self, node, ends) -> None:
        words = POTENTIAL_OF if node.name in ("V", "Temp") else FLOW_OF
        for end in ends:
            if end == GROUND:
                continue
            terminal = self.work.terminals[end]
            wanted = words.get(terminal.discipline, node.name)  # an unknown discipline has been told already
            if node.name != wanted:
                raise self.problems.mistake(
                    node.line, f"net '{terminal.name}' is {terminal.discipline}; use {wanted or 'another net'}(...)"
                )

    def _portcall(self, node):
        raise self.problems.mistake(
            node.line, f"{node.name}(<{node.port}>) is not supported; add up the currents of its branches"
        )

    def count(self, node, minimum: int, maximum: int) -> None:
        """Raises a mistake where a call has more or fewer arguments."""
        if not minimum <= len(node.arguments) <= maximum:
            wanted = str(minimum) if minimum == maximum else f"{minimum} to {maximum}"
            raise self.problems.mistake(node.line, f"{node.name} takes {wanted} argument(s), not {len(node.arguments)}")

    # system functions
    def _system(self, node):
        plain = node.name[1:]
        if plain in SYSTEM_FUNCTIONS:
            return Quantity(SYSTEM_FUNCTIONS[plain](self, node))
        if node.name in NOT_SUPPORTED:
            raise self.problems.mistake(node.line, f"{node.name} is not supported; {NOT_SUPPORTED[node.name]}")
        if plain in IN_THE_LANGUAGE and plain in FUNCTIONS:
            return Quantity(self._mathematical(plain, node))
        known = ", ".join(f"${name}" for name in SYSTEM_FUNCTIONS)
        raise self.problems.mistake(node.line, f"unknown system function {node.name}; there are {known}")

    def temperature(self) -> Node:
        """Of the lane [K], with what the device is warmer by where it heats itself."""
        graph, heat = self.graph, self.work.heat
        if heat is None:
            return graph.input("environment", 0, bounds=(1e-3, 1e9))
        with graph.within(graph.top):
            own = graph.add(graph.input("environment", 0, bounds=(COLDEST, HOTTEST)), graph.probe(heat))
            return graph.make("max", graph.make("min", own, graph.const(HOTTEST)), graph.const(COLDEST))

    def multiplicity(self) -> Node:
        """How many such devices stand in parallel."""
        return self.graph.input("environment", 1, bounds=(1e-30, 1e30))


COLDEST, HOTTEST = 50.0, 2000.0
"""[K] Of a device that heats itself, while its solution is looked for."""

_MAKERS: dict[type[tree.Node], Callable[[Expressions, tree.Node], Quantity]] = {
    tree.Number: Expressions._number, tree.Text: Expressions._text, tree.Array: Expressions._array,
    tree.Name: Expressions._name, tree.Element: Expressions._element, tree.Unary: Expressions._unary,
    tree.Binary: Expressions._binary, tree.Ternary: Expressions._ternary, tree.Call: Expressions._call,
    tree.PortCall: Expressions._portcall, tree.System: Expressions._system,
}  # fmt: skip


def reaches_everything(node: Node) -> bool:
    """Whether a value goes straight with a voltage or current, so that nothing bounds it."""
    if node.op == "seed":
        return True
    if node.op in ("add", "sub", "neg", "real", "mul", "select", "phi", "exp"):
        return any(reaches_everything(operand) for operand in node.operands if operand.level == 2)
    return node.op == "div" and reaches_everything(node.args[0])


def branch_name(work: Work, branch: BranchKey) -> str:
    """A branch as a person would write it."""
    if branch.name:
        return branch.name
    ends = [work.terminals[end].name for end in (branch.plus, branch.minus) if end != GROUND]
    return ",".join(ends)
