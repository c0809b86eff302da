"""Readings ready to be taken: what designers ask of a cell, as formulas of its output, input and supply that can be changed
afterwards."""

from __future__ import annotations

from collections.abc import Iterable

from hearthline.core.analyses.circuit import Circuit
from hearthline.core.analyses.kind import Ready
from hearthline.core.analyses.line import Analysis
from hearthline.core.bench.bench import Bench, Reading
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.errors import HearthlineError


def ready_for(snapshot: Snapshot, kinds: Iterable[str] | None = None) -> list[Reading]:
    """The readings that fit the analyses of the bench, with its own nets; those that it has by name are left out."""
    bench = snapshot.bench
    try:
        words = _words(snapshot.circuit)
    except HearthlineError:
        return []
    taken, found = {one.name for one in bench.readings}, []
    for analysis in bench.analyses:
        for one in analysis.of.ready if kinds is None or analysis.kind in kinds else ():
            if one.name not in taken:
                formula = _formula(one, analysis, bench, words)
                if formula:
                    taken.add(one.name)
                    found.append(Reading(one.name, formula, note=one.note, analysis=_said(analysis, bench)))
    return found


def _said(analysis: Analysis, bench: Bench) -> str:
    return "" if bench.analyses[0].name == analysis.name else analysis.name


def _formula(one: Ready, analysis: Analysis, bench: Bench, words: dict[str, str]) -> str:
    if "{other}" in one.formula:
        others = [a.name for a in bench.analyses if a.kind == analysis.kind and a.name != analysis.name]
        if not others:
            return ""
        words = {**words, "other": others[0], "here": analysis.name}
    if "{supply}" in one.formula and not words["supply"]:
        return ""
    if "{of}" in one.formula:
        there = [a.name for a in bench.analyses if a.kind == "oscillation"]
        of = analysis.settings.get("of") or next(iter(there), "")
        if not of:
            return ""
        words = {**words, "of": of}
    return one.formula.format(**words)


def _words(around: Circuit) -> dict[str, str]:
    supplies = [one for one in around.sources if around.is_supply(one)]
    signals = [one for one in around.sources if not around.is_supply(one)]
    given = signals[0].nets[0] if signals else "in"
    given = given if given != "0" else signals[0].nets[1]
    return {
        "out": around.output, "in": given, "supply": supplies[0].name if supplies else "",
        "supply_net": supplies[0].nets[0] if supplies else "",
    }  # fmt: skip
