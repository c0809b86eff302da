"""The parameters of a module as values: given or default, within their ranges."""

from __future__ import annotations

import math
from dataclasses import dataclass

from hearthline.core.models.veriloga import tree
from hearthline.core.models.veriloga.expressions import Expressions
from hearthline.core.models.veriloga.functions import INF
from hearthline.core.models.veriloga.node import Node
from hearthline.core.models.veriloga.problems import UnusableError
from hearthline.core.models.veriloga.work import Work
from hearthline.core.models.veriloga.written import written


@dataclass(frozen=True)
class Input:
    """A parameter that may be given, in the order of the arrays that the setup takes."""

    name: str
    type: str
    default: str
    allowed: str
    unit: str
    meaning: str
    instance: bool


@dataclass(frozen=True)
class Check:
    """A range of the parameter at `index`: a value that is 1 where it is violated."""

    index: int
    violated: Node


class Parameters:
    """Makes the values of all parameters in the state of `work`; `inputs` and `checks` are what the setup needs."""

    def __init__(self, work: Work, expressions: Expressions):
        self.work, self.graph, self.problems, self.expressions = work, work.graph, work.problems, expressions
        self.inputs: list[Input] = []
        self.checks: list[Check] = []

    def declare_all(self) -> None:
        """In the order of the text; a default may name those before it."""
        for parameter in self.work.declared.parameters.values():
            try:
                self._declare(parameter)
            except UnusableError:
                self.work.parameters[parameter.name] = self.graph.input("environment", 0)
                self.work.given[parameter.name] = self.graph.const(0)

    def _declare(self, parameter: tree.Parameter) -> None:
        if parameter.size is not None:
            self._array(parameter)
            return
        default = self.expressions.value(parameter.default)
        self._check_level(parameter, default)
        kind = self._type(parameter, default)
        default = self._typed(default, kind)
        if parameter.fixed:
            self.work.parameters[parameter.name] = default
            self.work.given[parameter.name] = self.graph.const(0)
            return
        self.work.parameters[parameter.name] = self._input(parameter, parameter.name, kind, default)

    def _check_level(self, parameter: tree.Parameter, value: Node) -> None:
        if value.level == 2:
            raise self.problems.mistake(
                parameter.line,
                f"parameter '{parameter.name}' depends on a voltage or current; it is set before there are any",
            )

    def _array(self, parameter: tree.Parameter) -> None:
        first, count = self.expressions.array_span(parameter)
        items = parameter.default.items if isinstance(parameter.default, tree.Array) else [parameter.default] * count
        if len(items) != count:
            raise self.problems.mistake(
                parameter.line, f"'{parameter.name}' has {count} elements and {len(items)} defaults"
            )
        values = []
        for k, item in enumerate(items):
            default = self.expressions.value(item)
            self._check_level(parameter, default)
            kind = self._type(parameter, default)
            name = f"{parameter.name}[{first + k}]"
            default = self._typed(default, kind)
            values.append(default if parameter.fixed else self._input(parameter, name, kind, default))
        self.work.parameters[parameter.name] = tuple(values)
        self.work.given[parameter.name] = self.work.given.get(f"{parameter.name}[{first}]", self.graph.const(0))

    def _type(self, parameter: tree.Parameter, default: Node) -> str:
        if parameter.type:
            return parameter.type
        if isinstance(parameter.default, tree.Text):
            return "string"
        return "integer" if default.whole else "real"

    def _typed(self, value: Node, kind: str) -> Node:
        return self.graph.real(value) if kind == "real" else self.graph.to_whole(value)

    def _input(self, parameter: tree.Parameter, name: str, kind: str, default: Node) -> Node:
        index = len(self.inputs)
        given = self.graph.input("given", index, True, (0, 1))
        self.work.given[name] = given
        raw = self.graph.input("parameter", index, kind != "real")
        value = self.graph.select(given, raw, default)
        attributes = parameter.attributes
        self.inputs.append(
            Input(
                name, kind, written(parameter.default) if not isinstance(parameter.default, tree.Array) else "",
                " ".join(_shown(limit) for limit in parameter.limits), attributes.get("units", ""),
                attributes.get("desc", ""), attributes.get("type", "") == "instance",
            )
        )  # fmt: skip
        if kind != "string" or any(limit.values for limit in parameter.limits):
            self._limit(parameter, index, value)
        return value

    def _limit(self, parameter: tree.Parameter, index: int, value: Node) -> None:
        """`from` intervals allow what any of them holds; an `exclude` forbids."""
        graph, allowed = self.graph, None
        low, high, not_zero = INF, -INF, False
        for limit in parameter.limits:
            inside, ends = self._inside(parameter, limit, value)
            if limit.exclude:
                self.checks.append(Check(index, inside))
                not_zero |= bool(limit.values) and ends == (0, 0)
                continue
            allowed = inside if allowed is None else graph.either(allowed, inside)
            low, high = min(low, ends[0]), max(high, ends[1])
        if allowed is not None:
            self.checks.append(Check(index, graph.not_(allowed)))
            if not value.constant:
                value.low, value.high = math.ulp(0.0) if not_zero and low == 0 else low, high

    def _inside(self, parameter: tree.Parameter, limit: tree.Limit, value: Node) -> tuple[Node, tuple[float, float]]:
        graph = self.graph
        if limit.values:
            nodes = [self.expressions.value(item) for item in limit.values]
            for node in nodes:
                self._check_level(parameter, node)
            hit = graph.const(0)
            for node in nodes:
                hit = graph.either(hit, graph.compare("==", value, node))
            ends = [node.value for node in nodes if node.constant] or [-INF, INF]
            return hit, (min(ends), max(ends))
        low, high = self.expressions.value(limit.low), self.expressions.value(limit.high)
        for end in (low, high):
            self._check_level(parameter, end)
        above = graph.compare(">" if limit.low_open else ">=", value, low)
        below = graph.compare("<" if limit.high_open else "<=", value, high)
        minimum = low.low + (math.ulp(0.0) if limit.low_open and low.low == 0 else 0.0)
        maximum = high.high - (math.ulp(0.0) if limit.high_open and high.high == 0 else 0.0)
        return graph.both(above, below), (minimum, maximum)


def _shown(limit: tree.Limit) -> str:
    word = "exclude" if limit.exclude else "from"
    if limit.values:
        text = ", ".join(written(item) for item in limit.values)
        return f"{word} {text}" if len(limit.values) == 1 else f"{word} {{{text}}}"
    ends = ("(" if limit.low_open else "[", ")" if limit.high_open else "]")
    return f"{word} {ends[0]}{written(limit.low)}:{written(limit.high)}{ends[1]}"
