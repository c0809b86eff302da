"""Decks become drawings and drawings decks: what is joined, and every value, stays."""

from __future__ import annotations

import pytest
from hypothesis import assume, given

from hearthline.app.start import DEMO
from hearthline.core.circuit.cell import Part
from hearthline.core.circuit.flatten import Library, flatten
from hearthline.core.circuit.rules.all import findings_of
from hearthline.core.circuit.rules.finding import CheckedDrawing
from hearthline.core.errors import CircuitError, DeckError
from hearthline.core.formats.deck import flatten as of_deck
from hearthline.core.formats.deck.drawing import cells_of_deck
from hearthline.core.formats.deck.reader import read
from hearthline.core.formats.deck.writer import write_deck
from hearthline.core.formats.kit_folder import INSTALLED
from hearthline.core.formats.project_folder import read_project
from tests.core.test_edit import valued
from tests.examples import examples
from tests.strategies import LIBRARY, drawings, linear_circuits

MODELS = ".model n_rvt nmos\n.model p_rvt pmos\n"
OTA = """* two stages
.subckt ota inp inn out vdd ib
m1 a inp t 0 n_rvt w=20u l=500n
m2 b inn t 0 n_rvt w=20u l=500n
m3 a a vdd vdd p_rvt w=10u l=500n
m4 b a vdd vdd p_rvt w=10u l=500n
m5 t ib 0 0 n_rvt w=8u l=500n
m8 ib ib 0 0 n_rvt w=4u l=500n
m6 out b vdd vdd p_rvt w={4*wp} l=500n
m7 out ib 0 0 n_rvt w=16u l=500n
c1 b z 1p
r1 z out 2k
.ends
.param wp=10u
x1 in out out vdd ib ota
v1 vdd 0 1.2
v2 in 0 dc 0.6 ac 1 pulse(0 1 1n 1n 1n 5n 10n)
i1 vdd ib 10u
c2 out 0 1meg
e1 e 0 in out 2
r2 e 0 1k
f1 0 e v1 2
l1 e y 1n
l2 y 0 1n
k1 l1 l2 0.5
r3 y 0 50
.model n_rvt nmos
.model p_rvt pmos
.op
"""


def deck_of(tmp_path, text: str):
    """A deck that was read."""
    path = tmp_path / "x.cir"
    path.write_text(text)
    return read(path)


def joints(elements) -> set[frozenset]:
    """What is joined: sets of (element, terminal)."""
    nets: dict = {}
    for element in elements:
        for k, net in enumerate(element.nets):
            nets.setdefault(net, set()).add((element.name, k))
    return {frozenset(group) for group in nets.values()}


def numbers(elements) -> dict:
    """The plain numbers of every element."""
    return {e.name: {k: v.value({}) for k, v in e.values.items() if v is not None and not v.names} for e in elements}


def drawn(tmp_path, text: str) -> tuple[Library, list]:
    """The cells of a deck, and its flat elements as the deck has them."""
    deck = deck_of(tmp_path, text)
    cells = cells_of_deck(deck, Library({}, {"n_rvt": "NMOS", "p_rvt": "PMOS"}), "top", "x.cir")
    return Library({cell.name: cell for cell in cells}, LIBRARY.devices), of_deck.flatten(deck)[0].elements


def test_a_deck_becomes_cells_that_join_the_same(tmp_path):
    """Blocks, sources with their waves, coupled coils, controlled sources; nothing lies on another part."""
    library, elements = drawn(tmp_path, OTA)
    flat = flatten(library.cells["top"], library).elements
    assert joints(flat) == joints(elements)
    assert {e.name: e.wave and (e.wave.kind, [n.value({}) for n in e.wave.numbers]) for e in flat} == {
        e.name: e.wave and (e.wave.kind, [n.value({}) for n in e.wave.numbers]) for e in elements
    }
    wanted = numbers(elements)
    for name, found in numbers(flat).items():
        assert {k: v for k, v in found.items() if k in wanted[name]} == wanted[name]
    for cell in library.cells.values():
        places = [part.at for part in cell.parts]
        assert len(set(places)) == len(places)


@examples(40)
@given(linear_circuits())
def test_any_linear_circuit_becomes_a_drawing_that_joins_the_same(tmp_path_factory, parts):
    """Chains, loops, controlled sources: the cell's flat circuit is the deck's, and no check but of its values complains."""
    lines = [
        f"{part.kind.lower()}{k} {' '.join(part.nets)} {'v_src ' if part.control else ''}{part.value!r}"
        for k, part in enumerate(parts)
    ]
    source = next(k for k, part in enumerate(parts) if part.kind == "V")
    text = "* title\n" + "\n".join(lines).replace("v_src", f"v{source}") + "\n.op\n"
    library, elements = drawn(tmp_path_factory.mktemp("deck"), text)
    cell = library.cells["top"]
    assert joints(flatten(cell, library).elements) == joints(elements)
    found = {finding.rule for finding in findings_of(CheckedDrawing(cell, library))}
    assert found <= {"shorted part", "outputs shorted"}


def test_a_drawing_of_a_deck_reads_from_supply_to_ground(tmp_path):
    """P devices stand above n devices of their column, grounds are the lowest, inputs at the left of outputs."""
    library, _ = drawn(tmp_path, OTA)
    cell = library.cells["ota"]
    at = {part.name: part.at for part in cell.parts}
    assert at["M6"][0] == at["M7"][0]
    assert at["M6"][1] < at["M7"][1]
    assert at["M3"][1] < at["M1"][1] < at["M5"][1] + 13
    pins = {pin.name: pin.at for pin in cell.pins}
    assert pins["inp"][0] < min(x for x, _ in at.values()) < pins["out"][0]


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("m1 a b 0 0 n_fast w=1u l=1u", r"x\.cir:2: m1: neither kit nor project has a device or cell 'n_fast'"),
        ("b1 a 0 v={2*v(b)}", r"x\.cir:2: b1 cannot be drawn"),
        ("x1 a b nothing", r"x\.cir:2: x1: neither kit nor project"),
    ],
)
def test_what_cannot_be_drawn_names_its_line(tmp_path, line, said):
    """With the device that is missing."""
    with pytest.raises(DeckError, match=said):
        drawn(tmp_path, f"* title\n{line}\n.op\n")


def test_every_demo_bench_is_the_same_through_a_deck(tmp_path):
    """Written as a deck with the kit's own sections and read back: the flat circuits join the same, with the same numbers."""
    project = read_project(DEMO)
    kit = project.kit
    library = Library(project.cells, kit.symbols, kit.templates, kit.modules, kit.networks)
    texts = "".join(f'.veriloga "{DEMO / "devices" / text}"\n' for text in project.texts)
    models = f'.lib "{INSTALLED / "lm130" / "lm130.lib"}" typ\n{texts}.param vdd=1.2'
    for cell in (cell for name, cell in project.cells.items() if name.endswith("_bench")):
        if any("file" in part.values for part in cell.parts):  # which no line of a deck says
            with pytest.raises(CircuitError, match="BOARD is a file of S-parameters"):
                write_deck(cell, library, models, as_block=False)
            continue
        written = write_deck(cell, library, models, as_block=False)
        after = of_deck.flatten(deck_of(tmp_path, written.text))[0].elements
        before = flatten(cell, library).elements
        renamed = {element.name: lettered(element) for element in before}
        assert joints(after) == {frozenset((renamed[name], k) for name, k in group) for group in joints(before)}
        wanted = numbers(after)
        for name, found in numbers(before).items():
            assert {k: v for k, v in found.items() if k in wanted[renamed[name]]} == wanted[renamed[name]]


def lettered(element) -> str:
    """The flat name of an element in a deck: its letter stands before its own name where that begins with another, and so
    does x before that of what it is in."""
    path, _, name = element.name.rpartition(".")
    name = name if name[0] == element.kind.lower() else f"{element.kind.lower()}_{name}"
    inside = [piece if piece[0] == "x" else f"x_{piece}" for piece in path.split(".") if piece]
    return ".".join([*inside, name])


@examples(25)
@given(drawings())
def test_random_drawings_are_the_same_through_a_deck(tmp_path_factory, cell):
    """Whatever is drawn."""
    cell = valued(cell)
    try:
        before = flatten(cell, LIBRARY).elements
    except CircuitError:
        assume(False)
    assume(before)
    written = write_deck(cell, LIBRARY, MODELS, as_block=False)
    after = of_deck.flatten(deck_of(tmp_path_factory.mktemp("deck"), written.text))[0].elements
    letter = {e.name: lettered(e) for e in before}
    wanted = {frozenset((letter[name], k) for name, k in group) for group in joints(before)}
    assert joints(after) == wanted


def test_arrays_and_expressions_in_a_deck():
    """An array is a line for each; expressions stand in braces with plain numbers."""
    from hearthline.core.circuit.cell import Cell

    parts = (
        Part("R1[2]", "resistor", (0, 0), values={"r": "2*rn + 2M"}),
        Part("R2", "resistor", (8, 0), values={"r": "3 MΩ"}),
    )
    text = write_deck(Cell("c", (), parts, parameters={"rn": "1k"}), LIBRARY, as_block=False).text
    assert "r1_1 r1[2]_p r1[2]_n {2*rn+2000000.0}" in text
    assert "r1_2 " in text
    assert ".param rn=1k" in text
    assert "r2 r2_p r2_n 3meg" in text


def test_cells_that_contain_each_other_are_refused():
    """With the block that closes the circle, not with a stack that overflows."""
    from hearthline.core.circuit.cell import Cell

    a, b = Cell("a", (), (Part("X1", "b", (0, 0)),)), Cell("b", (), (Part("X1", "a", (0, 0)),))
    library = Library({"a": a, "b": b}, {})
    with pytest.raises(CircuitError, match="X1: b contains a itself"):
        write_deck(a, library)
    assert {finding.rule for finding in findings_of(CheckedDrawing(a, library))} >= {"cell in itself"}
