"""Every check of a drawing, in the order in which a list shows what they find."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from hearthline.core.circuit.rules import blocks, parts, wiring
from hearthline.core.circuit.rules.finding import ERROR, WARNING, CheckedDrawing, Finding
from hearthline.core.circuit.symbols import GROUND_SYMBOL


def nothing_grounded(drawing: CheckedDrawing) -> Iterator[Finding]:
    """A drawing that stands alone and has no ground."""
    cell = drawing.cell
    blocks_inside = any(part.device in drawing.library.cells for part in cell.parts)
    grounded = any(part.device == GROUND_SYMBOL for part in cell.parts)
    if cell.parts and not cell.pins and not grounded and not blocks_inside:
        yield Finding("no ground", ERROR, "no part is connected to ground; place a ground mark on one net")


RULES: tuple[Callable[[CheckedDrawing], Iterator[Finding]], ...] = (
    parts.unknown,
    parts.duplicate_names,
    parts.recursion,
    parts.values,
    wiring.two_names,
    blocks.fighting_outputs,
    nothing_grounded,
    wiring.dangling_terminals,
    wiring.dangling_wires,
    wiring.shorted_parts,
    parts.overlaps,
    blocks.drift,
)


def findings_of(drawing: CheckedDrawing) -> tuple[Finding, ...]:
    """What all checks find; errors first."""
    found = [finding for rule in RULES for finding in rule(drawing)]
    return tuple(sorted(found, key=lambda finding: (ERROR, WARNING).index(finding.weight)))
