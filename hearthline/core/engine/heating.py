"""A circuit that heats itself: its systems at the temperatures that their own power makes, and what is told of these."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from hearthline.core.data.heat import hot_label, labels_of, peak_label, power_label, temperature_label
from hearthline.core.engine.lanes import some_lanes
from hearthline.core.engine.on_die import HEAT, OnDie, Pace, followed, on_die_of
from hearthline.core.errors import ModelError
from hearthline.core.outcome import Outcome
from hearthline.core.quantity import write
from hearthline.core.thermal.die import Plan, PlanError

if TYPE_CHECKING:
    from hearthline.core.circuit.netlist import Netlist
    from hearthline.core.engine.electrothermal import Die, Heated
    from hearthline.core.engine.lanes import Lanes
    from hearthline.core.engine.periodic.states import Periodic
    from hearthline.core.engine.solve import Tolerances
    from hearthline.core.engine.system import System
    from hearthline.core.process.models import ModelSet

KEPT = "heated"
"""Where a system holds what was found when it was made."""

Powers = Callable[["System"], np.ndarray]
"""What parts turn into heat (lanes, parts) [W] where a system is; NaN in lanes that have no solution."""


class Heating:
    """Of one circuit. Where it is `isothermal`, parts have the condition's temperature and nothing is solved."""

    def __init__(self, plan: Plan, models: ModelSet, tolerances: Tolerances, isothermal: bool):
        self.plan, self.models, self.tolerances, self.isothermal = plan, models, tolerances, isothermal

    @property
    def labels(self) -> set[str]:
        """What curves are told of it."""
        every = labels_of([(one.part, one.fingers) for one in self.plan.sources])
        return self.cold_labels if self.isothermal else every

    @property
    def cold_labels(self) -> set[str]:
        """Those that are the condition's temperature where heat is switched off: all but powers."""
        each = [(one.part, k + 1) for one in self.plan.sources for k in range(one.fingers)]
        return {label(part) for part in self.plan.parts for label in (temperature_label, peak_label)} | {
            hot_label(*one) for one in each
        }

    # -- systems

    def at_rest(self, netlist: Netlist, lanes: Lanes) -> System:
        """The circuit at the temperatures of its operating points. Raises CircuitError, and PlanError for a part that is not
        there or has no power."""
        from hearthline.core.engine.hot_point import hot_point
        from hearthline.core.engine.system import carried, lower

        if self.isothermal:
            return lower(netlist, self.models, lanes)
        common: dict = {}
        pace = Pace.HELD if self.plan.die.capacity else Pace.AT_ONCE
        hot = self._hot(netlist, lanes, common, pace)
        if hot is None:
            return self._by_rounds(netlist, lanes, self._resting())
        point = hot_point(hot, self._on_die(pace), self.tolerances)
        system = self._at(netlist, lanes, (point.rises, point.powers), self._resting(), common)
        if pace == Pace.HELD:
            begin = np.pad(np.nan_to_num(point.solution.kept[:, 0]), ((0, 0), (1, 0)))
            return _kept(replace(hot, guesses=begin), self.of(system))
        guesses = carried(hot.unknowns, point.solution.kept[:, 0], system.unknowns)
        return _kept(replace(system, guesses=np.pad(np.nan_to_num(guesses), ((0, 0), (1, 0)))), self.of(system))

    def about(self, system: System, solved: Callable[[System], Periodic]) -> System:
        """The same at the temperatures of the mean powers of periodic states, which `solved` finds."""
        from hearthline.core.engine.hot_point import means_of
        from hearthline.core.engine.periodic.states import settled

        if self.isothermal:
            return system
        netlist, lanes = system.netlist, replace(system.lanes, hot={})

        def powers(system: System) -> np.ndarray:
            return self._powers(system, [None if one is None else one.samples for one in solved(system).states])

        common: dict = {}
        if self.moves(system):
            states = solved(system)
            found = means_of(states, self._on_die(Pace.HELD))
            return settled(_kept(replace(system), self.of(self._at(netlist, lanes, found, powers, common))), states)
        hot = self._hot(netlist, lanes, common, Pace.MEAN)
        if hot is None:
            return self._by_rounds(netlist, lanes, powers)
        states = solved(hot)
        return settled(self._at(netlist, lanes, means_of(states, self._on_die(Pace.MEAN)), powers, common), states)

    def moves(self, system: System) -> bool:
        """Whether temperatures are unknowns of a system, that follow in time."""
        return any(one.name.endswith(HEAT) for one in system.unknowns)

    def of(self, system: System) -> Heated | None:
        """What was found when a system was made."""
        found: Heated | None = system.__dict__.get(KEPT)
        return found

    def _hot(self, netlist: Netlist, lanes: Lanes, common: dict, pace: Pace) -> System | None:
        """The circuit with its temperatures as unknowns; None where a part cannot be followed in its temperature."""
        from hearthline.core.engine.system import lower

        on_die = self._on_die(pace)
        try:
            return lower(netlist, self.models, lanes, None, on_die, common) if followed(netlist, on_die) else None
        except ModelError:
            return None

    def _on_die(self, pace: Pace) -> OnDie:
        return on_die_of(self._die, pace)

    def _at(
        self, netlist: Netlist, lanes: Lanes, known: tuple[np.ndarray, np.ndarray], powers: Powers, common: dict
    ) -> System:  # fmt: skip
        """At what parts are warmer by [K] with their powers [W], `known` (lanes, parts); lanes that have neither are looked at
        in rounds. Raises PlanError."""
        from hearthline.core.engine.electrothermal import heated_by, put_into
        from hearthline.core.engine.system import lower

        rises, given = known
        lost = np.flatnonzero(~np.isfinite(rises).all(axis=1))
        found = heated_by(self._die, lanes, np.nan_to_num(rises) + lanes.celsius[:, None], np.nan_to_num(given))
        if len(lost):
            rest = self.of(self._by_rounds(netlist, some_lanes(lanes, lost), powers))
            found = found if rest is None else put_into(found, rest, lost)
        system = lower(netlist, self.models, found.lanes, None, None, common)
        self._inside(system)
        return _kept(system, found)

    def _by_rounds(self, netlist: Netlist, lanes: Lanes, powers: Powers) -> System:
        """By temperatures of the powers at the last ones, again and again."""
        from hearthline.core.engine.electrothermal import heated
        from hearthline.core.engine.retuning import retuned
        from hearthline.core.engine.system import lower

        base = lower(netlist, self.models, lanes)
        _ = base.static, base.dynamic  # made once, for all temperatures
        found = heated(self._die, lanes, lambda hot: powers(retuned(base, self.models, hot)))
        return _kept(retuned(base, self.models, found.lanes), found)

    @cached_property
    def _die(self) -> Die:
        from hearthline.core.engine.electrothermal import die_of

        return die_of(self.plan)

    # -- powers

    def _resting(self) -> Powers:
        """Of operating points, each from the last one."""
        from hearthline.core.engine.solve import SourceSweep, solve

        last: list[np.ndarray] = []

        def powers(system: System) -> np.ndarray:
            if last:  # at other temperatures it is not far
                system = replace(system, guesses=last.pop())
            found = solve(system, SourceSweep(), self.tolerances)
            last.append(np.pad(np.nan_to_num(found.kept[:, 0]), ((0, 0), (1, 0))))
            ended = [outcome == Outcome.SOLVED for outcome in found.outcomes[:, 0]]
            return self._powers(system, [kept if fine else None for kept, fine in zip(found.kept, ended, strict=True)])

        return powers

    def _powers(self, system: System, points: list[np.ndarray | None]) -> np.ndarray:
        """Mean power of each part over the points of each lane (points, unknowns): (lanes, parts); NaN where there are none."""
        from hearthline.core.engine.dissipation import dissipated

        inside = self._inside(system)
        found = np.full((len(points), len(self.plan.parts)), np.nan)
        for lane, some in enumerate(points):
            if some is not None:
                found[lane] = dissipated(system, lane, some, self.tolerances).mean(axis=0) @ inside
        return found

    def _inside(self, system: System) -> np.ndarray:
        """1 where a dissipator is, or stands in, a part (dissipators, parts). Raises PlanError."""
        from hearthline.core.engine.dissipation import dissipators
        from hearthline.core.engine.lanes import is_in

        names, parts = dissipators(system), self.plan.parts
        inside = np.array([[is_in(name, part) for part in parts] for name in names], float).reshape(len(names), -1)
        for k, part in enumerate(parts):
            if not inside[:, k].any():
                there = any(is_in(one.name, part) for one in system.netlist.elements)
                known = ", ".join(dict.fromkeys(names)) or "none"
                message = "it turns no power into heat" if there else "it is not in the circuit"
                raise PlanError(f"{message}; parts that do are {known}", part, "part")
        return inside

    # -- what is told

    def along(self, system: System, rows: np.ndarray, columns: Mapping[int, int], ambient: np.ndarray) -> Heated:
        """Of a system that moves, at rows (rows, kept unknowns), with the place of each unknown among these, in surroundings
        of these temperatures (rows,) [K]."""
        from hearthline.core.engine.electrothermal import heated_along

        on_die, place = self._on_die(Pace.HELD), {one.name: k for k, one in enumerate(system.unknowns)}
        flows, states, backs = (
            rows[:, [columns[place[name]] for name in names]] for names in (on_die.flows, on_die.states, on_die.backs)
        )
        return heated_along(self._die, ambient, flows, states.reshape(len(rows), -1, len(self.plan.parts)), backs)

    def said(self, system: System) -> tuple[str, ...]:
        """Of the time constants that a system follows with."""
        if not self.moves(system):
            return ()
        found, behind = self._die.following, self._die.plan.die.resistance
        first, last = (write(float(one), "s", 3) for one in (found.times.min(), found.times.max()))
        within = f"within {100.0 * found.error:.2g} % of the series at any frequency"
        said = [f"heat follows with {len(found.times)} time constants from {first} to {last}, {within}"]
        if behind:
            slowest = write(float(found.through.times.max()), "s", 3)
            off = f"within {100.0 * found.through.error:.2g} % of the exact line at any frequency"
            said.append(f"what lies behind the die follows with up to {slowest}, {off}")
        return tuple(said)

    def beyond(self, peaks: np.ndarray) -> tuple[str, ...]:
        """Of peaks of fingers (..., fingers) [°C], which part is hotter than models are for, and where."""
        hottest = self.models.hottest
        each = np.nan_to_num(peaks.reshape(-1, peaks.shape[-1]), nan=-np.inf).max(axis=0)
        if hottest is None or not (each > hottest).any():
            return ()
        finger = int(np.argmax(each))
        owner = int(self.plan.owners[finger])
        number = finger - int(np.flatnonzero(self.plan.owners == owner)[0]) + 1
        part = self.plan.parts[owner]
        words = (
            f"{part} reaches {each[finger]:.4g} °C in its finger {number}; its models are for up to {hottest:.4g} °C"
        )
        return (f"{words}, and say little beyond that",)

    def unknowns(self, system: System) -> list[int]:
        """Those that temperatures are told from, where they follow in time."""
        return [k for k, one in enumerate(system.unknowns) if HEAT in one.name]

    def curves(
        self, found: Heated, wide: Callable[[np.ndarray], np.ndarray]
    ) -> tuple[dict[str, np.ndarray], dict[str, str]]:
        """What is told of temperatures, each made as `wide` as the others are, and units."""
        curves: dict[str, np.ndarray] = {}
        units: dict[str, str] = {}
        place = 0
        for k, one in enumerate(self.plan.sources):
            mine = slice(place, place + one.fingers)
            curves[temperature_label(one.part)] = wide(found.celsius[:, k])
            curves[peak_label(one.part)] = wide(found.peaks[:, mine].max(axis=1))
            for number in range(1, one.fingers + 1):
                curves[power_label(one.part, number)] = wide(found.powers[:, k] / one.fingers)
                curves[hot_label(one.part, number)] = wide(found.fingers[:, place + number - 1])
                units[power_label(one.part, number)] = "W"
            place += one.fingers
        return curves, {label: units.get(label, "°C") for label in curves}


def _kept(system: System, found: Heated | None) -> System:
    """With what was found of its temperatures."""
    system.__dict__[KEPT] = found
    return system
