"""How each kind of description is shown: its drawing, its numbers, and an example of its file."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from PyQt6.QtWidgets import QVBoxLayout

from hearthline.app.interconnect.cards import lines_card, substrate_card, wires_card
from hearthline.app.interconnect.drawing import Drawing
from hearthline.app.interconnect.section_drawing import SectionDrawing
from hearthline.app.interconnect.substrate_drawing import SubstrateDrawing
from hearthline.app.interconnect.wires_drawing import WiresDrawing
from hearthline.core.registry import registry

LINES = """\
format = 1
length = "30m"

[[layers]]
height = "0.8m"
er = "4.3"
tan_delta = "0.02"

[[conductors]]
box = "0, 0.8m, 1.5m, 0.835m"

[sweep]
from = "100M"
to = "10G"
"""
WIRES = """\
format = 1
plane = true

[[wires]]
points = "0, 0, 0.1m; 0.3m, 0, 0.4m; 1m, 0, 0.1m"
diameter = "25u"

[sweep]
from = "100M"
to = "20G"
"""
SUBSTRATE = """\
format = 1
size = "1m, 1m"

[[layers]]
thickness = "300u"
conductivity = "10"

[[contacts]]
at = "0.3m, 0.5m"
size = "50u, 50u"

[[contacts]]
at = "0.7m, 0.5m"
size = "50u, 50u"

[sweep]
from = "10M"
to = "10G"
"""


@dataclass(frozen=True)
class Look:
    """Of a kind of description by its `name`: how many are called, what draws it, what puts its numbers into a column, and the
    text of a `new` one."""

    name: str
    called: str
    drawing: Callable[[], Drawing]
    card: Callable[[QVBoxLayout, Any], None]
    new: str


LOOKS: Mapping[str, Look] = registry("look", [
    Look("lines", "lines", SectionDrawing, lines_card, LINES),
    Look("wires", "wires", WiresDrawing, wires_card, WIRES),
    Look("substrate", "substrates", SubstrateDrawing, substrate_card, SUBSTRATE),
])  # fmt: skip
"""One for each of `interconnects.DESCRIPTIONS`."""


def drawings() -> dict[str, Drawing]:
    """One of each kind, hidden."""
    found = {name: look.drawing() for name, look in LOOKS.items()}
    for one in found.values():
        one.hide()
    return found
