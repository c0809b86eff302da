"""Works through the statements of a module: assignments, conditions, loops, contributions, functions."""

from __future__ import annotations

from functools import cache

from hearthline.core.models.veriloga import tree
from hearthline.core.models.veriloga.declarations import BranchKey
from hearthline.core.models.veriloga.expressions import Expressions
from hearthline.core.models.veriloga.node import Branching, Loop, Node
from hearthline.core.models.veriloga.parser import parse
from hearthline.core.models.veriloga.problems import UnusableError
from hearthline.core.models.veriloga.quantity import Quantity, add
from hearthline.core.models.veriloga.source import STANDARD, read_source
from hearthline.core.models.veriloga.work import Message, Unset, Work
from hearthline.core.models.veriloga.written import written

MOST_TURNS = 2000
"""A loop of more turns than this is not unrolled."""

SAYING = {"$strobe": "note", "$display": "note", "$write": "note", "$monitor": "note", "$debug": "note", "$info": "note",
          "$warning": "warning", "$error": "warning", "$finish": "finish", "$stop": "finish", "$fatal": "finish"}  # fmt: skip
IGNORED_TASKS = ("$bound_step", "$discontinuity", "$fclose", "$fopen")


@cache
def limiting_functions() -> dict[str, tree.Function]:
    """The functions of `standard/limiting.vams`."""
    text = (STANDARD / "limiting.vams").read_text(encoding="utf-8")
    source = read_source(text, "limiting.vams", STANDARD)
    (module,) = parse(source.text, source.problems)
    return {item.name: item for item in module.items if isinstance(item, tree.Function)}


class Statements:
    """Executes statements in the state of `work`."""

    def __init__(self, work: Work):
        self.work, self.graph, self.problems = work, work.graph, work.problems
        self.expressions = Expressions(work)
        self.expressions.call_function = self._function
        self.expressions.call_limit = self._limit

    def run(self, node: tree.Node) -> None:
        """One statement. A mistake in it is written down, and the next statement is still looked at."""
        self.work.step(node.line)
        try:
            getattr(self, "_" + type(node).__name__.lower())(node)
        except UnusableError:
            self._forget(node)

    def _forget(self, node: tree.Node) -> None:
        """After a mistake the variable counts as set, so that one mistake does not cause ten."""
        if isinstance(node, tree.Assign):
            name = self.expressions.resolve(node.name)
            key = name if node.index is None else (name, 0)
            self.work.values[key] = Quantity(self.graph.input("environment", 0))

    # plain statements
    def _block(self, node):
        scope: dict[str, str] = {}
        for declared in node.declarations:
            self._local(declared, scope)
        self.work.scopes.append(scope)
        for statement in node.statements:
            self.run(statement)
        self.work.scopes.pop()

    def _local(self, declared, scope: dict[str, str]) -> None:
        """A variable or parameter of a block, under a name of its own."""
        if isinstance(declared, tree.Parameter):
            self.problems.mistake(declared.line, f"declare parameter '{declared.name}' outside of the block")
            return
        unique = f"{declared.name}@{declared.line}"
        scope[declared.name] = unique
        self.work.declared.variables[unique] = declared
        self.start_variable(unique, declared)

    def start_variable(self, name: str, variable: tree.Variable) -> None:
        """Forgets what a variable was, or gives it the value it is declared with."""
        keys: list[object] = [name]
        if variable.size is not None:
            first, count = self.expressions.array_span(variable)
            keys = [(name, first + k) for k in range(count)]
        items = variable.start.items if isinstance(variable.start, tree.Array) else [variable.start] * len(keys)
        for key, item in zip(keys, items, strict=False):
            self.work.values.pop(key, None)
            if item is not None:
                value = self.expressions.value(item)
                self.work.values[key] = Quantity(self._typed(value, variable.type))

    def _typed(self, value: Node, kind: str) -> Node:
        if kind in ("integer", "genvar"):
            return self.graph.to_whole(value)
        return self.graph.real(value) if kind == "real" else value

    def _assign(self, node):
        name = self.expressions.resolve(node.name)
        variable = self.work.declared.variables.get(name)
        if variable is None:
            raise self._not_a_variable(node)
        quantity = self.expressions.quantity(node.value)
        if variable.type in ("integer", "genvar", "string") or (not quantity.plain and node.index is not None):
            quantity = Quantity(self._typed(self.expressions.as_value(quantity, node.line), variable.type))
        elif quantity.plain:
            quantity = Quantity(self.graph.real(quantity.value))
        if (node.index is None) != (variable.size is None):
            what = "is an array; say which element" if node.index is None else "is no array"
            raise self.problems.mistake(node.line, f"'{node.name}' {what}")
        if node.index is None:
            self.work.values[name] = quantity
        else:
            self._assign_element(name, variable, node, quantity)

    def _not_a_variable(self, node) -> UnusableError:
        declared = self.work.declared
        if node.name in declared.parameters or node.name in declared.aliases:
            return self.problems.mistake(node.line, f"parameter '{node.name}' cannot be assigned to; use a variable")
        if node.name in declared.nets or node.name in declared.branches:
            return self.problems.mistake(
                node.line, f"'{node.name}' is no variable; contribute with I({node.name}) <+ ..."
            )
        return self.work.unknown(node.name, node.line, list(declared.variables), "variable")

    def _assign_element(self, name, variable, node, quantity) -> None:
        first, count = self.expressions.array_span(variable)
        index = self.expressions.value(node.index)
        if index.constant:
            self.expressions._check_index(index.value, first, count, node)
            self.work.values[name, int(index.value)] = quantity
            return
        for k in range(first, first + count):
            before = self.work.get((name, k))
            old = before.value if isinstance(before, Quantity) else self.graph.const(0.0)
            hit = self.graph.compare("==", index, self.graph.const(k))
            self.work.values[name, k] = Quantity(self.graph.select(hit, quantity.value, old))

    # conditions
    def _if(self, node):
        condition = self.graph.truth(self.expressions.value(node.condition))
        if condition.constant:
            chosen = node.yes if condition.value else node.no
            if chosen is not None:
                self.run(chosen)
            return
        self._either(condition, lambda: self.run(node.yes), lambda: node.no and self.run(node.no), node.line)

    def _either(self, condition: Node, yes, no, line: int) -> None:
        branching = Branching(condition, self.graph.current)
        before, ends = dict(self.work.values), []
        for side, action in ((True, yes), (False, no)):
            self.work.values = dict(before)
            with self.work.side(branching, side):
                action()
            ends.append(self.work.values)
        self.work.merge(branching, *ends, line)

    def _case(self, node):
        subject = self.expressions.value(node.subject)
        labelled = [(labels, body) for labels, body in node.choices if labels is not None]
        default = next((body for labels, body in node.choices if labels is None), None)
        self._choice(subject, labelled, default, node)

    def _choice(self, subject, labelled, default, node) -> None:
        if not labelled:
            if default is not None:
                self.run(default)
            return
        (labels, body), *rest = labelled
        hits = [self.graph.compare("==", subject, self.expressions.value(label)) for label in labels]
        condition = hits[0]
        for hit in hits[1:]:
            condition = self.graph.either(condition, hit)
        if condition.constant:
            if condition.value:
                self.run(body)
            else:
                self._choice(subject, rest, default, node)
            return
        self._either(condition, lambda: self.run(body), lambda: self._choice(subject, rest, default, node), node.line)

    # loops
    def _for(self, node):
        self.run(node.first)
        self._loop(node.condition, [node.body, node.step], node.line)

    def _while(self, node):
        self._loop(node.condition, [node.body], node.line)

    def _repeat(self, node):
        count = self.expressions.value(node.count)
        if not count.constant or count.value > MOST_TURNS:
            raise self.problems.mistake(node.line, f"repeat takes a number up to {MOST_TURNS}; use a for loop")
        for _ in range(int(count.value)):
            self.run(node.body)

    def _loop(self, condition, body, line) -> None:
        """Unrolled as long as the condition is a number; else a loop in the compiled code."""
        for _ in range(MOST_TURNS):
            known = self.graph.truth(self.expressions.value(condition))
            if not known.constant:
                break
            if not known.value:
                return
            found = len(self.problems.mistakes)
            for statement in body:
                self.run(statement)
            if len(self.problems.mistakes) > found:
                return
        else:
            self.problems.mistake(line, f"this loop runs more than {MOST_TURNS} times with fixed numbers, or for ever")
            return
        self._compiled_loop(condition, body, line)

    def _compiled_loop(self, condition, body, line) -> None:
        """Tried with what the carried variables depend on at the start, then with what they turn out to depend on."""
        names = [key for key in self._assigned(body) if isinstance(self.work.values.get(key), Quantity)]
        missing = [key for key in self._assigned(body) if key not in names]
        before = dict(self.work.values)
        firsts = [self.expressions.as_value(before[key], line) for key in names]
        seeds, level = [first.seeds for first in firsts], max([1, *(first.level for first in firsts)])
        for _ in range(len(self.graph.seeds) + len(names) + 8):
            self.work.values = dict(before)
            for key in missing:
                self.work.values.pop(key, None)
            loop, following = self._turn(condition, body, names, firsts, seeds, level, line)
            now_level = max([level, loop.condition.level, *(node.level for node in following)])
            now_seeds = [a | b.seeds for a, b in zip(seeds, following, strict=True)]
            if now_level == level and now_seeds == seeds:
                break
            seeds, level = now_seeds, now_level
        self.work.values = dict(before)
        for key in missing:
            self.work.values[key] = Unset(line)
        for position, (key, entry) in enumerate(zip(names, loop.carried, strict=True)):
            region = self.graph.current if level == 2 else loop.region
            out = self.graph.node("loop out", (loop, position), level, entry[0].seeds, entry[0].whole, region=region)
            self.work.values[key] = Quantity(out)

    def _turn(self, condition, body, names, firsts, seeds, level, line):
        region = self.graph.current if level == 2 else self.graph.static
        loop = Loop(region, level)
        for position, (first, mask) in enumerate(zip(firsts, seeds, strict=True)):
            variable = self.graph.node(
                "loop variable", (loop, position), level, mask if level == 2 else 0, first.whole, region=loop.body
            )
            loop.carried.append([variable, first, None])
            self.work.values[names[position]] = Quantity(variable)
        self.work.in_loop += 1
        body_of = self.graph.within if level == 2 else self.graph.within_static
        with body_of(loop.body):
            loop.condition = self.graph.truth(self.expressions.value(condition))
            for statement in body:
                self.run(statement)
            following = [self.expressions.as_value(self.work.values[key], line) for key in names]
        self.work.in_loop -= 1
        for entry, node in zip(loop.carried, following, strict=True):
            entry[2] = node if node.whole == entry[0].whole else self.graph.real(node)
        return loop, [entry[2] for entry in loop.carried]

    def _assigned(self, nodes) -> list[object]:
        """Keys of the variables that statements assign to."""
        found: dict[object, None] = {}
        stack = list(nodes)
        while stack:
            node = stack.pop()
            if isinstance(node, tree.Assign):
                name = self.expressions.resolve(node.name)
                variable = self.work.declared.variables.get(name)
                if variable is None or variable.size is None:
                    found[name] = None
                else:
                    first, count = self.expressions.array_span(variable)
                    found.update(dict.fromkeys((name, first + k) for k in range(count)))
            if isinstance(node, tree.Node):
                stack.extend(node.__dict__.values())
            elif isinstance(node, tuple):
                stack.extend(node)
        return list(found)

    # contributions
    def _contribute(self, node):
        if self.work.in_loop:
            raise self.problems.mistake(
                node.line, "a contribution cannot stand in a loop of unknown length; sum up first"
            )
        if not isinstance(node.access, tree.Call) or node.access.name not in ("V", "I", "Temp", "Pwr"):
            raise self.problems.mistake(node.line, "contributions are written I(a, b) <+ ..., or V(a, b) <+ ...")
        branch, sign = self.expressions.branch(node.access)
        quantity = self.expressions.quantity(node.value)
        quantity = Quantity(self.graph.real(quantity.value), quantity.charge, quantity.noise)
        if sign < 0:
            quantity = quantity.each(self.graph.neg)
        self.work.branches.setdefault(branch, None)
        potential = node.access.name in ("V", "Temp")
        self._add(branch, "potential" if potential else "flow", quantity)
        self.work.values["mode", branch] = Quantity(self.graph.const(float(potential)))
        self.work.values.pop(("flow" if potential else "potential", branch), None)

    def _add(self, branch: BranchKey, what: str, quantity: Quantity) -> None:
        key = (what, branch)
        self.work.values[key] = add(self.graph, self.work.get(key), quantity)

    def _indirect(self, node):
        raise self.problems.mistake(
            node.line, "indirect contributions are not supported; write the branch's own equation with <+"
        )

    def _event(self, node):
        if set(node.names) <= {"initial_step", "initial_model", "initial_instance"}:
            before = dict(self.work.values)
            self.run(node.body)
            for key, now in self.work.values.items():
                if isinstance(now, Quantity) and now is not before.get(key) and now.value.level == 2:
                    raise self.problems.mistake(
                        node.line,
                        f"@(initial_step) sets '{key}' from a voltage or current, which would be hidden state",
                    )
        elif set(node.names) <= {"final_step"}:
            self.problems.warn(node.line, "@(final_step) is left out")
        else:
            raise self.problems.mistake(
                node.line, f"events as @({node.names[0]}) are not supported; test the voltage with `if`, or use idt"
            )

    def _task(self, node):
        if node.name in IGNORED_TASKS:
            self.problems.warn(node.line, f"{node.name} is left out")
            return
        if node.name not in SAYING:
            raise self.problems.mistake(node.line, f"unknown task {node.name}; there are {', '.join(SAYING)}")
        arguments = list(node.arguments)
        if node.name in ("$finish", "$stop", "$fatal") and arguments and isinstance(arguments[0], tree.Number):
            arguments.pop(0)
        text = arguments.pop(0).value if arguments and isinstance(arguments[0], tree.Text) else ""
        number = len(self.work.messages)
        values = [self.expressions.value(argument) for argument in arguments]
        if not text:
            text = " ".join(f"{written(argument)} = %g" for argument in arguments) or f"asked for {node.name}"
        self.work.messages.append(Message(SAYING[node.name], text, len(values), self.problems.place(node.line)[1]))
        self.work.values["said", number] = Quantity(self.graph.const(1))
        for k, value in enumerate(values):
            self.work.values["said", number, k] = Quantity(value)

    # functions
    def _function(self, function: tree.Function, node) -> Node:
        """Calls an analog function by working through its body with its own variables."""
        if function.name in self.work.calls:
            raise self.problems.mistake(node.line, f"function '{function.name}' calls itself, which is not allowed")
        if len(node.arguments) != len(function.arguments):
            wanted = ", ".join(name for name, _ in function.arguments)
            raise self.problems.mistake(
                node.line, f"{function.name} takes {len(function.arguments)} arguments: {wanted}"
            )
        given = [
            self.expressions.value(argument) if direction != "output" else self.graph.const(0.0)
            for argument, (_, direction) in zip(node.arguments, function.arguments, strict=True)
        ]
        result, outputs = self._work_through(function, given, node)
        for argument, (name, direction), value in zip(node.arguments, function.arguments, outputs, strict=True):
            if direction != "input":
                self._give_back(argument, name, value)
        return result

    def _work_through(self, function: tree.Function, given, node) -> tuple[Node, list[Node]]:
        """What a function gives back, and what its arguments are at its end."""
        work, types = self.work, {v.name: v.type for v in function.variables}
        outer_scopes, work.scopes = work.scopes, []
        scope = self._function_scope(function, types)
        for (name, _), value in zip(function.arguments, given, strict=True):
            work.values[scope[name]] = Quantity(self._typed(value, types.get(name, "real")))
        work.scopes.append(scope)
        work.calls.append(function.name)
        self.run(function.body)
        work.calls.pop()
        result = self._own(scope[function.name], node)
        outputs = [self._own(scope[name], node) for name, _ in function.arguments]
        work.scopes = outer_scopes
        return result, outputs

    def _limit(self, name: str, given, node) -> Node:
        """One of the standard limits. What it decides is no condition of the text."""
        guards, self.work.guards = self.work.guards, []
        warnings = list(self.problems.warnings)
        result, _ = self._work_through(limiting_functions()[name], given, node)
        self.work.guards, self.problems.warnings = guards, warnings
        return result

    def _function_scope(self, function, types) -> dict[str, str]:
        depth = len(self.work.calls)
        names = [function.name, *types, *(name for name, _ in function.arguments)]
        scope = {name: f"{name}@{function.name}@{depth}" for name in names}
        for name, unique in scope.items():
            kind = types.get(name, function.type if name == function.name else "real")
            declared = next((v for v in function.variables if v.name == name), None)
            size = declared.size if declared else None
            self.work.declared.variables[unique] = tree.Variable(function.line, name, kind, size)
            keys = [unique]
            if size is not None:
                first, count = self.expressions.array_span(declared)
                keys = [(unique, first + k) for k in range(count)]
            for key in keys:
                self.work.values[key] = Quantity(self.graph.const(0 if kind == "integer" else 0.0))
        return scope

    def _own(self, key, node) -> Node:
        found = self.work.get(key)
        if isinstance(found, Unset):
            found = found.partly or Quantity(self.graph.const(0.0))
        return self.expressions.as_value(found, node.line)

    def _give_back(self, argument, name, value) -> None:
        if not isinstance(argument, tree.Name):
            raise self.problems.mistake(argument.line, f"output '{name}' needs a variable")
        target = self.expressions.resolve(argument.name)
        variable = self.work.declared.variables.get(target)
        if variable is None:
            raise self.work.unknown(argument.name, argument.line, list(self.work.declared.variables), "variable")
        self.work.values[target] = Quantity(self._typed(value, variable.type))
