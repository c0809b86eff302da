"""The documents of the open project: every change undoable, kept in a journal until saved, saved atomically."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QFileSystemWatcher, QObject, QTimer, pyqtSignal
from PyQt6.QtGui import QUndoStack

from hearthline.app.state.commands import Exchange, Pair
from hearthline.core.bench.bench import Bench
from hearthline.core.circuit.cell import Cell
from hearthline.core.errors import HearthlineError
from hearthline.core.formats.cell_file import read_cell
from hearthline.core.formats.journal import Document, Journal, Unsaved, forget, left_over, read
from hearthline.core.formats.project_folder import (
    DEVICES,
    Project,
    read_project,
    save_bench,
    save_cell,
    save_listing,
    save_text,
)

JOURNAL_MILLISECONDS = 400
"""After the first change that the journal does not hold yet; further ones do not put it off."""


class Documents(QObject):
    """Holds the project as it is now and as it was saved. `changed` after every exchange, `saved` after writing."""

    changed = pyqtSignal()
    saved = pyqtSignal()
    failed = pyqtSignal(object)
    edited_outside = pyqtSignal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.project: Project | None = None
        self.undo = QUndoStack(self)
        self._on_disk: dict[str, Document] = {}
        self._listed: tuple = ()
        self._typing = 0
        self._own: Journal | None = None
        self._dead: list[Path] = []
        self.drafts: dict[str, str] = {}
        self._opened_texts: dict[str, str | None] = {}
        self._watcher = QFileSystemWatcher(self)
        self._watcher.fileChanged.connect(self._look_outside)
        self._journal = QTimer(self, singleShot=True, interval=JOURNAL_MILLISECONDS)
        self._journal.timeout.connect(self.write_journal_now)

    def open(self, folder: Path) -> None:
        """Reads the project in `folder`. Raises FileError where it has no readable project.toml."""
        self.forget_journal()
        self.project = read_project(folder, patient=True)
        self._own, self._dead = Journal(folder), left_over(folder)
        self.drafts, self._opened_texts = {}, {}
        self._on_disk = self._all()
        self._listed = self._listing()
        self.undo.clear()
        self._watch()

    def _listing(self) -> tuple[tuple[str, ...], tuple[str, ...]]:
        return tuple(self.project.cells), tuple(self.project.benches)

    # -- changes from outside

    def _watch(self) -> None:
        """Watches the files of all cells; a file that was replaced must be watched anew."""
        known = self._watcher.files()
        files = [str(path) for name in self.project.cells if (path := self._file(name)).exists()]
        if stale := [file for file in known if file not in files]:
            self._watcher.removePaths(stale)
        if new := [file for file in files if file not in known]:
            self._watcher.addPaths(new)

    def _file(self, cell: str) -> Path:
        return self.project.folder / "cells" / f"{cell}.toml"

    def _look_outside(self, file: str) -> None:
        name = Path(file).stem
        try:
            outside = read_cell(Path(file), f"cells/{name}.toml")
        except HearthlineError:  # half written, or gone: there will be another signal, or saving will tell
            QTimer.singleShot(JOURNAL_MILLISECONDS, self._watch)
            return
        self._watch()
        if name in self.project.cells and outside != self._on_disk.get(name):
            self.edited_outside.emit(outside)

    def take_outside(self, cell: Cell) -> None:
        """Takes a cell as it now stands in its file, undoably."""
        self._on_disk[cell.name] = cell
        self.exchange(self.project.cells.get(cell.name), cell, f"{cell.name} from its file")
        self.saved.emit()

    def keep_mine(self, cell: Cell) -> None:
        """Leaves the cell as it is here; saving will write over what the file now holds."""
        self._on_disk[cell.name] = cell
        self.saved.emit()

    @property
    def left_over(self) -> Unsaved:
        """What is in the journals of windows that ended by themselves, as far as it differs from the files."""
        documents: dict[str, Document] = {}
        texts: dict[str, str] = {}
        for found in map(read, self._dead):
            documents |= {_key(one): one for one in found.documents if self._on_disk.get(_key(one)) != one}
            texts |= {name: text for name, text in found.texts.items() if self._text_on_disk(name) != text}
        return Unsaved(tuple(documents.values()), texts)

    def _text_on_disk(self, name: str) -> str | None:
        try:
            return (self.project.folder / DEVICES / name).read_text(encoding="utf-8", errors="replace")
        except OSError:
            return None

    def take_back(self) -> None:
        """Puts what those journals hold in place, as undoable changes; they go when this window's own holds it all."""
        found = self.left_over
        for document in found.documents:
            self.exchange(self._all().get(_key(document)), document, f"unsaved {_key(document)}")
        for name, text in found.texts.items():
            self.drafts[name], self._opened_texts[name] = text, self._text_on_disk(name)
        if self.write_journal_now():
            self.forget_left_over()
        self.changed.emit()

    def forget_left_over(self) -> None:
        """The person has answered: what the ended windows left is not wanted, or is here."""
        forget(self._dead)
        self._dead = []

    def draft(self, name: str, text: str | None, opened: str | None = None) -> None:
        """A device text as it is being typed, and what its file held when it was opened; None when it is as in its file."""
        if text is None:
            self.drafts.pop(name, None)
            self._opened_texts.pop(name, None)
        else:
            self._opened_texts.setdefault(name, opened)
            self.drafts[name] = text
        self._keep_soon()

    def exchange(self, old: Document | None, new: Document | None, text: str, field: str = "") -> None:
        """Puts `new` in the place of `old`; changes of one `field` in a row are one step back."""
        self.exchange_all([(old, new)], text, field)

    def exchange_all(self, pairs: list[Pair], text: str, field: str = "") -> None:
        """Exchanges several documents in one step; None where there was nothing, or where nothing comes."""
        pairs = [(old, new) for old, new in pairs if old != new]
        if pairs:
            self.undo.push(Exchange(self._put, pairs, text, field and f"{field}#{self._typing}"))

    def end_typing(self) -> None:
        """What is typed from here on is a step of its own."""
        self._typing += 1

    @property
    def unsaved(self) -> list[Document]:
        """Documents that differ from their files."""
        return [document for key, document in self._all().items() if self._on_disk.get(key) != document]

    @property
    def dirty(self) -> bool:
        """Whether anything differs from the files, the list of cells included."""
        return bool(self.project) and (bool(self.unsaved) or bool(self.drafts) or self._listed != self._listing())

    def save(self) -> bool:
        """Writes what has changed; False where a file could not be written (`failed` says which)."""
        try:
            if self._listed != self._listing():
                save_listing(self.project, self._listed)
                self._listed = self._listing()
            for name, text in list(self.drafts.items()):
                save_text(self.project.folder, name, text, self._opened_texts.get(name))
                self.drafts.pop(name)
                self._opened_texts.pop(name, None)
            for document in self.unsaved:
                save = save_cell if isinstance(document, Cell) else save_bench
                save(self.project, document, self._on_disk.get(_key(document)))
                self._on_disk[_key(document)] = document
            self._watch()
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
        """For a window that closes in good order: nothing of its own is left to take back. What others left, and nobody has
        answered for, stays."""
        self._journal.stop()
        if self._own:
            self._own.clear()

    def _put(self, pairs: list[Pair]) -> None:
        cells, benches = dict(self.project.cells), dict(self.project.benches)
        for old, new in pairs:
            document = new if new is not None else old
            where = cells if isinstance(document, Cell) else benches
            if new is None:
                where.pop(_key(old), None)
            elif old is not None and _key(old) != _key(new):
                renamed = {_key(new) if key == _key(old) else key: one for key, one in where.items()}
                where.clear()
                where.update(renamed)
            if new is not None:
                where[_key(new)] = new
        self.project = replace(self.project, cells=cells, benches=benches)
        self._keep_soon()
        self.changed.emit()

    def _keep_soon(self) -> None:
        if not self._journal.isActive():
            self._journal.start()

    def write_journal_now(self) -> bool:
        """Writes what is not saved; whether that worked (`failed` says why not)."""
        if not self._own:
            return True
        try:
            if self.unsaved or self.drafts:
                self._own.write(self.unsaved, self.drafts)
            else:
                self._own.clear()
        except HearthlineError as error:
            self.failed.emit(error)
            return False
        return True

    def _all(self) -> dict[str, Document]:
        return {**self.project.cells, **self.project.benches} if self.project else {}


def _key(document: Cell | Bench) -> str:
    return document.name if isinstance(document, Cell) else document.key
