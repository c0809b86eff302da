"""Where the shelf stands: beside the desk where it is kept, else a rail, with the shelf over the desk while it is in use."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QPoint, QRect, QTimer
from PyQt6.QtGui import QCursor, QResizeEvent
from PyQt6.QtWidgets import QApplication, QHBoxLayout, QWidget

from hearthline.app.panels.shelf import Shelf
from hearthline.app.panels.shelf_rail import ShelfRail
from hearthline.app.state.desk import Desk
from hearthline.app.state.memory import Memory

WIDE = 1600
"""From which width the shelf stands open where nothing else is remembered."""

LINGER = 350
"""How long the shelf waits for the pointer to come back [ms]."""


class ShelfHolder(QWidget):
    """Rail or shelf at the left, the `content` beside it."""

    def __init__(self, desk: Desk, memory: Memory, shelf: Shelf, content: QWidget) -> None:
        super().__init__()
        self.desk, self.memory, self.shelf = desk, memory, shelf
        self.content = content
        self.rail, self.slot = ShelfRail(), QWidget()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.rail)
        row.addWidget(self.slot)
        row.addWidget(content, 1)
        shelf.setParent(self)
        self._linger = QTimer(self, singleShot=True, interval=LINGER)
        self._linger.timeout.connect(self._put_away)
        self.rail.wanted.connect(self.open_shelf)
        self.rail.left.connect(self._linger.start)
        shelf.pin_wanted.connect(self.pin_shelf)
        shelf.done.connect(self._done)
        QApplication.instance().focusChanged.connect(self._follow_focus)
        desk.project_changed.connect(self._recall)
        self.pin_shelf(False, remember=False)

    def _recall(self) -> None:
        """As it stood in this project the last time; open in a wide window."""
        usual = self.width() >= WIDE
        self.pin_shelf(bool(self.memory.get("shelf kept", usual, self._project)), remember=False)

    @property
    def _project(self) -> Path | None:
        return self.desk.project.folder if self.desk.project else None

    def pin_shelf(self, pinned: bool, remember: bool = True) -> None:
        """Keeps the shelf beside the drawing, or lets it come and go."""
        self.shelf.pin.setChecked(pinned)
        self.slot.setFixedWidth(self.shelf.width() if pinned else 0)
        self.rail.setVisible(not pinned)
        self.shelf.setVisible(pinned)
        self._place_shelf()
        if remember:
            self.memory.put("shelf kept", pinned, self._project)

    @property
    def shelf_kept(self) -> bool:
        """Whether the shelf stands beside the drawing."""
        return self.shelf.pin.isChecked()

    def open_shelf(self) -> None:
        """Over the drawing, until the pointer leaves it."""
        self._linger.stop()
        self._place_shelf()
        self.shelf.show()
        self.shelf.raise_()
        self._linger.start()

    def toggle_shelf(self) -> None:
        """By a key: it stays until the key comes again, and takes the keys."""
        if self.shelf.isVisible():
            self.pin_shelf(False)
            self.shelf.hide()
            return
        self.open_shelf()
        self._linger.stop()
        self.shelf.filter.setFocus()

    def _done(self) -> None:
        """What was wanted is there; the keys go back to the desk."""
        if not self.shelf_kept:
            self.shelf.hide()
        self.content.setFocus()

    def _follow_focus(self, before: QWidget | None, now: QWidget | None) -> None:
        """Whoever goes on elsewhere needs the shelf no longer."""
        if self.shelf.isVisible() and not self.shelf_kept and now is not None and not self.shelf.isAncestorOf(now):
            self._linger.start()

    def _put_away(self) -> None:
        if self.shelf_kept or not self.shelf.isVisible():
            return
        at = self.mapFromGlobal(QCursor.pos())
        near = QRect(QPoint(0, 0), self.shelf.geometry().bottomRight()).contains(at)
        if near or self.shelf.isAncestorOf(QApplication.focusWidget()) or QApplication.activePopupWidget() is not None:
            self._linger.start()
        else:
            self.shelf.hide()

    def _place_shelf(self) -> None:
        left = 0 if self.shelf_kept else self.rail.width()
        self.shelf.setGeometry(left, 0, self.shelf.width(), self.height())

    def resizeEvent(self, event: QResizeEvent) -> None:
        """The shelf is as high as the room."""
        self._place_shelf()
