"""The hearth line: a segment for each specification, that glows as its worst condition nears the limit."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLineEdit, QScrollArea, QSizePolicy, QWidget

from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import clear
from hearthline.app.panels.value_field import set_wrong
from hearthline.app.state.desk import Desk
from hearthline.app.state.judging import percent
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.marks import ROLES, TEXT_ROLES, draw_mark
from hearthline.app.theme.theme import theme
from hearthline.core.bench.bench import Specification
from hearthline.core.bench.readings import describe_lane
from hearthline.core.bench.verdict import State, Verdict, limits, target_of
from hearthline.core.errors import HearthlineError
from hearthline.core.quantity import write

HEIGHT = 84
COMFORTABLE = 0.5
"""Margin in units of the limit at which the bar is as good as cold."""


class HearthLine(QScrollArea):
    """All segments of the current bench."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.setObjectName("hearth")
        self.setFixedHeight(HEIGHT)
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        body = QWidget()
        self.row = QHBoxLayout(body)
        self.row.setContentsMargins(0, 0, 0, 0)
        self.row.setSpacing(0)
        self.setWidget(body)
        self.segments: list[Segment] = []
        desk.bench_changed.connect(self._build)
        desk.document_changed.connect(self._follow)
        desk.results.verdicts_changed.connect(self._show)
        desk.results.stale_changed.connect(self._show)
        desk.results.run_changed.connect(self._show)
        desk.spread.judged_changed.connect(self._show)
        theme.changed.connect(self._show)
        self._build()

    def _build(self) -> None:
        clear(self.row)
        bench = self.desk.bench
        self.segments = [Segment(self.desk, s) for s in bench.specifications] if bench else []
        for segment in self.segments:
            self.row.addWidget(segment)
        if not self.segments:
            empty = Label(
                "No specification yet: give a reading limits under bench, beside the drawing, and its margin stands here."
            )
            empty.setProperty("quiet", True)
            empty.setContentsMargins(14, 0, 0, 0)
            self.row.addWidget(empty)
        self._show()

    def _follow(self) -> None:
        bench = self.desk.bench
        if bench and [s.reading for s in bench.specifications] != [segment.reading for segment in self.segments]:
            self._build()

    def _show(self) -> None:
        for segment in self.segments:
            segment.show_verdict()


class Segment(QWidget):
    """One specification. A click shows its worst condition in the charts; its limits are edited in place."""

    def __init__(self, desk: Desk, specification: Specification) -> None:
        super().__init__()
        self.desk, self.reading = desk, specification.reading
        self._said: tuple | None = None
        self.setMinimumWidth(176)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(HEIGHT)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(f"specification {self.reading}")
        self.low = self._limit_field("low", specification.low)
        self.high = self._limit_field("high", specification.high)
        self.target = self._limit_field("target", specification.target)
        self.verdict = Verdict(State.UNKNOWN)
        self.show_verdict()

    @property
    def specification(self) -> Specification | None:
        """The limits as they are now in the document."""
        bench = self.desk.bench
        return next((s for s in bench.specifications if s.reading == self.reading), None) if bench else None

    @property
    def unit(self) -> str:
        """Unit of the reading."""
        numbers = self.desk.results.numbers.get(self.reading)
        if numbers is not None and numbers.unit:
            return numbers.unit
        return next((r.unit for r in self.desk.bench.readings if r.name == self.reading), "")

    def _limit_field(self, end: str, text: str) -> QLineEdit:
        field = QLineEdit(text, self)
        field.setProperty("limit", True)
        field.setFont(figure_font(11))
        field.setPlaceholderText("none" if end != "target" else "target")
        field.setAlignment(Qt.AlignmentFlag.AlignCenter)
        field.setAccessibleName(f"{self.reading} {end}")
        field.setObjectName(f"limit {self.reading} {end}")
        field.setToolTip(
            {
                "low": "lower limit; empty for none",
                "high": "upper limit; empty for none",
                "target": "where it should be; the distance of the worst condition is told",
            }[end]
        )
        field.setCursor(Qt.CursorShape.IBeamCursor)
        field.setFixedHeight(18)
        field.textEdited.connect(lambda typed: self._edit(end, typed, field))
        field.editingFinished.connect(self._settle)
        return field

    def _edit(self, end: str, text: str, field: QLineEdit) -> None:
        new = replace(self.specification, **{end: text.strip()})
        try:
            limits(new, self.unit)
            target_of(new, self.unit)
        except HearthlineError as error:
            set_wrong(field, True)
            field.setToolTip(str(error))
            return
        set_wrong(field, False)
        self.desk.change_limit(new, f"limit {self.reading} {end}")

    def _settle(self) -> None:
        """A text that is no limit gives way to the one in force."""
        specification = self.specification
        if specification:
            for field, text in self._fields(specification):
                if not field.hasFocus() or field.property("wrong"):
                    field.setText(text)
                    set_wrong(field, False)
        self.desk.documents.end_typing()

    def _fields(self, specification: Specification) -> list[tuple[QLineEdit, str]]:
        return [(self.low, specification.low), (self.high, specification.high), (self.target, specification.target)]

    def show_verdict(self) -> None:
        """Takes what the desk says now; painted again only where that is something else."""
        results, specification = self.desk.results, self.specification
        judged = self.desk.spread.judged
        said = (results.verdicts.get(self.reading), specification, results.run, results.stale, theme.palette, judged)
        if self._said is not None and all(a is b for a, b in zip(said, self._said, strict=True)):
            return
        self._said = said
        self.verdict = self.desk.results.verdicts.get(self.reading, Verdict(State.UNKNOWN))
        if specification:
            for field, text in self._fields(specification):
                if not field.hasFocus() and field.text() != text:
                    field.setText(text)
        self._place_fields()
        self.update()

    def _place_fields(self) -> None:
        width = 46
        right = self.width() - 12
        self.high.setGeometry(right - width, 40, width, 18)
        self.low.setGeometry(right - 2 * width - 14, 40, width, 18)
        self.target.setGeometry(right - 3 * width - 28, 40, width, 18)
        specification = self.specification
        aimed = specification is not None and (bool(specification.target) or self.target.hasFocus())
        self.target.setVisible(aimed and self.width() > 230)

    def resizeEvent(self, event) -> None:
        """Fields stay at the right."""
        self._place_fields()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Shows the worst condition."""
        results, reading = self.desk.results, self.desk.results.reading(self.reading)
        if reading is None:
            return
        results.show_analysis(self.desk.bench.analysis_of(reading))
        data = results.dataset_of(self.reading)
        if self.verdict.lane >= 0 and data is not None:
            results.choose_condition(self.verdict.lane // data.per_condition)
        results.mark(self.reading)
        self.desk.show_reading.emit(self.reading)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Name and mark, the warmth of the margin, the worst value and its condition."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        verdict, width = self.verdict, self.width()
        painter.setPen(QPen(theme.color("line"), 1))
        painter.drawLine(width - 1, 10, width - 1, HEIGHT - 10)
        self._paint_head(painter, width)
        self._paint_bar(painter, QRectF(14, 27, width - 28, 8))
        painter.setFont(figure_font(13))
        painter.setPen(theme.color(TEXT_ROLES[verdict.state] if verdict.state is State.FAILS else "ink"))
        value = "–" if verdict.lane < 0 else write(verdict.worst, self.unit, 4)
        painter.drawText(QPointF(14, 54), value)
        painter.setFont(text_font(11))
        painter.setPen(theme.color("quiet"))
        painter.drawText(QPointF(width - 12 - 46 - 11, 53), "…")
        if self.target.isVisible():
            painter.drawText(QPointF(width - 12 - 2 * 46 - 25, 53), "◇")
        painter.drawText(QRectF(14, 60, width - 28, 18), Qt.AlignmentFlag.AlignVCenter, self._context())

    def _paint_head(self, painter: QPainter, width: int) -> None:
        state = self.verdict.state
        painter.setFont(text_font(12, bold=True))
        painter.setPen(theme.color("ink"))
        room = painter.fontMetrics()
        word = state.value
        right = room.horizontalAdvance(word) + 14
        name = room.elidedText(self.reading, Qt.TextElideMode.ElideRight, width - 36 - right)
        painter.drawText(QPointF(14, 20), name)
        painter.setPen(theme.color(TEXT_ROLES[state]))
        painter.drawText(QPointF(width - 14 - room.horizontalAdvance(word), 20), word)
        draw_mark(painter, state, QPointF(width - 14 - right + 5, 16))

    def _paint_bar(self, painter: QPainter, box: QRectF) -> None:
        """How much of a comfortable margin is left; the tick is the limit of what counts as close."""
        painter.setPen(QPen(theme.color("line"), 1))
        painter.setBrush(theme.color("paper"))
        painter.drawRoundedRect(box, 4, 4)
        verdict = self.verdict
        if verdict.lane < 0 or verdict.state is State.AIMED:
            return
        share = max(0.04, min(1.0, abs(verdict.relative) / COMFORTABLE))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color(ROLES[verdict.state]))
        painter.drawRoundedRect(QRectF(box.left(), box.top(), max(8.0, box.width() * share), box.height()), 4, 4)
        painter.setPen(QPen(theme.color("ink"), 1))
        tick = int(box.left() + box.width() * 0.2)
        painter.drawLine(tick, int(box.top()) - 2, tick, int(box.bottom()) + 2)

    def _of_samples(self) -> list[str]:
        """The margin in standard deviations and the yield, where there are samples."""
        spread = self.desk.spread
        if spread.samples is None or self.reading not in spread.judged.passing:
            return []
        room = spread.sigmas(self.reading)
        words = [f"{room:.1f} σ".replace("-", "−")] if np.isfinite(room) else []
        return [*words, f"{percent(spread.judged.of(self.reading).share)} % pass"]

    def _context(self) -> str:
        verdict, results = self.verdict, self.desk.results
        data = results.dataset_of(self.reading)
        if verdict.lane < 0 or data is None:
            problem = results.numbers[self.reading].problem if self.reading in results.numbers else ""
            return problem or (
                "press Run to find the worst condition" if results.run is None else "no condition has this reading"
            )
        words = [describe_lane(data, verdict.lane)]
        if results.stale:
            words.append("before the last change")
        elif verdict.state is State.AIMED:
            words.append(f"off by {write(verdict.away, self.unit, 3)}" if verdict.away == verdict.away else "no limit")
        else:
            words.append(f"margin {write(verdict.margin, self.unit, 3)}")
            words += self._of_samples()
            if verdict.away == verdict.away:
                words.append(f"◇ {write(verdict.away, self.unit, 2)}")
        if verdict.missing:
            words.append(f"{verdict.missing} missing")
        return " · ".join(words)
