"""Details of the bench, when nothing is selected: its stimuli, its sweep and the conditions of a run."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtWidgets import QGridLayout

from hearthline.app.panels.pages.cell_page import add_parameters, add_symbol
from hearthline.app.panels.pages.net_page import stimulus_field
from hearthline.app.panels.pages.page import Page
from hearthline.app.panels.rows import heading, quiet
from hearthline.app.panels.value_field import ListLine, ValueLine
from hearthline.app.state.desk import Desk
from hearthline.app.state.editor import Editor

MOST_POINTS = 1_000_000


class BenchPage(Page):
    """Watches the current bench."""

    def __init__(self, desk: Desk, editor: Editor) -> None:
        bench = desk.bench
        super().__init__(desk, bench.cell, f"bench {bench.name}" if bench.name else "cell without a bench")
        if desk.cell is None:
            self.column.addWidget(quiet(f"The project has no readable cell {bench.cell}."))
            return
        if bench.stimuli:
            self._add_stimuli()
        if bench.sweep.stimulus:
            self._add_sweeps()
        add_parameters(self, editor, desk.cell)
        add_symbol(self, editor, desk.cell)
        self.column.addWidget(quiet("Select a part, a pin or a net on the drawing to see it here."))

    def _add_stimuli(self) -> None:
        self.column.addWidget(heading("Stimuli"))
        grid = self.add_grid()
        for stimulus in self.desk.bench.stimuli:
            tip = f"{stimulus.kind} at pin {stimulus.pin}"
            self.add_field(grid, f"dc {stimulus.name}", stimulus.name, stimulus_field(self, stimulus), tip)

    def _add_sweeps(self) -> None:
        bench = self.desk.bench
        self.column.addWidget(heading(f"Sweep of {bench.sweep.stimulus}"))
        grid = self.add_grid()
        self._add_sweep(grid, "start", "from", "V", lambda number: "")
        self._add_sweep(grid, "stop", "to", "V", lambda number: "")
        self._add_sweep(grid, "points", "points", "", _whole)
        self.column.addWidget(heading("A run crosses"))
        grid = self.add_grid()
        self._add_axis(grid, "temperature", "°C", bench.grid.temperatures)
        for name, values in bench.grid.parameters.items():
            self._add_axis(grid, name, "V", values)

    def texts(self) -> dict[str, str]:
        """Stimuli, sweep and axes of the grid."""
        bench = self.desk.bench
        if bench is None:
            return {}
        cell = self.desk.cell
        texts = {f"parameter {name}": text for name, text in cell.parameters.items()} if cell else {}
        texts |= {f"dc {stimulus.name}": stimulus.dc for stimulus in bench.stimuli}
        texts["grid temperature"] = ", ".join(bench.grid.temperatures)
        texts |= {f"grid {name}": ", ".join(values) for name, values in bench.grid.parameters.items()}
        return texts | {f"sweep {name}": str(getattr(bench.sweep, name)) for name in ("start", "stop", "points")}

    def _add_sweep(self, grid: QGridLayout, name: str, label: str, unit: str, check: Callable[[float], str]) -> None:
        line = ValueLine(str(getattr(self.desk.bench.sweep, name)), unit, check, self.bench_parameters)
        line.changed.connect(lambda text: self._edit(name, text))
        self.add_field(grid, f"sweep {name}", label, line, "where the sweep goes")

    def _add_axis(self, grid: QGridLayout, name: str, unit: str, values: tuple[str, ...]) -> None:
        line = ListLine(", ".join(values), unit, parameters=self.bench_parameters)
        line.changed.connect(lambda text: self._edit_axis(name, ListLine.split(text)))
        self.add_field(grid, f"grid {name}", name, line, f"values of {name} [{unit}] that a run goes through")

    def _edit_axis(self, name: str, values: tuple[str, ...]) -> None:
        bench = self.desk.bench
        if name == "temperature":
            grid = replace(bench.grid, temperatures=values)
        else:
            grid = replace(bench.grid, parameters={**bench.grid.parameters, name: values})
        self.desk.change_bench(replace(bench, grid=grid), f"{name} of the run", f"grid {name}")

    def _edit(self, name: str, text: str) -> None:
        bench = self.desk.bench
        sweep = replace(bench.sweep, **{name: int(float(text)) if name == "points" else text})
        self.desk.change_bench(replace(bench, sweep=sweep), f"sweep {name}", f"sweep {name}")


def _whole(number: float) -> str:
    allowed = number == int(number) and 2 <= number <= MOST_POINTS
    return "" if allowed else f"a whole number from 2 to {MOST_POINTS}"
