"""What is wrong with a part or its model, with its place."""

from __future__ import annotations

from hearthline.core.circuit.netlist import Card, Element
from hearthline.core.elements.device import DeviceKind
from hearthline.core.errors import CircuitError


def complain(element: Element, message: str) -> CircuitError:
    """A CircuitError about `element`, with its place."""
    return CircuitError(f"{element.name}: {message}", element.name, "", element.place.file, element.place.line)


def check_names(element: Element, kind: DeviceKind, card: Card | None) -> None:
    """Raises CircuitError for a parameter that the kind of part or its model does not have."""
    for name in element.values:
        if name not in kind.defaults:
            raise complain(element, f"there is no parameter '{name}'; there are {', '.join(kind.defaults)}")
    if card is None:
        return
    for name in card.values:
        if name not in kind.card_defaults:
            raise CircuitError(
                f"model {card.name}: there is no parameter '{name}'; there are {', '.join(kind.card_defaults)}",
                file=card.place.file,
                line=card.place.line,
            )
