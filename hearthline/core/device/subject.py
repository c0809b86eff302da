"""A device to be known: where its equations come from, its terminals, and the sources that it is put between."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import Enum

import numpy as np

from hearthline.core.circuit.flatten import parts_of_device
from hearthline.core.circuit.netlist import GROUND, Card, Element, Netlist, Scope, Template
from hearthline.core.circuit.symbols import SYMBOLS
from hearthline.core.engine.parameters import Environment
from hearthline.core.errors import CircuitError
from hearthline.core.expression import Expression, parse_value
from hearthline.core.models.module import Module
from hearthline.core.process.kit import ProcessKit
from hearthline.core.process.models import Corner, ModelSet

DUT = "dut"
"""Name of the device in its netlist; its quantities are `dut.id` and so on."""


class Family(Enum):
    """What kind of sheets a device has."""

    FET = "field-effect transistor"
    DEPLETION = "field-effect transistor that conducts without gate voltage"
    BIPOLAR = "bipolar transistor"
    DIODE = "diode"
    RESISTIVE = "resistor"
    CAPACITIVE = "capacitor"
    MEMORY = "device with memory"
    REACTIVE = "part for high frequencies"
    OTHER = "device"


FAMILY_OF_SYMBOL = {
    "NMOS": Family.FET, "PMOS": Family.FET, "NPN": Family.BIPOLAR, "PNP": Family.BIPOLAR, "NJF": Family.DEPLETION,
    "PJF": Family.DEPLETION, "D": Family.DIODE, "strip resistor": Family.RESISTIVE,
    "plate capacitor": Family.CAPACITIVE, "varactor": Family.CAPACITIVE,
}  # fmt: skip
DEPLETION_MODULES = ("jfet", "mesfet", "hemt")
TURNED = ("PMOS", "PNP", "PJF")


@dataclass(frozen=True)
class Subject:
    """A device under study. `values` are the sizes of the instance as texts are read; `polarity` -1 turns all voltages;
    `supply` [V] is the largest voltage that its sheets go to."""

    name: str
    family: Family
    kind: str
    model: str
    terminals: tuple[str, ...]
    models: ModelSet
    polarity: float = 1.0
    supply: float = 1.2
    values: Mapping[str, Expression] = field(default_factory=dict)
    template: Template | None = None

    def netlist(self, grounded: str = "", driven_by_current: tuple[str, ...] = ()) -> Netlist:
        """The device with a source at every terminal but the grounded one: voltage `vX`, or current `iX`."""
        grounded = grounded or self.reference
        elements = list(self.parts(tuple(self._net(t, grounded) for t in self.terminals)))
        zero = Expression.constant(0.0)
        for terminal in self.terminals:
            if terminal == grounded:
                continue
            if terminal in driven_by_current:
                elements.append(Element(f"i{terminal}", "I", (GROUND, terminal), {"dc": zero}))
            else:
                elements.append(Element(f"v{terminal}", "V", (terminal, GROUND), {"dc": zero}))
        return Netlist(tuple(elements), Scope())

    def parts(self, nets: tuple[str, ...]) -> tuple[Element, ...]:
        """The device between nets; one that is a small circuit is its parts."""
        device = Element(DUT, self.kind, nets, self.values, self.model)
        return (device,) if self.template is None else tuple(parts_of_device(self.template, device))

    @staticmethod
    def _net(terminal: str, grounded: str) -> str:
        return GROUND if terminal == grounded else terminal

    @property
    def reference(self) -> str:
        """The terminal that stands on ground: source, emitter, or the last."""
        return next((t for t in ("s", "e") if t in self.terminals and len(self.terminals) > 2), self.terminals[-1])

    def with_values(self, **texts: str) -> Subject:
        """Other sizes, as a person types them in the SI base."""
        changed = {name: Expression.parse(text, deck=True) for name, text in texts.items()}
        return Subject(
            self.name, self.family, self.kind, self.model, self.terminals, self.models, self.polarity, self.supply,
            {**self.values, **changed}, self.template,
        )  # fmt: skip

    def number(self, name: str, default: float = 1.0) -> float:
        """A size as a number."""
        expression = self.values.get(name)
        return default if expression is None else float(Environment({}, 27.0).value(expression, Scope()))


def of_kit(kit: ProcessKit, name: str) -> Subject:
    """A device of a kit, in a middling size. Raises CircuitError for one that the kit does not have."""
    if name not in kit.devices:
        raise CircuitError(f"the kit has no device '{name}'; it has {', '.join(kit.devices)}", part=name)
    device = kit.devices[name]
    symbol = SYMBOLS[device.symbol]
    terminals = tuple(terminal for terminal, _ in symbol.terminals)
    first = next(iter(kit.models.corners.values()))
    values = {size: Expression.constant(_middling(size, *ends)) for size, ends in device.sizes.items()}
    if name in kit.templates:
        sizes = {key: parse_value(one.default, one.unit) for one in symbol.fields if (key := one.name) and one.default}
        return Subject(
            name, Family.REACTIVE, symbol.kind, name, terminals, kit.models, supply=device.supply, values=sizes,
            template=kit.templates[name],
        )  # fmt: skip
    family = FAMILY_OF_SYMBOL.get(device.symbol, Family.OTHER)
    polarity = _polarity(first.cards[name], first.scope_of(name))
    return Subject(name, family, symbol.kind, name, terminals, kit.models, polarity, device.supply, values)


def _middling(size: str, minimum: float, maximum: float) -> float:
    """A size to begin with: the shortest length, and a width of ten times that."""
    return (
        minimum
        if size == "l" and maximum / minimum > 5
        else min(maximum, max(minimum, 1e-6 if maximum < 1e-3 else 5 * minimum))
    )


def of_models(models: ModelSet, name: str) -> Subject:
    """A model card of a deck or of a file of cards."""
    corner = next(iter(models.corners.values()))
    if name not in corner.cards:
        known = ", ".join(corner.cards) or "none"
        raise CircuitError(f"there is no model '{name}'; there is {known}", part=name)
    card = corner.cards[name]
    kinds = {"D": ("D", Family.DIODE, ("a", "k")), "MOS": ("M", Family.FET, ("d", "g", "s", "b")),
             "PN": ("Q", Family.BIPOLAR, ("c", "b", "e")), "JF": ("J", Family.DEPLETION, ("d", "g", "s"))}  # fmt: skip
    for ending, (kind, family, terminals) in kinds.items():
        if card.kind == ending or (card.kind in ("NPN", "PNP", "NMOS", "PMOS", "NJF", "PJF") and ending in card.kind):
            return Subject(name, family, kind, name, terminals, models, _polarity(card, corner.scope_of(name)))
    if card.kind in corner.modules:
        return of_module(corner.modules[card.kind], models, name)
    raise CircuitError(f"model '{name}' is of type {card.kind}, which has no sheets", part=name)


def of_module(module: Module, models: ModelSet | None = None, card: str = "") -> Subject:
    """A Verilog-A module, by itself or through a model card."""
    name = module.name.lower()
    models = models or ModelSet({"": Corner({}, modules={name: module})})
    ports = module.port_names[:2] if _lies_on_something(module) else module.port_names
    return Subject(card or module.name, family_of(module), "X", card or name, ports, models)


def family_of(module: Module) -> Family:
    """What kind of device a module is, from its ports and what it can be asked for."""
    ports, readouts = set(module.port_names), {readout.name for readout in module.readouts}
    if {"d", "g", "s"} <= ports and "id" in readouts:
        return Family.DEPLETION if module.name in DEPLETION_MODULES else Family.FET
    if {"c", "b", "e"} <= ports and "ic" in readouts:
        return Family.BIPOLAR
    if module.ports != 2 and not _lies_on_something(module):
        return Family.OTHER
    if any(terminal.kind == "state" for terminal in module.terminals):
        return Family.MEMORY
    if {"id", "vd"} <= readouts:
        return Family.DIODE
    return Family.CAPACITIVE if module.capacitance and "cap" in readouts else Family.RESISTIVE


def _lies_on_something(module: Module) -> bool:
    """Whether a part of two terminals has a third for the substrate or well below it, which may be left out."""
    return module.port_names in (("p", "n", "b"), ("g", "b", "s")) and "ic" not in {r.name for r in module.readouts}


def _polarity(card: Card, scope: Scope) -> float:
    if card.kind in TURNED:
        return -1.0
    expression = card.values.get("type")
    if expression is None:
        return 1.0
    return float(np.sign(Environment({}, 27.0).value(expression, scope)))
