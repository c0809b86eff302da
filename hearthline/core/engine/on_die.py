"""What a circuit that heats itself has beside others: devices with a net for their heat, and the die between these."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

import numpy as np

from hearthline.core.circuit.netlist import Element, Netlist
from hearthline.core.constants import kelvin
from hearthline.core.elements import DEVICES, drives
from hearthline.core.elements.die import DieNumbers
from hearthline.core.engine.electrothermal import Die
from hearthline.core.engine.instance import DeviceInstance
from hearthline.core.engine.lanes import Lanes, is_in

HEAT = "@heat"
"""Ends the name of a net whose potential is what a part is warmer by than its surroundings."""
DIE = "die"


@dataclass(frozen=True)
class OnDie:
    """The parts that stand on a die, by their flat names or those of blocks, and the die in numbers."""

    parts: tuple[str, ...]
    numbers: DieNumbers

    def net_of(self, element: str) -> str | None:
        """Of an element that is, or stands in, one of the parts."""
        return next((part + HEAT for part in self.parts if is_in(element, part)), None)

    @property
    def nets(self) -> tuple[str, ...]:
        """One for each part."""
        return tuple(part + HEAT for part in self.parts)

    @property
    def flows(self) -> tuple[str, ...]:
        """Names of the unknowns that are powers of parts."""
        return tuple(DIE + HEAT + one for one in self.numbers.kind.unknowns[: len(self.parts)])

    @property
    def states(self) -> tuple[str, ...]:
        """Names of those that follow in time, time constant by time constant."""
        parts, times = len(self.parts), len(self.numbers.times)
        return tuple(DIE + HEAT + one for one in self.numbers.kind.unknowns[parts : parts * (1 + times)])

    @property
    def backs(self) -> tuple[str, ...]:
        """Names of those of what has come through to the back."""
        parts, times = len(self.parts), len(self.numbers.times)
        return tuple(DIE + HEAT + one for one in self.numbers.kind.unknowns[parts * (1 + times) :])

    def element(self, lanes: Lanes) -> DeviceInstance:
        """The die."""
        kind, name = self.numbers.kind, f"{DIE}{HEAT}"
        own = tuple(name + one for one in kind.unknowns)
        return DeviceInstance(name, kind, self.nets, self.numbers.values(kelvin(lanes.celsius)), "", own)


NEVER = 1e6
"""[s] In which a die follows that is to be at its mean power."""


class Pace(Enum):
    """How temperatures follow powers: at once, as at rest; with the mean alone; or with the heat that the die holds."""

    AT_ONCE = "at once"
    MEAN = "mean"
    HELD = "held"


def on_die_of(die: Die, pace: Pace) -> OnDie:
    """The parts of a plan."""
    one, parts = die.plan.die, len(die.plan.sources)
    times, matrices, through = np.zeros(0), np.zeros((0, parts, parts)), (np.zeros(0), np.zeros(0))
    if pace == Pace.MEAN:
        times, matrices, through = np.array([NEVER]), die.between[None], (np.array([NEVER]), np.ones(1))
    elif pace == Pace.HELD:
        following = die.following
        times, matrices = following.times, following.matrices
        through = (following.through.times, following.through.weights)
    direct = die.means - matrices.sum(axis=0)[die.owners]
    numbers = DieNumbers(one.resistance, one.exponent, one.conductivity, die.owners, direct, times, matrices, *through)
    return OnDie(die.plan.parts, numbers)


def followed(netlist: Netlist, on_die: OnDie) -> bool:
    """Whether all that stands on a die and turns power into heat is a device with a text, or a resistor."""
    return all(on_die.net_of(one.name) is None or _knows_its_heat(one) for one in netlist.elements)


def _knows_its_heat(element: Element) -> bool:
    if element.device is not None:
        return False
    kind = DEVICES.get(element.kind)
    stores = kind is not None and (kind.charged or kind.branch or bool(kind.slopes))
    return kind is None or element.kind == "R" or stores or bool(element.model) or bool(drives(element))
