"""The mathematical functions of the language: how each is folded, differentiated, bounded, and called in machine code.

Verilog-AMS LRM 2.4, section 4.3.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

INF = math.inf
LARGEST_EXPONENT = 700.0
"""exp of more than 709 is no float; limexp is exp up to here, so that it limits what an iteration tries and never a result."""


@dataclass(frozen=True)
class MathFunction:
    """`fold` computes it for numbers; `slope(g, node, k)` is its derivative by argument k, built with the graph `g`;
    `symbol` is what the machine code calls; `bounds` gives its interval from those of its arguments."""

    fold: Callable[..., float]
    slope: Callable
    symbol: str
    arity: int = 1
    bounds: Callable[..., tuple[float, float]] = lambda *intervals: (-INF, INF)


def limexp(x: float) -> float:
    """exp, continued as a straight line beyond the largest exponent of a float."""
    over = max(x - LARGEST_EXPONENT, 0.0)
    return math.exp(x - over) * (1.0 + over)


def _arg(node, k=0):
    return node.args[k]


def _power_slope(g, node, k):
    base, exponent = node.args
    if k == 0:
        return g.make("power_slope", base, exponent, node)
    return g.mul(node, g.make("ln", base))


def _monotone(function):
    def bounds(interval):
        low, high = interval
        return function(low), function(high)

    return bounds


def _guarded(function, low_limit=-INF):
    def value(x):
        if x <= low_limit:
            return -INF
        try:
            return function(x)
        except OverflowError:
            return INF
        except ValueError:
            return -INF

    return value


def _exp(x: float) -> float:
    return math.exp(x) if x < 709.0 else INF


def _even(power):
    def bounds(interval):
        low, high = interval
        ends = [abs(low) ** power, abs(high) ** power]
        return (0.0 if low <= 0 <= high else min(ends)), max(ends)

    return bounds


def _pow_bounds(base, exponent):
    if exponent[0] == exponent[1] and exponent[0] == 2:
        return _even(2)(base)
    return (0.0, INF) if base[0] >= 0 else (-INF, INF)


def _hull(pick):
    return lambda a, b: (pick(a[0], b[0]), pick(a[1], b[1]))


def _reciprocal_of(build):
    """Derivative 1 / build(g, node)."""
    return lambda g, node, k: g.div(g.const(1.0), build(g, node))


def _one_plus_square(g, x):
    return g.add(g.const(1.0), g.mul(x, x))


FUNCTIONS: dict[str, MathFunction] = {
    "exp": MathFunction(_exp, lambda g, n, k: n, "llvm.exp.f64", 1, _monotone(_exp)),
    "limexp": MathFunction(
        limexp,
        lambda g, n, k: g.select(g.compare("<", _arg(n), g.const(LARGEST_EXPONENT)), n, g.const(math.exp(LARGEST_EXPONENT))),
        "limexp", 1, lambda a: (0.0, INF),
    ),
    "expm1": MathFunction(
        lambda x: math.expm1(min(x, 709.0)), lambda g, n, k: g.add(n, g.const(1.0)), "expm1", 1,
        _monotone(lambda x: math.expm1(x) if x < 709.0 else INF),
    ),
    "ln1p": MathFunction(
        math.log1p, _reciprocal_of(lambda g, n: g.add(g.const(1.0), _arg(n))), "log1p", 1,
        _monotone(_guarded(math.log1p, -1.0)),
    ),
    "ln": MathFunction(
        math.log, _reciprocal_of(lambda g, n: _arg(n)), "llvm.log.f64", 1, _monotone(_guarded(math.log, 0.0))
    ),
    "log": MathFunction(
        math.log10, lambda g, n, k: g.div(g.const(1.0 / math.log(10.0)), _arg(n)), "llvm.log10.f64", 1,
        _monotone(_guarded(math.log10, 0.0)),
    ),
    "sqrt": MathFunction(
        math.sqrt, lambda g, n, k: g.div(g.const(0.5), n), "llvm.sqrt.f64", 1,
        lambda a: (math.sqrt(max(a[0], 0.0)), math.sqrt(max(a[1], 0.0))),
    ),
    "abs": MathFunction(
        abs, lambda g, n, k: g.select(g.compare("<", _arg(n), g.const(0.0)), g.const(-1.0), g.const(1.0)), "llvm.fabs.f64", 1,
        _even(1),
    ),
    "floor": MathFunction(math.floor, lambda g, n, k: None, "llvm.floor.f64", 1, lambda a: (a[0] - 1, a[1])),
    "ceil": MathFunction(math.ceil, lambda g, n, k: None, "llvm.ceil.f64", 1, lambda a: (a[0], a[1] + 1)),
    "min": MathFunction(
        min, lambda g, n, k: g.select(g.compare("<", *n.args), g.const(1.0 - k), g.const(0.0 + k)), "lesser", 2, _hull(min)
    ),
    "max": MathFunction(
        max, lambda g, n, k: g.select(g.compare(">", *n.args), g.const(1.0 - k), g.const(0.0 + k)), "greater", 2, _hull(max)
    ),
    "pow": MathFunction(math.pow, _power_slope, "llvm.pow.f64", 2, _pow_bounds),
    "power_slope": MathFunction(
        lambda a, b, p: b * math.pow(a, b - 1.0),
        lambda g, n, k: _second_power_slope(g, n, k), "power_slope", 3,
    ),
    "sin": MathFunction(math.sin, lambda g, n, k: g.make("cos", _arg(n)), "llvm.sin.f64", 1, lambda a: (-1.0, 1.0)),
    "cos": MathFunction(
        math.cos, lambda g, n, k: g.neg(g.make("sin", _arg(n))), "llvm.cos.f64", 1, lambda a: (-1.0, 1.0)
    ),
    "tan": MathFunction(math.tan, lambda g, n, k: _one_plus_square(g, n), "tan"),
    "asin": MathFunction(
        math.asin,
        _reciprocal_of(lambda g, n: g.make("sqrt", g.sub(g.const(1.0), g.mul(_arg(n), _arg(n))))), "asin",
    ),
    "acos": MathFunction(
        math.acos,
        lambda g, n, k: g.div(g.const(-1.0), g.make("sqrt", g.sub(g.const(1.0), g.mul(_arg(n), _arg(n))))), "acos",
    ),
    "atan": MathFunction(math.atan, _reciprocal_of(lambda g, n: _one_plus_square(g, _arg(n))), "atan"),
    "atan2": MathFunction(
        math.atan2,
        lambda g, n, k: g.div(
            n.args[1] if k == 0 else g.neg(n.args[0]),
            g.add(g.mul(n.args[0], n.args[0]), g.mul(n.args[1], n.args[1])),
        ), "atan2", 2,
    ),
    "hypot": MathFunction(math.hypot, lambda g, n, k: g.div(n.args[k], n), "hypot", 2, lambda a, b: (0.0, INF)),
    "sinh": MathFunction(math.sinh, lambda g, n, k: g.make("cosh", _arg(n)), "sinh"),
    "cosh": MathFunction(math.cosh, lambda g, n, k: g.make("sinh", _arg(n)), "cosh", 1, lambda a: (1.0, INF)),
    "tanh": MathFunction(
        math.tanh, lambda g, n, k: g.sub(g.const(1.0), g.mul(n, n)), "tanh", 1, _monotone(math.tanh)
    ),
    "asinh": MathFunction(
        math.asinh, _reciprocal_of(lambda g, n: g.make("sqrt", _one_plus_square(g, _arg(n)))), "asinh"
    ),
    "acosh": MathFunction(
        math.acosh,
        _reciprocal_of(lambda g, n: g.make("sqrt", g.sub(g.mul(_arg(n), _arg(n)), g.const(1.0)))), "acosh",
    ),
    "atanh": MathFunction(
        math.atanh, _reciprocal_of(lambda g, n: g.sub(g.const(1.0), g.mul(_arg(n), _arg(n)))), "atanh"
    ),
}  # fmt: skip


def _second_power_slope(g, node, k):
    """Of b·a^(b-1) by a: b·(b-1)·a^(b-2); by b: a^(b-1)·(1 + b·ln a). The third argument is a^b and adds nothing."""
    base, exponent, _ = node.args
    lower = g.sub(exponent, g.const(1.0))
    if k == 0:
        return g.mul(exponent, g.make("power_slope", base, lower, g.make("pow", base, lower)))
    if k == 1:
        factor = g.add(g.const(1.0), g.mul(exponent, g.make("ln", base)))
        return g.mul(g.make("pow", base, lower), factor)
    return None


IN_THE_LANGUAGE = frozenset(FUNCTIONS) - {"power_slope", "limexp"}
"""What a text may call as a plain function; limexp is there too, as an analog operator."""
