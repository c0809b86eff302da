"""Places on a die for devices with fingers: rows by the blocks that they stand in, to be moved by hand afterwards."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from hearthline.core.bench.heat import HeatLine, HeatSetup
from hearthline.core.bench.mending import part_at
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.elements.kind import Symbol
from hearthline.core.engine.parameters import Environment
from hearthline.core.errors import CircuitError, ExpressionError
from hearthline.core.quantity import field_text
from hearthline.core.spread.variables import values_of
from hearthline.core.thermal.die import Die, HeatSource, PlanError

USUAL = HeatSetup("1m, 1m, 200u", "148", "-1.3")
"""Silicon of a usual thickness (common practice), where nothing is said of the die."""
BESIDE, APART = 0.4e-6, 20e-6
"""[m] From a gate to the middle of what lies between two (our own, for a process of about 130 nm), and between two devices."""
LEAST = 100e-6
"""[m] Of a side of a new die."""
STEP = 1e-6
"""[m] To which places are rounded."""


def devices_on_die(snapshot: Snapshot) -> list[HeatSource]:
    """Devices with fingers by their flat names, each as large as it is drawn, all in one place. Raises CircuitError."""
    numbers: dict[str, dict[str, float]] = {}
    condition = snapshot.condition()
    environment = Environment(condition.parameters, condition.celsius)
    for (flat, value), (expression, scope) in values_of(snapshot.netlist()):
        try:
            found = environment.value(expression, scope)
        except ExpressionError:
            continue
        if not isinstance(found, np.ndarray):
            numbers.setdefault(flat, {})[value] = float(found)
    return [
        _source(flat, one) for flat, one in numbers.items() if {"w", "l"} <= set(one) and _has_fingers(snapshot, flat)
    ]


def _has_fingers(snapshot: Snapshot, flat: str) -> bool:
    try:
        _, part = part_at(snapshot, flat)
    except CircuitError:
        return False
    symbol = snapshot.library.symbol(part) if snapshot.library.knows(part) else None
    return isinstance(symbol, Symbol) and any(one.name == "nf" for one in symbol.fields)


def _source(flat: str, numbers: dict[str, float]) -> HeatSource:
    fold = max(1, round(numbers.get("nf", 1.0)))
    pitch = numbers["l"] + 2.0 * BESIDE
    return HeatSource(
        flat, (0.0, 0.0), (numbers["l"], numbers["w"] / fold), fold * max(1, round(numbers.get("m", 1.0))), pitch
    )


def placed(snapshot: Snapshot, setup: HeatSetup | None) -> HeatSetup:
    """With a place for every device that has none: rows by block, from the middle of the die, which is taken larger where they
    do not fit. Raises CircuitError, and PlanError where nothing could be placed."""
    known = {one.part.lower() for one in setup.sources} if setup is not None else set()
    new = [one for one in devices_on_die(snapshot) if one.part not in known]
    if not new:
        raise PlanError("there is no further device with fingers to be placed", "", "die")
    base = setup if setup is not None else USUAL
    rows = list(_rows(new))
    width, height = max(_width(row) for row in rows), sum(_height(row) + APART for row in rows)
    die, y = _with_room(setup, width, height)
    lines = list(base.sources)
    for row in rows:
        x = 0.5 * (die.length - _width(row))
        for one in row:
            wide = _wide(one)
            middle = x + 0.5 * wide, y + 0.5 * _height(row)
            lines.append(_line(replace(one, middle=middle)))
            x += wide + APART
        y += _height(row) + APART
    found = replace(
        base,
        die=", ".join(field_text(float(f"{side:.6g}")) for side in (die.length, die.width, die.thickness)),
        sources=tuple(lines),
    )
    found.plan()
    return found


def _rows(sources: list[HeatSource]) -> Iterator[list[HeatSource]]:
    """By the block that they stand in, the widest first."""
    blocks = dict.fromkeys(one.part.rpartition(".")[0] for one in sources)
    for block in blocks:
        row = [one for one in sources if one.part.rpartition(".")[0] == block]
        yield sorted(row, key=_wide, reverse=True)


def _wide(one: HeatSource) -> float:
    return (one.fingers - 1) * one.pitch + one.size[0]


def _width(row: list[HeatSource]) -> float:
    return sum(_wide(one) + APART for one in row) - APART


def _height(row: list[HeatSource]) -> float:
    return max(one.size[1] for one in row)


def _above(setup: HeatSetup) -> float:
    """Above all that is there."""
    boxes = setup.plan().boxes
    return float((boxes[:, 1] + 0.5 * boxes[:, 3]).max()) + APART


def _with_room(setup: HeatSetup | None, width: float, height: float) -> tuple[Die, float]:
    """The die, as large as rows of a width and height need, and where they begin."""
    if setup is None:
        die = replace(USUAL.own_die, length=_round(max(2.0 * width, LEAST)), width=_round(max(2.0 * height, LEAST)))
        return die, 0.5 * (die.width - height)
    die, begin = setup.own_die, _above(setup)
    length, across = max(die.length, _round(1.2 * width)), max(die.width, _round(begin + 1.2 * height))
    return replace(die, length=length, width=across), begin


def _round(value: float) -> float:
    return float(STEP * 10.0 * np.ceil(value / (10.0 * STEP)))


def _line(one: HeatSource) -> HeatLine:
    def text(value: float) -> str:
        return field_text(float(f"{value:.6g}"))

    x, y = (STEP * round(side / STEP) for side in one.middle)
    return HeatLine(
        one.part,
        f"{text(x)}, {text(y)}",
        f"{text(one.size[0])}, {text(one.size[1])}",
        str(one.fingers),
        text(one.pitch),
    )


def with_line(setup: HeatSetup, part: str, **texts: str) -> HeatSetup:
    """With some of a part's line typed anew. Raises PlanError where that cannot be."""
    lines = tuple(replace(one, **texts) if one.part.lower() == part else one for one in setup.sources)
    found = replace(setup, sources=lines)
    found.plan()
    return found


def moved_to(setup: HeatSetup, part: str, x: float, y: float) -> HeatSetup:
    """With the middle of a part's row at another place [m]. Raises PlanError."""
    return with_line(setup, part, at=", ".join(field_text(float(f"{side:.6g}")) for side in (x, y)))
