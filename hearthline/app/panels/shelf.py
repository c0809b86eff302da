"""The shelf: what there is. Process kit and its devices, cells with their benches, benches with their runs."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QContextMenuEvent, QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLineEdit, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from hearthline.app.panels.rows import chip, clear, heading, offer, quiet
from hearthline.app.panels.shelf_items import Action, Doings, Item, ShelfItems, matching
from hearthline.app.state.desk import Desk
from hearthline.app.state.memory import Memory
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.marks import draw_mark
from hearthline.app.theme.theme import theme

WIDTH, INDENT = 236, 14
MOVES = {Qt.Key.Key_Up: "Up on the shelf", Qt.Key.Key_Down: "Down on the shelf"}
"""What Alt and an arrow do with a cell."""


class Row(QWidget):
    """Paints one item; the current one has a teal edge. Return does what a click does, the menu key what a right click
    does, Alt with an arrow moves a cell."""

    chosen = pyqtSignal()

    def __init__(self, item: Item) -> None:
        super().__init__()
        self.item = item
        self.hovered = False
        self.setFixedHeight(21 if item.tiny or item.heading else 24)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setToolTip(item.tip)
        self.setAccessibleName(f"{item.text}, current" if item.current else item.text)
        if item.pressed:
            self.setCursor(Qt.CursorShape.PointingHandCursor)
            self.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def enterEvent(self, event) -> None:
        """Lifts the row."""
        self.hovered = True
        self.update()

    def leaveEvent(self, event) -> None:
        """Puts it back."""
        self.hovered = False
        self.update()

    def focusInEvent(self, event: QFocusEvent) -> None:
        """Shows where the keys go."""
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """No longer."""
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Does what the item is for."""
        if self.item.pressed and event.button() == Qt.MouseButton.LeftButton:
            self.item.pressed()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Up and down along the rows; Return; the menu."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.item.pressed:
            stays = self.item.stays
            self.item.pressed()
            if not stays:
                self.chosen.emit()
        elif event.key() in MOVES and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            next((action for text, action in self.item.menu if text == MOVES[event.key()]), lambda: None)()
        elif event.key() == Qt.Key.Key_Down:
            self.focusNextChild()
        elif event.key() == Qt.Key.Key_Up:
            self.focusPreviousChild()
        else:
            super().keyPressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """What else can be done with it."""
        if self.item.menu:
            offer(self, self.item.menu)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Edge, text, side text or mark."""
        painter, item = QPainter(self), self.item
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        indent = INDENT * item.depth
        box = QRectF(6 + indent, 0, self.width() - 12 - indent, self.height() - 1)
        if item.current or (self.hovered and item.pressed):
            painter.setPen(theme.color("line"))
            painter.setBrush(theme.color("paper" if item.current else "raised"))
            painter.drawRoundedRect(box, 4, 4)
        if self.hasFocus():
            painter.setPen(theme.color("teal"))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box.adjusted(0.5, 0.5, -0.5, -0.5), 4, 4)
        if item.current:
            painter.fillRect(QRectF(box.left(), 2, 3, self.height() - 5), theme.color("teal"))
        right = box.right() - 8
        if item.state is not None:
            draw_mark(painter, item.state, QPointF(right - 3, box.center().y()), 8)
            right -= 14
        left = self._side_text(painter, box, right)
        if item.side and not item.tiny:
            right = min(right, left[1])
        self._text(painter, QRectF(left[0], 0, right - left[0], box.height()))

    def _side_text(self, painter: QPainter, box: QRectF, right: float) -> tuple[float, float]:
        """Writes the time, or what stands at the right; from where to where the text may go."""
        item, left = self.item, box.left() + 10
        painter.setFont(figure_font(11) if item.tiny else text_font(11))
        painter.setPen(theme.color("quiet"))
        wide = painter.fontMetrics().horizontalAdvance(item.side)
        middle = Qt.AlignmentFlag.AlignVCenter
        if item.tiny:
            painter.drawText(QRectF(left, 0, wide + 4, box.height()), middle, item.side)
            return left + wide + 8, right
        if item.side:
            own = text_font(13)
            painter.setFont(own)
            least = painter.fontMetrics().horizontalAdvance(item.text) + 10
            painter.setFont(text_font(11))
            room = max(0.0, right - left - least)
            text = painter.fontMetrics().elidedText(item.side, Qt.TextElideMode.ElideRight, int(room))
            wide = painter.fontMetrics().horizontalAdvance(text)
            painter.drawText(QRectF(right - wide, 0, wide + 2, box.height()), middle, text)
            return left, right - wide - 6
        return left, right

    def _text(self, painter: QPainter, box: QRectF) -> None:
        small = self.item.tiny or self.item.heading
        painter.setFont(text_font(11 if small else 13, self.item.heading))
        painter.setPen(theme.color("quiet" if self.item.heading else "ink"))
        text = painter.fontMetrics().elidedText(self.item.text, Qt.TextElideMode.ElideRight, int(box.width()))
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, text)


class Shelf(QFrame):
    """Follows the project, the current bench, the verdicts and the logbook. `done` when a
    row was chosen by the keys, or Escape was pressed."""

    pin_wanted = pyqtSignal(bool)
    done = pyqtSignal()

    def __init__(self, desk: Desk, doings: Doings, memory: Memory, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self._built: tuple | None = None
        self._items = ShelfItems(desk, doings, memory)
        self.setObjectName("shelf")
        self.setFixedWidth(WIDTH)
        self.filter = QLineEdit()
        self.filter.setPlaceholderText("filter")
        self.filter.setAccessibleName("filter of the shelf")
        self.filter.setClearButtonEnabled(True)
        self.filter.textChanged.connect(self._build)
        self.pin = chip(
            "keep", lambda: self.pin_wanted.emit(self.pin.isChecked()), "keeps the shelf open beside the drawing", True
        )
        self.pin.setProperty("tight", True)
        head = QHBoxLayout()
        head.setContentsMargins(8, 8, 8, 2)
        head.addWidget(self.filter, 1)
        head.addWidget(self.pin)
        area = QScrollArea()
        area.setAccessibleName("shelf")
        area.setWidgetResizable(True)
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        body = QWidget()
        self.column = QVBoxLayout(body)
        self.column.setContentsMargins(0, 0, 0, 8)
        self.column.setSpacing(0)
        area.setWidget(body)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(head)
        layout.addWidget(area, 1)
        results = desk.results
        for signal in (
            desk.project_changed, desk.bench_changed, desk.trail_changed, results.verdicts_changed, results.logbook_changed,
            results.run_changed, desk.findings_changed, desk.documents.undo.indexChanged, desk.documents.saved, theme.changed,
        ):  # fmt: skip
            signal.connect(self._build)
        self._build()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Escape empties the filter, then puts the shelf away."""
        if event.key() != Qt.Key.Key_Escape:
            super().keyPressEvent(event)
        elif self.filter.text():
            self.filter.clear()
        else:
            self.done.emit()

    @property
    def rows(self) -> list[Row]:
        """What stands on it now."""
        found = [self.column.itemAt(k).widget() for k in range(self.column.count())]
        return [one for one in found if isinstance(one, Row)]

    def items(self) -> list[tuple[str, list[Item]]]:
        """Sections with the rows that the filter lets through."""
        return matching(self._items.sections(), self.filter.text())

    def refresh(self) -> None:
        """Lays the rows anew where something else is current."""
        self._build()

    def _press(self, item: Item) -> Item:
        """The same item; what it does to the shelf shows at once."""

        def then_build(action: Action) -> Action:
            def act() -> None:
                action()
                self._build()

            return act

        menu = tuple((text, then_build(action)) for text, action in item.menu)
        return replace(item, pressed=then_build(item.pressed) if item.pressed else None, menu=menu)

    def _build(self, *_: object) -> None:
        """Lays the rows anew, but only when one of them says something else."""
        sections = self.items()
        if (sections, theme.palette) == self._built:
            return
        self._built = (sections, theme.palette)
        clear(self.column)
        for name, items in sections:
            label = heading(name)
            label.setContentsMargins(14, 10, 0, 3)
            self.column.addWidget(label)
            for item in items:
                row = Row(self._press(item))
                row.chosen.connect(self.done)
                self.column.addWidget(row)
            if not items:
                hint = quiet("none")
                hint.setContentsMargins(16, 0, 0, 0)
                self.column.addWidget(hint)
        if not sections and self.filter.text():
            self.column.addWidget(quiet("  nothing like that"))
        self.column.addStretch()
