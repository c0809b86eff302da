"""The marks that say in shape what colour says too: triangle fails, diamond close, disc holds, ring with a point aimed at,
ring not run."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from hearthline.app.theme.theme import theme
from hearthline.core.bench.verdict import State

ROLES = {State.FAILS: "ember", State.CLOSE: "amber", State.HOLDS: "ash", State.AIMED: "ash", State.UNKNOWN: "line"}
TEXT_ROLES = {
    State.FAILS: "ember_ink",
    State.CLOSE: "amber_ink",
    State.HOLDS: "quiet",
    State.AIMED: "quiet",
    State.UNKNOWN: "quiet",
}
WARMTH = {State.FAILS: 2, State.CLOSE: 1, State.HOLDS: 0, State.AIMED: 0, State.UNKNOWN: -1}


def draw_mark(painter: QPainter, state: State, middle: QPointF, size: float = 8.0) -> None:
    """The mark of `state` around `middle`, `size` pixels high."""
    half = size / 2
    x, y = middle.x(), middle.y()
    painter.save()
    color = theme.color("quiet" if state in (State.HOLDS, State.AIMED) else ROLES[state])
    painter.setPen(QPen(color, 1.2))
    painter.setBrush(color)
    if state is State.FAILS:
        painter.drawPolygon(QPolygonF([QPointF(x, y - half), QPointF(x + half, y + half), QPointF(x - half, y + half)]))
    elif state is State.CLOSE:
        corners = [QPointF(x, y - half), QPointF(x + half, y), QPointF(x, y + half), QPointF(x - half, y)]
        painter.drawPolygon(QPolygonF(corners))
    else:
        if state in (State.UNKNOWN, State.AIMED):
            painter.setBrush(theme.color("paper", 0))
        if state is State.AIMED:
            painter.drawPoint(middle)
        painter.drawEllipse(QRectF(x - half + 0.5, y - half + 0.5, size - 1, size - 1))
    painter.restore()
