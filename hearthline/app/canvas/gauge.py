"""Gauges under the name of a device: how hard it is driven at the left, how far from trouble at the right."""

from __future__ import annotations

import math
from dataclasses import dataclass

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter, QPen

from hearthline.app.state.values import SMALL_SATURATION_MARGIN, Quantity, overdrive, saturation_role
from hearthline.app.theme.theme import theme

WEAK_BELOW, STRONG_ABOVE, FULL = 0.0, 0.2, 0.6
"""Overdrive [V] at which the left bar passes from weak to moderate to strong, and where it is full. A level-1 device has
no weak inversion, so its overdrive stands for the level: strong from some 2·n·vt·sqrt(10) on (common practice)."""

JUNCTION_ON, JUNCTION_HARD, JUNCTION_FULL = 0.45, 0.75, 0.9
"""Voltages [V] of a silicon junction between off, conducting and hard driven, for the eye only (common practice)."""

EDGE_OF_SATURATION = 0.2
"""Collector-emitter voltage [V] under which a bipolar transistor saturates (common practice)."""

MARGIN_FULL = 0.5
LEFT_SHARE, GAP = 0.62, 6.0


@dataclass(frozen=True)
class Gauge:
    """How full the left bar is, and the right one with its palette role; ticks divide the left bar in three."""

    drive: float
    margin: float
    role: str


def gauge_of(values: dict[str, Quantity]) -> Gauge | None:
    """The gauge of a device from its operating point: field-effect, bipolar or diode; None for others."""
    if "vdsat" in values and "vth" in values:
        on = values["region"].value if "region" in values else 1.0
        margin = values["sat"].value if on else 0.0
        drive = inversion_of(values["ic"].value) if "ic" in values else inversion_share(overdrive(values))
        return Gauge(drive, min(1.0, abs(margin) / MARGIN_FULL), saturation_role(values))
    if "vbe" in values and "vce" in values:
        margin = abs(values["vce"].value) - EDGE_OF_SATURATION
        role = _margin_role(margin) if values["region"].value else "quiet"
        return Gauge(junction_share(abs(values["vbe"].value)), min(1.0, abs(margin) / MARGIN_FULL), role)
    if "vd" in values and "gd" in values:
        volts = values["vd"].value
        reverse = min(1.0, max(0.0, -volts) / 5.0)
        return Gauge(junction_share(volts), reverse, "quiet" if volts >= 0 else "amber")
    return None


def _margin_role(margin: float) -> str:
    return "ember" if margin < 0 else "amber" if margin < SMALL_SATURATION_MARGIN else "moss"


def inversion_of(coefficient: float) -> float:
    """How much of the left bar is filled at an inversion coefficient: a third at 0.1, two thirds at 10 (Enz and Vittoz)."""
    return min(1.0, max(0.0, (math.log10(coefficient) + 3) / 6)) if coefficient > 0 else 0.0


def inversion_share(volts: float) -> float:
    """How much of the left bar is filled at an overdrive [V]."""
    if math.isnan(volts):
        return 0.0
    if volts < WEAK_BELOW:
        return max(0.0, (1 + volts / 0.15) / 3)
    if volts < STRONG_ABOVE:
        return (1 + volts / STRONG_ABOVE) / 3
    return min(1.0, (2 + (volts - STRONG_ABOVE) / (FULL - STRONG_ABOVE)) / 3)


def junction_share(volts: float) -> float:
    """How much of the left bar is filled at a junction voltage [V], forward positive."""
    if not volts > 0:
        return 0.0
    if volts < JUNCTION_ON:
        return volts / JUNCTION_ON / 3
    if volts < JUNCTION_HARD:
        return (1 + (volts - JUNCTION_ON) / (JUNCTION_HARD - JUNCTION_ON)) / 3
    return min(1.0, (2 + (volts - JUNCTION_HARD) / (JUNCTION_FULL - JUNCTION_HARD)) / 3)


def paint_gauge(painter: QPainter, box: QRectF, gauge: Gauge, stale: bool = False) -> None:
    """Draws both bars into `box`."""
    left = QRectF(box.left(), box.top(), box.width() * LEFT_SHARE - GAP / 2, box.height())
    right = QRectF(left.right() + GAP, box.top(), box.width() * (1 - LEFT_SHARE) - GAP / 2, box.height())
    _bar(painter, left, gauge.drive, "ash" if stale else "teal")
    painter.setPen(QPen(theme.color("quiet"), 1))
    for share in (1 / 3, 2 / 3):
        x = left.left() + share * left.width()
        painter.drawLine(int(x), int(left.top()) - 1, int(x), int(left.bottom()) + 1)
    _bar(painter, right, gauge.margin, "ash" if stale else gauge.role)


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
