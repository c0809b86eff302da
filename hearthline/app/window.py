"""The one window: it puts the panels together and gives the commands their keys."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QPoint, QTimer
from PyQt6.QtGui import QCloseEvent, QCursor, QDragEnterEvent, QDropEvent, QIcon, QKeySequence, QShortcut
from PyQt6.QtWidgets import (
    QMainWindow,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)  # fmt: skip

from hearthline.app.asking import ask_what_comes
from hearthline.app.canvas.drawing import Drawing
from hearthline.app.commands import Command
from hearthline.app.device.desk import DeviceDesk
from hearthline.app.drawing_commands import drawing_commands
from hearthline.app.entries import entries, typed
from hearthline.app.guide import Guide
from hearthline.app.interchange import decks, usual_deck, write_figure
from hearthline.app.panels.breadcrumb import Breadcrumb
from hearthline.app.panels.card import PointCard
from hearthline.app.panels.details import Details
from hearthline.app.panels.hearth import HearthLine
from hearthline.app.panels.overlay import HelpSheet, Prompt
from hearthline.app.panels.question import Question
from hearthline.app.panels.search import Search
from hearthline.app.panels.shelf import Shelf
from hearthline.app.panels.side import Side
from hearthline.app.panels.topline import ICON, TopLine
from hearthline.app.placing import Placer
from hearthline.app.room import Room
from hearthline.app.shelf_doings import doings
from hearthline.app.shelf_holder import ShelfHolder
from hearthline.app.state.desk import Desk
from hearthline.app.state.editor import Editor
from hearthline.app.state.memory import Memory
from hearthline.app.views import VIEWS, Around
from hearthline.app.window_commands import window_commands
from hearthline.core.errors import HearthlineError
from hearthline.core.formats.project_folder import DEVICES, save_text

KEYS_OF_THE_DRAWING = ("Return", "arrows", "Shift+arrows")
"""Keys that the drawing takes itself, because elsewhere they mean other things."""


LEAST = (880, 560)
"""The smallest window, at texts of ordinary size; with larger ones it is that of a small screen."""

HINT_MILLISECONDS = 4000
"""How long it is said what a command needs."""


class Window(QMainWindow):
    """Shelf, drawing, charts, details, and the hearth line at the foot."""

    def __init__(self, desk: Desk, memory: Memory | None = None) -> None:
        super().__init__()
        self.desk = desk
        self.setWindowIcon(QIcon(str(ICON)))
        self.resize(1280, 800)
        self.setMinimumSize(*LEAST)
        self.editor = Editor(desk, self)
        self.drawing = Drawing(desk, self.editor)
        self.guide = Guide(desk, self.drawing)
        around = Around(desk, self.editor, self.guide)
        self.side = Side(desk, VIEWS, lambda name: VIEWS[name].make(around))
        self.sheet = self.side.view("charts")
        desk.matching.started.connect(lambda: self.side.show_view("matching"))
        self.memory = memory or Memory()
        self.details, self.shelf, self.hearth = (
            Details(desk, self.editor),
            Shelf(desk, doings(self), self.memory),
            HearthLine(desk),
        )
        self.drawing.typed.connect(self.details.type_value)
        self.topline = TopLine(desk, self.open_search)
        self.room = Room(desk, self.memory, self.drawing, self.side, self.details)
        self.device_desk = DeviceDesk(desk.study)
        self.middle = QStackedWidget()
        desk.study.subject_changed.connect(self.show_device)
        desk.bench_changed.connect(self.show_cell)
        self.device_desk.left.connect(self.show_cell)
        self.device_desk.text.typed.connect(desk.documents.draft)
        self.device_desk.text.drafts = desk.documents
        desk.study.left.connect(self.show_cell)
        desk.study.text_wanted.connect(self.show_text)
        self.question = Question()
        ask_what_comes(desk, self.question)
        self._lay_out()
        self.prompt = Prompt(self.centralWidget())
        self.placer = Placer(desk, self.editor, self.drawing, self.ask_at_pointer)
        self.commands = [*window_commands(self), *drawing_commands(self)]
        self.search = Search(self.centralWidget(), lambda: entries(self), lambda text: typed(self, text))
        self.help = HelpSheet(self.centralWidget(), self.commands)
        self._bind_keys()
        for signal in (desk.project_changed, desk.documents.undo.indexChanged, desk.documents.saved):
            signal.connect(self._name_window)
        self._name_window()
        self._leaving = False
        self.setAcceptDrops(True)

    # -- layout

    def _lay_out(self) -> None:
        self.middle.addWidget(self.room)
        self.middle.addWidget(self.device_desk)
        self.holder = ShelfHolder(self.desk, self.memory, self.shelf, self.middle)
        body = QWidget()
        layout = QVBoxLayout(body)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.topline)
        layout.addWidget(self.question)
        layout.addWidget(self.holder, 1)
        layout.addWidget(self.hearth)
        self.setCentralWidget(body)

    def _name_window(self, *_: object) -> None:
        project = self.desk.project
        self.setWindowTitle(
            f"{project.name}{' *' if self.desk.documents.dirty else ''} – Hearthline" if project else "Hearthline"
        )

    # -- commands

    def _bind_keys(self) -> None:
        for command in self.commands:
            for key in (key for key in command.keys if key not in KEYS_OF_THE_DRAWING):
                QShortcut(QKeySequence(key), self).activated.connect(lambda command=command: self.do(command))

    def do(self, command: Command) -> None:
        """Runs a command, or says what it needs."""
        needs = command.needs()
        if needs:
            told = HearthlineError(f"{command.name}: {needs}")
            self.desk.tell(told)
            QTimer.singleShot(HINT_MILLISECONDS, lambda: self.desk.message is told and self.desk.tell(None))
        else:
            command.action()

    def open_search(self) -> None:
        """Opens the search at the pointer, or under its field in the top line when the pointer is elsewhere."""
        body = self.centralWidget()
        place = body.mapFromGlobal(QCursor.pos())
        if not body.rect().contains(place) or place.y() < 44:
            place = self.topline.find_button.mapTo(body, QPoint(0, 36))
        self.search.open_at(place)

    def show_device(self) -> None:
        """The desk of the device under study, in the place of drawing, charts and details."""
        here = self.middle.currentWidget() is self.device_desk
        self.middle.setCurrentWidget(self.device_desk)
        if not here:  # the stack would hand the focus to the first field, and keys are commands until one is chosen
            self.device_desk.sheets.setFocus()
        self.desk.device_shown = True
        self.shelf.refresh()

    def show_text(self, path: Path) -> None:
        """A device text of the project."""
        self.device_desk.open_text(path)
        self.show_device()

    def new_text(self) -> None:
        """A new device text, under a name that no file has yet."""
        if self.desk.project is None:
            return
        folder = self.desk.project.folder / DEVICES
        name = next(n for k in range(1, 1000) if not (folder / (n := f"new_device{k if k > 1 else ''}.va")).exists())
        self.show_text(folder / name)

    def save(self) -> None:
        """Everything that is not saved, the device text too."""
        text = self.device_desk.text
        if text.unsaved:
            try:
                save_text(self.desk.project.folder, text.path.name, text.text, text.opened)
            except HearthlineError as error:
                self.desk.tell(error)
                return
            text.saved()
            self.desk.documents.draft(text.path.name, None)
            self.desk.documents.take_text(text.path.name, text.result.modules if text.result else ())
        self.desk.documents.save()

    def show_cell(self) -> None:
        """Drawing, charts and details again."""
        self.middle.setCurrentWidget(self.room)
        self.desk.device_shown = False
        self.shelf.refresh()

    def go_back(self) -> None:
        """Out of a device desk, or out of a block."""
        if self.middle.currentWidget() is not self.room:
            self.show_cell()
        else:
            self.desk.leave_block()

    def ask_at_pointer(self, label: str, text: str, answer) -> None:
        """A line to type, at the pointer."""
        body = self.centralWidget()
        place = body.mapFromGlobal(self.drawing.mapToGlobal(self.drawing.pointer.toPoint()))
        if self.drawing.pointer.x() < 0:
            place = self.drawing.mapTo(body, QPoint(self.drawing.width() // 2 - 100, 80))
        self.prompt.ask(place + QPoint(12, 12), label, text, answer)

    def export_figure(self) -> None:
        """Writes the drawing as SVG and PDF."""
        write_figure(self.desk, self.drawing, self.question)

    def export_deck(self) -> None:
        """Writes the shown cell as a deck, and says where."""
        path = self.editor.write_deck() if self.desk.cell else None
        if path:
            self.question.tell(f"Written: decks/{path.name} in the project.")

    def ask_deck(self) -> None:
        """Asks for a deck and takes it as cells."""
        folder = self.desk.project.folder
        self.ask_at_pointer(
            "deck to read as cells", usual_deck(self.desk), lambda text: self.editor.read_deck(folder / text)
        )

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """A deck may be dropped on the window."""
        if decks(event.mimeData()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Takes it as cells."""
        for path in decks(event.mimeData()):
            self.editor.read_deck(path)

    def show_side(self, side: str) -> None:
        """`drawing`, `charts` or `both`."""
        self.show_cell()
        self.room.divide(side)

    def keep_details(self) -> None:
        """Keeps the details where nothing is selected, or lets them come and go."""
        self.details.pin(not self.details.pinned)
        self.memory.put("details kept", self.details.pinned, self.desk.project.folder if self.desk.project else None)

    @property
    def card(self) -> PointCard:
        """How the operating point is."""
        return self.room.card

    @property
    def breadcrumb(self) -> Breadcrumb:
        """Where the drawing is."""
        return self.room.breadcrumb

    # -- opening and closing

    def closeEvent(self, event: QCloseEvent) -> None:
        """Asks, in the window, before changes are lost."""
        if (self.desk.documents.dirty or self.device_desk.text.unsaved) and not self._leaving:
            answers = {
                "Save and close": self._save_and_leave, "Close without saving": self.leave, "Keep working": self.setFocus
            }  # fmt: skip
            self.question.ask("There are changes that are not saved.", answers)
            event.ignore()
            return
        self.hide()  # whoever works still may take a moment
        self.desk.documents.forget_journal()
        self.device_desk.text.close_worker()
        self.desk.close()
        event.accept()

    def _save_and_leave(self) -> None:
        self.save()
        if not self.desk.documents.dirty and not self.device_desk.text.unsaved:
            self.leave()

    def leave(self) -> None:
        """Closes the window; what is not saved is given up."""
        self._leaving = True
        self.close()
