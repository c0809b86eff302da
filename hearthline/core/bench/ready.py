"""Readings ready to be taken: what designers ask of a cell, as formulas of its output, input and supply that can be changed
afterwards."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from hearthline.core.bench.analysis import Analysis
from hearthline.core.bench.bench import Bench, Reading
from hearthline.core.bench.defaults import Surroundings
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.errors import HearthlineError


@dataclass(frozen=True)
class Ready:
    """A reading for a kind of analysis; `{out}`, `{in}`, `{supply}` and `{f}` stand for nets, a source and a frequency."""

    name: str
    kind: str
    formula: str
    note: str = ""


READY = (
    Ready("switching point", "sweep", "switching_point(V({out}), V({in}))", "input at which output and input are equal"),
    Ready("noise margin low", "sweep", "noise_margin_low(V({out}), V({in}))", "from the points of slope -1"),
    Ready("noise margin high", "sweep", "noise_margin_high(V({out}), V({in}))", "from the points of slope -1"),
    Ready("DC gain", "sweep", "steepest(V({out}), V({in}))", "slope where it is greatest"),
    Ready("offset", "sweep", "offset(V({out}))", "input of half the output; a reference as second argument is taken off"),
    Ready("output range", "sweep", "output_range(V({out}))", "output over which the slope is half its greatest or more"),
    Ready("peak supply current", "sweep", "peak(-I({supply}))", "the greatest current from the supply"),
    Ready("low-frequency gain", "ac", "gain(V({out}))", "magnitude at the lowest frequency"),
    Ready("gain at f", "ac", "gain(V({out}), 1e6)", "magnitude at a frequency, here 1 MHz"),
    Ready("bandwidth", "ac", "bandwidth(V({out}))", "3 dB down from the lowest frequency"),
    Ready("unity-gain frequency", "ac", "unity_gain(V({out}))", "where the magnitude falls through 1"),
    Ready("phase margin", "ac", "phase_margin(V({out}))", "of a loop gain, positive at low frequencies"),
    Ready("gain margin", "ac", "gain_margin(V({out}))", "of a loop gain"),
    Ready("CMRR", "ac", "rejection({other}(V({out})), {here}(V({out})))", "differential over common response"),
    Ready("PSRR", "ac", "rejection({other}(V({out})), {here}(V({out})))", "response to the input over that to the supply"),
    Ready("slew rate", "transient", "slew(V({out}))", "of the step, from 10 to 90 %"),
    Ready("settling time", "transient", "settling(V({out}), 0.01)", "to 1 % of the step"),
    Ready("overshoot", "transient", "overshoot(V({out}))", "beyond the end, as a share of the step"),
    Ready("delay", "transient", "delay(V({in}), V({out}))", "from half to half"),
    Ready("rise time", "transient", "rise(V({out}))", "from 10 to 90 %"),
    Ready("fall time", "transient", "fall(V({out}))", "from 90 to 10 %"),
    Ready("period", "transient", "period(V({out}))", "mean, when it has settled"),
    Ready("frequency", "transient", "frequency(V({out}))", "one over the period"),
    Ready("duty", "transient", "duty(V({out}))", "share of the period above the middle"),
    Ready("charge a cycle", "transient", "charge(-I({supply}), V({out}))", "from the supply in the last whole cycle"),
    Ready("energy a cycle", "transient", "energy(-I({supply}) * V({supply_net}), V({out}))", "in the last whole cycle"),
    Ready("average power", "transient", "average(-I({supply}) * V({supply_net}), V({out}))", "over the last whole cycle"),
    Ready("THD", "transient", "thd(V({out}), frequency(V({out})))", "total harmonic distortion, as a share"),
    Ready("SNR", "transient", "snr(V({out}), frequency(V({out})))", "signal to everything that is no harmonic"),
    Ready("integrated noise", "noise", "integrated_noise(noise.output)", "at the output, over all frequencies"),
    Ready("input noise", "noise", "integrated_noise(noise.input)", "referred to the input, over all frequencies"),
    Ready("corner frequency", "noise", "corner_frequency(noise.output)", "where flicker and white noise are equal"),
)  # fmt: skip


def ready_for(snapshot: Snapshot, kinds: Iterable[str] | None = None) -> list[Reading]:
    """The readings that fit the analyses of the bench, with its own nets; those that it has by name are left out."""
    bench = snapshot.bench
    try:
        words = _words(Surroundings(snapshot))
    except HearthlineError:
        return []
    taken, found = {one.name for one in bench.readings}, []
    for analysis in bench.analyses:
        for one in READY:
            if one.kind == analysis.kind and one.name not in taken and (kinds is None or one.kind in kinds):
                formula = _formula(one, analysis, bench, words)
                if formula:
                    taken.add(one.name)
                    found.append(Reading(one.name, formula, note=one.note, analysis=_said(analysis, bench)))
    return found


def _said(analysis: Analysis, bench: Bench) -> str:
    return "" if bench.analyses[0].name == analysis.name else analysis.name


def _formula(one: Ready, analysis: Analysis, bench: Bench, words: dict[str, str]) -> str:
    if "{other}" in one.formula:
        others = [a.name for a in bench.analyses if a.kind == "ac" and a.name != analysis.name]
        if not others:
            return ""
        words = {**words, "other": others[0], "here": analysis.name}
    if "{supply}" in one.formula and not words["supply"]:
        return ""
    return one.formula.format(**words)


def _words(around: Surroundings) -> dict[str, str]:
    supplies = [one for one in around.sources if around.is_supply(one)]
    signals = [one for one in around.sources if not around.is_supply(one)]
    given = signals[0].nets[0] if signals else "in"
    given = given if given != "0" else signals[0].nets[1]
    return {
        "out": around.output, "in": given, "supply": supplies[0].name if supplies else "",
        "supply_net": supplies[0].nets[0] if supplies else "",
    }  # fmt: skip
