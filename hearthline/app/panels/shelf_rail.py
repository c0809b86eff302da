"""The shelf when it is not in use: a rail of marks, which opens it on pointing."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QAbstractButton, QVBoxLayout, QWidget

from hearthline.app.theme.theme import theme

WIDTH = 38


class Mark(QAbstractButton):
    """One sign of the rail, drawn in ink: `kit`, `cells`, `benches` or `runs`."""

    def __init__(self, kind: str, tip: str) -> None:
        super().__init__()
        self.kind = kind
        self.setToolTip(tip)
        self.setAccessibleName(tip)
        self.setFixedSize(QSize(WIDTH - 1, 34))
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        theme.changed.connect(self.update)

    def paintEvent(self, event: QPaintEvent) -> None:
        """A wafer, a box with leads, a gauge, or entries below each other."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        lit = self.underMouse() or self.hasFocus()
        painter.setPen(QPen(theme.color("teal" if lit else "quiet"), 1.5))
        painter.translate(self.width() / 2, self.height() / 2)
        MARKS[self.kind](self, painter)

    def _kit(self, painter: QPainter) -> None:
        painter.drawArc(QRectF(-8, -8, 16, 16), -60 * 16, 300 * 16)
        painter.drawLine(QPointF(4, 6.9), QPointF(-4, 6.9))
        painter.drawLine(QPointF(-7, 0), QPointF(7, 0))
        painter.drawLine(QPointF(0, -7), QPointF(0, 6.5))

    def _cells(self, painter: QPainter) -> None:
        painter.drawRect(QRectF(-5, -5, 10, 10))
        for y in (-2.5, 2.5):
            painter.drawLine(QPointF(-9, y), QPointF(-5, y))
        painter.drawLine(QPointF(5, 0), QPointF(9, 0))

    def _benches(self, painter: QPainter) -> None:
        painter.drawArc(QRectF(-8, -6, 16, 16), 0, 180 * 16)
        painter.drawLine(QPointF(-8, 2), QPointF(8, 2))
        painter.drawLine(QPointF(0, 2), QPointF(4, -3))

    def _runs(self, painter: QPainter) -> None:
        for k, y in enumerate((-5.0, 0.0, 5.0)):
            painter.drawEllipse(QPointF(-6, y), 1.2, 1.2)
            painter.drawLine(QPointF(-2, y), QPointF(8 - 2 * k, y))


MARKS = {"kit": Mark._kit, "cells": Mark._cells, "benches": Mark._benches, "runs": Mark._runs}


class ShelfRail(QWidget):
    """`wanted` when the shelf should open."""

    wanted = pyqtSignal()
    left = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("shelf")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(WIDTH)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 10, 0, 10)
        column.setSpacing(4)
        tips = {"kit": "process kit and device texts", "cells": "cells", "benches": "benches", "runs": "runs"}
        self.marks = [Mark(kind, f"{tip}: opens the shelf") for kind, tip in tips.items()]
        for mark in self.marks:
            mark.clicked.connect(lambda _=False: self.wanted.emit())
            column.addWidget(mark)
        column.addStretch()

    def enterEvent(self, event) -> None:
        """Pointing opens it."""
        self.wanted.emit()

    def leaveEvent(self, event) -> None:
        """The pointer has gone, perhaps onto the shelf."""
        self.left.emit()
