"""Coupled lines: their file as text, the cross-section that it says, and what the lines have per length."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QPlainTextEdit, QVBoxLayout, QWidget

from hearthline.app.lines.section_drawing import SectionDrawing
from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import chip, clear, heading, quiet, scrolled
from hearthline.app.state.desk import Desk
from hearthline.app.state.sections import ENDING
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.core.errors import FileError, HearthlineError
from hearthline.core.fields.lines.card import Card
from hearthline.core.formats.atomic import write_atomically
from hearthline.core.formats.project_folder import DEVICES
from hearthline.core.quantity import write

SOON = 250
"""Milliseconds after the last key that a text is worked out."""
UNITS = {"C": "F/m", "L": "H/m", "R": "Ω/m", "G": "S/m"}
MOST = 6
"""Lines whose matrices are shown whole."""
NOTHING = (
    "This project has no lines. Describe some in a file `devices/NAME.lines.toml`:\n\n"
    'format = 1\nlength = "30m"\n\n[[layers]]\nheight = "0.635m"\ner = "9.8"\n\n'
    '[[conductors]]\nbox = "0, 0.635m, 0.6m, 0.64m"\n\n[sweep]\nfrom = "100M"\nto = "10G"'
)


class LinesView(QWidget):
    """Follows the files of lines of the project."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk, self.sections = desk, desk.sections
        self.name, self._on_disk = "", ""
        layout = scrolled(self)
        self.names = QHBoxLayout()
        self.names.setSpacing(4)
        layout.addLayout(self.names)
        self.drawing = SectionDrawing()
        layout.addWidget(self.drawing)
        self.said = quiet("")
        layout.addWidget(self.said)
        self.card = QVBoxLayout()
        self.card.setSpacing(4)
        layout.addLayout(self.card)
        self.text = QPlainTextEdit()
        self.text.setAccessibleName("file of lines")
        self.text.setFont(figure_font(12))
        self.text.setMinimumHeight(150)
        layout.addWidget(self.text, 1)
        self._soon = QTimer(self, singleShot=True, interval=SOON)
        self._soon.timeout.connect(self.work)
        self.text.textChanged.connect(self._typed)
        self.sections.changed.connect(self._show)
        desk.project_changed.connect(self.follow)
        self.follow()

    def showEvent(self, event) -> None:
        """What was missed meanwhile."""
        super().showEvent(event)
        self.follow()

    @property
    def path(self) -> Path:
        """Of the shown file."""
        return self.desk.project.folder / DEVICES / f"{self.name}{ENDING}"

    def follow(self) -> None:
        """The files that there are; the first where none is shown yet."""
        project = self.desk.project
        files = sorted((project.folder / DEVICES).glob(f"*{ENDING}")) if project is not None else []
        names = [path.name.removesuffix(ENDING) for path in files]
        if self.isVisible() and names and self.name not in names:
            self.show_lines(names[0])
            return
        clear(self.names)
        self.names.addWidget(heading("Lines"))
        for name in names:
            button = chip(name, lambda name=name: self.show_lines(name), f"devices/{name}{ENDING}", True)
            button.setChecked(name == self.name)
            self.names.addWidget(button)
        self.names.addStretch()
        if self.name in names and self.text.toPlainText() != self._on_disk:
            self.names.addWidget(chip("save", self.save, f"writes devices/{self.name}{ENDING}"))
        for one in (self.drawing, self.text):
            one.setVisible(bool(names))
        if not names:
            self.said.setText(NOTHING)

    def show_lines(self, name: str) -> None:
        """Another file."""
        self.name = name
        try:
            self._on_disk = self.path.read_text(encoding="utf-8")
        except (OSError, UnicodeDecodeError) as error:
            self.desk.tell(FileError(f"cannot be read: {error}", f"{DEVICES}/{self.path.name}"))
            return
        self.text.setPlainText(self._on_disk)
        self.work()

    def _typed(self) -> None:
        self._soon.start()

    def work(self) -> None:
        """Works out what the text says."""
        if self.name:
            self.sections.ask(self.path, f"{DEVICES}/{self.path.name}", self.text.toPlainText())
            self.follow()

    def save(self) -> None:
        """Writes the text."""
        try:
            write_atomically(self.path, self.text.toPlainText())
        except HearthlineError as error:
            self.desk.tell(error)
            return
        self._on_disk = self.text.toPlainText()
        self.desk.take_changed_files()
        self.follow()

    # -- what is shown

    def _show(self) -> None:
        found, error = self.sections.found, self.sections.error
        if error is not None:
            self.said.setText(str(error))
            return
        if found is None:
            return
        clear(self.card)
        self.drawing.show_section(found.section)
        self.said.setText(f"At {write(found.card.frequency, 'Hz', 3)}, over {write(found.section.length, 'm', 3)}:")
        self._show_waves(found.card)
        self._show_matrices(found.card)

    def _show_waves(self, card: Card) -> None:
        grid = QGridLayout()
        grid.setHorizontalSpacing(16)
        for column, word in enumerate(("wave", "impedance", "effective er", "loss")):
            grid.addWidget(quiet(word, wrap=False), 0, column)
        for row, wave in enumerate(card.waves[:MOST], 1):
            signs = " ".join("+" if one > 0.05 else "−" if one < -0.05 else "0" for one in wave.shape)
            impedances = ", ".join(
                f"{z:.4g}" for z, v in zip(wave.impedance, wave.shape, strict=True) if np.isfinite(z) and abs(v) > 0.05
            )
            texts = [signs, f"{impedances} Ω", f"{wave.effective:.4g}", f"{wave.loss:.3g} dB/m"]
            for column, text in enumerate(texts):
                grid.addWidget(_figure(text), row, column)
        if card.closed is not None:
            words = f"In closed form {card.closed[0]:.4g} Ω and {card.closed[1]:.4g}, for a strip of no thickness without loss."
            grid.addWidget(quiet(words), len(card.waves) + 1, 0, 1, 5)
        grid.setColumnStretch(4, 1)
        self.card.addLayout(grid)

    def _show_matrices(self, card: Card) -> None:
        row = QHBoxLayout()
        row.setSpacing(18)
        for name, matrix in card.matrices.items():
            grid = QGridLayout()
            grid.setHorizontalSpacing(8)
            grid.setVerticalSpacing(0)
            title = Label(f"{name} [{UNITS[name]}]")
            title.setFont(text_font(12, bold=True))
            grid.addWidget(title, 0, 0, 1, min(len(matrix), MOST))
            for i in range(min(len(matrix), MOST)):
                for j in range(min(len(matrix), MOST)):
                    label = _figure(write(float(matrix[i, j]), "", 3, space=False).replace("-", "−"))
                    label.setAlignment(Qt.AlignmentFlag.AlignRight)
                    grid.addWidget(label, 1 + i, j)
            row.addLayout(grid)
        row.addStretch()
        self.card.addLayout(row)


def _figure(text: str) -> Label:
    label = Label(text)
    label.setFont(figure_font(12))
    return label
