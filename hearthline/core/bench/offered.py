"""Lines that a circuit asks for by itself: a balance where ports give power, an oscillation where a pole grows."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.errors import HearthlineError
from hearthline.core.quantity import field_text, write
from hearthline.core.spread.pvt import lanes_of

if TYPE_CHECKING:
    from hearthline.core.engine.system import System

MOST_UNKNOWNS = 200
"""Up to which poles are looked for: it must not be waited for."""
DIGITS = 4


@dataclass(frozen=True)
class Offer:
    """An analysis as it would be typed, and why."""

    line: str
    why: str


def offered(snapshot: Snapshot) -> tuple[Offer, ...]:
    """Of a bench at its point; nothing of a circuit that cannot be solved."""
    kinds = {one.kind for one in snapshot.bench.analyses}
    try:
        found = [] if "balance" in kinds else _balance(snapshot)
        return (*found, *([] if "oscillation" in kinds else _oscillation(snapshot)))
    except HearthlineError:
        return ()


def _balance(snapshot: Snapshot) -> list[Offer]:
    system = _system(snapshot)
    from hearthline.core.engine.periodic.excitation import powers_of

    ports = [name for name, _, _ in powers_of(system, 0)]
    tone = snapshot.circuit.tone
    return [Offer(f"balance at {tone}", f"{ports[0]} gives power")] if ports and tone else []


def _oscillation(snapshot: Snapshot) -> list[Offer]:
    system = _system(snapshot)
    if len(system.unknowns) > MOST_UNKNOWNS:
        return []
    from hearthline.core.engine.periodic.start import poles_at
    from hearthline.core.engine.solve import solve
    from hearthline.core.outcome import Outcome

    point = solve(system)
    if point.outcomes[0, 0] != Outcome.SOLVED:
        return []
    growing = [one for one in poles_at(system, 0, point.kept[0, 0]) if one.s.real > 0 and one.swings]
    if not growing:
        return []
    near = field_text(float(f"{growing[0].frequency:.{DIGITS}g}"))
    return [Offer(f"oscillation near {near}", f"a pole grows at {write(growing[0].frequency, 'Hz', DIGITS)}")]


def _system(snapshot: Snapshot) -> System:
    circuit = snapshot.circuit
    return circuit.system(snapshot.netlist(), snapshot.moved(lanes_of((snapshot.condition(),))))
