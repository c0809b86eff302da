"""A bench when something that it speaks of gets another name: its formulas, its analyses and what is tied to pins follow."""

from __future__ import annotations

import re
from dataclasses import replace
from typing import Any

from hearthline.core.analyses import kind
from hearthline.core.analyses.line import Analysis
from hearthline.core.bench.bench import Bench, Reading
from hearthline.core.data.renaming import ANALYSIS, NET, PART, WORD, renamed


def with_analysis_renamed(bench: Bench, old: str, new: str) -> Bench:
    """An analysis, and all that is taken from it."""

    def moved(item: Any) -> Any:
        return replace(item, analysis=new) if item.analysis == old else item

    analyses = tuple(replace(one, name=new) if one.name == old else one for one in bench.analyses)
    bench = _formulas(bench, ANALYSIS, old, new)
    watches, readings = tuple(map(moved, bench.watches)), tuple(map(moved, bench.readings))
    return replace(bench, analyses=analyses, watches=watches, readings=readings)


def with_reading_renamed(bench: Bench, old: str, new: str) -> Bench:
    """A reading, its limits, and the formulas that use it."""
    bench = _formulas(bench, WORD, Reading(old, "").word, Reading(new, "").word)
    return replace(
        bench,
        readings=tuple(replace(one, name=new) if one.name == old else one for one in bench.readings),
        specifications=tuple(replace(s, reading=new) if s.reading == old else s for s in bench.specifications),
        statistical=tuple(replace(s, reading=new) if s.reading == old else s for s in bench.statistical),
    )


def with_stimulus_renamed(bench: Bench, old: str, new: str) -> Bench:
    """A stimulus, the analyses that it drives, formulas of its current and of it as the axis of a sweep."""
    stimuli = tuple(replace(one, name=new) if one.name == old else one for one in bench.stimuli)
    others = [*bench.point.parameters, *bench.grid.parameters, *(one.word for one in bench.readings)]
    if old.lower() not in [name.lower() for name in others]:
        bench = _formulas(bench, WORD, old, new)
    return with_part_renamed(replace(bench, stimuli=stimuli), old, new)


def with_part_renamed(bench: Bench, old: str, new: str) -> Bench:
    """What is said of a part of the cell: its quantities, its current, what is inside of it."""
    bench = _formulas(bench, PART, old, new)
    return replace(
        bench,
        analyses=tuple(_settings(one, (kind.SOURCE, kind.SWEPT), old, new) for one in bench.analyses),
        tolerances=tuple(replace(one, part=_within(one.part, old, new)) for one in bench.tolerances),
        statistical=tuple(
            replace(one, at={_within(name, old.lower(), new.lower()): z for name, z in one.at.items()})
            for one in bench.statistical
        ),
    )


def _within(name: str, old: str, new: str) -> str:
    """A flat name, or what stands behind one, when the part that it begins with is called otherwise."""
    first, dot, rest = name.partition(".")
    return f"{new}{dot}{rest}" if first.lower() == old.lower() else name


def with_pin_renamed(bench: Bench, old: str, new: str) -> Bench:
    """What is tied to a pin of the cell, and what is said of its net."""
    bench = _formulas(bench, NET, old, new)

    def follow(pin: str) -> str:
        return new if pin == old else pin

    return replace(
        bench,
        stimuli=tuple(replace(s, pin=follow(s.pin), to=follow(s.to)) for s in bench.stimuli),
        analyses=tuple(_settings(one, (kind.NET,), old, new) for one in bench.analyses),
    )


def _formulas(bench: Bench, kind: str, old: str, new: str) -> Bench:
    def moved(item: Any) -> Any:
        return replace(item, formula=renamed(item.formula, kind, old, new))

    return replace(
        bench, watches=tuple(map(moved, bench.watches)), readings=tuple(map(moved, bench.readings))
    )  # fmt: skip


def _settings(analysis: Analysis, kinds: tuple[str, ...], old: str, new: str) -> Analysis:
    """With what names something of these kinds exchanged."""
    pattern = rf"(?i)(?<![\w.]){re.escape(old)}(?![\w.(])"
    which = {one.word for one in analysis.of.settings if one.kind in kinds}
    settings = {
        word: re.sub(pattern, lambda _: new, text) if word in which else text
        for word, text in analysis.settings.items()
    }
    return replace(analysis, settings=settings)


def with_surroundings_renamed(bench: Bench, old: str, new: str) -> Bench:
    """The same bench with surroundings of another name, wherever they are named; an empty one takes them off every axis."""

    def named(name: str) -> str:
        return new if name == old else name

    picked = tuple(replace(one, surroundings=named(one.surroundings)) for one in bench.grid.picked)
    axis = tuple(filter(None, map(named, bench.grid.surroundings)))
    return replace(
        bench,
        surroundings=tuple(replace(one, name=named(one.name)) for one in bench.surroundings),
        grid=replace(bench.grid, surroundings=axis, picked=picked),
        point=replace(bench.point, surroundings=named(bench.point.surroundings)),
    )
