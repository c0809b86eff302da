"""A circuit to be asked: what it holds that analyses want to know, and the systems that were made of it."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Hashable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, Protocol, TypeVar, cast

from hearthline.core.circuit.netlist import Element, Netlist
from hearthline.core.elements import drives
from hearthline.core.elements.wave import Wave
from hearthline.core.errors import HearthlineError
from hearthline.core.process.models import ModelSet
from hearthline.core.quantity import field_text
from hearthline.core.spread.draws import Draws
from hearthline.core.spread.pvt import Condition, lanes_of

if TYPE_CHECKING:  # the engine is loaded when something is run
    from hearthline.core.engine.heating import Heating
    from hearthline.core.engine.lanes import Lanes
    from hearthline.core.engine.solve import Tolerances
    from hearthline.core.engine.system import System
    from hearthline.core.thermal.die import Plan

T = TypeVar("T")
REMEMBERED = 3
"""Results that other analyses may be about."""
SUPPLY_NETS = ("vdd", "vcc", "vss", "vee", "avdd", "dvdd", "vbat", "supply")
OUTPUTS = ("out", "outp", "output", "vout", "iout", "y", "q")
PERIODS = 4
"""Of the slowest stimulus, that a transient lasts."""
TIMES = {"pulse": (2, 6), "sin": (3, 2), "exp": (4, 5), "sffm": (0, 4)}
PERIOD = {"sin": (2, False), "pulse": (6, True)}
"""Where the frequency, or the period, of what repeats stands among the numbers."""


class Listed(Protocol):
    """An analysis as it is listed: its name and kind."""

    @property
    def name(self) -> str:
        """What it is called."""

    @property
    def kind(self) -> str:
        """What it is."""


class HeatTold(Protocol):
    """The die as typed, and whether heat is switched off."""

    @property
    def isothermal(self) -> bool:
        """Whether it is."""

    def plan(self) -> Plan:
        """As numbers. Raises PlanError."""


class Origin(Protocol):
    """Where a circuit comes from: a bench with a cell, or with a deck."""

    @property
    def models(self) -> ModelSet:
        """Models of all corners."""

    @property
    def analyses(self) -> tuple[Listed, ...]:
        """All that is asked of the circuit."""

    @property
    def tolerances(self) -> Tolerances:
        """When a solution is one."""

    @property
    def steps(self) -> Mapping[str, object]:
        """What is said of every transient: `rule`, `abs_voltage`."""

    @property
    def heat(self) -> HeatTold | None:
        """The die that it stands on, where it heats itself."""

    @property
    def parameter_units(self) -> Mapping[str, str]:
        """Of those that stand by themselves as a value."""

    @property
    def known_parameters(self) -> tuple[str, ...]:
        """Everything that a sweep may set."""

    def netlist(self, corner: str = "", around: str = "") -> Netlist:
        """The circuit with what is tied to it, in what it stands in. Raises CircuitError."""

    def inside(self, part: str, terminal: str) -> tuple[tuple[str, int], ...]:
        """Which terminals of which elements make up a terminal of a block."""

    def one_for_all(self, corners: tuple[str, ...]) -> bool:
        """Whether the netlist is the same in all of these corners."""

    def moved(self, lanes: Lanes) -> Lanes:
        """Lanes with what the statistical corners of their conditions deviate by. Raises CircuitError."""

    def condition(self) -> Condition:
        """The point of the bench. Raises HearthlineError."""

    def conditions(self) -> tuple[Condition, ...]:
        """All conditions of a run. Raises HearthlineError."""

    def number(self, owner: str, text: str, unit: str = "V") -> float:
        """What a text says. Raises CircuitError naming the owner."""

    def hints(self) -> Hints:
        """What is drawn."""


@dataclass(frozen=True)
class Hints:
    """What a drawing says beyond its netlist: nets of supplies, likely outputs, labels, and the supply of its process [V]."""

    supplies: frozenset[str] = frozenset()
    outputs: tuple[str, ...] = ()
    labels: tuple[str, ...] = ()
    made_for: float = 1.0


class Circuit:
    """What is found in a circuit. Raises HearthlineError where it is wrong."""

    def __init__(self, origin: Origin):
        self.origin, self.netlist, self._hints = origin, origin.netlist(), origin.hints()
        self._lanes: tuple[tuple[Condition, ...], Draws | None, Lanes] | None = None
        self._system: tuple[Netlist, Lanes, System] | None = None
        self._remembered: deque[tuple[Netlist, Lanes, Hashable, object]] = deque(maxlen=REMEMBERED)

    # -- what it was made of

    def condition(self) -> Condition:
        """The point of the bench."""
        return self.origin.condition()

    def conditions(self) -> tuple[Condition, ...]:
        """Those of a run."""
        return self.origin.conditions()

    @property
    def tolerances(self) -> Tolerances:
        """When a solution is one."""
        return self.origin.tolerances

    @property
    def steps(self) -> Mapping[str, object]:
        """What is said of every transient."""
        return self.origin.steps

    def parts(self, conditions: tuple[Condition, ...]) -> Iterator[tuple[Netlist, list[int]]]:
        """The netlists that these conditions need, each with the places of the conditions that are for it."""
        corners = tuple(dict.fromkeys(one.corner for one in conditions))
        alike = self.origin.one_for_all(corners)
        common = corners[0] if len(corners) == 1 else ""
        places: dict[tuple[str, str], list[int]] = {}
        for k, one in enumerate(conditions):
            places.setdefault((common if alike else one.corner, one.around), []).append(k)
        for (corner, around), some in places.items():
            yield self.origin.netlist(corner, around), some

    def lanes(self, conditions: tuple[Condition, ...], draws: Draws | None = None) -> Lanes:
        """A lane for each condition, and each sample; the same ones when asked for the same."""
        known = self._lanes
        if known is None or known[0] is not conditions or known[1] is not draws:
            lanes = self.origin.moved(lanes_of(conditions))
            self._lanes = known = (conditions, draws, lanes if draws is None else draws.crossed(lanes))
        return known[2]

    def system(self, netlist: Netlist, lanes: Lanes) -> System:
        """The circuit lowered, at the temperatures that it makes itself; the same one when asked for the same. Raises
        CircuitError."""
        from hearthline.core.engine.system import lower

        known = self._system
        if known is None or known[0] is not netlist or known[1] is not lanes:
            hot = self.heating
            made = lower(netlist, self.origin.models, lanes) if hot is None else hot.at_rest(netlist, lanes)
            self._system = known = (netlist, lanes, made)
        return known[2]

    @cached_property
    def heating(self) -> Heating | None:
        """What makes it warm by itself. Raises PlanError."""
        setup = self.origin.heat
        if setup is None:
            return None
        from hearthline.core.engine.heating import Heating

        return Heating(setup.plan(), self.origin.models, self.tolerances, setup.isothermal)

    def remembered(self, system: System, key: Hashable, make: Callable[[], T], whole: Callable[[T], bool]) -> T:
        """What `make` gives for a circuit in some lanes; the same one when asked for the same again among the last few, where
        it is `whole`."""
        for netlist, lanes, known, found in self._remembered:
            if netlist is system.netlist and lanes is system.lanes and known == key:
                return cast(T, found)
        made = make()
        if whole(made):
            self._remembered.append((system.netlist, system.lanes, key, made))
        return made

    @property
    def analyses(self) -> tuple[Listed, ...]:
        """All that is asked of it."""
        return self.origin.analyses

    # -- what is in it

    @cached_property
    def sources(self) -> list[Element]:
        """Independent sources, first those that are not supplies, and among those first what is driven by a signal."""
        found = [element for element in self.netlist.elements if drives(element)]
        return sorted(found, key=lambda e: (self.is_supply(e), e.kind == "I", e.name not in ("vin", "in")))

    def is_supply(self, element: Element) -> bool:
        """Whether a source feeds the circuit: by the net it is at, or by the kind of the pin."""
        return element.kind == "V" and (element.nets[0] in self._hints.supplies or element.nets[0] in SUPPLY_NETS)

    @cached_property
    def supply(self) -> float:
        """The highest supply voltage of all conditions [V]; that of the process where none is found."""
        highest = 0.0
        for element in self.netlist.elements:
            if self.is_supply(element) and "dc" in element.values:
                for condition in self.conditions():
                    try:
                        highest = max(highest, float(element.values["dc"].value(condition.parameters)))
                    except HearthlineError:
                        continue
        return highest or self._hints.made_for

    def source(self, name: str) -> Element | None:
        """The independent source of that name."""
        return next((one for one in self.sources if one.name == name.lower()), None)

    @cached_property
    def output(self) -> str:
        """The net that is most likely meant: an output pin, a label that says so, or the last net."""
        hints, nets = self._hints, self.netlist.nets
        likely = [net for net in OUTPUTS if net in hints.labels or net in nets]
        return next(iter([*hints.outputs, *likely, *hints.labels[-1:], *nets[-1:]]), "out")

    @cached_property
    def duration(self) -> float:
        """Some periods of the slowest stimulus [s]; 1 µs where nothing moves."""
        lengths = [
            length for element in self.netlist.elements if element.wave for length in self._lengths(element.wave)
        ]
        return max(lengths, default=1e-6)

    @cached_property
    def tone(self) -> str:
        """The frequencies [Hz] of sources that repeat, two at most, as text; 1 GHz where there are none."""
        found: list[float] = []
        for element in self.netlist.elements:
            if element.wave and element.wave.kind in PERIOD:
                place, inverse = PERIOD[element.wave.kind]
                try:
                    number = float(element.wave.numbers[place].value(self.condition().parameters))
                except (HearthlineError, IndexError):
                    continue
                found += [1.0 / number if inverse else number] if number > 0 else []
        return ",".join(field_text(one) for one in list(dict.fromkeys(found))[:2]) or "1G"

    def _lengths(self, wave: Wave) -> list[float]:
        found: list[float] = []
        try:
            parameters = self.condition().parameters
            numbers = [float(one.value(parameters)) for one in wave.numbers]
        except HearthlineError:
            return []
        if wave.kind == "pwl":
            return [1.2 * numbers[-2]] if numbers[-2] > 0 else []
        delay, length = TIMES[wave.kind]
        if len(numbers) > length and numbers[length] > 0:
            unit = numbers[length] if wave.kind in ("pulse", "exp") else 1.0 / numbers[length]
            wait = numbers[delay] if wave.kind != "sffm" and len(numbers) > delay else 0.0
            found.append(wait + (5 if wave.kind == "exp" else PERIODS) * unit)
        elif wave.kind == "pulse" and len(numbers) > 2:
            found.append(5 * (numbers[2] + sum(numbers[3:6])) or 1e-6)
        return found
