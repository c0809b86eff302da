"""The one window: it puts the panels together and gives the commands their keys."""

from __future__ import annotations

from dataclasses import replace
from functools import cached_property
from pathlib import Path

from PyQt6.QtCore import QMimeData, QPoint, Qt
from PyQt6.QtGui import QCloseEvent, QCursor, QDragEnterEvent, QDropEvent, QIcon, QKeySequence, QShortcut
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QMainWindow,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)  # fmt: skip

from hearthline.app.canvas.drawing import STEP, Drawing
from hearthline.app.canvas.figure import write_pdf, write_svg
from hearthline.app.charts.markers import CROSSING, PEAK
from hearthline.app.charts.sheet import Sheet
from hearthline.app.commands import Command
from hearthline.app.device.desk import DeviceDesk
from hearthline.app.drawing_commands import drawing_commands
from hearthline.app.panels.breadcrumb import Breadcrumb
from hearthline.app.panels.card import PointCard
from hearthline.app.panels.details import Details
from hearthline.app.panels.device_table import DeviceTable
from hearthline.app.panels.findings_list import FindingsList
from hearthline.app.panels.hearth import HearthLine
from hearthline.app.panels.netlist_view import NetlistView
from hearthline.app.panels.overlay import Entry, HelpSheet, Prompt, Search
from hearthline.app.panels.question import Question
from hearthline.app.panels.shelf import Shelf
from hearthline.app.panels.side import Side
from hearthline.app.panels.topline import ICON, TopLine
from hearthline.app.placing import Placer
from hearthline.app.state.desk import Desk
from hearthline.app.state.editor import Editor
from hearthline.app.state.study import models_of
from hearthline.app.theme.theme import theme
from hearthline.app.watching import watch_pointed
from hearthline.core.analyses import ANALYSES
from hearthline.core.circuit.edit.picked import NOTHING
from hearthline.core.errors import FileError, HearthlineError
from hearthline.core.formats.project_folder import DEVICES, save_text

KEYS_OF_THE_DRAWING = ("Return", "arrows", "Shift+arrows")
"""Keys that the drawing takes itself, because elsewhere they mean other things."""


class Window(QMainWindow):
    """Shelf, drawing, charts, details, and the hearth line at the foot."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.setWindowIcon(QIcon(str(ICON)))
        self.resize(1280, 800)
        self.editor = Editor(desk, self)
        self.drawing, self.sheet = Drawing(desk, self.editor), Sheet(desk)
        self.devices, self.netlist = DeviceTable(desk), NetlistView(desk)
        self.findings = FindingsList(desk, self.editor)
        views = {
            "charts": self.sheet, "bench": lambda: self.bench_view, "conditions": lambda: self.pvt,
            "runs": lambda: self.logbook, "devices": self.devices, "netlist": self.netlist, "findings": self.findings,
        }  # fmt: skip
        self.side = Side(desk, views)
        self.details, self.shelf, self.hearth = Details(desk, self.editor), Shelf(desk), HearthLine(desk)
        self.drawing.typed.connect(self.details.type_value)
        self.topline = TopLine(desk, self.open_search)
        self.split = QSplitter(Qt.Orientation.Horizontal)
        self.device_desk = DeviceDesk(desk.study)
        self.middle = QStackedWidget()
        desk.study.subject_changed.connect(self.show_device)
        desk.bench_changed.connect(self.show_cell)
        self.devices.wanted.connect(self.show_device_of_table)
        self.netlist.wanted.connect(lambda name: desk.select("part", name))
        self.findings.wanted.connect(self.show_finding)
        desk.documents.edited_outside.connect(self._ask_outside)
        desk.said.connect(lambda text: self.question.ask(text, {"Good": lambda: None}))
        desk.results.too_large.connect(self._ask_size)
        self.device_desk.left.connect(self.show_cell)
        self.device_desk.text.typed.connect(desk.documents.draft)
        self.device_desk.text.drafts = desk.documents
        desk.study.left.connect(self.show_cell)
        desk.study.text_wanted.connect(self.show_text)
        self.question = Question()
        self._lay_out()
        self.prompt = Prompt(self.centralWidget())
        self.placer = Placer(desk, self.editor, self.drawing, self.ask_at_pointer)
        self.commands = [*self._commands(), *drawing_commands(self)]
        self.search = Search(self.centralWidget(), self._entries)
        self.help = HelpSheet(self.centralWidget(), self.commands)
        self._bind_keys()
        for signal in (desk.project_changed, desk.documents.undo.indexChanged, desk.documents.saved):
            signal.connect(self._name_window)
        self._name_window()
        self._leaving = False
        self.setAcceptDrops(True)
        desk.project_changed.connect(self._offer_left_over)

    # -- what is made when it is first wanted, so that the window is there sooner

    @cached_property
    def bench_view(self):
        """The bench as lines."""
        from hearthline.app.panels.bench.view import BenchView

        return BenchView(self.desk)

    @cached_property
    def pvt(self):
        """All conditions of the run."""
        from hearthline.app.pvt.view import PvtView

        return PvtView(self.desk)

    @cached_property
    def logbook(self):
        """All runs of the bench."""
        from hearthline.app.panels.logbook_view import LogbookView

        return LogbookView(self.desk)

    # -- layout

    def _lay_out(self) -> None:
        self.breadcrumb = Breadcrumb(self.desk)
        self.card = PointCard(self.desk, self.drawing)
        self.drawing.tool_changed.connect(lambda: self.card.show_hint(self.drawing.tool.hint))
        left = QWidget()
        left.setObjectName("desk")
        column = QVBoxLayout(left)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.breadcrumb)
        column.addWidget(self.drawing, 1)
        foot = QHBoxLayout()
        foot.setContentsMargins(12, 6, 12, 10)
        foot.addWidget(self.card, 1)
        column.addLayout(foot)
        self.split.addWidget(left)
        self.split.addWidget(self.side)
        self.split.setChildrenCollapsible(False)
        self.split.setHandleWidth(1)
        self.split.setSizes([430, 430])
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(self.shelf)
        self.middle.addWidget(self.split)
        self.middle.addWidget(self.device_desk)
        middle.addWidget(self.middle, 1)
        middle.addWidget(self.details)
        body = QWidget()
        layout = QVBoxLayout(body)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.topline)
        layout.addWidget(self.question)
        layout.addLayout(middle, 1)
        layout.addWidget(self.hearth)
        self.setCentralWidget(body)

    def _name_window(self, *_: object) -> None:
        project = self.desk.project
        self.setWindowTitle(
            f"{project.name}{' *' if self.desk.documents.dirty else ''} – Hearthline" if project else "Hearthline"
        )

    # -- commands

    def _commands(self) -> list[Command]:
        desk, drawing = self.desk, self.drawing
        return [
            Command("Add or find anything", ("Space",), self.open_search),
            Command("Run the bench", ("Ctrl+Return",), lambda: desk.run()),
            Command("Stop the run", ("Ctrl+.",), desk.stop),
            Command(
                "New bench for this cell", ("Ctrl+E",), lambda: self._ask_bench("name of the bench", desk.new_bench)
            ),
            Command("Rename the bench", (), lambda: self._ask_bench("new name of the bench", desk.rename_bench)),
            Command("Delete the bench", (), desk.delete_bench),
            Command("Back out of the block, or to the cell", ("Backspace",), self.go_back),
            Command("Drawing alone", ("1",), lambda: self.show_side("drawing")),
            Command("Drawing and charts", ("2",), lambda: self.show_side("both")),
            Command("Charts alone", ("3",), lambda: self.show_side("charts")),
            Command("Fit the drawing", ("0",), drawing.fit),
            Command("Closer", ("+", "="), lambda: drawing.zoom(STEP)),
            Command("Farther", ("-",), lambda: drawing.zoom(1 / STEP)),
            Command("Watch what is under the pointer", ("B",), lambda: watch_pointed(self)),
            Command("Drop a marker on the curve", ("K",), self.sheet.marking.drop),
            Command("Clear the markers and the cursor", ("Shift+K",), self.sheet.clear_cursor),
            Command("Step the marker or the cursor forth", ("L",), lambda: self.sheet.step_cursor(1)),
            Command("Step the marker or the cursor back", ("J",), lambda: self.sheet.step_cursor(-1)),
            Command("Marker to the next crossing", ("Shift+L",), lambda: self.sheet.marking.step(1, CROSSING)),
            Command("Marker to the next peak", ("Ctrl+L",), lambda: self.sheet.marking.step(1, PEAK)),
            Command("Zoom of the charts back", ("U",), self.sheet.zoom_back),
            Command("All of the charts in view", ("Shift+U",), self.sheet.fit),
            Command("Undo", ("Ctrl+Z",), desk.documents.undo.undo),
            Command("Redo", ("Ctrl+Shift+Z",), desk.documents.undo.redo),
            Command("Save", ("Ctrl+S",), self.save),
            Command("New device text", ("Ctrl+N",), self.new_text),
            Command("Day or night", ("Ctrl+Shift+N",), theme.toggle),
            Command("Keys and mouse", ("F1",), lambda: self.help.toggle()),
            Command("Close the window", ("Ctrl+Q",), self.close),
        ]

    def _bind_keys(self) -> None:
        for command in self.commands:
            for key in (key for key in command.keys if key not in KEYS_OF_THE_DRAWING):
                QShortcut(QKeySequence(key), self).activated.connect(lambda command=command: command.action())

    def open_search(self) -> None:
        """Opens the search at the pointer, or under its field in the top line when the pointer is elsewhere."""
        body = self.centralWidget()
        place = body.mapFromGlobal(QCursor.pos())
        if not body.rect().contains(place) or place.y() < 44:
            place = self.topline.find_button.mapTo(body, QPoint(0, 36))
        self.search.open_at(place)

    def _entries(self) -> list[Entry]:
        desk = self.desk
        entries = self.placer.entries()
        entries += [Entry(c.name, c.shown_key, c.action) for c in self.commands if c.name != "Add or find anything"]
        if desk.project:
            entries += [Entry(n, "cell, show it", lambda n=n: desk.show_cell(n)) for n in desk.project.cells]
        if desk.cell:
            parts = [part for part in desk.cell.parts if part.device != "ground"]
            entries += [Entry(p.name, f"part, {p.device}", lambda p=p: desk.select("part", p.name)) for p in parts]
            entries += [Entry(p.name, f"{p.kind} pin", lambda p=p: desk.select("pin", p.name)) for p in desk.cell.pins]
        if desk.bench:
            entries += [
                Entry(r.name, "reading", lambda r=r: desk.show_reading.emit(r.name)) for r in desk.bench.readings
            ]
            entries += self._bench_entries()
        if desk.project:
            benches = desk.project.benches.items()
            entries += [Entry(b.title, "bench", lambda k=k: desk.show_bench(k)) for k, b in benches]
            kit = desk.project.kit
            entries += [
                Entry(d.name, f"study, {d.meaning}", lambda n=d.name: desk.study.study_device(kit, n))
                for d in (kit.devices.values() if kit else ())
            ]
            entries += self._cards_of_decks()
        return entries

    def _bench_entries(self) -> list[Entry]:
        """Analyses to add and to run, and readings that fit them."""
        desk, view = self.desk, self.bench_view

        def shown(action):
            self.side.show_view("bench")
            action()

        entries = [
            Entry(f"{kind} analysis", f"add: {meaning}", lambda kind=kind: shown(lambda: view.analyses.add_new(kind)))
            for kind, meaning in ((one.name, one.meaning) for one in ANALYSES.values())
        ]
        entries += [Entry(f"run {n} alone", "analysis", lambda n=n: desk.run((n,))) for n in desk.bench.analysis_names]
        entries += [
            Entry(r.name, f"reading, {r.formula}", lambda r=r: shown(lambda: view.readings.take(r)))
            for r in view.readings.ready()
        ]
        return entries

    def _cards_of_decks(self) -> list[Entry]:
        """Model cards of the project's decks, to be studied; a deck that cannot be read has none here."""
        entries, study = [], self.desk.study
        for path in sorted((self.desk.project.folder / "decks").glob("*.cir")):
            try:
                cards = models_of(path).corner("").cards
            except HearthlineError:
                continue
            entries += [Entry(n, f"model of {path.name}", lambda p=path, n=n: study.study_card(p, n)) for n in cards]
        return entries

    def show_device(self) -> None:
        """The desk of the device under study, in the place of drawing, charts and details."""
        here = self.middle.currentWidget() is self.device_desk
        self.middle.setCurrentWidget(self.device_desk)
        if not here:  # the stack would hand the focus to the first field, and keys are commands until one is chosen
            self.device_desk.sheets.setFocus()
        self.details.hide()
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
        self.middle.setCurrentWidget(self.split)
        self.details.show()
        self.desk.device_shown = False
        self.shelf.refresh()

    def go_back(self) -> None:
        """Out of a device desk, or out of a block."""
        if self.middle.currentWidget() is not self.split:
            self.show_cell()
        else:
            self.desk.leave_block()

    def show_device_of_table(self, flat: str) -> None:
        """Goes to the block that a device stands in and selects it."""
        *blocks, name = flat.split(".")
        desk = self.desk
        trail: tuple[str, ...] = ()
        cell = desk.top
        for block in blocks:
            part = next((p for p in cell.parts if block in [one.lower() for one in p.instances]), None)
            if part is None or part.device not in desk.project.cells:
                break
            trail, cell = (*trail, part.name), desk.project.cells[part.device]
        if trail != desk.trail:
            desk.leave_block(0)
            for block in trail:
                desk.enter(block)
        wanted = blocks[len(trail)] if len(blocks) > len(trail) else name
        part = next((p for p in desk.cell.parts if wanted in [one.lower() for one in p.instances]), None)
        if part:
            desk.select("part", part.name)
            self.drawing.show_place(part.at)

    def show_finding(self, finding) -> None:
        """The place of a finding, selected."""
        if finding.part:
            known = any(part.name == finding.part for part in self.desk.cell.parts)
            self.desk.select("part" if known else "pin", finding.part)
        elif finding.net:
            self.desk.select("net", finding.net)
        if finding.places:
            self.drawing.show_place(finding.places[0])

    def ask_at_pointer(self, label: str, text: str, answer) -> None:
        """A line to type, at the pointer."""
        body = self.centralWidget()
        place = body.mapFromGlobal(self.drawing.mapToGlobal(self.drawing.pointer.toPoint()))
        if self.drawing.pointer.x() < 0:
            place = self.drawing.mapTo(body, QPoint(self.drawing.width() // 2 - 100, 80))
        self.prompt.ask(place + QPoint(12, 12), label, text, answer)

    def _ask_size(self, answer) -> None:
        """A run that would be very large."""
        names = answer.request.names
        answers = {"Run it all the same": lambda: self.desk.run(names, asked=True), "Leave it": lambda: None}
        self.question.ask(f"This run has {answer.size}.", answers)

    def _ask_bench(self, label: str, answer) -> None:
        """A name for a bench, at the pointer."""
        if self.desk.bench is not None:
            self.ask_at_pointer(label, self.desk.bench.name, answer)

    def _ask_outside(self, cell) -> None:
        """A cell's file was changed by another program."""
        documents = self.desk.documents
        answers = {
            "Take the file": lambda: documents.take_outside(cell),
            "Keep mine": lambda: documents.keep_mine(cell),
        }
        self.question.ask(f"{cell.name} was changed outside of this window.", answers)

    def export_figure(self) -> None:
        """Writes the drawing as SVG and PDF into the folder `figures` of the project, and says so."""
        desk, drawing = self.desk, self.drawing
        if drawing.scene is None:
            return
        folder, look = desk.project.folder / "figures", replace(drawing.look(), findings=(), picked=NOTHING, lit_net="")
        try:
            folder.mkdir(exist_ok=True)
            write_svg(folder / f"{desk.cell.name}.svg", drawing.scene, look)
            write_pdf(folder / f"{desk.cell.name}.pdf", drawing.scene, look)
        except OSError as error:
            desk.tell(FileError(f"cannot be made: {error.strerror}", str(folder)))
        except HearthlineError as error:
            desk.tell(error)
        else:
            self.question.ask(f"Written: figures/{desk.cell.name}.svg and .pdf in the project.", {"Good": lambda: None})

    def export_deck(self) -> None:
        """Writes the shown cell as a deck, and says where."""
        path = self.editor.write_deck() if self.desk.cell else None
        if path:
            self.question.ask(f"Written: decks/{path.name} in the project.", {"Good": lambda: None})

    def ask_deck(self) -> None:
        """Asks for a deck and takes it as cells."""
        folder = self.desk.project.folder
        known = sorted((folder / "decks").glob("*.cir"))
        usual = str(known[0].relative_to(folder)) if known else "decks/"
        self.ask_at_pointer("deck to read as cells", usual, lambda text: self.editor.read_deck(folder / text))

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """A deck may be dropped on the window."""
        if _decks(event.mimeData()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Takes it as cells."""
        for path in _decks(event.mimeData()):
            self.editor.read_deck(path)

    def show_side(self, side: str) -> None:
        """`drawing`, `charts` or `both`."""
        self.split.widget(0).setVisible(side != "charts")
        self.side.setVisible(side != "drawing")

    # -- opening and closing

    def _offer_left_over(self) -> None:
        """Asks about changes that an earlier window could not save."""
        documents = self.desk.documents
        found = documents.left_over
        if found.documents or found.texts:
            names = ", ".join([*(document.name for document in found.documents), *found.texts])
            answers = {"Take them back": documents.take_back, "Leave them": documents.forget_left_over}
            self.question.ask(f"The last window ended with changes that were not saved ({names}).", answers)

    def closeEvent(self, event: QCloseEvent) -> None:
        """Asks, in the window, before changes are lost."""
        if (self.desk.documents.dirty or self.device_desk.text.unsaved) and not self._leaving:
            answers = {
                "Save and close": self._save_and_leave, "Close without saving": self.leave, "Keep working": self.setFocus
            }  # fmt: skip
            self.question.ask("There are changes that are not saved.", answers)
            event.ignore()
            return
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


def _decks(data: QMimeData) -> list[Path]:
    """The decks among dropped files."""
    paths = [Path(url.toLocalFile()) for url in data.urls()]
    return [path for path in paths if path.suffix.lower() in (".cir", ".sp", ".net", ".spi")]
