"""Details of the bench, when nothing is selected: its stimuli, its sweep and the conditions of a run."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from PyQt6.QtWidgets import QGridLayout

from hearthline.app.panels.pages.cell_page import add_parameters, add_symbol
from hearthline.app.panels.pages.net_page import stimulus_field
from hearthline.app.panels.pages.page import Page
from hearthline.app.panels.rows import heading, quiet
from hearthline.app.panels.value_field import ListLine, ValueLine
from hearthline.app.state.desk import Desk
from hearthline.app.state.editor import Editor
from hearthline.core.analyses.circuit import Circuit
from hearthline.core.analyses.kind import NUMBER, Setting
from hearthline.core.analyses.line import Analysis
from hearthline.core.analyses.plan import Plan
from hearthline.core.errors import HearthlineError

MOST_POINTS = 1_000_000


class BenchPage(Page):
    """Watches the current bench."""

    def __init__(self, desk: Desk, editor: Editor) -> None:
        bench = desk.bench
        super().__init__(desk, bench.subject, f"bench {bench.name}" if bench.name else "cell without a bench")
        if desk.cell is None and not bench.deck:
            self.column.addWidget(quiet(f"The project has no readable cell {bench.cell}."))
            return
        if bench.stimuli:
            self._add_stimuli()
        for analysis in bench.analyses:
            self._add_analysis(analysis)
        if bench.name:
            self._add_axes()
        if desk.cell is None:
            self.column.addWidget(quiet(f"The circuit is the deck {bench.deck}, beside the bench's file."))
            return
        add_parameters(self, editor, desk.cell)
        add_symbol(self, editor, desk.cell)
        self.column.addWidget(quiet("Select a part, a pin or a net on the drawing to see it here."))

    def _add_stimuli(self) -> None:
        self.column.addWidget(heading("Stimuli"))
        grid = self.add_grid()
        for stimulus in self.desk.bench.stimuli:
            tip = f"{stimulus.kind} at pin {stimulus.pin}"
            self.add_field(grid, f"dc {stimulus.name}", stimulus.name, stimulus_field(self, stimulus), tip)

    def _add_analysis(self, analysis: Analysis) -> None:
        """Its numbers; what is left out in the line of the analysis stands here as the circuit says it."""
        self.column.addWidget(heading(f"{analysis.name}: {analysis.kind}"))
        grid = self.add_grid()
        for setting in analysis.of.settings:
            if setting.kind == NUMBER and setting.word in self._settings(analysis):
                self._add_setting(grid, analysis, setting)

    _known: tuple | None = None

    def _settings(self, analysis: Analysis) -> Mapping[str, str]:
        """Every setting; found anew only when something that they come from is another."""
        bench, project = self.desk.bench, self.desk.project
        key = (bench.stimuli, bench.grid, bench.point, project.cells, project.kit)
        if self._known is None or any(a is not b for a, b in zip(self._known[0], key, strict=True)):
            self._known = (key, self._circuit(), {})
        _, around, found = self._known
        try:
            if analysis.text not in found and around is not None:
                found[analysis.text] = Plan(around, analysis).settings
        except HearthlineError:
            pass
        return found.get(analysis.text, analysis.settings)

    def _circuit(self) -> Circuit | None:
        try:
            return self.desk.snapshot.circuit if self.desk.snapshot is not None else None
        except HearthlineError:
            return None

    def _add_setting(self, grid: QGridLayout, analysis: Analysis, setting: Setting) -> None:
        name, word = analysis.name, setting.word
        text = self._settings(analysis)[word]
        check = _whole if word == "points" else lambda number: ""
        line = ValueLine(text, setting.unit, check, self.bench_parameters)
        line.changed.connect(lambda text: self._edit(name, word, text))
        self.add_field(grid, f"{name} {word}", word, line, setting.meaning)

    def _add_axes(self) -> None:
        bench = self.desk.bench
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
        for analysis in bench.analyses:
            texts |= {f"{analysis.name} {word}": text for word, text in self._settings(analysis).items()}
        return texts

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

    def _edit(self, name: str, word: str, text: str) -> None:
        bench = self.desk.bench
        analysis = next(one for one in bench.analyses if one.name == name)
        settings = {**analysis.settings, word: text.replace(" ", "")}
        self.desk.change_bench(
            bench.with_analysis(replace(analysis, settings=settings)), f"{name} {word}", f"{name} {word}"
        )


def _whole(number: float) -> str:
    allowed = number == int(number) and 2 <= number <= MOST_POINTS
    return "" if allowed else f"a whole number from 2 to {MOST_POINTS}"
