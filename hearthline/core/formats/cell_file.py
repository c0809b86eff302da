"""A cell as a TOML file."""

from __future__ import annotations

from pathlib import Path

from hearthline.core import limits
from hearthline.core.circuit.cell import BODY_SHAPES, LABEL_KINDS, PIN_KINDS, Body, Cell, Label, Note, Part, Pin, Wire
from hearthline.core.errors import FileError
from hearthline.core.formats.toml_table import Table, read_toml, read_version, write_toml

FORMAT = 1


def read_cell(path: Path, shown: str) -> Cell:
    """The cell in the file at `path`, named after the file. Raises FileError with the line."""
    return cell_of(read_toml(path, shown), path.stem)


def cell_of(table: Table, name: str) -> Cell:
    """The cell called `name` in a table that was read. Raises FileError with the line."""
    read_version(table, FORMAT)
    cell = Cell(
        name=name,
        pins=tuple(_pin(item) for item in table.tables("pins")),
        parts=tuple(_part(item) for item in table.tables("parts")),
        wires=tuple(_wire(item) for item in table.tables("wires")),
        labels=tuple(_label(item) for item in table.tables("labels")),
        parameters=table.texts("parameters"),
        note=table.string("note", ""),
        notes=tuple(_note(item) for item in table.tables("notes")),
        body=_body(table.table("body")) if table.has("body") else None,
    )
    points = sum(len(wire.points) for wire in cell.wires)
    if len(cell.parts) > limits.CELL_PARTS or points > limits.CELL_POINTS:
        raise FileError(
            f"has {len(cell.parts)} parts and {points} points of wires; a cell may have {limits.CELL_PARTS} and "
            f"{limits.CELL_POINTS}: make blocks of parts of it",
            table.file,
        )
    table.done()
    return cell


def _pin(table: Table) -> Pin:
    pin = Pin(table.name("name"), table.string("kind"), table.point("at"), table.integer("turn", 0))
    _one_of(table, f"pin {pin.name}", pin.kind, PIN_KINDS)
    table.done()
    return pin


def _part(table: Table) -> Part:
    part = Part(
        table.name("name"), table.name("device"), table.point("at"), table.integer("turn", 0),
        table.flag("flip", False), table.texts("values"), table.strings("open", ()),
    )  # fmt: skip
    if len(part.instances) > limits.COPIES:
        raise table.error(f"{part.name[:40]} stands for more than {limits.COPIES} parts", "name")
    table.done()
    return part


def _wire(table: Table) -> Wire:
    wire = Wire(table.points("points"))
    table.done()
    return wire


def _label(table: Table) -> Label:
    label = Label(table.name("net"), table.point("at"), table.string("kind", "name"))
    _one_of(table, "label", label.kind, LABEL_KINDS)
    table.done()
    return label


def _note(table: Table) -> Note:
    note = Note(table.string("text"), table.point("at"))
    table.done()
    return note


def _body(table: Table) -> Body:
    (left, top), (right, bottom) = table.point("from"), table.point("to")
    if right <= left or bottom <= top:
        raise table.error("'to' must lie right of and below 'from'", "to")
    places = table.table("places")
    body = Body(
        (left, top, right, bottom), {name: places.point(name) for name in places.names}, table.string("shape", "box"),
        table.string("label", ""),
    )  # fmt: skip
    _one_of(table, "body", body.shape, BODY_SHAPES, "shape")
    table.done()
    return body


def _one_of(table: Table, what: str, kind: str, known: tuple[str, ...], key: str = "kind") -> None:
    if kind not in known:
        raise table.error(f"{what}: there is no {key} '{kind}'; there are {', '.join(known)}", key)


def write_cell(path: Path, cell: Cell) -> None:
    """Writes `cell`; comments in an existing file stay. Raises FileError."""
    write_toml(path, cell_data(cell))


def cell_data(cell: Cell) -> dict:
    """The cell as plain tables; what has its default is left out."""
    data: dict = {"format": FORMAT}
    if cell.note:
        data["note"] = cell.note
    if cell.parameters:
        data["parameters"] = dict(cell.parameters)
    data["pins"] = [
        {"name": p.name, "kind": p.kind, "at": list(p.at)} | ({"turn": p.turn} if p.turn else {}) for p in cell.pins
    ]
    data["parts"] = [_part_data(part) for part in cell.parts]
    data["wires"] = [{"points": [list(point) for point in wire.points]} for wire in cell.wires]
    data["labels"] = [
        {"net": label.net, "at": list(label.at)} | ({"kind": label.kind} if label.kind != "name" else {})
        for label in cell.labels
    ]
    data["notes"] = [{"text": note.text, "at": list(note.at)} for note in cell.notes]
    if cell.body:
        data["body"] = _body_data(cell.body)
    return {key: value for key, value in data.items() if value != []}


def _part_data(part: Part) -> dict:
    data = {"name": part.name, "device": part.device, "at": list(part.at)}
    data |= {"turn": part.turn} if part.turn else {}
    data |= {"flip": True} if part.flip else {}
    data |= {"open": list(part.open)} if part.open else {}
    return data | ({"values": dict(part.values)} if part.values else {})


def _body_data(body: Body) -> dict:
    data = {"from": list(body.box[:2]), "to": list(body.box[2:])}
    data |= {"shape": body.shape} if body.shape != "box" else {}
    data |= {"label": body.label} if body.label else {}
    return data | {"places": {name: list(place) for name, place in body.places.items()}}
