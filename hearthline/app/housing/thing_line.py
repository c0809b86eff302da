"""What is selected in a housing, as fields to type in: the box itself, or one of the things in it."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QWidget

from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import chip, quiet
from hearthline.app.panels.text_line import TextLine
from hearthline.app.theme.fonts import text_font
from hearthline.core.errors import FileError, HearthlineError
from hearthline.core.fields.box import Housing, Thing
from hearthline.core.fields.study import without
from hearthline.core.formats.housing_file import housing_data, with_text

OF_BOX = {
    "size": "inside measures",
    "wall_conductivity": "of the walls [S/m]; left empty: no loss",
    "mesh": "largest cell",
    "accuracy": "of resonances: the mesh is refined for it",
    "modes": "how many resonances",
}
OF_THING = {
    "box": "lowest and highest corner",
    "er": "relative permittivity",
    "tan_delta": "its loss tangent",
    "mur": "relative permeability",
}
WIDE = ("size", "box")


class ThingLine(QWidget):
    """`changed(housing)` when another text holds; what cannot be is told in place."""

    changed = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.housing: Housing | None = None
        self.thing = -1
        layout = QGridLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setHorizontalSpacing(6)
        self.name = Label()
        self.name.setFont(text_font(12, bold=True))
        layout.addWidget(self.name, 0, 0)
        self.away = chip("take away", self._remove, "takes this out of the housing")
        layout.addWidget(self.away, 1, 0)
        self.lines: dict[str, tuple[TextLine, Label]] = {}
        for fields in (OF_BOX, OF_THING):
            for k, (key, meaning) in enumerate(fields.items()):
                line = TextLine("", self._problem(key))
                line.setAccessibleName(f"{key} of the {'housing' if fields is OF_BOX else 'thing'}")
                line.setToolTip(meaning)
                line.setPlaceholderText(meaning)
                line.settled.connect(lambda text, key=key: self._settled(key, text))
                word = quiet(key.replace("_", " "), wrap=False)
                self.lines[key] = line, word
                row, column = (0, 1) if k == 0 else (1, 2 * k - 1)
                line.setMinimumWidth(50)
                layout.addWidget(word, row, column)
                layout.addWidget(line, row, column + 1, 1, -1 if k == 0 else 1)
        for column in (2, 4, 6):
            layout.setColumnStretch(column, 1)

    def show_thing(self, housing: Housing | None, thing: int) -> None:
        """A thing by its number, or the box (-1)."""
        self.housing, self.thing = housing, thing
        self.setVisible(housing is not None)
        if housing is None:
            return
        data = housing_data(housing)
        own = data if thing < 0 else data["objects"][thing]
        self.name.setText("box" if thing < 0 else word_of(housing.things[thing]))
        self.away.setVisible(thing >= 0)
        for key, (line, word) in self.lines.items():
            shown = key in (OF_BOX if thing < 0 else OF_THING) and not (
                thing >= 0 and key != "box" and housing.things[thing].metal
            )
            line.setVisible(shown)
            word.setVisible(shown)
            if shown:
                line.show_text(str(own.get(key, "1" if key in ("er", "mur") else "0" if key == "tan_delta" else "")))
                line.setCursorPosition(0)

    def _problem(self, key: str) -> Callable[[str], str]:
        def problem(text: str) -> str:
            try:
                self._with(key, text)
            except FileError as error:
                return error.message
            except HearthlineError as error:
                return str(error)
            return ""

        return problem

    def _with(self, key: str, text: str) -> Housing:
        assert self.housing is not None
        return with_text(self.housing, key, text, self.thing)

    def _settled(self, key: str, text: str) -> None:
        if self.housing is not None:
            self.changed.emit(self._with(key, text))

    def _remove(self) -> None:
        if self.housing is not None and self.thing >= 0:
            self.changed.emit(without(self.housing, self.thing))


def word_of(thing: Thing) -> str:
    """What a thing is, in a word."""
    if thing.metal:
        return "metal"
    return "absorber" if max(thing.tan_delta, thing.mu_tan_delta) > 0.1 else "dielectric"
