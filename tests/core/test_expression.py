"""Expressions of parameters, and what is said about mistakes in them."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from hearthline.core.circuit.netlist import Scope
from hearthline.core.engine.parameters import Environment
from hearthline.core.errors import ExpressionError, QuantityError
from hearthline.core.expression import Expression, parse_value
from tests.approximation import approx


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("1+2*3", 7), ("(1+2)*3", 9), ("-2^2", -4), ("2**-1", 0.5), ("2^3^2", 512), ("10-3-2", 5), ("8/2/2", 2),
        ("max(1, 2)+min(3,4)", 5), ("sqrt(16)", 4), ("1 > 2 ? 10 : 20", 20), ("!0 && 1 || 0", 1), ("2*wn + 3u", 7e-6),
        ("pi", np.pi), ("7 % 4", 3), ("1 <= 1", 1), ("a != a", 0),
    ],
)  # fmt: skip
def test_value(text, value):
    """Precedence as in arithmetic; powers bind to the right and tighter than a sign."""
    assert Expression.parse(text).value({"wn": 2e-6, "a": 4.0}) == approx(value, rel=1e-12)


@given(st.floats(0.1, 9), st.floats(0.1, 9), st.floats(0.1, 9))
def test_agrees_with_python(a, b, c):
    """The same formula in Python."""
    expected = -a + b * c / (a + b) ** 2 - c
    assert Expression.parse("-a+b*c/(a+b)^2-c").value({"a": a, "b": b, "c": c}) == approx(
        expected, rel=1e-12, abs=1e-12
    )


def test_arrays_give_one_value_a_lane():
    """Lanes ride along."""
    found = Expression.parse("x > 2 ? x : -x").value({"x": np.array([1.0, 3.0])})
    np.testing.assert_array_equal(found, [-1.0, 3.0])


def test_deck_numbers_read_m_as_milli():
    """`M` is mega in a field and milli in a deck."""
    assert Expression.parse("2*1M").value({}) == 2e6
    assert Expression.parse("2*1M", deck=True).value({}) == 2e-3


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("(2+3", "closing bracket is missing"), ("2+3)", "closing bracket too many"), ("2+*3", "column 3"),
        ("foo(1)", "unknown function 'foo'"), ("max(1)", "takes 2 arguments"), ("3*wq", "unknown parameter 'wq'"),
        ("1/0", "finite"), ("", "not a number"),
    ],
)  # fmt: skip
def test_mistakes_are_named(text, said):
    """In words, with the place."""
    with pytest.raises(ExpressionError, match=said):
        Expression.parse(text).value({})


def test_value_fields_take_units_and_expressions():
    """And say of something like a number what is wrong with the number."""
    assert parse_value("3.2 µm", "m").value({}) == 3.2e-6
    assert parse_value("2*w0", "m").value({"w0": 1e-6}) == 2e-6
    with pytest.raises(QuantityError, match="'x' in '3.2x'"):
        parse_value("3.2x", "m")


def test_scopes_nest_and_instances_override():
    """What an instance gives is seen from outside the block, what the block defines from inside."""
    parse = Expression.parse
    root = Scope(None, {"w": parse("1"), "k": parse("10")})
    block = Scope(root, {"w": parse("5"), "double": parse("2*w")}, {"w": parse("w+k")})
    assert Environment({}, 27.0).value(parse("double"), block) == 22
    assert Environment({"k": 100.0}, 27.0).value(parse("double"), block) == 202


def test_a_parameter_that_depends_on_itself_is_named():
    """With the way around."""
    scope = Scope(None, {"a": Expression.parse("b+1"), "b": Expression.parse("a+1")})
    with pytest.raises(ExpressionError, match="a > b"):
        Environment({}, 27.0).value(Expression.parse("a"), scope)
