"""The drawing: shows the cell with its live operating point; pans and zooms, and hands the rest to its tool."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QEvent, QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPolygonF, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QSizePolicy, QToolTip, QWidget

from hearthline.app.canvas.backing import Backing
from hearthline.app.canvas.brush import Brush, Look, View
from hearthline.app.canvas.live_painter import LivePainter
from hearthline.app.canvas.painter import ScenePainter
from hearthline.app.canvas.scene import Scene
from hearthline.app.canvas.tip import tip_at
from hearthline.app.canvas.tools.placing import Placing
from hearthline.app.canvas.tools.pointing import Pointing
from hearthline.app.canvas.tools.tool import Tool
from hearthline.app.canvas.tools.wiring import Wiring
from hearthline.app.canvas.words.keeper import FEW, WordsKeeper
from hearthline.app.canvas.words.layout import Layout
from hearthline.app.state.desk import Desk
from hearthline.app.state.editor import Editor
from hearthline.app.state.pointing import watched_terminals
from hearthline.app.theme.fonts import text_font
from hearthline.app.theme.theme import theme
from hearthline.core.circuit.edit.picked import NOTHING, Picked
from hearthline.core.elements import ELEMENTS
from hearthline.core.elements.kind import Point

SMALLEST, LARGEST, STEP = 0.6, 60.0, 1.25
LARGEST_FIT, MARGIN = 20.0, 40
"""The largest scale of a fitted circuit, and the pixels that stay free around it for words."""
FIT_TRIES, ENOUGH = (1.0, 0.93, 0.86, 0.8), 0.9
"""Smaller scales that are tried, until that share of the gauges finds its place."""

VALUE_BEGINS = tuple("0123456789.")
PATIENCE_MILLISECONDS, SHARP_MILLISECONDS = 60, 90
"""How long a changed circuit waits to be painted together with its new operating point, and how long after the last turn of
the wheel a stretched picture is drawn sharp."""

PAN = {Qt.Key.Key_Left: (1, 0), Qt.Key.Key_Right: (-1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}
PAN_PIXELS, TIP_REACH = 80, 6
MANY = 600
"""Parts from which the circuit is kept as a picture while the view moves."""


class Drawing(QWidget):
    """Wheel or two fingers zoom about the pointer; the middle button or the arrows pan; the tool does the rest.

    With a part or pin selected, a digit begins a new value for it: `typed` carries what was typed. `tool_changed` when
    another tool is in hand.
    """

    typed = pyqtSignal(str)
    tool_changed = pyqtSignal()

    def __init__(self, desk: Desk, editor: Editor, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk, self.editor = desk, editor
        self.scene: Scene | None = None
        self.view = View(14.0, 200.0, 300.0)
        self.tool: Tool = Pointing(self)
        self._preview: tuple[Scene, Picked] | None = None
        self._fitted = True
        self._fitted_with_values = False
        self._words = WordsKeeper()
        self._backing = Backing()
        self._soon = QTimer(self, singleShot=True, interval=PATIENCE_MILLISECONDS)
        self._soon.timeout.connect(self.update)
        self._sharp = QTimer(self, singleShot=True, interval=SHARP_MILLISECONDS)
        self._sharp.timeout.connect(self.update)
        self._dots_of: tuple | None = None
        self._watched_for: tuple | None = None
        self._dots = QPolygonF()
        self._grabbed: QPointF | None = None
        self.pointer = QPointF(-1, -1)
        self.setObjectName("drawing")
        self.setAccessibleName("drawing")
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumWidth(260)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        desk.bench_changed.connect(self._show_cell)
        desk.trail_changed.connect(self._show_cell)
        desk.document_changed.connect(self._refresh)
        desk.point_solved.connect(self._take_values)
        desk.warmth.changed.connect(self.update)
        desk.spread.analysed.connect(self.update)
        for signal in (desk.results.run_changed, desk.results.analysis_changed):
            signal.connect(self.update)
        changes = (desk.selection_changed, desk.pointed_net_changed, desk.findings_changed)
        for signal in (*changes, theme.changed):
            signal.connect(self.update)

    # -- tools

    def use(self, tool: Tool | None) -> None:
        """Takes a tool in hand; None puts it away."""
        self.tool.leave()
        self.tool = tool or Pointing(self)
        self.setCursor(self.tool.cursor)
        self.tool_changed.emit()
        self.update()

    def draw_wire(self) -> None:
        """Takes the wire in hand; over a terminal or wire it begins there."""
        if not self.scene:
            return
        start = None
        if self.rect().contains(self.pointer.toPoint()):
            start = self.scene.anchor_near(*self.view.to_grid(self.pointer), 0.75)
        self.use(Wiring(self, start))
        self.setFocus()

    def place(self, piece, put, what: str, once: bool = False) -> None:
        """Takes a piece in hand that is to be placed."""
        if self.scene:
            here = self.pointer if self.rect().contains(self.pointer.toPoint()) else None
            self.use(Placing(self, piece, put, what, here, once))
            self.setFocus()

    def turn(self) -> None:
        """What is in hand, or selected, by a quarter."""
        if not self.tool.turn():
            self.editor.turn()

    def flip(self) -> None:
        """What is in hand, or selected, left to right."""
        if not self.tool.flip():
            self.editor.flip()

    def pointed_place(self) -> Point | None:
        """The grid place under the pointer, on a terminal or wire where one is near."""
        if not self.scene or not self.rect().contains(self.pointer.toPoint()):
            return None
        x, y = self.view.to_grid(self.pointer)
        return self.scene.anchor_near(x, y, 0.9) or (round(x), round(y))

    def show_preview(self, scene: Scene | None, picked: Picked = NOTHING) -> None:
        """Shows a scene in the place of the real one, while something is dragged."""
        self._preview = (scene, picked) if scene else None
        self.update()

    # -- view

    def fit(self) -> None:
        """The whole circuit with its words, as large as the room allows."""
        self._fitted = True
        if not self.scene:
            return
        self._fitted_with_values = self.desk.last_values is not None
        bare = self._bare_scale()
        if len(self.scene.cell.parts) > FEW:
            self.view = self._centred(bare)
        else:
            look = self.look()
            tries = [self._centred(bare * share) for share in FIT_TRIES]
            shares = [self._words.share(self.scene, view, QRectF(self.rect()), look) for view in tries]
            self.view = next(
                (v for v, s in zip(tries, shares, strict=True) if s >= ENOUGH), tries[shares.index(max(shares))]
            )
        self.update()

    def _centred(self, scale: float) -> View:
        """The circuit in the middle."""
        left, top, right, bottom = self.scene.bounds
        return View(
            scale,
            round((self.width() - scale * (left + right)) / 2),
            round((self.height() - scale * (top + bottom)) / 2),
        )

    def _bare_scale(self) -> float:
        """At which the circuit fits with a little room for words around it."""
        left, top, right, bottom = self.scene.bounds
        wide, high = self.width() - 2 * MARGIN, self.height() - 2 * MARGIN
        return max(SMALLEST, min(wide / max(1, right - left), high / max(1, bottom - top), LARGEST_FIT))

    def zoom(self, factor: float, around: QPointF | None = None) -> None:
        """Closer or farther; the place `around`, or that under the pointer, stays where it is."""
        here = self.pointer if self.rect().contains(self.pointer.toPoint()) else None
        middle = around or here or QPointF(self.width() / 2, self.height() / 2)
        x, y = self.view.to_grid(middle)
        scale = max(SMALLEST, min(LARGEST, self.view.scale * factor))
        self.view = View(scale, middle.x() - x * scale, middle.y() - y * scale)
        self._moved_view()

    def pan(self, dx: float, dy: float) -> None:
        """Moves the paper by pixels."""
        self.view = View(self.view.scale, self.view.x + dx, self.view.y + dy)
        self._moved_view()

    def _moved_view(self) -> None:
        self._fitted = False
        self._sharp.start()
        self.update()

    @property
    def sharpening(self) -> bool:
        """Whether the view moved just now, so that a large circuit is shown stretched."""
        return self._sharp.isActive()

    def forget_picture(self) -> None:
        """Draws a large circuit anew at the next painting."""
        self._backing = Backing()

    def show_place(self, place: tuple[float, float]) -> None:
        """Brings a place of the grid into the window, where it is not."""
        at = self.view.to_screen(*place)
        if not self.rect().adjusted(40, 40, -40, -40).contains(at.toPoint()):
            self.pan(round(self.width() / 2 - at.x()), round(self.height() / 2 - at.y()))

    def screen_place(self, kind: str, name: str) -> QPointF:
        """The middle of a part's or pin's body on the widget; for tests and for showing the place of a message."""
        boxes = {("part", p.name): self.scene.part_box(p) for p in self.scene.cell.parts}
        boxes |= {("pin", p.name): self.scene.pin_box(p) for p in self.scene.cell.pins}
        box = boxes[kind, name]
        return self.view.to_screen((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)

    # -- state

    def _show_cell(self) -> None:
        self.use(None)
        self._words.forget()
        self._refresh()
        self.fit()

    def _take_values(self) -> None:
        """The first values of a cell want room."""
        if self._fitted and not self._fitted_with_values and self.desk.last_values is not None:
            self.fit()
        self.update()

    def _refresh(self) -> None:
        cell = self.desk.cell
        if not (self.scene and self.scene.cell is cell and self.scene.library == self.desk.library):
            self.scene = Scene(cell, self.desk.library).after(self.scene) if cell else None
        self._soon.start()

    def look(self) -> Look:
        """What is shown on top of the circuit now."""
        desk = self.desk
        answer = desk.point
        error = answer.error if answer and not desk.stands_alone else None
        instance = desk.instance
        trouble = (getattr(error, "part", "") or "").lower()
        names = [p.name for p in self.scene.cell.parts if instance.part(p.name) == trouble] if trouble else []
        net = desk.pointed_net or (desk.selection.name if desk.selection.kind in ("net", "label") else "")
        current = (
            answer is not None and answer.snapshot.bench == desk.bench and answer.snapshot.cells == desk.project.cells
        )
        return Look(
            desk.selection, desk.picked, net or getattr(error, "net", "") or "",
            desk.last_values, not current or answer.error is not None,
            {kind: desk.bench.columns(kind) for kind in ELEMENTS} if desk.bench else {},
            names[0] if names else "", instance, desk.findings,
            {name: desk.pin_currents(name) for name in desk.picked.parts if self._is_block(name)},
            self._watched(), tuple(desk.heats(self.scene.cell)) if instance else (),
        )  # fmt: skip

    def _watched(self) -> tuple[tuple[str, str], ...]:
        """Terminals whose current is charted; worked out again when the watches or the cell are others."""
        desk = self.desk
        if desk.bench is None or desk.instance is None:
            return ()
        key = (desk.bench.watches, desk.results.analysis, desk.trail, self.scene)
        if self._watched_for is None or self._watched_for[0] != key:
            found = watched_terminals(desk.bench, desk.results.analysis, desk.instance, self.scene.library)
            self._watched_for = (key, tuple(found))
        return self._watched_for[1]

    def _is_block(self, name: str) -> bool:
        part = next((part for part in self.scene.cell.parts if part.name == name), None)
        return part is not None and part.device in self.desk.project.cells

    # -- painting

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paper, dots and the circuit, then what is live, then what the tool shows."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self.scene:
            painter.fillRect(self.rect(), theme.color("paper"))
            deck = self.desk.bench.deck if self.desk.bench else ""
            said = f"The circuit is the deck {deck}.\nSpace, then Read a deck as cells, draws it." if deck else ""
            self._paint_empty(painter, said or "No cell to show.\nChoose one on the shelf: S opens it.")
            return
        scene, look = self.scene, self.look()
        if self._preview:
            scene, look = self._preview[0], replace(look, picked=self._preview[1], stale=True)
        if len(scene.cell.parts) >= MANY and not self._preview:
            self._paint_kept(painter, scene, look)
        else:
            painter.fillRect(self.rect(), theme.color("paper"))
            self._paint_dots(painter)
            ScenePainter(painter, scene, self.view, look).paint()
        layout = self._layout(scene, look)
        if layout is not None:
            ScenePainter(painter, scene, self.view, look).inner_words(layout.bare)
        if not scene.cell.parts and not scene.cell.pins:
            self._paint_empty(painter, "Nothing drawn yet.\nSpace: type what to place, such as n_rvt or resistor.")
        LivePainter(painter, scene, self.view, look, layout).paint()
        self.tool.paint(Brush(painter, scene, self.view, look))

    def _layout(self, scene: Scene, look: Look) -> Layout | None:
        """The words; those of a large circuit only once the view stands still."""
        if self._sharp.isActive() and len(scene.cell.parts) >= MANY:
            return None
        return self._words.layout(scene, self.view, QRectF(self.rect()), look, self._fitted)

    def _paint_kept(self, painter: QPainter, scene: Scene, look: Look) -> None:
        """A large circuit, copied from its picture."""

        def render(inner: QPainter, view: View) -> None:
            inner.setRenderHint(QPainter.RenderHint.Antialiasing)
            ScenePainter(inner, scene, view, look).paint()

        key = (scene.cell, scene.ink, look.picked, look.lit_net, look.trouble, theme.palette.name)
        self._backing.draw(painter, self.view, key, render, theme.color("paper"), self._sharp.isActive())

    def _paint_empty(self, painter: QPainter, text: str) -> None:
        painter.setFont(text_font(14))
        painter.setPen(theme.color("quiet"))
        painter.drawText(QRectF(self.rect()), Qt.AlignmentFlag.AlignCenter, text)

    def _paint_dots(self, painter: QPainter) -> None:
        if self.view.scale < 3:
            return
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

    # -- events

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Keeps a fitted circuit fitted."""
        if self._fitted:
            self.fit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Zooms around the pointer."""
        turn = event.angleDelta().y() / 120
        self.zoom(STEP**turn, event.position())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """The middle button grabs the paper; the others are the tool's."""
        self.setFocus()
        self.pointer = event.position()
        if event.button() == Qt.MouseButton.MiddleButton:
            self._grabbed = event.position()
        elif self.scene:
            self.tool.press(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Pans, or lets the tool follow."""
        self.pointer = event.position()
        if self._grabbed is not None:
            moved = event.position() - self._grabbed
            self._grabbed = event.position()
            self.pan(moved.x(), moved.y())
        elif self.scene:
            self.tool.move(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Ends panning, or what the tool was doing."""
        if event.button() == Qt.MouseButton.MiddleButton:
            self._grabbed = None
        elif self.scene:
            self.tool.release(event)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """The tool's."""
        if self.scene and event.button() == Qt.MouseButton.LeftButton:
            self.tool.double(event)

    def leaveEvent(self, event) -> None:
        """No net is under the pointer any more."""
        self.pointer = QPointF(-1, -1)
        self.desk.point_at("")

    def _tell(self, event: QHelpEvent) -> None:
        """The values of what the pointer rests on."""
        text = ""
        if self.scene is not None and isinstance(self.tool, Pointing):
            x, y = self.view.to_grid(QPointF(event.pos()))
            text = tip_at(self.scene, self.look(), x, y, TIP_REACH / self.view.scale)
        QToolTip.showText(event.globalPos(), text, self)

    def event(self, event: QEvent) -> bool:
        """Keeps keys that belong to the drawing from being taken as commands: a digit that begins a value, what the tool
        wants."""
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            self._tell(event)
            return True
        if event.type() == QEvent.Type.ShortcutOverride and (self._begins_value(event) or self._is_tools(event)):
            event.accept()
            return True
        return super().event(event)

    def _is_tools(self, event: QKeyEvent) -> bool:
        wanted = (Qt.Key.Key_Backspace, Qt.Key.Key_Return, Qt.Key.Key_Enter)
        return not isinstance(self.tool, Pointing) and event.key() in wanted and not event.modifiers()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """The tool first; then a digit goes to the value of what is selected, and arrows pan."""
        if self.scene and self.tool.key(event):
            return
        if self._begins_value(event):
            self.typed.emit(event.text())
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and not event.modifiers():
            if len(self.desk.picked.parts) == 1:
                self.desk.enter(next(iter(self.desk.picked.parts)))
        elif event.key() in PAN and not event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            dx, dy = PAN[event.key()]
            self.pan(dx * PAN_PIXELS, dy * PAN_PIXELS)
        else:
            super().keyPressEvent(event)

    def _begins_value(self, event: QKeyEvent) -> bool:
        plain = event.modifiers() in (Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.KeypadModifier)
        idle = isinstance(self.tool, Pointing)
        several = self.desk.selection.kind in ("part", "pin") or len(self.desk.picked.parts) > 1
        return idle and several and plain and event.text() in VALUE_BEGINS and bool(event.text())
