"""What each drawable part is: its terminals on the grid, and the values it takes.

Positions are in grid steps relative to the part's origin, y downwards; the drawing of the symbol itself is the
canvas's business. Graphic conventions after IEC 60617 and IEEE 315 in our own proportions.
"""

from __future__ import annotations

from dataclasses import dataclass

from hearthline.core.models.module import Module

Point = tuple[int, int]


@dataclass(frozen=True)
class ValueField:
    """One value of a part: its name, its unit (SI), what it means, and its default as text ("" where it must be given,
    unless it is optional: then the device knows it itself). `first` is what a newly placed part has; `kind` says what is
    typed: a `number` (or an expression), a `wave`, or the names of `parts` of the same cell."""

    name: str
    unit: str
    meaning: str
    default: str = ""
    optional: bool = False
    first: str = ""
    kind: str = "number"


@dataclass(frozen=True)
class Symbol:
    """A primitive part: netlist kind, terminals in netlist order, and value fields."""

    kind: str
    terminals: tuple[tuple[str, Point], ...]
    fields: tuple[ValueField, ...]
    takes_model: bool = False


_TWO = (("p", (0, -2)), ("n", (0, 2)))
_FOUR = (("p", (2, -2)), ("n", (2, 2)), ("cp", (-2, -2)), ("cn", (-2, 2)))
_MOS_FIELDS = (
    ValueField("w", "m", "width of the whole gate, all fingers together", first="1u"),
    ValueField("l", "m", "length of the gate", first="130n"),
    ValueField("nf", "", "number of fingers the width is split into", "1"),
    ValueField("m", "", "how many such devices stand in parallel", "1"),
)

_PARALLEL = ValueField("m", "", "how many such devices stand in parallel", "1")
_AREA = (ValueField("area", "", "area as a multiple of the model's", "1"), _PARALLEL)
_AREA_OF_STRIP = (ValueField("w", "m", "width", first="2u"), ValueField("l", "m", "length", first="10u"))
_WAVE = ValueField("wave", "", "course in time: pulse(low high delay rise fall width period), sin(offset amplitude "
                   "frequency), exp(...), pwl(t1 v1 t2 v2 ...), sffm(...)", optional=True, kind="wave")  # fmt: skip
_SMALL_SIGNAL = (
    ValueField("mag", "", "amplitude in an AC analysis", optional=True),
    ValueField("phase", "", "phase in an AC analysis, in degrees", optional=True),
)
_CONTROL = ValueField("control", "", "the voltage source whose current controls it", first="V1", kind="parts")
_SWITCH = (
    ValueField("ron", "Ω", "resistance when on", "1"),
    ValueField("roff", "Ω", "resistance when off", "1T"),
    ValueField("vt", "V", "control voltage in the middle", "0"),
    ValueField("vh", "V", "hysteresis: on above vt + vh, off below vt - vh", "0"),
    ValueField("vw", "V", "half the window of the transition, without hysteresis", "100m"),
)
_LINE = (
    ValueField("z0", "Ω", "characteristic impedance", first="50"),
    ValueField("td", "s", "delay", first="1n"),
)
_COUPLING = (
    ValueField("coils", "", "inductors that are coupled, with blanks between", first="L1 L2", kind="parts"),
    ValueField("k", "", "coupling, from -1 to 1", first="0.9"),
)
_SPIRAL_FIELDS = (
    ValueField("d", "m", "outer diameter", "200u"),
    ValueField("w", "m", "width of the track", "8u"),
    ValueField("s", "m", "gap between turns", "2u"),
    ValueField("turns", "", "number of turns", "3.5"),
)

SYMBOLS: dict[str, Symbol] = {
    "NMOS": Symbol("M", (("d", (2, -2)), ("g", (-2, 0)), ("s", (2, 2)), ("b", (2, 0))), _MOS_FIELDS, True),
    "PMOS": Symbol("M", (("d", (2, 2)), ("g", (-2, 0)), ("s", (2, -2)), ("b", (2, 0))), _MOS_FIELDS, True),
    "NPN": Symbol("Q", (("c", (2, -2)), ("b", (-2, 0)), ("e", (2, 2))), _AREA, True),
    "PNP": Symbol("Q", (("c", (2, 2)), ("b", (-2, 0)), ("e", (2, -2))), _AREA, True),
    "NJF": Symbol("J", (("d", (2, -2)), ("g", (-2, 0)), ("s", (2, 2))), _AREA, True),
    "PJF": Symbol("J", (("d", (2, 2)), ("g", (-2, 0)), ("s", (2, -2))), _AREA, True),
    "strip resistor": Symbol("X", _TWO, (*_AREA_OF_STRIP, _PARALLEL), True),
    "plate capacitor": Symbol("X", _TWO, (*_AREA_OF_STRIP, _PARALLEL), True),
    "varactor": Symbol("X", _TWO, (*_AREA_OF_STRIP, _PARALLEL), True),
    "spiral": Symbol("X", _TWO, _SPIRAL_FIELDS, True),
    "D": Symbol("D", _TWO, (ValueField("area", "", "area as a multiple of the model's", "1"),), True),
    "resistor": Symbol("R", _TWO, (ValueField("r", "Ω", "resistance", first="1k"),)),
    "capacitor": Symbol("C", _TWO, (ValueField("c", "F", "capacitance", first="1p"),)),
    "inductor": Symbol("L", _TWO, (ValueField("l", "H", "inductance", first="1n"),)),
    "voltage source": Symbol(
        "V",
        _TWO,
        (ValueField("dc", "V", "voltage from the first terminal to the second", "0", first="1"), _WAVE, *_SMALL_SIGNAL),
    ),
    "current source": Symbol(
        "I",
        _TWO,
        (
            ValueField("dc", "A", "current from the first terminal through the source", "0", first="1u"),
            _WAVE,
            *_SMALL_SIGNAL,
        ),
    ),
    "voltage-controlled voltage": Symbol("E", _FOUR, (ValueField("gain", "V/V", "voltage gain", first="1"),)),
    "voltage-controlled current": Symbol("G", _FOUR, (ValueField("gm", "S", "transconductance", first="1m"),)),
    "current-controlled current": Symbol("F", _TWO, (ValueField("gain", "", "current gain", first="1"), _CONTROL)),
    "current-controlled voltage": Symbol("H", _TWO, (ValueField("gain", "Ω", "transresistance", first="1k"), _CONTROL)),
    "switch": Symbol("X", _FOUR, _SWITCH, True),
    "transmission line": Symbol("T", (("p1", (-4, -2)), ("n1", (-4, 2)), ("p2", (4, -2)), ("n2", (4, 2))), _LINE),
    "coupling": Symbol("K", (), _COUPLING),
}
"""Drawable primitives by the name that a cell file gives them; kit devices use the entry of their model type."""

GROUND_SYMBOL = "ground"
_FIELD_UNITS = {"Ohm": "Ω", "m": "m", "V": "V", "A": "A", "F": "F", "H": "H", "s": "s"}
_LIKE_A_TRANSISTOR = {"d": (2, -2), "c": (2, -2), "g": (-2, 0), "b": (2, 0), "s": (2, 2), "e": (2, 2)}


def symbol_of_module(module: Module) -> Symbol:
    """A symbol for a Verilog-A module from its ports: two above each other with what lies below them at the side, a
    transistor's as a transistor's are, others along both sides of a box."""
    ports = module.port_names
    places = dict(_LIKE_A_TRANSISTOR)
    if "c" in ports:
        places["b"] = (-2, 0)
    if len(ports) == 2:
        terminals = tuple(zip(ports, ((0, -2), (0, 2)), strict=True))
    elif len(ports) == 3 and ports[:2] == ("p", "n"):
        terminals = tuple(zip(ports, ((0, -2), (0, 2), (2, 0)), strict=True))
    elif len(ports) <= 4 and all(port in places for port in ports):
        terminals = tuple((port, places[port]) for port in ports)
    else:
        terminals = tuple((port, (-2 if k % 2 == 0 else 2, 2 * (k // 2) - 2)) for k, port in enumerate(ports))
    marked = [p for p in module.parameters if p.instance] or list(module.parameters)
    fields = tuple(
        ValueField(p.name, _FIELD_UNITS.get(p.unit, ""), p.meaning, optional=True) for p in marked if p.type != "string"
    )
    return Symbol("X", terminals, (*fields, _PARALLEL), True)


def place_terminal(at: Point, turn: int, flip: bool, offset: Point) -> Point:
    """Where a place of a symbol lies, such as a terminal: flip left to right first, then `turn` quarter turns clockwise, then
    moved to `at`."""
    x, y = offset
    if flip:
        x = -x
    for _ in range(turn % 4):
        x, y = -y, x
    return at[0] + x, at[1] + y
