"""What analyses have in common that are about the result of another one: a balance, or an oscillation."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hearthline.core.errors import AnalysisError

if TYPE_CHECKING:
    from hearthline.core.analyses.circuit import Circuit
    from hearthline.core.analyses.kind import Ask

KERNELS = ("balance", "blocks", "mixing", "periodic", "power", "small_signal", "turn")
DRIVERS = ("hearthline.core.engine.drive", *(f"hearthline.core.engine.kernels.{name}" for name in KERNELS))
"""Of all that repeats."""
EXAMPLES = {"balance": "balance at 868M", "oscillation": "oscillation near 868M"}


PERIODIC = ("balance", "oscillation")
"""What repeats by one tone, its own or one that is given."""


def first_of(circuit: Circuit, *kinds: str) -> str:
    """The name of the first analysis of one of these kinds; nothing where there is none."""
    return next((one.name for one in circuit.analyses if one.kind in kinds), "")


def named(plan: Ask, *kinds: str) -> str:
    """The name of the analysis of one of these kinds that a line is about. Raises AnalysisError."""
    there = [one.name for one in plan.circuit.analyses if one.kind in kinds]
    said, wanted = plan.settings.get("of", ""), " or ".join(kinds)
    if said in there:
        return said
    known = ", ".join(there) or f"none; add one first, as in: {EXAMPLES[kinds[0]]}"
    message = f"there is no {wanted} '{said}'; there is {known}" if said else f"say which {wanted}: of {known}"
    raise AnalysisError(plan.name, message)
