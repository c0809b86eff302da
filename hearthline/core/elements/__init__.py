"""All kinds of elements by their letters; a new one is a file beside this one, and a line here."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Protocol

from hearthline.core.elements.bipolar import BIPOLAR
from hearthline.core.elements.capacitor import CAPACITOR
from hearthline.core.elements.cccs import CCCS
from hearthline.core.elements.ccvs import CCVS
from hearthline.core.elements.coupling import COUPLING
from hearthline.core.elements.current_source import CURRENT_SOURCE
from hearthline.core.elements.device import DeviceKind
from hearthline.core.elements.die import die_kind
from hearthline.core.elements.diode import DIODE
from hearthline.core.elements.expression_source import EXPRESSION_SOURCE
from hearthline.core.elements.inductor import INDUCTOR
from hearthline.core.elements.instance import INSTANCE
from hearthline.core.elements.jfet import JFET
from hearthline.core.elements.kind import ElementKind
from hearthline.core.elements.line import LINE
from hearthline.core.elements.mos import MOS
from hearthline.core.elements.n_port import N_PORT
from hearthline.core.elements.port import PORT
from hearthline.core.elements.resistor import RESISTOR
from hearthline.core.elements.switch import SWITCH
from hearthline.core.elements.vccs import VCCS
from hearthline.core.elements.vcvs import VCVS
from hearthline.core.elements.voltage_source import VOLTAGE_SOURCE
from hearthline.core.registry import Derived, registry


class Named(Protocol):
    """What has the letter of a kind."""

    @property
    def kind(self) -> str:
        """That letter."""


ELEMENTS: dict[str, ElementKind] = registry(
    "element",
    [
        MOS, BIPOLAR, JFET, INSTANCE, DIODE, RESISTOR, CAPACITOR, INDUCTOR, VOLTAGE_SOURCE, CURRENT_SOURCE, PORT, VCVS, VCCS,
        CCCS, CCVS, SWITCH, LINE, N_PORT, COUPLING, EXPRESSION_SOURCE,
    ],
)  # fmt: skip
"""In the order in which they are offered."""

DEVICES: Mapping[str, DeviceKind] = Derived(
    ELEMENTS, lambda: {letter: one.device for letter, one in ELEMENTS.items() if one.device is not None}
)
"""The equations of elementary parts by their letters; everything else is a Verilog-A module."""

HOT: tuple[DeviceKind, ...] = (die_kind(1, 1, 0),)
"""Of circuits that heat themselves; one of each kernel."""


def drives(element: Named) -> str:
    """The unit of an independent source's value; nothing for another element."""
    return DEVICES[element.kind].drives if element.kind in DEVICES else ""


CARDS_OF: Mapping[str, tuple[str, ...]] = Derived(
    ELEMENTS, lambda: {letter: tuple(one.cards) for letter, one in ELEMENTS.items() if one.cards}
)
"""The types of cards that a part with that letter may name; any of them may name a card of a module too."""

STANDARD: Mapping[str, tuple[str, Mapping[str, float]]] = Derived(
    ELEMENTS, lambda: {name: one for kind in ELEMENTS.values() for name, one in kind.cards.items() if one is not None}
)
"""The types of model cards that the trade knows: the library's module, and what the type sets in it."""
