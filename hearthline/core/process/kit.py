"""A process kit: devices with their symbols and size limits, and model cards by corner."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from hearthline.core.process.models import ModelSet
from hearthline.core.quantity import write


@dataclass(frozen=True)
class KitDevice:
    """A device that the kit offers: its symbol, what it is, and the sizes allowed, each (least, most) in SI units."""

    name: str
    symbol: str
    meaning: str = ""
    sizes: Mapping[str, tuple[float, float]] = field(default_factory=dict)


@dataclass(frozen=True)
class ProcessKit:
    """A process as a designer gets it."""

    name: str
    title: str
    devices: Mapping[str, KitDevice]
    models: ModelSet
    note: str = ""

    @property
    def symbols(self) -> Mapping[str, str]:
        """Symbol of each device."""
        return {name: device.symbol for name, device in self.devices.items()}

    def size_error(self, device: str, name: str, value: float, unit: str) -> str:
        """Why a size is not allowed, or nothing."""
        known = self.devices.get(device)
        if known is None or name not in known.sizes:
            return ""
        least, most = known.sizes[name]
        if least <= value <= most:
            return ""
        return f"{device} allows {write(least, unit)} to {write(most, unit)}"
