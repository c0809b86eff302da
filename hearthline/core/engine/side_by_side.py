"""A circuit several times over, side by side in one work array: one call of each kernel evaluates it at several points, and
instances that are the same device lie abreast in the lanes of a vector."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from hearthline.core.compiled.codes import INT, U, record
from hearthline.core.engine.worker import CIRCUIT, CircuitArrays
from hearthline.core.models.layout import LANES, STRETCHES, lengths
from hearthline.core.models.signature import SETTINGS

if TYPE_CHECKING:
    from hearthline.core.elements.device import DeviceKind
    from hearthline.core.engine.module import ModuleKind

COPIES = LANES
"""Of the circuit."""


class SideBySide(NamedTuple):
    """The copies as one circuit, of which only kernels know anything; how many unknowns each has, ground among them; and for
    what the circuit itself has in its order - values, memory, sources of sums of currents and charges by row, and of slopes
    and capacitances by entry - where that of the first copy stands, and how much further on that of the next one."""

    circuit: CircuitArrays
    size: int
    value_first: np.ndarray
    value_step: np.ndarray
    memory_first: np.ndarray
    memory_step: np.ndarray
    row_first: np.ndarray
    row_step: np.ndarray
    charge_first: np.ndarray
    charge_step: np.ndarray
    entry_first: np.ndarray
    entry_step: np.ndarray
    charged_first: np.ndarray
    charged_step: np.ndarray


SIDE_BY_SIDE = record(SideBySide, CIRCUIT, INT, U, U, U, U, U, U, U, U, U, U, U, U)


def lengths_of(kind: DeviceKind | ModuleKind, count: int) -> list[int]:
    """What so many instances take of `nodes` and of each stretch of the work array behind the unknowns."""
    return lengths(
        count, kind.width, kind.values, kind.memory, len(kind.conductance), len(kind.capacitance), len(kind.readouts),
        kind.noise, kind.abreast,
    )  # fmt: skip


def side_by_side(kinds: Sequence[DeviceKind | ModuleKind], counts: Sequence[int], circuit: CircuitArrays) -> SideBySide:
    """`COPIES` of a circuit, whose models of these kinds have so many instances each. The same instance of all copies is one
    after the other."""
    unknowns = int(circuit.places[2] - circuit.places[1])
    each = [lengths_of(kind, COPIES * count) for kind, count in zip(kinds, counts, strict=True)]
    ends = np.cumsum([COPIES * unknowns, *np.sum(each, axis=0)[1:]]) + SETTINGS
    start, spans = np.array([0, *ends[:-1]]), []
    for count, taken in zip(counts, each, strict=True):
        spans.append([COPIES * count, *start])
        start = start + taken
    nodes, begin = [], 0
    for kind, count in zip(kinds, counts, strict=True):
        table = circuit.nodes[begin : begin + count * kind.width].reshape(count, 1, kind.width)
        nodes.append((table + unknowns * np.arange(COPIES)[:, None]).ravel())
        begin += count * kind.width
    wide = circuit._replace(
        spans=np.array(spans, np.int64).ravel(),
        nodes=np.concatenate([np.zeros(0, np.int32), *nodes]).astype(np.int32),
        places=np.array([0, SETTINGS, *ends], np.int64),
    )
    place = {stretch: _first(kinds, counts, k + 1) for k, stretch in enumerate(STRETCHES[:-1])}

    def sources(stretch: str, chosen: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        first, step = place[stretch]
        fine = np.minimum(chosen.astype(np.int64), max(len(first) - 1, 0))
        return (first[fine], step[fine]) if len(first) else (fine.astype(np.uint32), fine.astype(np.uint32))

    return SideBySide(
        wide, unknowns, *place["value"], *place["memory"], *sources("current", circuit.row_from),
        *sources("charge", circuit.charge_from), *sources("conductance", circuit.entry_from),
        *sources("capacitance", circuit.charged_from),
    )  # fmt: skip


def _first(kinds: Sequence, counts: Sequence[int], which: int) -> tuple[np.ndarray, np.ndarray]:
    """Of a stretch: where each number stands in the first copy, from the stretch's beginning on, and the way to the next."""
    first, step, begin = [], [], 0
    for kind, count in zip(kinds, counts, strict=True):
        width = lengths_of(kind, 1)[which]
        instance, slot = np.divmod(np.arange(count * width), max(width, 1))
        first.append(begin + instance * COPIES * width + slot)
        step.append(np.full(count * width, width))
        begin += COPIES * count * width
    nothing = np.zeros(0, int)
    return np.concatenate([nothing, *first]).astype(np.uint32), np.concatenate([nothing, *step]).astype(np.uint32)
