"""Add or find anything: type, choose with the arrows, Return."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtCore import QEvent, QModelIndex, QObject, QPoint, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import (
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from hearthline.app.panels.overlay import Overlay
from hearthline.app.theme.fonts import text_font
from hearthline.app.theme.theme import theme

LIST_HEIGHT, ROW_HEIGHT, WIDTH = 340, 26, 440
RECENT = 12
"""Entries that were taken last and come before others that fit as well."""

KINDS = ("value", "place", "part", "pin", "cell", "bench", "analysis", "reading", "study", "model", "command")
"""Groups, in the order in which entries stand that fit as well."""


@dataclass(frozen=True)
class Entry:
    """Something that can be found: its name, its `kind`, more words about it, and what it does."""

    text: str
    kind: str
    what: str
    action: Callable[[], None]

    @property
    def key(self) -> tuple[str, str]:
        """What it is remembered by."""
        return self.kind, self.text


def rank(entry: Entry, typed: str, recent: list[tuple[str, str]]) -> tuple:
    """Entries of lower rank stand first: the exact name, then its beginning, then the beginning of a word in it, then the rest;
    among equals those that were taken last, then by kind."""
    name, words = entry.text.lower(), typed.split()
    rest = (
        " ".join(word for word in words if not entry.kind.startswith(word)) or typed
    )  # `resistor place` is one to place
    begins = all(any(part.startswith(word) for part in name.split()) for word in rest.split())
    quality = 0 if name in (typed, rest) else 1 if name.startswith((typed, rest)) else 2 if begins else 3
    age = recent.index(entry.key) if entry.key in recent else RECENT
    kind = KINDS.index(entry.kind) if entry.kind in KINDS else len(KINDS)
    return (quality if typed else 0, age, kind)


class _Line(QStyledItemDelegate):
    """The name in ink, what it is in quiet ink at the right, its kind before it."""

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        """One line."""
        return QSize(100, ROW_HEIGHT)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        """Kind, name, what."""
        kind, name, what = index.data(Qt.ItemDataRole.UserRole)
        box = QRectF(option.rect).adjusted(8, 0, -8, 0)
        painter.save()
        if option.state & QStyle.StateFlag.State_Selected:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.color("teal_wash"))
            painter.drawRoundedRect(QRectF(option.rect), 4, 4)
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.setFont(text_font(11))
        painter.setPen(theme.color("quiet"))
        painter.drawText(box, middle, kind)
        painter.setFont(text_font(13))
        painter.setPen(theme.color("ink"))
        left = box.adjusted(62, 0, 0, 0)
        name = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, int(left.width()))
        painter.drawText(left, middle, name)
        rest = left.adjusted(painter.fontMetrics().horizontalAdvance(name) + 14, 0, 0, 0)
        painter.setFont(text_font(11))
        painter.setPen(theme.color("quiet"))
        what = painter.fontMetrics().elidedText(what, Qt.TextElideMode.ElideRight, max(0, int(rest.width())))
        painter.drawText(rest, middle | Qt.AlignmentFlag.AlignRight, what)
        painter.restore()


class Search(Overlay):
    """`entries` gives all there is, `typed` what a text by itself may mean."""

    def __init__(
        self, parent: QWidget, entries: Callable[[], list[Entry]], typed: Callable[[str], list[Entry]] = lambda text: []
    ) -> None:
        super().__init__(parent)
        self._entries, self._typed = entries, typed
        self._found: list[Entry] = []
        self._all: list[Entry] = []
        self.recent: list[tuple[str, str]] = []
        self.field = QLineEdit()
        self.field.setPlaceholderText(
            "what to place or find: parts, cells, nets, commands; a value for what is selected"
        )
        self.field.setAccessibleName("find")
        self.list = QListWidget()
        self.list.setFont(text_font())
        self.list.setItemDelegate(_Line(self.list))
        self.list.setAccessibleName("what was found")
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 8, 8, 8)
        layout.addWidget(self.field)
        layout.addWidget(self.list)
        self.resize(WIDTH, LIST_HEIGHT)
        self.field.textChanged.connect(self._filter)
        self.field.installEventFilter(self)
        self.list.itemClicked.connect(lambda item: self._do(self.list.row(item)))

    def open_at(self, place: QPoint) -> None:
        """Opens with its corner near `place`, inside the window."""
        room = self.parentWidget().rect()
        x = max(8, min(place.x(), room.width() - self.width() - 8))
        y = max(8, min(place.y(), room.height() - LIST_HEIGHT - 8))
        self.move(x, y)
        self._all = self._entries()
        self.field.clear()
        self._filter("")
        self.show()
        self.raise_()
        self.field.setFocus()

    def _filter(self, text: str) -> None:
        typed = text.lower().strip()
        words = typed.split()
        found = [e for e in self._all if all(word in f"{e.text} {e.kind} {e.what}".lower() for word in words)]
        self._found = [*self._typed(text.strip()), *sorted(found, key=lambda e: rank(e, typed, self.recent))]
        self.list.clear()
        for entry in self._found or [Entry("nothing of that name", "", "try a part, a net or a command", lambda: None)]:
            item = QListWidgetItem(f"{entry.kind} {entry.text} {entry.what}")
            item.setData(Qt.ItemDataRole.UserRole, (entry.kind, entry.text, entry.what))
            self.list.addItem(item)
        self.list.setCurrentRow(0)
        self.resize(self.width(), min(LIST_HEIGHT, 64 + ROW_HEIGHT * self.list.count()))

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Arrows and Return in the field work on the list."""
        if watched is self.field and event.type() == QEvent.Type.KeyPress:
            if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
                step = 1 if event.key() == Qt.Key.Key_Down else -1
                self.list.setCurrentRow(max(0, min(self.list.count() - 1, self.list.currentRow() + step)))
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._do(self.list.currentRow())
                return True
        return super().eventFilter(watched, event)

    def _do(self, row: int) -> None:
        if 0 <= row < len(self._found):
            entry = self._found[row]
            if entry.kind != "value":
                self.recent = [entry.key, *(key for key in self.recent if key != entry.key)][:RECENT]
            self.put_away()
            entry.action()
