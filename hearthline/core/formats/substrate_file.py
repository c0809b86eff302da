"""Files of substrates with their contacts, as plain tables."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from hearthline.core.fields.box import Span
from hearthline.core.fields.substrate.network import Bed, Substrate, substrate_network
from hearthline.core.formats.toml_table import Table, parse_toml, read_toml, read_version
from hearthline.core.formats.typed_numbers import numbers, positive, span
from hearthline.core.nports.n_port import NPort

FORMAT, MOST = 1, 30
TIED, OPEN = "tied", "open"
SILICON = 11.7


class SubstrateFile:
    """A substrate with the frequencies that are wanted of it. Raises FileError with the line."""

    def __init__(self, path: Path, shown: str, text: str | None = None):
        """Of the file at a path, or of a `text` that is to stand there."""
        table = read_toml(path, shown) if text is None else parse_toml(text, shown)
        read_version(table, FORMAT)
        length, width = numbers(table, "size", 2)
        if min(length, width) <= 0:
            raise table.error("both measures of size are above 0", "size")
        back = table.string("back", TIED)
        if back not in (TIED, OPEN):
            raise table.error(f"the back is {TIED} to the common terminal or {OPEN}, and not '{back}'", "back")
        beds, boxes = _beds(table), _contacts(table, length, width, back)
        self.span: Span = span(table.table("sweep"))
        table.done()
        self.substrate = Substrate(length, width, beds, boxes, back == TIED)

    def network(self) -> NPort:
        """What is between contacts."""
        return substrate_network(self.substrate, np.concatenate([[0.0], self.span.frequencies]))


def _beds(table: Table) -> tuple[Bed, ...]:
    layers = table.tables("layers")
    if not layers:
        raise table.error(
            "a substrate has [[layers]], from the top down, each with thickness and conductivity", "layers"
        )
    return tuple(_bed(item) for item in layers)


def _contacts(table: Table, length: float, width: float, back: str) -> tuple[tuple[float, float, float, float], ...]:
    contacts = table.tables("contacts")
    if not contacts or len(contacts) > MOST or (back == OPEN and len(contacts) < 2):
        raise table.error(
            f"a substrate has 1 to {MOST} [[contacts]], two at least where its back lies open", "contacts"
        )
    boxes = [_contact(item, length, width) for item in contacts]
    _apart(boxes, contacts)
    return tuple(boxes)


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
