"""Inductors and capacitors of a kit, sized for a value at a frequency, as the two-ports that they are."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.circuit.cell import Cell, Part, Pin
from hearthline.core.circuit.flatten import Library, flatten
from hearthline.core.circuit.netlist import Element, Netlist, Scope
from hearthline.core.engine.lanes import Lanes
from hearthline.core.engine.scattering import scattering
from hearthline.core.engine.system import lower
from hearthline.core.errors import HearthlineError
from hearthline.core.expression import Expression
from hearthline.core.matching.networks import CAPACITOR, INDUCTOR
from hearthline.core.nports.conversions import converted
from hearthline.core.process.kit import KitDevice, ProcessKit

SYMBOLS = {CAPACITOR: "plate capacitor", INDUCTOR: "spiral"}
TURNS = tuple(1.5 + k for k in range(6))
SIZES = 25
"""That are tried of a device, all at once."""
CELSIUS = 27.0
MOST_PARALLEL = 8
SIDE = "side"


@dataclass(frozen=True)
class Sized:
    """A part of the kit, or an ideal one, with its values as it is placed."""

    device: str
    values: tuple[tuple[str, str], ...]


class Passives:
    """Those of a kit, in its first corner. What has been sized and solved is kept."""

    def __init__(self, kit: ProcessKit, frequency: float):
        self.kit, self.frequency = kit, frequency
        self.library = Library({}, kit.symbols, kit.templates, kit.modules)
        self._tables: dict[tuple[str, tuple[tuple[str, str], ...]], tuple[np.ndarray, np.ndarray]] = {}
        self._solved: dict[Sized, np.ndarray] = {}

    def sized(self, kind: str, value: float) -> Sized:
        """A part of that value [F] or [H] at the frequency; an ideal one where the kit has none that does."""
        device = next((one for one in self.kit.devices.values() if one.symbol == SYMBOLS[kind]), None)
        found = None
        if device is not None:
            found = self._capacitor(device, value) if kind == CAPACITOR else self._spiral(device, value)
        return found or _ideal(kind, value)

    def two_port(self, part: Sized, frequencies: np.ndarray) -> np.ndarray:
        """Admittances (frequencies, 2, 2) of its two ends against ground [S]."""
        if part not in self._solved:
            self._solved[part] = self._waves(part, frequencies, None)[0]
        return np.asarray(converted(self._solved[part], "S", "Y", 50.0))

    def _capacitor(self, device: KitDevice, value: float) -> Sized | None:
        sizes, z = self._table(device.name, (("w", SIDE), ("l", SIDE)), *device.sizes["w"])
        farads = -1.0 / (2.0 * np.pi * self.frequency * z.imag)
        parallel = max(1, int(np.ceil(value / farads[-1])))
        if parallel > MOST_PARALLEL or value / parallel < farads[0]:
            return None
        side = _size(float(np.exp(np.interp(np.log(value / parallel), np.log(farads), np.log(sizes)))))
        more = (("m", str(parallel)),) if parallel > 1 else ()
        return Sized(device.name, (("w", side), ("l", side), *more))

    def _spiral(self, device: KitDevice, value: float) -> Sized | None:
        """The one of the best quality among some numbers of turns."""
        low, high = device.sizes["d"]
        best, quality = None, 0.0
        for turns in TURNS:
            least = max(low, 2.2 * turns * 8e-6 + 2.2 * (turns - 1) * 2e-6)
            if least >= high:
                continue
            given = (("d", SIDE), ("turns", f"{turns:g}"))
            sizes, z = self._table(device.name, given, least, high)
            good = int(np.argmax(np.append(np.diff(z.imag) <= 0, True))) + 1  # up to its own resonance
            henries = z.imag[:good] / (2.0 * np.pi * self.frequency)
            if good < 2 or not henries[0] <= value <= henries[-1]:
                continue
            here = np.interp(np.log(value), np.log(henries), np.arange(good))
            q = float(np.interp(here, np.arange(good), z.imag[:good] / z.real[:good]))
            if q > quality:
                side = _size(float(np.exp(np.interp(here, np.arange(good), np.log(sizes[:good])))))
                best, quality = Sized(device.name, (("d", side), given[1])), q
        return best

    def _table(
        self, device: str, given: tuple[tuple[str, str], ...], low: float, high: float
    ) -> tuple[np.ndarray, np.ndarray]:
        """Sizes, and the impedances between both ends [Ω] at the frequency."""
        if (device, given) not in self._tables:
            sizes = np.geomspace(low, high, SIZES)
            s = self._waves(Sized(device, given), np.array([self.frequency]), sizes)
            self._tables[device, given] = sizes, -1.0 / converted(s[:, 0], "S", "Y", 50.0)[:, 0, 1]
        return self._tables[device, given]

    def _waves(self, part: Sized, frequencies: np.ndarray, sides: np.ndarray | None) -> np.ndarray:
        """S (sizes, frequencies, 2, 2) at 50 Ω."""
        pins = Pin("a", "inout", (0, -2)), Pin("b", "inout", (0, 2))
        root = Scope(None, {SIDE: Expression.constant(0.0)} if sides is not None else {})
        cell = Cell("one", pins, (Part("X1", part.device, (0, 0), values=dict(part.values)),))
        inner = flatten(cell, self.library, root)
        ports = tuple(
            Element(f"port{k}", "P", (net, "0"), {"number": _plain(k), "impedance": _plain(50.0)})
            for k, net in ((1, "a"), (2, "b"))
        )
        count = 1 if sides is None else len(sides)
        corner = next(iter(self.kit.models.corners))
        lanes = Lanes((corner,) * count, np.full(count, CELSIUS), {} if sides is None else {SIDE: sides})
        answer = scattering(lower(Netlist((*ports, *inner.elements), root), self.kit.models, lanes), frequencies)
        if len(answer.failed_lanes):
            raise HearthlineError(f"{part.device} could not be solved by itself")
        return answer.s


def _plain(number: float) -> Expression:
    return Expression.constant(float(number))


def _size(metres: float) -> str:
    return f"{metres * 1e6:.4g}u"


def _ideal(kind: str, value: float) -> Sized:
    if kind == INDUCTOR:
        return Sized("inductor", (("l", f"{value * 1e9:.5g}n"),))
    return Sized("capacitor", (("c", f"{value * 1e12:.5g}p"),))
