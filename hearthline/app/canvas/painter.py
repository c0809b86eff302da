"""Paints a scene: wires, symbols, pins, marks and notes."""

from __future__ import annotations

from dataclasses import dataclass, field

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPen, QTransform

from hearthline.app.canvas.ink import ink_of, turned_words
from hearthline.app.canvas.scene import Box, Scene
from hearthline.app.state.desk import Selection
from hearthline.app.state.values import PointValues
from hearthline.app.theme.fonts import text_font
from hearthline.app.theme.theme import theme
from hearthline.core.circuit.body import body_of
from hearthline.core.circuit.cell import Cell, Label, Part, Pin
from hearthline.core.circuit.edit.picked import NOTHING, Picked
from hearthline.core.circuit.instance import Instance
from hearthline.core.circuit.rules.finding import Finding
from hearthline.core.circuit.symbols import GROUND_SYMBOL, SYMBOLS, place_terminal

VALUES_FROM = 7.4
"""Pixels a grid step from which the values beside devices are drawn."""

NAMES_FROM, DOTS_FROM = 5.0, 2.5
"""From which scale names and junctions are drawn."""


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

    @property
    def transform(self) -> QTransform:
        """From the grid to the screen."""
        return QTransform(self.scale, 0, 0, self.scale, self.x, self.y)


@dataclass(frozen=True)
class Look:
    """What is shown on top of the circuit; `instance` tells what its parts and nets are called in the results, `pin_currents`
    are those into selected blocks, `watched` the terminals whose current is charted."""

    selection: Selection
    picked: Picked = NOTHING
    lit_net: str = ""
    point: PointValues | None = None
    stale: bool = False
    columns: dict[str, tuple[str, ...]] = field(default_factory=dict)
    trouble: str = ""
    instance: Instance | None = None
    findings: tuple[Finding, ...] = ()
    pin_currents: dict[str, dict[str, float]] = field(default_factory=dict)
    watched: tuple[tuple[str, str], ...] = ()


class Brush:
    """Writes and draws on the screen with the sizes of a view; what all painters of the canvas share."""

    def __init__(self, painter: QPainter, scene: Scene, view: View, look: Look):
        self.painter, self.scene, self.view, self.look = painter, scene, view, look
        self.hair = 1.0 if view.scale < 8 else 1.4
        left, top = view.to_grid(QPointF(0, 0))
        right, bottom = view.to_grid(QPointF(painter.device().width(), painter.device().height()))
        self.room: Box = (left - 14, top - 4, right + 4, bottom + 4)

    def visible(self, at: tuple[float, float]) -> bool:
        """Whether something at a place can be seen."""
        left, top, right, bottom = self.room
        return left <= at[0] <= right and top <= at[1] <= bottom

    def size(self, pixels: int) -> int:
        """The size of a text, a little larger when the drawing is."""
        return max(9, min(15, round(pixels * (0.7 + 0.3 * self.view.scale / 14))))

    def text(self, at: QPointF, text: str, role: str = "ink", bold: bool = False, font=None, size: int = 12) -> float:
        """Writes from `at` on; how wide it came out."""
        font = font or text_font(self.size(size), bold)
        self.painter.setFont(font)
        self.painter.setPen(theme.color(role))
        self.painter.drawText(at, text)
        return QFontMetricsF(font).horizontalAdvance(text)

    def screen_box(self, box: Box) -> QRectF:
        """A box of the grid on the screen."""
        return QRectF(self.view.to_screen(*box[:2]), self.view.to_screen(*box[2:]))


class ScenePainter(Brush):
    """One pass of painting of the circuit itself."""

    def paint(self) -> None:
        """Everything, from the back to the front."""
        painter, scene = self.painter, self.scene
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._halo()
        self._lit()
        painter.save()
        painter.setTransform(self.view.transform, True)
        pen = QPen(theme.color("ink"), self.hair, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap)
        pen.setCosmetic(True)
        painter.setPen(pen)
        painter.drawLines(scene.wire_lines)
        scene.ink.paint(painter, theme.color("ink"), self.hair)
        if scene.unknown:
            wrong = ink_of(scene.placed(part) for part in scene.cell.parts if part.name in scene.unknown)
            wrong.paint(painter, theme.color("ember"), self.hair)
        painter.restore()
        self._junctions()
        if self.view.scale >= NAMES_FROM:
            self._words()

    def _lit(self) -> None:
        """The net under the pointer, or the selected one, and selected wires."""
        lit, picked = self.look.lit_net, self.look.picked.wires
        self.painter.setPen(QPen(theme.color("teal", 70), 7, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        if lit:
            for a, b, net in self.scene.segments:
                if net == lit:
                    self.painter.drawLine(self.view.to_screen(*a), self.view.to_screen(*b))
        for wire in picked:
            for a, b in zip(wire.points, wire.points[1:], strict=False):
                self.painter.drawLine(self.view.to_screen(*a), self.view.to_screen(*b))

    def _junctions(self) -> None:
        if self.view.scale < DOTS_FROM:
            return
        self.painter.setPen(Qt.PenStyle.NoPen)
        self.painter.setBrush(theme.color("ink"))
        radius = min(1.0 + self.view.scale * 0.14, 2.2 + self.view.scale * 0.06)
        for point in self.scene.junctions:
            if self.visible(point):
                self.painter.drawEllipse(self.view.to_screen(*point), radius, radius)

    def _halo(self) -> None:
        picked, scene = self.look.picked, self.scene
        boxes = [scene.part_box(p) for p in scene.cell.parts if p.name in picked.parts]
        boxes += [scene.pin_box(p) for p in scene.cell.pins if p.name in picked.pins]
        boxes += [scene.label_box(one) for one in scene.cell.labels if one in picked.labels]
        boxes += [scene.note_box(one) for one in scene.cell.notes if one in picked.notes]
        self.painter.setPen(QPen(theme.color("teal"), 1.6))
        self.painter.setBrush(theme.color("teal_wash"))
        for box in boxes:
            self.painter.drawRoundedRect(self.screen_box(box), 7, 7)

    # -- words

    def _words(self) -> None:
        cell = self.scene.cell
        for part in cell.parts:
            if part.device != GROUND_SYMBOL and self.visible(part.at):
                self._part_words(part)
        for pin in cell.pins:
            if self.visible(pin.at):
                self._pin_name(pin)
        for label in cell.labels:
            if self.visible(label.at):
                self._label(label)

    def _part_words(self, part: Part) -> None:
        symbol = self.scene.symbol(part)
        if self.view.scale >= 7:
            outline, at, turn, flip = self.scene.placed(part)
            for x, y, word in turned_words(outline, turn, flip):
                self._middle(self.view.to_screen(at[0] + x, at[1] + y), word, "quiet", 10)
        if isinstance(symbol, Cell):
            self._block_name(part, symbol)
        else:
            self._beside(part)

    def _middle(self, place: QPointF, word: str, role: str, size: int, bold: bool = False) -> None:
        """A word around a place."""
        self.painter.setFont(text_font(self.size(size), bold))
        self.painter.setPen(theme.color(role))
        box = QRectF(place.x() - 100, place.y() - 12, 200, 24)
        self.painter.drawText(box, Qt.AlignmentFlag.AlignCenter, word)

    def _block_name(self, part: Part, cell: Cell) -> None:
        body = body_of(cell)
        left, top, right, bottom = body.box
        share = 0.38 if body.shape == "amplifier" else 0.5
        x, y = left + share * (right - left), (top + bottom) / 2
        middle = self.view.transform.map(QPointF(*place_terminal(part.at, part.turn, part.flip, (x, y))))
        label = body.label or cell.name
        self._middle(middle + QPointF(0, -7), part.name, "ink", 12, bold=True)
        self._middle(middle + QPointF(0, 8), label, "quiet", 11)

    def _beside(self, part: Part) -> None:
        """Name, device and sizes beside a part."""
        known = part.name not in self.scene.unknown
        role = "ink" if known and part.name != self.look.trouble else "ember_ink"
        device = part.device if known else f"{part.device}?"
        rest = f"{'' if known and plain(part) else device} {sizes(part)}".strip()
        bold, font = text_font(self.size(12), True), text_font(self.size(12))
        name = QFontMetricsF(bold).horizontalAdvance(part.name) + 5
        at = beside(self, part, name + QFontMetricsF(font).horizontalAdvance(rest))
        self.text(at, part.name, role, bold=True)
        self.text(at + QPointF(name, 0), rest, "quiet")

    def _pin_name(self, pin: Pin) -> None:
        box = self.screen_box(self.scene.pin_box(pin))
        if pin.kind in ("supply", "ground"):
            dx, dy = {0: (0, -1), 1: (1, 0), 2: (0, 1), 3: (-1, 0)}[(pin.turn + (2 if pin.kind == "ground" else 0)) % 4]
            off = 0.5 * (box.width() if dx else box.height()) + (10 if dy else 10 + 4 * len(pin.name))
            self._middle(box.center() + QPointF(dx * off, dy * off), pin.name, "ink", 12, bold=True)
        else:
            self._middle(box.center(), pin.name, "ink", 12)

    def _label(self, label: Label) -> None:
        place = self.view.to_screen(*label.at)
        if label.kind == "supply":
            self._middle(place + QPointF(0, -0.8 * self.view.scale - 9), label.net, "ink", 12, bold=True)
            return
        self.painter.setPen(QPen(theme.color("ink"), 1))
        self.painter.drawLine(place, place + QPointF(0.4, -0.4) * self.view.scale)
        self.text(place + QPointF(0.4, -0.4) * self.view.scale, label.net, "ink", bold=True, size=11)


SIZES = ("w", "l", "nf", "m", "r", "c", "dc", "wave", "gain", "gm", "area", "k", "z0", "td")


def sizes(part: Part) -> str:
    """What matters of a part's values, as it stands beside it."""
    found = [part.values[n] for n in SIZES if part.values.get(n) and (n not in ("nf", "m") or part.values[n] != "1")]
    return " / ".join(text if len(text) < 24 else f"{text[:22]}…" for text in found)


def plain(part: Part) -> bool:
    """Whether the symbol says enough of what the part is."""
    return part.device in SYMBOLS and not SYMBOLS[part.device].takes_model


def faces_left(scene: Scene, part: Part) -> bool:
    """Whether the words of a part stand at its left: it was flipped, so that what it is controlled by comes from the right."""
    if part.turn % 2 or part.flip == (part.turn % 4 == 2):
        return False
    return len({x for x, _ in scene.terminals[part.name].values()}) > 1


def beside(brush: Brush, part: Part, width: float) -> QPointF:
    """Where the words beside a part begin that are `width` pixels wide: at the right, at the left of a flipped part, above
    one that lies."""
    left, top, right, _ = brush.scene.part_box(part)
    if part.turn % 2 and right - left > 3:
        at = brush.view.to_screen((left + right) / 2, top)
        return QPointF(at.x() - width / 2, at.y() - 4)
    at = brush.view.to_screen(right + 0.3, top)
    y = at.y() + 0.2 * brush.view.scale + 10
    return (
        QPointF(brush.view.to_screen(left - 0.3, top).x() - width, y)
        if faces_left(brush.scene, part)
        else QPointF(at.x(), y)
    )


def paint_outline(brush: Brush, scene: Scene, view: View) -> None:
    """Symbols and wires of a scene in teal, as something in hand."""
    painter = brush.painter
    painter.save()
    painter.setTransform(view.transform, True)
    pen = QPen(theme.color("teal"), 1.4)
    pen.setCosmetic(True)
    painter.setPen(pen)
    painter.drawLines(scene.wire_lines)
    scene.ink.paint(painter, theme.color("teal"), 1.4)
    painter.restore()
