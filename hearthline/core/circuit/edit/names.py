"""Names for new things on a drawing: the trade's letter and the next free number."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import replace

from hearthline.core.circuit.cell import ARRAY, Cell, Part
from hearthline.core.circuit.flatten import Library
from hearthline.core.circuit.symbols import GROUND_SYMBOL
from hearthline.core.elements.kind import Symbol

_NUMBERED = re.compile(r"(.*?)(\d*)")


def letter_of(part: Part, library: Library) -> str:
    """What the names of such parts begin with."""
    if part.device == GROUND_SYMBOL:
        return "GND"
    symbol = library.symbol(part) if library.knows(part) else None
    kind = getattr(symbol, "kind", "X")
    name = library.devices.get(part.device, part.device)
    return {"strip resistor": "R", "plate capacitor": "C", "varactor": "C", "spiral": "L", "bond wire": "W"}.get(
        name, kind
    )


def free_name(taken: Iterable[str], wanted: str) -> str:
    """`wanted` where it is free, else with the next number that is; the count of an array stays."""
    taken = {name.lower() for name in taken}
    taken |= {match[1] for name in taken if (match := ARRAY.fullmatch(name))}
    match = ARRAY.fullmatch(wanted)
    stem, count = (match[1], f"[{match[2]}]") if match else (wanted, "")
    if stem.lower() not in taken and stem[-1:].isdigit():
        return stem + count
    numbered = _NUMBERED.fullmatch(stem)
    base, number = numbered.groups() if numbered else (stem, "")
    k = int(number or 0) + 1
    while f"{base}{k}".lower() in taken:
        k += 1
    return f"{base}{k}{count}"


def named(part: Part, cell: Cell, library: Library) -> Part:
    """A new part under a free name."""
    letter = letter_of(part, library)
    return replace(part, name=free_name((p.name for p in cell.parts), f"{letter}1"))


def renamed_part(cell: Cell, old: str, new: str, library: Library) -> Cell:
    """The cell with a part under another name; parts that are controlled by it follow."""
    return replace(cell, parts=with_names(cell.parts, {old: new}, library))


def renamed_pin(cell: Cell, old: str, new: str) -> Cell:
    """The cell with a pin under another name, in its body too."""
    body = cell.body
    if body:
        body = replace(body, places={new if name == old else name: place for name, place in body.places.items()})
    pins = tuple(replace(pin, name=new) if pin.name == old else pin for pin in cell.pins)
    return replace(cell, pins=pins, body=body)


def with_names(parts: tuple[Part, ...], names: Mapping[str, str], library: Library) -> tuple[Part, ...]:
    """The parts under other names, with the values that name parts following."""
    return tuple(
        replace(part, name=names.get(part.name, part.name), values=_following(part, names, library)) for part in parts
    )


def _following(part: Part, names: Mapping[str, str], library: Library) -> Mapping[str, str]:
    symbol = library.symbol(part) if library.knows(part) else None
    if not isinstance(symbol, Symbol):
        return part.values
    lower = {old.lower(): new for old, new in names.items()}
    naming = {one.name for one in symbol.fields if one.kind == "parts"}
    return {
        key: re.sub(r"[^\s,]+", lambda m: lower.get(m[0].lower(), m[0]), text) if key in naming else text
        for key, text in part.values.items()
    }
