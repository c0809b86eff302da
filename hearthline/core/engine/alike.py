"""Elementary parts of plain numbers, all of one kind worked out in one go: what is done once for ten thousand resistors takes
as long as for one. Whatever is wrong among them is left to be found one by one."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

import numpy as np

from hearthline.core.circuit.netlist import Card, Element, Netlist
from hearthline.core.elements import DEVICES, ELEMENTS
from hearthline.core.elements.device import DeviceKind, Numbers
from hearthline.core.engine.instance import DeviceInstance
from hearthline.core.engine.lanes import Lanes
from hearthline.core.expression import Expression

FEW = 16
"""Elements of a kind that are not worth it."""

CardOf = Callable[[Element, DeviceKind], tuple[Card | None, Numbers]]


def alike(netlist: Netlist, lanes: Lanes, card_of: CardOf) -> dict[int, tuple[DeviceInstance, ...]]:
    """Instances by the identity of their elements; `card_of` gives what a kind takes where there is no model."""
    if lanes.shares:
        return {}
    groups: dict[tuple[str, ...], list[Element]] = {}
    for one in netlist.elements:
        if _is_plain(one) and one.name not in lanes.sources:
            given = (name for name, value in one.values.items() if value is not None)
            groups.setdefault((one.kind, *given), []).append(one)
    found: dict[int, tuple[DeviceInstance, ...]] = {}
    for (letter, *names), elements in groups.items():
        if len(elements) >= FEW:
            kind = DEVICES[letter]
            _, card = card_of(elements[0], kind)
            made = _in_one_go(kind, names, elements, card, lanes)
            found |= {id(one): (item,) for one, item in zip(elements, made, strict=False)}
    return found


def _is_plain(one: Element) -> bool:
    return (
        one.kind in DEVICES and one.device is None and one.module is None and not one.model and not one.control
        and one.wave is None and one.initial is None and not ELEMENTS[one.kind].couples
        and all(value is None or isinstance(value.tree, float) for value in one.values.values())
    )  # fmt: skip


def number_of(value: Expression | None) -> float:
    """Of an expression that is one."""
    assert value is not None
    assert isinstance(value.tree, float)
    return value.tree


def _in_one_go(
    kind: DeviceKind, names: list[str], elements: list[Element], card: Numbers, lanes: Lanes
) -> Iterator[DeviceInstance]:
    """Nothing where anything is wrong."""
    count, each = len(elements), len(lanes)
    numbers: dict[str, Any] = {
        name: None if default is None else np.full(count * each, default) for name, default in kind.defaults.items()
    }
    if any(name not in numbers for name in names):
        return
    for name in names:
        numbers[name] = np.repeat([number_of(one.values[name]) for one in elements], each)
    if any(numbers[name] is None for name in kind.needed):
        return
    if any((numbers[name] <= 0).any() for name in kind.must_be_positive):
        return
    tiled: dict[str, Any] = {
        name: None if v is None else np.tile(np.broadcast_to(v, each), count) for name, v in card.items()
    }
    try:
        values = kind.prepare(numbers, tiled, np.tile(lanes.celsius, count))
    except ValueError:
        return
    table = np.column_stack(values).reshape(count, each, -1)
    phasors: list[np.ndarray | None] = [None] * count
    if "mag" in numbers:
        phasors = list((numbers["mag"] * np.exp(1j * np.radians(numbers["phase"]))).reshape(count, each))
    for one, rows, phasor in zip(elements, table, phasors, strict=True):
        own = tuple(one.name + suffix for suffix in kind.unknowns)
        yield DeviceInstance(one.name, kind, one.nets, rows, "", own, kind.messages, None, None, phasor)
