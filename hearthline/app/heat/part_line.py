"""The fingers of the part that is selected on the die: place, size, number and pitch, typed."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QWidget

from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import chip, quiet
from hearthline.app.panels.text_line import TextLine
from hearthline.app.theme.fonts import text_font
from hearthline.core.bench.heat import HeatSetup
from hearthline.core.bench.heat_placing import with_line
from hearthline.core.errors import HearthlineError

FIELDS = {
    "at": (120, "middle of the row"),
    "size": (120, "of a finger"),
    "fingers": (120, "how many"),
    "pitch": (120, "from finger to finger"),
}


class PartLine(QWidget):
    """`changed(setup, field)` when another text holds, what cannot be is told in place; `asked(setup, part, turn)` when the row
    is to be turned."""

    changed = pyqtSignal(object, str)
    asked = pyqtSignal(object, str, str)

    def __init__(self) -> None:
        super().__init__()
        self.setup: HeatSetup | None = None
        self.part = ""
        layout = QGridLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        self.name = Label()
        self.name.setFont(text_font(12, bold=True))
        layout.addWidget(self.name, 0, 0)
        self.lines: dict[str, TextLine] = {}
        for k, (field, (width, meaning)) in enumerate(FIELDS.items()):
            line = self.lines[field] = TextLine("", lambda text, field=field: self._problem(field, text))
            line.setAccessibleName(f"{field} of the fingers")
            line.setFixedWidth(width)
            line.settled.connect(lambda text, field=field: self._settled(field, text))
            line.setPlaceholderText(meaning)
            row, column = divmod(k, 2)
            layout.addWidget(quiet(field, wrap=False), row, 1 + 2 * column)
            layout.addWidget(line, row, 2 + 2 * column)
        layout.addWidget(chip("turn", self._turn, "exchanges both axes of the row"), 1, 0)
        layout.setColumnStretch(5, 1)
        self.hide()

    def show_part(self, setup: HeatSetup | None, part: str) -> None:
        """The line of a part, by its flat name; nothing where it does not stand on the die."""
        own = next((one for one in setup.sources if one.part.lower() == part), None) if setup is not None else None
        self.setup, self.part = setup, part
        self.setVisible(own is not None)
        if own is not None:
            self.name.setText(part)
            for field, line in self.lines.items():
                line.show_text(getattr(own, field))
                line.setCursorPosition(0)

    def _turn(self) -> None:
        own = next((one for one in self.setup.sources if one.part.lower() == self.part), None) if self.setup else None
        if own is not None and self.setup is not None:
            self.asked.emit(self.setup, self.part, "0" if own.turn == "90" else "90")

    def _problem(self, field: str, text: str) -> str:
        if self.setup is None:
            return ""
        try:
            with_line(self.setup, self.part, **{field: text})
        except HearthlineError as error:
            return str(error)
        return ""

    def _settled(self, field: str, text: str) -> None:
        if self.setup is not None:
            self.changed.emit(with_line(self.setup, self.part, **{field: text}), field)
