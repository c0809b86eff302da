"""How warm the shown circuit is: which terminals come near to oscillating, looked for when a person asks."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject

from hearthline.app.state.asked import Asked
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.circuit.cell import Cell
from hearthline.core.circuit.instance import Instance
from hearthline.core.engine.job import Job

if TYPE_CHECKING:
    from hearthline.core.bench.nearness import Near, Nearness

COOL = 0.05
"""Heat under which nothing is shown."""


class Warmth(Asked["Nearness"]):
    """Of every terminal of every transistor, at all conditions."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__("terminals", parent)

    def ask(self, snapshot: Snapshot | None) -> None:
        """Looks at them."""
        if snapshot is None:
            return

        def make(job: Job) -> Nearness:
            from hearthline.core.bench.nearness import nearness  # late: the engine loads its kernels on this thread

            return nearness(snapshot)

        self._clear()
        self._question(make)

    def on(self, cell: Cell, instance: Instance) -> Iterator[tuple[str, str, float]]:
        """(part, terminal, heat) on a shown cell; of a block, whose terminal is "", the warmest inside it."""
        if self.found is None:
            return
        hot = [one for one in self.found.terminals if one.heat > COOL]
        for part in cell.parts:
            flat = instance.part(part.name)
            own = [one for one in hot if one.terminal.startswith(f"{flat}.")]
            for one in own:
                rest = one.terminal[len(flat) + 1 :]
                if "." not in rest:
                    yield part.name, rest, one.heat
            inner = [one.heat for one in own if "." in one.terminal[len(flat) + 1 :]]
            if inner:
                yield part.name, "", max(inner)

    def of_terminal(self, terminal: str) -> Near | None:
        """What was found at one."""
        return next((one for one in self.found.terminals if one.terminal == terminal), None) if self.found else None
