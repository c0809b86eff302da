"""What has no solution is no solution, what cannot be is refused at its place, and what was left over is said."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import constants
from scipy.optimize import brentq

from hearthline.core.errors import CircuitError, ConvergenceError, DeckError
from tests.approximation import approx
from tests.decks import planned, point, solved


@pytest.mark.parametrize(
    ("law", "function"),
    [
        ("sqrt(v(b))", np.sqrt), ("pow(v(b), 0.9)", lambda v: v**0.9), ("pow(v(b), 0.3)", lambda v: v**0.3),
        ("log(1 + sqrt(v(b)))", lambda v: np.log10(1 + np.sqrt(v))),
    ],
)  # fmt: skip
def test_an_infinite_slope_is_no_place_to_stop(law, function):
    """A step of Newton is nothing where the slope is infinite, and 1 A would be missing: SciPy's root is found, at one point
    and along a sweep."""
    text = f"v1 a 0 1\nr1 a b 1\nb1 b 0 i={{{law}}}\n"
    assert point(text)["V(b)"] == approx(brentq(lambda v: 1 - v - function(v), 1e-9, 1), rel=1e-7)
    table = solved(text + ".dc v1 0 2 0.5\n")
    expected = [0.0, *(brentq(lambda v, a=a: a - v - function(v), 1e-9, 2) for a in (0.5, 1.0, 1.5, 2.0))]
    np.testing.assert_allclose(table["V(b)"], expected, rtol=1e-6, atol=1e-12)


def test_an_inverse_cosine_finds_its_branch():
    """acosh has no value below 1 V and no slope at it."""
    found = point("v1 a 0 2\nr1 a b 1\nb1 b 0 i={acosh(v(b))}")["V(b)"]
    assert found == approx(brentq(lambda v: 2 - v - np.arccosh(v), 1.0001, 2), rel=1e-7)


@pytest.mark.parametrize(
    ("text", "net"),
    [("i1 a 0 1m\nd1 a 0 dm\n.model dm d is=1e-14\n", "a"), ("i1 0 a 1\nr1 a 0 1k\nr2 a 0 -1k\n", "a")],
    ids=["reverse current", "resistances cancel"],
)
def test_a_conductance_that_is_left_over_is_no_solution(text, net):
    """Where only that carries what flows in, there is none, and the net is named."""
    (task,) = planned(text + ".op\n")
    found = task.run()
    (error,) = found.failures.values()
    assert isinstance(error, ConvergenceError)
    assert net in error.nets


@pytest.mark.parametrize(("celsius", "eg"), [(-196.0, 1.11), (-150.0, 1.11), (27.0, 3.2)])
def test_junctions_beyond_an_exponent_of_eighty(celsius, eg):
    """Cold diodes and wide gaps: the exponential law to the end, by Lambert's function in the logarithm."""
    t = celsius + 273.15
    vt = constants.k * t / constants.e
    given = 1e-14 if eg < 2 else 1e-46
    log_is = np.log(given) + 3 * np.log(t / 300.15) + (t / 300.15 - 1) * eg / vt
    v = brentq(lambda v: v / vt + log_is - np.log((5 - v) / 1e3), 0.5, 4.999)
    found = point(f"v1 a 0 5\nr1 a b 1k\nd1 b 0 dx\n.model dx d is={given} eg={eg}\n.temp {celsius}")
    assert found["V(b)"] == approx(v, rel=1e-6)


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("v1 a 0 1\nr1 a 0 1k\n.temp -300\n.op", ":4: -300 °C is below absolute zero"),
        ("v1 a 0 1\nr1 a 0 1k\n.dc temp -300 0 100", ":4: -300 °C is below absolute zero"),
        ("v1 a 0 1\nr1 a 0 1k\n.options reltol=-1e-3\n.op", ":4: reltol must be above 0"),
        ("v1 a 0 1\nr1 a 0 1k\n.options gmin=-1\n.op", ":4: gmin must be above 0"),
        ("v1 a 0 1\nr1 a b 1k\nc1 b 0 1n\n.ic v(a)=2\n.tran 1n 1u", ":5: net a is to begin at 2 V, and v1 holds it at 1 V"),
        ("v1 a 0 pulse(0.5 1)\nv2 b a 1\nr1 b 0 1\n.ic v(b)=2\n.tran 1n 1u", ":5: net b is to begin at 2 V, and v2 holds it at 1.5 V"),
        ("v1 a 0 1\nr1 a 0 1\n.dc v1 0 1 1e-320", ":4: .* values of v1 are too many"),
        ("m1 a a 0 0 nm\n.model nm nmos level={1/0}\nv1 a 0 1\n.op", ":3: level: .*finite"),
        ("v1 a 0 1e" + "9" * 500 + "\n.op", ":2: .*no number that can be used"),
        ("v1 a 0 {" + "(" * 200 + "1" + ")" * 200 + "}\nr1 a 0 {" + "-" * 200 + "1}\n.op", ":3: .*deep in each other"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused_at_its_line(text, said):
    """With file and line."""
    with pytest.raises(DeckError, match=said):
        planned(text + "\n")


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("v1 a 0 sin(0 1 -1meg)", "v1: the frequency of its sin must not be below 0"),
        ("v1 a 0 sffm(0 1 1meg 2 -1k)", "the signal's frequency of its sffm"),
        ("v1 a 0 pulse(0 1 0 -1n)", "the rise time of its pulse"), ("v1 a 0 exp(0 1 0 -1n)", "the first time constant of its exp"),
        ("v1 a 0 1\nx1 a 0 b c d switch ron=1\nr2 b 0 1", "x1: has 5 nodes; switch has p n cp cn"),
    ],
)  # fmt: skip
def test_parts_that_cannot_be_are_named(line, said):
    """A number that means nothing, or a node too many."""
    with pytest.raises((CircuitError, DeckError), match=said):
        planned(f"{line}\nr1 a 0 1k\n.tran 1n 1u\n")


def test_a_port_that_is_left_open_is_said():
    """And one that the text provides for is not."""
    (task,) = planned("v1 a 0 1\nr1 a b 1\nx1 b 0 a switch\nx2 b 0 resistor r=5\n.op\n")
    notes = task.run().notes
    assert "x1: port cn of switch is not connected; connect it, to 0 if it is not needed" in notes
    assert not any("resistor" in note for note in notes)


def test_a_sum_of_any_length_and_loops_of_sources():
    """1500 terms add up; a loop names all of its members; a current that follows its own voltage is a way to ground."""
    assert point("v1 a 0 {" + "+".join(["1"] * 1500) + "}\nr1 a 0 1")["V(a)"] == 1500.0
    with pytest.raises(CircuitError, match="v3 closes a loop .* with v1, v2 between"):
        point("v1 a b 1\nv2 b 0 1\nv3 a 0 2\nr1 a 0 1")
    assert point("i1 0 g 1m\nb3 g 0 i=1e-3*v(g)^3")["V(g)"] == approx(1.0, rel=1e-6)
    assert point("i1 0 g 1m\ng1 g 0 g 0 1m")["V(g)"] == approx(1.0, rel=1e-9)


@pytest.mark.parametrize("text", ["log(100)", "7 % 4", "-7 % 4", "7.5 % -2"])
def test_parameters_and_sources_mean_the_same(text):
    """log is of base 10 and % has the sign of what is divided, in `.param` and in B alike."""
    expected = {"log(100)": 2.0, "7 % 4": 3.0, "-7 % 4": -3.0, "7.5 % -2": 1.5}[text]
    found = point(f".param p={{{text}}}\nv1 a 0 {{p}}\nr1 a 0 1\nb1 b 0 v={{{text} + 0*v(a)}}\nr2 b 0 1")
    assert (found["V(a)"], found["V(b)"]) == (approx(expected), approx(expected))


def test_a_module_keeps_a_parameter_that_is_called_m(tmp_path):
    """`m` of a module's own is the module's, and multiplicity of others."""
    from hearthline.core.formats.deck.plan import plan
    from hearthline.core.formats.deck.reader import read

    (tmp_path / "own.va").write_text(
        '`include "disciplines.vams"\nmodule own(p, n); inout p, n; electrical p, n; parameter real m = 1;\n'
        "analog I(p, n) <+ V(p, n) * 1e-3 * (m + 10); endmodule\n"
    )
    (tmp_path / "d.cir").write_text('t\n.veriloga "own.va"\nv1 a 0 1\nx1 a 0 own m=3\n.op\n')
    (task,) = plan(read(tmp_path / "d.cir", "d.cir"))
    assert task.columns(task.run())["I(v1)"][0] == approx(-13e-3, rel=1e-9)


def test_a_charge_pump_may_end_on_a_period_of_its_clock():
    """A corner at the end but for rounding is the end."""
    text = (
        "vin i 0 1\nd0 i a dm\nc1 a ca 10p\nd1 a o dm\nv1 ca 0 pulse(0 1 0 1n 1n 49n 100n)\ncl o 0 20p\nrl o 0 10meg\n"
    )
    for stop in ("20u", "19.9u", "13.7u", "3u"):
        table = solved(f"{text}.model dm d is=1e-14\n.tran 1n {stop}\n")
        assert table["time"][-1] == approx(float(stop[:-1]) * 1e-6, rel=1e-12)
