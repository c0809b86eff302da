"""What connects: lines, wires and substrates, each as the text of its file, a drawing of what that says, and its numbers."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QHBoxLayout, QPlainTextEdit, QVBoxLayout, QWidget

from hearthline.app.interconnect.looks import LOOKS, drawings
from hearthline.app.panels.rows import chip, clear, heading, offer, quiet, scrolled
from hearthline.app.state.desk import Desk
from hearthline.app.state.interconnects import DESCRIPTIONS
from hearthline.app.theme.fonts import figure_font
from hearthline.core.errors import FileError, HearthlineError
from hearthline.core.formats.atomic import write_atomically
from hearthline.core.formats.project_folder import DEVICES
from hearthline.core.quantity import write

SOON = 250
"""Milliseconds after the last key that a text is worked out."""
NOTHING = "Lines, bond wires and contacts on a substrate are described in files, and are n-ports of cells then."


class InterconnectView(QWidget):
    """Follows the descriptions of the project."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk, self.interconnects = desk, desk.interconnects
        self.file, self._on_disk = "", ""
        layout = scrolled(self)
        self.names = QHBoxLayout()
        self.names.setSpacing(4)
        layout.addLayout(self.names)
        self.drawings = drawings()
        for drawing in self.drawings.values():
            layout.addWidget(drawing)
        self.said = quiet("")
        layout.addWidget(self.said)
        self.card = QVBoxLayout()
        self.card.setSpacing(4)
        layout.addLayout(self.card)
        self.text = QPlainTextEdit()
        self.text.setAccessibleName("file of lines, wires or a substrate")
        self.text.setFont(figure_font(12))
        self.text.setMinimumHeight(150)
        layout.addWidget(self.text, 1)
        self._soon = QTimer(self, singleShot=True, interval=SOON)
        self._soon.timeout.connect(self.work)
        self.text.textChanged.connect(self._soon.start)
        self.interconnects.changed.connect(self._show)
        desk.project_changed.connect(self.follow)
        self.follow()

    def showEvent(self, event) -> None:
        """What was missed meanwhile."""
        super().showEvent(event)
        self.follow()

    @property
    def kind(self) -> str:
        """Of the shown file."""
        return self.file.split(".")[-2]

    @property
    def path(self) -> Path:
        """Of the shown file."""
        return self._folder() / self.file

    def _folder(self) -> Path:
        return self.desk.project.folder / DEVICES

    def _files(self) -> dict[str, list[str]]:
        """Of each kind of description."""
        if self.desk.project is None:
            return {name: [] for name in DESCRIPTIONS}
        folder = self._folder()
        return {name: sorted(path.name for path in folder.glob(f"*{one.ending}")) for name, one in DESCRIPTIONS.items()}

    def follow(self) -> None:
        """The files that there are; the first where none is shown yet."""
        files = self._files()
        every = [file for some in files.values() for file in some]
        if self.isVisible() and every and self.file not in every:
            self.show_file(every[0])
            return
        clear(self.names)
        for kind, some in files.items():
            if some:
                self.names.addWidget(heading(LOOKS[kind].called.capitalize()))
            for file in some:
                shown = file.removesuffix(DESCRIPTIONS[kind].ending)
                button = chip(shown, lambda file=file: self.show_file(file), f"{DEVICES}/{file}", True)
                button.setChecked(file == self.file)
                self.names.addWidget(button)
        self.new = chip("new", self._offer, "a file of another kind, with an example in it")
        if self.desk.project is not None:
            self.names.addWidget(self.new)
        self.names.addStretch()
        if self.file in every and self.text.toPlainText() != self._on_disk:
            self.names.addWidget(chip("save", self.save, f"writes {DEVICES}/{self.file}"))
        self.text.setVisible(bool(every))
        if not every:
            self.said.setText(NOTHING)
            for drawing in self.drawings.values():
                drawing.hide()

    # -- files

    def _offer(self) -> None:
        offer(self.new, [(look.called, lambda kind=kind: self.begin(kind)) for kind, look in LOOKS.items()])

    def begin(self, kind: str) -> None:
        """A new file of a kind, with an example in it."""
        taken, number = set(self._files()[kind]), 1
        while (file := f"{kind}{number}{DESCRIPTIONS[kind].ending}") in taken:
            number += 1
        try:
            self._folder().mkdir(exist_ok=True)
            write_atomically(self._folder() / file, LOOKS[kind].new)
        except (OSError, HearthlineError) as error:
            self.desk.tell(FileError(f"cannot be written: {error}", f"{DEVICES}/{file}"))
            return
        self.desk.take_changed_files()
        self.show_file(file)

    def show_file(self, file: str) -> None:
        """Another one."""
        self.file = file
        try:
            self._on_disk = self.path.read_text(encoding="utf-8")
        except (OSError, UnicodeDecodeError) as error:
            self.desk.tell(FileError(f"cannot be read: {error}", f"{DEVICES}/{file}"))
            return
        self.text.setPlainText(self._on_disk)
        self.work()

    def work(self) -> None:
        """Works out what the text says."""
        if self.file:
            self.interconnects.ask(self.kind, self.path, f"{DEVICES}/{self.file}", self.text.toPlainText())
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
        found, error = self.interconnects.found, self.interconnects.error
        if error is not None:
            self.said.setText(str(error))
            return
        if found is None:
            return
        clear(self.card)
        for kind, drawing in self.drawings.items():
            drawing.setVisible(kind == found.kind)
        self.drawings[found.kind].show_thing(found.thing)
        self.said.setText(f"At {write(found.card.frequency, 'Hz', 3)}:")
        LOOKS[found.kind].card(self.card, found.card)
