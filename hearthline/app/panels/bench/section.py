"""A section of the bench view: a heading, its lines, and what can be added."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace

from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from hearthline.app.panels.bench.line_row import LineRow
from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import chip, clear, heading, offer
from hearthline.app.panels.text_line import TextLine
from hearthline.app.state.desk import Desk
from hearthline.core.bench.bench import Bench

ROOM, CHIP = 54, 5
"""Letters that fit into a row of chips, and what a chip takes beside its word."""


class Section(QWidget):
    """`build` makes the rows anew when `shape` says something else; `follow` takes texts from the document."""

    title = ""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.rows: dict[str, LineRow] = {}
        self._shape: tuple | None = None
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(1)

    @property
    def bench(self) -> Bench:
        """The current one."""
        return self.desk.bench

    def shape(self) -> tuple:
        """What decides which rows there are."""
        raise NotImplementedError

    def build(self) -> None:
        """The rows."""
        raise NotImplementedError

    def follow(self) -> None:
        """Texts and what was understood of them."""
        raise NotImplementedError

    def show_all(self, anew: bool = False) -> None:
        """Rows where they are others, then their texts."""
        shape = self.shape()
        if anew or shape != self._shape:
            self._shape = shape
            clear(self.column)
            self.rows = {}
            self.column.addWidget(heading(self.title))
            self.build()
        self.follow()

    def add(self, key: str, row: LineRow) -> LineRow:
        """One more row."""
        self.rows[key] = row
        self.column.addWidget(row)
        return row

    def offer(self, entries: Iterable[tuple[str, str, Callable[[], None]]], many: str = "more …") -> None:
        """Chips for what can be added: (word, tip, action); those that do not find room stand in a list behind `many`."""
        entries = list(entries)
        holder = QWidget()
        row = QHBoxLayout(holder)
        row.setContentsMargins(0, 2, 0, 2)
        row.setSpacing(4)
        sign = Label("+")
        sign.setProperty("quiet", True)
        row.addWidget(sign)
        room = ROOM
        while entries and len(entries[0][0]) + CHIP <= room - (0 if len(entries) == 1 else CHIP + len(many)):
            word, tip, action = entries.pop(0)
            room -= len(word) + CHIP
            row.addWidget(chip(word, action, tip))
        if entries:
            rest = [(f"{word}: {tip}", action) for word, tip, action in entries]
            button = chip(many, lambda: offer(button, rest), "what else can be added")
            row.addWidget(button)
        row.addStretch()
        self.column.addWidget(holder)
        holder.setVisible(row.count() > 2)

    def add_aside(self, button: QWidget, why: str) -> None:
        """A button in a row of its own, with a quiet word behind it."""
        holder, said = QWidget(), Label(why)
        row = QHBoxLayout(holder)
        row.setContentsMargins(0, 2, 0, 2)
        said.setProperty("quiet", True)
        row.addWidget(button)
        row.addWidget(said)
        row.addStretch()
        self.column.addWidget(holder)

    def name_line(self, name: str, problem: Callable[[str], str], put: Callable[[str], None]) -> TextLine:
        """A field for the name of a line."""
        line = TextLine(name, problem)
        line.settled.connect(put)
        return line

    def change(self, text: str, field: str = "", **changed: object) -> None:
        """Another bench, undoably."""
        self.desk.change_bench(replace(self.bench, **changed), text, field)

    def focus(self, key: str) -> None:
        """Begins to type in a line."""
        row = self.rows.get(key)
        if row is not None:
            row.line.setFocus()
            if hasattr(row.line, "selectAll"):
                row.line.selectAll()


def free_name(wanted: str, taken: Iterable[str]) -> str:
    """A name that nothing has yet."""
    taken = set(taken)
    return next(n for n in (wanted, *(f"{wanted}{k}" for k in range(2, 1000))) if n not in taken)
