"""Every terminal of every transistor, the one that comes nearest to oscillating first; a click leads there."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from hearthline.app.panels.bar import Bar
from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import chip, clear, heading, quiet
from hearthline.app.state.desk import Desk
from hearthline.app.state.pointing import with_look
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.theme import theme
from hearthline.core.bench.nearness import Near
from hearthline.core.quantity import write
from hearthline.core.spread.pvt import Condition

MOST = 40
"""Rows."""


class LoopRow(QFrame):
    """One terminal: its name, a bar as long as it is warm, how far from the critical point, where."""

    clicked = pyqtSignal(object)

    def __init__(self, near: Near, words: str, watch: Callable[[Near], None]) -> None:
        super().__init__()
        self.near = near
        self.setObjectName("card")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(10, 5, 10, 5)
        name = Label(near.terminal)
        name.setFont(text_font(12, bold=True))
        name.setMinimumWidth(96)
        bar = Bar(near.heat)
        far = "beyond -1" if near.beyond else f"{near.distance:.3g} away"
        figures = Label(f"{far} at {write(near.frequency, 'Hz', 3)}")
        figures.setFont(figure_font(11))
        where = quiet(f"{words}; {near.carrier}" if near.carrier else words)
        layout.addWidget(name)
        layout.addWidget(bar)
        layout.addWidget(figures)
        layout.addWidget(where, 1)
        layout.addWidget(chip("look", lambda: watch(near), "adds what is seen at this terminal to the bench"))

    def mousePressEvent(self, event) -> None:
        """Shows the part."""
        self.clicked.emit(self.near)


class LoopsView(QScrollArea):
    """Asks when it is wanted, follows the answer."""

    def __init__(self, desk: Desk, show: Callable[[str], None]) -> None:
        super().__init__()
        self.desk, self._show = desk, show
        self.setObjectName("findings")
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        body = QWidget()
        self.column = QVBoxLayout(body)
        self.column.setContentsMargins(14, 10, 14, 10)
        self.setWidget(body)
        desk.warmth.changed.connect(self._list)
        desk.bench_changed.connect(self._list)
        theme.changed.connect(self._list)
        self._list()

    def _list(self) -> None:
        clear(self.column)
        warmth = self.desk.warmth
        self.column.addWidget(heading("Where does this want to oscillate"))
        button = QPushButton("looking …" if warmth.busy else "Look at every terminal")
        button.setEnabled(not warmth.busy and self.desk.bench is not None)
        button.clicked.connect(lambda _=False: warmth.ask(self.desk.snapshot))
        self.column.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)
        if warmth.error is not None:
            self.column.addWidget(_wrapped(str(warmth.error)))
        elif warmth.found is None:
            self.column.addWidget(_wrapped(
                "Nothing is inserted: each terminal of each transistor is cut in the equations, from 1 MHz to 30 GHz, at all "
                "conditions of the bench. The drawing then shows by its warmth where it comes near."
            ))  # fmt: skip
        else:
            self._say_poles()
            for near in warmth.found.terminals[:MOST]:
                row = LoopRow(near, self._words(near.condition), self._watch)
                row.clicked.connect(lambda one: self._show(one.terminal.rpartition(".")[0]))
                self.column.addWidget(row)
        self.column.addStretch()

    def _say_poles(self) -> None:
        found = self.desk.warmth.found
        if not found.growing:
            self.column.addWidget(quiet(f"No pole grows at any of {len(found.poles)} conditions."))
        for condition, count in found.growing[:6]:
            text = Label(
                f"{count} pole{'s' * (count > 1)} grow{'s' * (count == 1)} at {self._words(condition)}: it oscillates"
            )
            text.setStyleSheet(f"color: {theme.color('ember_ink').name()}")
            text.setFont(text_font(12, bold=True))
            self.column.addWidget(text)

    def _words(self, condition: Condition) -> str:
        units = self.desk.snapshot.parameter_units if self.desk.snapshot else {}
        celsius = f"{condition.celsius:g} °C".replace("-", "−")
        values = [f"{name} {write(value, units.get(name, ''))}" for name, value in condition.parameters.items()]
        return " ".join([condition.corner, celsius, *values, condition.around]).strip()

    def _watch(self, near: Near) -> None:
        """Adds the look at a terminal to the bench."""
        self.desk.change_bench(with_look(self.desk.bench, near.terminal), f"look at {near.terminal}")


def _wrapped(text: str) -> Label:
    label = quiet(text)
    label.setWordWrap(True)
    return label
