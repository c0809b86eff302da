"""What is tied to the pins of the cell under test."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PyQt6.QtGui import QGuiApplication

from hearthline.app.panels.bench.line_row import LineRow, PlainLine
from hearthline.app.panels.bench.section import Section, free_name
from hearthline.app.panels.rows import offer
from hearthline.core.bench.bench import Stimulus
from hearthline.core.bench.renaming import with_stimulus_renamed
from hearthline.core.bench.stimuli import parse_stimulus, text_of, waveform_of_table
from hearthline.core.errors import ExpressionError, FileError, HearthlineError

MOST_OFFERED = 24
"""Nets of a deck that have a button."""


class Stimuli(Section):
    """What is tied to the pins."""

    title = "Stimuli and loads"

    def shape(self) -> tuple:
        """Their names, and the pins that have nothing yet."""
        return (*(one.name for one in self.bench.stimuli), "", *self._free())

    def _free(self) -> list[str]:
        tied = {one.pin for one in self.bench.stimuli} | {one.to for one in self.bench.stimuli}
        return [end for end in self._ends() if end not in tied and "." not in end][:MOST_OFFERED]

    def _ends(self) -> list[str]:
        """What something may be tied to: pins of the cell, or nets of the deck."""
        top, snapshot = self.desk.top, self.desk.snapshot
        if top is not None:
            return [pin.name for pin in top.pins]
        return list(snapshot.written.circuit("").nets) if snapshot is not None and snapshot.written is not None else []

    def build(self) -> None:
        """A row each."""
        for stimulus in self.bench.stimuli:
            name = stimulus.name
            line = PlainLine(text_of(stimulus), lambda text, name=name: self._parse(name, text))
            line.changed.connect(lambda text, name=name: self._put(name, text))
            line.settled.connect(self.desk.documents.end_typing)
            title = self.name_line(name, self._name_problem, lambda new, name=name: self._rename(name, new))
            tip = f"waveform of {name} from the clipboard: lines of time and value"
            row = self.add(name, LineRow(f"stimulus {name}", title, line, ("↓", tip)))
            row.removed.connect(lambda name=name: self._remove(name))
            row.acted.connect(lambda name=name: self._offer_courses(name))
        self.offer((pin, f"tie something to {pin}", lambda pin=pin: self.add_new(pin)) for pin in self._free())

    def follow(self) -> None:
        """The lines."""
        for stimulus in self.bench.stimuli:
            self.rows[stimulus.name].line.show_text(text_of(stimulus))

    def _parse(self, name: str, text: str) -> Stimulus:
        found = parse_stimulus(name, text)
        pins = self._ends()
        for pin in (found.pin, found.to):
            if pin and pin not in pins:
                raise ExpressionError(f"there is no pin '{pin}'; there are {', '.join(pins)}", text.find(pin) + 1)
        return found

    def add_new(self, pin: str) -> None:
        """By the kind of the pin: a supply gets its voltage, an output a load, an input a voltage."""
        pins = self.desk.top.pins if self.desk.top is not None else ()
        kind = next((one.kind for one in pins if one.name == pin), "")
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

    def _offer_courses(self, name: str) -> None:
        """From the clipboard; where the project has CSV files, from one of those too."""
        folder = self.desk.project.folder
        files = sorted(path for place in (folder, folder / "courses") for path in place.glob("*.csv"))
        if not files:
            self.paste_course(name)
            return
        entries = [("from the clipboard", lambda: self.paste_course(name))]
        entries += [
            (f"from {path.relative_to(folder)}", lambda path=path: self._read_course(name, path)) for path in files
        ]
        offer(self.rows[name], entries)

    def _read_course(self, name: str, path: Path) -> None:
        try:
            text = path.read_text(encoding="utf-8")
        except (OSError, UnicodeDecodeError):
            self.desk.tell(FileError("cannot be read as a table of times and values", path.name))
            return
        self.paste_course(name, text)

    def paste_course(self, name: str, text: str | None = None) -> None:
        """Two columns from the clipboard, or from a file, as the waveform of a source."""
        text = QGuiApplication.clipboard().text() if text is None else text
        try:
            waveform = waveform_of_table(text)
            stimulus = self.bench.stimulus(name)
            new = parse_stimulus(name, text_of(replace(stimulus, wave=waveform)))
        except HearthlineError as error:
            self.desk.tell(HearthlineError(f"{name}: {error}"))
            return
        self.desk.change_bench(self.bench.with_stimulus(new), f"waveform of {name}")

    def _put(self, name: str, text: str) -> None:
        new = self.bench.with_stimulus(parse_stimulus(name, text))
        self.desk.change_bench(new, f"{name}: {text}", f"stimulus {name}")

    def _name_problem(self, name: str) -> str:
        taken = [one.name for one in self.bench.stimuli]
        return "" if name.isidentifier() and name not in taken else f"'{name}' is no new name for a stimulus"

    def _rename(self, old: str, new: str) -> None:
        self.desk.change_bench(with_stimulus_renamed(self.bench, old, new), f"{old} → {new}")

    def _remove(self, name: str) -> None:
        self.change(f"no {name}", stimuli=tuple(one for one in self.bench.stimuli if one.name != name))
