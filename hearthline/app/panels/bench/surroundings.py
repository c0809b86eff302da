"""What the circuit of a bench may stand in: bare, on its board, in its box."""

from __future__ import annotations

from dataclasses import replace

from hearthline.app.panels.bench.line_row import LineRow, PlainLine
from hearthline.app.panels.bench.section import Section, free_name
from hearthline.app.state.housings import ENDING
from hearthline.core.bench.renaming import with_surroundings_renamed
from hearthline.core.bench.surroundings import OPEN, THROUGH, Surroundings
from hearthline.core.elements import n_port
from hearthline.core.errors import ExpressionError, HearthlineError

BARE = "bare"


class SurroundingsSection(Section):
    """A line each: which file each n-port is there. Not shown where the circuit has no n-port."""

    title = "Surroundings"

    def shape(self) -> tuple:
        """Their names, and the n-ports and files that there are."""
        return (*(one.name for one in self.bench.surroundings), "", *self._parts(), "", *self._files())

    def _parts(self) -> list[str]:
        """The circuit's n-ports."""
        snapshot = self.desk.snapshot
        try:
            elements = snapshot.netlist().elements if snapshot is not None else ()
        except HearthlineError:
            return []
        return [one.name for one in elements if one.kind == n_port.LETTER]

    def _files(self) -> list[str]:
        snapshot = self.desk.snapshot
        names = list(snapshot.kit.networks) if snapshot is not None else []
        return sorted(names, key=lambda name: not name.endswith(ENDING))  # housings first: they are what is meant most

    def build(self) -> None:
        """A row each, and the files that one could be."""
        parts = self._parts()
        self.setVisible(bool(parts or self.bench.surroundings))
        for one in self.bench.surroundings:
            name = one.name
            line = PlainLine(text_of(one), self._parse)
            line.changed.connect(lambda text, name=name: self._put(name, text))
            line.settled.connect(self.desk.documents.end_typing)
            title = self.name_line(name, self._name_problem, lambda new, name=name: self._rename(name, new))
            row = self.add(name, LineRow(f"surroundings {name}", title, line))
            row.removed.connect(lambda name=name: self._remove(name))
        if parts:
            bare = [(BARE, "the ports tied together in pairs: as if nothing were there", THROUGH)]
            files = [(file.partition(".")[0], f"with {file} as {parts[0]}", file) for file in self._files()]
            self.offer((word, tip, lambda w=word, f=file: self._add(w, f)) for word, tip, file in [*bare, *files])

    def follow(self) -> None:
        """The lines."""
        for one in self.bench.surroundings:
            self.rows[one.name].line.show_text(text_of(one))

    def _parse(self, text: str) -> dict[str, str]:
        found: dict[str, str] = {}
        for pair in filter(str.strip, text.split(",")):
            part, sign, file = (word.strip() for word in pair.partition("="))
            at = text.find(pair.strip()) + 1
            if not sign or not file:
                raise ExpressionError("write parts with what they are: box = through", at)
            if part.lower() not in self._parts():
                known = ", ".join(self._parts()) or "none"
                raise ExpressionError(f"there is no n-port '{part}' in the circuit; there is {known}", at)
            if file not in (OPEN, THROUGH, *self._files()):
                known = ", ".join([OPEN, THROUGH, *self._files()])
                raise ExpressionError(f"there is no file '{file}'; there is {known}", at)
            found[part] = file
        return found

    def _name_problem(self, name: str) -> str:
        taken = [one.name for one in self.bench.surroundings]
        return "" if name and "," not in name and name not in taken else f"'{name}' is no new name for surroundings"

    def _add(self, word: str, file: str) -> None:
        name = free_name(word, [one.name for one in self.bench.surroundings])
        new = Surroundings(name, {self._parts()[0]: file})
        grid = replace(self.bench.grid, surroundings=(*self.bench.grid.surroundings, name))
        self.change(f"surroundings {name}", surroundings=(*self.bench.surroundings, new), grid=grid)
        self.focus(name)

    def _put(self, name: str, text: str) -> None:
        files = self._parse(text)
        changed = tuple(replace(one, files=files) if one.name == name else one for one in self.bench.surroundings)
        self.change(f"{name}: {text}", f"surroundings {name}", surroundings=changed)

    def _rename(self, old: str, new: str) -> None:
        self.desk.change_bench(with_surroundings_renamed(self.bench, old, new), f"{old} → {new}")

    def _remove(self, name: str) -> None:
        bench = with_surroundings_renamed(self.bench, name, "")
        left = tuple(one for one in bench.surroundings if one.name)
        self.desk.change_bench(replace(bench, surroundings=left), f"no surroundings {name}")


def text_of(one: Surroundings) -> str:
    """As it stands in its line."""
    return ", ".join(f"{part} = {file}" for part, file in one.files.items())
