"""Blocks whose symbol and pins have drifted apart, and outputs that work against each other."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

from hearthline.core.circuit.body import pins_gained, pins_lost
from hearthline.core.circuit.cell import Cell
from hearthline.core.circuit.rules.finding import ERROR, WARNING, CheckedDrawing, Finding
from hearthline.core.elements.kind import Symbol


def drift(drawing: CheckedDrawing) -> Iterator[Finding]:
    """A block whose cell has gained or lost a pin."""
    for part in drawing.cell.parts:
        cell = drawing.library.cells.get(part.device)
        if cell is None:
            continue
        for pin in pins_gained(cell):
            message = f"{part.name}: {cell.name} has gained pin {pin}; place it on the symbol"
            yield Finding("symbol", WARNING, message, part.name, "", (part.at,), "body", cell.name)
        for pin in pins_lost(cell):
            message = f"{part.name}: {cell.name} has no pin {pin} any more; take it off the symbol"
            yield Finding("symbol", WARNING, message, part.name, "", (part.at,), "body", cell.name)


def fighting_outputs(drawing: CheckedDrawing) -> Iterator[Finding]:
    """Two outputs, or voltage sources, that set the voltage of one net."""
    drivers = defaultdict(list)
    for part in drawing.cell.parts:
        if not drawing.known(part):
            continue
        symbol = drawing.library.symbol(part)
        if isinstance(symbol, Cell):
            outputs = [pin.name for pin in symbol.pins if pin.kind == "output"]
            for pin in outputs:
                if (part.name, pin) in drawing.terminals:
                    drivers[drawing.joined.root(drawing.terminals[part.name, pin])].append((part.name, pin))
    for outputs in drivers.values():
        if len(outputs) > 1:
            words = " and ".join(f"{part} {pin}" for part, pin in outputs[:3])
            places = tuple(drawing.terminals[one] for one in outputs)
            message = f"outputs {words} are on one net; only one can set its voltage"
            yield Finding("outputs shorted", WARNING, message, outputs[1][0], "", places)
    yield from _parallel_sources(drawing)


def _parallel_sources(drawing: CheckedDrawing) -> Iterator[Finding]:
    seen: dict = {}
    for part in drawing.cell.parts:
        symbol = drawing.library.symbol(part) if drawing.known(part) else None
        if not isinstance(symbol, Symbol) or symbol.kind not in ("V", "E", "H"):
            continue
        ends = frozenset(drawing.joined.root(drawing.terminals[part.name, name]) for name in ("p", "n"))
        other = seen.setdefault(ends, part.name)
        if other != part.name and len(ends) > 1:
            message = f"{other} and {part.name} both set the voltage between the same nets; take one away"
            yield Finding("outputs shorted", ERROR, message, part.name, "", (part.at,))
