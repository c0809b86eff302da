"""Instances that are evaluated abreast: the functions of vectors, and kernels against the same instances one by one."""

from __future__ import annotations

import ctypes
from functools import cache

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from benchmarks.circuits import CARDS, system_of
from hearthline.core.compiled.machine import addresses_in, has_vectors, to_object
from hearthline.core.engine.transient.run import Times, transient
from hearthline.core.models.layout import LANES
from hearthline.core.models.library import library_module, library_names
from hearthline.core.models.module import Module
from hearthline.core.models.signature import CHARGE, CURRENT, LIMIT, PREPARE, REST, START, TRUST
from hearthline.core.models.veriloga import generate
from hearthline.core.models.veriloga.abreast import preamble_abreast
from hearthline.core.models.veriloga.abreast_functions import REALS
from hearthline.core.models.veriloga.code import PREAMBLE, declarations
from hearthline.core.models.veriloga.compiler import compile_text, hot_variant
from tests.approximation import approx
from tests.examples import examples
from tests.modules import HEADERS, Device, Session, evaluated

pytestmark = pytest.mark.skipif(not has_vectors(), reason="this processor has no vectors that multiply and add")

WIDE = np.longdouble
ODD = np.array([
    0.0, -0.0, np.inf, -np.inf, np.nan, -1.0, 5e-324, 1e-310, 709.7, 709.8, -745.0, -746.0, 1e308, -1e308, 1e-300, 1.0
])  # fmt: skip


@cache
def of_vectors(name: str, arity: int):
    """A function of vectors, for arrays whose length fills them."""
    arguments = ", ".join([f"{REALS} %a{k}" for k in range(arity)] + [f"{REALS} zeroinitializer"] * (name == "exp"))
    loads = "\n".join(
        f"  %p{k} = getelementptr double, ptr %in{k}, i64 %k\n  %a{k} = load {REALS}, ptr %p{k}, align 8"
        for k in range(arity)
    )
    given = ", ".join(f"ptr %in{k}" for k in range(arity))
    text = f"""define void @all(i64 %n, {given}, ptr %out) {{
entry:
  br label %loop
loop:
  %k = phi i64 [ 0, %entry ], [ %next, %loop ]
  %next = add i64 %k, {LANES}
{loads}
  %y = call {REALS} @{name}_abreast({arguments})
  %to = getelementptr double, ptr %out, i64 %k
  store {REALS} %y, ptr %to, align 8
  %more = icmp slt i64 %next, %n
  br i1 %more, label %loop, label %done
done:
  ret void
}}"""
    (address,) = addresses_in(to_object("\n".join([PREAMBLE, declarations(), preamble_abreast({}), text])), "all")
    function = ctypes.CFUNCTYPE(None, ctypes.c_int64, *[ctypes.c_void_p] * (arity + 1))(address)

    def call(*x: np.ndarray) -> np.ndarray:
        held = [np.ascontiguousarray(one, float) for one in x]
        out = np.zeros(len(held[0]))
        function(len(out), *(one.ctypes.data for one in held), out.ctypes.data)
        return out

    return call


def last_places(found: np.ndarray, exact: np.ndarray) -> float:
    """How far numbers are off at most, in units of their last place."""
    return float(np.max(np.abs((found.astype(WIDE) - exact) / np.spacing(np.abs(exact.astype(float))))))


@pytest.mark.parametrize(
    ("name", "exact", "scale", "most"),
    [
        ("exp", np.exp, 700.0, 1.0), ("exp", np.exp, 1.0, 1.0), ("expm1", np.expm1, 30.0, 2.0), ("expm1", np.expm1, 1e-6, 1.0),
        ("log1p", np.log1p, 0.999, 1.5), ("log1p", np.log1p, 1e-9, 1.0), ("tanh", np.tanh, 8.0, 2.5), ("tanh", np.tanh, 1e-3, 2.5),
    ],
)  # fmt: skip
def test_functions_of_vectors(name, exact, scale, most):
    """Against the same functions of longer numbers."""
    x = np.random.default_rng(1).uniform(-scale, scale, 20000)
    assert last_places(of_vectors(name, 1)(x), exact(x.astype(WIDE))) <= most


@pytest.mark.parametrize("scale", [600.0, 3.0, 1e-4])
def test_logarithms_of_vectors(scale):
    """Over all magnitudes, and about 1, where little is left."""
    x = np.exp(np.random.default_rng(2).uniform(-scale, scale, 20000))
    assert last_places(of_vectors("log", 1)(x), np.log(x.astype(WIDE))) <= 0.6


def test_powers_of_vectors():
    """Large exponents cost no places."""
    rng = np.random.default_rng(3)
    base, exponent = np.exp(rng.uniform(-7.0, 7.0, 20000)), rng.uniform(-90.0, 90.0, 20000)
    assert last_places(of_vectors("pow", 2)(base, exponent), np.power(base.astype(WIDE), exponent.astype(WIDE))) <= 2.5


@pytest.mark.parametrize(("name", "plain"), [(n, getattr(np, n)) for n in ("exp", "expm1", "log", "log1p", "tanh")])
def test_odd_arguments(name, plain):
    """Nothing, what is infinite, and what is no number, as the library has them."""
    with np.errstate(all="ignore"):
        assert of_vectors(name, 1)(ODD) == approx(plain(ODD), rel=1e-14, nan=True)


def test_odd_powers():
    """Of all pairs of odd numbers."""
    base, exponent = (one.ravel() for one in np.meshgrid([*ODD, -2.0, 0.5], [*ODD[:14], 3.0, 2.0]))
    with np.errstate(all="ignore"):
        assert of_vectors("pow", 2)(base, exponent) == approx(np.power(base, exponent), rel=1e-14, nan=True)


def compare(module: Module, values: np.ndarray, unknowns: np.ndarray, mode: float, memory: np.ndarray) -> None:
    """All at once, and one by one."""
    wants = CURRENT | CHARGE
    together = evaluated(module, values, unknowns, wants, mode, False, memory)
    alone = [
        evaluated(module, values[k : k + 1], unknowns[k : k + 1], wants, mode, False, memory[k : k + 1])
        for k in range(len(values))
    ]
    assert together.limited == sum(one.limited for one in alone)
    for what in ("current", "conductance", "charge", "capacitance", "memory"):
        wanted = np.concatenate([getattr(one, what) for one in alone])
        size = np.abs(wanted[np.isfinite(wanted)]).max(initial=0.0) + 1e-300
        assert getattr(together, what) / size == approx(wanted / size, rel=1e-11, abs=1e-13, nan=True)


@pytest.mark.parametrize("hot", [False, True])
@pytest.mark.parametrize("name", library_names())
@pytest.mark.parametrize(("count", "mode"), [(2, TRUST), (LANES, START), (2 * LANES + 5, LIMIT)])
def test_instances_are_the_same_together_and_alone(name, count, mode, hot):
    """Every device of the library at unlike temperatures and voltages, some of them far out, so that conditions differ."""
    found = library_module(name)
    found = hot_variant(found) if hot else found.collapsed or found
    rng = np.random.default_rng(count)
    devices = [Device(found, 250.0 + 10.0 * k) for k in range(count)]
    unknowns = rng.uniform(-0.6, 1.3, (count, len(found.terminals))) * rng.choice([0.1, 1.0, 4.0], (count, 1))
    memory = rng.uniform(-0.5, 0.9, (count, found.memory))
    compare(found, np.concatenate([one.values for one in devices]), unknowns, mode, memory)


PIECES = (
    "v", "-v", "a", "sin(v)", "exp(v / 3)", "v * v", "v / (1 + v * v)", "atan2(v, a)", "(v > 0.3 ? a : v)", "pow(abs(v) + 0.1, a)",
    "floor(v * 3)", "min(v, a)", "tanh(v)", "hypot(v, a)", "ln(1 + v * v)", "sqrt(abs(v))", "7 % (2 + (v > 0.1))", "limexp(v)",
    "3 / (1 + (v > 0.2))", "pow(v, 2.5)", "$limit(v, \"pnjlim\", 0.1, 0.5)",
)  # fmt: skip


@examples(25)
@given(
    pieces=st.lists(st.sampled_from(PIECES), min_size=1, max_size=4), bounds=st.lists(st.floats(-1, 1), min_size=2, max_size=2),
    count=st.integers(4, 2 * LANES + 1), seed=st.integers(0, 99),
)  # fmt: skip
def test_any_text_is_the_same_together_and_alone(pieces, bounds, count, seed):
    """Functions, conditions in conditions on voltages and on parameters, whole numbers, limits: with lanes that differ."""
    terms = " + ".join(f"({piece})" for piece in pieces)
    text = f"""{HEADERS}module dut(p, n); inout p, n; electrical p, n;
        (* type="instance" *) parameter real a = 0.4; real v, i, q; integer m;
        analog begin v = V(p, n); m = 2; i = 0; q = v;
          if (v > {bounds[0]:g}) begin i = {terms}; if (a > {bounds[1]:g}) begin m = 3; q = i * v; end else q = ln(a + 2.0); end
          else if (v < {min(bounds):g}) i = v * exp(-v) / m;
          I(p, n) <+ i * m; I(p, n) <+ ddt(q); end
        endmodule
        """
    before, generate.WORTHWHILE = generate.WORTHWHILE, 1
    try:
        found = compile_text(text, "abreast.va")[0]
        assert found.address
    finally:
        generate.WORTHWHILE = before
    assert found.abreast == found.values + 2
    rng = np.random.default_rng(seed)
    values = np.concatenate([Device(found, a=a).values for a in rng.uniform(-0.9, 0.9, count)])
    unknowns, memory = rng.uniform(-2.0, 2.0, (count, 2)), rng.uniform(-1.0, 1.0, (count, found.memory))
    compare(found, values, unknowns, rng.choice([LIMIT, TRUST, START]), memory)


def test_what_has_loops_is_evaluated_one_by_one(monkeypatch):
    """Each ends when it likes."""
    monkeypatch.setattr(generate, "WORTHWHILE", 1)
    body = "real x; integer k; analog begin x = V(p, n); k = 0; while (x > 0.1 && k < 40) begin x = x / 2; k = k + 1; end\n"
    text = f"{HEADERS}module dut(p, n); inout p, n; electrical p, n;\n{body}I(p, n) <+ x; end\nendmodule\n"
    found = compile_text(text, "abreast_loops.va")[0]
    assert found.abreast == 0
    unknowns = np.linspace(-1.0, 9.0, 22).reshape(11, 2)
    compare(found, np.repeat(Device(found).values, 11, axis=0), unknowns, TRUST, np.zeros((11, 0)))


def calls(found: Module, values: np.ndarray, *each: tuple[int, np.ndarray]) -> list[bool]:
    """Of calls one after the other, each with what it wants and unknowns: whether it has evaluated the last instance."""
    session, evaluated_it = Session(found, values), []
    for wants, unknowns in each:
        session.stretches().current[:] = np.nan
        session.call(wants, unknowns)
        evaluated_it.append(bool(np.isfinite(session.stretches().current[-1]).all()))
    return evaluated_it


def test_what_stands_still_is_not_evaluated_again():
    """As long as nothing else has happened to it: it has moved by less than a hundredth of a nanovolt, its numbers are the
    same, and no other evaluation has written where its results are."""
    found = library_module("mos")
    found = found.collapsed or found
    rng = np.random.default_rng(4)
    values = np.repeat(Device(found).values, 2 * LANES, axis=0)
    here = rng.uniform(0.1, 1.0, (2 * LANES, len(found.terminals)))
    other = here.copy()
    other[0] += 0.1  # of the first eight
    near, far = here + 4e-12, here + 3e-11
    both = CURRENT | CHARGE
    rest = both | REST
    assert calls(found, values, (rest, here), (rest, here), (rest, other), (rest, near), (rest, far), (rest, near)) == [
        True, False, False, False, True, True
    ]  # fmt: skip
    for between in (CURRENT, both, PREPARE):
        assert calls(found, values, (rest, here), (between, here), (rest, here))[2]
    assert calls(found, values, (both, here), (rest, here))[1]


def test_what_depends_on_time_never_rests(monkeypatch):
    """Though it stands still."""
    monkeypatch.setattr(generate, "WORTHWHILE", 1)
    body = "analog begin I(p, n) <+ V(p, n) * (1.0 + $abstime) + ddt(1e-12 * V(p, n) * V(p, n)); end"
    text = f"{HEADERS}module dut(p, n); inout p, n; electrical p, n;\n{body}\nendmodule\n"
    found = compile_text(text, "abreast_time.va")[0]
    here, rest = np.linspace(0.0, 1.0, 2 * LANES).reshape(LANES, 2), CURRENT | CHARGE | REST
    assert found.abreast
    assert calls(found, np.repeat(Device(found).values, LANES, axis=0), (rest, here), (rest, here)) == [True, True]


def test_an_edge_through_a_chain_that_rests():
    """Before and behind it nothing moves: its delay is that of a march a hundred times as accurate, and where it has been the
    chain stands at its supplies."""
    lines = ["vdd vdd 0 1.2\nv1 n0 0 pulse(0 1.2 0.2n 50p 50p 20n 40n)\n", CARDS]
    for k in range(40):
        lines.append(
            f"mn{k} n{k + 1} n{k} 0 0 n w=1u l=0.2u\nmp{k} n{k + 1} n{k} vdd vdd p w=2u l=0.2u\nc{k} n{k + 1} 0 5f\n"
        )
    system = system_of("".join(lines))
    column = 1 + next(k for k, one in enumerate(system.unknowns) if one.name == "n40")
    delays = []
    for rel in (1e-3, 1e-5):
        rows = transient(system, Times(1e-9, 8e-9, longest=1e-9, rel=rel)).tracks[0].rows
        delays.append(np.interp(0.6, rows[:, column], rows[:, 0]))
        for k in range(41):
            ends = rows[-1, 1 + [one.name for one in system.unknowns].index(f"n{k}")]
            assert ends == approx(1.2 * (k % 2 == 0), abs=1e-4)
    assert delays[0] == approx(delays[1], rel=3e-3)
