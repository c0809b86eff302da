"""What is written beside a part, and on which side."""

from __future__ import annotations

from hearthline.app.canvas.scene import Scene
from hearthline.core.circuit.cell import Part
from hearthline.core.circuit.symbols import SYMBOLS

SIZES = ("w", "l", "nf", "m", "r", "c", "dc", "wave", "gain", "gm", "area", "k", "z0", "td")


def rest_of(part: Part, known: bool) -> str:
    """Device and sizes, as they stand behind the name."""
    device = part.device if known else f"{part.device}?"
    return f"{'' if known and plain(part) else device} {sizes(part)}".strip()


def sizes(part: Part) -> str:
    """What matters of a part's values, as it stands beside it."""
    found = [part.values[n] for n in SIZES if part.values.get(n) and (n not in ("nf", "m") or part.values[n] != "1")]
    return " / ".join(text if len(text) < 24 else f"{text[:22]}…" for text in found)


def plain(part: Part) -> bool:
    """Whether the symbol says enough of what the part is."""
    return part.device in SYMBOLS and not SYMBOLS[part.device].takes_model


def faces_left(scene: Scene, part: Part) -> bool:
    """Whether the words of a part stand at its left: it was flipped, so that what it is controlled by comes from the right."""
    if part.turn % 2 or part.flip == (part.turn % 4 == 2):
        return False
    return len({x for x, _ in scene.terminals[part.name].values()}) > 1
