"""Currents at the terminals of what is selected: they take what room is left, and move nothing."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from PyQt6.QtCore import QPointF, QRectF

from hearthline.app.canvas.brush import Brush, Look
from hearthline.app.canvas.scene import Scene
from hearthline.app.canvas.words.writing import key_of, rect, width
from hearthline.app.state.values import terminal_currents
from hearthline.app.theme.fonts import figure_font
from hearthline.app.theme.theme import theme
from hearthline.core.places import Box, Item, Place, Spot, arranged
from hearthline.core.quantity import write

SIZE, HEIGHT = 10, 14.0
WIDEST = "→ 000.0 µA"


@dataclass(frozen=True)
class CurrentWords:
    """The current into a terminal whose place is `at` [px]; the body of its part lies towards `inward`."""

    part: str
    terminal: str
    at: tuple[float, float]
    inward: tuple[int, int]

    @cached_property
    def item(self) -> Item:
        """As Writing has it."""
        x, y = self.at
        across = -1 if self.inward[0] > 0 else 1
        down = 1 if self.inward[1] < 0 or self.inward[0] != 0 else -1
        spots = []
        for reach in (0.0, 14.0, 28.0):
            for rank, (dx, dy) in enumerate(((across, down), (across, -down), (-across, down), (-across, -down))):
                at = x + dx * (8 + reach), y + dy * (5 + reach / 2)
                spots.append(Spot(*at, 0.5 - 0.5 * dx, 0.5 - 0.5 * dy, 3.0 * rank + reach))
        size = width(WIDEST, SIZE, figures=True) + 4, HEIGHT
        return Item(key_of("current", (self.part, self.terminal)), (size,), tuple(spots))

    def paint(self, brush: Brush, place: Place) -> None:
        """As Writing has it."""
        current = currents_of(brush.look, self.part, brush.scene).get(self.terminal)
        if current is None:
            return
        text = f"{'→' if current >= 0 else '←'} {write(abs(current), 'A', 3)}"
        box = rect(place)
        left = box.left() + self.item.spots[place.spot].across * (box.width() - width(text, SIZE, figures=True))
        brush.painter.fillRect(box, theme.color("paper", 220))
        brush.text(QPointF(left, box.bottom() - 3), text, brush.live_role, font=figure_font(SIZE))

    def boxes(self, place: Place) -> list[QRectF]:
        """As Writing has it."""
        return [rect(place)]


def currents_of(look: Look, name: str, scene: Scene) -> dict[str, float]:
    """Currents [A] into the terminals of a selected part, by terminal."""
    if look.point is None or look.instance is None:
        return {}
    places = scene.terminals.get(name, {})
    found = look.pin_currents.get(name)
    if found is None:
        found = terminal_currents(look.point.part(look.instance.part(name)), places)
    lower = {key.lower(): value for key, value in found.items()}
    return {terminal: lower[terminal.lower()] for terminal in places if terminal.lower() in lower}


def placed_currents(
    scene: Scene, scale: float, look: Look, bodies: np.ndarray, wires: np.ndarray, paper: Box | None
) -> list[tuple[CurrentWords, Place]]:
    """Those of all selected parts, with `bodies` that hold all other words too."""
    words = list(_wanted(scene, scale, look))
    places = arranged([one.item for one in words], bodies, wires, None, paper)
    return [(one, places[one.item.key]) for one in words]


def _wanted(scene: Scene, scale: float, look: Look) -> Iterator[CurrentWords]:
    for part in scene.cell.parts:
        if part.name in look.picked.parts and part.name not in scene.unknown:
            known = currents_of(look, part.name, scene)
            for terminal, (x, y) in scene.terminals[part.name].items():
                if terminal in known:
                    dx, dy = part.at[0] - x, part.at[1] - y
                    inward = (
                        ((dx > 0) - (dx < 0), 0) if abs(dx) > abs(dy) else ((dx > 0) - (dx < 0), (dy > 0) - (dy < 0))
                    )
                    yield CurrentWords(part.name, terminal, (x * scale, y * scale), inward)
