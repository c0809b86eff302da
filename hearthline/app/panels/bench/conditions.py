"""The conditions of a run: axes, how they come together, and those picked by hand."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from PyQt6.QtWidgets import QHBoxLayout, QWidget

from hearthline.app.panels.bench.line_row import LineRow, PlainLine
from hearthline.app.panels.bench.section import Section
from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import chip
from hearthline.app.panels.value_field import ListLine
from hearthline.core.bench.bench import ALONE, CROSSED, PICKED, PointSetup
from hearthline.core.bench.surroundings import index_of
from hearthline.core.data.dataset import AROUND
from hearthline.core.errors import ExpressionError, HearthlineError, QuantityError
from hearthline.core.quantity import read

WAYS = {
    CROSSED: ("crossed", "every value with every other"),
    ALONE: ("each alone", "each axis by itself, about the point"),
    PICKED: ("picked only", "picked ones only"),
}
"""How axes come together: the word of the chip and its tip."""


class Conditions(Section):
    """The axes of a run, how they come together, and conditions picked by hand."""

    title = "Conditions of a run"

    def shape(self) -> tuple:
        """Axes, picked ones, and what else could be an axis."""
        grid = self.bench.grid
        names = [one.name for one in self.bench.surroundings]
        return (*grid.parameters, "", len(grid.picked), grid.how, *self._others(), *names)

    def _others(self) -> list[str]:
        """Every parameter of bench, and of cell or deck, that is no axis yet."""
        known = [*self.bench.point.parameters, *self._own()]
        return [name for name in dict.fromkeys(known) if name not in self.bench.grid.parameters]

    def _own(self) -> Mapping[str, str]:
        """The parameters of the cell, or of the deck, as text."""
        top, snapshot = self.desk.top, self.desk.snapshot
        if top is not None:
            return top.parameters
        written = snapshot.written if snapshot is not None else None
        return {name: f"{value:.6g}" for name, value in written.parameters.items()} if written is not None else {}

    def build(self) -> None:
        """A row for each axis, and one for each picked condition."""
        self._axis("corner", PlainLine(", ".join(self.bench.grid.corners), self._corners), fixed=True)
        self._axis("temperature", ListLine("", "°C", parameters=self._numbers), fixed=True)
        if self.bench.surroundings:
            self._axis(AROUND, PlainLine(", ".join(self.bench.grid.surroundings), self._around), fixed=True)
        for name in self.bench.grid.parameters:
            self._axis(name, ListLine("", self._unit(name), parameters=self._numbers))
        self.offer((n, f"go through values of {n}", lambda n=n: self._add_axis(n)) for n in self._others())
        self._build_ways()
        for k, one in enumerate(self.bench.grid.picked):
            line = PlainLine(_picked_text(one), self._picked)
            line.changed.connect(lambda text, k=k: self._put_picked(k, text))
            row = self.add(f"picked {k}", LineRow(f"picked condition {k + 1}", Label(f"picked {k + 1}"), line))
            row.removed.connect(lambda k=k: self._remove_picked(k))
        self.offer([("pick one", "a condition by hand: corner, temperature, parameters", self._pick)])

    def _build_ways(self) -> None:
        holder = QWidget()
        row = QHBoxLayout(holder)
        row.setContentsMargins(0, 2, 0, 2)
        row.setSpacing(4)
        for way, (word, tip) in WAYS.items():
            button = chip(word, lambda way=way: self._set_way(way), tip, True)
            button.setChecked(self.bench.grid.how == way)
            row.addWidget(button)
        self.count = Label()
        self.count.setProperty("quiet", True)
        row.addWidget(self.count)
        row.addStretch()
        self.column.addWidget(holder)

    def _axis(self, name: str, line, fixed: bool = False) -> None:
        line.changed.connect(lambda text, name=name: self._put(name, text))
        line.settled.connect(self.desk.documents.end_typing)
        row = self.add(name, LineRow(f"axis {name}", Label(name), line, fixed=fixed))
        if isinstance(line, ListLine):
            line.understood.connect(lambda said, wrong, row=row: row.say(said if wrong else "", wrong))
        row.removed.connect(lambda name=name: self._remove_axis(name))

    def follow(self) -> None:
        """The values, and how many conditions there are."""
        grid = self.bench.grid
        self.rows["corner"].line.show_text(", ".join(grid.corners))
        self.rows["temperature"].line.show_text(", ".join(grid.temperatures))
        if AROUND in self.rows:
            self.rows[AROUND].line.show_text(", ".join(grid.surroundings))
        for name, values in grid.parameters.items():
            self.rows[name].line.show_text(", ".join(values))
        for k, one in enumerate(grid.picked):
            self.rows[f"picked {k}"].line.show_text(_picked_text(one))
        try:
            count = len(self.desk.snapshot.conditions()) if self.desk.snapshot else 0
            self.count.setText(f"{count} condition{'s' * (count != 1)}")
        except HearthlineError as error:
            self.count.setText(str(error))

    def _numbers(self) -> dict[str, float]:
        try:
            return dict(self.desk.snapshot.condition().parameters) if self.desk.snapshot else {}
        except HearthlineError:
            return {}

    def _unit(self, name: str) -> str:
        return self.desk.snapshot.parameter_units.get(name, "") if self.desk.snapshot else ""

    def _corners(self, text: str) -> tuple[str, ...]:
        known = self.desk.snapshot.models if self.desk.project.kit and self.desk.snapshot else None
        names = ListLine.split(text)
        if not names:
            raise ExpressionError("one corner or more is wanted")
        for name in names:
            if known is not None:
                known.corner(name)
        return names

    def _around(self, text: str) -> tuple[str, ...]:
        names = ListLine.split(text)
        for name in names:
            index_of(self.bench.surroundings, name, "grid")
        return names

    def _put(self, name: str, text: str) -> None:
        values, grid = ListLine.split(text), self.bench.grid
        if name == "corner":
            grid = replace(grid, corners=values)
        elif name == AROUND:
            grid = replace(grid, surroundings=values)
        elif name == "temperature":
            grid = replace(grid, temperatures=values)
        else:
            grid = replace(grid, parameters={**grid.parameters, name: values})
        self.change(f"{name} of the run", f"axis {name}", grid=grid)

    def _add_axis(self, name: str) -> None:
        grid = self.bench.grid
        text = self.bench.point.parameters.get(name) or self._own().get(name, "1")
        try:
            value = read(text, self._unit(name))
            values = tuple(dict.fromkeys(f"{share * value:.6g}" for share in (0.9, 1.0, 1.1)))
        except QuantityError:
            values = (text,)
        self.change(f"axis {name}", grid=replace(grid, parameters={**grid.parameters, name: values}))
        self.focus(name)

    def _remove_axis(self, name: str) -> None:
        kept = {key: values for key, values in self.bench.grid.parameters.items() if key != name}
        self.change(f"axis {name} removed", grid=replace(self.bench.grid, parameters=kept))

    def _set_way(self, way: str) -> None:
        self.change(f"conditions {way}", grid=replace(self.bench.grid, how=way))

    def _pick(self) -> None:
        grid = self.bench.grid
        new = self.desk.results.chosen
        if new is None:
            one = self.bench.point
        else:
            texts = {name: f"{value:.6g}" for name, value in new.parameters.items()}
            one = PointSetup(new.corner, f"{new.celsius:g}", texts, new.around)
        self.change("picked condition added", grid=replace(grid, picked=(*grid.picked, one)))
        self.focus(f"picked {len(grid.picked)}")

    def _picked(self, text: str) -> PointSetup:
        words, _, around = text.partition(" · ")
        words = words.split()
        if around:
            index_of(self.bench.surroundings, around.strip(), "grid")
        if len(words) < 2:
            raise ExpressionError("write corner, temperature and parameters: ss 150 vdd=1.08", len(text) + 1)
        self._corners(words[0])
        read(words[1], "°C")
        pairs = [word.partition("=") for word in words[2:]]
        for name, sign, value in pairs:
            if not sign or not value:
                raise ExpressionError(f"'{name}' should be a parameter with its value: vdd=1.08", text.find(name) + 1)
        return PointSetup(words[0], words[1], {name: value for name, _, value in pairs}, around.strip())

    def _put_picked(self, k: int, text: str) -> None:
        picked = list(self.bench.grid.picked)
        picked[k] = self._picked(text)
        self.change(f"picked condition {k + 1}", f"picked {k}", grid=replace(self.bench.grid, picked=tuple(picked)))

    def _remove_picked(self, k: int) -> None:
        picked = tuple(one for j, one in enumerate(self.bench.grid.picked) if j != k)
        self.change("picked condition removed", grid=replace(self.bench.grid, picked=picked))


def _picked_text(one: PointSetup) -> str:
    words = " ".join([one.corner, one.temperature, *(f"{name}={value}" for name, value in one.parameters.items())])
    return f"{words} · {one.surroundings}" if one.surroundings else words
