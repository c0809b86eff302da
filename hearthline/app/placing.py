"""What can be placed on a drawing, as entries of the search: parts, devices of the kit, modules, cells, pins and marks."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace

from hearthline.app.canvas.drawing import Drawing
from hearthline.app.panels.search import Entry
from hearthline.app.state.desk import Desk
from hearthline.app.state.editor import Editor
from hearthline.core.circuit.cell import PIN_KINDS, Cell, Label, Note, Part, Pin
from hearthline.core.circuit.symbols import GROUND_SYMBOL, SYMBOLS
from hearthline.core.elements import n_port
from hearthline.core.errors import HearthlineError
from hearthline.core.models.library import library_names

HIDDEN_MODULES = {"resistor", "capacitor", "switch"}


def shapes() -> set[str]:
    """Symbols of kits' devices, which are not placed by themselves."""
    return {name for name, one in SYMBOLS.items() if not one.offered}


class Placer:
    """Takes things in hand that are to be placed."""

    def __init__(self, desk: Desk, editor: Editor, drawing: Drawing, ask: Callable[..., None]) -> None:
        self.desk, self.editor, self.drawing, self.ask = desk, editor, drawing, ask

    def entries(self) -> list[Entry]:
        """Everything that can be placed into the shown cell."""
        desk, found = self.desk, []
        if desk.cell is None:
            return found
        kit = desk.project.kit
        for device in kit.devices.values() if kit else ():
            found.append(Entry(device.name, "place", device.meaning, lambda n=device.name: self.part(n)))
        for name, one in SYMBOLS.items():
            if one.offered:
                found.append(Entry(name, "place", one.offered, lambda n=name: self.part(n)))
        found.append(Entry("ground", "place", "mark of the ground net", lambda: self.part(GROUND_SYMBOL)))
        found.append(Entry("supply mark", "place", "bar with the name of a supply net", self.supply))
        for name in desk.project.cells:
            if not desk.library.reaches(name, desk.cell.name):
                found.append(Entry(name, "place", "block of this cell", lambda n=name: self.part(n)))
        modules = dict.fromkeys([*(kit.modules if kit else ()), *library_names()])
        for name in modules:
            if name not in HIDDEN_MODULES:
                found.append(Entry(name, "place", "Verilog-A module", lambda n=name: self.part(n)))
        for name in kit.networks if kit else ():
            found.append(Entry(name, "place", "file of S-parameters", lambda n=name: self.network(n)))
        for kind in PIN_KINDS:
            found.append(Entry(f"{kind} pin", "place", "pin of this cell", lambda k=kind: self.pin(k)))
        found.append(Entry("net name", "place", "name on a net", self.label))
        found.append(Entry("note", "place", "text with formulas in braces", self.note))
        return found

    def network(self, file: str) -> None:
        """A part that a file of S-parameters is."""
        try:
            ports = self.desk.project.kit.networks[file].network.ports
        except HearthlineError as error:
            self.desk.say(str(error))
            return
        self.part(n_port.form_name(ports), {"file": file})

    def part(self, device: str, values: Mapping[str, str] | None = None) -> None:
        """A part, again and again."""
        part = self.editor.fresh_part(device)
        piece = Cell("", parts=(replace(part, values={**part.values, **(values or {})}),))

        def put(piece: Cell, at) -> None:
            x, y = piece.parts[0].at
            part = piece.parts[0]
            self.editor.add_part(Part("", part.device, (at[0] + x, at[1] + y), part.turn, part.flip, part.values))

        self.drawing.place(piece, put, device)

    def pin(self, kind: str) -> None:
        """A pin, named before it is placed."""
        usual = {"input": "in", "output": "out", "inout": "io", "supply": "vdd", "ground": "vss"}[kind]

        def named(name: str) -> None:
            if name:
                self.drawing.place(Cell("", pins=(Pin(name, kind, (0, 0)),)), put, f"pin {name}", once=True)

        def put(piece: Cell, at) -> None:
            pin = piece.pins[0]
            self.editor.add(Pin(pin.name, pin.kind, at, pin.turn))

        self.ask(f"name of the {kind} pin", usual, named)

    def supply(self) -> None:
        """The mark of a supply net."""
        self.ask("net of the supply", "vdd", lambda name: self._mark(name, "supply"))

    def label(self) -> None:
        """A name for a net."""
        self.ask("name of the net", "", lambda name: self._mark(name, "name"))

    def _mark(self, name: str, kind: str) -> None:
        def put(piece: Cell, at) -> None:
            self.editor.add(Label(name, at, kind))

        if name:
            self.drawing.place(Cell("", labels=(Label(name, (0, 0), kind),)), put, f"name {name}")

    def note(self) -> None:
        """A text on the drawing."""

        def named(text: str) -> None:
            if text:
                self.drawing.place(Cell("", notes=(Note(text, (0, 0)),)), put, "note", once=True)

        def put(piece: Cell, at) -> None:
            self.editor.add(Note(piece.notes[0].text, at))

        self.ask("text of the note", "", named)
