"""Geometry becomes nets, hierarchy becomes flat names, and what cannot be simulated is named."""

from __future__ import annotations

import pytest

from hearthline.core.circuit.cell import Cell, Label, Part, Pin, Wire
from hearthline.core.circuit.checks import check
from hearthline.core.circuit.flatten import Library, flatten
from hearthline.core.circuit.netlist import Netlist
from hearthline.core.circuit.symbols import place_terminal
from hearthline.core.errors import CircuitError
from tests.decks import planned

DEVICES = {"n_rvt": "NMOS", "p_rvt": "PMOS"}


def resistor(name: str, at: tuple[int, int], text: str = "1k", **more) -> Part:
    """A resistor whose ends lie two steps above and below `at`."""
    return Part(name, "resistor", at, values={"r": text}, **more)


def nets_of(cell: Cell, *others: Cell) -> dict[str, tuple[str, ...]]:
    """Nets of each element of the flattened cell."""
    library = Library({c.name: c for c in (cell, *others)}, DEVICES)
    return {element.name: element.nets for element in flatten(cell, library).elements}


def test_wires_join_at_ends_and_on_the_way():
    """An end on the middle of a wire joins; a terminal on a wire joins."""
    cell = Cell(
        "c", pins=(Pin("a", "input", (0, -2)),), parts=(resistor("R1", (0, 0)), resistor("R2", (4, 0)), resistor("R3", (2, 4))),
        wires=(Wire(((0, -2), (4, -2))), Wire(((0, 2), (4, 2)))),
    )  # fmt: skip
    nets = nets_of(cell)
    assert nets["r1"] == nets["r2"] == ("a", "r1_n")
    assert nets["r3"][0] == "r1_n"


def test_crossing_wires_do_not_join():
    """Two wires whose middles cross are two nets."""
    cell = Cell("c", pins=(Pin("a", "input", (-4, 0)), Pin("b", "input", (0, -4))),
                parts=(resistor("R1", (4, 2)), resistor("R2", (0, 6))),
                wires=(Wire(((-4, 0), (4, 0))), Wire(((0, -4), (0, 4)))))  # fmt: skip
    nets = nets_of(cell)
    assert nets["r1"][0] == "a"
    assert nets["r2"][0] == "b"


def test_labels_of_one_name_are_one_net():
    """Without a wire between them."""
    cell = Cell(
        "c",
        parts=(resistor("R1", (0, 0)), resistor("R2", (20, 0))),
        labels=(Label("tail", (0, 2)), Label("tail", (20, -2))),
    )
    nets = nets_of(cell)
    assert nets["r1"][1] == nets["r2"][0] == "tail"


def test_two_names_on_one_net_are_refused():
    """Both are named."""
    cell = Cell("c", pins=(Pin("a", "input", (0, 0)), Pin("b", "input", (4, 0))), wires=(Wire(((0, 0), (4, 0))),))
    with pytest.raises(CircuitError, match="'a' and 'b'"):
        nets_of(cell)


def test_ground_is_net_zero():
    """The ground symbol names its net."""
    nets = nets_of(Cell("c", parts=(resistor("R1", (0, 0)), Part("G1", "ground", (0, 2)))))
    assert nets["r1"][1] == "0"


@pytest.mark.parametrize(
    ("turn", "flip", "place"),
    [
        (0, False, (12, 8)),
        (1, False, (12, 12)),
        (2, False, (8, 12)),
        (3, False, (8, 8)),
        (0, True, (8, 8)),
        (1, True, (12, 8)),
    ],
)
def test_turn_and_flip(turn, flip, place):
    """Flip left to right first, then quarter turns clockwise (y points down)."""
    assert place_terminal((10, 10), turn, flip, (2, -2)) == place


def inverter() -> Cell:
    """A block with a parameter."""
    return Cell(
        "inv", parameters={"wp": "2u"},
        pins=(Pin("in", "input", (-4, 0)), Pin("out", "output", (6, 0)), Pin("vdd", "supply", (0, -7))),
        parts=(
            Part("M1", "n_rvt", (-2, 5), values={"w": "1u", "l": "130n"}), Part("M2", "p_rvt", (-2, -5), values={"w": "wp", "l": "130n"}),
            Part("G", "ground", (0, 7)),
        ),
        wires=(Wire(((-4, -5), (-4, 5))), Wire(((0, -3), (0, 3))), Wire(((0, 0), (6, 0))), Wire(((0, 5), (0, 7))), Wire(((0, -5), (0, -7)))),
    )  # fmt: skip


def test_blocks_flatten_to_stable_names():
    """Two inverters in a row, inside a block: names follow the path, nets outside keep theirs."""
    pair = Cell("pair", pins=(Pin("a", "input", (-6, 0)),), parts=(Part("X1", "inv", (0, 0)), Part("X2", "inv", (20, 0), values={"wp": "3u"})),
                wires=(Wire(((6, 0), (14, 0))),), labels=(Label("vdd", (0, -5)), Label("vdd", (20, -5))))  # fmt: skip
    nets = nets_of(pair, inverter())
    assert nets["x1.m1"] == ("x1_out", "a", "0", "0")
    assert nets["x2.m2"] == ("x2_out", "x1_out", "vdd", "vdd")
    library = Library({"pair": pair, "inv": inverter()}, DEVICES)
    outer = Cell("outer", parts=(Part("Y", "pair", (0, 0)),))
    names = [e.name for e in flatten(outer, Library({**library.cells, "outer": outer}, DEVICES)).elements]
    assert names == ["y.x1.m1", "y.x1.m2", "y.x2.m1", "y.x2.m2"]


@pytest.mark.parametrize(
    ("cell", "said"),
    [
        (Cell("c", parts=(Part("M9", "n_fast", (0, 0)),)), "M9.*'n_fast'.*n_rvt"),
        (Cell("c", parts=(resistor("R1", (0, 0), "3.2x"),)), "R1.*'x' in '3.2x'"),
        (Cell("c", parts=(Part("R1", "resistor", (0, 0)),)), "R1 needs its resistance"),
        (Cell("c", parts=(Part("R1", "resistor", (0, 0), values={"r": "1k", "w": "1u"}),)), "R1 has no value 'w'"),
        (Cell("c", parts=(resistor("R1", (0, 0)), resistor("r1", (9, 9)))), "used twice"),
        (Cell("c", parts=(Part("X1", "c", (0, 0)),)), "contains itself"),
    ],
)  # fmt: skip
def test_what_is_wrong_on_a_drawing_names_the_part(cell, said):
    """Unknown device, bad value, missing value, unknown value, twin names, recursion."""
    with pytest.raises(CircuitError, match=said):
        nets_of(cell)


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("v1 a 0 1\nr1 a 0 1k\nc1 a float 1p\nc2 float 0 1p", "net float has no DC path.*c1, c2"),
        ("v1 a 0 1\nr1 a 0 1k\ni1 0 x 1u\nc1 x 0 1p", "net x has no DC path"),
        ("v1 a b 1\nr1 a b 1k", "no part is connected to ground"),
        ("v1 a 0 1\nv2 a 0 2", "v2 closes a loop"),
        ("v1 a 0 1\nl1 a 0 1n", "l1 closes a loop"),
        ("v1 d 0 1\nm1 d g 0 0 n\n.model n nmos", "net g has no DC path"),
    ],
)  # fmt: skip
def test_what_cannot_be_solved_is_found_before_it_is_tried(text, said):
    """Each names the net and the parts on it, or the part that closes the loop, with its line."""
    with pytest.raises(CircuitError, match=said) as caught:
        planned(text + "\n.op")
    assert caught.value.file == "test.cir"
    assert caught.value.line > 1


def test_an_empty_circuit_is_said_to_be_empty():
    """Not a division by zero somewhere inside."""
    with pytest.raises(CircuitError, match="empty"):
        check(Netlist(()))
