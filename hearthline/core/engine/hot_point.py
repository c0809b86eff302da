"""Operating points of a circuit that heats itself: voltages, currents and temperatures by one Newton."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.constants import kelvin
from hearthline.core.engine.electrothermal import HOTTEST
from hearthline.core.engine.kernels.determinant import slopes_at
from hearthline.core.engine.on_die import OnDie
from hearthline.core.engine.periodic.states import Periodic
from hearthline.core.engine.solve import Solution, SourceSweep, Tolerances, solve
from hearthline.core.engine.system import System
from hearthline.core.engine.worker import new_memory
from hearthline.core.outcome import Outcome

MOST_CHECKED = 600
"""Unknowns up to which a solution is asked whether it stands."""


@dataclass(frozen=True)
class HotPoint:
    """What each part is warmer by [K], and its power [W], (lanes, parts); NaN in lanes that have no solution, or one that would
    not stay; the system and its solution."""

    system: System
    solution: Solution
    rises: np.ndarray
    powers: np.ndarray


def hot_point(system: System, on_die: OnDie, tolerances: Tolerances) -> HotPoint:
    """Of a system with parts on a die."""
    solution = solve(system, SourceSweep(), tolerances)
    place = {one.name: k for k, one in enumerate(system.unknowns)}
    nets = [place[net] for net in on_die.nets]
    flows = [place[name] for name in on_die.flows]
    found = solution.kept[:, 0].copy()
    for lane in range(len(found)):
        if solution.outcomes[lane, 0] != Outcome.SOLVED or not _stands(
            system, lane, found[lane], nets, flows, tolerances
        ):
            found[lane] = np.nan
    return HotPoint(system, solution, found[:, nets], found[:, flows])


def _stands(
    system: System, lane: int, x: np.ndarray, nets: list[int], flows: list[int], tolerances: Tolerances
) -> bool:  # fmt: skip
    """Whether it is no hotter than can be, and less than all of a rise comes back: 1 less the gain of heat around its loop,
    which is the determinant of the whole over that without what temperatures do to devices, is above 0 as where all is cold."""
    if not (x[nets] + kelvin(system.lanes.celsius)[lane] < HOTTEST).all():
        return False
    if len(x) > MOST_CHECKED:
        return True
    pattern, circuit = system.dynamic
    g, c = np.zeros(len(circuit.slots)), np.zeros(len(circuit.capacitance_slots))
    at = np.append(0.0, x)
    slopes_at(circuit, new_memory(circuit, pattern), system.values[lane], at, tolerances.array(), g, c)
    whole = np.zeros((len(x), len(x)))
    columns = np.repeat(pattern.order, np.diff(pattern.starts))
    whole[pattern.rows, columns] = np.bincount(circuit.slots, g, len(pattern.rows) + 1)[:-1]
    apart = whole.copy()
    apart[:, nets] = 0.0
    apart[flows, nets] = whole[flows, nets]
    return bool(np.linalg.slogdet(whole)[0] == np.linalg.slogdet(apart)[0])


def means_of(found: Periodic, on_die: OnDie) -> tuple[np.ndarray, np.ndarray]:
    """Mean rises [K] and powers [W] (lanes, parts) of periodic states of such a system; NaN in lanes that have none."""
    place = {one.name: k for k, one in enumerate(found.system.unknowns)}
    both = []
    for names in (on_die.nets, on_die.flows):
        here = [place[name] for name in names]
        nothing = np.full(len(here), np.nan)
        both.append([nothing if one is None else one.balanced.phasors[0, here].real for one in found.states])
    return np.array(both[0]), np.array(both[1])
