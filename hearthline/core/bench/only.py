"""A bench with some of its analyses alone."""

from __future__ import annotations

from dataclasses import replace

from hearthline.core.bench.bench import Bench, Reading, Watch
from hearthline.core.data.formula import Formula
from hearthline.core.data.renaming import WORD, mentions


def with_only(bench: Bench, names: set[str]) -> Bench:
    """With these analyses, and only those watches, readings and specifications that can be taken from them."""

    def needed(item: Watch | Reading) -> set[str]:
        own = bench.analysis_of(item)
        return {own, *Formula.parse(item.formula, bench.analysis_names).needs(own)}

    gone = [one for one in bench.readings if not needed(one) <= names]
    kept = [one for one in bench.readings if one not in gone]
    while True:  # what is made of one that is gone goes too
        more = [one for one in kept if any(mentions(one.formula, WORD, other.word) for other in gone)]
        if not more:
            break
        gone, kept = [*gone, *more], [one for one in kept if one not in more]
    there = {one.name for one in kept}
    return replace(
        bench,
        analyses=tuple(one for one in bench.analyses if one.name in names),
        watches=tuple(replace(w, analysis=bench.analysis_of(w)) for w in bench.watches if needed(w) <= names),
        readings=tuple(replace(one, analysis=bench.analysis_of(one)) for one in kept),
        specifications=tuple(one for one in bench.specifications if one.reading in there),
    )
