"""Paints a scene: wires, symbols, pins, live voltages and the values beside the devices."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPen, QTransform

from hearthline.app.canvas.gauge import paint_gauge
from hearthline.app.canvas.scene import Box, Scene
from hearthline.app.canvas.symbol_paths import Shape, pin_shape, shape_of
from hearthline.app.state.desk import Selection
from hearthline.app.state.values import PointValues, Quantity, saturation_role
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.theme import theme
from hearthline.core.circuit.cell import Cell, Part, Pin
from hearthline.core.circuit.symbols import GROUND_SYMBOL
from hearthline.core.quantity import write

VALUES_FROM = 9.0
"""Pixels a grid step from which the values beside devices are drawn."""

NAMES_FROM = 5.0


@dataclass(frozen=True)
class View:
    """Where the grid lies on the screen: pixels a step and the position of the grid's origin."""

    scale: float
    x: float
    y: float

    def to_screen(self, x: float, y: float) -> QPointF:
        """A place of the grid on the screen."""
        return QPointF(self.x + x * self.scale, self.y + y * self.scale)

    def to_grid(self, position: QPointF) -> tuple[float, float]:
        """A place of the screen on the grid."""
        return (position.x() - self.x) / self.scale, (position.y() - self.y) / self.scale


@dataclass(frozen=True)
class Look:
    """What is shown on top of the circuit."""

    selection: Selection
    lit_net: str = ""
    point: PointValues | None = None
    stale: bool = False
    columns: tuple[str, ...] = ()
    trouble: str = ""


class ScenePainter:
    """One pass of painting."""

    def __init__(self, painter: QPainter, scene: Scene, view: View, look: Look):
        self.painter, self.scene, self.view, self.look = painter, scene, view, look
        self.hair = 1.0 if view.scale < 8 else 1.4

    def paint(self) -> None:
        """Everything, from the back to the front."""
        self._halo()
        self._wires()
        for part in self.scene.cell.parts:
            self._part(part)
        for pin in self.scene.cell.pins:
            self._pin(pin)
        if self.look.point is not None:
            self._voltages()

    # -- wires

    def _wires(self) -> None:
        lit = QPen(theme.color("teal", 70), 7, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap)
        ink = QPen(theme.color("ink"), self.hair, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap)
        for pen, only_lit in ((lit, True), (ink, False)):
            self.painter.setPen(pen)
            for a, b, net in self.scene.segments:
                if not only_lit or (net and net == self.look.lit_net):
                    self.painter.drawLine(self.view.to_screen(*a), self.view.to_screen(*b))
        self.painter.setPen(Qt.PenStyle.NoPen)
        self.painter.setBrush(theme.color("ink"))
        for point in self.scene.junctions:
            self.painter.drawEllipse(
                self.view.to_screen(*point), 2.2 + self.view.scale * 0.06, 2.2 + self.view.scale * 0.06
            )

    # -- symbols

    def _outline(self, shape: Shape, transform: QTransform, role: str = "ink") -> None:
        self.painter.save()
        self.painter.setTransform(transform, True)
        width = self.hair / self.view.scale
        pen = QPen(theme.color(role), width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin)
        self.painter.setBrush(Qt.BrushStyle.NoBrush)
        self.painter.setPen(pen)
        self.painter.drawPath(shape.strokes)
        pen.setWidthF(1.7 * width)
        self.painter.setPen(pen)
        self.painter.drawPath(shape.heavy)
        self.painter.fillPath(shape.fills, theme.color(role))
        self.painter.restore()

    def _transform(self, at: tuple[int, int], turn: int = 0, flip: bool = False) -> QTransform:
        corner = self.view.to_screen(*at)
        transform = QTransform().translate(corner.x(), corner.y()).scale(self.view.scale, self.view.scale)
        transform.rotate(90 * turn)
        return transform.scale(-1, 1) if flip else transform

    def _part(self, part: Part) -> None:
        symbol = self.scene.symbol(part)
        role = "ember" if part.name == self.look.trouble or not self.scene.known(part) else "ink"
        if isinstance(symbol, Cell):
            self._block(part, symbol)
            return
        shape = shape_of(self.scene.symbol_name(part))
        self._outline(shape, self._transform(part.at, part.turn, part.flip), role)
        if part.device != GROUND_SYMBOL and self.view.scale >= NAMES_FROM:
            self._beside(part, role)

    def _block(self, part: Part, cell: Cell) -> None:
        left, top, right, bottom = self.scene.part_box(part)
        shape = Shape().box(left + 1.5, top + 1.5, right - left - 3, bottom - top - 3)
        self._outline(shape, self._transform((0, 0)))
        middle = self.view.to_screen((left + right) / 2, (top + bottom) / 2)
        self._text(middle + QPointF(-20, 0), part.name, bold=True)
        self._text(middle + QPointF(-20, 15), cell.name, role="quiet")

    def _pin(self, pin: Pin) -> None:
        self._outline(pin_shape(pin.kind), self._transform(pin.at, pin.turn))
        if self.view.scale < NAMES_FROM:
            return
        left, top, right, bottom = self.scene.pin_box(pin)
        corner, opposite = self.view.to_screen(left, top), self.view.to_screen(right, bottom)
        if pin.kind == "supply":
            box = QRectF(corner.x() - 30, corner.y() - 14, opposite.x() - corner.x() + 60, 18)
        else:
            box = QRectF(corner, opposite)
            box.translate(-0.2 * self.view.scale if pin.kind == "output" else 0.0, 0)
        self.painter.setFont(text_font(self._size(12), bold=pin.kind == "supply"))
        self.painter.setPen(theme.color("ink"))
        self.painter.drawText(box, Qt.AlignmentFlag.AlignCenter, pin.name)

    def _halo(self) -> None:
        box: Box | None = None
        kind, name = self.look.selection.kind, self.look.selection.name
        if kind == "part":
            box = next((self.scene.part_box(p) for p in self.scene.cell.parts if p.name == name), None)
        elif kind == "pin":
            box = next((self.scene.pin_box(p) for p in self.scene.cell.pins if p.name == name), None)
        if box:
            self.painter.setPen(QPen(theme.color("teal"), 1.6))
            self.painter.setBrush(theme.color("teal_wash"))
            self.painter.drawRoundedRect(QRectF(self.view.to_screen(*box[:2]), self.view.to_screen(*box[2:])), 7, 7)

    # -- values

    def _size(self, pixels: int) -> int:
        return max(9, min(15, round(pixels * (0.7 + 0.3 * self.view.scale / 14))))

    def _text(
        self, at: QPointF, text: str, role: str = "ink", bold: bool = False, figures: bool = False, size: int = 12
    ):
        font = figure_font(self._size(size - 1)) if figures else text_font(self._size(size), bold)
        self.painter.setFont(font)
        self.painter.setPen(theme.color(role))
        self.painter.drawText(at, text)
        return QFontMetricsF(font).horizontalAdvance(text)

    def _beside(self, part: Part, role: str) -> None:
        _, top, right, _ = self.scene.part_box(part)
        at = self.view.to_screen(right + 0.3, top)
        at.setY(at.y() + 0.2 * self.view.scale + 10)
        width = self._text(at, part.name, role if role == "ember" else "ink", bold=True)
        sizes = " / ".join(part.values[n] for n in ("w", "l", "r", "c", "dc", "gain", "gm") if n in part.values)
        self._text(
            at + QPointF(width + 5, 0),
            f"{part.device if self.scene.known(part) else part.device + '?'} {sizes}",
            "quiet",
        )
        if self.look.point is None or self.view.scale < VALUES_FROM:
            return
        values = self.look.point.part(part.name)
        line = self._size(12) + 4
        at.setY(at.y() + 6)
        if "vdsat" in values:
            paint_gauge(self.painter, QRectF(at.x(), at.y() + 1, 128, 6), values)
            at.setY(at.y() + 8)
        self._columns(at, line, values)

    def _columns(self, at: QPointF, line: int, values: dict[str, Quantity]) -> None:
        """The chosen values in two columns."""
        chosen = [values[name] for name in self.look.columns if name in values] or [*values.values()][:2]
        pitch = self._size(11) * 8.6
        for k, quantity in enumerate(chosen):
            x, y = at.x() + (k % 2) * pitch, at.y() + (k // 2 + 1) * line
            name = self._text(QPointF(x, y), quantity.name, "quiet", size=11)
            role = "teal" if not self.look.stale else "quiet"
            if quantity.name == "sat" and values["region"].value:
                role = {"moss": role, "amber": "amber_ink", "ember": "ember_ink"}[saturation_role(values)]
            text = "off" if quantity.name == "sat" and values["region"].value == 0 else quantity.text
            self._text(QPointF(x + max(name + 5, self._size(11) * 2.2), y), text, role, figures=True, size=12)

    def _voltages(self) -> None:
        connections = self.scene.connections
        if connections is None or self.view.scale < NAMES_FROM:
            return
        for net in dict.fromkeys(connections.at.values()):
            volts = self.look.point.voltage(net)
            anchor = self._tag_place(net)
            if volts is not None and anchor is not None and net != "0":
                self._tag(anchor, write(volts, "V", 4))

    def _tag_place(self, net: str) -> QPointF | None:
        pin = next((pin for pin in self.scene.cell.pins if pin.name == net), None)
        if pin and pin.kind == "supply":
            return self.view.to_screen(pin.at[0] + 2, pin.at[1] - 0.8) + QPointF(34, 0)
        place = self.scene.net_anchor(net)
        return None if place is None else self.view.to_screen(*place) + QPointF(0, -15)

    def _tag(self, middle: QPointF, text: str) -> None:
        font = figure_font(self._size(11))
        width = QFontMetricsF(font).horizontalAdvance(text) + 14
        box = QRectF(middle.x() - width / 2, middle.y() - 9, width, 18)
        self.painter.setPen(QPen(theme.color("teal"), 1))
        self.painter.setBrush(theme.color("paper"))
        self.painter.drawRoundedRect(box, 9, 9)
        self.painter.setFont(font)
        self.painter.setPen(theme.color("quiet" if self.look.stale else "teal"))
        self.painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
