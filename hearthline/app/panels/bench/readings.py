"""Numbers from the curves, each with what it is over all conditions."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from hearthline.app.panels.bench.line_row import LineRow, PlainLine
from hearthline.app.panels.bench.section import Section, free_name
from hearthline.app.panels.rows import offer
from hearthline.core.bench.bench import Reading
from hearthline.core.bench.ready import ready_for
from hearthline.core.bench.renaming import with_reading_renamed
from hearthline.core.data.formula import Formula
from hearthline.core.quantity import write


class Readings(Section):
    """Numbers from the curves, each with what it is at the nominal and over all conditions."""

    title = "Readings"

    def shape(self) -> tuple:
        """Names, and the analyses they may be of."""
        return (*(one.name for one in self.bench.readings), "", *self.bench.analysis_names)

    def build(self) -> None:
        """A row each."""
        for reading in self.bench.readings:
            name = reading.name
            line = PlainLine(reading.formula, self._check)
            line.changed.connect(lambda text, name=name: self._put(name, formula=text))
            line.settled.connect(self.desk.documents.end_typing)
            title = self.name_line(name, self._name_problem, lambda new, name=name: self._rename(name, new))
            row = self.add(
                name, LineRow(f"reading {name}", title, line, ("↗", f"show on the curves where {name} is taken"))
            )
            row.removed.connect(lambda name=name: self._remove(name))
            row.acted.connect(lambda name=name: self.show_marks(name))
        self.offer([("ready ones", "readings that fit the analyses of this bench", self._offer_ready),
                    ("formula", "a number by a formula", self.add_new)])  # fmt: skip

    def _offer_ready(self) -> None:
        entries = [(f"{one.name}: {one.formula}", lambda one=one: self.take(one)) for one in self.ready()]
        offer(self.rows[next(reversed(self.rows))] if self.rows else self, entries)

    def ready(self) -> list[Reading]:
        """Those that fit."""
        return ready_for(self.desk.snapshot) if self.desk.snapshot else []

    def take(self, reading: Reading) -> None:
        """A ready one becomes one of the bench."""
        self.change(f"reading {reading.name}", readings=(*self.bench.readings, reading))
        self.show_marks(reading.name)

    def show_marks(self, name: str) -> None:
        """Where it is taken, on the curves of its analysis."""
        reading = self.desk.results.reading(name)
        if reading is not None:
            self.desk.results.show_analysis(self.bench.analysis_of(reading))
            self.desk.results.mark("" if self.desk.results.marked == name else name)
            self.desk.show_reading.emit(name)

    def follow(self) -> None:
        """Formulas and values."""
        for reading in self.bench.readings:
            row = self.rows[reading.name]
            row.line.show_text(reading.formula)
            numbers = self.desk.results.numbers.get(reading.name)
            if numbers is None:
                row.say("")
            elif numbers.problem:
                row.say(numbers.problem, wrong=True)
            else:
                row.say(_spoken(numbers.values, numbers.unit))

    def _check(self, text: str) -> Formula:
        return Formula.parse(text, self.bench.analysis_names)

    def _name_problem(self, name: str) -> str:
        taken = [one.word for one in self.bench.readings]
        return "" if name and Reading(name, "").word not in taken else f"there is a reading '{name}' already"

    def add_new(self) -> None:
        """One by a formula."""
        name = free_name("reading", [one.name for one in self.bench.readings])
        analysis = self.desk.results.analysis
        first = self.bench.analyses and self.bench.analyses[0].name == analysis
        new = Reading(name, "peak(V(out))", analysis="" if first else analysis)
        self.change(f"reading {name}", readings=(*self.bench.readings, new))
        self.focus(name)

    def _put(self, name: str, **changed: str) -> None:
        readings = tuple(replace(one, **changed) if one.name == name else one for one in self.bench.readings)
        self.change(f"reading {name}", f"reading {name}", readings=readings)

    def _rename(self, old: str, new: str) -> None:
        self.desk.change_bench(with_reading_renamed(self.bench, old, new), f"reading {old} → {new}")

    def _remove(self, name: str) -> None:
        self.change(
            f"reading {name} removed",
            readings=tuple(one for one in self.bench.readings if one.name != name),
            specifications=tuple(one for one in self.bench.specifications if one.reading != name),
        )


def _spoken(values: np.ndarray, unit: str) -> str:
    known = values[np.isfinite(values)]
    if not len(known):
        return "no condition has it"
    if len(values) == 1:
        return f"= {write(float(values[0]), unit, 5)}"
    missing = f", {len(values) - len(known)} without" if len(known) < len(values) else ""
    return f"= {write(float(known.min()), unit, 4)} … {write(float(known.max()), unit, 4)} over {len(values)}{missing}"
