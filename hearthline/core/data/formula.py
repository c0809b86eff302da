"""Formulas of readings and watches: Python expressions on curves, `cross(V(out) - V(in)) / vdd`, `peak(m1.gm)`.

`V(net)`, `V(a, b)` and `I(part)` are the access functions of the Verilog-A standard, `m1.gm` an operating-point
variable; the swept quantity stands under its own name, as do the parameters of the bench and `temperature`.
"""

from __future__ import annotations

import ast
import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from hearthline.core.data import measure, response, spectrum, timing
from hearthline.core.data.dataset import Dataset
from hearthline.core.errors import ExpressionError

_ACCESS = re.compile(r"\b([VI])\(\s*([^(),\s]+)\s*(?:,\s*([^(),\s]+)\s*)?\)")
_PLACEHOLDER = "\u03bb"

ON_CURVES: dict[str, Callable] = {
    "deriv": measure.deriv, "integral": measure.integral, "mean": measure.mean, "rms": measure.rms,
    "peak": measure.peak, "at": measure.at, "cross": measure.cross, "rising": timing.rising, "falling": timing.falling,
    "rise": timing.rise, "fall": timing.fall, "delay": timing.delay, "period": timing.period, "frequency": timing.frequency,
    "duty": timing.duty, "slew": timing.slew, "settling": timing.settling, "overshoot": timing.overshoot,
    "gain": response.gain, "bandwidth": response.bandwidth, "unity_gain": response.unity_gain,
    "phase_margin": response.phase_margin, "gain_margin": response.gain_margin, "thd": spectrum.thd, "snr": spectrum.snr,
}  # fmt: skip
OF_TWO_CURVES = ("delay",)
ON_VALUES: dict[str, Callable] = {
    "abs": np.abs, "sqrt": np.sqrt, "exp": np.exp, "log": np.log, "log10": np.log10,
    "db20": lambda value: 20 * np.log10(np.abs(value)), "phase_deg": response.phase_deg, "min": np.minimum, "max": np.maximum,
}  # fmt: skip
_BINARY = {
    ast.Add: np.add, ast.Sub: np.subtract, ast.Mult: np.multiply, ast.Div: np.true_divide, ast.Pow: np.power,
}  # fmt: skip


@dataclass(frozen=True)
class Formula:
    """A formula as text; `parse` it first where the text comes from a person."""

    text: str

    @classmethod
    def parse(cls, text: str) -> Formula:
        """Checks the text; raises ExpressionError with the column of the mistake."""
        formula = cls(text)
        for node in ast.walk(formula._tree):
            formula._check(node)
        return formula

    @cached_property
    def quantities(self) -> tuple[str, ...]:
        """Labels of the curves that it needs: `V(out)`, `m1.gm`."""
        labels = [f"{kind}({name})" for kind, *names in self._accesses for name in names if name and name != "0"]
        labels += list(_variables(self._tree))
        return tuple(dict.fromkeys(labels))

    def value(self, dataset: Dataset) -> np.ndarray:
        """A curve (lanes, points) or one number a lane (lanes, 1). Raises ExpressionError or HearthlineError."""
        with np.errstate(all="ignore"):
            result = self._evaluate(self._tree.body, dataset)
        return np.broadcast_to(result, (dataset.lanes, np.shape(result)[-1] if np.ndim(result) else 1))

    def number(self, dataset: Dataset) -> np.ndarray:
        """One number a lane (lanes,); raises ExpressionError where the formula gives a curve."""
        result = self.value(dataset)
        if result.shape[1] != 1:
            raise ExpressionError(f"'{self.text}' is a curve; take a number from it with at, cross, peak, mean or rms")
        return result[:, 0]

    @cached_property
    def _accesses(self) -> list[tuple[str, str, str | None]]:
        return [match.groups() for match in _ACCESS.finditer(self.text)]

    @cached_property
    def _tree(self) -> ast.Expression:
        count = iter(range(len(self._accesses)))
        hidden = _ACCESS.sub(lambda match: f"{_PLACEHOLDER}{next(count)}".ljust(len(match.group())), self.text)
        try:
            return ast.parse(hidden, mode="eval")
        except SyntaxError as error:
            raise ExpressionError(_mistake(self.text, error), error.offset or 0) from None

    def _check(self, node: ast.AST) -> None:
        allowed = (
            ast.Expression, ast.BinOp, ast.UnaryOp, ast.Call, ast.Name, ast.Attribute, ast.Constant, ast.operator,
            ast.unaryop, ast.expr_context, ast.keyword,
        )  # fmt: skip
        column = getattr(node, "col_offset", 0) + 1
        if not isinstance(node, allowed):
            raise ExpressionError(
                f"'{self.text}': at column {column} only sums, products and functions are allowed", column
            )
        if isinstance(node, ast.Constant) and not isinstance(node.value, int | float):
            raise ExpressionError(f"'{self.text}': a number is wanted at column {column}", column)
        if isinstance(node, ast.Call):
            name = getattr(node.func, "id", "")
            if name not in ON_CURVES and name not in ON_VALUES:
                known = ", ".join([*ON_CURVES, *ON_VALUES])
                raise ExpressionError(f"unknown function '{name}'; there are V, I, {known}", column)

    def _evaluate(self, node: ast.AST, data: Dataset):
        match node:
            case ast.Constant(value=value):
                return float(value)
            case ast.UnaryOp(op=ast.USub(), operand=operand):
                return -self._evaluate(operand, data)
            case ast.UnaryOp(op=ast.UAdd(), operand=operand):
                return self._evaluate(operand, data)
            case ast.BinOp(op=op, left=left, right=right) if type(op) in _BINARY:
                return _BINARY[type(op)](self._evaluate(left, data), self._evaluate(right, data))
            case ast.Attribute():
                return data.curve(_dotted(node))
            case ast.Name(id=name):
                return self._name(name, data)
            case ast.Call(func=ast.Name(id=name), args=arguments, keywords=keywords):
                return self._call(name, arguments, keywords, data)
        raise ExpressionError(f"'{self.text}' holds something that is not allowed in a formula")

    def _name(self, name: str, data: Dataset):
        if name.startswith(_PLACEHOLDER):
            kind, first, second = self._accesses[int(name[1:])]
            return _access(data, kind, first) - (_access(data, kind, second) if second else 0.0)
        if name == data.axis:
            return data.points[None, :]
        if name in data.conditions and name != "corner":
            return data.conditions[name][:, None]
        known = ", ".join([data.axis, *(n for n in data.conditions if n != "corner")])
        raise ExpressionError(
            f"'{name}' is not known in '{self.text}'; there are {known}, and V(net), I(part), part.quantity"
        )

    def _call(self, name: str, arguments: list, keywords: list, data: Dataset):
        values = [self._evaluate(argument, data) for argument in arguments]
        named = {keyword.arg: self._evaluate(keyword.value, data) for keyword in keywords}
        if "number" in named:
            named["number"] = int(named["number"])
        try:
            if name in ON_VALUES:
                return ON_VALUES[name](*values, **named)
            shape = (data.lanes, len(data.points))
            curve = np.broadcast_to(values[0], shape)
            if name in OF_TWO_CURVES:
                values[1] = np.broadcast_to(values[1], shape)
            return ON_CURVES[name](curve, data.points, *values[1:], **named)
        except (TypeError, IndexError):
            raise ExpressionError(f"{name}() in '{self.text}' has the wrong arguments") from None


def _access(data: Dataset, kind: str, name: str):
    return np.zeros((1, 1)) if kind == "V" and name == "0" else data.curve(f"{kind}({name})")


def _dotted(node: ast.AST) -> str:
    return f"{_dotted(node.value)}.{node.attr}" if isinstance(node, ast.Attribute) else getattr(node, "id", "?")


def _variables(node: ast.AST) -> Iterator[str]:
    """Labels of the operating-point variables in a tree: each dotted name once, as a whole."""
    if isinstance(node, ast.Attribute):
        yield _dotted(node)
        return
    for child in ast.iter_child_nodes(node):
        yield from _variables(child)


def _mistake(text: str, error: SyntaxError) -> str:
    column = error.offset or 0
    opened, closed = text.count("("), text.count(")")
    if opened > closed:
        return f"a closing bracket is missing in '{text}'; the one opened at column {_unclosed(text)} has none"
    if closed > opened:
        return f"there is a closing bracket too many in '{text}'"
    return f"'{text}' is not a formula: look at column {column}"


def _unclosed(text: str) -> int:
    stack = []
    for column, letter in enumerate(text, 1):
        if letter == "(":
            stack.append(column)
        elif letter == ")" and stack:
            stack.pop()
    return stack[-1] if stack else len(text)
