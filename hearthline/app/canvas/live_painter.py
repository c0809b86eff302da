"""Paints what is live on top of a scene: voltages, currents, gauges and values, notes with their formulas, findings."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF, QRadialGradient

from hearthline.app.canvas.brush import Brush, Look, View
from hearthline.app.canvas.scene import Scene
from hearthline.app.canvas.words.layout import Layout
from hearthline.app.theme.theme import theme
from hearthline.core.circuit.rules.finding import ERROR, Finding


class LivePainter(Brush):
    """One pass over what changes with the operating point and the checks; without a `layout` it is too small for words."""

    def __init__(self, painter: QPainter, scene: Scene, view: View, look: Look, layout: Layout | None):
        super().__init__(painter, scene, view, look)
        self.layout = layout

    def paint(self) -> None:
        """Words with their values, findings, and arrows of watched currents."""
        for part, terminal, heat in self.look.warm:
            self._glow(part, terminal, heat)
        if self.layout is not None:
            self.layout.paint(self)
        for finding in self.look.findings:
            self._finding(finding)
        for part, terminal in self.look.watched:
            self._arrow(part, terminal)

    def _glow(self, part: str, terminal: str, heat: float) -> None:
        """Warmth about a terminal, or about a block for what is inside it."""
        place = next((one.at for one in self.scene.cell.parts if one.name == part), None)
        if terminal:
            known = {name.lower(): at for name, at in self.scene.terminals.get(part, {}).items()}
            place = known.get(terminal, place)
        if place is None or not self.visible(place):
            return
        middle, radius = self.view.to_screen(*place), (3.2 if terminal else 8.0) * self.view.scale * (0.5 + 0.5 * heat)
        gradient, color = QRadialGradient(middle, radius), theme.color("ember")
        for stop, share in ((0.0, 0.62), (0.45, 0.30), (1.0, 0.0)):
            color.setAlphaF(share * heat)
            gradient.setColorAt(stop, color)
        self.painter.setPen(Qt.PenStyle.NoPen)
        self.painter.setBrush(gradient)
        self.painter.drawEllipse(middle, radius, radius)
        self.painter.setBrush(Qt.BrushStyle.NoBrush)

    def _arrow(self, part: str, terminal: str) -> None:
        """The direction in which a watched current is counted: into the part."""
        place = self.scene.terminals.get(part, {}).get(terminal)
        at = next((one.at for one in self.scene.cell.parts if one.name == part), None)
        if place is None or at is None or not self.visible(place):
            return
        dx, dy = at[0] - place[0], at[1] - place[1]
        way = (0, 1 if dy > 0 else -1) if abs(dy) >= abs(dx) else (1 if dx > 0 else -1, 0)
        end, size = self.view.to_screen(*place), max(6.0, min(11.0, self.view.scale * 0.8))
        back = QPointF(end.x() - way[0] * size * 1.4, end.y() - way[1] * size * 1.4)
        aside = QPointF(-way[1] * size * 0.6, way[0] * size * 0.6)
        self.painter.setPen(Qt.PenStyle.NoPen)
        self.painter.setBrush(theme.color("ember"))
        self.painter.drawPolygon(QPolygonF([end, back + aside, back - aside]))
        self.painter.setBrush(Qt.BrushStyle.NoBrush)

    # -- findings

    def _finding(self, finding: Finding) -> None:
        """A small ring with a stroke where something is wrong."""
        role = "ember" if finding.weight == ERROR else "amber"
        radius = max(4.0, min(9.0, 0.55 * self.view.scale))
        for place in finding.places:
            if self.visible(place):
                middle = self.view.to_screen(*place)
                self.painter.setBrush(Qt.BrushStyle.NoBrush)
                self.painter.setPen(QPen(theme.color(role), 2))
                self.painter.drawEllipse(middle, radius, radius)
                if finding.weight == ERROR:
                    step = QPointF(0.7, 0.7) * radius
                    self.painter.drawLine(middle - step, middle + step)
