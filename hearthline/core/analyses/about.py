"""What analyses have in common that are about the result of another one: a balance, or an oscillation."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hearthline.core.errors import AnalysisError

if TYPE_CHECKING:
    from hearthline.core.analyses.circuit import Circuit
    from hearthline.core.analyses.kind import Ask

DRIVERS = (
    "hearthline.core.engine.drive", "hearthline.core.engine.kernels.periodic", "hearthline.core.engine.kernels.small_signal",
    "hearthline.core.engine.kernels.power",
)  # fmt: skip
"""Of all that repeats."""
EXAMPLES = {"balance": "balance at 868M", "oscillation": "oscillation near 868M"}


def first_of(circuit: Circuit, kind: str) -> str:
    """The name of the first analysis of a kind; nothing where there is none."""
    return next((one.name for one in circuit.analyses if one.kind == kind), "")


def named(plan: Ask, kind: str) -> str:
    """The name of the analysis of a kind that a line is about. Raises AnalysisError."""
    there = [one.name for one in plan.circuit.analyses if one.kind == kind]
    said = plan.settings.get("of", "")
    if said in there:
        return said
    known = ", ".join(there) or f"none; add one first, as in: {EXAMPLES[kind]}"
    message = f"there is no {kind} '{said}'; there is {known}" if said else f"say which {kind}: of {known}"
    raise AnalysisError(plan.name, message)
