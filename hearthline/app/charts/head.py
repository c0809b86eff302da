"""The head of a strip: a title for each of its watches, which can be dragged to another strip, and a note."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QApplication, QHBoxLayout, QSizePolicy, QWidget

from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import clear
from hearthline.app.theme.fonts import text_font


class WatchTitle(Label):
    """`clicked` for its menu; `dragged(global place)` while it is drawn along, `dropped(global place)` where it is let go."""

    clicked = pyqtSignal(QPoint)
    dragged = pyqtSignal(QPoint)
    dropped = pyqtSignal(QPoint)

    def __init__(self, text: str, tip: str) -> None:
        super().__init__(text)
        self.setFont(text_font(12, bold=True))
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setToolTip(tip)
        self.setAccessibleName(f"watch {text}")
        self.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Preferred)
        self._pressed: QPoint | None = None
        self._dragging = False

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """A click or the begin of a drag."""
        self._pressed, self._dragging = event.globalPosition().toPoint(), False

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drags beyond the usual distance."""
        place = event.globalPosition().toPoint()
        if self._pressed is not None and not self._dragging:
            self._dragging = (place - self._pressed).manhattanLength() > QApplication.startDragDistance()
        if self._dragging:
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
            self.dragged.emit(place)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Lets go."""
        place = event.globalPosition().toPoint()
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        if self._dragging:
            self.dropped.emit(place)
        elif self._pressed is not None:
            self.clicked.emit(self.mapToGlobal(self.rect().bottomLeft()))
        self._pressed, self._dragging = None, False


class StripHead(QWidget):
    """The titles in a row, the note at the right."""

    clicked = pyqtSignal(int, QPoint)
    dragged = pyqtSignal(QPoint)
    dropped = pyqtSignal(int, QPoint)
    doubled = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setToolTip("A double click makes the strip large, or lets the others back")
        self.titles: list[WatchTitle] = []
        self.note = Label()
        self.note.setProperty("quiet", True)
        self.note.setFont(text_font(11))
        self.note.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.note.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.row = QHBoxLayout()
        self.row.setSpacing(10)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(14, 0, 12, 0)
        layout.addLayout(self.row)
        layout.addWidget(self.note, 1)

    def show_titles(self, titles: list[tuple[str, str, str]]) -> None:
        """(text, tip, colour) of each watch; no colour where there is one alone."""
        clear(self.row)
        self.titles = []
        for k, (text, tip, color) in enumerate(titles):
            title = WatchTitle(text, tip)
            if color:
                title.setStyleSheet(f"color: {color}")
            title.clicked.connect(lambda place, k=k: self.clicked.emit(k, place))
            title.dragged.connect(self.dragged)
            title.dropped.connect(lambda place, k=k: self.dropped.emit(k, place))
            self.titles.append(title)
            self.row.addWidget(title)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Large, or as it was."""
        self.doubled.emit()

    def set_note(self, text: str) -> None:
        """What stands at the right."""
        self.note.setText(text)
