"""Damaged texts, and the parts of the compiler by themselves: never a trace back, always a line."""

from __future__ import annotations

import random

import pytest

from hearthline.core.compiled.machine import to_object
from hearthline.core.errors import ConvergenceError, ModelError
from hearthline.core.formats.deck.plan import plan
from hearthline.core.formats.deck.reader import read
from hearthline.core.models.library import FOLDER, library_names
from hearthline.core.models.veriloga.compiler import compile_file, compile_text
from hearthline.core.models.veriloga.derivative import by_terminals, derivative
from hearthline.core.models.veriloga.graph import Graph
from hearthline.core.models.veriloga.node import Branching
from hearthline.core.models.veriloga.schedule import Schedule
from hearthline.core.models.veriloga.source import read_source
from hearthline.core.outcome import Outcome
from tests.approximation import approx
from tests.modules import HEADERS, Device, module

SCRAPS = [
    "begin",
    "end",
    "(",
    ")",
    ";",
    "<+",
    "if",
    "else",
    "V(p)",
    "ddt(",
    "1e999",
    "0",
    "`X",
    "{",
    "}",
    "[",
    "]",
    "analog",
    "module",
    "endmodule",
    "exp(1e9)",
    "1/0",
    "-",
    "**",
    "?",
    ":",
    "@",
    "\\",
    "é",
    "idt(",
    "ddx(",
    "case",
    "exclude",
    "while(1)",
    "$limit(",
    '"',
    "*/",
    "/*",
]


def damaged(text: str, dice: random.Random) -> str:
    """The text with a piece cut out, put in, copied, or a line lost."""
    at = dice.randrange(len(text))
    to = min(len(text), at + dice.randint(1, 30))
    match dice.randrange(4):
        case 0:
            return text[:at] + text[to:]
        case 1:
            return f"{text[:at]} {dice.choice(SCRAPS)} {text[at:]}"
        case 2:
            other = dice.randrange(len(text))
            return text[:at] + text[other : other + dice.randint(1, 60)] + text[to:]
    lines = text.split("\n")
    del lines[dice.randrange(len(lines))]
    return "\n".join(lines)


@pytest.mark.parametrize("name", [n for n in library_names() if n not in ("mos", "mos1", "bipolar")])
def test_damaged_texts_are_refused_with_a_line_or_compile(name):
    """Random damage to the library's own texts: a ModelError whose every mistake has a place, or a module."""
    dice = random.Random(name)
    text = (FOLDER / f"{name}.va").read_text()
    for _ in range(6):
        broken = damaged(damaged(text, dice), dice)
        try:
            compile_text(broken, "broken.va", FOLDER)
        except ModelError as error:
            for mistake in (error, *error.others):
                assert mistake.message
                assert mistake.file
                assert mistake.line >= 1


@pytest.mark.parametrize(
    "text", ["", "   \n", "// nothing", "nature x; endnature", "\0", "(" * 400, "module", "`define A `A\n`A"]
)
def test_texts_that_are_no_module(text):
    """Each says so."""
    with pytest.raises(ModelError):
        compile_text(text, "f.va")


def test_an_expression_of_any_length():
    """A sum of two thousand terms and forty levels of parentheses."""
    long = " + ".join(["V(p, n)"] * 2000)
    deep = "(" * 40 + "V(p, n)" + ")" * 40
    assert Device(module(f"analog I(p, n) <+ {long} + {deep};")).at(0.5, 0.0).current[0] == approx(1000.5)


def test_files_that_cannot_be_read(tmp_path):
    """Missing, and not a text."""
    with pytest.raises(ModelError, match=r"none\.va: cannot be read"):
        compile_file(tmp_path / "none.va")
    (tmp_path / "binary.va").write_bytes(b"\xff\xfe\x00")
    with pytest.raises(ModelError, match="no text in UTF-8"):
        compile_file(tmp_path / "binary.va")


def test_files_that_include_each_other(tmp_path):
    """Told at the include, and not for ever."""
    (tmp_path / "a.vams").write_text('`include "a.vams"\n')
    with pytest.raises(ModelError, match="include each other without end"):
        compile_text('`include "a.vams"\n', "f.va", tmp_path)


def test_a_mistake_ends_with_the_text_that_holds_it():
    """The same text without it compiles."""
    text = f"{HEADERS}module a(p); inout p; electrical p; analog I(p) <+ V(p); endmodule"
    assert compile_text(text, "f.va")[0].name == "a"
    with pytest.raises(ModelError) as caught:
        compile_text(text.replace("V(p)", "x"), "f.va")
    assert [problem.line for problem in (caught.value, *caught.value.others)] == [3]


def test_lines_keep_their_places_through_includes_and_long_macros(tmp_path):
    """Every line of the text after its directives knows the file and line that it came from."""
    (tmp_path / "inner.vams").write_text("one\ntwo\n")
    text = '`define LONG(a) first a \\\n second\nstart\n`include "inner.vams"\n`LONG(x)\nend'
    source = read_source(text, "f.va", tmp_path)
    placed = {
        line.split()[0]: place for line, place in zip(source.lines, source.problems.places, strict=True) if line.strip()
    }
    assert placed == {
        "start": ("f.va", 3),
        "one": ("inner.vams", 1),
        "two": ("inner.vams", 2),
        "first": ("f.va", 5),
        "end": ("f.va", 6),
    }


def test_a_device_that_gives_no_number_is_named_with_its_bias(tmp_path):
    """Model, instance and voltages; the points beside it stand."""
    body = "module bad(p, n); inout p, n; electrical p, n; analog I(p, n) <+ sqrt(0.5 - V(p, n)) - sqrt(0.5); endmodule"
    (tmp_path / "bad.va").write_text(HEADERS + body)
    (tmp_path / "t.cir").write_text('t\n.veriloga "bad.va"\nv1 a 0 0\nx1 a 0 b\n.model b bad\n.dc v1 0 1 0.25\n')
    solution = plan(read(tmp_path / "t.cir", "t.cir"))[-1].run()
    assert list(solution.dataset.outcomes[0][:2]) == [Outcome.SOLVED, Outcome.SOLVED]
    assert list(solution.dataset.outcomes[0][3:]) == [Outcome.NOT_A_NUMBER, Outcome.NOT_A_NUMBER]
    error = solution.failures[0]
    assert isinstance(error, ConvergenceError)
    assert str(error).startswith("x1 (model b) gave a value that is not a number at V(a) = ")
    assert error.parts == ("x1",)


# -- the graph


def test_equal_values_are_one_node():
    """Sums in either order, products gathered around what does not depend on the unknowns, numbers folded."""
    g = Graph()
    x, y, p = g.probe(0), g.probe(1), g.input("parameter", 0)
    assert g.add(x, y) is g.add(y, x)
    assert g.mul(p, g.mul(g.const(2.0), x)) is g.mul(g.mul(g.const(2.0), p), x)
    assert g.sub(x, x).value == 0
    assert g.neg(g.neg(x)) is x
    assert g.make("pow", x, g.const(2.0)) is g.mul(x, x)
    assert g.make("exp", g.const(0.0)).value == 1.0
    assert g.div(x, p).op == "mul"
    assert g.neg(g.probe(1, 0)) is g.probe(0, 1)


def test_only_derivatives_that_can_be_other_than_zero_exist():
    """None for what does not depend; by terminals, the sum over all differences is nothing."""
    g = Graph()
    v, u = g.probe(0, 1), g.probe(2, 1)
    y = g.mul(v, g.make("exp", v))
    assert derivative(g, y, 1) is None
    assert derivative(g, u, 1).value == 1.0
    slopes = by_terminals(g, g.add(y, g.mul(g.const(3.0), u)))
    assert set(slopes) == {0, 1, 2}
    assert slopes[2].value == 3.0


def test_values_of_one_side_stay_on_that_side():
    """What is computed under a condition lives there; what both sides share is computed once, before."""
    g = Graph()
    x = g.probe(0)
    shared = g.make("exp", x)
    branching = Branching(g.compare(">", x, g.const(0.0)), g.top)
    with g.within(branching.yes):
        inside = g.make("sin", x)
        assert g.make("exp", x) is shared
        inside = g.mul(inside, shared)
    y = g.phi(branching, inside, g.const(0.0))
    schedule = Schedule(g, [y], lambda node: node.level < 2, False)
    assert {n.op for n in schedule.members[branching.yes]} == {"sin", "mul"}
    order = schedule.order(g.top)
    assert order.index(shared) < order.index(branching)


def test_machine_code_of_nonsense_is_refused():
    """The last stage checks what it is given."""
    with pytest.raises(RuntimeError):
        to_object("define i64 @kernel( {")
