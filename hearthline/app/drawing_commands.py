"""The commands of the drawing, with their keys."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hearthline.app.canvas.tools.placing import centred
from hearthline.app.canvas.tools.shaping import Shaping
from hearthline.app.commands import Command
from hearthline.app.needs import Needs
from hearthline.core.circuit.cell import Cell
from hearthline.core.circuit.edit.align import WAYS

if TYPE_CHECKING:
    from hearthline.app.frame import Frame


def drawing_commands(window: Frame) -> list[Command]:
    """All of them, for one window."""
    drawing, editor = window.drawing, window.editor
    needs = Needs(window.desk)
    words = {"even across": "Even gaps across", "even down": "Even gaps down"}
    return [
        Command("Draw a wire", ("D",), drawing.draw_wire, needs.cell),
        Command("Route the selected wires again", ("Shift+D",), editor.reroute),
        Command("Name the net", ("N",), lambda: name_net(window)),
        Command("Turn", ("T",), drawing.turn),
        Command("Flip", ("Shift+T",), drawing.flip),
        Command("Delete", ("Del",), editor.delete, needs.selection),
        Command("Copy", ("Ctrl+C",), editor.copy, needs.selection),
        Command("Cut", ("Ctrl+X",), editor.cut, needs.selection),
        Command("Paste", ("Ctrl+V",), lambda: paste(window), needs.cell),
        Command("Bring the drawing together", ("Ctrl+Shift+D",), editor.compact, needs.cell),
        Command("Select all", ("Ctrl+A",), editor.select_all),
        Command("Into the block", ("Return",), lambda: go_in(window), needs.block),
        Command("Shape the symbol", ("Y",), lambda: shape(window), needs.block),
        Command("Make a block of the selection", ("Ctrl+B",), lambda: make_block(window), needs.part),
        Command("Dissolve the block", ("Ctrl+Shift+B",), editor.dissolve, needs.block),
        Command("New cell", ("Ctrl+Shift+C",), lambda: new_cell(window)),
        Command("Rename the cell", (), lambda: rename_cell(window), needs.cell),
        Command("Delete the cell", (), editor.delete_cell, needs.cell),
        Command("Write the drawing as SVG and PDF", (), window.export_figure),
        Command("Write the cell as a deck", (), window.export_deck),
        Command("Read a deck as cells", (), window.ask_deck),
        *(Command(words.get(way, f"Align {way}"), (), lambda way=way: editor.align(way), needs.several) for way in WAYS),
        *(Command(f"Show the {view}", (), lambda view=view: window.side.show_view(view)) for view in window.side.kinds),
        Command("Move the selection by a step", ("Shift+arrows",), lambda: None),
        Command("Pan", ("arrows",), lambda: None),
    ]  # fmt: skip


def name_net(window: Frame) -> None:
    """Asks for the name of the net under the pointer, or of the selected one."""
    drawing, desk = window.drawing, window.desk
    if desk.cell is None:
        return
    place = drawing.pointed_place()
    if (place is None or not drawing.scene.net_at(place)) and desk.selection.kind == "net":
        wires = window.editor.wires_of(desk.selection.name)
        place = wires[0].points[0] if wires else place
    if place is None:
        return
    here = next((one for one in desk.cell.labels if one.at == place), None)
    window.ask_at_pointer("name of the net", here.net if here else "", lambda text: window.editor.name_net(place, text))


def paste(window: Frame) -> None:
    """Takes what is on the clipboard in hand."""
    piece = window.editor.clipboard()
    if piece is None or window.desk.cell is None:
        return

    def put(piece: Cell, at) -> None:
        window.editor.paste(piece, at)

    window.drawing.place(centred(piece), put, "piece", once=True)


def go_in(window: Frame) -> None:
    """Into the selected block."""
    picked = window.desk.picked
    if len(picked.parts) == 1:
        window.desk.enter(next(iter(picked.parts)))


def shape(window: Frame) -> None:
    """Takes the sides and terminals of the selected block in hand."""
    desk = window.desk
    part = next((p for p in desk.cell.parts if p.name in desk.picked.parts), None) if desk.cell else None
    if part is not None and part.device in desk.project.cells:
        window.drawing.use(Shaping(window.drawing, part.name))
        window.drawing.setFocus()


def make_block(window: Frame) -> None:
    """Asks what the new cell is called."""
    if window.desk.picked.parts:
        window.ask_at_pointer("name of the new cell", "", window.editor.make_block)


def rename_cell(window: Frame) -> None:
    """Asks what the shown cell shall be called."""
    if window.desk.cell:
        window.ask_at_pointer("new name of the cell", window.desk.cell.name, window.editor.rename_cell)


def new_cell(window: Frame) -> None:
    """Asks what the new cell is called, and shows it."""
    if window.desk.project:
        window.ask_at_pointer("name of the new cell", "", window.editor.new_cell)
