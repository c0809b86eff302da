"""The transient: voltages and currents over time."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import TYPE_CHECKING

from hearthline.core.analyses.kind import (
    WORD,
    AnalysisKind,
    Ask,
    Counts,
    DeckCard,
    Lowered,
    Piece,
    Ready,
    Setting,
    text_of,
)
from hearthline.core.analyses.temperatures import followed
from hearthline.core.errors import AnalysisError
from hearthline.core.quantity import field_text

if TYPE_CHECKING:
    from hearthline.core.analyses.circuit import Circuit
    from hearthline.core.circuit.netlist import Netlist
    from hearthline.core.engine.job import Job
    from hearthline.core.engine.lanes import Lanes
    from hearthline.core.engine.system import System
    from hearthline.core.engine.transient.run import Keeper, March, Times

POINTS = 2000
"""What a transient is taken to need before it has run."""
ERROR = 1e-3
"""Allowed to a step of a bench, as a share of the peak."""


class Transient(AnalysisKind):
    """Waveforms in time, each lane with steps of its own."""

    name, meaning, called = "transient", "voltages and currents over time", "course"
    own = (
        Setting("to", "s", "when it ends"),
        Setting("from", "s", "from when on it is kept"),
        Setting("step", "s", "the longest step"),
        Setting("edge", "s", "rise and fall of pulses that do not say theirs"),
        Setting("begin", "", "at the operating point, or at the initial values as given", WORD, ("point", "given")),
        Setting("rule", "", "integration: trapezoidal, or Gear's of second order", WORD, ("trap", "gear")),
        Setting("error", "", "error allowed to a step, as a share of the peak"),
    )
    ready = (
        Ready("slew rate", "slew(V({out}))", "of the step, from 10 to 90 %"),
        Ready("settling time", "settling(V({out}), 0.01)", "to 1 % of the step"),
        Ready("overshoot", "overshoot(V({out}))", "beyond the end, as a share of the step"),
        Ready("delay", "delay(V({in}), V({out}))", "from half to half"),
        Ready("rise time", "rise(V({out}))", "from 10 to 90 %"),
        Ready("fall time", "fall(V({out}))", "from 90 to 10 %"),
        Ready("period", "period(V({out}))", "mean, when it has settled"),
        Ready("frequency", "frequency(V({out}))", "one over the period"),
        Ready("duty", "duty(V({out}))", "share of the period above the middle"),
        Ready("charge a cycle", "charge(-I({supply}), V({out}))", "from the supply in the last whole cycle"),
        Ready("energy a cycle", "energy(-I({supply}) * V({supply_net}), V({out}))", "in the last whole cycle"),
        Ready("average power", "average(-I({supply}) * V({supply_net}), V({out}))", "over the last whole cycle"),
        Ready("THD", "thd(V({out}), frequency(V({out})))", "total harmonic distortion, as a share"),
        Ready("SNR", "snr(V({out}), frequency(V({out})))", "signal to everything that is no harmonic"),
    )
    card, form = ".tran", "write .tran STEP STOP [START [LONGEST STEP]] [uic]"
    drivers = ("hearthline.core.engine.drive", "hearthline.core.engine.transient.march")

    def defaults(self, given: Mapping[str, str], circuit: Circuit) -> dict[str, str]:
        """Some periods of the slowest stimulus."""
        stop = given.get("to") or field_text(float(f"{circuit.duration:.3g}"))
        said = circuit.steps
        rule, error = str(said.get("rule", "trap")), float(str(said.get("error", ERROR)))
        return {"to": stop, "from": "0", "begin": "point", "rule": rule, "error": f"{error:.6g}"}

    countable = False

    def points(self, plan: Ask) -> int:
        """About how many."""
        times = self.times(plan)
        return max(POINTS, int(min(times.stop / times.longest_step, 1e12)))

    def times(self, plan: Ask) -> Times:
        """As the engine takes them. Raises AnalysisError for times that lead nowhere."""
        from hearthline.core.engine.transient.run import Times

        name, stop, start = plan.name, plan.number("to"), plan.number("from")
        if not 0 <= start < stop:
            raise AnalysisError(name, f"a transient ends after it begins, not from {start:g} s to {stop:g} s")
        longest = plan.number("step") if "step" in plan.settings else stop / 100
        if longest <= 0:
            raise AnalysisError(name, f"the longest step is more than nothing, and is {longest:g} s")
        edge = plan.number("edge") if "edge" in plan.settings else stop / 1000
        given, rule = plan.settings["begin"] == "given", plan.settings["rule"]
        times = Times(edge, stop, start, longest, given, rule, rel=plan.number("error"))
        volts = plan.circuit.steps.get("abs_voltage")
        return times if volts is None else replace(times, abs_voltage=float(str(volts)))

    def lowered(self, plan: Ask, netlist: Netlist, lanes: Lanes) -> Lowered:
        """Rows may be handed on as they are made, and are not kept then."""
        from hearthline.core.engine.transient.labelled import dataset_of
        from hearthline.core.engine.transient.run import transient

        times, system = self.times(plan), plan.circuit.system(netlist, lanes)
        unknowns, variables = _kept(plan, system, len(lanes))
        if unknowns is not None and plan.circuit.heating is not None:
            unknowns = [*unknowns, *(k for k in plan.circuit.heating.unknowns(system) if k not in unknowns)]

        def stream(job: Job, keeper: Keeper | None) -> Piece:
            march = transient(system, times, plan.circuit.tolerances, unknowns, variables, job, keeper)
            failures = {lane: march.failure(lane) for lane in march.failed_lanes}
            data, notes = followed(plan, march, dataset_of(march))
            return Piece(
                data, tuple(march.log()), failures, march.seconds, (*march.notes(), *notes), _counts(march)
            )  # fmt: skip

        return Lowered(system, 0.0, lambda job: stream(job, None), stream)

    def of_card(self, card: DeckCard) -> dict[str, str]:
        """The print step is an upper bound where no longest step is said, and the edge of pulses."""
        tokens = [token for token in card.tokens if token != "uic"]
        if not 2 <= len(tokens) <= 4:
            raise card.error(f"a transient has a print step and an end; {self.form}")
        step, stop, start, longest = (*(card.number(token) for token in tokens), 0.0, 0.0)[:4]
        if step <= 0 or stop <= 0 or longest < 0 or not 0 <= start < stop:
            raise card.error(
                f"a transient from {start:g} s to {stop:g} s in steps of {step:g} s leads nowhere; {self.form}"
            )
        found = {"to": stop, "from": start, "edge": step, "step": longest or min(step, (stop - start) / 50.0)}
        if len(tokens) < 4:
            found["step"] = step
        return {**{word: text_of(value) for word, value in found.items()}, "begin": _begin(card)}


def _begin(card: DeckCard) -> str:
    return "given" if "uic" in card.tokens else "point"


def _kept(plan: Ask, system: System, lanes: int) -> tuple[list[int] | None, list[int]]:
    if plan.everything:  # a deck's file: voltages and currents
        return [k for k, one in enumerate(system.unknowns) if one.kind], []
    return plan.kept(system, lanes)


def _counts(march: March) -> Counts:
    start = march.start.iterations if march.start else 0
    tracks = march.tracks
    return Counts(
        start + sum(track.iterations for track in tracks),
        sum(track.accepted for track in tracks),
        sum(track.rejected for track in tracks),
    )
