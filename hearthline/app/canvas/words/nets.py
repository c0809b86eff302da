"""Words at nets: names of pins, marks and wires, and the voltages that they carry."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPen

from hearthline.app.canvas.words.writing import FIGURES, NAME, key_of, line_height, rect, width
from hearthline.app.theme.fonts import figure_font
from hearthline.app.theme.theme import theme
from hearthline.core.places import Item, Place, Spot
from hearthline.core.quantity import write

if TYPE_CHECKING:
    from hearthline.app.canvas.brush import Brush

TAG_HEIGHT = 17.0
NOTHING = 1e-12
"""[V] Under which a voltage is 0: rounding of a net that carries none."""
WIDEST = "−000.0 mV"
"""A voltage of four digits; tags are as wide as this, so that they stand still while their values change."""


@dataclass(frozen=True)
class NetName:
    """The name of a pin, a supply or a wire, at one of some spots; `rank` tells pins of one name apart."""

    kind: str
    name: str
    spots: tuple[Spot, ...]
    bold: bool = True
    rank: int = 0

    @cached_property
    def item(self) -> Item:
        """As Writing has it."""
        size = (width(self.name, NAME, self.bold), line_height(NAME))
        return Item(key_of(self.kind, (self.name, self.rank)), (size,), self.spots)

    def paint(self, brush: Brush, place: Place) -> None:
        """As Writing has it."""
        left, _, _, bottom = place.box
        brush.text(QPointF(left, bottom - 4), self.name, "ink", bold=self.bold, size=NAME)

    def boxes(self, place: Place) -> list[QRectF]:
        """As Writing has it."""
        return [rect(place)]


@dataclass(frozen=True)
class Tag:
    """The voltage of a net; `shown` is what the net is called in the results."""

    net: str
    shown: str
    spots: tuple[Spot, ...]

    @cached_property
    def item(self) -> Item:
        """As Writing has it."""
        return Item(key_of("tag", self.net), ((width(WIDEST, FIGURES, figures=True) + 8, TAG_HEIGHT),), self.spots)

    def paint(self, brush: Brush, place: Place) -> None:
        """As Writing has it."""
        volts = brush.look.point.voltage(self.shown) if brush.look.point is not None else None
        if volts is None:
            return
        text, box, painter = write(volts if abs(volts) > NOTHING else 0.0, "V", 4), rect(place), brush.painter
        wide = width(text, FIGURES, figures=True) + 14
        across = self.item.spots[place.spot].across
        box = QRectF(box.left() + across * (box.width() - wide), box.top(), wide, box.height())
        painter.setPen(QPen(theme.color(brush.live_role), 1))
        painter.setBrush(theme.color("paper"))
        painter.drawRoundedRect(box, TAG_HEIGHT / 2, TAG_HEIGHT / 2)
        painter.setFont(figure_font(FIGURES))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

    def boxes(self, place: Place) -> list[QRectF]:
        """As Writing has it."""
        return [rect(place)]
