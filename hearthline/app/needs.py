"""What commands need: each says what is missing, or nothing."""

from __future__ import annotations

from hearthline.app.state.desk import Desk


class Needs:
    """Of one desk."""

    def __init__(self, desk: Desk) -> None:
        self.desk = desk

    def cell(self) -> str:
        """A drawing."""
        return "" if self.desk.cell is not None else "needs a cell on the desk"

    def bench(self) -> str:
        """A bench of its own."""
        bench = self.desk.bench
        return "" if bench is not None and bench.name else "needs a bench; Ctrl+E makes one for this cell"

    def running(self) -> str:
        """A run."""
        return "" if self.desk.results.runner.busy else "needs a run that is going on"

    def curves(self) -> str:
        """Charts with something in them."""
        return "" if self.desk.results.dataset is not None else "needs curves; run the bench first"

    def selection(self) -> str:
        """Anything."""
        return "" if self.desk.picked or self.desk.selection.kind else "needs something selected on the drawing"

    def part(self) -> str:
        """Parts."""
        return "" if self.desk.picked.parts else "needs parts selected on the drawing"

    def several(self) -> str:
        """Two things that can be moved."""
        count = len(self.desk.picked.parts) + len(self.desk.picked.pins)
        return "" if count > 1 else "needs two parts or pins, selected on the drawing"

    def block(self) -> str:
        """A block, and nothing else."""
        desk = self.desk
        part = next((p for p in desk.cell.parts if p.name in desk.picked.parts), None) if desk.cell else None
        is_block = part is not None and desk.project is not None and part.device in desk.project.cells
        return "" if is_block else "needs a block selected on the drawing"
