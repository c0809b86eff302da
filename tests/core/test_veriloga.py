"""The Verilog-A compiler: what the language means, what is wrong in a text, and what is doubtful.

Verilog-AMS LRM 2.4, analog part.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
import scipy.constants
from hypothesis import given
from hypothesis import strategies as st

from hearthline.core.errors import ModelError
from hearthline.core.models.veriloga.compiler import compile_text
from hearthline.core.models.veriloga.functions import FUNCTIONS, IN_THE_LANGUAGE
from hearthline.core.models.veriloga.kept import cache_folder
from tests.approximation import approx
from tests.examples import examples
from tests.modules import HEADERS, Device, module


def value(expression: str, declarations: str = "", before: str = "", **given) -> float:
    """What an expression gives, worked out beside the unknowns (setup) and with them (kernel); both must agree."""
    body = f"""(* desc="result" *) real y; real one; {declarations}
        analog begin one = 1.0; {before} y = {expression}; I(p, n) <+ V(p, n); end"""
    early = Device(module(body), **given).at(0.0, 0.0).readout["y"]
    late = Device(module(body.replace("one = 1.0", "one = 1.0 + V(p, n)")), **given).at(0.0, 0.0).readout["y"]
    assert late == approx(early, rel=1e-12, nan=True)
    return early


@pytest.mark.parametrize(
    ("expression", "expected"),
    [
        ("1 + 2 * 3", 7), ("(1 + 2) * 3", 9), ("7 / 2", 3), ("-7 / 2", -3), ("7.0 / 2", 3.5), ("7 % 4", 3), ("-7 % 4", -3),
        ("7.5 % 2", 1.5), ("2 ** 10", 1024), ("-2 ** 2", 4), ("2.0 ** -1", 0.5), ("2.5k", 2500), ("3M", 3e6), ("4m", 4e-3),
        ("1_000", 1000), ("1.5e-3", 1.5e-3), ("5 > 3", 1), ("5 <= 3", 0), ("5 == 5.0", 1), ("!3", 0), ("!0", 1),
        ("1 && 0", 0), ("1 || 0", 1), ("6 & 3", 2), ("6 | 3", 7), ("6 ^ 3", 5), ("~0", -1), ("1 << 4", 16), ("16 >> 2", 4),
        ("1 ? 2 : 3", 2), ("one > 2 ? 2 : one > 0 ? 4 : 5", 4), ("-one", -1), ("+one", 1), ("one / 4", 0.25),
        ("min(one, 3)", 1), ("max(one, 3)", 3), ("abs(-one)", 1), ("$vt(300) / 300", scipy.constants.k / scipy.constants.e),
        ("$temperature", 300.15), ("$vt", 300.15 * scipy.constants.k / scipy.constants.e), ("$simparam(\"none\", 4)", 4),
        ("`M_PI", math.pi), ("$pow(one * 2, 3)", 8), ("one < 2 && one > 0", 1), ("$abstime", 0),
    ],
)  # fmt: skip
def test_operators_and_literals(expression, expected):
    """Precedence, whole and real arithmetic, scale factors: LRM 2.4, chapter 4."""
    assert value(expression) == approx(expected, rel=1e-15)


@pytest.mark.parametrize("name", sorted(IN_THE_LANGUAGE))
@examples(12)
@given(data=st.data())
def test_mathematical_functions_and_their_slopes(name, data):
    """Each function of the LRM against Python's own, and its first and second derivative against differences."""
    low, high = {
        "acosh": (1.2, 5),
        "asin": (-0.9, 0.9),
        "acos": (-0.9, 0.9),
        "atanh": (-0.9, 0.9),
        "ln1p": (-0.8, 5),
    }.get(name, (0.1, 2.4) if name in ("ln", "log", "sqrt", "pow", "hypot", "atan2") else (-1.4, 1.4))
    count = FUNCTIONS[name].arity
    x = [data.draw(st.floats(low, high)) for _ in range(count)]
    if name in ("floor", "ceil", "abs", "min", "max"):
        x = [round(v, 1) + 0.04 + 0.01 * k for k, v in enumerate(x)]
    device = function_device(name, count)
    reference = FUNCTIONS[name].fold
    at = device.at(*x)
    assert at.current[0] == approx(reference(*x), rel=1e-12)
    for k in range(count):
        h = 1e-5
        shifted = [[v + s * h * (j == k) for j, v in enumerate(x)] for s in (1, -1)]
        numeric = (reference(*shifted[0]) - reference(*shifted[1])) / (2 * h)
        assert at.conductance[0, k] == approx(numeric, rel=1e-6, abs=1e-6)
        second = (device.at(*shifted[0]).readout[f"d{k}"] - device.at(*shifted[1]).readout[f"d{k}"]) / (2 * h)
        assert at.readout[f"d{k}"] == approx(at.conductance[0, k], rel=1e-12, abs=1e-12)
        assert at.readout[f"dd{k}"] == approx(second, rel=1e-5, abs=1e-5)


def function_device(name: str, count: int) -> Device:
    """A module whose current into its first port is the function of its ports' voltages."""
    ports = ("a", "b", "c")[:count]
    inside = ", ".join(f"V({port})" for port in ports)
    marked = "".join(f'(* desc="slope" *) real d{k}; (* desc="second" *) real dd{k};\n' for k in range(count))
    slopes = "".join(f"d{k} = ddx(y, V({p})); dd{k} = ddx(d{k}, V({p}));\n" for k, p in enumerate(ports))
    body = f"real y; {marked} analog begin y = {name}({inside}); {slopes} I({ports[0]}) <+ y; end"
    return Device(module(body, ", ".join(ports), name=f"f_{name}"))


def test_remainder_by_what_changes():
    """d(a % b) = da - trunc(a / b) db, where the quotient does not jump."""
    device = Device(module("analog I(p, n) <+ 7.5 % V(p, n);"))
    assert device.at(2.0, 0.0).current[0] == approx(1.5)
    assert device.at(2.0, 0.0).conductance[0, 0] == approx(-3.0)


@pytest.mark.parametrize("ends", ["p, n", "n, p"])
def test_slope_by_a_current(ends):
    """By I(branch) as it is written, whichever way the branch goes."""
    body = f"""branch ({ends}) way; (* desc="slope" *) real by;
        analog begin V(way) <+ 2.0 * I(way); by = ddx(5.0 * I(way), I(way)); end"""
    assert Device(module(body)).at(0.0, 0.0, 0.0).readout["by"] == approx(5.0)


def test_limexp_is_exp_as_far_as_floats_go():
    """It limits what an iteration tries and never a result: exp up to 700, a straight line beyond, no overflow ever."""
    device = Device(module("analog I(p, n) <+ limexp(V(p, n));"))
    assert device.at(2.0, 0.0).current[0] == approx(math.exp(2.0), rel=1e-14)
    assert device.at(160.0, 0.0).current[0] == approx(math.exp(160.0), rel=1e-14)
    assert device.at(702.0, 0.0).current[0] == approx(3 * math.exp(700.0), rel=1e-14)
    assert device.at(1e6, 0.0).conductance[0, 0] == approx(math.exp(700.0), rel=1e-14)


def test_conditions_loops_and_arrays():
    """if, case, for, while, repeat, arrays with fixed and computed index; unrolled or not, with derivatives."""
    body = """
        (* desc="sum" *) real total; (* desc="picked" *) real picked; (* desc="power" *) real power;
        (* desc="steps" *) real steps; real x[0:4]; integer i, j; real r;
        analog begin
            total = 0.0;
            for (i = 0; i < 5; i = i + 1) begin
                x[i] = i * V(p, n);
                total = total + x[i];
            end
            j = V(p, n) > 1.0 ? 3 : 1;
            picked = x[j];
            power = 1.0;
            repeat (3) power = power * V(p, n);
            case (j) 0, 1: steps = 10.0; 3: steps = 30.0; default: steps = 0.0; endcase
            r = V(p, n);
            while (r > 0.5) begin r = r / 2.0; steps = steps + 1.0; end
            I(p, n) <+ r + power;
        end"""
    device = Device(module(body))
    at = device.at(3.0, 0.0)
    assert at.readout == approx({"total": 30.0, "picked": 9.0, "power": 27.0, "steps": 33.0})
    assert at.current[0] == approx(0.375 + 27.0)
    assert at.conductance[0, 0] == approx(1 / 8 + 27.0)
    assert device.at(0.4, 0.0).readout["picked"] == approx(0.4)


def test_a_loop_whose_length_a_parameter_tells():
    """Worked out before the solution; the same value as the closed form."""
    body = """parameter integer n = 5 from [0:100]; (* desc="sum" *) real s; integer k;
        analog begin s = 0; for (k = 1; k <= n; k = k + 1) s = s + k; I(p, n_) <+ s * V(p, n_); end"""
    found = module(body, "p, n_")
    assert Device(found).at(1.0, 0.0).current[0] == 15.0
    assert Device(found, n=100).at(1.0, 0.0).readout["s"] == 5050.0
    assert Device(found, n=0).at(1.0, 0.0).current[0] == 0.0


def test_functions_with_outputs_and_their_own_variables():
    """Analog functions are worked in; output arguments give back; names inside do not disturb those outside."""
    body = """real lo, hi, a;
        analog function real order; input u, v; output low; inout high; real u, v, low, high, a;
            begin a = u > v ? u : v; low = u + v - a; high = high + a; order = a; end
        endfunction
        (* desc="got" *) real got; (* desc="low" *) real l; (* desc="high" *) real h;
        analog begin a = 5.0; lo = 0.0; hi = 1.0;
            got = order(V(p), V(n), lo, hi); l = lo; h = hi + a * 0.0; I(p, n) <+ got; end"""
    at = Device(module(body)).at(0.2, 0.7)
    assert at.readout == approx({"got": 0.7, "l": 0.2, "h": 1.7})


def test_charges_are_kept_apart_from_currents():
    """ddt may be scaled, added, held in a variable; where it is multiplied by a voltage it gets an unknown of its own."""
    body = "real q; analog begin q = 2p * V(p, n); I(p, n) <+ 3.0 * ddt(q) + V(p, n) / 1k - ddt(1p * V(p, n)); end"
    at = Device(module(body)).at(2.0, 0.0)
    assert at.charge[0] == approx(10e-12)
    assert at.capacitance[0, 0] == approx(5e-12)
    assert at.current[0] == approx(2e-3)
    product = module("analog I(p, n) <+ V(p, n) * ddt(1p * V(p, n));")
    assert [t.kind for t in product.terminals] == ["port", "port", "state"]
    at = Device(product).at(2.0, 0.0, 7.0)
    assert at.current[0] == approx(14.0)
    assert at.current[2] == approx(-7.0)
    assert at.charge[2] == approx(2e-12)


def test_an_integral_is_a_state_with_a_start():
    """At rest its start value; in time the integral."""
    found = module("analog I(p, n) <+ idt(V(p, n), 0.25);")
    assert found.terminals[2].kind == "state"
    rest, moving = Device(found).at(2.0, 0.0, 0.3), Device(found, static=False).at(2.0, 0.0, 0.3)
    assert rest.current[2] == approx(0.05)
    assert (moving.current[2], moving.charge[2]) == approx((-2.0, 0.3))


def test_voltage_contributions_and_current_probes():
    """A resistor written as a voltage, and a branch that is a switch by its bias."""
    found = module("branch (p, n) b; analog V(b) <+ 50.0 * I(b) + 1u * ddt(I(b));")
    at = Device(found).at(1.0, 0.0, 0.01)
    assert at.current[:2] == approx([0.01, -0.01])
    assert at.current[2] == approx(0.5)
    assert at.charge[2] == approx(-1e-8)
    switch = module("analog if (V(c) > 0.5) V(p, n) <+ 0.1; else I(p, n) <+ 1n * V(p, n);", "p, n, c")
    assert Device(switch).at(1.0, 0.0, 1.0, 0.2).current[3] == approx(0.9)
    assert Device(switch).at(1.0, 0.0, 0.0, 0.2).current[3] == approx(0.2 - 1e-9)


def test_noise_sources_keep_their_names():
    """White and flicker noise with density and exponent, scaled by the square of their factor."""
    body = 'analog I(p, n) <+ V(p, n) + 2.0 * white_noise(3.0, "a") + flicker_noise(V(p, n), 1.2, "b");'
    found = module(body)
    assert [(n.name, n.kind, n.plus, n.minus) for n in found.noise] == [("a", "white", 0, 1), ("b", "flicker", 0, 1)]
    assert Device(found).at(0.5, 0.0).noise == {"a": approx((12.0, 0.0)), "b": approx((0.5, 1.2))}


def test_parameters_given_aliased_and_by_default():
    """Defaults may name earlier parameters; aliases set the same; $param_given tells; arrays have elements."""
    body = """parameter real a = 2.0; parameter real b = 3 * a; aliasparam bb = b; parameter real c[0:2] = '{1, 2, 3};
        localparam real d = a + 1; parameter integer i = 1.6;
        (* desc="r" *) real r; analog begin r = b + 10 * $param_given(b) + 100 * c[1] + 1000 * d + 10000 * i;
        I(p, n) <+ 0.0 * V(p, n); end"""
    found = module(body)
    assert Device(found).at(0, 0).readout["r"] == 6 + 200 + 3000 + 20000
    assert Device(found, a=5.0).at(0, 0).readout["r"] == 15 + 200 + 6000 + 20000
    assert Device(found, bb=1.0).at(0, 0).readout["r"] == 11 + 200 + 3000 + 20000
    assert Device(found, **{"c[1]": 7.0}).at(0, 0).readout["r"] == 6 + 700 + 3000 + 20000


def test_directives():
    """Macros with arguments, in macros and over lines; conditions in conditions; undef."""
    text = f"""{HEADERS}`define SQ(x) ((x) * (x))
`define TWICE(x, y) (`SQ(x) + \\
    `SQ(y))
`define ON
`ifdef ON
`ifndef OFF
`define G 2.0
`else
syntax error here
`endif
`elsif WHATEVER
more nonsense
`else
and more
`endif
`undef ON
`ifdef ON
module wrong
`endif
module dut(p, n); inout p, n; electrical p, n; // a comment with `UNKNOWN macro
/* and a
   longer one */ analog I(p, n) <+ `G * `TWICE(V(p, n),
        3.0);
endmodule"""
    (found,) = compile_text(text, "dut.va")
    assert Device(found).at(2.0, 0.0).current[0] == approx(2 * (4 + 9))


def test_constants_are_those_of_scipy():
    """CODATA through scipy.constants: the same everywhere."""
    c = scipy.constants
    known = {"P_Q": c.e, "P_K": c.k, "P_C": c.c, "P_H": c.h, "P_EPS0": c.epsilon_0, "P_U0": c.mu_0, "M_PI": c.pi,
             "P_CELSIUS0": c.zero_Celsius, "M_LN10": math.log(10), "M_SQRT2": math.sqrt(2)}  # fmt: skip
    for name, expected in known.items():
        assert value(f"`{name}") == approx(expected, rel=1e-12)


WRONG = [
    ("analog begin\n I(p, n) <+ V(p, n)\nend", 3, "expected ';' before 'end'"),
    ("analog I(p, n) <+ (V(p, n);", 1, "expected ')' before ';'"),
    ("analog I(p, n) <+ x * V(p, n);", 1, "unknown name 'x'"),
    ("real gain; analog begin gain = 1; I(p, n) <+ gian * V(p, n); end", 1, "did you mean 'gain'"),
    ("analog I(p, q) <+ V(p, n);", 1, "unknown net 'q'; there are p, n"),
    ("analog I(p, n) <+ foo(V(p, n));", 1, "unknown function 'foo'"),
    ("real x; analog begin I(p, n) <+ x; x = V(p, n); end", 1, "hidden state"),
    ("real x; analog begin if (V(p, n) > 0) x = 1; I(p, n) <+ x; end", 1, "one side only"),
    ("parameter real r = 1; analog begin r = 2; I(p, n) <+ r; end", 1, "cannot be assigned"),
    ("real r; real r; analog I(p, n) <+ 0.0;", 1, "declared already"),
    ("analog I(p, n) <+ absdelay(V(p, n), 1n);", 1, "absdelay is not supported; a delay"),
    ("analog I(p, n) <+ laplace_nd(V(p, n), '{1}, '{1, 1});", 1, "laplace_nd is not supported; write"),
    ("analog V(p) : V(n) == 0;", 1, "indirect contributions are not supported"),
    ("analog @(cross(V(p), 1)) I(p, n) <+ 1;", 1, "events as @(cross)"),
    ("real y; analog begin y = sin(1, 2); I(p, n) <+ y; end", 1, "sin takes 1 argument"),
    ("analog I(p, n) <+ Temp(p);", 1, "net 'p' is electrical; use V(...)"),
    ("analog I(p, p) <+ 1;", 1, "are the same net"),
    ("real a[0:3]; analog begin a[7] = 1; I(p, n) <+ 0; end", 1, "outside [0:3]"),
    ("real a[0:3]; analog begin a[0] = 1; I(p, n) <+ a; end", 1, "is an array"),
    ("analog I(p, n) <+ 1 / 0;", 1, "division by zero"),
    ("analog I(p, n) <+ $limit(V(p, n), \"mine\");", 1, "$limit knows pnjlim"),
    ("analog I(p, n) <+ $simparam(\"speed\");", 1, "give it a default"),
    ("real x; analog begin x = white_noise(1); I(p, n) <+ x; I(p) <+ x; end", 1, "enters two branches"),
    ("analog I(p, n) <+ V(p, n) * white_noise(1) * white_noise(1);", 1, "noise may only be scaled"),
    ("integer k; analog begin k = 0; while (1) k = k + 1; I(p, n) <+ k; end", 1, "or for ever"),
    ("real x; analog begin @(initial_step) x = V(p, n); I(p, n) <+ x; end", 1, "hidden state"),
    ("analog function real f; input x; real x; f = f(x); endfunction analog I(p, n) <+ f(1);", 1, "calls itself"),
    ("magnetic m; analog I(p, n) <+ 0.0;", 1, "unknown discipline 'magnetic'"),
    ("resistor r1(p, n);", 1, "a module inside a module is not supported"),
    ("always begin end", 1, "belongs to digital"),
    ("analog I(p, n) <+ `G;", 1, "unknown macro or directive `G"),
    ("`include \"nothing.vams\"\nanalog I(p, n) <+ 0;", 1, "there is no file 'nothing.vams'"),
    ("`ifdef A\nanalog I(p, n) <+ 0;", 1, "has no `endif"),
    ("analog I(p, n) <+ ddx(V(p), p);", 1, "ddx differentiates by"),
    ("analog I(p, n) <+ ddx(V(p), V(1));", 1, "ddx differentiates by the voltage of a net"),
    ("analog I(p, n) <+ #;", 1, "'#' has no meaning here"),
    ("parameter real r = 1 from [0:inf); analog if (V(p, n) > 0) I(p, n) <+ idt(V(p, n)); else I(p, n) <+ 0;", 1, "idt cannot"),
    ("", 1, "no analog block"),
]  # fmt: skip


@pytest.mark.parametrize(("body", "line", "said"), WRONG, ids=[said[:24] for *_, said in WRONG])
def test_what_is_wrong_names_its_line(body, line, said):
    """File, line, what is wrong, and what to use instead."""
    text = f"{HEADERS}module dut(p, n); inout p, n; electrical p, n;\n{body}\nendmodule\n"
    with pytest.raises(ModelError) as caught:
        compile_text(text, "file.va")
    assert said in str(caught.value)
    found = caught.value if said in caught.value.message else next(o for o in caught.value.others if said in o.message)
    assert (found.file, found.line) in (("file.va", line + 3), ("file.va", 3))
    assert str(found).startswith(f"file.va:{found.line}")


def test_several_mistakes_at_once():
    """All that can be found is told, each once, with its line."""
    body = "real x\nanalog begin\n x = 1;\n y = 2\n I(p, n) <+ x;\nend"
    with pytest.raises(ModelError) as caught:
        compile_text(f"{HEADERS}module dut(p, n); inout p, n; electrical p, n;\n{body}\nendmodule\n", "file.va")
    assert str(caught.value).split("\n") == [
        "file.va:5: expected ';' before 'analog'",
        "file.va:8: expected ';' before 'I'",
    ]
    body = "analog begin\n I(p, n) <+ a;\n I(p, n) <+ b;\n I(p, m) <+ 1;\n I(p, n) <+ a;\nend"
    with pytest.raises(ModelError) as caught:
        compile_text(f"{HEADERS}module dut(p, n); inout p, n; electrical p, n;\n{body}\nendmodule\n", "file.va")
    assert [line.split(":")[1] for line in str(caught.value).split("\n")] == ["5", "6", "7", "8"]


def test_an_included_file_is_named_where_it_is_wrong(tmp_path):
    """A mistake in what is included names that file and its line."""
    (tmp_path / "inner.vams").write_text("real x;\nreal x;\n")
    text = f'{HEADERS}module dut(p, n); inout p, n; electrical p, n;\n`include "inner.vams"\nanalog I(p, n) <+ 0;\nendmodule'
    with pytest.raises(ModelError, match=r"inner\.vams:2: 'x' is declared already"):
        compile_text(text, "file.va", tmp_path)


@pytest.mark.parametrize(
    ("body", "said"),
    [
        ("analog I(p, n) <+ 1 / V(p, n);", "division by V(p, n), which can be 0"),
        ("analog I(p, n) <+ exp(V(p, n) / $vt);", "can overflow; use limexp"),
        ("parameter real r = 1 from [0:inf); analog I(p, n) <+ V(p, n) / r;", "division by r, which may be given as 0"),
        ("analog begin $bound_step(1n); I(p, n) <+ 0.0; end", "$bound_step is left out"),
    ],
)
def test_what_is_doubtful_is_a_warning(body, said):
    """The text compiles, and says where it may go wrong."""
    assert any(said in message for _, _, message in module(body).warnings)


@pytest.mark.parametrize(
    "body",
    [
        "analog I(p, n) <+ V(p, n) > 0.1 ? 1 / max(V(p, n), 0.1) : 0.0;",
        "analog if (V(p, n) != 0) I(p, n) <+ 1 / V(p, n); else I(p, n) <+ 0.0;",
        'analog I(p, n) <+ exp($limit(V(p, n), "pnjlim", $vt, 0.6) / $vt);',
        "parameter real r = 1 from (0:inf); analog I(p, n) <+ V(p, n) / r;",
        "parameter real r = 1 from [0:inf) exclude 0; analog I(p, n) <+ V(p, n) / r;",
    ],
)
def test_what_is_guarded_is_no_warning(body):
    """Bounded, tested before, or limited."""
    assert not module(body).warnings


def test_the_cache_goes_by_content():
    """The same text is not compiled again; another one is."""
    text = f"{HEADERS}module cached(p, n); inout p, n; electrical p, n; analog I(p, n) <+ V(p, n) * 1.25; endmodule"
    said = []
    first = compile_text(text, "cached.va", say=said.append)[0]
    address = first.address
    said.clear()
    assert compile_text(text, "cached.va", say=said.append)[0].address == address
    assert said == []
    for index in cache_folder().glob("cached_*.json"):
        index.write_text("{damaged")
    assert compile_text(text, "cached.va", say=said.append)[0].address == address
    assert said
    other = compile_text(text.replace("1.25", "1.5"), "cached.va")[0]
    assert Device(other).at(1.0, 0.0).current[0] == 1.5
    assert any(path.name.startswith("cached_") for path in cache_folder().glob("*.o"))


@examples(40)
@given(st.lists(st.sampled_from(["a", "b", "2.0", "sin(a)", "a*b", "-a", "(a+b)", "exp(-b*b)", "b/(1.0+a*a)"]), min_size=1, max_size=5),
       st.lists(st.sampled_from(["+", "-", "*"]), min_size=4, max_size=4), st.floats(-2, 2), st.floats(-2, 2))  # fmt: skip
def test_any_expression_is_its_value_and_its_slope(terms, signs, a, b):
    """Random expressions against Python's own arithmetic and differences of it."""
    text = terms[0] + "".join(s + t for s, t in zip(signs, terms[1:], strict=False))
    found = module(f"real a, b; analog begin a = V(p); b = V(n); I(p) <+ {text}; I(n) <+ 0.0; end", name="any")

    def reference(x, y):
        return eval(text, {"sin": math.sin, "exp": math.exp}, {"a": x, "b": y})

    at = Device(found).at(a, b)
    assert at.current[0] == approx(reference(a, b), rel=1e-12, abs=1e-12)
    h = 1e-6
    slopes = [
        (reference(a + h, b) - reference(a - h, b)) / (2 * h),
        (reference(a, b + h) - reference(a, b - h)) / (2 * h),
    ]
    np.testing.assert_allclose(at.conductance[0], slopes, rtol=1e-5, atol=1e-6)
