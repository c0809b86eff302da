"""The deck: what it understands, and the line it names when something is wrong."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from hearthline.core.errors import CircuitError, DeckError, FileError
from hearthline.core.formats.deck.plan import plan
from hearthline.core.formats.deck.reader import read
from tests.approximation import approx
from tests.decks import planned, point, solved


def test_comments_continuations_case_and_carriage_returns():
    """All the ways in which a deck may be typed."""
    text = "* a comment\r\nV1 A 0 DC 2 ; behind\r\nR1 a B\r\n+ 1K $ behind too\r\n\tr2 b 0 {2*500}\r\n.OPTIONS reltol=1e-6\r\n.op\r\n.END\r\nnonsense"
    assert solved(text)["V(b)"][0] == approx(1.0)


@pytest.mark.parametrize(
    ("source", "volts"),
    [("5", 5), ("DC 5", 5), ("dc 5 ac 1 90", 5), ("ac 1", 0), ("pulse(1 2 0 1n 1n 5n 10n)", 1), ("SIN(0.3 1 1k)", 0.3),
     ("exp(0.2 1 0 1n)", 0.2), ("pwl(0 0.7 1n 2)", 0.7), ("dc 3 pulse(1 2)", 3), ("sffm(0.1 1 1k 5 100)", 0.1), ("{2+3}", 5)],
)  # fmt: skip
def test_source_values_at_direct_current(source, volts):
    """The DC value, or what the time function begins with."""
    assert point(f"v1 a 0 {source}\nr1 a 0 1k")["V(a)"] == approx(volts)


def test_currents_are_positive_into_the_first_terminal():
    """I(name) of a source that delivers is negative; of E and H sources the same."""
    op = point("v1 a 0 2\nr1 a 0 1k\ne1 b 0 a 0 3\nr2 b 0 1k\nh1 c 0 v1 1k\nr3 c 0 1k")
    assert op["I(v1)"] == approx(-2e-3)
    assert op["I(e1)"] == approx(-6e-3)
    assert op["V(c)"] == approx(-2.0)
    assert op["I(h1)"] == approx(2e-3)


def test_capacitor_is_open_and_inductor_a_short():
    """At direct current."""
    op = point("v1 a 0 1\nr1 a b 1k\nc1 b 0 1n\nl1 b c 1u\nr2 c 0 3k")
    assert op["V(b)"] == op["V(c)"] == approx(0.75)
    assert op["I(l1)"] == approx(0.25e-3)


def test_blocks_parameters_and_models_inside():
    """Defaults, overrides, expressions of outer parameters, a model of its own, blocks in blocks."""
    text = """
.param gain=2 base={gain*1k}
.subckt div in out r=1k
r1 in out {r}
r2 out 0 rmod l=4u w=2u
.model rmod r rsh=500
.ends div
.subckt pair a b params: r=1k
xa a m div r={2*r}
xb m b div
.ends
v1 top 0 1
x1 top end pair r={base}
"""
    op = point(text)
    inner = 1 / (1 / 1e3 + 1 / 2e3)
    assert op["V(x1.m)"] == approx(inner / (4e3 + inner))
    assert op["V(end)"] == approx(op["V(x1.m)"] / 2)
    assert op["x1.xa.r2.i"] == approx(op["V(x1.m)"] / 1e3)


def test_corner_takes_the_place_of_every_section(tmp_path):
    """`.lib FILE SECTION`, with and without --corner; the section is named in any case."""
    (tmp_path / "p.lib").write_text(".lib TT\n.param k=1\n.endl\n.lib ss\n.param k=3\n.endl\n")
    deck = tmp_path / "d.cir"
    deck.write_text('t\n.lib "p.lib" tt\nv1 a 0 {k}\nr1 a 0 1\n.op\n')
    for corner, volts in ((None, 1), ("SS", 3)):
        analysis = plan(read(deck, "d.cir", corner))[0]
        assert analysis.columns(analysis.run())["V(a)"][0] == volts
    with pytest.raises(DeckError, match=r"d\.cir:2: there is no section 'ff' in p\.lib; it has tt, ss"):
        read(deck, "d.cir", "ff")


def test_nested_sweep_runs_the_first_name_fastest():
    """A source inside the temperature, a parameter inside a source."""
    table = solved("v1 a 0 0\nr1 a 0 1k tc1=1m\n.dc v1 0 2 1 temp 27 127 100")
    np.testing.assert_allclose(table["v1"], [0, 1, 2, 0, 1, 2])
    np.testing.assert_allclose(table["temp"], [27, 27, 27, 127, 127, 127])
    np.testing.assert_allclose(table["r1.i"], [0, 1e-3, 2e-3, 0, 1e-3 / 1.1, 2e-3 / 1.1])
    table = solved(".param rv=1k\nv1 a 0 0\nr1 a 0 {rv}\n.dc rv 1k 2k 1k v1 1 2 1")
    np.testing.assert_allclose(table["rv"], [1e3, 2e3, 1e3, 2e3])
    np.testing.assert_allclose(table["r1.i"], [1e-3, 0.5e-3, 2e-3, 1e-3])


def test_sweep_ends_where_the_card_says():
    """No point is lost to rounding, downwards too."""
    assert len(solved("v1 a 0 0\nr1 a 0 1\n.dc v1 0 1 0.1")["v1"]) == 11
    np.testing.assert_allclose(solved("v1 a 0 0\nr1 a 0 1\n.dc v1 1 -1 -0.5")["v1"], [1, 0.5, 0, -0.5, -1])


def test_settings_and_temperature_from_outside():
    """--set and --temp win over the deck."""
    text = ".param k=1\n.temp 50\nv1 a 0 {k*temper}\nr1 a 0 1\n.op"
    assert solved(text)["V(a)"][0] == 50
    assert solved(text, settings={"k": 2.0}, celsius=80.0)["V(a)"][0] == 160
    with pytest.raises(FileError, match="--set: there is no parameter 'q'; the deck has k"):
        planned(text, settings={"q": 1.0})


def test_nominal_temperature_of_all_models():
    """`.options tnom` moves the point where a card's numbers hold; a card's own wins."""
    text = "v1 a 0 1\nr1 a 0 r1 l=2u w=1u\nr2 a 0 r2 l=2u w=1u\n.model r1 r rsh=500 tc1=1m\n.model r2 r rsh=500 tc1=1m tnom=27\n"
    op = point(text + ".options tnom=77")
    assert op["r1.i"] == approx(1e-3 / (1 - 0.05))
    assert op["r2.i"] == approx(1e-3)


WRONG = [
    ("v1 a 0 1\nr1 a 0 1k temp=50", 3, "no parameter 'temp'"),
    ("r1 a 10k", 2, "r1 has two nodes and no value, or a node is missing"),
    ("v1 a 0 1\nm1 d g 0 nch w=1u", 3, "too few nodes, or no model"),
    ("v1 a 0 1\nr1 a 0 1k\nR1 a 0 2k", 4, "there is a part 'r1' already, at test.cir:3"),
    ("v1 a 0 1\nx1 a 0 amp", 3, "there is no block 'amp'"),
    (".subckt b a\nr1 a 0 1\nv1 a 0 1", 2, "block 'b' is not closed"),
    (".subckt b a\nx1 a b\n.ends\nx1 n b", 3, "contains itself"),
    (".subckt b a c\nr1 a c 1\n.ends\nx1 n b", 5, "has 1 nodes; block 'b' has 2"),
    (".subckt b a r=1\nr1 a 0 {r}\n.ends\nv1 n 0 1\nx1 n b q=2", 6, "no parameter 'q'"),
    ("v1 a 0 1\nm1 a a 0 0 nch", 3, "there is no model 'nch'"),
    ("v1 a 0 1\nd1 a 0 m\n.model m nmos", 3, "is a NMOS; a D is wanted"),
    ("v1 a 0 1\nm1 a a 0 0 n w=-1u\n.model n nmos", 3, "w must be above 0"),
    ("v1 a 0 1\nm1 a a 0 0 n vto=1\n.model n nmos", 3, "no parameter 'vto'"),
    ("v1 a 0 1\nm1 a a 0 0 n\n.model n nmos vt0=1", 4, "no parameter 'vt0'"),
    ("v1 a 0 1\nm1 a a 0 0 n\n.model n nmos level=3", 4, "LEVEL=1 is"),
    ("v1 a 0 1\nr1 a 0 {2*q}", 3, "unknown parameter 'q'"),
    ("v1 a 0 1\nr1 a 0 {2*(3}", 3, "closing bracket"),
    ("v1 a 0 1\nr1 a 0 {2*3", 3, "opened and not closed"),
    ("v1 a 0 1\nr1 a 0 0", 3, "resistance of 0"),
    ("v1 a 0 1\nr1 a 0 rm l=1u w=0\n.model rm r rsh=1", 3, "width is not above"),
    ("v1 a 0 1\nr1 a 0 1 2 3", 3, "not understood"),
    ("+ r1 a 0 1", 2, "continues another"),
    ("v1 a 0 1\n.wave x", 3, "there is no card '.wave'"),
    ("v1 a 0 1\nq1 a a 0 m", 3, "there is no model 'm'"),
    ("v1 a 0 1\nq1 a a", 3, "too few nodes"),
    ("v1 a 0 1\nx1 a 0 thing", 3, "there is no block 'thing'"),
    ('v1 a 0 1\n.veriloga "none.va"', 3, "there is no such file"),
    ("v1 a 0 1\nx1 a 0 diode n=-1", 3, "n must be above 0"),
    ("v1 a 0 1\nx1 a 0 diode colour=1", 3, "no parameter 'colour'"),
    ("v1 a 0 1\nx1 a 0 b diode", 3, "has 3 nodes; diode has a c"),
    ("v1 a 0 1\nx1 a 0 m\n.model m gizmo", 4, "there is no model type 'gizmo'"),
    ("v1 a 0 1\nr1 a 0 1\n.dc v9 0 1 0.1", 4, "nothing called 'v9'"),
    ("v1 a 0 1\nr1 a 0 1\n.dc v1 0 1 -0.1", 4, "leads nowhere"),
    ("v1 a 0 1\nr1 a 0 1\n.options gmin={q}", 4, "unknown parameter 'q'"),
    ("v1 a 0 1\nr1 a 0 1\n.options speed=1", 4, "there is no option 'speed'"),
    ("v1 a 0 1\nr1 a 0 1\n.dc temp 0 100 1u", 4, "values of temp are too many"),
    ("v1 a 0 1\nr1 a 0 1\n.dc v1 0 1 1u temp 0 100 1", 4, "more than 5000000 points"),
    ("v1 a 0 1\nm1 a a 0 0 n\n.model n nmos level=one", 4, "LEVEL=1 is"),
    ("v1 a 0 1\nr1 a 0 1\n.dc v1 0 1", 4, "START STOP STEP"),
    ('v1 a 0 1\n.include "none.inc"', 3, "cannot read 'none.inc'"),
    (".param a=1 b", 2, ".param name=value"),
    (".ends", 2, "closes no block"),
    ("f1 a 0 vx 2\nr1 a 0 1", 2, "no voltage source 'vx'"),
    ("v1 a 0 1\ne1 b 0 poly(1) a 0", 3, "a polynomial has"),
]


@pytest.mark.parametrize(("text", "line", "said"), WRONG, ids=[w[2][:28] for w in WRONG])
def test_what_is_wrong_names_its_line(text, line, said):
    """The line that a person must mend, what is wrong there, and nothing is run."""
    with pytest.raises((DeckError, CircuitError), match=said.replace("(", r"\(")) as caught:
        planned(text + "\n.op")
    assert (caught.value.file, caught.value.line) == ("test.cir", line)


def test_files_that_include_each_other_come_to_an_end(tmp_path):
    """With a message at the line."""
    (tmp_path / "a.cir").write_text('t\n.include "b.inc"\n')
    (tmp_path / "b.inc").write_text('.include "b.inc"\n')
    with pytest.raises(DeckError, match=r"b\.inc:1: files include each other"):
        read(tmp_path / "a.cir", "a.cir")


def test_a_starting_voltage_that_cannot_be_read_names_its_net():
    """Before anything is solved."""
    with pytest.raises(CircuitError, match="starting voltage of net a: unknown parameter 'q'"):
        planned("v1 a 0 1\nr1 a 0 1\n.nodeset v(a)={q}\n.op")


def test_a_deck_without_analyses_says_so():
    """And a missing deck as well."""
    with pytest.raises(DeckError, match="asks for no analysis"):
        planned("v1 a 0 1\nr1 a 0 1")
    with pytest.raises(DeckError, match="nowhere.cir: cannot be read"):
        read(Path("nowhere.cir"), "nowhere.cir")
