"""A table of one number at every condition: corners down, the other conditions across; the worst is marked."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QHelpEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QToolTip, QWidget

from hearthline.app.charts.family import group_text
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.marks import draw_mark
from hearthline.app.theme.theme import theme
from hearthline.core.bench.readings import describe_lane
from hearthline.core.bench.verdict import State, Verdict
from hearthline.core.data.dataset import Dataset
from hearthline.core.quantity import write

HEAD, ROW, SIDE, GAP = 34, 22, 46, 3
NO_VERDICT = Verdict(State.UNKNOWN)


@dataclass(frozen=True)
class Cells:
    """What the table shows: values (lanes,), their unit, and the verdict on them where there is one."""

    values: np.ndarray
    unit: str
    verdict: Verdict = NO_VERDICT


class ConditionTable(QWidget):
    """`chosen(lane)` on a click."""

    chosen = pyqtSignal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.dataset: Dataset | None = None
        self.cells: Cells | None = None
        self.failures: Mapping[int, str] = {}
        self.lane = -1
        self.rows: list[str] = []
        self.columns: list[tuple] = []
        self.setAccessibleName("conditions")
        self.setMinimumHeight(60)

    def show_cells(
        self, dataset: Dataset | None, cells: Cells | None, failures: Mapping[int, str] | None = None
    ) -> None:
        """New numbers; `failures` says of each lane that did not converge why."""
        self.dataset, self.cells, self.failures = dataset, cells, failures or {}
        if dataset is not None:
            self.rows = list(dict.fromkeys(dataset.conditions["corner"].tolist()))
            self.columns = list(dict.fromkeys(self._others(lane) for lane in range(dataset.lanes)))
            self.setFixedHeight(HEAD + ROW * len(self.rows) + 6)
        self.update()

    def choose(self, lane: int) -> None:
        """Frames a lane."""
        self.lane = lane
        self.update()

    def box_of(self, lane: int) -> QRectF:
        """Where the cell of a lane is."""
        row = self.rows.index(str(self.dataset.conditions["corner"][lane]))
        column = self.columns.index(self._others(lane))
        width = (self.width() - SIDE - 12) / max(1, len(self.columns))
        return QRectF(SIDE + column * width + GAP / 2, HEAD + row * ROW + GAP / 2, width - GAP, ROW - GAP)

    def _others(self, lane: int) -> tuple:
        return tuple(self.dataset.conditions[name][lane] for name in self._names())

    def _names(self) -> list[str]:
        """What stands over the columns, first what takes several values."""
        conditions = self.dataset.conditions
        return sorted((name for name in conditions if name != "corner"), key=lambda n: len(set(conditions[n])) < 2)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Heads, then cells."""
        if self.dataset is None or self.cells is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_heads(painter)
        for lane in range(self.dataset.lanes):
            self._paint_cell(painter, lane)

    def _paint_heads(self, painter: QPainter) -> None:
        painter.setFont(text_font(11))
        painter.setPen(theme.color("quiet"))
        for k, corner in enumerate(self.rows):
            box = QRectF(14, HEAD + k * ROW, SIDE, ROW)
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, corner)
        width = (self.width() - SIDE - 12) / max(1, len(self.columns))
        for level, name in enumerate(self._names()[:2]):
            begin = 0
            for k in range(1, len(self.columns) + 1):
                if k == len(self.columns) or self.columns[k][: level + 1] != self.columns[begin][: level + 1]:
                    box = QRectF(SIDE + begin * width, level * 16, (k - begin) * width, 16)
                    text = group_text(name, self.columns[begin][level], self.dataset.units.get(name, ""))
                    if painter.fontMetrics().horizontalAdvance(text) > box.width():
                        text = text.rsplit(" ", 1)[0]
                    text = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(box.width()))
                    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
                    begin = k

    def _paint_cell(self, painter: QPainter, lane: int) -> None:
        box, state = self.box_of(lane), self.cells.verdict.at(lane)
        wash = {State.FAILS: "ember_wash", State.CLOSE: "raised"}.get(state, "panel")
        edge = {State.FAILS: "ember", State.CLOSE: "amber"}.get(state, "line")
        worst = lane == self.cells.verdict.lane
        painter.setBrush(theme.color(wash))
        painter.setPen(QPen(theme.color(edge), 1.8 if worst else 1))
        if lane == self.lane:
            painter.setPen(QPen(theme.color("teal"), 2))
        painter.drawRoundedRect(box, 3, 3)
        room = QRectF(box)
        if state in (State.FAILS, State.CLOSE) and box.width() > 40:
            draw_mark(painter, state, QPointF(box.right() - 6, box.center().y()), 6)
            room.setRight(box.right() - 8)
        elif state in (State.FAILS, State.CLOSE):
            draw_mark(painter, state, box.topRight() + QPointF(-3, 3), 4)
        painter.setFont(figure_font(11 if box.width() > 38 else 10))
        painter.setPen(theme.color("ember_ink" if state is State.FAILS else "ink"))
        text = self._number(lane)
        if painter.fontMetrics().horizontalAdvance(text) <= room.width() + 1:  # in a narrow table the tip says it
            painter.drawText(room, Qt.AlignmentFlag.AlignCenter, text)

    def _number(self, lane: int) -> str:
        value = self.cells.values[lane]
        if np.isnan(value):
            return "–"
        text = write(float(value), self.cells.unit, 3)
        return text.rsplit(" ", 1)[0] if self.cells.unit == "" else text.replace(" ", "").replace(self.cells.unit, "")

    def words(self, lane: int) -> str:
        """The whole condition, its number, and why it has none."""
        value = write(float(self.cells.values[lane]), self.cells.unit, 5)
        failure = f"\n{self.failures[lane]}" if lane in self.failures else ""
        return f"{describe_lane(self.dataset, lane)}: {value}{failure}"

    def _lane_at(self, position: QPointF) -> int:
        if self.dataset is None:
            return -1
        return next((lane for lane in range(self.dataset.lanes) if self.box_of(lane).contains(position)), -1)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Chooses the condition."""
        self.chosen.emit(self._lane_at(event.position()))

    def event(self, event) -> bool:
        """Says the whole condition and number under the pointer."""
        if isinstance(event, QHelpEvent) and self.cells is not None:
            lane = self._lane_at(QPointF(event.pos()))
            if lane >= 0:
                QToolTip.showText(event.globalPos(), self.words(lane), self)
            return True
        return super().event(event)
