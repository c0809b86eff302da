"""The card at the foot of the drawing: how the operating point is, or what is wrong, with a button that shows the place."""

from __future__ import annotations

from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QWidget

from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import quiet
from hearthline.app.panels.value_field import set_wrong
from hearthline.app.state.desk import Desk
from hearthline.app.state.values import PointValues
from hearthline.app.theme.fonts import text_font
from hearthline.core.errors import CircuitError, ConvergenceError, HearthlineError


class PointCard(QFrame):
    """Says `live · 4 ms · all in saturation`, or the error of the operating point."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.setObjectName("pointcard")
        self.head = quiet("Operating point", wrap=False)
        self.text = Label("waiting for the engine")
        self.text.setFont(text_font(12))
        self.text.setWordWrap(True)
        self.button = QPushButton()
        self.button.clicked.connect(lambda _=False: self._show_place())
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 4, 8, 4)
        row.setSpacing(10)
        row.addWidget(self.head)
        row.addWidget(self.text, 1)
        row.addWidget(self.button)
        self._place: tuple[str, str] | None = None
        self._hint = ""
        for signal in (desk.point_solved, desk.bench_changed, desk.message_changed, desk.findings_changed):
            signal.connect(self._show)
        self._show()

    def show_hint(self, hint: str) -> None:
        """What the tool in hand is for, in the place of the operating point, until it is put away."""
        self._hint = hint
        self._show()

    def _show(self) -> None:
        if self._hint and self.desk.message is None:
            set_wrong(self, False)
            self.head.setText("In hand")
            self.text.setText(self._hint)
            self.button.hide()
            return
        answer, message = self.desk.point, self.desk.message
        error = message or (answer.error if answer else None)
        if message is None and error is not None and self.desk.stands_alone:
            self._show_alone()
            return
        self.head.setText("Message" if message else "Operating point")
        set_wrong(self, error is not None)
        self._place = self._place_of(error)
        self.button.setVisible(self._place is not None or message is not None)
        if error is not None:
            self.text.setText(str(error))
            self.button.setText(f"Show {self._place[1]}" if self._place else "Dismiss")
        elif answer is not None:
            count = len(self.desk.findings)
            found = f" · {count} finding{'s' * (count > 1)}" if count else ""
            self.text.setText(f"live · {max(1, round(answer.milliseconds))} ms · {regions(answer.values)}{found}")
        elif self.desk.snapshot is None:
            self.text.setText("none: the project has no bench or no process kit")
        else:
            self.text.setText("the engine is loading")

    def _show_alone(self) -> None:
        """A cell that is shown by itself has nothing at its pins; that is no mistake."""
        set_wrong(self, False)
        self._place = None
        self.button.hide()
        self.text.setText(
            f"{self.desk.cell.name} is shown without a bench, so nothing is tied to its pins; Ctrl+E makes one"
        )

    def _place_of(self, error: HearthlineError | None) -> tuple[str, str] | None:
        """The part or net that an error is about, as it is called on the drawing."""
        cell, instance = self.desk.cell, self.desk.instance
        if cell is None or error is None:
            return None
        part, net = "", ""
        if isinstance(error, CircuitError):
            part, net = error.part, error.net
        elif isinstance(error, ConvergenceError):
            net = error.nets[0] if error.nets else ""
        for known in cell.parts:
            if part and part.lower() in (known.name.lower(), instance.part(known.name)):
                return ("part", known.name)
        block, dot, _ = part.partition(".")
        if dot and not self.desk.trail:
            return next((("part", known.name) for known in cell.parts if known.name.lower() == block.lower()), None)
        return ("net", net) if net else None

    def _show_place(self) -> None:
        if self._place:
            self.desk.select(*self._place)
        else:
            self.desk.tell(None)


def regions(values: PointValues) -> str:
    """How the transistors stand, in words: `all in saturation`, `m2 in triode`."""
    states = values.regions
    others = [
        f"{name.upper()} {'off' if state == 'off' else f'in {state}'}"
        for name, state in states.items()
        if state != "saturation"
    ]
    if not states:
        return "no transistors"
    if not others:
        return "all in saturation"
    return ", ".join(others[:3]) + (f" and {len(others) - 3} more" if len(others) > 3 else "")
