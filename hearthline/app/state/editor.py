"""What a person does to the drawing, each an undoable step: the commands behind keys, tools and pages."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QObject
from PyQt6.QtGui import QGuiApplication

from hearthline.app.state.desk import Desk
from hearthline.core.bench.renaming import with_part_renamed, with_pin_renamed
from hearthline.core.circuit.body import mended
from hearthline.core.circuit.cell import Body, Cell, Label, Note, Part, Pin, Wire
from hearthline.core.circuit.edit.align import aligned
from hearthline.core.circuit.edit.blocks import dissolved, made_block, with_body
from hearthline.core.circuit.edit.compact import compacted
from hearthline.core.circuit.edit.draw import rerouted, with_items, with_part, with_wire, without
from hearthline.core.circuit.edit.motion import Motion
from hearthline.core.circuit.edit.move import moved
from hearthline.core.circuit.edit.names import free_name, named, renamed_part, renamed_pin
from hearthline.core.circuit.edit.paste import pasted
from hearthline.core.circuit.edit.picked import Picked, everything, inside, places_of
from hearthline.core.circuit.edit.reshape import reshaped
from hearthline.core.elements.kind import Point, Symbol
from hearthline.core.errors import CircuitError, FileError, HearthlineError
from hearthline.core.formats.atomic import write_atomically
from hearthline.core.formats.deck.drawing import cells_of_deck
from hearthline.core.formats.deck.reader import read
from hearthline.core.formats.deck.writer import write_deck
from hearthline.core.formats.fragment import read_fragment, write_fragment
from hearthline.core.formats.project_folder import DEVICES
from hearthline.core.quantity import field_text
from hearthline.core.quantity import read as read_quantity


class Editor(QObject):
    """Works on the shown cell of a desk."""

    def __init__(self, desk: Desk, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.desk = desk

    @property
    def cell(self) -> Cell:
        """The shown cell."""
        return self.desk.cell

    def apply(self, new: Cell, text: str, picked: Picked | None = None, field: str = "") -> None:
        """Puts a changed cell in place and selects what was made."""
        self.desk.documents.exchange(self.cell, new, text, field)
        if picked is not None:
            self.desk.pick(picked)

    # -- what is selected

    def delete(self) -> None:
        """Takes away what is selected; a selected net by its wires."""
        picked = self.picked_or_net()
        if picked:
            new = without(self.cell, picked, self.desk.library)
            self.desk.pick(Picked())
            self.apply(new, f"delete {words(picked)}")

    def picked_or_net(self) -> Picked:
        """What is selected; of a net that was selected by its name all wires."""
        desk = self.desk
        if not desk.picked and desk.selection.kind == "net" and self.cell:
            return Picked(wires=frozenset(self.wires_of(desk.selection.name)))
        return desk.picked

    def wires_of(self, net: str) -> list[Wire]:
        """The wires of a net."""
        nets = self.desk.library.nets(self.cell)
        return [wire for wire in self.cell.wires if nets.at.get(wire.points[0]) == net] if nets else []

    def move(self, shift: Point, text: str = "move") -> None:
        """Moves what is selected; wires follow."""
        if self.desk.picked and shift != (0, 0):
            self._motion(Motion(shift), text)

    def turn(self) -> None:
        """A quarter turn clockwise about the middle."""
        self._motion(Motion(quarters=1, centre=self._centre()), "turn")

    def flip(self) -> None:
        """Left to right about the middle."""
        self._motion(Motion(flip=True, centre=self._centre()), "flip")

    def _motion(self, motion: Motion, text: str) -> None:
        picked = self.desk.picked
        if picked:
            new, after = moved(self.cell, picked, self.desk.library, motion)
            self.apply(new, f"{text} {words(picked)}", after)

    def _centre(self) -> Point:
        piece = inside(self.cell, self.desk.picked)
        if len(piece.parts) + len(piece.pins) == 1:
            return (*piece.parts, *piece.pins)[0].at
        places = places_of(piece) or [(0, 0)]
        xs, ys = [p[0] for p in places], [p[1] for p in places]
        return (min(xs) + max(xs)) // 2, (min(ys) + max(ys)) // 2

    def align(self, way: str) -> None:
        """Lines up what is selected."""
        new = aligned(self.cell, self.desk.picked, self.desk.library, way)
        self.apply(new, f"align {way}", self.desk.picked.within(new))

    def compact(self) -> None:
        """Brings everything nearer where rows and columns are empty."""
        if self.cell:
            self.apply(compacted(self.cell, self.desk.library), "brought together", Picked())

    def reroute(self) -> None:
        """Leads the selected wires anew."""
        wires = self.picked_or_net().wires
        if wires:
            new = rerouted(self.cell, wires, self.desk.library)
            self.apply(new, "route again", self.desk.picked.within(new))

    def select_all(self) -> None:
        """Everything in the cell."""
        if self.cell:
            self.desk.pick(everything(self.cell))

    # -- the clipboard

    def copy(self) -> None:
        """Takes what is selected as text, for any other cell, window or editor."""
        picked = self.picked_or_net()
        if picked:
            QGuiApplication.clipboard().setText(write_fragment(inside(self.cell, picked)))

    def cut(self) -> None:
        """Copies and deletes."""
        self.copy()
        self.delete()

    def clipboard(self) -> Cell | None:
        """The piece on the clipboard; a message where there is none."""
        try:
            piece = read_fragment(QGuiApplication.clipboard().text())
        except FileError as error:
            self.desk.tell(error)
            return None
        return piece if everything(piece) else None

    def paste(self, piece: Cell, shift: Point) -> None:
        """Puts a piece into the cell."""
        new, picked = pasted(self.cell, piece, shift, self.desk.library)
        self.apply(new, f"paste {words(picked)}", picked)

    # -- new things

    def add_part(self, part: Part) -> None:
        """Places a part under the next free name; a block that would make the cell contain itself is refused."""
        desk = self.desk
        if part.device in desk.project.cells and desk.library.reaches(part.device, self.cell.name):
            desk.tell(CircuitError(f"{part.device} contains {self.cell.name}, so it cannot stand in it"))
            return
        part = named(part, self.cell, desk.library)
        pairs = []
        inner = desk.project.cells.get(part.device)
        if inner is not None and inner.body is None:
            pairs.append((inner, with_body(inner)))
        pairs.append((self.cell, with_part(self.cell, part, desk.library)))
        desk.documents.exchange_all(pairs, f"place {part.name}")

    def add(self, item: Pin | Label | Note) -> None:
        """Places a pin, a net's name or a note."""
        what = {Pin: "pin", Label: "name", Note: "note"}[type(item)]
        if isinstance(item, Pin):
            names = [pin.name for pin in self.cell.pins]
            if item.name.lower() in {name.lower() for name in names}:
                item = replace(item, name=free_name(names, item.name))
        self.apply(with_items(self.cell, self.desk.library, item), f"place {what}")

    def add_wire(self, way: tuple[Point, ...]) -> None:
        """Draws a wire."""
        if len(way) > 1 and way[0] != way[-1]:
            self.apply(with_wire(self.cell, way, self.desk.library), "wire")

    def name_net(self, at: Point, name: str) -> None:
        """Names the net at a place; the name that stood there, or a pin's, is exchanged."""
        cell, name = self.cell, name.strip()
        here = next((one for one in cell.labels if one.at == at), None)
        if here is not None and not name:
            self.apply(without(cell, Picked(labels=frozenset((here,))), self.desk.library), "take the name away")
        elif here is not None:
            labels = tuple(replace(one, net=name) if one is here else one for one in cell.labels)
            self.apply(replace(cell, labels=labels), f"net {name}")
        elif name:
            self.add(Label(name, at))

    # -- changes of what is there

    def rename(self, kind: str, old: str, new: str) -> None:
        """Another name for a part or pin; the benches of the cell follow."""
        desk, cell = self.desk, self.cell
        if not new or new == old:
            return
        taken = {thing.name.lower() for thing in (cell.parts if kind == "part" else cell.pins)} - {old.lower()}
        if new.lower() in taken:
            desk.tell(CircuitError(f"{cell.name} has a {kind} {new} already; choose another name", part=new))
            return
        if kind == "part":
            new_cell, follow, text = renamed_part(cell, old, new, desk.library), with_part_renamed, f"{old} is {new}"
        else:
            new_cell, follow, text = renamed_pin(cell, old, new), with_pin_renamed, f"pin {old} is {new}"
        benches = [bench for bench in desk.project.benches.values() if bench.cell == cell.name]
        desk.documents.exchange_all([(cell, new_cell), *((one, follow(one, old, new)) for one in benches)], text)
        desk.select(kind, new)

    def change_parts(self, names: tuple[str, ...], field: str, text: str) -> None:
        """One value of several parts at once; nothing typed brings the default back."""
        parts = []
        for part in self.cell.parts:
            if part.name in names:
                values = {k: v for k, v in part.values.items() if k != field}
                part = replace(part, values={**values, field: text} if text else values)
            parts.append(part)
        what = names[0] if len(names) == 1 else f"{len(names)} parts"
        key = f"{self.cell.name}/{','.join(sorted(names))}/{field}"
        self.apply(replace(self.cell, parts=tuple(parts)), f"{what} {field} = {text}", field=key)

    def change_pin(self, new: Pin) -> None:
        """Another kind or direction of a pin."""
        pins = tuple(new if pin.name == new.name else pin for pin in self.cell.pins)
        self.apply(replace(self.cell, pins=pins), f"pin {new.name}")

    def change_note(self, old: Note, text: str) -> None:
        """Another text of a note."""
        new = replace(old, text=text)
        notes = tuple(new if note == old else note for note in self.cell.notes)
        self.apply(replace(self.cell, notes=notes), "note", Picked(notes=frozenset((new,))))

    def change_parameters(self, parameters: Mapping[str, str], field: str = "") -> None:
        """Other parameters of the cell."""
        key = f"{self.cell.name}/parameter {field}" if field else ""
        self.apply(replace(self.cell, parameters=dict(parameters)), f"parameter {field}", field=key)

    def leave_open(self, part: str, terminal: str) -> None:
        """Marks a terminal as meant to be open, or takes the mark away."""
        old = self.cell.part(part)
        marks = tuple(t for t in old.open if t != terminal) if terminal in old.open else (*old.open, terminal)
        self.apply(self.cell.with_part(replace(old, open=marks)), f"{part} {terminal} left open")

    # -- cells and blocks

    def new_cell(self, name: str) -> bool:
        """A new, empty cell, shown at once; False where the name is no good."""
        problem = self.cell_name_problem(name)
        if problem:
            self.desk.tell(CircuitError(problem))
            return False
        self.desk.documents.exchange(None, Cell(name), f"new cell {name}")
        self.desk.show_cell(name)
        return True

    def copy_cell(self, name: str) -> bool:
        """The shown cell once more, under another name; False where that is no good."""
        problem = self.cell_name_problem(name)
        if problem:
            self.desk.tell(CircuitError(problem))
            return False
        self.desk.documents.exchange(None, replace(self.cell, name=name), f"copy of {self.cell.name}")
        self.desk.show_cell(name)
        return True

    def cell_name_problem(self, name: str) -> str:
        """Why a cell cannot have that name, or nothing."""
        if not name.isidentifier():
            return f"'{name}' is no name for a cell; begin with a letter, then letters, digits and _"
        known = {cell.lower() for cell in self.desk.project.cells}
        return f"there is a cell {name} already; choose another name" if name.lower() in known else ""

    def rename_cell(self, name: str) -> bool:
        """Another name for the shown cell; its blocks and benches follow, in one step."""
        desk, old = self.desk, self.cell
        if not name or name == old.name:
            return False
        problem = self.cell_name_problem(name)
        if problem:
            desk.tell(CircuitError(problem))
            return False
        pairs = [(old, replace(old, name=name))]
        for cell in desk.project.cells.values():
            parts = tuple(replace(p, device=name) if p.device == old.name else p for p in cell.parts)
            if cell.name != old.name and parts != cell.parts:
                pairs.append((cell, replace(cell, parts=parts)))
        benches = [bench for bench in desk.project.benches.values() if bench.cell == old.name]
        desk.follow_rename({bench.key: replace(bench, cell=name).key for bench in benches}, old.name, name)
        pairs += [(bench, replace(bench, cell=name)) for bench in benches]
        desk.documents.exchange_all(pairs, f"{old.name} is {name}")
        desk.bench_changed.emit()
        return True

    def delete_cell(self) -> bool:
        """Takes the shown cell out of the project, unless a block or a bench needs it."""
        desk, name = self.desk, self.cell.name
        blocks = [cell.name for cell in desk.project.cells.values() if any(part.device == name for part in cell.parts)]
        benches = [bench.title for bench in desk.project.benches.values() if bench.cell == name]
        if blocks or benches:
            needing = ", ".join([*blocks, *benches][:3])
            desk.tell(CircuitError(f"{name} is needed by {needing}; take its blocks and benches away first"))
            return False
        old = self.cell
        others = [cell for cell in desk.project.cells if cell != name]
        if not others:
            desk.tell(CircuitError("the last cell of a project stays"))
            return False
        desk.show_cell(others[0])
        desk.documents.exchange(old, None, f"delete cell {name}")
        return True

    def make_block(self, name: str) -> bool:
        """What is selected as a cell of its own, with a block in its place."""
        problem = self.cell_name_problem(name)
        try:
            if problem:
                raise CircuitError(problem)
            made = made_block(self.cell, self.desk.picked, name, self.desk.library)
        except HearthlineError as error:
            self.desk.tell(error)
            return False
        pairs = [(None, made.inner), (self.cell, made.outer)]
        self.desk.documents.exchange_all(pairs, f"make block {name}")
        self.desk.select("part", made.block)
        return True

    def dissolve(self) -> None:
        """The selected block gives way to its parts."""
        if len(self.desk.picked.parts) != 1:
            self.desk.tell(CircuitError("select one block to dissolve"))
            return
        name = next(iter(self.desk.picked.parts))
        try:
            new, picked = dissolved(self.cell, name, self.desk.library)
        except HearthlineError as error:
            self.desk.tell(error)
            return
        self.apply(new, f"dissolve {name}", picked)

    def fix_body(self, cell: str) -> None:
        """Brings the symbol of a cell in line with its pins."""
        self.change_body(cell, mended(self.desk.project.cells[cell]).body)

    def change_body(self, cell: str, body: Body, field: str = "") -> None:
        """Another body of a cell; wires at its blocks follow, in all cells."""
        desk = self.desk
        cells = desk.project.cells
        changed = reshaped(cells, replace(cells[cell], body=body), desk.library)
        pairs = [(cells[name], new) for name, new in changed.items()]
        desk.documents.exchange_all(pairs, f"symbol of {cell}", field and f"{cell}/{field}")

    # -- decks

    def write_deck(self) -> Path | None:
        """Writes the shown cell into the folder `decks` of the project, ready for `hearthline solve`; None where it cannot
        be."""
        desk, cell = self.desk, self.cell
        kit, folder = desk.project.kit, desk.project.folder / "decks"
        corner = desk.bench.point.corner
        lines = (
            [f'.lib "{kit.file}" {corner}' if corner in kit.models.names else f'.include "{kit.file}"'] if kit else []
        )
        lines += [f'.veriloga "../{DEVICES}/{text}"' for text in desk.project.texts]
        if not cell.pins:
            lines += [f".param {name}={text}" for name, text in desk.bench.point.parameters.items()]
        try:
            written = write_deck(cell, desk.library, "\n".join(lines), as_block=bool(cell.pins))
            folder.mkdir(exist_ok=True)
            text = written.text if cell.pins else written.text.replace("\n.end\n", "\n.op\n.end\n")
            write_atomically(folder / f"{cell.name}.cir", text)
        except OSError as error:
            desk.tell(FileError(f"cannot be made: {error.strerror}", str(folder)))
        except HearthlineError as error:
            desk.tell(error)
        else:
            return folder / f"{cell.name}.cir"
        return None

    def read_deck(self, path: Path) -> bool:
        """Takes a deck as cells, placed and wired, in one undoable step; False with a message where it cannot be."""
        desk = self.desk
        try:
            found = cells_of_deck(read(path, path.name), desk.library, path.stem, path.name)
            taken = [cell.name for cell in found if cell.name in desk.project.cells]
            if taken:
                raise CircuitError(f"there is a cell {taken[0]} already; rename it, or the block in {path.name}")
            if not found:
                raise CircuitError(f"{path.name} has no parts to draw")
        except HearthlineError as error:
            desk.tell(error)
            return False
        desk.documents.exchange_all([(None, cell) for cell in found], f"read {path.name}")
        desk.show_cell(found[-1].name)
        return True

    def fresh_part(self, device: str) -> Part:
        """A part as it is first placed, with the values it needs."""
        desk = self.desk
        part = Part("", device, (0, 0))
        symbol = desk.library.symbol(part)
        if not isinstance(symbol, Symbol):
            return part
        kit = desk.project.kit.devices.get(device) if desk.project.kit else None
        values = {}
        for one in symbol.fields:
            if one.first:
                values[one.name] = _first(one, kit)
        return replace(part, values=values)


def _first(one, kit) -> str:
    """The first value of a field, inside what the kit allows."""
    if kit is None or one.name not in kit.sizes:
        return one.first
    minimum, maximum = kit.sizes[one.name]
    number = read_quantity(one.first, one.unit)
    return one.first if minimum <= number <= maximum else field_text(min(max(number, minimum), maximum))


def words(picked: Picked) -> str:
    """What is picked, in a few words."""
    if len(picked.parts) == 1 and not picked.pins:
        return next(iter(picked.parts))
    counts = zip(picked.sets, ("part", "pin", "wire", "name", "note"), strict=True)
    return ", ".join(f"{len(kind)} {word}{'s' * (len(kind) > 1)}" for kind, word in counts if kind)
