"""Words beside devices: name, device and sizes, gauge, and chosen values; and those in blocks."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, QRectF

from hearthline.app.canvas.gauge import gauge_of, paint_gauge
from hearthline.app.canvas.words.spots import around
from hearthline.app.canvas.words.writing import FIGURES, NAME, SMALL, key_of, line_height, width
from hearthline.app.state.values import Quantity, saturation_role
from hearthline.app.theme.fonts import figure_font
from hearthline.core.places import Box, Item, Place, Spot

if TYPE_CHECKING:
    from hearthline.app.canvas.brush import Brush

GAUGE, SMALL_GAUGE, GAUGE_HEIGHT = 100.0, 72.0, 8.0
PITCH = 92.0
"""Between the columns of values [px]."""


@dataclass(frozen=True)
class PartWords:
    """What stands beside a device. `columns` are the names of its values, where it has any; `shown` is what its values are
    called in the results."""

    name: str
    rest: str
    shown: str
    body: Box
    first: str
    gauge: bool
    columns: tuple[str, ...]
    role: str = "ink"
    gauge_width: float = GAUGE
    forms: tuple[frozenset[str], ...] = field(init=False)

    def __post_init__(self) -> None:
        wanted = ("gauge", "values", "rest") if self.gauge else ("rest", "values")
        has = {"gauge": self.gauge, "values": bool(self.columns), "rest": bool(self.rest)}
        forms, there = [frozenset({"name"})], {"name"}
        for what in wanted:
            if has[what]:
                there.add(what)
                forms.append(frozenset(there))
        object.__setattr__(self, "forms", tuple(forms))

    @cached_property
    def item(self) -> Item:
        """As Writing has it."""
        return Item(
            key_of("part", self.name), tuple(map(self._size, self.forms)), around(self.body, self.first), self.gauge
        )

    def _size(self, form: frozenset[str]) -> tuple[float, float]:
        wide, high = self._name_width(form), line_height(NAME)
        if "gauge" in form:
            wide, high = max(wide, self.gauge_width), high + GAUGE_HEIGHT
        if "values" in form:
            wide, high = max(wide, PITCH * self._across), high + self._rows * line_height(FIGURES)
        return wide, high

    @property
    def _across(self) -> int:
        """Columns of values: one for few of them."""
        return 1 if len(self.columns) <= 2 else 2

    @property
    def _rows(self) -> int:
        return -(-len(self.columns) // self._across)

    def _name_width(self, form: frozenset[str]) -> float:
        wide = width(self.name, NAME, True)
        return wide + 5 + width(self.rest, SMALL) if "rest" in form else wide

    def paint(self, brush: Brush, place: Place) -> None:
        """As Writing has it."""
        form = self.forms[place.form]
        left, top, right, _ = place.box
        across = self.item.spots[place.spot].across
        x = left + across * (right - left - self._name_width(form))
        y = top + line_height(NAME)
        brush.text(QPointF(x, y - 4), self.name, self.role, bold=True, size=NAME)
        if "rest" in form:
            brush.text(QPointF(x + width(self.name, NAME, True) + 5, y - 4), self.rest, "quiet", size=SMALL)
        values = brush.look.point.part(self.shown) if brush.look.point is not None else {}
        if not values:
            return
        gauge = gauge_of(values) if "gauge" in form else None
        if gauge is not None:
            box = QRectF(left + across * (right - left - self.gauge_width), y + 1, self.gauge_width, 6)
            paint_gauge(brush.painter, box, gauge, brush.look.stale)
            y += GAUGE_HEIGHT
        if "values" in form:
            self._columns(brush, left + across * (right - left - PITCH * self._across), y, values)

    def _columns(self, brush: Brush, x: float, y: float, values: dict[str, Quantity]) -> None:
        chosen = [values[name] for name in self.columns if name in values]
        for k, quantity in enumerate(chosen):
            at = QPointF(x + (k % self._across) * PITCH, y + (k // self._across + 1) * line_height(FIGURES) - 3)
            name = brush.text(at, quantity.name, "quiet", size=FIGURES)
            role, text = brush.live_role, quantity.text
            if quantity.name == "sat" and "region" in values and not brush.look.stale:
                off = values["region"].value == 0
                role = {"amber": "amber_ink", "ember": "ember_ink"}.get(saturation_role(values), role)
                text = "off" if off else text
            brush.text(at + QPointF(max(name + 5, FIGURES * 2.2), 0), text, role, font=figure_font(FIGURES))

    def boxes(self, place: Place) -> list[QRectF]:
        """As Writing has it."""
        left, top, right, bottom = place.box
        return [QRectF(left, top, right - left, bottom - top)]


@dataclass(frozen=True)
class BlockWords:
    """Name and cell of a block: in its body where they fit, else its name beside it."""

    name: str
    label: str
    body: Box
    inner: Box
    role: str = "ink"

    @cached_property
    def inside(self) -> bool:
        """Whether the name fits into the body."""
        left, top, right, bottom = self.inner
        return width(self.name, NAME, True) + 4 <= right - left and line_height(NAME) <= bottom - top

    @cached_property
    def item(self) -> Item:
        """As Writing has it."""
        name = (width(self.name, NAME, True), line_height(NAME))
        whole = (max(name[0], width(self.label, SMALL)), name[1] + line_height(SMALL))
        if not self.inside:
            return Item(key_of("part", self.name), (name, whole), around(self.body, "above"))
        left, top, right, bottom = self.inner
        middle = Spot((left + right) / 2, (top + bottom) / 2, 0.5, 0.5)
        return Item(key_of("part", self.name), (whole if self._labelled else name,), (middle,))

    @cached_property
    def _labelled(self) -> bool:
        """Whether the cell's name fits under the block's."""
        left, top, right, bottom = self.inner
        return width(self.label, SMALL) + 4 <= right - left and line_height(NAME) + line_height(SMALL) <= bottom - top

    def paint(self, brush: Brush, place: Place) -> None:
        """As Writing has it."""
        left, top, right, _ = place.box
        middle = (left + right) / 2
        at = QPointF(middle - width(self.name, NAME, True) / 2, top + line_height(NAME) - 4)
        brush.text(at, self.name, self.role, bold=True, size=NAME)
        if self._labelled if self.inside else place.form:
            at = QPointF(middle - width(self.label, SMALL) / 2, top + line_height(NAME) + line_height(SMALL) - 4)
            brush.text(at, self.label, "quiet", size=SMALL)

    def boxes(self, place: Place) -> list[QRectF]:
        """As Writing has it."""
        left, top, right, bottom = place.box
        return [QRectF(left, top, right - left, bottom - top)]
