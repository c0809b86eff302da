"""The tool that is there when no other is: selects, moves, copies; draws a box or a path around what is to be selected."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPen, QPolygonF

from hearthline.app.canvas.brush import Brush
from hearthline.app.canvas.painter import paint_outline
from hearthline.app.canvas.scene import Scene, picked_of
from hearthline.app.canvas.tools.tool import Tool
from hearthline.app.canvas.tools.wiring import Wiring
from hearthline.app.theme.theme import theme
from hearthline.core.circuit.cell import Cell, Part, Wire
from hearthline.core.circuit.edit.motion import Motion
from hearthline.core.circuit.edit.move import Mover
from hearthline.core.circuit.edit.picked import Picked, inside
from hearthline.core.circuit.symbols import GROUND_SYMBOL

FEW = 150
"""Parts up to which a drag shows the whole drawing as it will be; of more it shows what moves."""

STEADY_PIXELS = 4
"""How far the pointer goes before a press becomes a drag."""

NUDGES = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}


class Pointing(Tool):
    """A press on something takes it, on the paper begins a box; Shift adds, Alt draws a path, Ctrl drags a copy."""

    def __init__(self, drawing) -> None:
        super().__init__(drawing)
        self._stop()

    def _stop(self) -> None:
        self._pressed: QPointF | None = None
        self._held = Qt.KeyboardModifier.NoModifier
        self._doing = ""
        self._path: list[tuple[float, float]] = []
        self._mover: Mover | None = None
        self._changed: Scene | None = None
        self._shift = (0, 0)

    # -- mouse

    def press(self, event: QMouseEvent) -> None:
        """Takes what is there."""
        if event.button() != Qt.MouseButton.LeftButton or not self.drawing.scene:
            return
        self._pressed, self._held = event.position(), event.modifiers()
        desk, scene = self.drawing.desk, self.drawing.scene
        x, y = self.place(event.position())
        item = scene.item_at(x, y, self.reach)
        adds = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self._doing, self._path = "path", [(x, y)]
        elif item is None:
            self._doing = "box"
            if not adds:
                desk.pick(Picked())
        else:
            self._doing = "item"
            one = picked_of(item)
            if adds:
                desk.pick(desk.picked - one if item in desk.picked else desk.picked | one)
            elif item not in desk.picked:
                desk.pick(one)

    def move(self, event: QMouseEvent) -> None:
        """Drags, or lights the net under the pointer."""
        if self._pressed is None:
            self._point_at(event.position())
            return
        far = (event.position() - self._pressed).manhattanLength() >= STEADY_PIXELS
        if self._doing == "item" and far:
            self._begin_drag()
        if self._doing == "path":
            self._path.append(self.place(event.position()))
        elif self._doing in ("move", "copy"):
            self._drag(event.position())
        elif self._doing == "box" and far:
            self._doing = "box"
            self._path = [self.place(self._pressed), self.place(event.position())]
        self.drawing.update()

    def _begin_drag(self) -> None:
        """A free terminal begins a wire; anything else is moved, or copied with Ctrl."""
        start = self._free_terminal(self._pressed)
        if start is not None and not self._held:
            self.drawing.use(Wiring(self.drawing, start, dragged=True))
            return
        self._doing = "copy" if self._held & Qt.KeyboardModifier.ControlModifier else "move"

    def _free_terminal(self, position: QPointF):
        """A terminal close under the pointer that no wire is tied to."""
        scene = self.drawing.scene
        x, y = self.place(position)
        place = (round(x), round(y))
        owners = [part for part, _ in scene.anchors.get(place, ()) if part]
        near = ((x - place[0]) ** 2 + (y - place[1]) ** 2) ** 0.5 <= min(0.6, self.reach)
        marks = {part.name for part in scene.cell.parts if part.device == GROUND_SYMBOL}
        tied = scene.wire_near(*place, 0.01) is not None
        return place if owners and near and not tied and not set(owners) & marks else None

    def _drag(self, position: QPointF) -> None:
        x0, y0 = self.place(self._pressed)
        x, y = self.place(position)
        shift = (round(x - x0), round(y - y0))
        if shift == self._shift:
            return
        self._shift = shift
        desk = self.drawing.desk
        if self._doing == "move":
            if self._mover is None:
                self._mover = Mover(desk.cell, desk.picked, desk.library)
            new, after = self._mover.to(Motion(shift))
            if len(new.parts) > FEW:
                self._changed = Scene(_of_motion(new, desk.cell, after), desk.library)
            else:
                self.drawing.show_preview(Scene(new, desk.library), after)

    def release(self, event: QMouseEvent) -> None:
        """Ends the drag, or selects."""
        if self._pressed is None:
            return
        desk, scene, doing, shift = self.drawing.desk, self.drawing.scene, self._doing, self._shift
        adds = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        path = self._path
        self.drawing.show_preview(None)
        self._stop()
        found = None
        if doing == "move":
            self.editor.move(shift)
        elif doing == "copy" and shift != (0, 0):
            self.editor.paste(inside(desk.cell, desk.picked), shift)
        elif doing == "box" and len(path) == 2:
            (x1, y1), (x2, y2) = path
            found = scene.within((min(x1, x2), min(y1, y2), max(x1, x2), max(y1, y2)))
        elif doing == "path" and len(path) > 1:
            found = scene.touched(path)
        if found is not None:
            desk.pick(desk.picked | found if adds else found)
        self.drawing.update()

    def double(self, event: QMouseEvent) -> None:
        """Into a block; of a wire its whole net; of a part its first value."""
        desk = self.drawing.desk
        item = self.drawing.scene.item_at(*self.place(event.position()), self.reach) if self.drawing.scene else None
        self._stop()
        if isinstance(item, Wire):
            net = self.drawing.scene.net_at(item.points[0])
            desk.pick(Picked(wires=frozenset(self.editor.wires_of(net))))
        elif isinstance(item, Part) and not desk.enter(item.name):
            self.drawing.typed.emit("")

    def _point_at(self, position: QPointF) -> None:
        scene = self.drawing.scene
        if scene:
            x, y = self.place(position)
            self.drawing.desk.point_at(scene.net_near(x, y, self.reach))

    # -- keys

    def key(self, event: QKeyEvent) -> bool:
        """Escape selects nothing or gives up a drag; Shift with an arrow moves by a step."""
        desk = self.drawing.desk
        if event.key() == Qt.Key.Key_Escape:
            if self._doing in ("move", "copy", "box", "path"):
                self.drawing.show_preview(None)
                self._stop()
            else:
                desk.pick(Picked())
            return True
        if event.key() in NUDGES and event.modifiers() & Qt.KeyboardModifier.ShiftModifier and desk.picked:
            self.editor.move(NUDGES[event.key()], "nudge")
            return True
        return False

    def leave(self) -> None:
        """Gives up what was begun."""
        self.drawing.show_preview(None)
        self._stop()

    # -- paint

    def paint(self, brush: Brush) -> None:
        """The box or path, and what a copy would be."""
        painter, view = brush.painter, brush.view
        painter.setPen(QPen(theme.color("teal"), 1.2, Qt.PenStyle.DashLine))
        painter.setBrush(theme.color("teal", 25))
        if self._doing == "box" and len(self._path) == 2:
            a, b = (view.to_screen(*point) for point in self._path)
            painter.drawRect(QRectF(a, b).normalized())
        elif self._doing == "path":
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPolyline(QPolygonF([view.to_screen(*point) for point in self._path]))
        elif self._changed is not None:
            paint_outline(brush, self._changed, view)
        elif self._doing == "copy":
            desk = self.drawing.desk
            for box in Scene(inside(desk.cell, desk.picked), desk.library).boxes():
                dx, dy = self._shift
                painter.drawRect(brush.screen_box((box[0] + dx, box[1] + dy, box[2] + dx, box[3] + dy)))


def _of_motion(new: Cell, old: Cell, picked: Picked) -> Cell:
    """What is somewhere else in a cell than before."""
    before = set(old.wires)
    wires = frozenset(wire for wire in new.wires if wire not in before)
    return inside(new, replace(picked, wires=picked.wires | wires))
