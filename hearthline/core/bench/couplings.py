"""Which coupling of an n-port closes a loop: the entry of its S-parameters that does most to the circuit's determinant.

Without an entry S_pj the determinant is 1 + rᵀ A⁻¹ e times as large, with r what the entry has in the equation of port p: a
change of one row (the return difference of Bode, for that entry). Where the circuit is near to oscillating the determinant is
small, and what it takes to make it large again is what carries the loop.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.circuit.netlist import Element
from hearthline.core.elements import n_port
from hearthline.core.engine.poles_and_zeros import pencil_at
from hearthline.core.engine.solve import SourceSweep, solve
from hearthline.core.engine.system import System
from hearthline.core.quantity import write
from hearthline.core.spread.pvt import Condition

MUCH = 1.3
"""By how much the determinant grows at least without what is called a carrier."""
MOST_UNKNOWNS = 3000


@dataclass(frozen=True)
class Carrier:
    """From a port into another of an n-port, by their nets; how much goes over [dB], at which frequency [Hz], and by how much
    the determinant is larger without it."""

    part: str
    out: str
    into: str
    decibels: float
    frequency: float
    weight: float

    @property
    def words(self) -> str:
        """In a few."""
        level = f"{self.decibels:.1f} dB".replace("-", "−")
        return f"carried by {self.part} from {self.out} to {self.into}, {level} at {write(self.frequency, 'Hz', 3)}"


def carrier(snapshot: Snapshot, condition: Condition, frequency: float) -> Carrier | None:
    """The one that does most at a condition and frequency [Hz]; None where there is no n-port, or none does much. Raises
    HearthlineError."""
    circuit = snapshot.circuit
    (netlist, _), *_ = circuit.parts((condition,))
    ports = [one for one in netlist.elements if one.kind == n_port.LETTER and one.device is not None]
    if not ports:
        return None
    system = circuit.system(netlist, circuit.lanes((condition,)))
    if len(system.unknowns) > MOST_UNKNOWNS:
        return None
    solution = solve(system, SourceSweep(), circuit.tolerances, None, ())
    if len(solution.failed_lanes):
        return None
    pencil = pencil_at(system, system.values[0], solution.kept[0, 0])
    matrix = pencil.conductance + 2j * np.pi * frequency * pencil.capacitance
    found = [each for one in ports for each in _each(system, matrix, one, frequency)]
    best = max(found, key=lambda one: one.weight, default=None)
    return best if best is not None and best.weight >= MUCH else None


def _each(system: System, matrix: np.ndarray, element: Element, frequency: float) -> Iterator[Carrier]:
    """All that goes from one port of a part to another."""
    known = {one.label: k for k, one in enumerate(system.unknowns)}
    assert element.device is not None
    model = n_port.model_of(element.device)
    *ends, common = element.nets
    volts = [known.get(f"V({net})", -1) for net in (*ends, common)]
    currents = [known[f"{element.name}.i{k + 1}"] for k in range(len(ends))]
    s, impedances = model.s(np.array([frequency]))[0], model.network.impedances.real
    inverse = np.linalg.solve(matrix, np.eye(len(matrix))[:, currents])
    for p in range(len(ends)):
        for j in range(len(ends)):
            if j == p or abs(s[p, j]) < 1e-12:
                continue
            wave = sum(sign * inverse[k, p] for k, sign in ((volts[j], 1.0), (volts[-1], -1.0)) if k >= 0)
            wave = wave + impedances[j] * inverse[currents[j], p]
            weight = abs(1.0 + s[p, j] * np.sqrt(impedances[p] / impedances[j]) * wave)
            yield Carrier(element.name, ends[j], ends[p], float(20 * np.log10(abs(s[p, j]))), frequency, float(weight))
