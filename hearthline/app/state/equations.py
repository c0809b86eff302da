"""Which text the equations of a device stand in, for tips that say where a number comes from."""

from __future__ import annotations

from collections.abc import Mapping

from hearthline.app.state.values import MEANINGS, Quantity
from hearthline.core.elements import STANDARD
from hearthline.core.models.library import library_names
from hearthline.core.process.kit import ProcessKit


def equations_of(device: str, kit: ProcessKit | None) -> str:
    """In words; nothing where it is an elementary part or a small circuit."""
    if device in library_names():
        return f"by the equations of {device}.va in the library"
    for corner in kit.models.corners.values() if kit is not None else ():
        card = corner.cards.get(device)
        if card is not None:
            name = STANDARD.get(card.kind, (card.kind.lower(), {}))[0]
            where = "of the kit or project" if name in corner.modules else "in the library"
            return f"by the equations of {name}.va {where}"
    return ""


def tips_of(values: Mapping[str, Quantity], device: str, kit: ProcessKit | None) -> dict[str, str]:
    """What each quantity is, in which unit, and whose equation gives it."""
    source = equations_of(device, kit)
    found = {}
    for name, value in values.items():
        meaning = value.meaning or MEANINGS.get(name, "")
        unit = f"[{value.unit}]" if value.unit else ""
        found[name] = ", ".join(word for word in (f"{meaning} {unit}".strip(), source) if word)
    return found
