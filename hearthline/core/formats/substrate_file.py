"""Files of substrates with their contacts, as plain tables."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from hearthline.core.fields.substrate.network import Bed, Substrate, substrate_network
from hearthline.core.formats.toml_table import Table, read_toml, read_version
from hearthline.core.formats.typed_numbers import numbers, positive, span
from hearthline.core.nports.n_port import NPort

FORMAT, MOST = 1, 30
TIED, OPEN = "tied", "open"
SILICON = 11.7


def read_substrate(path: Path, shown: str) -> NPort:
    """What is between contacts. Raises FileError with the line."""
    table = read_toml(path, shown)
    read_version(table, FORMAT)
    length, width = numbers(table, "size", 2)
    if min(length, width) <= 0:
        raise table.error("both measures of size are above 0", "size")
    back = table.string("back", TIED)
    if back not in (TIED, OPEN):
        raise table.error(f"the back is {TIED} to the common terminal or {OPEN}, and not '{back}'", "back")
    layers, contacts = table.tables("layers"), table.tables("contacts")
    if not layers:
        raise table.error(
            "a substrate has [[layers]], from the top down, each with thickness and conductivity", "layers"
        )
    if not contacts or len(contacts) > MOST or (back == OPEN and len(contacts) < 2):
        raise table.error(
            f"a substrate has 1 to {MOST} [[contacts]], two at least where its back lies open", "contacts"
        )
    beds = tuple(_bed(item) for item in layers)
    boxes = [_contact(item, length, width) for item in contacts]
    _apart(boxes, contacts)
    swept = span(table.table("sweep"))
    table.done()
    substrate = Substrate(length, width, beds, tuple(boxes), back == TIED)
    return substrate_network(substrate, np.concatenate([[0.0], swept.frequencies]))


def _bed(table: Table) -> Bed:
    found = Bed(positive(table, "thickness"), positive(table, "conductivity"), positive(table, "er", repr(SILICON)))
    table.done()
    return found


def _contact(table: Table, length: float, width: float) -> tuple[float, float, float, float]:
    (x, y), (w, h) = numbers(table, "at", 2), numbers(table, "size", 2)
    if w <= 0 or h <= 0:
        raise table.error("both measures of a contact are above 0", "size")
    slack = 1e-9 * max(length, width)
    if min(x - w / 2, y - h / 2) < -slack or x + w / 2 > length + slack or y + h / 2 > width + slack:
        raise table.error("the contact lies outside of the substrate", "at")
    table.done()
    return x, y, w, h


def _apart(boxes: list[tuple[float, float, float, float]], items: list[Table]) -> None:
    """Raises FileError for contacts that overlap."""
    for k, (x, y, w, h) in enumerate(boxes):
        for j, (u, v, a, b) in enumerate(boxes[:k]):
            if abs(x - u) < (w + a) / 2 and abs(y - v) < (h + b) / 2:
                raise items[k].error(f"contacts {j + 1} and {k + 1} overlap", "at")
