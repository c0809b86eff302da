"""Zoom and pan of a strip: a box by the left button, the wheel along the axis (with Ctrl across it), the middle button pans."""

from __future__ import annotations

import time

import pyqtgraph as pg
from PyQt6.QtCore import QRectF, Qt, pyqtSignal

WHEEL_STEP = 1.0015
ONE_TURN = 0.5
"""Seconds within which turns of the wheel are one step back."""
SMALLEST = 6
"""Pixels that a box must have to be meant."""


class StripBox(pg.ViewBox):
    """`zooming` before each change of the range by hand, `fit_wanted` on a double click, `menu_wanted` on the right button."""

    zooming = pyqtSignal()
    fit_wanted = pyqtSignal()
    menu_wanted = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__(enableMenu=False)
        self.setMouseMode(self.RectMode)
        self._turned = 0.0

    def wheelEvent(self, event, axis=None) -> None:
        """Zooms about the pointer."""
        now = time.monotonic()
        if now - self._turned > ONE_TURN:
            self.zooming.emit()
        self._turned = now
        factor = WHEEL_STEP ** -event.delta()
        across = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        center = self.mapSceneToView(event.scenePos())
        if across or axis == 1:
            self.scaleBy(y=factor, center=center)
        else:
            self.scaleBy(x=factor, center=center)
        event.accept()

    def mouseDragEvent(self, event, axis=None) -> None:
        """Draws the box, or pans."""
        if event.button() == Qt.MouseButton.MiddleButton:
            if event.isStart():
                self.zooming.emit()
            moved = self.mapToView(event.lastPos()) - self.mapToView(event.pos())
            self.translateBy(moved)
            event.accept()
            return
        if event.button() != Qt.MouseButton.LeftButton:
            return
        event.accept()
        box = QRectF(event.buttonDownPos(), event.pos()).normalized()
        if not event.isFinish():
            self.updateScaleBox(event.buttonDownPos(), event.pos())
            return
        self.rbScaleBox.hide()
        if box.width() < SMALLEST and box.height() < SMALLEST:
            return
        self.zooming.emit()
        view = self.childGroup.mapRectFromParent(box)
        if box.width() >= SMALLEST:
            self.setXRange(view.left(), view.right(), padding=0)
        if box.height() >= SMALLEST:
            self.setYRange(view.top(), view.bottom(), padding=0)

    def mouseClickEvent(self, event) -> None:
        """The right button asks for the menu."""
        if event.button() == Qt.MouseButton.RightButton:
            event.accept()
            self.menu_wanted.emit(event.screenPos())

    def mouseDoubleClickEvent(self, event) -> None:
        """Everything again."""
        self.fit_wanted.emit()
        event.accept()
