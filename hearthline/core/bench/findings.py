"""What the checks find on the drawings of a snapshot: on one cell as drawn, and what would stop a run of its circuit."""

from __future__ import annotations

from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.circuit.cell import Cell
from hearthline.core.circuit.checks import problems
from hearthline.core.circuit.flatten import flatten
from hearthline.core.circuit.rules.all import findings_of
from hearthline.core.circuit.rules.finding import ERROR, CheckedDrawing, Finding
from hearthline.core.circuit.rules.parts import numbers_of
from hearthline.core.engine.instances import DeviceInstances
from hearthline.core.errors import CircuitError, HearthlineError
from hearthline.core.spread.pvt import lane_of


def find_all(snapshot: Snapshot, cell: Cell) -> tuple[Finding, ...]:
    """Findings on `cell`, which is the bench's cell or one inside it."""
    try:
        outer = dict(snapshot.condition().parameters)
    except HearthlineError:
        outer = {}
    for above in _above(snapshot, cell.name):
        outer = {**numbers_of(above, outer), **outer}
    drawing = CheckedDrawing(cell, snapshot.library, snapshot.kit.size_error, outer)
    found = findings_of(drawing)
    if any(finding.weight == ERROR for finding in found) or not cell.parts:
        return found
    return (*_circuit(snapshot, cell, drawing), *found)


def _above(snapshot: Snapshot, name: str) -> list[Cell]:
    """The cells that hold a block of a cell, at whatever depth: their parameters are known inside it."""
    found: dict[str, Cell] = {}
    wanted = [name]
    while wanted:
        inner = wanted.pop()
        for cell in snapshot.cells.values():
            if cell.name not in found and any(part.device == inner for part in cell.parts):
                found[cell.name] = cell
                wanted.append(cell.name)
    return list(found.values())


def _circuit(snapshot: Snapshot, cell: Cell, drawing: CheckedDrawing) -> tuple[Finding, ...]:
    """Nets without a DC path and loops of voltage sources, in the cell alone, its pins held from outside."""
    try:
        netlist = flatten(cell, snapshot.library)
        items = DeviceInstances(netlist, snapshot.models, lane_of(snapshot.condition()))
        held = [pin.name.lower() for pin in cell.pins]
        errors = list(problems(netlist, items.paths, held)) if netlist.elements else []
    except HearthlineError as error:
        errors = [error] if isinstance(error, CircuitError) else []
    return tuple(_finding(error, drawing) for error in errors)


def _finding(error: CircuitError, drawing: CheckedDrawing) -> Finding:
    net, part = error.net, error.part.partition(".")[0]
    places = drawing.connections.at.items() if drawing.connections else ()
    at = tuple(place for place, name in places if name.lower() == net.lower())[:1] if net else ()
    named = next((p.name for p in drawing.cell.parts if p.name.lower() == part.lower()), "")
    return Finding("circuit", ERROR, str(error), named, net, at)
