"""Formulas of readings and watches: Python expressions on curves, `cross(V(out) - V(in)) / vdd`, `peak(m1.gm)`.

`V(net)`, `V(a, b)` and `I(part)` are the access functions of the Verilog-A standard, `shift(net)` is of oscillations,
`m1.gm` an operating-point variable; the swept quantity stands under its own name, as do the parameters of the bench,
`temperature`, and the other readings of the bench. The name of an analysis is a function too: what is inside is taken from
that analysis. Units follow.
"""

from __future__ import annotations

import ast
import re
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from fractions import Fraction
from functools import cached_property

import numpy as np

from hearthline.core import limits
from hearthline.core.data.apply import Mark, apply
from hearthline.core.data.dataset import Dataset
from hearthline.core.data.functions import FUNCTIONS, WAVE
from hearthline.core.data.measure import Mistake
from hearthline.core.data.operand import Operand, axis_of, number
from hearthline.core.data.shorthands import SHORTHANDS, expanded
from hearthline.core.data.units import PLAIN, Unit, unit_of
from hearthline.core.errors import ExpressionError
from hearthline.core.quantity import read

ACCESS = re.compile(r"\b(V|I|S|shift)\(\s*([^(),\s]+)\s*(?:,\s*([^(),\s]+)\s*)?\)")
PRODUCTS = ("k1", "k2")
"""Curves that say which product of two tones each point is."""
_PLACEHOLDER = "_"
_OWN_NAMES = re.compile(r"(?<![\w.])_[_\d]*(?!\w)")
_PREFIXED = re.compile(r"(?<![\w.])(?:\d+\.?\d*|\.\d+)[afpnuµmkMGT](?![\w(])")
_BINARY = {
    ast.Add: np.add, ast.Sub: np.subtract, ast.Mult: np.multiply, ast.Div: np.true_divide, ast.Pow: np.power,
}  # fmt: skip


def _unknown(name: str) -> Operand | None:
    return None


@dataclass(frozen=True)
class Scope:
    """What a formula is evaluated on: the dataset of its own analysis, those of the others by name, and numbers by name."""

    data: Dataset
    analyses: Mapping[str, Dataset] = field(default_factory=dict)
    numbers: Callable[[str], Operand | None] = _unknown
    analysis: str = ""


@dataclass(frozen=True)
class Formula:
    """A formula as text; `parse` it first where the text comes from a person."""

    text: str

    @classmethod
    def parse(cls, text: str, analyses: Iterable[str] = ()) -> Formula:
        """Checks the text; raises ExpressionError with the column of the mistake. `analyses` are names that may be called."""
        formula, known = cls(text), frozenset(analyses)
        formula._check_size()
        for node in ast.walk(formula._tree):
            formula._check(node, known)
        return formula

    def _check_size(self) -> None:
        if len(self.text) > limits.FORMULA:
            raise ExpressionError(f"a formula has at most {limits.FORMULA} characters, and this one {len(self.text)}")
        if own := _OWN_NAMES.search(ACCESS.sub(lambda match: " " * len(match.group()), self.text)):
            raise ExpressionError(
                f"'{own[0]}' at column {own.start() + 1}: such a name means nothing here", own.start() + 1
            )
        deepest, waiting = 0, [(self._tree, 0)]
        while waiting:
            node, depth = waiting.pop()
            deepest = max(deepest, depth)
            waiting += [(child, depth + isinstance(child, ast.expr)) for child in ast.iter_child_nodes(node)]
        if deepest > limits.FORMULA_DEPTH:
            raise ExpressionError(
                f"the formula is {deepest} deep, and at most {limits.FORMULA_DEPTH} are allowed; make readings of parts of it"
            )

    @cached_property
    def quantities(self) -> tuple[str, ...]:
        """Labels of the curves that it needs: `V(out)`, `m1.gm`."""
        return tuple(dict.fromkeys(label for labels in self.needs().values() for label in labels))

    def needs(self, analysis: str = "") -> dict[str, tuple[str, ...]]:
        """The labels by the analysis that they are taken from, its own being `analysis`."""
        found: dict[str, dict[str, None]] = {}
        for where, label in self._labels(self._tree.body, analysis):
            found.setdefault(where, {})[label] = None
        return {where: tuple(labels) for where, labels in found.items()}

    def evaluate(self, scope: Scope | Dataset, marks: list[Mark] | None = None) -> Operand:
        """Its value with unit and axis. `marks` gets where on the curves numbers were taken. Raises ExpressionError with the
        column, or HearthlineError."""
        scope = scope if isinstance(scope, Scope) else Scope(scope)
        with np.errstate(all="ignore"):
            return self._evaluate(self._tree.body, scope, marks)

    def value(self, scope: Scope | Dataset) -> np.ndarray:
        """A curve (lanes, points) or one number a lane (lanes, 1). Raises ExpressionError or HearthlineError."""
        found = self.evaluate(scope).values
        lanes = (scope.data if isinstance(scope, Scope) else scope).lanes
        return np.broadcast_to(found, (lanes, found.shape[1])) if len(found) == 1 else found

    def number(self, scope: Scope | Dataset) -> np.ndarray:
        """One number a lane (lanes,), of a complex one the size; raises ExpressionError where the formula gives a curve."""
        return self.number_of(self.evaluate(scope), (scope.data if isinstance(scope, Scope) else scope).lanes)

    def number_of(self, found: Operand, lanes: int) -> np.ndarray:
        """The same, of what was evaluated already."""
        if found.values.shape[1] != 1:
            raise ExpressionError(f"'{self.text}' is a curve; take a number from it with at, cross, peak, mean or rms")
        values = found.values[:, 0]
        values = np.abs(values) if np.iscomplexobj(values) else values
        return np.broadcast_to(values, (lanes,)) if len(values) == 1 else values

    # -- reading

    @cached_property
    def _accesses(self) -> list[tuple[str, str, str | None]]:
        return [match.groups() for match in ACCESS.finditer(self.text)]

    @cached_property
    def _hidden(self) -> str:
        """The text with each access, and each number with a prefix, in the place of a name of the same length."""
        count = iter(range(len(self._accesses)))
        text = ACCESS.sub(lambda match: f"{_PLACEHOLDER}{next(count)}".ljust(len(match.group())), self.text)
        return _PREFIXED.sub(lambda match: _PLACEHOLDER * len(match.group()), text)

    @cached_property
    def _prefixed(self) -> dict[int, float]:
        """Numbers such as `600m` by the column where they stand."""
        shown = ACCESS.sub(lambda match: " " * len(match.group()), self.text)
        return {match.start() + 1: read(match.group()) for match in _PREFIXED.finditer(shown)}

    @cached_property
    def _tree(self) -> ast.Expression:
        lead = len(self.text) - len(self.text.lstrip())
        if not self.text.strip():
            raise ExpressionError("a formula is wanted, such as V(out)", 1)
        try:
            return ast.parse(self._hidden[lead:], mode="eval")
        except (RecursionError, MemoryError):
            raise ExpressionError("the formula is nested too deeply; make readings of parts of it") from None
        except ValueError as error:
            raise ExpressionError(f"the formula cannot be read: {error}") from None
        except SyntaxError as error:
            raise ExpressionError(*_mistake(self.text, lead + (error.offset or 0))) from None

    def _column(self, node: ast.AST) -> int:
        """Where a node begins in the text, from 1."""
        lead = len(self.text) - len(self.text.lstrip())
        before = self._hidden[lead:].encode()[: getattr(node, "col_offset", 0)].decode(errors="ignore")
        return lead + len(before) + 1

    def _source(self, node: ast.AST) -> str:
        start = self._column(node) - 1
        inside = self._hidden.lstrip().encode()[node.col_offset : node.end_col_offset].decode(errors="ignore")
        end = start + len(inside)  # a name is shorter than the access that it stands for
        end = next((m.end() for m in ACCESS.finditer(self.text) if m.start() < end <= m.end()), end)
        return self.text[start:end].strip()

    def _check(self, node: ast.AST, analyses: frozenset[str]) -> None:
        allowed = (
            ast.Expression, ast.BinOp, ast.UnaryOp, ast.Call, ast.Name, ast.Attribute, ast.Constant, ast.operator,
            ast.unaryop, ast.expr_context, ast.keyword,
        )  # fmt: skip
        column = self._column(node)
        if not isinstance(node, allowed) or (isinstance(node, ast.BinOp) and type(node.op) not in _BINARY):
            raise ExpressionError(
                f"'{self.text}': at column {column} only sums, products and functions are allowed", column
            )
        if isinstance(node, ast.Constant) and isinstance(node.value, int) and abs(node.value) >= 10**300:
            raise ExpressionError(f"the number at column {column} is too large", column)
        if isinstance(node, ast.Constant) and not isinstance(node.value, int | float | complex):
            raise ExpressionError(f"'{self.text}': a number is wanted at column {column}", column)
        if isinstance(node, ast.Call):
            name = getattr(node.func, "id", "")
            if name in SHORTHANDS:
                self._expanded(node)
            elif name not in FUNCTIONS and name not in analyses and name != WAVE:
                known = ", ".join(["V", "I", "S", *FUNCTIONS, WAVE, *SHORTHANDS, *analyses])
                raise ExpressionError(f"unknown function '{name}' at column {column}; there are {known}", column)
            if (name in analyses or name == WAVE) and (len(node.args) != 1 or node.keywords):
                where = "along a period" if name == WAVE else "from that analysis"
                raise ExpressionError(f"{name}(...) takes one formula, to be taken {where}", column)

    def _expanded(self, node: ast.Call) -> Formula:
        """The formula that a short way to say it stands for."""
        name = node.func.id
        text = expanded(name, [self._source(argument) for argument in node.args])
        if text is None or node.keywords:
            column = self._column(node)
            raise ExpressionError(f"{name}() at column {column} takes {SHORTHANDS[name].takes or 'nothing'}", column)
        return Formula(text)

    def _labels(self, node: ast.AST, analysis: str) -> Iterator[tuple[str, str]]:
        if isinstance(node, ast.Attribute):
            yield analysis, _dotted(node)
            return
        if isinstance(node, ast.Name) and _is_access(node.id):
            kind, *names = self._accesses[int(node.id[1:])]
            yield from ((analysis, label) for label in _accessed(kind, *names))
        if isinstance(node, ast.Call) and node.func.id in SHORTHANDS:
            meant = self._expanded(node)
            yield from meant._labels(meant._tree.body, analysis)
            return
        if isinstance(node, ast.Call):
            inner = node.func.id if node.func.id not in FUNCTIONS and node.func.id != WAVE else analysis
            for child in (*node.args, *(keyword.value for keyword in node.keywords)):
                yield from self._labels(child, inner)
            return
        for child in ast.iter_child_nodes(node):
            yield from self._labels(child, analysis)

    # -- evaluating

    def _evaluate(self, node: ast.AST, scope: Scope, marks: list[Mark] | None) -> Operand:
        match node:
            case ast.Constant(value=value):
                return number(value)
            case ast.UnaryOp(op=ast.USub(), operand=inner):
                found = self._evaluate(inner, scope, marks)
                return Operand(-found.values, found.unit, found.axis)
            case ast.UnaryOp(op=ast.UAdd(), operand=inner):
                return self._evaluate(inner, scope, marks)
            case ast.BinOp(op=op, left=left, right=right) if type(op) in _BINARY:
                pair = self._evaluate(left, scope, marks), self._evaluate(right, scope, marks)
                return self._combine(node, *pair)
            case ast.Attribute():
                return _curve(scope.data, _dotted(node))
            case ast.Name(id=name):
                return self._name(node, name, scope)
            case ast.Call(func=ast.Name(id=name)) if name in SHORTHANDS:
                meant = self._expanded(node)
                return meant._evaluate(meant._tree.body, scope, marks)
            case ast.Call(func=ast.Name(id=name)) if name in FUNCTIONS:
                return self._call(node, name, scope, marks)
            case ast.Call(func=ast.Name(id=name), args=[inner]) if name == WAVE:
                return self._evaluate(inner, self._of_wave(node, scope), marks)
            case ast.Call(func=ast.Name(id=name), args=[inner]):
                return self._evaluate(inner, self._of_analysis(node, name, scope), marks)
        raise ExpressionError(f"'{self.text}' holds something that is not allowed in a formula", self._column(node))

    def _of_wave(self, node: ast.AST, scope: Scope) -> Scope:
        if scope.data.wave is None:
            column = self._column(node)
            raise ExpressionError(
                f"{WAVE}(...) at column {column} wants an analysis of what repeats with one tone, as a balance at 1G; this has "
                "no period", column,
            )  # fmt: skip
        return replace(scope, data=scope.data.wave)

    def _of_analysis(self, node: ast.AST, name: str, scope: Scope) -> Scope:
        if name not in scope.analyses:
            known = ", ".join(scope.analyses) or "none"
            column = self._column(node)
            raise ExpressionError(
                f"there is no analysis '{name}' in this run (column {column}); it has {known}", column
            )
        return Scope(scope.analyses[name], scope.analyses, scope.numbers, name)

    def _name(self, node: ast.AST, name: str, scope: Scope) -> Operand:
        data = scope.data
        if _is_access(name):
            kind, first, second = self._accesses[int(name[1:])]
            if kind == "S":
                return _curve(data, *_accessed(kind, first, second))
            found = _access(data, kind, first.lower())
            if not second:
                return found
            other = _access(data, kind, second.lower())
            return Operand(found.values - other.values, found.unit or other.unit, found.axis or other.axis)
        if name[0] == _PLACEHOLDER:
            return number(self._prefixed[self._column(node)])
        known = {one.lower(): one for one, values in data.conditions.items() if values.dtype.kind != "U"}
        if name in PRODUCTS and name in data.curves:
            return _curve(data, name)
        if name.lower() == data.axis.lower():
            axis = axis_of(data)
            return Operand(np.atleast_2d(data.points), axis.unit, axis)
        if name.lower() in known:
            key = known[name.lower()]
            unit = "°C" if key == "temperature" else data.units.get(key)
            return Operand(data.conditions[key][:, None].astype(float), unit_of(unit) if unit else None)
        if name == "pi":
            return number(np.pi)
        found = scope.numbers(name.lower())
        if found is not None:
            return found
        column = self._column(node)
        there = ", ".join([data.axis, *known.values()])
        raise ExpressionError(
            f"'{name}' at column {column} is not known in '{self.text}'; there are {there}, readings by their names, and "
            "V(net), I(part), part.quantity", column,
        )  # fmt: skip

    def _combine(self, node: ast.BinOp, left: Operand, right: Operand) -> Operand:
        column = self._operator_column(node)
        if left.axis and right.axis and not left.axis.same(right.axis):
            raise ExpressionError(
                f"at column {column} of '{self.text}': curves over different points cannot be joined", column
            )
        if len({len(left.values), len(right.values)} - {1}) > 1:
            raise ExpressionError(
                f"at column {column} of '{self.text}': the two are not of the same conditions", column
            )
        unit = _joined_unit(node.op, left, right)
        if unit is False:
            sign = "subtracted" if isinstance(node.op, ast.Sub) else "added"
            raise ExpressionError(
                f"at column {column} of '{self.text}': {_spoken(left.unit)} and {_spoken(right.unit)} cannot be {sign}",
                column,
            )
        return Operand(_BINARY[type(node.op)](left.values, right.values), unit, left.axis or right.axis)

    def _operator_column(self, node: ast.BinOp) -> int:
        after = self._column(node.left) - 1 + len(self._source(node.left))
        rest = self.text[after:]
        return after + 1 + len(rest) - len(rest.lstrip(" )"))

    def _call(self, node: ast.Call, name: str, scope: Scope, marks: list[Mark] | None) -> Operand:
        arguments = [self._evaluate(argument, scope, marks) for argument in node.args]
        named = {}
        for keyword in node.keywords:
            word = isinstance(keyword.value, ast.Name) and keyword.arg == "window"
            named[keyword.arg] = keyword.value.id if word else self._evaluate(keyword.value, scope, marks)
        sources = [self._source(argument) for argument in node.args]
        first = node.args[0] if node.args else None
        elsewhere = isinstance(first, ast.Call) and first.func.id in scope.analyses
        where = first.func.id if elsewhere else scope.analysis
        try:
            return apply(name, arguments, named, sources, where, marks, scope.data.per_condition)
        except Mistake as mistake:
            column = self._column(node)
            raise ExpressionError(f"{name}() at column {column} of '{self.text}' {mistake}", column) from None


def _accessed(kind: str, first: str, second: str | None) -> tuple[str, ...]:
    """The labels that an access needs: waves are called by both of their ports."""
    if kind == "S":
        return (f"S({first},{second or first})",)
    return tuple(f"{kind}({name.lower()})" for name in (first, second) if name and name != "0")


def _spoken(unit: Unit | None) -> str:
    return str(unit or "") or "a number"


def _is_access(name: str) -> bool:
    return name[0] == _PLACEHOLDER and name[1:].isdigit()


def _curve(data: Dataset, label: str) -> Operand:
    values = data.curve(label)
    return Operand(values, unit_of(data.units[label]) if label in data.units else None, axis_of(data))


def _access(data: Dataset, kind: str, name: str) -> Operand:
    if kind == "V" and name == "0":
        return Operand(np.zeros((1, data.width)), unit_of("V"), axis_of(data))
    return _curve(data, f"{kind}({name})")


def _joined_unit(op: ast.operator, left: Operand, right: Operand) -> Unit | bool | None:
    """The unit of a sum, product or power; False where there is none."""
    if isinstance(op, ast.Add | ast.Sub):
        if left.unit is None or right.unit is None:
            return left.unit or right.unit
        return left.unit if left.unit.fits(right.unit) else False
    if isinstance(op, ast.Pow):
        if left.unit is None or left.unit.plain:
            return left.unit
        power = right.values.flat[0] if right.values.size == 1 else np.nan
        return left.unit ** Fraction(float(power)).limit_denominator(12) if np.isfinite(power) else PLAIN
    if right.unit is None:
        return left.unit
    if isinstance(op, ast.Div):
        return left.known / right.unit
    return right.unit if left.unit is None else left.unit * right.unit


def _dotted(node: ast.AST) -> str:
    return f"{_dotted(node.value)}.{node.attr}" if isinstance(node, ast.Attribute) else getattr(node, "id", "?")


def _mistake(text: str, column: int) -> tuple[str, int]:
    opened, closed = text.count("("), text.count(")")
    if opened > closed:
        place = _unclosed(text)
        return f"a closing bracket is missing in '{text}'; the one opened at column {place} has none", place
    if closed > opened:
        place = _unopened(text)
        return f"there is a closing bracket too many in '{text}', at column {place}", place
    return f"'{text}' is not a formula: look at column {column}", column


def _unclosed(text: str) -> int:
    stack = []
    for column, letter in enumerate(text, 1):
        if letter == "(":
            stack.append(column)
        elif letter == ")" and stack:
            stack.pop()
    return stack[-1] if stack else len(text)


def _unopened(text: str) -> int:
    depth = 0
    for column, letter in enumerate(text, 1):
        depth += {"(": 1, ")": -1}.get(letter, 0)
        if depth < 0:
            return column
    return len(text)
