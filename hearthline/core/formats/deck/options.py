"""What a deck's `.options` and `.temp` say: tolerances, the accuracy of transients, temperatures."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from hearthline.core.constants import BELOW_ZERO, REFERENCE_TEMPERATURE, ZERO_CELSIUS
from hearthline.core.elements.deck_line import Line
from hearthline.core.engine.solve import Tolerances
from hearthline.core.engine.transient.rules import RULES
from hearthline.core.expression import Expression
from hearthline.core.formats.deck.reader import Deck
from hearthline.core.process.models import Corner

Number = Callable[[Line, Expression], float]

TOLERANCE_OPTIONS = {"reltol": "reltol", "vntol": "vntol", "abstol": "abstol", "gmin": "gmin", "itl1": "iterations"}
OTHER_OPTIONS = (
    "temp", "tnom", "itl2", "itl3", "itl6", "itl4", "itl5", "pivtol", "pivrel", "trtol", "chgtol", "method", "maxord",
)  # fmt: skip
STEP_SHARE = 0.02
"""Of reltol and vntol, that a time step may be wrong by: errors of steps add up."""
STEP_ERROR = 2e-5
"""Allowed to a step where the deck says nothing, as a share of the peak."""


def temperature_of(deck: Deck, number: Number) -> float:
    """Of the circuit [degC]. Raises DeckError below absolute zero."""
    asked = deck.temperature or deck.options.get("temp")
    if asked is None:
        return REFERENCE_TEMPERATURE
    found = number(*asked)
    if found <= -ZERO_CELSIUS:
        raise asked[0].error(f"{found:g} °C is {BELOW_ZERO}")
    return found


def with_nominal_temperature(deck: Deck, corner: Corner) -> Corner:
    """`.options tnom` holds for every model that does not say its own."""
    tnom = deck.options.get("tnom", (None, None))[1]
    if tnom is None:
        return corner
    cards = {key: replace(card, values={"tnom": tnom, **card.values}) for key, card in corner.cards.items()}
    return replace(corner, cards=cards)


def tolerances_of(deck: Deck, number: Number) -> Tolerances:
    """What the options ask for; they may tighten our tolerances, and not loosen them: that would gain nothing here."""
    values: dict[str, float] = {}
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
    iterations = max(10, int(values.pop("iterations", default.iterations)))
    return replace(Tolerances(), iterations=iterations, **values)


def steps_of(deck: Deck, number: Number) -> dict[str, object]:
    """How exact a transient is to be (`error`, a share of the peak, and `abs_voltage` [V]), and its `rule`."""
    found: dict[str, object] = {}
    if "reltol" in deck.options:
        found["error"] = STEP_SHARE * number(*deck.options["reltol"])
    if "vntol" in deck.options:
        found["abs_voltage"] = STEP_SHARE * number(*deck.options["vntol"])
    if "method" in deck.options:
        line, expression = deck.options["method"]
        if expression.text not in RULES:
            raise line.error(f"there is no method '{expression.text}'; there are {', '.join(RULES)}")
        found["rule"] = expression.text
    return found
