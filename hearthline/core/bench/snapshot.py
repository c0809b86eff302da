"""What a run is made of, frozen: bench, cells and kit; and the circuit that the engine gets from it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from typing import TYPE_CHECKING, Protocol

from hearthline.core.analyses.circuit import Circuit, Hints
from hearthline.core.analyses.line import Analysis
from hearthline.core.bench.bench import Bench, PointSetup, Stimulus
from hearthline.core.bench.conditions import conditions_of
from hearthline.core.bench.heat import HeatSetup
from hearthline.core.bench.samples import SampleSetup, sampling_of
from hearthline.core.bench.statistical import deviating, plain, with_corners
from hearthline.core.bench.stimuli import element_of
from hearthline.core.bench.surroundings import index_of, placed
from hearthline.core.circuit.cell import Cell
from hearthline.core.circuit.flatten import CUT, Library, flatten
from hearthline.core.circuit.netlist import GROUND, Element, Netlist, Scope
from hearthline.core.errors import CircuitError, HearthlineError
from hearthline.core.expression import Expression, parse_exact
from hearthline.core.process.kit import ProcessKit
from hearthline.core.process.models import ModelSet
from hearthline.core.quantity import read
from hearthline.core.spread.draws import Space
from hearthline.core.spread.pvt import Condition, key_of

if TYPE_CHECKING:  # the engine is loaded when something is run
    from hearthline.core.engine.lanes import Lanes
    from hearthline.core.engine.solve import Tolerances


class WrittenCircuit(Protocol):
    """A circuit that was read from a deck; `names` are those of its own parameters."""

    names: tuple[str, ...]

    @property
    def parameters(self) -> Mapping[str, float]:
        """The deck's own, as numbers."""

    @property
    def files(self) -> Mapping[str, str]:
        """The texts that it was read from, by what they are called."""

    @property
    def tolerances(self) -> Tolerances:
        """As its options say."""

    @property
    def steps(self) -> Mapping[str, object]:
        """What its options say of transients."""

    def circuit(self, corner: str) -> Netlist:
        """Its circuit in a corner."""

    def cut(self, corner: str, block: str, node: str) -> Netlist:
        """The same with a node of a block cut off from its net."""

    def one_for_all(self, corners: tuple[str, ...]) -> bool:
        """Whether that is the same in all of these."""


@dataclass(frozen=True)
class Snapshot:
    """Everything a result depends on; of a bench over a deck, its circuit is `written`, with `blocks` from files
    beside it."""

    bench: Bench
    cells: Mapping[str, Cell]
    kit: ProcessKit
    written: WrittenCircuit | None = None
    blocks: tuple[Element, ...] = ()

    @cached_property
    def circuit(self) -> Circuit:
        """The circuit to be asked, made once. Raises HearthlineError where it is wrong."""
        return Circuit(self)

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
        return Library(self.cells, self.kit.symbols, self.kit.templates, self.kit.modules, self.kit.networks)

    def netlist(self, corner: str = "", around: str = "") -> Netlist:
        """The circuit with its stimuli, in the surroundings of the bench's point or others. Raises CircuitError, and BenchError
        for surroundings that do not fit."""
        key = self._plain(corner or self.bench.point.corner) if self.written else ""
        around = around or self._around
        found = self._netlists.get((key, around))
        if found is None:
            found = self._netlists[key, around] = self._placed(self._plainly(key), around)
        return found

    def _plainly(self, corner: str) -> Netlist:
        """Without surroundings."""
        if (corner, "") not in self._netlists:
            self._netlists[corner, ""] = self._tied(self.written.circuit(corner) if self.written else self._drawn())
        return self._netlists[corner, ""]

    def _placed(self, netlist: Netlist, around: str) -> Netlist:
        """In surroundings of that name, where it has one. Raises BenchError."""
        if not around:
            return netlist
        known = self.bench.surroundings
        index = index_of(known, around, "point")
        return placed(netlist, known[index], index, self.kit.networks)

    @property
    def _around(self) -> str:
        """The surroundings of the point; nothing where a bench has none."""
        first = next((one.name for one in self.bench.surroundings), "")
        return self.bench.point.surroundings or first

    @cached_property
    def _netlists(self) -> dict[tuple[str, str], Netlist]:
        return {}

    def one_for_all(self, corners: tuple[str, ...]) -> bool:
        """Whether the netlist is the same in all of these corners: a drawing always is."""
        return self.written is None or self.written.one_for_all(tuple(dict.fromkeys(map(self._plain, corners))))

    def _plain(self, corner: str) -> str:
        return plain(corner, self.bench.statistical)

    def moved(self, lanes: Lanes) -> Lanes:
        """Lanes with what the statistical corners of their conditions deviate by. Raises CircuitError."""
        return deviating(lanes, self.bench.statistical, lambda: self._space)

    @cached_property
    def _space(self) -> Space:
        from hearthline.core.spread.variables import variables_of

        bench, statistics = self.bench, self.kit.statistics
        own = sampling_of(bench.samples or SampleSetup(), bench.tolerances).statistics
        return Space.of(variables_of(self.netlist(), statistics, self.condition(), own), statistics)

    def _drawn(self, cut: tuple[str, str] = ("", "")) -> Netlist:
        root = Scope(None, {k: _value(f"parameter {k}", v) for k, v in self.parameters.items()})
        return Netlist(flatten(self.cell, self.library, root, cut).elements, root)

    def inside(self, part: str, terminal: str) -> tuple[tuple[str, int], ...]:
        """Which terminals of which elements make up a terminal of a block, or of a device that is a small circuit."""
        corner = self._plain(self.bench.point.corner)
        inner = self.written.cut(corner, part, terminal) if self.written else self._drawn((part, terminal))
        return tuple((one.name, k) for one in inner.elements for k, net in enumerate(one.nets) if net == CUT)

    def _tied(self, inner: Netlist) -> Netlist:
        """A circuit with the bench's stimuli."""
        bench = self.bench
        for one in self.blocks:
            if one.name in {element.name for element in inner.elements}:
                raise CircuitError(f"block '{one.name}' has the name of a part; rename one of them", part=one.name)
        inner = replace(inner, elements=(*inner.elements, *self.blocks))
        ends = self._ends(inner)
        stimuli = map(_lower, bench.stimuli) if self.written else bench.stimuli
        where = f"deck {bench.deck} has no net" if self.written else f"cell {bench.cell} has no pin"
        sources = tuple(element_of(one, inner.root, ends, where, bench.key) for one in stimuli)
        for name in {source.name for source in sources} & {element.name for element in inner.elements}:
            raise CircuitError(f"stimulus '{name}' has the name of a part; rename one of them", part=name)
        return replace(inner, elements=(*sources, *inner.elements))

    def _ends(self, inner: Netlist) -> set[str]:
        """What a stimulus may be tied to: pins of the cell, or any net of a deck."""
        return {pin.name for pin in self.cell.pins} if self.written is None else {GROUND, *inner.nets}

    @cached_property
    def models(self) -> ModelSet:
        """Of all corners, those of the bench's statistics among them."""
        return with_corners(self.kit.models, self.bench.statistical)

    @property
    def tolerances(self) -> Tolerances:
        """When a solution is one."""
        from hearthline.core.engine.solve import Tolerances

        return self.written.tolerances if self.written else Tolerances()

    @property
    def steps(self) -> Mapping[str, object]:
        """What is said of every transient."""
        return self.written.steps if self.written else {}

    @property
    def heat(self) -> HeatSetup | None:
        """As the bench says."""
        return self.bench.heat

    @property
    def analyses(self) -> tuple[Analysis, ...]:
        """Those of the bench."""
        return self.bench.analyses

    @property
    def known_parameters(self) -> tuple[str, ...]:
        """Everything that a sweep may set."""
        own = self.written.parameters if self.written else self.cell.parameters
        return tuple(dict.fromkeys([*self.parameters, *own]))

    def hints(self) -> Hints:
        """What the drawing says beyond its netlist."""
        if self.written:
            return Hints()
        pins, labels = self.cell.pins, self.cell.labels
        supplies = {pin.name.lower() for pin in pins if pin.kind == "supply"}
        supplies |= {label.net.lower() for label in labels if label.kind == "supply"}
        return Hints(
            frozenset(supplies),
            tuple(pin.name.lower() for pin in pins if pin.kind == "output"),
            tuple(label.net.lower() for label in labels),
            min((device.supply for device in self.kit.devices.values()), default=1.0),
        )

    @cached_property
    def parameters(self) -> Mapping[str, str]:
        """The parameters of the bench as typed, at the point; one that only a run goes through stands as in the cell."""
        bench = self.bench
        axes = [*bench.grid.parameters, *(name for one in bench.grid.picked for name in one.parameters)]
        if self.written is None:
            own = self.cell.parameters
            swept = [one.settings.get(word, "") for one in bench.analyses for word in ("of", "within")]
            axes += [name for name in swept if name in own]
        else:
            own = {name: repr(value) for name, value in self.written.parameters.items()}
        usual = {name: own.get(name, bench.grid.parameters.get(name, ("0",))[0]) for name in axes}
        return {**usual, **bench.point.parameters}

    @property
    def parameter_units(self) -> dict[str, str]:
        """Units of parameters that stand by themselves as a value, of a stimulus or of a part; one called v.. is a voltage."""
        library, found = self.library, {one.dc.strip(): one.unit for one in self.bench.stimuli}
        for part in self.cells[self.bench.cell].parts if self.bench.cell in self.cells else ():
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
        around = setup.surroundings or self._around
        if around:
            index_of(self.bench.surroundings, around, "point" if setup is self.bench.point else "grid")
        return Condition(setup.corner or self.bench.point.corner, _celsius(setup.temperature), parameters, around)

    def conditions(self) -> tuple[Condition, ...]:
        """The conditions of a run; a parameter without an axis of its own keeps the value of the point."""
        setup = self.bench.grid
        for around in setup.surroundings:
            index_of(self.bench.surroundings, around, "grid")
        axes = {name: tuple(self.number(name, t) for t in texts) for name, texts in setup.parameters.items()}
        celsius = tuple(_celsius(t) for t in setup.temperatures)
        return conditions_of(setup, self.condition(), celsius, axes, self.picked())

    def picked(self) -> tuple[Condition, ...]:
        """The conditions that were picked by hand, each once."""
        return tuple({key_of(one): one for one in map(self._condition, self.bench.grid.picked)}.values())

    def number(self, owner: str, text: str, unit: str = "V") -> float:
        """What a text of the bench says, with the bench's parameters as they are at the point. Raises CircuitError naming the
        owner."""
        parameters = self.parameters

        def find(name: str) -> float:
            if name not in parameters or name == owner:
                raise CircuitError(f"{owner}: unknown parameter '{name}'")
            return self.number(name, parameters[name])

        return float(_value(owner, text, unit).value(find))


def _lower(stimulus: Stimulus) -> Stimulus:
    """In small letters, as a deck knows its nets."""
    pin, to = (GROUND if net.lower() == "gnd" else net.lower() for net in (stimulus.pin, stimulus.to))
    return replace(stimulus, pin=pin, to=to)


def _value(owner: str, text: str, unit: str = "V") -> Expression:
    try:
        return parse_exact(text, unit)
    except HearthlineError as error:
        raise CircuitError(f"{owner}: {error}", part=owner) from None


def _celsius(text: str) -> float:
    try:
        return read(text, "°C")
    except HearthlineError as error:
        raise CircuitError(f"temperature: {error}") from None
