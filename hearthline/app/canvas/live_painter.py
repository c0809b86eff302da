"""Paints what is live on top of a scene: voltages, currents, gauges and values, notes with their formulas, findings."""

from __future__ import annotations

import re

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QPen, QPolygonF

from hearthline.app.canvas.gauge import gauge_of, paint_gauge
from hearthline.app.canvas.painter import NAMES_FROM, VALUES_FROM, Brush, beside, faces_left
from hearthline.app.state.values import Quantity, saturation_role, terminal_currents
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.theme import theme
from hearthline.core.circuit.cell import Cell, Note, Part
from hearthline.core.circuit.rules.finding import ERROR, Finding
from hearthline.core.circuit.symbols import GROUND_SYMBOL
from hearthline.core.quantity import write

GAUGE_WIDTH, SMALL_GAUGE = 128, 72
_FORMULA = re.compile(r"\{([^{}]*)\}")


class LivePainter(Brush):
    """One pass over what changes with the operating point and the checks."""

    def paint(self) -> None:
        """Values, then tags, then notes and findings."""
        point = self.look.point
        if point is not None and self.view.scale >= NAMES_FROM:
            for part in self.scene.cell.parts:
                if part.device != GROUND_SYMBOL and self.visible(part.at):
                    self._values(part)
        if point is not None and self.view.scale >= NAMES_FROM:
            self._voltages()
            self._currents()
        if self.view.scale >= NAMES_FROM:
            for note in self.scene.cell.notes:
                if self.visible(note.at):
                    self._note(note)
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

    @property
    def _role(self) -> str:
        return "quiet" if self.look.stale else "teal"

    # -- devices

    def _values(self, part: Part) -> None:
        symbol = self.scene.symbol(part)
        if symbol is None or isinstance(symbol, Cell):
            return
        values = self.look.point.part(self.look.instance.part(part.name))
        if not values:
            return
        wide = GAUGE_WIDTH if self.view.scale >= VALUES_FROM else SMALL_GAUGE
        at = beside(self, part, wide if faces_left(self.scene, part) else 0)
        if part.turn % 2:  # a part that lies has its words above, and its values below
            at = self.view.to_screen(self.scene.part_box(part)[0], self.scene.part_box(part)[3])
        line = self.size(12) + 4
        at.setY(at.y() + 6)
        gauge = gauge_of(values)
        if gauge:
            paint_gauge(self.painter, QRectF(at.x(), at.y() + 1, wide, 6), gauge, self.look.stale)
            at.setY(at.y() + 8)
        if self.view.scale < VALUES_FROM:
            return
        chosen = [values[name] for name in self.look.columns.get(symbol.kind, ()) if name in values]
        self._columns(at, line, chosen[:1] if part.turn % 2 else chosen, values)

    def _columns(self, at: QPointF, line: int, chosen: list[Quantity], values: dict[str, Quantity]) -> None:
        """The chosen values in two columns."""
        pitch = self.size(11) * 8.6
        for k, quantity in enumerate(chosen):
            x, y = at.x() + (k % 2) * pitch, at.y() + (k // 2 + 1) * line
            name = self.text(QPointF(x, y), quantity.name, "quiet", size=11)
            role, text = self._role, quantity.text
            if quantity.name == "sat" and "region" in values and not self.look.stale:
                off = values["region"].value == 0
                role = {"amber": "amber_ink", "ember": "ember_ink"}.get(saturation_role(values), role)
                text = "off" if off else text
            font = figure_font(self.size(11))
            self.text(QPointF(x + max(name + 5, self.size(11) * 2.2), y), text, role, font=font)

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
        font = figure_font(self.size(10))
        width = QFontMetricsF(font).horizontalAdvance(text)
        left = at.x() - width - 10 if dx < 0 else at.x() + 8
        below = dy > 0 or abs(dx) > abs(dy)  # above a level wire stands its voltage
        y = at.y() + (17 if below else -9)
        self.painter.fillRect(QRectF(left - 2, y - 11, width + 4, 14), theme.color("paper", 220))
        self.text(QPointF(left, y), text, self._role, font=font)

    # -- nets

    def _voltages(self) -> None:
        """Of named nets always, of the others where the pointer is."""
        if self.scene.connections is None:
            return
        cell = self.scene.cell
        named = [*(pin.name for pin in cell.pins), *(label.net for label in cell.labels)]
        shown = dict.fromkeys(named)
        if self.look.lit_net:
            shown[self.look.lit_net] = None
        for net in shown:
            volts = self.look.point.voltage(self.look.instance.net(net))
            place = self._tag_place(net)
            if volts is not None and place is not None and net != "0":
                self._tag(place, write(volts, "V", 4))

    def _tag_place(self, net: str) -> QPointF | None:
        pin = next((pin for pin in self.scene.cell.pins if pin.name == net), None)
        if pin and pin.kind == "supply":
            return self.view.to_screen(pin.at[0] + 2, pin.at[1] - 0.8) + QPointF(34, 0)
        label = next((one for one in self.scene.cell.labels if one.net == net), None)
        if label and label.kind == "supply":
            return self.view.to_screen(label.at[0] + 2, label.at[1] - 0.8) + QPointF(34, 0)
        if label and not pin:
            width = QFontMetricsF(text_font(self.size(11), True)).horizontalAdvance(net)
            return self.view.to_screen(label.at[0] + 0.4, label.at[1] - 0.4) + QPointF(width + 38, -4)
        place = self.scene.net_anchor(net)
        if place is not None:
            return self.view.to_screen(*place) + QPointF(0, -15)
        return self.view.to_screen(pin.at[0] + 1, pin.at[1]) + QPointF(36, 0) if pin else None

    def _tag(self, middle: QPointF, text: str) -> None:
        font = figure_font(self.size(11))
        width = QFontMetricsF(font).horizontalAdvance(text) + 14
        box = QRectF(middle.x() - width / 2, middle.y() - 9, width, 18)
        self.painter.setPen(QPen(theme.color(self._role), 1))
        self.painter.setBrush(theme.color("paper"))
        self.painter.drawRoundedRect(box, 9, 9)
        self.painter.setFont(font)
        self.painter.setPen(theme.color(self._role))
        self.painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

    # -- notes and findings

    def _note(self, note: Note) -> None:
        font = text_font(self.size(12))
        line = QFontMetricsF(font).height()
        at = self.view.to_screen(*note.at)
        for k, text in enumerate(note.text.split("\n")):
            self.text(at + QPointF(0, k * line), _FORMULA.sub(self._formula, text), "quiet", font=font)

    def _formula(self, match: re.Match) -> str:
        if self.look.point is None:
            return "–"
        return self.look.point.formula(match[1], self.look.instance)

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
