"""Expressions of named parameters: `2*wn`, `{vdd/2}`; values may be floats or arrays with one entry a lane."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from functools import cache, lru_cache
from pathlib import Path

import numpy as np
from lark import Lark, Token, Tree
from lark.exceptions import UnexpectedInput

from hearthline.core import limits
from hearthline.core.errors import ExpressionError, QuantityError
from hearthline.core.quantity import read, read_deck
from hearthline.core.tolerance import Tolerance, split

Value = float | np.ndarray

CHAINS = {"add", "sub", "mul", "div", "mod", "either", "both"}
"""Rules whose first argument is what stands before: chains of any length, gone along without recursion."""
FUNCTIONS: dict[str, tuple[int, Callable]] = {
    "abs": (1, np.abs), "sqrt": (1, np.sqrt), "exp": (1, np.exp), "ln": (1, np.log), "log": (1, np.log10),
    "log10": (1, np.log10), "sin": (1, np.sin), "cos": (1, np.cos), "tan": (1, np.tan), "atan": (1, np.arctan),
    "sinh": (1, np.sinh), "cosh": (1, np.cosh), "tanh": (1, np.tanh), "floor": (1, np.floor), "ceil": (1, np.ceil),
    "int": (1, np.trunc), "sgn": (1, np.sign), "min": (2, np.minimum), "max": (2, np.maximum), "pow": (2, np.power),
    "hypot": (2, np.hypot), "atan2": (2, np.arctan2),
}  # fmt: skip
OPERATORS: dict[str, Callable] = {
    "add": np.add, "sub": np.subtract, "mul": np.multiply, "div": np.true_divide, "mod": np.fmod, "pow": np.power,
    "neg": np.negative, "inv": lambda a: 1.0 * np.logical_not(a), "choose": np.where,
    "either": lambda a, b: 1.0 * np.logical_or(a, b), "both": lambda a, b: 1.0 * np.logical_and(a, b),
    "eq": lambda a, b: 1.0 * np.equal(a, b), "ne": lambda a, b: 1.0 * np.not_equal(a, b),
    "lt": lambda a, b: 1.0 * np.less(a, b), "le": lambda a, b: 1.0 * np.less_equal(a, b),
    "gt": lambda a, b: 1.0 * np.greater(a, b), "ge": lambda a, b: 1.0 * np.greater_equal(a, b),
}  # fmt: skip
"""`log` is of base 10, as in the Berkeley decks and in Verilog-A; `%` has the sign of what is divided, as there: the same here
and in sources that follow an expression."""
CONSTANTS = {"pi": np.pi}


@cache
def _parser() -> Lark:
    grammar = Path(__file__).with_name("expression.lark").read_text(encoding="utf-8")
    return Lark(grammar, parser="lalr", propagate_positions=True)


@dataclass(frozen=True)
class Expression:
    """A parsed expression. `deck` chooses how numbers are read (`m` and `M` are both milli in a deck); a value may have a
    `tolerance`."""

    text: str
    deck: bool = False
    _tree: Tree | Token | float = field(default=0.0, compare=False, repr=False)
    tolerance: Tolerance | None = None

    @classmethod
    def parse(cls, text: str, deck: bool = False) -> Expression:
        """Reads `text`; raises ExpressionError with the column of the mistake."""
        return cls(text, deck, _parse(text, deck))

    @classmethod
    def constant(cls, value: float) -> Expression:
        """An expression that is just a number."""
        return cls(repr(value), False, float(value))

    @property
    def plain(self) -> str:
        """Its text without the tolerance."""
        return split(self.text)[0] if self.tolerance is not None else self.text

    @property
    def tree(self) -> Tree | float:
        """How it is made, for whoever writes it in another language."""
        return self._tree

    @property
    def names(self) -> frozenset[str]:
        """The parameters it refers to."""
        if isinstance(self._tree, float):
            return frozenset()
        return frozenset(str(node.children[0]) for node in self._tree.find_data("name")) - CONSTANTS.keys()

    def value(self, lookup: Callable[[str], Value] | Mapping[str, Value]) -> Value:
        """Its value, with each parameter taken from `lookup`; raises ExpressionError for an unknown one."""
        if isinstance(self._tree, float):
            return self._tree
        find = lookup if callable(lookup) else _finder(lookup)
        result = _evaluate(self._tree, find, self.deck)
        if not np.all(np.isfinite(result)):
            raise ExpressionError(f"'{self.text}' does not give a finite number")
        return result


def parse_exact(text: str, unit: str) -> Expression:
    """The same of what many parts may share, as a parameter, which has no tolerance of its own. Raises ExpressionError, or
    QuantityError."""
    found = parse_value(text, unit)
    if found.tolerance is not None:
        raise ExpressionError(
            f"a parameter has no tolerance, since every part that uses it would move alike; give the {found.tolerance.text} to "
            "the parts themselves"
        )
    return found


@lru_cache(maxsize=65536)
def parse_value(text: str, unit: str) -> Expression:
    """What a value field holds: a number that may carry `unit`, or an expression of parameters, and either a tolerance.

    Raises ExpressionError, or QuantityError where the text looks like a number.
    """
    plain, tolerance = split(text)
    if tolerance is not None:
        return replace(parse_value(plain, unit), text=text, tolerance=tolerance)
    try:
        return Expression(text, False, read(text, unit))
    except QuantityError as not_a_number:
        looks_like_one = text.strip()[:1].isdigit() and not set(text) & set("*/+-()^?")
        try:
            return Expression.parse(text)
        except ExpressionError:
            if looks_like_one:
                raise not_a_number from None
            raise


def _finder(values: Mapping[str, Value]) -> Callable[[str], Value]:
    def find(name: str) -> Value:
        if name not in values:
            raise ExpressionError(f"unknown parameter '{name}'")
        return values[name]

    return find


@cache
def _parse(text: str, deck: bool) -> Tree | float:
    try:
        return read_deck(text) if deck else read(text)
    except QuantityError:
        pass
    if len(text) > limits.TEXT:
        raise ExpressionError(f"an expression has at most {limits.TEXT} characters, and this one {len(text)}")
    try:
        tree = _parser().parse(text)
    except UnexpectedInput as error:
        column = error.column if error.column and error.column > 0 else len(text) + 1
        raise ExpressionError(_mistake(text, column), column) from None
    if (deep := _depth(tree)) > limits.DEPTH:
        raise ExpressionError(
            f"brackets, signs and functions stand {deep} deep in each other, and at most {limits.DEPTH} may; "
            "give parts of the expression names of their own"
        )
    for node in tree.iter_subtrees():
        if node.data == "number":
            _number(node.children[0], deck)
    return tree


def _mistake(text: str, column: int) -> str:
    opened, closed = text.count("("), text.count(")")
    if opened > closed:
        return f"a closing bracket is missing in '{text}'"
    if closed > opened:
        return f"there is a closing bracket too many in '{text}'"
    found = f"'{text[column - 1]}'" if column <= len(text) else "the end"
    return f"'{text}' is not a number or expression: {found} was not expected at column {column}"


def _number(token: Token, deck: bool) -> float:
    try:
        return read_deck(str(token)) if deck else read(str(token))
    except QuantityError as error:
        raise ExpressionError(str(error), token.column or 0) from None


def _evaluate(node: Tree | float, find: Callable[[str], Value], deck: bool) -> Value:
    if isinstance(node, float):
        return node
    rule, children = node.data, node.children
    if rule == "number":
        return _number(children[0], deck)
    if rule == "name":
        name = str(children[0])
        return CONSTANTS[name] if name in CONSTANTS else find(name)
    if rule == "call":
        return _call(children, find, deck)
    if rule in CHAINS:
        return _chain(node, find, deck)
    with np.errstate(all="ignore"):
        return _unwrap(OPERATORS[rule](*(_evaluate(child, find, deck) for child in children)))


def links_of(node: Tree) -> tuple[Tree | Token | float, list[Tree]]:
    """What a chain such as `a + b - c` begins with, and its links from the first on: trees whose second child comes next."""
    links = []
    while isinstance(node, Tree) and node.data in CHAINS:
        links.append(node)
        node = node.children[0]
    return node, links[::-1]


def _chain(node: Tree, find: Callable[[str], Value], deck: bool) -> Value:
    first, links = links_of(node)
    value = _evaluate(first, find, deck)
    with np.errstate(all="ignore"):
        for link in links:
            value = OPERATORS[link.data](value, _evaluate(link.children[1], find, deck))
    return _unwrap(value)


def _depth(tree: Tree) -> int:
    """How deep it is, a chain counted once."""
    deepest, waiting = 0, [(tree, 1)]
    while waiting:
        node, depth = waiting.pop()
        if not isinstance(node, Tree):
            continue
        deepest = max(deepest, depth)
        first, links = links_of(node)
        inner = [link.children[1] for link in links] if links else node.children
        waiting += [(child, depth + 1) for child in ([first, *inner] if links else inner)]
    return deepest


def _call(children: list, find: Callable[[str], Value], deck: bool) -> Value:
    name, arguments = str(children[0]).lower(), [c for c in children[1:] if c is not None]
    if name not in FUNCTIONS:
        raise ExpressionError(f"unknown function '{name}'; there are {', '.join(sorted(FUNCTIONS))}")
    wanted, function = FUNCTIONS[name]
    if len(arguments) != wanted:
        raise ExpressionError(f"{name}() takes {wanted} argument{'s' * (wanted > 1)}, not {len(arguments)}")
    with np.errstate(all="ignore"):
        return _unwrap(function(*(_evaluate(argument, find, deck) for argument in arguments)))


def _unwrap(value: Value) -> Value:
    return value if isinstance(value, np.ndarray) and value.ndim else float(value)
