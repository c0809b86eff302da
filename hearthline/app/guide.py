"""Leads to what a list or a table speaks of: a part, a device inside blocks, the place of a finding."""

from __future__ import annotations

from hearthline.app.canvas.drawing import Drawing
from hearthline.app.canvas.tools.placing import centred
from hearthline.app.state.desk import Desk
from hearthline.core.circuit.cell import Cell
from hearthline.core.circuit.rules.finding import Finding


class Guide:
    """Selects on the drawing, and brings into view."""

    def __init__(self, desk: Desk, drawing: Drawing) -> None:
        self.desk, self.drawing = desk, drawing

    def part(self, name: str) -> None:
        """A part of the shown cell."""
        self.desk.select("part", name)

    def device(self, flat: str) -> None:
        """A device by its name in the flat circuit: goes to the block that it stands in."""
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

    def take_in_hand(self, piece: Cell) -> None:
        """A piece that is to be placed on the drawing."""
        if self.desk.cell is not None:
            self.drawing.place(centred(piece), self.drawing.editor.paste, "piece", once=True)

    def finding(self, finding: Finding) -> None:
        """Where a check found something."""
        if finding.part:
            known = any(part.name == finding.part for part in self.desk.cell.parts)
            self.desk.select("part" if known else "pin", finding.part)
        elif finding.net:
            self.desk.select("net", finding.net)
        if finding.places:
            self.drawing.show_place(finding.places[0])
