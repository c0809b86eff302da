"""Where everything lies that a kernel is handed: the one table of it. `signature` says what the stretches mean."""

from __future__ import annotations

STRETCHES = ("value", "memory", "current", "conductance", "charge", "capacitance", "readout", "noise", "abreast")
"""Of the work array behind settings and unknowns, each with a part for every model."""

LANES = 8
"""Instances that are evaluated at a time, where a model has many values to work out."""

COUNT, NODE0 = 0, 1
"""Entries of a span: how many instances, where the model's stretch of the nodes begins."""

SPAN = {name: 2 + k for k, name in enumerate(STRETCHES)}
"""Where a span says that the model's part of each stretch begins."""

SPAN_BYTES = 8 * (2 + len(STRETCHES))

PLACE = {name: k for k, name in enumerate(("setting", "x", *STRETCHES, "end"))}
"""Where `places` of a circuit say that each stretch of the work array begins, and its end."""


def lengths(
    count: int, terminals: int, values: int, memory: int, conductances: int, capacitances: int, readouts: int, noise: int,
    abreast: int,
) -> list[int]:  # fmt: skip
    """What `count` instances take of the nodes, then of each stretch: a source of noise has a density and an exponent; of
    instances that are evaluated abreast, `abreast` numbers stand in lanes, all of which are there."""
    each = [terminals, values, memory, terminals, conductances, terminals, capacitances, readouts, 2 * noise]
    return [*(count * one for one in each), -(-count // LANES) * LANES * abreast]
