"""Reads a deck, with what it includes, into blocks of part lines, models, parameters and analyses."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path

from hearthline.core import limits
from hearthline.core.analyses import ANALYSES
from hearthline.core.circuit.netlist import Card, Place
from hearthline.core.collection import no_collection
from hearthline.core.elements import CARDS_OF, ELEMENTS
from hearthline.core.elements.deck_line import Line, unquoted
from hearthline.core.elements.part_line import PartLine
from hearthline.core.errors import DeckError, ExpressionError
from hearthline.core.expression import Expression
from hearthline.core.formats.deck.lines import read_lines, statements
from hearthline.core.models.library import library_names
from hearthline.core.models.module import Module
from hearthline.core.models.veriloga.compiler import compile_file
from hearthline.core.texts import can_be_a_file, read_text, shortened


@dataclass
class Block:
    """The top of a deck, or a `.subckt`: nodes, parameters with defaults, parts, models and blocks defined inside."""

    name: str
    line: Line | None = None
    nodes: tuple[str, ...] = ()
    inputs: dict[str, Expression] = field(default_factory=dict)
    parameters: dict[str, Expression] = field(default_factory=dict)
    parts: dict[str, PartLine] = field(default_factory=dict)
    models: dict[str, Card] = field(default_factory=dict)
    blocks: dict[str, Block] = field(default_factory=dict)
    outer: Block | None = None

    def find_block(self, name: str) -> Block | None:
        """The block of that name that can be seen from here."""
        found = self.blocks.get(name)
        return found or (self.outer.find_block(name) if self.outer else None)


@dataclass
class Deck:
    """A deck as written; analyses are lines still, in the order in which they stand."""

    top: Block
    name: str = "deck"
    analyses: list[Line] = field(default_factory=list)
    options: dict[str, tuple[Line, Expression]] = field(default_factory=dict)
    guesses: dict[str, Expression] = field(default_factory=dict)
    initial: dict[str, Expression] = field(default_factory=dict)
    voltage_lines: dict[str, Line] = field(default_factory=dict)
    temperature: tuple[Line, Expression] | None = None
    modules: dict[str, Module] = field(default_factory=dict)
    sections: list[str] = field(default_factory=list)
    """Of models, as it names them itself; a corner takes the place of each."""
    files: dict[str, str] = field(default_factory=dict)
    """Text of each file that it was read from, as it is called."""


def read(path: Path, shown: str | None = None, corner: str | None = None) -> Deck:
    """The deck at `path`, named `shown` in messages; `corner` replaces the section of every `.lib FILE SECTION`.

    Raises DeckError.
    """
    reader = _Reader(corner.lower() if corner else None)
    reader.deck.name = shown or str(path)
    with no_collection():
        reader.file(path, reader.deck.name, title=True, asked_by=None)
        return reader.finish()


def read_models(path: Path, section: str | None = None, modules: Mapping[str, Module] | None = None) -> Deck:
    """A file of model cards (no title line), the whole of it or one `.lib` section; cards may be of `modules`."""
    reader = _Reader(None)
    reader.deck.modules.update(modules or {})
    if section is None:
        reader.file(path, path.name, title=False, asked_by=None)
    else:
        reader.section(path, path.name, section, None)
    return reader.finish()


def sections(path: Path) -> tuple[str, ...]:
    """Names of the `.lib` sections of a file, in order."""
    return tuple(
        line.tokens[1].lower()
        for line in read_lines(path, path.name, title=False)
        if line.head == ".lib" and len(line.tokens) == 2
    )


class _Reader:
    """Goes through the lines; `block` is the innermost that is open."""

    def __init__(self, corner: str | None):
        self.corner = corner
        self.block = Block("top")
        self.deck = Deck(self.block)
        self.module_cards: list[tuple[Line, str]] = []
        self.open: list[tuple[Path, str]] = []
        # inside a section, .lib lines mean what they say: --corner is for those of the deck
        self.sections = 0

    def file(self, path: Path, shown: str, title: bool, asked_by: Line | None) -> None:
        with self._inside(path, "", asked_by):
            self._statements(self._open(path, shown, title, asked_by), path)

    @contextmanager
    def _inside(self, path: Path, section: str, asked_by: Line | None) -> Iterator[None]:
        """A file, or a section of one, that is being read; a section may well include another part of the same file."""
        here = (path.resolve(), section)
        if asked_by is not None and here in self.open:
            what = f"section '{section}' of '{path.name}'" if section else f"'{path.name}'"
            raise asked_by.error(f"files include each other without end: {what} includes itself; remove this line")
        if asked_by is not None and len(self.open) > limits.INCLUDES:
            raise asked_by.error(f"files include each other more than {limits.INCLUDES} deep; write some of them out")
        self.open.append(here)
        yield
        self.open.pop()

    def section(self, path: Path, shown: str, name: str, asked_by: Line | None) -> None:
        wanted, found, names = [], False, []
        inside = None
        for line in self._open(path, shown, False, asked_by):
            if line.head == ".lib" and len(line.tokens) == 2:
                inside = unquoted(line.tokens[1]).lower()
                names.append(inside)
                found |= inside == name
            elif line.head == ".endl":
                inside = None
            elif inside == name:
                wanted.append(line)
        if not found:
            message = f"there is no section '{name}' in {shown}; it has {', '.join(names) or 'none'}"
            raise asked_by.error(message) if asked_by else DeckError(message, shown)
        self.sections += 1
        with self._inside(path, name, asked_by):
            self._statements(wanted, path)
        self.sections -= 1

    def _open(self, path: Path, shown: str, title: bool, asked_by: Line | None) -> list[Line]:
        try:
            text = self.deck.files[shown] = read_text(path, shown)
            return list(statements(text, shown, title))
        except OSError as error:
            message = f"cannot read '{shown}': {error.strerror}"
            raise (
                asked_by.error(message) if asked_by else DeckError(f"cannot be read: {error.strerror}", shown)
            ) from None

    def _statements(self, lines: list[Line], path: Path) -> None:
        for line in lines:
            if line.head == ".end":
                break
            if line.head.startswith("."):
                self._card(line, path)
            else:
                self._part(line)

    def _part(self, line: Line) -> None:
        if line.head in self.block.parts:
            first = self.block.parts[line.head].line
            raise line.error(
                f"there is a part '{line.head}' already, at {first.file}:{first.number}; rename one of them"
            )
        self.block.parts[line.head] = _read_part(line)

    def _card(self, line: Line, path: Path) -> None:
        if line.head not in _CARDS:
            raise line.error(f"there is no card '{line.head}'; there are {' '.join(sorted(_CARDS))}")
        _CARDS[line.head](self, line, path)

    def include(self, line: Line, path: Path) -> None:
        shown = self._file_name(line)
        self.file(path.parent / shown, shown, False, line)

    def lib(self, line: Line, path: Path) -> None:
        shown = self._file_name(line)
        if len(line.tokens) < 3:
            raise line.error("a section is missing; write .lib FILE SECTION")
        named = unquoted(line.tokens[2]).lower()
        if self.sections:
            self.section(path.parent / shown, shown, named, line)
            return
        self.deck.sections.append(named)
        self.section(path.parent / shown, shown, self.corner or named, line)

    def _file_name(self, line: Line) -> str:
        if len(line.tokens) < 2:
            raise line.error(f'a file name is missing; write {line.head} "file"')
        name = unquoted(line.tokens[1])
        if not can_be_a_file(name):
            raise line.error(f"'{shortened(name)}' cannot be the name of a file")
        return name

    def model(self, line: Line, path: Path) -> None:
        alone, values = line.split()
        if len(alone) != 2:
            raise line.error("a model has a name and a type; write .model nch nmos (vto=0.4 kp=300u)")
        name, kind = alone[0], alone[1].upper()
        if kind not in _card_types():
            kind = kind.lower()
            self.module_cards.append((line, kind))
        if name in self.block.models:
            raise line.error(f"there is a model '{name}' already; rename one of them")
        if kind.endswith("MOS") and not _is_one(line, values.get("level")):
            raise line.error(f"MOS level {values['level'].text} is not available in this version; LEVEL=1 is")
        self.block.models[name] = Card(name, kind, values, Place(line.file, line.number))

    def veriloga(self, line: Line, path: Path) -> None:
        shown = self._file_name(line)
        if not (path.parent / shown).is_file():
            raise line.error(f"cannot read '{shown}': there is no such file")
        self.deck.files[shown] = read_text(path.parent / shown, shown)
        for module in compile_file(path.parent / shown, shown):
            self.deck.modules[module.name.lower()] = module

    def subckt(self, line: Line, path: Path) -> None:
        alone, inputs = line.split()
        alone = [token for token in alone if token not in ("params:", "params")]
        if len(alone) < 2:
            raise line.error("a block has a name and nodes; write .subckt inverter in out vdd")
        if alone[0] in self.block.blocks:
            raise line.error(f"there is a block '{alone[0]}' already; rename one of them")
        block = Block(alone[0], line, tuple(alone[1:]), inputs, outer=self.block)
        self.block.blocks[alone[0]] = block
        self.block = block

    def ends(self, line: Line, path: Path) -> None:
        if self.block.outer is None:
            raise line.error(".ends closes no block; remove it or write .subckt before")
        if len(line.tokens) > 1 and line.tokens[1] != self.block.name:
            raise line.error(f".ends {line.tokens[1]} closes block '{self.block.name}'; write .ends {self.block.name}")
        self.block = self.block.outer

    def param(self, line: Line, path: Path) -> None:
        alone, values = line.split()
        if alone or not values:
            raise line.error("parameters are written .param name=value")
        self.block.parameters.update(values)

    def options(self, line: Line, path: Path) -> None:
        self.deck.options.update({name: (line, value) for name, value in line.split()[1].items()})

    def temp(self, line: Line, path: Path) -> None:
        if len(line.tokens) != 2:
            raise line.error("one temperature in degrees Celsius is wanted; write .temp 85")
        self.deck.temperature = (line, line.expression(line.tokens[1]))

    def nodeset(self, line: Line, path: Path) -> None:
        self._voltages(line, self.deck.guesses)

    def initial(self, line: Line, path: Path) -> None:
        self._voltages(line, self.deck.initial)

    def _voltages(self, line: Line, given: dict[str, Expression]) -> None:
        given.update(found := _voltages(line))
        self.deck.voltage_lines.update(dict.fromkeys(found, line))

    def analysis(self, line: Line, path: Path) -> None:
        self.deck.analyses.append(line)

    def finish(self) -> Deck:
        if self.block.outer is not None and self.block.line is not None:
            raise self.block.line.error(
                f"block '{self.block.name}' is not closed; write .ends {self.block.name} after it"
            )
        for line, kind in self.module_cards:
            if kind not in self.deck.modules and kind not in library_names():
                known = ", ".join([*_card_types(), *library_names(), *self.deck.modules])
                raise line.error(
                    f"there is no model type '{kind}'; there are {known}; a Verilog-A module is loaded with .veriloga"
                )
        return self.deck


def _read_part(line: Line) -> PartLine:
    kind = ELEMENTS.get(line.head[0].upper())
    if kind is None or kind.deck is None:
        letters = " ".join(letter for letter, one in ELEMENTS.items() if one.deck is not None)
        raise line.error(f"'{line.head}' begins with no letter of a part; parts are {letters} and cards begin with '.'")
    return kind.deck.read(line)


def _card_types() -> tuple[str, ...]:
    """Types of model cards that the trade knows."""
    return tuple(name for names in CARDS_OF.values() for name in names)


def _voltages(line: Line) -> dict[str, Expression]:
    """`v(out)=0.6 v(in)=0` as nets and values."""
    tokens = [token for token in line.tokens[1:] if token not in ("v", "=")]
    if not tokens or len(tokens) % 2:
        raise line.error(f"voltages are written {line.head} v(out)=0.6")
    return {node: line.expression(value) for node, value in zip(tokens[::2], tokens[1::2], strict=True)}


def _is_one(line: Line, level: Expression | None) -> bool:
    """Whether a MOS level is 1, written as a number, or not given."""
    try:
        return level is None or (not level.names and level.value({}) == 1.0)
    except ExpressionError as error:
        raise line.error(f"level: {error}") from None


_CARDS: dict[str, Callable[[_Reader, Line, Path], None]] = {
    ".include": _Reader.include, ".inc": _Reader.include, ".lib": _Reader.lib, ".model": _Reader.model,
    ".subckt": _Reader.subckt, ".ends": _Reader.ends, ".param": _Reader.param, ".options": _Reader.options,
    ".option": _Reader.options, ".temp": _Reader.temp, ".nodeset": _Reader.nodeset, ".ic": _Reader.initial,
    ".veriloga": _Reader.veriloga, **{one.card: _Reader.analysis for one in ANALYSES.values() if one.card},
}  # fmt: skip
