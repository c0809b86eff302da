"""The drawing: shows the cell with its live operating point; pans, zooms, selects."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPolygonF, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from hearthline.app.canvas.painter import Look, ScenePainter, View
from hearthline.app.canvas.scene import Scene
from hearthline.app.state.desk import Desk, Selection
from hearthline.app.theme.fonts import text_font
from hearthline.app.theme.theme import theme

SMALLEST, LARGEST, STEP = 1.5, 60.0, 1.25
ROOM_RIGHT, ROOM = 10.0, 2.0
"""Grid steps left free around the circuit when it is fitted; at the right stand the values of the devices."""

REACH_PIXELS = 7
VALUE_BEGINS = tuple("0123456789.")
PATIENCE_MILLISECONDS = 40
"""How long a changed circuit waits to be painted together with its new operating point."""


class Drawing(QWidget):
    """Wheel or two fingers zoom, dragging the paper or the middle button pans, a click selects.

    With a part or pin selected, a digit begins a new value for it: `typed` carries what was typed.
    """

    typed = pyqtSignal(str)

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.scene: Scene | None = None
        self.view = View(14.0, 200.0, 300.0)
        self._fitted = True
        self._soon = QTimer(self, singleShot=True, interval=PATIENCE_MILLISECONDS)
        self._soon.timeout.connect(self.update)
        self._dots_of: tuple | None = None
        self._dots = QPolygonF()
        self._grabbed: QPointF | None = None
        self.setObjectName("drawing")
        self.setAccessibleName("drawing")
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumWidth(260)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        desk.bench_changed.connect(self._show_cell)
        desk.document_changed.connect(self._refresh)
        for signal in (desk.selection_changed, desk.pointed_net_changed, desk.point_solved, theme.changed):
            signal.connect(self.update)

    # -- view

    def fit(self) -> None:
        """The whole circuit, as large as the room allows."""
        self._fitted = True
        if not self.scene:
            return
        left, top, right, bottom = self.scene.bounds
        left, right, top, bottom = left - ROOM, right + ROOM, top - ROOM, bottom + ROOM
        values = max((self.scene.part_box(p)[2] for p in self.scene.cell.parts), default=0) + ROOM_RIGHT
        right = max(right, values)
        scale = min(self.width() / (right - left), (self.height() - 60) / (bottom - top), 22.0)
        scale = max(SMALLEST, scale)
        x = (self.width() - scale * (left + right)) / 2
        self.view = View(scale, x, (self.height() - 30 - scale * (top + bottom)) / 2)
        self.update()

    def zoom(self, factor: float, around: QPointF | None = None) -> None:
        """Closer or farther; the place `around` stays where it is."""
        middle = around or QPointF(self.width() / 2, self.height() / 2)
        x, y = self.view.to_grid(middle)
        scale = max(SMALLEST, min(LARGEST, self.view.scale * factor))
        self.view = View(scale, middle.x() - x * scale, middle.y() - y * scale)
        self._fitted = False
        self.update()

    def screen_place(self, kind: str, name: str) -> QPointF:
        """The middle of a part's or pin's body on the widget; for tests and for showing the place of a message."""
        boxes = {("part", p.name): self.scene.part_box(p) for p in self.scene.cell.parts}
        boxes |= {("pin", p.name): self.scene.pin_box(p) for p in self.scene.cell.pins}
        box = boxes[kind, name]
        return self.view.to_screen((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)

    # -- state

    def _show_cell(self) -> None:
        self._refresh()
        self.fit()

    def _refresh(self) -> None:
        cell = self.desk.cell
        self.scene = Scene(cell, self.desk.library) if cell else None
        self._soon.start()

    def _look(self) -> Look:
        answer = self.desk.point
        error = answer.error if answer else None
        trouble = getattr(error, "part", "") or ""
        net = self.desk.pointed_net or (self.desk.selection.name if self.desk.selection.kind == "net" else "")
        return Look(
            self.desk.selection,
            net or getattr(error, "net", ""),
            answer.values if answer else None,
            answer is not None and (answer.snapshot.bench, answer.snapshot.cell) != (self.desk.bench, self.desk.cell),
            self.desk.bench.shown if self.desk.bench else (),
            next((p.name for p in self.scene.cell.parts if p.name.lower() == trouble.lower()), ""),
        )

    # -- events

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paper, dots and the circuit."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.color("paper"))
        if not self.scene:
            self._paint_empty(painter)
            return
        self._paint_dots(painter)
        ScenePainter(painter, self.scene, self.view, self._look()).paint()

    def _paint_empty(self, painter: QPainter) -> None:
        painter.setFont(text_font(14))
        painter.setPen(theme.color("quiet"))
        text = "No cell to show.\nChoose a bench in the shelf at the left."
        painter.drawText(QRectF(self.rect()), Qt.AlignmentFlag.AlignCenter, text)

    def _paint_dots(self, painter: QPainter) -> None:
        pitch = 2 if self.view.scale >= 9 else 8
        painter.setPen(theme.color("line"))
        if self._dots_of != (self.view, self.width(), self.height()):
            self._dots_of = (self.view, self.width(), self.height())
            self._dots = QPolygonF(self._dot_places(pitch))
        painter.drawPoints(self._dots)

    def _dot_places(self, pitch: int) -> list[QPointF]:
        left, top = self.view.to_grid(QPointF(0, 0))
        right, bottom = self.view.to_grid(QPointF(self.width(), self.height()))
        return [
            self.view.to_screen(x, y)
            for x in range(int(left // pitch) * pitch, int(right) + 1, pitch)
            for y in range(int(top // pitch) * pitch, int(bottom) + 1, pitch)
        ]

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Keeps a fitted circuit fitted."""
        if self._fitted:
            self.fit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Zooms around the pointer."""
        turn = event.angleDelta().y() / 120
        self.zoom(STEP**turn, event.position())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Selects what is there; on the bare paper begins to pan."""
        self.setFocus()
        hit = self._hit(event.position())
        if event.button() == Qt.MouseButton.LeftButton:
            self.desk.select(hit.kind, hit.name)
        if event.button() == Qt.MouseButton.MiddleButton or not hit.kind:
            self._grabbed = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Pans, or lights the net under the pointer."""
        if self._grabbed is not None:
            moved = event.position() - self._grabbed
            self._grabbed = event.position()
            self.view = View(self.view.scale, self.view.x + moved.x(), self.view.y + moved.y())
            self._fitted = False
            self.update()
        elif self.scene:
            x, y = self.view.to_grid(event.position())
            self.desk.point_at(self.scene.net_near(x, y, REACH_PIXELS / self.view.scale))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Ends panning."""
        self._grabbed = None

    def leaveEvent(self, event) -> None:
        """No net is under the pointer any more."""
        self.desk.point_at("")

    def event(self, event: QEvent) -> bool:
        """Keeps a digit that begins a value from being taken as a command's key."""
        if event.type() == QEvent.Type.ShortcutOverride and self._begins_value(event):
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Escape selects nothing; a digit goes to the value of what is selected."""
        if event.key() == Qt.Key.Key_Escape:
            self.desk.select("", "")
        elif self._begins_value(event):
            self.typed.emit(event.text())
        else:
            super().keyPressEvent(event)

    def _begins_value(self, event: QKeyEvent) -> bool:
        plain = event.modifiers() in (Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.KeypadModifier)
        return self.desk.selection.kind in ("part", "pin") and plain and event.text() in VALUE_BEGINS

    def _hit(self, position: QPointF) -> Selection:
        if not self.scene:
            return Selection()
        return self.scene.hit(*self.view.to_grid(position), REACH_PIXELS / self.view.scale)
