"""Files of bond wires and vias, as plain tables."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from hearthline.core.errors import QuantityError
from hearthline.core.fields.box import Span
from hearthline.core.fields.wires.n_port import Wire, wires_network
from hearthline.core.formats.toml_table import Table, parse_toml, read_toml, read_version
from hearthline.core.formats.typed_numbers import positive, span
from hearthline.core.nports.n_port import NPort
from hearthline.core.quantity import read

FORMAT, MOST, MOST_POINTS = 1, 30, 50
GOLD = 4.1e7


class WiresFile:
    """Wires with the frequencies that are wanted of them, over a plane of ground or none. Raises FileError with the line."""

    def __init__(self, path: Path, shown: str, text: str | None = None):
        """Of the file at a path, or of a `text` that is to stand there."""
        table = read_toml(path, shown) if text is None else parse_toml(text, shown)
        read_version(table, FORMAT)
        items = table.tables("wires")
        if not items or len(items) > MOST:
            raise table.error(f"there are 1 to {MOST} [[wires]] in a file, and this has {len(items)}", "wires")
        self.plane = table.flag("plane", True)
        self.wires = tuple(_wire(item, self.plane) for item in items)
        self.span: Span = span(table.table("sweep"))
        table.done()

    def network(self) -> NPort:
        """What they are between their ends."""
        return wires_network(self.wires, self.plane, np.concatenate([[0.0], self.span.frequencies]))


def _wire(table: Table, plane: bool) -> Wire:
    radius = 0.5 * positive(table, "diameter")
    points = _points(table)
    if (np.linalg.norm(np.diff(points, axis=0), axis=1) < radius).any():
        raise table.error("pieces of a wire are longer than its radius; two points are too close", "points")
    if plane and points[:, 2].min() < 0:
        raise table.error("wires lie above the plane of ground at z = 0, and this one goes through it", "points")
    found = Wire(points, radius, positive(table, "conductivity", repr(GOLD)))
    table.done()
    return found


def _points(table: Table) -> np.ndarray:
    text = table.string("points")
    try:
        rows = [[read(one) for one in point.split(",")] for point in text.split(";")]
    except QuantityError as error:
        raise table.error(f"points: {error}", "points") from None
    if not 2 <= len(rows) <= MOST_POINTS or any(len(row) != 3 for row in rows):
        raise table.error(
            f"points are 2 to {MOST_POINTS} of three numbers, with ; between them: 0, 0, 0.1m; 1m, 0, 0.1m", "points"
        )
    return np.array(rows)
