"""What a run is made of, frozen: bench, cells and kit; and the circuit that the engine gets from it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from hearthline.core.bench.bench import Bench, PointSetup
from hearthline.core.bench.conditions import conditions_of
from hearthline.core.bench.stimuli import element_of
from hearthline.core.circuit.cell import Cell
from hearthline.core.circuit.flatten import Library, flatten
from hearthline.core.circuit.netlist import Netlist, Scope
from hearthline.core.errors import CircuitError, HearthlineError
from hearthline.core.expression import Expression, parse_value
from hearthline.core.process.kit import ProcessKit
from hearthline.core.quantity import read
from hearthline.core.spread.pvt import Condition


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
        parameters = {k: _value(f"parameter {k}", v) for k, v in self.parameters.items()}
        root = Scope(None, parameters)
        inner = flatten(self.cell, self.library, root)
        pins = {pin.name for pin in self.cell.pins}
        bench = self.bench
        sources = tuple(element_of(one, root, pins, bench.cell, bench.key) for one in bench.stimuli)
        twins = {source.name for source in sources} & {element.name for element in inner.elements}
        for name in twins:
            raise CircuitError(f"stimulus '{name}' has the name of a part; rename one of them", part=name)
        return Netlist((*sources, *inner.elements), root)

    @property
    def parameters(self) -> Mapping[str, str]:
        """The parameters of the bench as typed, at the point; one that only a run goes through stands as in the cell."""
        bench = self.bench
        axes = [*bench.grid.parameters, *(name for one in bench.grid.picked for name in one.parameters)]
        own = self.cell.parameters
        swept = [one.settings.get(word, "") for one in bench.analyses for word in ("of", "within")]
        axes += [name for name in swept if name in own]
        usual = {name: own.get(name, bench.grid.parameters.get(name, ("0",))[0]) for name in axes}
        return {**usual, **bench.point.parameters}

    @property
    def parameter_units(self) -> dict[str, str]:
        """Units of parameters that stand by themselves as a value, of a stimulus or of a part; one called v.. is a voltage."""
        library, found = self.library, {one.dc.strip(): one.unit for one in self.bench.stimuli}
        for part in self.cell.parts if self.bench.cell in self.cells else ():
            symbol = library.symbol(part) if library.knows(part) else None
            for one in getattr(symbol, "fields", ()):
                found.setdefault(part.values.get(one.name, "").strip(), one.unit)
        usual = {name: "V" for name in self.parameters if name.lower().startswith("v")}
        return usual | {name: found[name] for name in self.parameters if name in found}

    def condition(self) -> Condition:
        """The condition of the live operating point. Raises HearthlineError."""
        return self._condition(self.bench.point)

    def _condition(self, setup: PointSetup) -> Condition:
        texts = {**self.parameters, **setup.parameters}
        parameters = {name: self.number(name, text) for name, text in texts.items()}
        return Condition(setup.corner or self.bench.point.corner, _celsius(setup.temperature), parameters)

    def conditions(self) -> tuple[Condition, ...]:
        """The conditions of a run; a parameter without an axis of its own keeps the value of the point."""
        setup = self.bench.grid
        axes = {name: tuple(self.number(name, t) for t in texts) for name, texts in setup.parameters.items()}
        celsius = tuple(_celsius(t) for t in setup.temperatures)
        picked = [self._condition(one) for one in setup.picked]
        return conditions_of(setup, self.condition(), celsius, axes, picked)

    def number(self, owner: str, text: str, unit: str = "V") -> float:
        """What a text of the bench says, with the bench's parameters as they are at the point. Raises CircuitError naming the
        owner."""
        parameters = self.parameters

        def find(name: str) -> float:
            if name not in parameters or name == owner:
                raise CircuitError(f"{owner}: unknown parameter '{name}'")
            return self.number(name, parameters[name])

        return float(_value(owner, text, unit).value(find))


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
