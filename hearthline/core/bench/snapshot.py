"""What a run is made of, frozen: bench, cells and kit; and the circuit that the engine gets from it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from hearthline.core.bench.bench import Bench, Stimulus
from hearthline.core.circuit.cell import Cell
from hearthline.core.circuit.flatten import Library, flatten
from hearthline.core.circuit.netlist import GROUND, Element, Netlist, Place, Scope
from hearthline.core.errors import CircuitError, HearthlineError
from hearthline.core.expression import Expression, parse_value
from hearthline.core.process.kit import ProcessKit
from hearthline.core.quantity import read
from hearthline.core.spread.pvt import Condition, Grid


@dataclass(frozen=True)
class Snapshot:
    """Everything a result depends on."""

    bench: Bench
    cells: Mapping[str, Cell]
    kit: ProcessKit

    @property
    def cell(self) -> Cell:
        """The cell under test; raises CircuitError where the project has none of that name."""
        if self.bench.cell not in self.cells:
            known = ", ".join(self.cells) or "none"
            raise CircuitError(f"bench {self.bench.name} wants cell '{self.bench.cell}'; the project has {known}")
        return self.cells[self.bench.cell]

    @property
    def library(self) -> Library:
        """What parts may be."""
        return Library(self.cells, self.kit.symbols, self.kit.templates, self.kit.modules)

    def netlist(self) -> Netlist:
        """The cell with its stimuli. Raises CircuitError."""
        parameters = {k: _value(f"parameter {k}", v) for k, v in self.bench.point.parameters.items()}
        root = Scope(None, parameters)
        inner = flatten(self.cell, self.library, root)
        pins = {pin.name for pin in self.cell.pins}
        sources = tuple(self._source(stimulus, root, pins) for stimulus in self.bench.stimuli)
        twins = {source.name for source in sources} & {element.name for element in inner.elements}
        for name in twins:
            raise CircuitError(f"stimulus '{name}' has the name of a part; rename one of them", part=name)
        return Netlist((*sources, *inner.elements), root)

    def _source(self, stimulus: Stimulus, root: Scope, pins: set[str]) -> Element:
        if stimulus.pin not in pins:
            known = ", ".join(sorted(pins)) or "none"
            raise CircuitError(
                f"stimulus {stimulus.name}: cell {self.bench.cell} has no pin '{stimulus.pin}'; it has {known}"
            )
        value = _value(f"stimulus {stimulus.name}", stimulus.dc, "V" if stimulus.kind == "voltage" else "A")
        nets = (stimulus.pin.lower(), GROUND) if stimulus.kind == "voltage" else (GROUND, stimulus.pin.lower())
        kind = "V" if stimulus.kind == "voltage" else "I"
        place = Place(file=self.bench.key, part=stimulus.name)
        return Element(stimulus.name.lower(), kind, nets, {"dc": value}, scope=root, place=place)

    def condition(self) -> Condition:
        """The condition of the live operating point. Raises HearthlineError."""
        point = self.bench.point
        parameters = {name: self._number(name, text) for name, text in point.parameters.items()}
        return Condition(point.corner, _celsius(point.temperature), parameters)

    def grid(self) -> Grid:
        """The conditions of a run; a parameter without an axis of its own keeps the value of the point."""
        setup = self.bench.grid
        axes = {name: (self._number(name, text),) for name, text in self.bench.point.parameters.items()}
        axes |= {name: tuple(self._number(name, t) for t in texts) for name, texts in setup.parameters.items()}
        return Grid(setup.corners, tuple(_celsius(t) for t in setup.temperatures), axes)

    def sweep_points(self) -> np.ndarray:
        """The swept values (points,)."""
        sweep = self.bench.sweep
        start, stop = self._number("sweep", sweep.start), self._number("sweep", sweep.stop)
        return np.linspace(start, stop, sweep.points)

    def _number(self, owner: str, text: str) -> float:
        parameters = self.bench.point.parameters

        def find(name: str) -> float:
            if name not in parameters or name == owner:
                raise CircuitError(f"{owner}: unknown parameter '{name}'")
            return float(self._number(name, parameters[name]))

        return float(_value(owner, text).value(find))


def _value(owner: str, text: str, unit: str = "V") -> Expression:
    try:
        return parse_value(text, unit)
    except HearthlineError as error:
        raise CircuitError(f"{owner}: {error}", part=owner) from None


def _celsius(text: str) -> float:
    try:
        return read(text, "°C")
    except HearthlineError as error:
        raise CircuitError(f"temperature: {error}") from None
