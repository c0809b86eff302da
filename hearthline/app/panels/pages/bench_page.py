"""Details of the bench, when nothing is selected: its stimuli and its sweep."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtWidgets import QGridLayout

from hearthline.app.panels.pages.net_page import stimulus_field
from hearthline.app.panels.pages.page import Page
from hearthline.app.panels.rows import heading, quiet
from hearthline.app.panels.value_field import ValueLine
from hearthline.app.state.desk import Desk

MOST_POINTS = 1_000_000


class BenchPage(Page):
    """Watches the current bench."""

    def __init__(self, desk: Desk) -> None:
        bench = desk.bench
        super().__init__(desk, bench.cell, f"bench {bench.name}")
        if desk.cell is None:
            self.column.addWidget(quiet(f"The project has no readable cell {bench.cell}."))
            return
        self.column.addWidget(heading("Stimuli"))
        grid = self.add_grid()
        for stimulus in bench.stimuli:
            tip = f"{stimulus.kind} at pin {stimulus.pin}"
            self.add_field(grid, f"dc {stimulus.name}", stimulus.name, stimulus_field(self, stimulus), tip)
        self.column.addWidget(heading(f"Sweep of {bench.sweep.stimulus}"))
        grid = self.add_grid()
        self._add_sweep(grid, "start", "from", "V", lambda number: "")
        self._add_sweep(grid, "stop", "to", "V", lambda number: "")
        self._add_sweep(grid, "points", "points", "", _whole)
        self.column.addWidget(quiet("Select a part, a pin or a net on the drawing to see it here."))

    def texts(self) -> dict[str, str]:
        """Stimuli and sweep."""
        bench = self.desk.bench
        texts = {f"dc {stimulus.name}": stimulus.dc for stimulus in bench.stimuli}
        return texts | {f"sweep {name}": str(getattr(bench.sweep, name)) for name in ("start", "stop", "points")}

    def _add_sweep(self, grid: QGridLayout, name: str, label: str, unit: str, check: Callable[[float], str]) -> None:
        line = ValueLine(str(getattr(self.desk.bench.sweep, name)), unit, check, self.bench_parameters)
        line.changed.connect(lambda text: self._edit(name, text))
        self.add_field(grid, f"sweep {name}", label, line, "where the sweep goes")

    def _edit(self, name: str, text: str) -> None:
        bench = self.desk.bench
        sweep = replace(bench.sweep, **{name: int(float(text)) if name == "points" else text})
        self.desk.change_bench(replace(bench, sweep=sweep), f"sweep {name}", f"sweep {name}")


def _whole(number: float) -> str:
    allowed = number == int(number) and 2 <= number <= MOST_POINTS
    return "" if allowed else f"a whole number from 2 to {MOST_POINTS}"
