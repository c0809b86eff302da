"""Sources that follow an expression: `B1 a b v={...}` and `i={...}`, and polynomials of E, F, G and H.

The expression becomes a Verilog-A text of its own, so that the one compiler differentiates it like any device.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from functools import lru_cache
from itertools import combinations_with_replacement

from lark import Tree

from hearthline.core.elements.deck_line import Line
from hearthline.core.elements.nets import GROUND, node
from hearthline.core.errors import ExpressionError, ModelError, QuantityError
from hearthline.core.expression import CONSTANTS, Expression
from hearthline.core.models.module import Module
from hearthline.core.quantity import read_deck

FUNCTIONS = {
    "abs": "abs({0})", "sqrt": "sqrt({0})", "exp": "limexp({0})", "ln": "ln({0})", "log": "log({0})", "log10": "log({0})",
    "sin": "sin({0})", "cos": "cos({0})", "tan": "tan({0})", "asin": "asin({0})", "acos": "acos({0})", "atan": "atan({0})",
    "sinh": "sinh({0})", "cosh": "cosh({0})", "tanh": "tanh({0})", "asinh": "asinh({0})", "acosh": "acosh({0})",
    "atanh": "atanh({0})", "u": "(({0}) > 0.0 ? 1.0 : 0.0)", "uramp": "max({0}, 0.0)", "floor": "floor({0})",
    "ceil": "ceil({0})", "sgn": "(({0}) > 0.0 ? 1.0 : (({0}) < 0.0 ? -1.0 : 0.0))", "min": "min({0}, {1})",
    "max": "max({0}, {1})", "pow": "pow({0}, {1})", "hypot": "hypot({0}, {1})", "atan2": "atan2({0}, {1})",
}  # fmt: skip
"""What may stand in an expression, as Verilog-A; `log` is that of base 10, as in the Berkeley decks."""
OPERATORS = {
    "add": "({0} + {1})", "sub": "({0} - {1})", "mul": "({0} * {1})", "div": "({0} / {1})", "mod": "({0} % {1})",
    "pow": "pow({0}, {1})", "neg": "(-{0})", "inv": "(({0}) == 0.0 ? 1.0 : 0.0)", "choose": "(({0}) != 0.0 ? {1} : {2})",
    "either": "((({0}) != 0.0) || (({1}) != 0.0) ? 1.0 : 0.0)", "both": "((({0}) != 0.0) && (({1}) != 0.0) ? 1.0 : 0.0)",
    "eq": "({0} == {1} ? 1.0 : 0.0)", "ne": "({0} != {1} ? 1.0 : 0.0)", "lt": "({0} < {1} ? 1.0 : 0.0)",
    "le": "({0} <= {1} ? 1.0 : 0.0)", "gt": "({0} > {1} ? 1.0 : 0.0)", "ge": "({0} >= {1} ? 1.0 : 0.0)",
}  # fmt: skip
KNOWN_NAMES = {"time": "$abstime", "temper": "($temperature - 273.15)"}

_SOURCE = re.compile(r"^\S+\s+(\S+)\s+(\S+)\s+([vi])\s*=\s*(.*)$", re.DOTALL)
_ACCESS = re.compile(r"(?<![\w.])([vi])\s*\(\s*([^\s(),]+)\s*(?:,\s*([^\s(),]+)\s*)?\)")
_TEXT = """`include "constants.vams"
`include "disciplines.vams"
module behavioural({ports});
    inout {ports};
    electrical {ports};
{parameters}    (* desc="{meaning}", units="{unit}" *) real {name};
    analog begin
        {name} = {expression};
        {access}(p, n) <+ {name};
    end
endmodule
"""


@dataclass
class Behaviour:
    """A source as a module: the nets behind its own two, the parts whose currents it reads, and its parameters."""

    module: Module
    nets: list[str] = field(default_factory=list)
    controls: list[str] = field(default_factory=list)
    values: dict[str, Expression] = field(default_factory=dict)


def read_source(line: Line) -> tuple[tuple[str, str], Behaviour]:
    """A B line: its two nets, and what it does. Raises DeckError."""
    found = _SOURCE.match(line.text)
    if not found:
        raise line.error(
            f"{line.head} has two nets and v= or i= with an expression; write it as `b1 a b v={{2*v(in)}}`"
        )
    plus, minus, which, text = found.groups()
    text = text.strip()
    if text[:1] in "{'" and text[-1:] in "}'":
        text = text[1:-1]
    return (node(plus), node(minus)), behaviour(line, which, text)


def polynomial(line: Line, inputs: list[str], coefficients: list[str]) -> str:
    """The expression of a Berkeley polynomial: constant, then all products of one, two, ... inputs in order."""
    if len(coefficients) == 1 and len(inputs) == 1:
        return f"({coefficients[0]})*{inputs[0]}"
    products: list[tuple[str, ...]] = [()]
    degree = 1
    while len(products) < len(coefficients):
        products += combinations_with_replacement(inputs, degree)
        degree += 1
    terms = (
        "*".join([f"({coefficient})", *product]) for coefficient, product in zip(coefficients, products, strict=False)
    )
    return "+".join(terms)


def behaviour(line: Line, which: str, text: str) -> Behaviour:
    """The module of an expression; `which` is v or i. Raises DeckError."""
    nets: list[str] = []
    controls: list[str] = []
    reads: dict[str, str] = {}

    def port(names: list[str], letter: str, name: str) -> str:
        if name not in names:
            names.append(name)
        return f"{letter}{names.index(name)}"

    def access(match: re.Match) -> str:
        kind, first, second = match.groups()
        if kind == "i":
            ports = [port(controls, "c", first)]
        else:
            ports = [port(nets, "t", node(name)) for name in (first, second) if name and node(name) != GROUND]
            if node(first) == GROUND:
                ports = ["", *ports]
        name = f"read_{len(reads)}"
        reads[name] = _read(ports)
        return f" {name} "

    try:
        expression = Expression.parse(_ACCESS.sub(access, text), deck=True)
        written, names = _written(expression, reads)
        module = _compiled(which, written, tuple(names), len(nets), len(controls))
    except (ExpressionError, QuantityError) as error:
        raise line.error(str(error)) from None
    except ModelError as error:
        raise line.error(f"the expression cannot be used: {error.message}") from None
    values = {f"p_{name}": Expression.parse(name, deck=True) for name in names}
    return Behaviour(module, nets, controls, values)


def _read(ports: list[str]) -> str:
    if not ports or ports == [""]:
        return "0.0"
    if ports[0] == "":
        return f"(-V({ports[1]}))"
    return f"V({', '.join(ports)})"


def _written(expression: Expression, reads: dict[str, str]) -> tuple[str, list[str]]:
    names: list[str] = []

    def write(node: Tree | float) -> str:
        if isinstance(node, float):
            return repr(node)
        if node.data == "number":
            return repr(read_deck(str(node.children[0])))
        if node.data == "name":
            return name_of(str(node.children[0]))
        if node.data == "call":
            return call(str(node.children[0]).lower(), [c for c in node.children[1:] if c is not None])
        return OPERATORS[node.data].format(*map(write, node.children))

    def name_of(name: str) -> str:
        if name in reads:
            return reads[name]
        if name in CONSTANTS:
            return repr(float(CONSTANTS[name]))
        if name in KNOWN_NAMES:
            return KNOWN_NAMES[name]
        if name not in names:
            names.append(name)
        return f"p_{name}"

    def call(name: str, arguments: list[Tree]) -> str:
        if name not in FUNCTIONS:
            raise ExpressionError(f"unknown function '{name}'; there are v, i, {', '.join(sorted(FUNCTIONS))}")
        form = FUNCTIONS[name]
        if len(arguments) != (2 if "{1}" in form else 1):
            raise ExpressionError(f"{name}() takes {2 if '{1}' in form else 1} argument(s), not {len(arguments)}")
        return form.format(*map(write, arguments))

    return write(expression.tree), names


@lru_cache(256)
def _compiled(which: str, expression: str, names: tuple[str, ...], nets: int, controls: int) -> Module:
    from hearthline.core.models.veriloga.compiler import compile_text  # few circuits need it, and all know this element

    ports = ", ".join(["p", "n", *(f"t{k}" for k in range(nets)), *(f"c{k}" for k in range(controls))])
    parameters = "".join(f"    parameter real p_{name} = 0;\n" for name in names)
    meaning, unit, name = ("voltage", "V", "v") if which == "v" else ("current", "A", "i")
    text = _TEXT.format(
        ports=ports, parameters=parameters, meaning=meaning, unit=unit, name=name, expression=expression,
        access=which.upper(),
    )  # fmt: skip
    return compile_text(text, "expression")[0]
