"""The sections of the bench view: analyses, stimuli, conditions, watches, readings, specifications."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QWidget

from hearthline.app.panels.bench.line_row import LineRow, PlainLine
from hearthline.app.panels.bench.section import Section, free_name
from hearthline.app.panels.rows import chip, offer
from hearthline.app.panels.value_field import ListLine
from hearthline.core.bench.analysis import MEANINGS, Analysis, parse_analysis
from hearthline.core.bench.bench import (
    ALONE,
    CROSSED,
    PICKED,
    PointSetup,
    Reading,
    Specification,
    Stimulus,
    Watch,
)  # fmt: skip
from hearthline.core.bench.defaults import Surroundings, left_out
from hearthline.core.bench.ready import ready_for
from hearthline.core.bench.stimuli import course_of_table, parse_stimulus, text_of
from hearthline.core.bench.verdict import limits, target_of
from hearthline.core.data.formula import Formula
from hearthline.core.errors import ExpressionError, HearthlineError, QuantityError
from hearthline.core.formats.bench_file import name_problem
from hearthline.core.quantity import read, write

FIRST_NAMES = {"point": "point", "sweep": "transfer", "transient": "course", "ac": "response", "noise": "density"}


class Analyses(Section):
    """Each a line, with a button that runs it alone."""

    title = "Analyses"

    def shape(self) -> tuple:
        """Their names."""
        return self.bench.analysis_names

    def build(self) -> None:
        """A row each."""
        for analysis in self.bench.analyses:
            name = analysis.name
            line = PlainLine(analysis.text, lambda text, name=name: parse_analysis(name, text))
            line.changed.connect(lambda text, name=name: self._put(name, text))
            line.settled.connect(self.desk.documents.end_typing)
            title = self.name_line(name, self._name_problem, lambda new, name=name: self._rename(name, new))
            row = self.add(name, LineRow(f"analysis {name}", title, line, ("▸", f"run {name} alone")))
            row.removed.connect(lambda name=name: self._remove(name))
            row.acted.connect(lambda name=name: self.desk.run((name,)))
        self.offer((kind, MEANINGS[kind], lambda kind=kind: self.add_new(kind)) for kind in MEANINGS)

    def follow(self) -> None:
        """The line, and what the circuit says where the line does not."""
        try:
            around = Surroundings(self.desk.snapshot) if self.desk.snapshot else None
        except HearthlineError:
            around = None
        for analysis in self.bench.analyses:
            row = self.rows[analysis.name]
            row.line.show_text(analysis.text)
            try:
                found = left_out(analysis, around) if around else {}
                row.say("from the circuit: " + " ".join(f"{k} {v}" for k, v in found.items()) if found else "")
            except HearthlineError as error:
                row.say(str(error), wrong=True)

    def add_new(self, kind: str) -> None:
        """One with everything from the circuit."""
        new = Analysis(free_name(FIRST_NAMES[kind], self.bench.analysis_names), kind)
        self.change(f"analysis {new.name}", analyses=(*self.bench.analyses, new))
        self.desk.results.show_analysis(new.name)
        self.focus(new.name)

    def _put(self, name: str, text: str) -> None:
        new = self.bench.with_analysis(parse_analysis(name, text))
        self.desk.change_bench(new, f"{name}: {text}", f"analysis {name}")

    def _name_problem(self, name: str) -> str:
        return name_problem(name, self.bench.analysis_names)

    def _rename(self, old: str, new: str) -> None:
        bench = self.bench

        def moved(item):
            formula = Formula.parse(item.formula, bench.analysis_names).renamed(old, new)
            return replace(item, formula=formula, analysis=new if item.analysis == old else item.analysis)

        self.change(
            f"analysis {old} → {new}",
            analyses=tuple(replace(one, name=new) if one.name == old else one for one in bench.analyses),
            watches=tuple(moved(one) for one in bench.watches),
            readings=tuple(moved(one) for one in bench.readings),
        )

    def _remove(self, name: str) -> None:
        bench = self.bench
        used = [one.name for one in bench.readings if one.analysis == name or f"{name}(" in one.formula]
        used += [one.shown for one in bench.watches if one.analysis == name or f"{name}(" in one.formula]
        if used:
            self.desk.tell(HearthlineError(f"{name} is still used by {', '.join(used[:6])}; take those away first"))
            return
        self.change(f"no analysis {name}", analyses=tuple(one for one in bench.analyses if one.name != name))


class Stimuli(Section):
    """What is tied to the pins."""

    title = "Tied to the pins"

    def shape(self) -> tuple:
        """Their names, and the pins that have nothing yet."""
        return (*(one.name for one in self.bench.stimuli), "", *self._free())

    def _free(self) -> list[str]:
        top = self.desk.top
        tied = {one.pin for one in self.bench.stimuli} | {one.to for one in self.bench.stimuli}
        return [pin.name for pin in top.pins if pin.name not in tied] if top else []

    def build(self) -> None:
        """A row each."""
        for stimulus in self.bench.stimuli:
            name = stimulus.name
            line = PlainLine(text_of(stimulus), lambda text, name=name: self._parse(name, text))
            line.changed.connect(lambda text, name=name: self._put(name, text))
            line.settled.connect(self.desk.documents.end_typing)
            title = self.name_line(name, self._name_problem, lambda new, name=name: self._rename(name, new))
            tip = f"course in time of {name} from the clipboard: lines of time and value"
            row = self.add(name, LineRow(f"stimulus {name}", title, line, ("↓", tip)))
            row.removed.connect(lambda name=name: self._remove(name))
            row.acted.connect(lambda name=name: self.paste_course(name))
        self.offer((pin, f"tie something to {pin}", lambda pin=pin: self.add_new(pin)) for pin in self._free())

    def follow(self) -> None:
        """The lines."""
        for stimulus in self.bench.stimuli:
            self.rows[stimulus.name].line.show_text(text_of(stimulus))

    def _parse(self, name: str, text: str) -> Stimulus:
        found = parse_stimulus(name, text)
        pins = [pin.name for pin in self.desk.top.pins] if self.desk.top else []
        for pin in (found.pin, found.to):
            if pin and pin not in pins:
                raise ExpressionError(f"there is no pin '{pin}'; there are {', '.join(pins)}", text.find(pin) + 1)
        return found

    def add_new(self, pin: str) -> None:
        """By the kind of the pin: a supply gets its voltage, an output a load, an input a voltage."""
        kind = next((one.kind for one in self.desk.top.pins if one.name == pin), "")
        name = free_name(pin, [one.name for one in self.bench.stimuli])
        if kind == "supply":
            known = list(self.bench.point.parameters)
            new = Stimulus(name, pin, next((p for p in known if p.startswith("v")), "1.2"))
        elif kind == "output":
            new = Stimulus(f"c{name}", pin, "10f", "capacitance")
        else:
            new = Stimulus(name, pin, "0")
        self.change(f"stimulus {name}", stimuli=(*self.bench.stimuli, new))
        self.focus(new.name)

    def paste_course(self, name: str, text: str | None = None) -> None:
        """Two columns from the clipboard, or from a file, as the course in time of a source."""
        text = QGuiApplication.clipboard().text() if text is None else text
        try:
            course = course_of_table(text)
            stimulus = self.bench.stimulus(name)
            new = parse_stimulus(name, text_of(replace(stimulus, wave=course)))
        except HearthlineError as error:
            self.desk.tell(HearthlineError(f"{name}: {error}"))
            return
        self.desk.change_bench(self.bench.with_stimulus(new), f"course of {name}")

    def _put(self, name: str, text: str) -> None:
        new = self.bench.with_stimulus(parse_stimulus(name, text))
        self.desk.change_bench(new, f"{name}: {text}", f"stimulus {name}")

    def _name_problem(self, name: str) -> str:
        taken = [one.name for one in self.bench.stimuli]
        return "" if name.isidentifier() and name not in taken else f"'{name}' is no new name for a stimulus"

    def _rename(self, old: str, new: str) -> None:
        self.change(
            f"{old} → {new}", stimuli=tuple(replace(s, name=new) if s.name == old else s for s in self.bench.stimuli)
        )

    def _remove(self, name: str) -> None:
        self.change(f"no {name}", stimuli=tuple(one for one in self.bench.stimuli if one.name != name))


class Conditions(Section):
    """The axes of a run, how they come together, and conditions picked by hand."""

    title = "Conditions of a run"

    def shape(self) -> tuple:
        """Axes, picked ones, and what else could be an axis."""
        grid = self.bench.grid
        return (*grid.parameters, "", len(grid.picked), grid.how, *self._others())

    def _others(self) -> list[str]:
        """Every parameter of bench and cell that is no axis yet."""
        top = self.desk.top
        known = [*self.bench.point.parameters, *(top.parameters if top else ())]
        return [name for name in dict.fromkeys(known) if name not in self.bench.grid.parameters]

    def build(self) -> None:
        """A row for each axis, and one for each picked condition."""
        self._axis("corner", PlainLine(", ".join(self.bench.grid.corners), self._corners), fixed=True)
        self._axis("temperature", ListLine("", "°C", parameters=self._numbers), fixed=True)
        for name in self.bench.grid.parameters:
            self._axis(name, ListLine("", self._unit(name), parameters=self._numbers))
        self.offer((n, f"go through values of {n}", lambda n=n: self._add_axis(n)) for n in self._others())
        self._build_ways()
        for k, one in enumerate(self.bench.grid.picked):
            line = PlainLine(_picked_text(one), self._picked)
            line.changed.connect(lambda text, k=k: self._put_picked(k, text))
            row = self.add(f"picked {k}", LineRow(f"picked condition {k + 1}", QLabel(f"picked {k + 1}"), line))
            row.removed.connect(lambda k=k: self._remove_picked(k))
        self.offer([("pick one", "a condition by hand: corner, temperature, parameters", self._pick)])

    def _build_ways(self) -> None:
        holder = QWidget()
        row = QHBoxLayout(holder)
        row.setContentsMargins(0, 2, 0, 2)
        row.setSpacing(4)
        tips = {
            CROSSED: "every value with every other",
            ALONE: "each axis by itself, about the point",
            PICKED: "picked ones only",
        }
        for way, tip in tips.items():
            word = {CROSSED: "crossed", ALONE: "each alone", PICKED: "picked only"}[way]
            button = chip(word, lambda way=way: self._set_way(way), tip, True)
            button.setChecked(self.bench.grid.how == way)
            row.addWidget(button)
        self.count = QLabel()
        self.count.setProperty("quiet", True)
        row.addWidget(self.count)
        row.addStretch()
        self.column.addWidget(holder)

    def _axis(self, name: str, line, fixed: bool = False) -> None:
        line.changed.connect(lambda text, name=name: self._put(name, text))
        line.settled.connect(self.desk.documents.end_typing)
        row = self.add(name, LineRow(f"axis {name}", QLabel(name), line, fixed=fixed))
        if isinstance(line, ListLine):
            line.understood.connect(lambda said, wrong, row=row: row.say(said if wrong else "", wrong))
        row.removed.connect(lambda name=name: self._remove_axis(name))

    def follow(self) -> None:
        """The values, and how many conditions there are."""
        grid = self.bench.grid
        self.rows["corner"].line.show_text(", ".join(grid.corners))
        self.rows["temperature"].line.show_text(", ".join(grid.temperatures))
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
        known = self.desk.project.kit.models if self.desk.project.kit else None
        names = ListLine.split(text)
        if not names:
            raise ExpressionError("one corner or more is wanted")
        for name in names:
            if known is not None:
                known.corner(name)
        return names

    def _put(self, name: str, text: str) -> None:
        values, grid = ListLine.split(text), self.bench.grid
        if name == "corner":
            grid = replace(grid, corners=values)
        elif name == "temperature":
            grid = replace(grid, temperatures=values)
        else:
            grid = replace(grid, parameters={**grid.parameters, name: values})
        self.change(f"{name} of the run", f"axis {name}", grid=grid)

    def _add_axis(self, name: str) -> None:
        grid, top = self.bench.grid, self.desk.top
        text = self.bench.point.parameters.get(name) or (top.parameters.get(name, "1") if top else "1")
        try:
            value = read(text, self._unit(name))
            values = tuple(dict.fromkeys(f"{share * value:.6g}" for share in (0.9, 1.0, 1.1)))
        except QuantityError:
            values = (text,)
        self.change(f"axis {name}", grid=replace(grid, parameters={**grid.parameters, name: values}))
        self.focus(name)

    def _remove_axis(self, name: str) -> None:
        kept = {key: values for key, values in self.bench.grid.parameters.items() if key != name}
        self.change(f"no axis {name}", grid=replace(self.bench.grid, parameters=kept))

    def _set_way(self, way: str) -> None:
        self.change(f"conditions {way}", grid=replace(self.bench.grid, how=way))

    def _pick(self) -> None:
        grid = self.bench.grid
        new = self.desk.results.chosen
        if new is None:
            one = self.bench.point
        else:
            texts = {name: f"{value:.6g}" for name, value in new.parameters.items()}
            one = PointSetup(new.corner, f"{new.celsius:g}", texts)
        self.change("a picked condition", grid=replace(grid, picked=(*grid.picked, one)))
        self.focus(f"picked {len(grid.picked)}")

    def _picked(self, text: str) -> PointSetup:
        words = text.split()
        if len(words) < 2:
            raise ExpressionError("write corner, temperature and parameters: ss 150 vdd=1.08", len(text) + 1)
        self._corners(words[0])
        read(words[1], "°C")
        pairs = [word.partition("=") for word in words[2:]]
        for name, sign, value in pairs:
            if not sign or not value:
                raise ExpressionError(f"'{name}' should be a parameter with its value: vdd=1.08", text.find(name) + 1)
        return PointSetup(words[0], words[1], {name: value for name, _, value in pairs})

    def _put_picked(self, k: int, text: str) -> None:
        picked = list(self.bench.grid.picked)
        picked[k] = self._picked(text)
        self.change(f"picked condition {k + 1}", f"picked {k}", grid=replace(self.bench.grid, picked=tuple(picked)))

    def _remove_picked(self, k: int) -> None:
        picked = tuple(one for j, one in enumerate(self.bench.grid.picked) if j != k)
        self.change("a picked condition less", grid=replace(self.bench.grid, picked=picked))


def _picked_text(one: PointSetup) -> str:
    return " ".join([one.corner, one.temperature, *(f"{name}={value}" for name, value in one.parameters.items())])


class Watches(Section):
    """Curves to chart, of the analysis that the charts show."""

    title = "Watches"

    def shape(self) -> tuple:
        """Which there are, by analysis."""
        return (self.desk.results.analysis, len(self.bench.watches), *(k for k, _ in self._own()))

    def _own(self) -> list[tuple[int, Watch]]:
        bench, analysis = self.bench, self.desk.results.analysis
        return [(k, one) for k, one in enumerate(bench.watches) if bench.analysis_of(one) == analysis]

    def build(self) -> None:
        """A row each: its title and its formula."""
        for k, watch in self._own():
            line = PlainLine(watch.formula, self._check)
            line.changed.connect(lambda text, k=k: self._put(k, formula=text))
            line.settled.connect(self.desk.documents.end_typing)
            title = self.name_line(watch.title, lambda text: "", lambda text, k=k: self._put(k, title=text))
            title.setPlaceholderText("title")
            row = self.add(str(k), LineRow(f"watch {k + 1}", title, line))
            row.removed.connect(lambda k=k: self._remove(k))
        self.offer([("formula", "a curve by a formula", self.add_new)])

    def follow(self) -> None:
        """Formulas, and what the run says of them."""
        for k, watch in self._own():
            self.rows[str(k)].line.show_text(watch.formula)
            self.rows[str(k)].name.show_text(watch.title)

    def _check(self, text: str) -> Formula:
        return Formula.parse(text, self.bench.analysis_names)

    def add_new(self, formula: str = "V(out)") -> None:
        """One more."""
        analysis = self.desk.results.analysis
        first = self.bench.analyses and self.bench.analyses[0].name == analysis
        new = Watch(formula, analysis="" if first else analysis)
        self.change("a watch", watches=(*self.bench.watches, new))
        self.focus(str(len(self.bench.watches) - 1))

    def _put(self, k: int, **changed: str) -> None:
        watches = list(self.bench.watches)
        watches[k] = replace(watches[k], **changed)
        self.change(f"watch {k + 1}", f"watch {k}", watches=tuple(watches))

    def _remove(self, k: int) -> None:
        self.change("a watch less", watches=tuple(one for j, one in enumerate(self.bench.watches) if j != k))


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
        specifications = tuple(replace(s, reading=new) if s.reading == old else s for s in self.bench.specifications)
        readings = tuple(replace(one, name=new) if one.name == old else one for one in self.bench.readings)
        self.change(f"reading {old} → {new}", readings=readings, specifications=specifications)

    def _remove(self, name: str) -> None:
        self.change(
            f"no reading {name}",
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
            row = LineRow(f"specification {name}", QLabel(name), fields)
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
                line.told.connect(lambda problem, column, row=row: row.say(problem, bool(problem)))
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
        self.change(f"no limits of {name}", specifications=kept)
