"""Symbols fit their terminals, values of fields are understood, instances and waves are what they say."""

from __future__ import annotations

import pytest

from hearthline.app.start import DEMO
from hearthline.core.bench.findings import find_all
from hearthline.core.bench.run import solve_point
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.circuit.body import body_of, default_body
from hearthline.core.circuit.cell import Cell, Part, Pin
from hearthline.core.circuit.flatten import Library, flatten
from hearthline.core.circuit.instance import Instance, instance_at
from hearthline.core.circuit.outlines import outline_of, outline_of_block
from hearthline.core.circuit.symbols import SYMBOLS
from hearthline.core.elements.wave import FORMS, parse_wave
from hearthline.core.errors import CircuitError, ExpressionError
from hearthline.core.expression import parse_value
from hearthline.core.formats.cell_file import cell_data, cell_of
from hearthline.core.formats.project_folder import read_project
from hearthline.core.formats.toml_table import Table
from hearthline.core.models.library import library_names
from tests.approximation import approx

EVERYTHING = [*SYMBOLS, *library_names(), "peak_switch", "cnt_fet"]


@pytest.fixture(scope="module")
def project():
    """The demo as it is shipped."""
    return read_project(DEMO)


def library_of(project) -> Library:
    """What its parts may be."""
    return Library(project.cells, project.kit.symbols, project.kit.templates, project.kit.modules)


@pytest.mark.parametrize("device", EVERYTHING)
def test_every_lead_of_a_symbol_ends_at_a_terminal_and_every_terminal_has_one(device, project):
    """So that a wire that meets the symbol is tied to it."""
    library = library_of(project)
    part = Part("P1", device, (0, 0))
    outline = outline_of(part, library)
    ends = {point for line in (*outline.thin, *outline.heavy) for point in (line[0], line[-1])}
    for name, place in library.terminals(part):
        assert any(abs(x - place[0]) + abs(y - place[1]) < 1e-9 for x, y in ends), name


@pytest.mark.parametrize("device", SYMBOLS)
def test_what_a_new_part_holds_is_understood(device):
    """The first value of every field that needs one."""
    for one in SYMBOLS[device].fields:
        assert one.first or one.default or one.optional, one.name
        if one.first and one.kind == "number":
            assert parse_value(one.first, one.unit).value({}) > 0


def test_bodies_keep_terminals_apart_and_outside():
    """For any number of pins on any side."""
    kinds = ("input",) * 5 + ("output",) * 3 + ("supply",) * 3 + ("ground",) * 2 + ("inout",)
    cell = Cell("many", tuple(Pin(f"p{k}", kind, (0, 0)) for k, kind in enumerate(kinds)))
    body = default_body(cell)
    left, top, right, bottom = body.box
    assert len(set(body.places.values())) == len(kinds)
    assert all(not (left <= x <= right and top <= y <= bottom) for x, y in body.places.values())
    assert len(outline_of_block(cell).words) == len(kinds)


def test_the_demo_is_drawn_without_findings_and_solves(project):
    """Every cell passes every check, every bench has an operating point, and blocks are where their symbols say."""
    looked_at = set()
    for bench in project.benches.values():
        snapshot = Snapshot(bench, project.cells, project.kit)
        solve_point(snapshot)
        inside = {name for name in project.cells if name == bench.cell or snapshot.library.reaches(bench.cell, name)}
        looked_at |= inside
        for name in inside:
            assert find_all(snapshot, project.cells[name]) == ()
    assert looked_at == set(project.cells)
    assert {name for name in project.cells if name.endswith("_bench")} == {
        f"{name}_bench" for name in ("inv_x1", "ring11", "bias_core", "ota_sense", "slicer", "cnt_slicer", "peak_mem",
                               "lna_868", "driver_868", "vco_868", "pa_868", "mixer_868")
    }  # fmt: skip


def test_a_closed_loop_of_the_ideal_amplifier_has_the_gain_of_its_resistors(project):
    """1 + R1/R2, less the share that a finite gain costs (closed form)."""
    bench = project.benches["ota_sense_bench-loop"]
    data = solve_point(Snapshot(bench, project.cells, project.kit))
    ratio = float(data.curve("V(ten)")[0, 0]) / float(data.curve("V(out)")[0, 0])
    loop = 1e5 * 10 / 100 * 100e3 / (100e3 + 100)
    assert ratio == approx(10 * loop / (1 + loop), rel=1e-9)


def test_an_instance_knows_its_flat_names(project):
    """Two levels down, and the nets that come from outside."""
    library = library_of(project)
    top = project.cells["ring11_bench"]
    inner = instance_at(top, ("X1", "X3"), library)
    assert inner.cell.name == "inv_x1"
    assert inner.part("M2") == "x1.x3.m2"
    assert inner.net("vdd") == "vdd"
    flat = {e.name: e for e in flatten(top, library).elements}
    assert flat["x1.x3.m1"].nets[0] == inner.net("out")
    assert Instance(top, "x9.").part("M1[4]") == "x9.m1[1]"
    with pytest.raises(CircuitError, match="no block X7"):
        instance_at(top, ("X7",), library)


def test_an_array_is_that_many_devices_in_parallel():
    """Each with a name of its own, between the same nets."""
    cell = Cell("c", (), (Part("R1[3]", "resistor", (0, 0), values={"r": "3k"}),))
    elements = flatten(cell, Library({}, {})).elements
    assert [e.name for e in elements] == ["r1[1]", "r1[2]", "r1[3]"]
    assert len({e.nets for e in elements}) == 1


@pytest.mark.parametrize("cell", ["ota_sense", "ring11", "bias_core", "inv_x1_bench"])
def test_a_cell_file_is_the_cell(cell, project):
    """Body, notes, marks and open terminals included."""
    drawn = project.cells[cell]
    assert cell_of(Table(cell_data(drawn), "x", ""), cell) == drawn
    assert body_of(drawn).places.keys() == {pin.name for pin in drawn.pins}


def test_waves_are_read_as_typed():
    """Prefixes, commas, expressions; their forms are said where they are wrong."""
    wave = parse_wave("pulse(0, 1.2 1n 10p 10p {tw} 2*tw)")
    assert [n.value({"tw": 2e-9}) for n in wave.numbers] == [0, 1.2, 1e-9, 1e-11, 1e-11, 2e-9, 4e-9]
    for text, said in (("pulse 0 1", "is no waveform"), ("pwl(0 1 2)", "too few"), ("sin(0 1 2 3 4 5 6)", "too many"),
                       ("exp(0 (1)", "closing bracket"), ("sin(0 x! 1)", "x!")):  # fmt: skip
        with pytest.raises(ExpressionError, match=said):
            parse_wave(text)
    assert set(FORMS) == {"pulse", "sin", "exp", "pwl", "sffm"}


def test_parameters_of_the_cells_around_are_known_inside(project):
    """A value may use a parameter of the cell that its block stands in; one that nobody has is a finding."""
    from dataclasses import replace

    inner = project.cells["bias_core"]
    for text, wrong in (("wide", False), ("wider", True)):
        cells = dict(project.cells)
        cells["bias_core"] = inner.with_part(inner.part("M5").with_value("w", text))
        cells["bias_core_bench"] = replace(cells["bias_core_bench"], parameters={"wide": "9u"})
        snapshot = Snapshot(project.benches["bias_core_bench-current"], cells, project.kit)
        assert any("unknown parameter 'wider'" in f.message for f in find_all(snapshot, cells["bias_core"])) == wrong
