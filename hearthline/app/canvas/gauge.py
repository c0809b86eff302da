"""The MOS gauge: two bars under a transistor's name. Left: weak, moderate, strong inversion. Right: saturation margin."""

from __future__ import annotations

import math

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter, QPen

from hearthline.app.state.values import Quantity, overdrive, saturation_role
from hearthline.app.theme.theme import theme

WEAK_BELOW, STRONG_ABOVE, FULL = 0.0, 0.2, 0.6
"""Overdrive [V] at which the left bar passes from weak to moderate to strong, and where it is full. A level-1 device has
no weak inversion, so its overdrive stands for the level: strong from some 2·n·vt·sqrt(10) on (common practice)."""

MARGIN_FULL = 0.5
LEFT_SHARE, GAP = 0.62, 6.0


def inversion_share(volts: float) -> float:
    """How much of the left bar is filled at an overdrive [V]."""
    if math.isnan(volts):
        return 0.0
    if volts < WEAK_BELOW:
        return max(0.0, (1 + volts / 0.15) / 3)
    if volts < STRONG_ABOVE:
        return (1 + volts / STRONG_ABOVE) / 3
    return min(1.0, (2 + (volts - STRONG_ABOVE) / (FULL - STRONG_ABOVE)) / 3)


def paint_gauge(painter: QPainter, box: QRectF, values: dict[str, Quantity]) -> None:
    """Draws both bars into `box`."""
    left = QRectF(box.left(), box.top(), box.width() * LEFT_SHARE - GAP / 2, box.height())
    right = QRectF(left.right() + GAP, box.top(), box.width() * (1 - LEFT_SHARE) - GAP / 2, box.height())
    _bar(painter, left, inversion_share(overdrive(values)), "teal")
    painter.setPen(QPen(theme.color("quiet"), 1))
    for share in (1 / 3, 2 / 3):
        x = left.left() + share * left.width()
        painter.drawLine(int(x), int(left.top()) - 1, int(x), int(left.bottom()) + 1)
    margin = values["sat"].value if values["region"].value else 0.0
    _bar(painter, right, min(1.0, abs(margin) / MARGIN_FULL), saturation_role(values))


def _bar(painter: QPainter, box: QRectF, share: float, role: str) -> None:
    radius = box.height() / 2
    painter.setPen(QPen(theme.color("line"), 1))
    painter.setBrush(theme.color("panel"))
    painter.drawRoundedRect(box, radius, radius)
    if share > 0:
        painter.setPen(QPen(theme.color(role), 0))
        painter.setBrush(theme.color(role))
        painter.drawRoundedRect(
            QRectF(box.left(), box.top(), max(box.height(), box.width() * share), box.height()), radius, radius
        )
