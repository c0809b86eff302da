"""The analyses of a deck: checked, lowered and ready to run one after the other."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from hearthline.core.circuit.netlist import Netlist
from hearthline.core.engine.job import Job
from hearthline.core.engine.lanes import REFERENCE_TEMPERATURE, Lanes
from hearthline.core.engine.parameters import Environment
from hearthline.core.engine.solve import Solution, Sweep, Tolerances, solve
from hearthline.core.engine.system import System, lower
from hearthline.core.errors import DeckError, ExpressionError, FileError
from hearthline.core.expression import Expression
from hearthline.core.formats.deck.flatten import flatten
from hearthline.core.formats.deck.lines import Line
from hearthline.core.formats.deck.reader import Deck
from hearthline.core.process.models import ModelSet

TOLERANCE_OPTIONS = {"reltol": "reltol", "vntol": "vntol", "abstol": "abstol", "gmin": "gmin", "itl1": "iterations"}
OTHER_OPTIONS = (
    "temp",
    "tnom",
    "itl2",
    "itl3",
    "itl6",
    "itl4",
    "itl5",
    "pivtol",
    "pivrel",
    "trtol",
    "chgtol",
    "method",
    "maxord",
)
MOST_POINTS, MOST_CONDITIONS = 5_000_000, 200_000
"""Points of a whole sweep, and values of what is not a source: each of these is a circuit of its own."""


@dataclass(frozen=True)
class Axis:
    """One swept quantity: its name as a column, its values, and whether it is a `source`, `celsius` or `parameter`."""

    name: str
    what: str
    values: np.ndarray


@dataclass(frozen=True)
class Planned:
    """An analysis ready to run; `axes` with the fastest first."""

    kind: str
    line: Line
    axes: tuple[Axis, ...]
    system: System
    sweep: Sweep
    tolerances: Tolerances

    def run(self, job: Job | None = None) -> Solution:
        """Solves it; keeps every unknown and every device variable."""
        return solve(self.system, self.sweep, self.tolerances, None, self.variables, job)

    @property
    def variables(self) -> list[int]:
        """Indices of the operating-point variables of the deck's parts."""
        written = {element.name for element in self.system.netlist.elements}
        return [
            k for k, variable in enumerate(self.system.variables) if variable.element in written and not variable.hidden
        ]

    def columns(self, solution: Solution) -> dict[str, np.ndarray]:
        """The table of the result: swept columns first, then `V(..)`, `I(..)` and the variables; one row a point."""
        rows = solution.outcomes.size
        table: dict[str, np.ndarray] = {}
        period = 1
        for axis in self.axes:
            table[axis.name] = np.resize(np.repeat(axis.values, period), rows)
            period *= len(axis.values)
        for k, unknown in enumerate(self.system.unknowns):
            if unknown.kind:
                table[unknown.label] = solution.kept[:, :, k].reshape(rows)
        for position, k in enumerate(self.variables):
            table[self.system.variables[k].label] = solution.readouts[:, :, position].reshape(rows)
        return table


def plan(deck: Deck, celsius: float | None = None, settings: Mapping[str, float] | None = None) -> list[Planned]:
    """All analyses of `deck`, at `celsius` where given, with parameters exchanged by `settings`.

    Raises FileError or CircuitError for anything wrong in the input, before anything is solved.
    """
    settings = dict(settings or {})
    for name in settings:
        if name not in deck.top.parameters:
            known = ", ".join(deck.top.parameters) or "none"
            raise FileError(f"there is no parameter '{name}'; the deck has {known}", "--set")
    netlist, models = flatten(deck)
    models = _with_nominal_temperature(models, deck.options.get("tnom", (None, None))[1])
    environment = Environment(settings, REFERENCE_TEMPERATURE)

    def number(line: Line, expression: Expression) -> float:
        try:
            return float(environment.value(expression, netlist.root))
        except ExpressionError as error:
            raise line.error(str(error)) from None

    lanes = Lanes(
        celsius=np.array([_temperature(deck, celsius, number)]),
        parameters={name: np.array([value]) for name, value in settings.items()},
    )
    tolerances = _tolerances(deck, number)
    if not deck.analyses:
        raise DeckError("the deck asks for no analysis; write .op or .dc", deck.name)
    return [_planned(line, number, netlist, models, lanes, tolerances) for line in deck.analyses]


def _temperature(deck: Deck, celsius: float | None, number) -> float:
    if celsius is not None:
        return celsius
    if deck.temperature:
        return number(*deck.temperature)
    if "temp" in deck.options:
        return number(*deck.options["temp"])
    return REFERENCE_TEMPERATURE


def _with_nominal_temperature(models: ModelSet, tnom: Expression | None) -> ModelSet:
    """`.options tnom` holds for every model that does not say its own."""
    if tnom is None:
        return models
    corner = models.corner("")
    cards = {key: replace(card, values={"tnom": tnom, **card.values}) for key, card in corner.cards.items()}
    return ModelSet({"": replace(corner, cards=cards)})


def _tolerances(deck: Deck, number) -> Tolerances:
    """What the options ask for; they may tighten our tolerances, and not loosen them: that would gain nothing here."""
    values = {}
    for name, (line, expression) in deck.options.items():
        if name in TOLERANCE_OPTIONS:
            values[TOLERANCE_OPTIONS[name]] = number(line, expression)
        elif name not in OTHER_OPTIONS:
            known = ", ".join([*TOLERANCE_OPTIONS, *OTHER_OPTIONS])
            raise line.error(f"there is no option '{name}'; there are {known}")
    default = Tolerances()
    for name in ("reltol", "vntol", "abstol"):
        values[name] = min(values.get(name, np.inf), getattr(default, name))
    values["iterations"] = max(10, int(values.get("iterations", default.iterations)))
    return Tolerances(**values)


def _planned(line: Line, number, netlist: Netlist, models: ModelSet, lanes: Lanes, tolerances: Tolerances) -> Planned:
    if line.head == ".op":
        return Planned("op", line, (), lower(netlist, models, lanes), Sweep(), tolerances)
    axes = _axes(line, number, netlist)
    fast, slow = axes[0], axes[1:]
    sweep = Sweep()
    for axis in slow:
        lanes = lanes.spread(**{_lane_axis(axis): axis.values})
    if fast.what == "source":
        sweep = Sweep((fast.name,), fast.values)
    else:
        lanes = lanes.spread(**{_lane_axis(fast): fast.values})
    return Planned("dc", line, axes, lower(netlist, models, lanes), sweep, tolerances)


def _lane_axis(axis: Axis) -> str:
    return "celsius" if axis.what == "celsius" else f"{axis.what}:{axis.name}"


def _axes(line: Line, number, netlist: Netlist) -> tuple[Axis, ...]:
    tokens = line.tokens[1:]
    if len(tokens) not in (4, 8):
        raise line.error("a sweep is written .dc NAME START STOP STEP, and a second one behind it the same way")
    axes = tuple(_axis(line, tokens[k : k + 4], number, netlist) for k in range(0, len(tokens), 4))
    if math.prod(len(axis.values) for axis in axes) > MOST_POINTS:
        raise line.error(f"the sweep has more than {MOST_POINTS} points; take larger steps")
    if len(axes) == 2 and axes[0].name == axes[1].name:
        raise line.error(f"'{axes[0].name}' is swept twice")
    return axes


def _axis(line: Line, tokens: tuple[str, ...], number, netlist: Netlist) -> Axis:
    name = tokens[0]
    sources = {element.name for element in netlist.elements if element.kind in ("V", "I")}
    if name in sources:
        what = "source"
    elif name == "temp":
        what = "celsius"
    elif name in netlist.root.defined:
        what = "parameter"
    else:
        known = ", ".join([*sorted(sources), "temp", *netlist.root.defined])
        raise line.error(f"there is nothing called '{name}' to sweep; there are {known}")
    start, stop, step = (number(line, line.expression(token)) for token in tokens[1:])
    if start != stop and (step == 0 or (stop - start) / step < 0):
        raise line.error(f"from {start:g} to {stop:g} a step of {step:g} leads nowhere")
    count = 1 if start == stop else math.floor((stop - start) / step * (1 + 1e-12) + 1e-9) + 1
    if count > (MOST_POINTS if what == "source" else MOST_CONDITIONS):
        raise line.error(f"{count} values of {name} are too many; take a larger step")
    return Axis(name, what, start + step * np.arange(count))
