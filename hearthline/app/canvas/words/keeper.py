"""Keeps the places of words from one painting to the next, and where each stood before."""

from __future__ import annotations

from collections.abc import Hashable

from PyQt6.QtCore import QRectF

from hearthline.app.canvas.brush import Look, View
from hearthline.app.canvas.scene import Scene
from hearthline.app.canvas.words.layout import Layout, layout_of, with_currents

WORDS_FROM, FEW, FEW_FROM = 5.0, 80, 2.2
"""From which scale words are written [pixels a grid step], and from which where there are few parts."""

EDGE = 6.0
MANY, AROUND = 150, 0.4
"""Parts from which only what can be seen is placed, with a share of the window around it."""


class WordsKeeper:
    """Layouts of one drawing."""

    def __init__(self) -> None:
        self._key: Hashable = None
        self._layout: Layout | None = None
        self._before: dict[Hashable, int] = {}
        self._room: QRectF | None = None
        self._picked: tuple[frozenset[str], Layout] | None = None

    def layout(self, scene: Scene, view: View, window: QRectF, look: Look, fitted: bool) -> Layout | None:
        """The words in a window of the screen, or all of a `fitted` circuit; None where there is no room for any."""
        scale, parts = view.scale, len(scene.cell.parts)
        if scale < (FEW_FROM if parts <= FEW else WORDS_FROM):
            return None
        seen = window.translated(-view.x, -view.y)
        paper = _paper(seen) if fitted else None
        key = (scene.cell, id(scene.ink), scale, _shape_of(look), paper)
        if key != self._key or not (self._room is None or self._room.contains(seen)):
            self._room = None
            if parts > MANY:
                dx, dy = AROUND * seen.width(), AROUND * seen.height()
                self._room = seen.adjusted(-dx, -dy, dx, dy)
            self._layout = layout_of(scene, scale, look, self._before, self._room, paper)
            self._key = key
            self._before = {**self._before, **self._layout.spots} if self._room else self._layout.spots
            self._picked = None
        if not look.picked.parts or look.point is None:
            return self._layout
        if self._picked is None or self._picked[0] != look.picked.parts:
            self._picked = look.picked.parts, with_currents(self._layout, scene, scale, look, paper)
        return self._picked[1]

    def share(self, scene: Scene, view: View, window: QRectF, look: Look) -> float:
        """How many of the gauges a fitted circuit would show in a view."""
        if view.scale < FEW_FROM:
            return 0.0
        paper = _paper(window.translated(-view.x, -view.y))
        return layout_of(scene, view.scale, look, None, None, paper).share

    def forget(self) -> None:
        """Another cell is shown."""
        self._key, self._before = None, {}


def _paper(seen: QRectF) -> tuple[float, float, float, float]:
    """What words may cover: not the very edge."""
    return seen.adjusted(EDGE, EDGE, -EDGE, -EDGE).getCoords()


def _shape_of(look: Look) -> Hashable:
    """Of what is shown, all that places depend on; values do not count, only which there are."""
    point = look.point.shape if look.point is not None else None
    prefix = look.instance.prefix if look.instance is not None else ""
    return look.lit_net, look.trouble, prefix, point, look.watched, tuple(sorted(look.columns.items()))
