"""The documents of the open project: every change undoable, kept in a journal until saved, saved atomically."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal
from PyQt6.QtGui import QUndoStack

from hearthline.app.state.commands import Exchange
from hearthline.core.bench.bench import Bench
from hearthline.core.circuit.cell import Cell
from hearthline.core.errors import HearthlineError
from hearthline.core.formats.journal import Document, clear_journal, read_journal, write_journal
from hearthline.core.formats.project_folder import Project, read_project, save_bench, save_cell

JOURNAL_MILLISECONDS = 400


class Documents(QObject):
    """Holds the project as it is now and as it was saved. `changed` after every exchange, `saved` after writing."""

    changed = pyqtSignal()
    saved = pyqtSignal()
    failed = pyqtSignal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.project: Project | None = None
        self.undo = QUndoStack(self)
        self._on_disk: dict[str, Document] = {}
        self._typing = 0
        self._journal = QTimer(self, singleShot=True, interval=JOURNAL_MILLISECONDS)
        self._journal.timeout.connect(self._write_journal)

    def open(self, folder: Path) -> None:
        """Reads the project in `folder`. Raises FileError where it has no readable project.toml."""
        self.project = read_project(folder)
        self._on_disk = self._all()
        self.undo.clear()

    @property
    def left_over(self) -> list[Document]:
        """Documents in the journal of a window that ended by itself, as far as they differ from the files."""
        if not self.project:
            return []
        return [
            document for document in read_journal(self.project.folder) if self._on_disk.get(_key(document)) != document
        ]

    def take_back(self) -> None:
        """Puts what the journal holds in place, as undoable changes."""
        for document in self.left_over:
            old = self._all().get(_key(document))
            if old is not None:
                self.exchange(old, document, f"unsaved {_key(document)}")

    def exchange(self, old: Document, new: Document, text: str, field: str = "") -> None:
        """Puts `new` in the place of `old`; changes of one `field` in a row are one step back."""
        if new != old:
            self.undo.push(Exchange(self._put, old, new, text, field and f"{field}#{self._typing}"))

    def end_typing(self) -> None:
        """What is typed from here on is a step of its own."""
        self._typing += 1

    @property
    def unsaved(self) -> list[Document]:
        """Documents that differ from their files."""
        return [document for key, document in self._all().items() if self._on_disk.get(key) != document]

    def save(self) -> bool:
        """Writes what has changed; False where a file could not be written (`failed` says which)."""
        try:
            for document in self.unsaved:
                save = save_cell if isinstance(document, Cell) else save_bench
                save(self.project, document, self._on_disk.get(_key(document)))
                self._on_disk[_key(document)] = document
        except HearthlineError as error:
            self.failed.emit(error)
            return False
        self.end_typing()
        self.forget_journal()
        self.saved.emit()
        return True

    def take_text(self, name: str, modules: tuple) -> None:
        """A device text was saved: it is one of the project's, and parts may be placed of its modules."""
        texts = tuple(sorted({*self.project.texts, name}))
        kit = self.project.kit
        if kit and modules:
            kit = kit.with_modules({module.name.lower(): module for module in modules})
        self.project = replace(self.project, texts=texts, kit=kit)
        self.changed.emit()

    def forget_journal(self) -> None:
        """For a window that closes in good order: nothing is left to take back."""
        self._journal.stop()
        if self.project:
            clear_journal(self.project.folder)

    def _put(self, document: Document) -> None:
        if isinstance(document, Cell):
            self.project = replace(self.project, cells={**self.project.cells, document.name: document})
        else:
            self.project = replace(self.project, benches={**self.project.benches, document.key: document})
        self._journal.start()
        self.changed.emit()

    def _write_journal(self) -> None:
        try:
            write_journal(self.project.folder, self.unsaved)
        except HearthlineError as error:
            self.failed.emit(error)

    def _all(self) -> dict[str, Document]:
        return {**self.project.cells, **self.project.benches} if self.project else {}


def _key(document: Cell | Bench) -> str:
    return document.name if isinstance(document, Cell) else document.key
