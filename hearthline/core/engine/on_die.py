"""What a circuit that heats itself has more than one that does not: devices with a net for their heat, and the die between these."""

from __future__ import annotations

from dataclasses import dataclass

from hearthline.core.constants import kelvin
from hearthline.core.elements.die import DieNumbers
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

    def element(self, lanes: Lanes) -> DeviceInstance:
        """The die."""
        kind, name = self.numbers.kind, f"{DIE}{HEAT}"
        own = tuple(name + one for one in kind.unknowns)
        return DeviceInstance(name, kind, self.nets, self.numbers.values(kelvin(lanes.celsius)), "", own)
