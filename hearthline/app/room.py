"""The division of the desk: drawing, views beside it, details. The room follows the work."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QHBoxLayout, QSplitter, QSplitterHandle, QVBoxLayout, QWidget

from hearthline.app.canvas.drawing import Drawing
from hearthline.app.panels.breadcrumb import Breadcrumb
from hearthline.app.panels.card import PointCard
from hearthline.app.panels.details import WIDTH as DETAILS
from hearthline.app.panels.details import Details
from hearthline.app.panels.first_card import FirstCard
from hearthline.app.panels.side import Side
from hearthline.app.state.desk import Desk
from hearthline.app.state.memory import Memory

DRAWING, SIDE = 540, 664
"""Widths of drawing and views that a window of 1280 begins with; a wider one shares what is more [px]."""

FIRST = "first card put away"
NARROW_DRAWING, NARROW_SIDE = 300, 300


class Handle(QSplitterHandle):
    """Between drawing and views; a double click gives both what they began with."""

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Back to the usual."""
        splitter = self.splitter()
        if isinstance(splitter, Halves):
            splitter.restore()


class Halves(QSplitter):
    """Drawing and views."""

    def __init__(self) -> None:
        super().__init__(Qt.Orientation.Horizontal)
        self.setChildrenCollapsible(False)
        self.setHandleWidth(5)
        self.setAccessibleName("drawing and views")

    def createHandle(self) -> QSplitterHandle:
        """One that knows the double click."""
        return Handle(self.orientation(), self)

    def restore(self) -> None:
        """The usual widths."""
        whole = max(self.width(), 2)
        self.setSizes([round(whole * DRAWING / (DRAWING + SIDE)), round(whole * SIDE / (DRAWING + SIDE))])


class Room(QWidget):
    """Holds the panels. `shown` is what the keys ask for: `drawing`, `both` or `charts`; charts take no room before there is
    something to show in them."""

    def __init__(self, desk: Desk, memory: Memory, drawing: Drawing, side: Side, details: Details) -> None:
        super().__init__()
        self.desk, self.memory = desk, memory
        self.drawing, self.side, self.details = drawing, side, details
        self.shown = "both"
        self.split = Halves()
        self.card = PointCard(desk, drawing)
        self.breadcrumb = Breadcrumb(desk)
        self.aside = QWidget()
        self.aside.setObjectName("desk")
        self._lay_out()
        details.wanted_changed.connect(self.follow)
        side.asked.connect(lambda: self._show_side(True))
        side.put_away.connect(lambda: self.divide("drawing"))
        drawing.tool_changed.connect(lambda: self.card.show_hint(drawing.tool.hint))
        desk.project_changed.connect(self._recall)
        desk.bench_changed.connect(self._for_bench)
        desk.results.run_changed.connect(self._for_run)
        self.split.splitterMoved.connect(self._remember_split)
        self._show_side(False)

    def _lay_out(self) -> None:
        left = QWidget()
        left.setObjectName("desk")
        column = QVBoxLayout(left)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.drawing, 1)
        column.addWidget(self.card)
        self.split.addWidget(left)
        self.split.addWidget(self.side)
        self.split.setStretchFactor(
            0, 0
        )  # details take their room from the views, so that the drawing stays where it is
        self.split.setStretchFactor(1, 1)
        left.setMinimumWidth(NARROW_DRAWING)
        self.side.setMinimumWidth(NARROW_SIDE)
        bar = QHBoxLayout()
        bar.setContentsMargins(0, 0, 8, 0)
        bar.setSpacing(8)
        bar.addWidget(self.breadcrumb)
        bar.addStretch(1)
        bar.addWidget(self.side.bar)
        self.aside.setFixedWidth(DETAILS)
        halves = QHBoxLayout()
        halves.setSpacing(0)
        halves.addWidget(self.split, 1)
        halves.addWidget(self.aside)
        middle = QVBoxLayout()
        middle.setContentsMargins(0, 0, 0, 0)
        middle.setSpacing(0)
        middle.addLayout(bar)
        middle.addLayout(halves, 1)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addLayout(middle, 1)
        inside = QVBoxLayout(self.aside)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.addWidget(self.details, 1)
        self.first = FirstCard(self._put_first_away)
        inside.addWidget(self.first)
        inside.addStretch()

    # -- drawing and views

    def divide(self, what: str) -> None:
        """`drawing`, `charts` or `both`."""
        self.shown = what
        self.split.widget(0).setVisible(what != "charts")
        self._show_side(what != "drawing")

    def _show_side(self, shown: bool) -> None:
        if shown and self.shown == "drawing":
            self.shown = "both"
        was = not self.side.isHidden()
        self.side.setVisible(shown)
        self.side.mark(shown)
        self.follow()
        if shown and not was:
            self.layout().activate()  # so that the halves know how much room they have
            self._recall_split()

    def _recall_split(self) -> None:
        share = self.memory.get("drawing share", 0.0, self._project)
        if isinstance(share, float) and 0.1 < share < 0.9:
            whole = max(self.split.width(), 2)
            self.split.setSizes([round(whole * share), round(whole * (1 - share))])
        else:
            self.split.restore()

    def _remember_split(self) -> None:
        left, right = self.split.sizes()
        if left and right:
            self.memory.put("drawing share", round(left / (left + right), 3), self._project)

    @property
    def _project(self):
        return self.desk.project.folder if self.desk.project else None

    def _for_bench(self) -> None:
        """Charts take no room before there is something to show in them; other views stay as they are."""
        if self.side.name == "charts" and self.shown == "both":
            self._show_side(self.desk.results.dataset is not None)

    def _for_run(self) -> None:
        """What came out is shown."""
        if self.desk.results.dataset is not None and self.side.isHidden():
            self._show_side(True)

    # -- details

    def follow(self) -> None:
        """Details come and go; where the drawing is alone their place stays free, so that it need not move."""
        self.details.setVisible(self.details.wanted)
        self.first.setVisible(
            not self.details.wanted and not self.memory.get(FIRST, False) and self.desk.cell is not None
        )
        self.aside.setVisible(self.details.wanted or self.side.isHidden())

    def _put_first_away(self) -> None:
        self.memory.put(FIRST, True)
        self.follow()

    def _recall(self) -> None:
        """How this project's desk was divided the last time."""
        self.details.pinned = bool(self.memory.get("details kept", False, self._project))
        self.follow()
