"""Files of coupled lines: their cross-section and length, as plain tables."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from hearthline.core.fields.box import Span
from hearthline.core.fields.lines.section import COPPER, Conductor, Layer, Section
from hearthline.core.formats.toml_table import Table, parse_toml, read_toml, read_version
from hearthline.core.formats.typed_numbers import number, numbers, positive, span

FORMAT = 1
SHAPES = ("box", "circle", "around")
MOST = 40
"""Conductors."""


class LinesFile:
    """A section with the frequencies that are wanted of it. Raises FileError with the line."""

    def __init__(self, path: Path, shown: str, text: str | None = None):
        """Of the file at a path, or of a `text` that is to stand there."""
        table = self.table = read_toml(path, shown) if text is None else parse_toml(text, shown)
        read_version(table, FORMAT)
        items = table.tables("conductors")
        if not items or len(items) > MOST:
            raise table.error(f"a section has 1 to {MOST} [[conductors]], and this has {len(items)}", "conductors")
        conductors = tuple(_conductor(item) for item in items)
        layers = tuple(_layer(item) for item in table.tables("layers"))
        plane = positive(table, "plane_conductivity", repr(COPPER))
        self.section = Section(conductors, layers, plane, positive(table, "length", "1"))
        self.span: Span = span(table.table("sweep"))
        table.done()
        if not self.section.lines:
            raise items[0].error("all conductors are ground; one at least carries a wave", "ground")
        _apart(self.section, items)

    def frequencies(self) -> np.ndarray:
        """Of the sweep, and 0 Hz [Hz]."""
        return np.concatenate([[0.0], self.span.frequencies])


def _conductor(table: Table) -> Conductor:
    given = [shape for shape in SHAPES if table.has(shape)]
    if len(given) != 1:
        raise table.error("a conductor is a box, a circle, or a circle around the others: one of the three", "box")
    (shape,) = given
    conductivity = positive(table, "conductivity", repr(COPPER))
    ground = table.flag("ground", shape == "around")
    if shape == "box":
        x0, y0, x1, y1 = numbers(table, shape, 4)
        if x0 >= x1 or y0 >= y1:
            raise table.error("box is its lowest corner, then its highest; along some axis it has no size", shape)
        found, bottom = Conductor((x0, y0), (x1, y1), ground=ground, conductivity=conductivity), y0
    else:
        x, y, radius = numbers(table, shape, 3)
        if radius <= 0:
            raise table.error("a circle is its middle and a radius above 0", shape)
        found = Conductor((x, y), (x, y), radius, shape == "around", ground, conductivity)
        bottom = y - radius
    if bottom <= 0:
        raise table.error("conductors lie above the plane of ground at y = 0, and this one touches it", shape)
    table.done()
    return found


def _layer(table: Table) -> Layer:
    er, loss = positive(table, "er"), number(table, "tan_delta", "0")
    if er < 1:
        raise table.error(f"er is 1 or more, and not {er:g}", "er")
    if loss < 0:
        raise table.error(f"tan_delta is 0 or more, and not {loss:g}", "tan_delta")
    found = Layer(positive(table, "height"), er, loss)
    table.done()
    return found


def _apart(section: Section, items: list[Table]) -> None:
    """Raises FileError for conductors that touch each other."""
    known = section.conductors
    for k, one in enumerate(known):
        for other in known[:k]:
            if _touch(one, other):
                raise items[k].error(f"conductors {known.index(other) + 1} and {k + 1} touch each other", _shape(one))


def _shape(one: Conductor) -> str:
    return "around" if one.hollow else "circle" if one.round else "box"


def _touch(one: Conductor, other: Conductor) -> bool:
    if one.hollow or other.hollow:
        shell, inner = (one, other) if one.hollow else (other, one)
        corners = [inner.low, inner.high, (inner.low[0], inner.high[1]), (inner.high[0], inner.low[1])]
        away = max(float(np.hypot(x - shell.low[0], y - shell.low[1])) for x, y in corners)
        return inner.hollow or away + inner.radius >= shell.radius
    apart = [max(a - d, c - b, 0.0) for a, b, c, d in zip(one.low, one.high, other.low, other.high, strict=True)]
    return float(np.hypot(apart[0], apart[1])) <= one.radius + other.radius
