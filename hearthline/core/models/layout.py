"""Where everything lies that a kernel is handed: the one table of it. `signature` says what the stretches mean."""

from __future__ import annotations

STRETCHES = ("value", "memory", "current", "conductance", "charge", "capacitance", "readout", "noise")
"""Of the work array behind settings and unknowns, each with a part for every model."""

COUNT, NODE0 = 0, 1
"""Entries of a span: how many instances, where the model's stretch of the nodes begins."""

SPAN = {name: 2 + k for k, name in enumerate(STRETCHES)}
"""Where a span says that the model's part of each stretch begins."""

SPAN_BYTES = 8 * (2 + len(STRETCHES))

PLACE = {name: k for k, name in enumerate(("setting", "x", *STRETCHES, "end"))}
"""Where `places` of a circuit say that each stretch of the work array begins, and its end."""


def lengths(
    terminals: int, values: int, memory: int, conductances: int, capacitances: int, readouts: int, noise: int
) -> list[int]:
    """What one instance takes of the nodes, then of each stretch: a source of noise has a density and an exponent."""
    return [terminals, values, memory, terminals, conductances, terminals, capacitances, readouts, 2 * noise]
