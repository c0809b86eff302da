"""Verilog-A modules as parts of decks and cells: loaded, placed, collapsed, messages said, errors at the right line."""

from __future__ import annotations

import numpy as np
import pytest

from hearthline.core.bench.run import solve_point
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.circuit.cell import Cell, Part, Wire
from hearthline.core.circuit.flatten import Library, flatten
from hearthline.core.circuit.symbols import symbol_of_module
from hearthline.core.engine.dc import operating_point
from hearthline.core.engine.in_time import follow_source
from hearthline.core.engine.lanes import Lanes
from hearthline.core.engine.module import in_words
from hearthline.core.engine.system import lower
from hearthline.core.errors import CircuitError, DeckError, ModelError
from hearthline.core.formats.deck.flatten import flatten as flatten_deck
from hearthline.core.formats.deck.plan import plan
from hearthline.core.formats.deck.reader import read
from hearthline.core.formats.kit_folder import read_kit
from hearthline.core.formats.project_folder import read_project, save_text
from hearthline.core.models.library import library_module
from tests.approximation import approx
from tests.decks import point, solved
from tests.modules import HEADERS, module

RESISTOR = f"""{HEADERS}module ohm(p, n); inout p, n; electrical p, n, x;
    (* type="instance" *) parameter real r = 1k from (0:inf);
    parameter real rs = 0 from [0:inf);
    (* desc="current", units="A", multiplicity="multiply" *) real i;
    analog begin
        if (r > 1e6) $warning("r = %g is large", r);
        if (V(p, n) > 2.0) $strobe("v = %g", V(p, n));
        if (rs > 0) I(p, x) <+ V(p, x) / rs; else V(p, x) <+ 0;
        i = V(x, n) / r;
        I(x, n) <+ i;
    end
endmodule
"""


@pytest.fixture
def deck(tmp_path):
    """Runs a deck beside `ohm.va`; gives tables and logs of its analyses."""
    (tmp_path / "ohm.va").write_text(RESISTOR)

    def run(text: str, **options):
        path = tmp_path / "t.cir"
        path.write_text('t\n.veriloga "ohm.va"\n' + text)
        found = []
        for analysis in plan(read(path, "t.cir"), **options):
            solution = analysis.run()
            found.append((dict(analysis.columns(solution)), list(solution.log)))
        return found

    return run


def test_a_module_is_placed_by_name_or_by_card(deck):
    """X with the module's name, X with a model card of its type; multiplicity; several in parallel."""
    table, _ = deck("v1 a 0 1\nx1 a 0 ohm r=500\nx2 a 0 big r=2k m=4\n.model big ohm (rs=100)\n.op\n")[0]
    assert table["x1.i"][0] == approx(2e-3)
    assert table["x2.i"][0] == approx(4 / 2100)
    assert table["I(v1)"][0] == approx(-2e-3 - 4 / 2100)


def test_an_inner_net_exists_only_where_there_is_a_resistance(deck):
    """`V(x2.x)` with rs, none without."""
    table, _ = deck("v1 a 0 1\nx1 a 0 ohm\nx2 a 0 b\n.model b ohm (rs=1k)\n.op\n")[0]
    assert "V(x1.x)" not in table
    assert table["V(x2.x)"][0] == approx(0.5)


def test_a_resistance_that_is_there_in_some_lanes_only(deck):
    """Where it is 0 the nets are as good as one, and nothing else is disturbed."""
    table, _ = deck(".param q=0\nv1 a 0 1\nx1 a 0 b\n.model b ohm (rs={q})\n.dc q 0 1k 500\n")[0]
    np.testing.assert_allclose(table["x1.i"], [1e-3, 1 / 1500, 1 / 2000], rtol=1e-8)


def test_messages_of_a_text_stand_in_the_log(deck):
    """About parameters once; about the solution with the number of points."""
    _, log = deck("v1 a 0 1\nx1 a 0 ohm r=2meg\n.dc v1 0 4 1\n")[0]
    assert log == ["x1: r = 2e+06 is large", "x1: v = 3 (2 points)"]


@pytest.mark.parametrize(
    ("text", "line", "said"),
    [
        ("v1 a 0 1\nx1 a 0 ohm r=-5\n.op", 4, "r must be above 0, and is -5"),
        ("v1 a 0 1\nx1 a 0 b\n.model b ohm (rs=-1)\n.op", 5, "model b: rs must be 0 or more"),
        ("v1 a 0 1\nx1 a 0 b rs=1\n.model b ohm\n.op", 4, "no parameter 'rs'"),
        ("v1 a 0 1\nx1 a 0 b\n.model b ohm (speed=1)\n.op", 5, "no parameter 'speed'"),
        ("v1 a 0 1\nd1 a 0 b\n.model b npn\n.op", 4, "is a NPN; a D is wanted"),
        ("v1 a 0 1\nx1 a 0 ohm m=0\n.op", 4, "m must be above 0"),
    ],
)
def test_what_is_wrong_names_its_line(deck, text, line, said):
    """The line of the instance for what stands there, that of the card for what stands there."""
    with pytest.raises((CircuitError, DeckError)) as caught:
        deck(text)
    assert said in str(caught.value)
    assert caught.value.line == line


def test_a_text_that_does_not_compile_is_named_as_the_deck_names_it(tmp_path):
    """`broken.va:3: ...`, all of it."""
    (tmp_path / "broken.va").write_text(
        f"{HEADERS}module b(p, n); inout p, n; electrical p, n;\nanalog I(p, n) <+ x;\nendmodule"
    )
    (tmp_path / "t.cir").write_text('t\nv1 a 0 1\n.veriloga "broken.va"\nx1 a 0 b\n.op\n')
    with pytest.raises(ModelError, match=r"^broken\.va:4: unknown name 'x'"):
        read(tmp_path / "t.cir", "t.cir")


def test_bipolar_with_three_and_four_nodes():
    """Without a substrate node the substrate is on ground."""
    card = ".model n npn is=1e-16 bf=100 cjs=1p\n"
    three = point(f"vb b 0 0.7\nvc c 0 2\nq1 c b 0 n\n{card}")
    four = point(f"vb b 0 0.7\nvc c 0 2\nvs s 0 0\nq1 c b 0 s n 1\n{card}")
    assert three["q1.ic"] == four["q1.ic"] > 0


def test_a_net_of_heat_in_a_text(tmp_path):
    """Left open, its rise is power times what leads away; joined to another device's, both are as hot."""
    (tmp_path / "warm.va").write_text(
        '`include "disciplines.vams"\nmodule warm(p, n, dt); inout p, n, dt; electrical p, n; thermal dt;\n'
        "parameter real r = 10; parameter real rth = 100; analog begin I(p, n) <+ V(p, n) / (r * (1 + 1e-3 * Temp(dt)));\n"
        "Pwr(dt) <+ Temp(dt) / rth - V(p, n) * I(p, n); end endmodule\n"
    )

    def hot(parts: str) -> dict:
        (tmp_path / "t.cir").write_text(f't\nv1 a 0 1\n.veriloga "warm.va"\n{parts}\n.op\n')
        netlist, models = flatten_deck(read(tmp_path / "t.cir", "t.cir"))
        data = operating_point(netlist, models, Lanes()).dataset
        return {label: float(values[0, 0]) for label, values in data.curves.items()}

    alone = hot("x1 a 0 warm")
    assert alone["V(x1.dt)"] == approx(-alone["I(v1)"] * 100, rel=1e-6)
    shared = hot("x1 a 0 t warm\nx2 a 0 t warm")
    assert shared["V(t)"] == approx(alone["V(x1.dt)"], rel=1e-6)


def test_a_switch_turns_over():
    """Voltage-controlled, from off to on."""
    table = solved("v1 a 0 1\nr1 a b 1k\nx1 b 0 c 0 switch ron=10 roff=1g vt=0.5\nvc c 0 0\n.dc vc 0 1 0.5\n")
    assert table["V(b)"][0] == approx(1.0, rel=1e-5)
    assert table["V(b)"][-1] == approx(10 / 1010, rel=1e-6)


def test_charge_on_a_capacitor_follows_the_exact_exponential(tmp_path):
    """RC driven by a step of samples: second order, against 1 - exp(-t/RC)."""
    path = tmp_path / "rc.cir"
    path.write_text("t\nv1 a 0 0\nr1 a b 1k\nc1 b 0 1n\n.op\n")
    netlist, models = flatten_deck(read(path, "rc.cir"))
    errors = []
    for points in (101, 201):
        times = np.linspace(0, 5e-6, points)
        samples = (np.sin(2 * np.pi * times / 5e-6))[None, :]
        found = follow_source(lower(netlist, models, Lanes()), "v1", samples, np.array([times[1]]), ("c1.v",))
        w, tau = 2 * np.pi / 5e-6, 1e-6
        exact = (np.sin(w * times) - w * tau * np.cos(w * times) + w * tau * np.exp(-times / tau)) / (
            1 + (w * tau) ** 2
        )
        errors.append(np.abs(found.curve("c1.v")[0] - exact).max())
    assert errors[1] < 2e-3
    assert errors[0] / errors[1] == approx(4.0, rel=0.35)
    with pytest.raises(CircuitError, match="no source 'v9'"):
        follow_source(lower(netlist, models, Lanes()), "v9", samples, np.array([1e-9]), ("c1.v",))


def test_ranges_in_words():
    """As a person says them."""
    assert in_words("from (0:inf)") == "above 0"
    assert in_words("from [0:1)") == "0 or more and below 1"
    assert in_words("from [-1:1]") == "-1 or more and 1 or less"
    assert in_words("exclude 0") == "other than 0"


# -- drawn


def test_a_symbol_from_the_ports():
    """Two ports above each other with what lies below at the side, a transistor's as a transistor's are, others along the sides."""
    assert symbol_of_module(library_module("resistor")).terminals == (("p", (0, -2)), ("n", (0, 2)), ("b", (2, 0)))
    assert dict(symbol_of_module(library_module("mos")).terminals)["g"] == (-2, 0)
    assert dict(symbol_of_module(library_module("bipolar")).terminals)["b"] == (-2, 0)
    wide = module("analog I(a) <+ V(b) + V(c) + V(d) + V(e);", "a, b, c, d, e")
    assert len({place for _, place in symbol_of_module(wide).terminals}) == 5


def test_a_module_drawn_in_a_cell():
    """Its part takes the module's parameters; what is not given the text knows itself."""
    ohm = module("parameter real r = 1k; parameter real q = 2 * r; analog I(p, n) <+ V(p, n) / r;", name="ohm")
    part = Part("X1", "ohm", (0, 0), values={"r": "3k"})
    ground = Part("G1", "ground", (0, 2))
    cell = Cell("c", parts=(part, ground), wires=(Wire(((0, -2), (4, -2))),))
    (element,) = flatten(cell, Library({}, {}, modules={"ohm": ohm})).elements
    assert (element.kind, element.model, len(element.nets)) == ("X", "ohm", 2)
    assert set(element.values) == {"r", "m"}
    with pytest.raises(CircuitError, match="no device, part or cell 'none'"):
        flatten(Cell("c", parts=(Part("X1", "none", (0, 0)),)), Library({}, {}, modules={"ohm": ohm}))


def test_the_devices_of_the_kit_in_a_drawn_cell(demo_project):
    """A spiral becomes its parts under its name; a strip resistor and a bipolar take their cards."""
    snapshot = Snapshot(next(iter(demo_project.benches.values())), demo_project.cells, demo_project.kit)
    cell = snapshot.cell
    more = (
        Part("L1", "l_spiral", (40, 0)), Part("R1", "r_poly", (40, 4), values={"w": "1u", "l": "10u"}),
        Part("G9", "ground", (40, 6)), Part("Q1", "npn_v", (50, 0)), Part("G8", "ground", (52, 2)),
        Part("M9", "n_25", (60, 0), values={"w": "1u", "l": "280n"}), Part("G7", "ground", (62, 2)),
        Part("X9", "peak_switch", (70, 0)), Part("G6", "ground", (70, 2)),
    )  # fmt: skip
    wires = (Wire(((40, -2), (52, -2))), Wire(((48, 0), (48, -2))), Wire(((62, 0), (62, 2))), Wire(((58, 0), (58, -2), (70, -2))),
             Wire(((52, -2), (70, -2))))  # fmt: skip
    from dataclasses import replace

    drawn = replace(cell, parts=(*cell.parts, *more), wires=(*cell.wires, *wires))
    found = solve_point(replace(snapshot, cells={**snapshot.cells, cell.name: drawn}))
    for label in ("r1.i", "q1.ic", "m9.id", "x9.state"):
        assert np.isfinite(found.curve(label)).all()
    assert "V(l1.x)" in found.curves


@pytest.fixture
def demo_project(tmp_path):
    """A copy of the demo."""
    import shutil

    from hearthline.app.start import DEMO

    shutil.copytree(DEMO, tmp_path / "k", ignore=shutil.ignore_patterns("runs"))
    return read_project(tmp_path / "k")


def test_texts_of_a_project_are_its_modules(demo_project):
    """Listed, compiled, in every corner; one that is wrong is a problem of the project and no more."""
    assert demo_project.texts == ("cnt_fet.va", "peak_switch.va")
    assert set(demo_project.kit.modules) == {"cnt_fet", "peak_switch"}
    save_text(demo_project.folder, "wrong.va", "module wrong(p); inout p; analog I(p) <+ ; endmodule")
    again = read_project(demo_project.folder)
    assert set(again.kit.modules) == {"cnt_fet", "peak_switch"}
    assert [error.file for error in again.problems] == ["devices/wrong.va"]


def test_a_kit_with_its_own_text(tmp_path):
    """`modules` in kit.toml: cards may be of them; a wrong statistic is named."""
    folder = tmp_path / "mine"
    folder.mkdir()
    (folder / "ohm.va").write_text(RESISTOR)
    (folder / "m.lib").write_text(".lib a\n.model strip ohm (r=2k)\n.endl\n")
    text = (
        'format = 1\nname = "Mine"\ntitle = "mine"\nmodels = "m.lib"\ncorners = ["a"]\nmodules = ["ohm.va"]\n'
        '[[devices]]\nname = "strip"\nsymbol = "strip resistor"\n'
    )
    (folder / "kit.toml").write_text(text)
    kit = read_kit(folder)
    assert list(kit.modules) == ["ohm"]
    (folder / "kit.toml").write_text(
        text.replace("[[devices]]", '[statistics.mismatch]\nnone = { r = "1n" }\n[[devices]]', 1)
    )
    with pytest.raises(Exception, match="mismatch of 'none'"):
        read_kit(folder)
    (folder / "kit.toml").write_text(text.replace("[[devices]]", '[statistics.process]\nr = "many"\n[[devices]]', 1))
    with pytest.raises(Exception, match=r"kit\.toml.*'many' is not a number"):
        read_kit(folder)


@pytest.mark.parametrize(
    ("line", "card"),
    [
        ("d1 a 0 dut", "D (is=1e-14 cjo=1p tt=1n rs={q})"),
        ("m1 a b 0 0 dut w=5u l=0.5u", "NMOS (vto=0.4 kp=200u gamma=0.4 phi=0.7 lambda=0.1 rd={q} rs={q})"),
        ("q1 a b 0 dut", "NPN (is=1e-16 bf=80 vaf=40 rb={q} re={q} rc={q})"),
        ("j1 a b 0 dut", "NJF (vto=-2 beta=1m lambda=0.02 rd={q} rs={q})"),
    ],
)
def test_without_series_resistances_a_device_has_no_inner_nets_and_is_the_same(deck, line, card):
    """The kernel for zero resistances against the whole one, which joins its nets by a large conductance."""
    text = f".param q=0\nv1 a 0 0.62\nv2 b 0 0.66\n{line}\n.model dut {card}\n"
    alone, _ = deck(text + ".op\n")[0]
    among_others, _ = deck(text + ".dc q 0 10 5\n")[0]
    name = line.split()[0]
    assert not any(label.startswith(f"V({name}.") for label in alone)
    assert any(label.startswith(f"V({name}.") for label in among_others)
    for label, values in alone.items():
        np.testing.assert_allclose(values[0], among_others[label][0], rtol=1e-6, atol=1e-12, err_msg=label)
