"""Paints a scene: wires, symbols and junctions; its words have painters of their own."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from hearthline.app.canvas.brush import Brush, View
from hearthline.app.canvas.ink import ink_of, turned_words
from hearthline.app.canvas.scene import Scene
from hearthline.app.theme.fonts import text_font
from hearthline.app.theme.theme import theme

DOTS_FROM, INNER_FROM = 2.5, 6.0
"""From which scale junctions, and words in symbols, are drawn [pixels a grid step]."""


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

    def inner_words(self, bare: frozenset[str]) -> None:
        """The words in symbols, but in those that are too small for them."""
        if self.view.scale < INNER_FROM:
            return
        self.painter.setFont(text_font(10))
        self.painter.setPen(theme.color("quiet"))
        for part in self.scene.cell.parts:
            if part.name in bare or not self.visible(part.at):
                continue
            outline, at, turn, flip = self.scene.placed(part)
            for x, y, word in turned_words(outline, turn, flip):
                place = self.view.to_screen(at[0] + x, at[1] + y)
                box = QRectF(place.x() - 100, place.y() - 12, 200, 24)
                self.painter.drawText(box, Qt.AlignmentFlag.AlignCenter, word)


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
