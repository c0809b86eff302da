"""Operating-point values of parts and nets, with the derived ones that designers read."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable
from dataclasses import dataclass

from hearthline.core.circuit.instance import Instance
from hearthline.core.circuit.netlist import Element
from hearthline.core.data.dataset import Dataset
from hearthline.core.data.formula import Formula
from hearthline.core.elements import ELEMENTS
from hearthline.core.errors import HearthlineError
from hearthline.core.quantity import write

REGIONS = ("off", "triode", "saturation", "weak inversion")
BIPOLAR_REGIONS = ("off", "forward", "saturation", "reverse")
SMALL_SATURATION_MARGIN = 0.05


@dataclass(frozen=True)
class Quantity:
    """One value to show: name, number, unit and what it means."""

    name: str
    value: float
    unit: str
    meaning: str = ""

    @property
    def text(self) -> str:
        """As written beside the name."""
        if self.name == "region":
            return region_word(self.value)
        sign = "+" if self.name == "sat" and self.value > 0 else ""
        return sign + write(self.value, self.unit, 3)


MEANINGS = {
    "id": "current into the drain or anode",
    "ic": "of a bipolar transistor the current into the collector, of a MOS transistor the inversion coefficient",
    "ib": "current into the base",
    "vbe": "base-emitter voltage",
    "vce": "collector-emitter voltage",
    "vd": "voltage across the junction",
    "vgs": "gate-source voltage",
    "vds": "drain-source voltage",
    "vbs": "bulk-source voltage",
    "vth": "threshold voltage, body effect included",
    "vdsat": "drain-source voltage at the edge of saturation",
    "gm": "transconductance, d id / d vgs",
    "gds": "output conductance, d id / d vds",
    "gmb": "bulk transconductance, d id / d vbs",
    "ron": "vds / id",
    "region": "off, triode or saturation",
    "sat": "how far |vds| is beyond |vdsat|; amber under 50 mV",
    "gm/id": "transconductance efficiency",
    "gm/gds": "intrinsic gain",
    "i": "current into the first terminal",
    "v": "voltage from the first terminal to the second",
    "p": "power it delivers",
}
_NAMES = re.compile(r"\b([VI])\(\s*([^(),\s]+)\s*(?:,\s*([^(),\s]+)\s*)?\)|(?<![\w.])([A-Za-z]\w*)\.([a-z]\w*)")
"""Access functions, and quantities of parts, in a formula."""

COLUMNS = ("id", "gm", "vth", "sat", "vgs", "vds", "vdsat", "gds", "gmb", "ron", "gm/id", "gm/gds")


def region_word(number: float, bipolar: bool = False) -> str:
    """The region that a number in a result stands for."""
    words = BIPOLAR_REGIONS if bipolar else REGIONS
    return words[int(number)] if math.isfinite(number) and 0 <= number < len(words) else "–"


class PointValues:
    """The operating point of one solution, sorted by part and net once, because panels ask for it often."""

    def __init__(self, dataset: Dataset):
        self._raw: dict[str, dict[str, tuple[float, str]]] = {}
        self._parts: dict[str, dict[str, Quantity]] = {}
        self._voltages = {"0": 0.0}
        self._dataset = dataset
        self.shape = hash(tuple(dataset.curves))
        """The same for two points that have the same quantities."""
        units = dataset.units
        for label, values in dataset.curves.items():
            number = values.item(0)
            if label[1] != "(":
                element, _, name = label.rpartition(".")
                self._raw.setdefault(element, {})[name] = (number, units.get(label, ""))
            elif label[0] == "V":
                self._voltages[label[2:-1]] = number

    @property
    def regions(self) -> dict[str, str]:
        """The region in words of every part that has one."""
        return {
            element: region_word(raw["region"][0], "vbe" in raw)
            for element, raw in self._raw.items()
            if "region" in raw
        }

    def part(self, element: str) -> dict[str, Quantity]:
        """Values of one part by name; empty where it has none."""
        element = element.lower()
        if element not in self._parts:
            raw = self._raw.get(element, {})
            found = {name: Quantity(name, value, unit, MEANINGS.get(name, "")) for name, (value, unit) in raw.items()}
            self._parts[element] = found | _derived(found) if {"vdsat", "gm", "gds"} <= found.keys() else found
        return self._parts[element]

    @property
    def elements(self) -> tuple[str, ...]:
        """Flat names of all parts that have values."""
        return tuple(self._raw)

    def formula(self, text: str, instance: Instance) -> str:
        """What a formula of a note comes to, with the names of the instance that it stands in."""
        flat = _NAMES.sub(lambda match: _flat(match, instance), text)
        try:
            return write(float(Formula.parse(flat).number(self._dataset)[0]), "", 4)
        except HearthlineError:
            return "?"

    def voltage(self, net: str) -> float | None:
        """Voltage of a net [V], None where the circuit has no such net."""
        return self._voltages.get(net.lower())


def _flat(match: re.Match, instance: Instance) -> str:
    """A name of a formula as it is called in the flat circuit."""
    letter, first, second, part, quantity = match.groups()
    if part:
        return f"{instance.part(part)}.{quantity}"
    name = instance.net if letter == "V" else instance.part
    return f"{letter}({', '.join(name(one) for one in (first, second) if one)})"


TERMINAL_CURRENTS = {"d": "id", "g": "ig", "c": "ic", "b": "ib", "p": "i", "a": "id"}
"""The quantity that is the current into a terminal, by the terminal's name."""

LAST = {"s": ("d", "g"), "e": ("c", "b"), "n": ("p",)}
"""Terminals whose current is what the others leave over."""


def terminal_currents(values: dict[str, Quantity], terminals: Iterable[str]) -> dict[str, float]:
    """Currents [A] into the terminals of a device, as far as its operating point tells them; gates and bulks carry what
    the others leave over, which at direct current is next to nothing, and are left out."""
    terminals = tuple(terminals)
    field_effect = "id" in values and "d" in terminals
    found = {}
    for name in terminals:
        quantity = TERMINAL_CURRENTS.get(name, "")
        if name == "p" and "i" not in values:
            quantity = "id"
        if quantity in values and not (field_effect and name == "b"):
            found[name] = values[quantity].value
    for name, others in LAST.items():
        if name in terminals and found:
            found[name] = -sum(found.get(other, 0.0) for other in others)
    return found


def current_into(net: str, elements: Iterable[Element], point: PointValues) -> float | None:
    """The current [A] from a net into some elements together, by Kirchhoff's law: that into a pin of the block that they make
    up. None where one of them does not tell its currents, as sources of current do."""
    total = 0.0
    for element in elements:
        kind = ELEMENTS[element.kind]
        if net not in element.nets or kind.quiet:
            continue
        values = point.part(element.name)
        names = kind.currents or ("dgs" if "vgs" in values else "pn")
        found = terminal_currents(values, names)
        if not found:
            return None
        total += sum(found.get(name, 0.0) for name, other in zip(names, element.nets, strict=False) if other == net)
    return total


def _derived(found: dict[str, Quantity]) -> dict[str, Quantity]:
    current, gm, gds = abs(found["id"].value), found["gm"].value, found["gds"].value
    derived = (
        ("sat", abs(found["vds"].value) - abs(found["vdsat"].value), "V"),
        ("gm/id", gm / current if current > 0 else math.nan, "1/V"),
        ("gm/gds", gm / gds if gds > 0 else math.nan, ""),
    )
    return {name: Quantity(name, value, unit, MEANINGS.get(name, "")) for name, value, unit in derived}


def saturation_role(values: dict[str, Quantity]) -> str:
    """The palette role that tells how a transistor stands: quiet (off), ember, amber or moss."""
    if "region" in values and values["region"].value == 0:
        return "quiet"
    margin = values["sat"].value
    return "ember" if margin < 0 else "amber" if margin < SMALL_SATURATION_MARGIN else "moss"


def overdrive(values: dict[str, Quantity]) -> float:
    """How far the gate is beyond threshold [V], positive when it conducts, for either polarity."""
    sign = -1.0 if values["vth"].value < 0 else 1.0
    return sign * (values["vgs"].value - values["vth"].value)
