"""Each check of a drawing, one by one: what it says, where, and that a sound drawing has none."""

from __future__ import annotations

from dataclasses import replace

import pytest

from hearthline.core.circuit.body import body_of, mended, pins_gained, pins_lost
from hearthline.core.circuit.cell import Cell, Label, Part, Pin, Wire
from hearthline.core.circuit.edit.blocks import with_body
from hearthline.core.circuit.flatten import Library
from hearthline.core.circuit.rules.all import findings_of
from hearthline.core.circuit.rules.finding import CheckedDrawing

MOS = {"w": "1u", "l": "130n"}


def resistor(name: str, at=(0, 0), text: str = "1k", **more) -> Part:
    """Its ends lie two steps above and below `at`."""
    return Part(name, "resistor", at, values={"r": text}, **more)


SOUND = Cell(
    "sound", (Pin("a", "input", (0, -2)),), (resistor("R1"), Part("GND1", "ground", (0, 2))),
)  # fmt: skip
BLOCK = with_body(Cell("block", (Pin("in", "input", (0, 0)), Pin("out", "output", (8, 0)))))
GROWN = replace(BLOCK, pins=(*BLOCK.pins, Pin("en", "input", (0, 4))))
SHRUNK = replace(BLOCK, pins=BLOCK.pins[:1])


def found(cell: Cell, *others: Cell) -> list[str]:
    """Rule and message of every finding."""
    library = Library({c.name: c for c in (cell, *others)}, {"n_rvt": "NMOS"})

    def limits(device, name, value, unit):
        return "n_rvt allows 160 nm to 100 µm" if name == "w" and value > 1e-4 else ""

    return [f"{one.rule}: {one.message}" for one in findings_of(CheckedDrawing(cell, library, limits))]


def test_a_sound_drawing_has_no_findings():
    """Everything connected, every value understood."""
    assert found(SOUND) == []


CASES = [
    ("loose wire", "ends in the open", replace(SOUND, wires=(Wire(((0, 0 - 2), (6, -2))),))),
    ("open terminal", "R2: terminal n", replace(SOUND, parts=(*SOUND.parts, resistor("R2", (4, 0))), wires=(Wire(((0, -2), (4, -2))),))),
    ("loose mark", "GND2 grounds nothing", replace(SOUND, parts=(*SOUND.parts, Part("GND2", "ground", (9, 9))))),
    ("loose mark", "tail touches nothing", replace(SOUND, labels=(Label("tail", (9, 9)),))),
    ("loose pin", "pin b is not connected", replace(SOUND, pins=(*SOUND.pins, Pin("b", "input", (9, 9))))),
    ("two names", "'a' and 'b'", replace(SOUND, labels=(Label("b", (0, -2)),))),
    ("two names", "ground and 'a'", replace(SOUND, wires=(Wire(((0, -2), (4, -2), (4, 2), (0, 2))),))),
    ("shorted part", "R1: all its terminals", replace(SOUND, pins=(), wires=(Wire(((0, -2), (4, -2), (4, 2), (0, 2))),))),
    ("name used twice", "R1: there are 2 parts", replace(SOUND, parts=(*SOUND.parts, resistor("r1")))),
    ("name used twice", "M1[2]: there are 2 parts", replace(SOUND, parts=(*SOUND.parts, resistor("M1[2]"), resistor("M1[3]")))),
    ("name used twice", "there are 2 pins", replace(SOUND, pins=(*SOUND.pins, Pin("A", "input", (0, -2))))),
    ("unknown device", "M1: there is no device", replace(SOUND, parts=(*SOUND.parts, Part("M1", "n_fast", (9, 9))))),
    ("cell in itself", "contains sound itself", replace(SOUND, parts=(*SOUND.parts, Part("X1", "sound", (9, 9))))),
    ("parts overlap", "R1, R2 lie on each other", replace(SOUND, parts=(*SOUND.parts, resistor("R2")))),
    ("value", "R1: r: 'x' in '3.2x'", replace(SOUND, parts=(resistor("R1", text="3.2x"), SOUND.parts[1]))),
    ("value", "R1: r: unknown parameter 'rq'", replace(SOUND, parts=(resistor("R1", text="2*rq"), SOUND.parts[1]))),
    ("value", "its resistance (r) is missing", replace(SOUND, parts=(Part("R1", "resistor", (0, 0)), SOUND.parts[1]))),
    ("value", "no value 'w'", replace(SOUND, parts=(replace(SOUND.parts[0], values={"r": "1", "w": "1"}), SOUND.parts[1]))),
    ("value", "w = 200u: n_rvt allows", replace(SOUND, parts=(*SOUND.parts, Part("M1", "n_rvt", (9, 9), values={**MOS, "w": "200u"})))),
    ("value", "l = 0 must be above 0", replace(SOUND, parts=(*SOUND.parts, Part("M1", "n_rvt", (9, 9), values={**MOS, "l": "0"})))),
    ("value", "there is no voltage source V9", replace(SOUND, parts=(*SOUND.parts, Part("F1", "current-controlled current", (9, 9), values={"gain": "1", "control": "V9"})))),
    ("value", "there is no inductor L2", replace(SOUND, parts=(*SOUND.parts, Part("K1", "coupling", (9, 9), values={"k": "1", "coils": "L1 L2"}), Part("L1", "inductor", (20, 9), values={"l": "1n"})))),
    ("value", "wave: 'puls", replace(SOUND, parts=(*SOUND.parts, Part("V1", "voltage source", (9, 9), values={"wave": "puls(0 1)"})))),
    ("value", "parameter wn of sound", replace(SOUND, parameters={"wn": "2*"})),
    ("no ground", "place a ground mark", Cell("c", (), (resistor("R1"),))),
    ("outputs shorted", "V1 and V2 both set", replace(SOUND, parts=(*SOUND.parts, Part("V1", "voltage source", (0, 0)), Part("V2", "voltage source", (0, 0))))),
]  # fmt: skip


@pytest.mark.parametrize(("rule", "said", "cell"), CASES)
def test_each_rule_names_what_is_wrong(rule, said, cell):
    """By its name, with the part or net and what to do."""
    assert any(one.startswith(rule) and said in one for one in found(cell)), found(cell)


def test_a_terminal_that_is_meant_to_be_open_is_not_mentioned():
    """Once it is marked so."""
    cell = replace(SOUND, parts=(*SOUND.parts, resistor("R2", (4, 0), open=("n",))), wires=(Wire(((0, -2), (4, -2))),))
    assert found(cell) == []


def test_outputs_of_blocks_on_one_net():
    """Both are named."""
    out = dict(body_of(BLOCK).places)["out"]
    cell = Cell(
        "c", (), (Part("X1", "block", (0, 0)), Part("X2", "block", (0, 20))), (Wire((out, (out[0], 20 + out[1]))),)
    )
    assert any("outputs X1 out and X2 out are on one net" in one for one in found(cell, BLOCK))


@pytest.mark.parametrize(("changed", "said"), [(GROWN, "has gained pin en"), (SHRUNK, "has no pin out any more")])
def test_a_symbol_that_has_drifted_is_mended(changed, said):
    """The block says so; mending places the new pin and leaves the others where they are."""
    cell = Cell("c", (), (Part("X1", "block", (0, 0)),))
    assert any(said in one for one in found(cell, changed))
    new = mended(changed)
    assert not pins_gained(new)
    assert not pins_lost(new)
    assert not any(one.startswith("symbol") for one in found(cell, new))
    assert new.body.places["in"] == BLOCK.body.places["in"]
