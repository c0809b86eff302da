"""Limits and targets of readings."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtWidgets import QHBoxLayout, QWidget

from hearthline.app.panels.bench.line_row import LineRow, PlainLine
from hearthline.app.panels.bench.section import Section
from hearthline.app.panels.label import Label
from hearthline.core.bench.bench import Specification
from hearthline.core.bench.verdict import limits, target_of


class Specifications(Section):
    """Limits and targets of readings."""

    title = "Specifications"

    def shape(self) -> tuple:
        """Which readings have one, and which could."""
        return (*(one.reading for one in self.bench.specifications), "", *(one.name for one in self.bench.readings))

    def build(self) -> None:
        """Three fields each: at least, at most, target."""
        for spec in self.bench.specifications:
            name = spec.reading
            fields = QWidget()
            row_of_fields = QHBoxLayout(fields)
            row_of_fields.setContentsMargins(0, 0, 0, 0)
            row_of_fields.setSpacing(4)
            row = LineRow(f"specification {name}", Label(name), fields)
            row.fields = {}
            for end, word in (("low", "at least"), ("high", "at most"), ("target", "target")):
                line = PlainLine(
                    getattr(spec, end), lambda text, name=name, end=end: self._check(name, end, text), live=True
                )
                line.setPlaceholderText(word)
                line.setToolTip(word)
                line.setAccessibleName(f"{name} {word}")
                line.changed.connect(lambda text, name=name, end=end: self._put(name, end, text))
                line.settled.connect(self.desk.documents.end_typing)
                line.understood.connect(row.say)
                row.fields[end] = line
                row_of_fields.addWidget(line)
            self.add(name, row)
            row.removed.connect(lambda name=name: self._remove(name))
        taken = [one.reading for one in self.bench.specifications]
        free = [one.name for one in self.bench.readings if one.name not in taken]
        self.offer(((n, f"limits for {n}", lambda n=n: self._add(n)) for n in free), "limits for …")

    def follow(self) -> None:
        """The limits."""
        for spec in self.bench.specifications:
            for end, line in self.rows[spec.reading].fields.items():
                line.show_text(getattr(spec, end))

    def _unit(self, name: str) -> str:
        numbers = self.desk.results.numbers.get(name)
        reading = self.desk.results.reading(name)
        return numbers.unit if numbers and numbers.unit else reading.unit if reading else ""

    def _check(self, name: str, end: str, text: str) -> None:
        spec = next(one for one in self.bench.specifications if one.reading == name)
        new = replace(spec, **{end: text})
        limits(new, self._unit(name))
        target_of(new, self._unit(name))

    def _put(self, name: str, end: str, text: str) -> None:
        spec = next(one for one in self.bench.specifications if one.reading == name)
        self.desk.change_limit(replace(spec, **{end: text}), f"limit {name} {end}")

    def _add(self, name: str) -> None:
        self.change(f"limits of {name}", specifications=(*self.bench.specifications, Specification(name)))

    def _remove(self, name: str) -> None:
        kept = tuple(one for one in self.bench.specifications if one.reading != name)
        self.change(f"limits of {name} removed", specifications=kept)
