"""A sweep of a source, a parameter or the temperature."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from hearthline.core import limits
from hearthline.core.analyses.direct import piece_of
from hearthline.core.analyses.kind import SWEPT, AnalysisKind, Ask, DeckCard, Lowered, Piece, Ready, Setting, text_of
from hearthline.core.analyses.ranges import steps_of
from hearthline.core.analyses.temperatures import told
from hearthline.core.constants import BELOW_ZERO, ZERO_CELSIUS
from hearthline.core.data.dataset import Dataset
from hearthline.core.errors import AnalysisError, CircuitError
from hearthline.core.quantity import field_text

if TYPE_CHECKING:
    from hearthline.core.analyses.circuit import Circuit
    from hearthline.core.circuit.netlist import Netlist
    from hearthline.core.engine.job import Job
    from hearthline.core.engine.lanes import Lanes

MOST_POINTS, MOST_CONDITIONS = 5_000_000, 200_000
"""Points of a whole sweep of a deck, and values of what is not a source: each of these is a circuit of its own."""


class Sweep(AnalysisKind):
    """The operating point along an axis; each point starts from the one before, so that hysteresis shows."""

    name, meaning, called = "sweep", "sweep of a source, a parameter or the temperature", "transfer"
    own = (
        Setting("of", "", "the source, parameter or `temperature` that is swept", SWEPT),
        Setting("from", "V", "where it begins"),
        Setting("to", "V", "where it ends; a sweep may go down"),
        Setting("points", "", "how many points"),
        Setting("step", "V", "how far from point to point, in the place of `points`"),
    )
    ready = (
        Ready("switching point", "switching_point(V({out}), V({in}))", "input at which output and input are equal"),
        Ready("noise margin low", "noise_margin_low(V({out}), V({in}))", "from the points of slope -1"),
        Ready("noise margin high", "noise_margin_high(V({out}), V({in}))", "from the points of slope -1"),
        Ready("DC gain", "steepest(V({out}), V({in}))", "slope where it is greatest"),
        Ready("offset", "offset(V({out}))", "input of half the output; a reference as second argument is taken off"),
        Ready("output range", "output_range(V({out}))", "output over which the slope is half its greatest or more"),
        Ready("peak supply current", "peak(-I({supply}))", "the greatest current from the supply"),
    )
    card = ".dc"
    form = "a sweep is written .dc NAME START STOP STEP, and a second one behind it the same way"
    drivers = ("hearthline.core.engine.drive",)

    def defaults(self, given: Mapping[str, str], circuit: Circuit) -> dict[str, str]:
        """The first input, from nothing to the supply; a parameter about its value."""
        name = given.get("of") or next((one.name for one in circuit.sources), "")
        if not name:
            raise CircuitError(
                "there is nothing to sweep: the circuit has no source; say a parameter or temperature after `of`"
            )
        stepped = "step" in given and "points" not in given
        span = {"of": name, **_span(name, given, circuit)}
        return {word: text for word, text in span.items() if not (stepped and word == "points")}

    def unit(self, plan: Ask, word: str) -> str:
        """That of what is swept."""
        return plan.unit_of(plan.settings["of"]) if word in ("from", "to", "step") else super().unit(plan, word)

    def points(self, plan: Ask) -> int:
        """As they are asked for."""
        if plan.settings["of"].lower() == plan.settings.get("within", "").lower():
            raise AnalysisError(plan.name, f"{plan.settings['of']} cannot be swept within itself")
        if "points" in plan.settings:
            return plan.count("points", 2)
        return steps_of(plan.name, plan.number("from"), plan.number("to"), plan.number("step"), limits.SWEEP)

    def lowered(self, plan: Ask, netlist: Netlist, lanes: Lanes) -> Lowered:
        """A source runs through its values in each lane; of anything else each value is a lane of its own."""
        from hearthline.core.engine.dc import dataset_of
        from hearthline.core.engine.solve import SourceSweep, solve

        name, points = plan.settings["of"], self._axis(plan)
        source = plan.circuit.source(name)
        unit, axis = plan.unit_of(name), name.lower() if name.lower() == "temperature" else name
        heating = plan.circuit.heating
        inside = source is not None and (heating is None or heating.isothermal)  # each temperature is a lane of its own
        own = lanes if inside else plan.spread(lanes, name, points)
        system = plan.circuit.system(netlist, own)
        unknowns, variables = plan.kept(system, len(lanes))
        sources = SourceSweep((source.name,), points) if inside and source is not None else SourceSweep()

        def run(job: Job) -> Piece:
            solution = solve(system, sources, plan.circuit.tolerances, unknowns, variables, job)
            data = dataset_of("dc", solution, source.name if source is not None else axis, unit, points)
            found = piece_of(solution, data)
            found = found if inside else _folded(found, lanes, len(points))
            return found if heating is None else told(heating, found, system, 1 if inside else len(points))

        width = len(system.unknowns if unknowns is None else unknowns) + len(variables)
        return Lowered(system, len(lanes) * len(points) * width, run)

    def _axis(self, plan: Ask) -> np.ndarray:
        begin, end = plan.number("from"), plan.number("to")
        if "points" in plan.settings:
            return np.linspace(begin, end, self.points(plan))
        return begin + plan.number("step") * np.arange(self.points(plan))

    def of_card(self, card: DeckCard) -> dict[str, str]:
        """One axis, or two: the second is what the first is swept within."""
        tokens = card.tokens
        if len(tokens) not in (4, 8):
            raise card.error(self.form)
        axes = [_card_axis(card, tokens[k : k + 4]) for k in range(0, len(tokens), 4)]
        if math.prod(count for _, _, count in axes) > MOST_POINTS:
            raise card.error(f"the sweep has more than {MOST_POINTS} points; take larger steps")
        (name, (start, stop, step), _), outer = axes[0], axes[1:]
        found = {"of": name, "from": text_of(start), "to": text_of(stop), "step": text_of(step)}
        if outer:
            within, (start, stop, step), _ = outer[0]
            if within == name:
                raise card.error(f"'{tokens[0]}' is swept twice")
            found |= {"within": within, "at": f"{text_of(start)} to {text_of(stop)} step {text_of(step)}"}
        return found

    def columns(self, plan: Ask) -> Mapping[str, str]:
        """The temperature is called as in the card."""
        return {"temperature": "temp"}


def _span(name: str, given: Mapping[str, str], circuit: Circuit) -> dict[str, str]:
    """From where to where, and in how many points."""
    if "from" in given and "to" in given:
        return {"points": "41" if name.lower() == "temperature" else "201"}
    source = circuit.source(name)
    if name.lower() == "temperature":
        celsius = [one.celsius for one in circuit.conditions()]
        low, high = (min(celsius), max(celsius)) if max(celsius) > min(celsius) else (-40.0, 125.0)
        return {"from": field_text(low), "to": field_text(high), "points": "41"}
    if source is not None and source.kind == "V":
        return {"from": "0", "to": field_text(circuit.supply), "points": "201"}
    parameters = circuit.condition().parameters
    now = float(source.values["dc"].value(parameters)) if source is not None else parameters.get(name)
    if now is None:
        known = ", ".join([*(one.name for one in circuit.sources), *parameters, "temperature"])
        raise CircuitError(f"there is no source or parameter '{name}' to sweep; there are {known}", part=name)
    now = now or 1e-6
    return {"from": field_text(0.5 * now), "to": field_text(2.0 * now), "points": "201"}


def _folded(piece: Piece, lanes: Lanes, count: int) -> Piece:
    """Lanes in a row become points of one lane."""
    data: Dataset = piece.dataset
    shape = (len(lanes), count)
    failures = {lane // count: text for lane, text in reversed(list(piece.failures.items()))}
    from hearthline.core.engine.dc import conditions_of

    return replace(
        piece,
        dataset=replace(
            data,
            curves={label: values.reshape(shape) for label, values in data.curves.items()},
            conditions=conditions_of(lanes),
            outcomes=data.outcomes.reshape(shape),
        ),
        failures=failures,
    )


def _card_axis(card: DeckCard, tokens: tuple[str, ...]) -> tuple[str, tuple[float, float, float], int]:
    """What is swept, from where to where in which steps, and how many values that are."""
    name = tokens[0]
    if name not in card.sources and name != "temp" and name not in card.parameters:
        known = ", ".join([*sorted(card.sources), "temp", *card.parameters])
        raise card.error(f"there is nothing called '{name}' to sweep; there are {known}")
    start, stop, step = (card.number(token) for token in tokens[1:])
    if start != stop and (step == 0 or (stop - start) / step < 0):
        raise card.error(f"from {start:g} to {stop:g} a step of {step:g} leads nowhere")
    if start == stop:
        step = step or 1.0
    steps = (stop - start) / step * (1 + 1e-12) + 1e-9
    if not steps < (MOST_POINTS if name in card.sources else MOST_CONDITIONS):
        raise card.error(f"{steps + 1:.6g} values of {name} are too many; take a larger step")
    count = math.floor(steps) + 1
    if name == "temp" and name not in card.sources:
        name, coldest = "temperature", min(start, start + step * (count - 1))
        if coldest <= -ZERO_CELSIUS:
            raise card.error(f"{coldest:g} °C is {BELOW_ZERO}")
    return name, (start, stop, step), count
