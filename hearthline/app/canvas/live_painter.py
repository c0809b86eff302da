"""Paints what is live on top of a scene: voltages, currents, gauges and values, notes with their formulas, findings."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPen, QPolygonF

from hearthline.app.canvas.brush import Brush, Look, View
from hearthline.app.canvas.scene import Scene
from hearthline.app.canvas.words.layout import Layout
from hearthline.app.state.values import terminal_currents
from hearthline.app.theme.fonts import figure_font
from hearthline.app.theme.theme import theme
from hearthline.core.circuit.cell import Part
from hearthline.core.circuit.rules.finding import ERROR, Finding
from hearthline.core.quantity import write


class LivePainter(Brush):
    """One pass over what changes with the operating point and the checks; without a `layout` it is too small for words."""

    def __init__(self, painter: QPainter, scene: Scene, view: View, look: Look, layout: Layout | None):
        super().__init__(painter, scene, view, look)
        self.layout = layout

    def paint(self) -> None:
        """Words with their values, currents of what is selected, notes and findings."""
        if self.layout is not None:
            self.layout.paint(self)
        if self.look.point is not None:
            self._currents()
        for finding in self.look.findings:
            self._finding(finding)
        for part, terminal in self.look.watched:
            self._arrow(part, terminal)

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

    # -- devices

    def _currents(self) -> None:
        """At the terminals of selected parts, with an arrow in or out."""
        for name in self.look.picked.parts:
            part = next((p for p in self.scene.cell.parts if p.name == name), None)
            if part is None or name in self.scene.unknown:
                continue
            places = self.scene.terminals[name]
            currents = self.look.pin_currents.get(name)
            if currents is None:
                currents = terminal_currents(self.look.point.part(self.look.instance.part(name)), places)
            for terminal, place in places.items():
                current = currents.get(terminal, currents.get(terminal.lower()))
                if current is not None:
                    self._current(part, place, current)

    def _current(self, part: Part, place: tuple[int, int], current: float) -> None:
        dx, dy = place[0] - part.at[0], place[1] - part.at[1]
        text = f"{'→' if current >= 0 else '←'} {write(abs(current), 'A', 3)}"
        at = self.view.to_screen(*place)
        font = figure_font(10)
        width = QFontMetricsF(font).horizontalAdvance(text)
        left = at.x() - width - 10 if dx < 0 else at.x() + 8
        below = dy > 0 or abs(dx) > abs(dy)  # above a level wire stands its voltage
        y = at.y() + (17 if below else -9)
        self.painter.fillRect(QRectF(left - 2, y - 11, width + 4, 14), theme.color("paper", 220))
        self.text(QPointF(left, y), text, self.live_role, font=font)

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
