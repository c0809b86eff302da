"""The analyses of a deck: checked, lowered and ready to run one after the other."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

import numpy as np

from hearthline.core import limits
from hearthline.core.circuit.netlist import GROUND, Netlist
from hearthline.core.constants import ZERO_CELSIUS
from hearthline.core.engine.lanes import REFERENCE_TEMPERATURE, Lanes
from hearthline.core.engine.parameters import Environment
from hearthline.core.engine.small_signal import pick, spaced, unit_excitation
from hearthline.core.engine.solve import Sweep, Tolerances
from hearthline.core.engine.system import System, lower
from hearthline.core.engine.transient.run import RULES, Times
from hearthline.core.errors import CircuitError, DeckError, ExpressionError, FileError
from hearthline.core.expression import Expression
from hearthline.core.formats.deck.flatten import flatten
from hearthline.core.formats.deck.lines import Line
from hearthline.core.formats.deck.reader import Deck
from hearthline.core.formats.deck.tasks import Axis, Planned, PlannedAc, PlannedNoise, PlannedTransient, Task
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
SPACINGS = ("dec", "oct", "lin")
BELOW_ZERO = f"below absolute zero, {-ZERO_CELSIUS} °C; temperatures are in degrees Celsius"
STEP_SHARE = 0.02
"""Of reltol and vntol, that a time step may be wrong by."""
MOST_POINTS, MOST_CONDITIONS = 5_000_000, 200_000
"""Points of a whole sweep, and values of what is not a source: each of these is a circuit of its own."""


def plan(deck: Deck, celsius: float | None = None, settings: Mapping[str, float] | None = None) -> list[Task]:
    """All analyses of `deck`, at `celsius` where given, with parameters exchanged by `settings`.

    Raises FileError or CircuitError for anything wrong in the input, before anything is solved.
    """
    settings = dict(settings or {})
    for name in settings:
        if name not in deck.top.parameters:
            known = ", ".join(deck.top.parameters) or "none"
            raise FileError(f"there is no parameter '{name}'; the deck has {known}", "--set")
    netlist, models = flatten(deck)
    for net, line in deck.voltage_lines.items():
        if net not in netlist.nets:
            raise line.error(f"there is no net '{net}'; nets are {', '.join(netlist.nets[:12])}")
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
        raise DeckError("the deck asks for no analysis; write .op, .dc, .ac, .tran or .noise", deck.name)
    reader = _Reader(netlist, models, lanes, tolerances, number, _accuracy(deck, number), deck.voltage_lines)
    return [reader.task(line) for line in deck.analyses]


def _temperature(deck: Deck, celsius: float | None, number) -> float:
    if celsius is not None:
        if celsius <= -ZERO_CELSIUS:
            raise FileError(f"{celsius:g} °C is {BELOW_ZERO}", "--temp")
        return celsius
    asked = deck.temperature or deck.options.get("temp")
    if asked is None:
        return REFERENCE_TEMPERATURE
    found = number(*asked)
    if found <= -ZERO_CELSIUS:
        raise asked[0].error(f"{found:g} °C is {BELOW_ZERO}")
    return found


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
            values[TOLERANCE_OPTIONS[name]] = value = number(line, expression)
            if value < 0 or (value == 0 and name != "gmin"):
                raise line.error(f"{name} must be above 0, and is {value:g}")
        elif name not in OTHER_OPTIONS:
            known = ", ".join([*TOLERANCE_OPTIONS, *OTHER_OPTIONS])
            raise line.error(f"there is no option '{name}'; there are {known}")
    default = Tolerances()
    for name in ("reltol", "vntol", "abstol"):
        values[name] = min(values.get(name, np.inf), getattr(default, name))
    values["iterations"] = max(10, int(values.get("iterations", default.iterations)))
    return Tolerances(**values)


@dataclass(frozen=True)
class _Reader:
    """Reads the lines of analyses for one circuit and its conditions."""

    netlist: Netlist
    models: ModelSet
    lanes: Lanes
    tolerances: Tolerances
    number: Callable[[Line, Expression], float]
    accuracy: dict[str, object]
    voltage_lines: Mapping[str, Line]

    def task(self, line: Line) -> Task:
        """The analysis that a line asks for."""
        readers = {".op": self._op, ".dc": self._dc, ".tran": self._tran, ".ac": self._ac, ".noise": self._noise}
        task = readers[line.head](line)
        if task.numbers > limits.NUMBERS:
            raise line.error(
                f"the table would hold {task.numbers:.3g} numbers, and at most {limits.NUMBERS:.3g} fit; take fewer points"
            )
        return task

    def _system(self, lanes: Lanes | None = None) -> System:
        try:
            return lower(self.netlist, self.models, lanes or self.lanes)
        except CircuitError as error:
            line = self.voltage_lines.get(error.net)
            if error.line or line is None or error.net not in self.netlist.initial:
                raise
            raise line.error(str(error)) from None

    def _op(self, line: Line) -> Planned:
        return Planned("op", line, (), self._system(), Sweep(), self.tolerances)

    def _dc(self, line: Line) -> Planned:
        axes = _axes(line, self.number, self.netlist)
        fast, slow = axes[0], axes[1:]
        sweep, lanes = Sweep(), self.lanes
        for axis in slow:
            lanes = lanes.spread(**{_lane_axis(axis): axis.values})
        if fast.what == "source":
            sweep = Sweep((fast.name,), fast.values)
        else:
            lanes = lanes.spread(**{_lane_axis(fast): fast.values})
        return Planned("dc", line, axes, self._system(lanes), sweep, self.tolerances)

    def _tran(self, line: Line) -> PlannedTransient:
        tokens = [token for token in line.tokens[1:] if token != "uic"]
        form = "write .tran STEP STOP [START [LONGEST STEP]] [uic]"
        if not 2 <= len(tokens) <= 4:
            raise line.error(f"a transient has a print step and an end; {form}")
        step, stop, start, longest = (*(self.number(line, line.expression(token)) for token in tokens), 0.0, 0.0)[:4]
        if step <= 0 or stop <= 0 or longest < 0 or not 0 <= start < stop:
            raise line.error(f"a transient from {start:g} s to {stop:g} s in steps of {step:g} s leads nowhere; {form}")
        if len(tokens) < 4:
            longest = step
        times = Times(step, stop, start, longest, "uic" in line.tokens, **self.accuracy)
        return PlannedTransient(line, self._system(), times, self.tolerances)

    def _ac(self, line: Line) -> PlannedAc:
        frequencies = self._frequencies(line, line.tokens[1:], "write .ac dec 10 1k 1meg")
        return PlannedAc(line, self._system(), frequencies, self.tolerances)

    def _noise(self, line: Line) -> PlannedNoise:
        form = "write .noise v(out) vin dec 10 1k 1meg"
        tokens = list(line.tokens[1:])
        if len(tokens) < 7 or tokens[0] != "v":
            raise line.error(f"noise has an output, a source and frequencies; {form}")
        kinds = [k for k, token in enumerate(tokens) if token in SPACINGS]
        if not kinds or kinds[0] not in (3, 4):
            raise line.error(f"the kind of spacing is missing: dec, oct or lin; {form}")
        nets = [GROUND if net == "gnd" else net for net in tokens[1 : kinds[0] - 1]]
        source = tokens[kinds[0] - 1]
        frequencies = self._frequencies(line, tuple(tokens[kinds[0] : kinds[0] + 4]), form)
        output, system = (nets[0], nets[1] if len(nets) > 1 else GROUND), self._system()
        try:
            pick(system, output)
            unit_excitation(system, source)
        except CircuitError as error:
            raise line.error(str(error)) from None
        return PlannedNoise(line, system, frequencies, output, source, self.tolerances)

    def _frequencies(self, line: Line, tokens: tuple[str, ...], form: str) -> np.ndarray:
        if len(tokens) != 4 or tokens[0] not in SPACINGS:
            raise line.error(f"frequencies are dec, oct or lin, a number of points, and two ends; {form}")
        points, low, high = (self.number(line, line.expression(token)) for token in tokens[1:])
        if points < 1 or points != int(points):
            raise line.error(f"{points:g} is no number of points; {form}")
        if high < low or (low <= 0 and tokens[0] != "lin") or low < 0:
            raise line.error(f"frequencies from {low:g} to {high:g} Hz cannot be; {form}")
        if points * (1 if tokens[0] == "lin" else 60) > MOST_POINTS:
            raise line.error(f"{points:g} points are too many")
        return spaced(tokens[0], low, high, int(points))


def _accuracy(deck: Deck, number) -> dict[str, object]:
    """How exact a transient is to be: a hundredth of reltol, because errors of steps add up; and its rule."""
    found: dict[str, object] = {}
    if "reltol" in deck.options:
        found["rel"] = STEP_SHARE * number(*deck.options["reltol"])
    if "vntol" in deck.options:
        found["abs_voltage"] = number(*deck.options["vntol"]) * STEP_SHARE
    if "method" in deck.options:
        line, expression = deck.options["method"]
        if expression.text not in RULES:
            raise line.error(f"there is no method '{expression.text}'; there are {', '.join(RULES)}")
        found["rule"] = expression.text
    return found


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
    steps = 0.0 if start == stop else (stop - start) / step * (1 + 1e-12) + 1e-9
    if not steps < (MOST_POINTS if what == "source" else MOST_CONDITIONS):
        raise line.error(f"{steps + 1:.6g} values of {name} are too many; take a larger step")
    count = math.floor(steps) + 1
    if what == "celsius" and min(start, start + step * (count - 1)) <= -ZERO_CELSIUS:
        raise line.error(f"{min(start, stop):g} °C is {BELOW_ZERO}")
    return Axis(name, what, start + step * np.arange(count))
