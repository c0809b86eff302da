"""The heat of a bench as typed: the die, and the parts that stand on it with their fingers."""

from __future__ import annotations

from dataclasses import dataclass

from hearthline.core.errors import QuantityError
from hearthline.core.quantity import read
from hearthline.core.thermal.die import Die, HeatSource, Plan, PlanError, Via

SECTION, SOURCES, VIAS = "heat", "sources", "vias"
TEXTS = ("die", "conductivity", "exponent", "resistance", "capacity", "layers")
"""Of the die, in a file."""
MOST_VIAS = 16


@dataclass(frozen=True)
class HeatLine:
    """A part on the die, in the words of the file."""

    part: str
    at: str
    size: str
    fingers: str = "1"
    pitch: str = "0"
    turn: str = "0"


@dataclass(frozen=True)
class ViaLine:
    """A column through the die, in the words of the file."""

    at: str
    size: str
    conductivity: str = "390"


@dataclass(frozen=True)
class HeatSetup:
    """The die in the words of the file, and what stands on it."""

    die: str
    conductivity: str
    exponent: str = "0"
    resistance: str = "0"
    capacity: str = ""
    sources: tuple[HeatLine, ...] = ()
    layers: str = ""
    vias: tuple[ViaLine, ...] = ()
    isothermal: bool = False
    """Switched off by whoever runs it; it stands in no file."""

    @property
    def own_die(self) -> Die:
        """The die alone, as numbers. Raises PlanError."""
        length, width, thickness = _numbers("", "die", self.die, 3)
        conductivity = _above("", "conductivity", self.conductivity)
        resistance, capacity = _number("", "resistance", self.resistance), _number("", "capacity", self.capacity or "0")
        for key, value in (("resistance", resistance), ("capacity", capacity)):
            if value < 0:
                raise PlanError(f"{key} is 0 or more, and not {value:g}", "", key)
        layers = _layers(self.layers)
        if capacity and not all(one[2] for one in layers):
            raise PlanError("with a capacity of the die each layer says its own too, as in: 25u 50 1.5M", "", "layers")
        exponent = _number("", "exponent", self.exponent)
        return Die(length, width, thickness, conductivity, exponent, resistance, capacity, layers)

    def plan(self) -> Plan:
        """As numbers. Raises PlanError."""
        die = self.own_die
        if not self.sources:
            raise PlanError("nothing stands on the die; add [[heat.sources]] with a part", "", "die")
        vias = tuple(_via(one, k) for k, one in enumerate(self.vias))
        if len(vias) > MOST_VIAS:
            raise PlanError(
                f"there are up to {MOST_VIAS} vias, and not {len(vias)}; a field of them is one with its mean conductivity",
                "", "vias", MOST_VIAS,
            )  # fmt: skip
        if vias and die.capacity:
            raise PlanError("heat that vias hold is not followed; leave the capacity out, or the vias", "", "capacity")
        plan = Plan(die, tuple(_source(one) for one in self.sources), vias)
        for part in plan.parts:
            if plan.parts.count(part) > 1:
                raise PlanError("it stands on the die twice", part, "part")
        plan.check()
        return plan


def _source(line: HeatLine) -> HeatSource:
    part = line.part.lower()
    middle, size = _numbers(part, "at", line.at, 2, positive=False), _numbers(part, "size", line.size, 2)
    fingers = _number(part, "fingers", line.fingers)
    if fingers != int(fingers) or fingers < 1:
        raise PlanError(f"fingers are a whole number of 1 or more, and not {line.fingers}", part, "fingers")
    pitch = _number(part, "pitch", line.pitch)
    if pitch < 0:
        raise PlanError(f"a pitch is 0 or more, and not {line.pitch}", part, "pitch")
    turn = _number(part, "turn", line.turn)
    if turn not in (0.0, 90.0):
        raise PlanError(f"a row is turned by 0 or by 90, and not by {line.turn}", part, "turn")
    return HeatSource(part, (middle[0], middle[1]), (size[0], size[1]), int(fingers), pitch, turn == 90.0)


def _via(line: ViaLine, place: int) -> Via:
    try:
        middle, size = _numbers("", "at", line.at, 2, positive=False), _numbers("", "size", line.size, 2)
        return Via((middle[0], middle[1]), (size[0], size[1]), _above("", "conductivity", line.conductivity))
    except PlanError as error:
        raise PlanError(f"via {place + 1}: {error}", "", error.key, place) from None


def _layers(text: str) -> tuple[tuple[float, float, float], ...]:
    """Each as thickness, conductivity, and what heat it holds or 0, from the die downwards."""
    found = []
    for one in text.split(",") if text.strip() else ():
        numbers = one.split()
        if len(numbers) not in (2, 3):
            raise PlanError(
                f"a layer is its thickness and its conductivity, as in: 20u 50, and not '{one.strip()}'; a third number is the "
                "heat that it holds", "", "layers",
            )  # fmt: skip
        thickness, conductivity, *holds = (_above("", "layers", number) for number in numbers)
        found.append((thickness, conductivity, holds[0] if holds else 0.0))
    return tuple(found)


def _numbers(part: str, key: str, text: str, count: int, positive: bool = True) -> list[float]:
    pieces = [one.strip() for one in text.split(",")]
    if len(pieces) != count:
        raise PlanError(f"{key} is {count} numbers with commas between them, and not '{text}'", part, key)
    return [(_above if positive else _number)(part, key, one) for one in pieces]


def _above(part: str, key: str, text: str) -> float:
    value = _number(part, key, text)
    if value <= 0:
        raise PlanError(f"{key} is above 0, and not {text}", part, key)
    return value


def _number(part: str, key: str, text: str) -> float:
    try:
        return read(text)
    except QuantityError as error:
        raise PlanError(f"{key}: {error}", part, key) from None
