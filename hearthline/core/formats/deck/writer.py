"""A drawn cell as a deck: each cell inside it a `.subckt`, every part a line in the language that the reader reads."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from hearthline.core.circuit.cell import Cell, Part
from hearthline.core.circuit.flatten import Library
from hearthline.core.circuit.netlist import GROUND
from hearthline.core.elements import ELEMENTS
from hearthline.core.elements.deck_value import value_text
from hearthline.core.elements.kind import Symbol
from hearthline.core.errors import CircuitError
from hearthline.core.tolerance import split


@dataclass(frozen=True)
class Written:
    """A deck with the line (from 1) of each part of its main cell, by the part's name."""

    text: str
    lines: Mapping[str, int]


def write_deck(cell: Cell, library: Library, models: str = "", as_block: bool = True) -> Written:
    """The deck of `cell` and the cells in it. `models` are lines that name the process, such as `.lib "lm130.lib" typ`.

    With `as_block` the cell is a `.subckt` of its pins, else its parts stand at the top. Raises CircuitError for a part
    that is not known.
    """
    lines = [f"* {cell.name}, drawn with Hearthline"]
    if models:
        lines += models.splitlines()
    for inner in _inside(cell, library, {}):
        lines += ["", *_block(inner, library)[0]]
    own, places = _block(cell, library) if as_block else _top(cell, library)
    begin = len(lines) + 2
    lines += ["", *own]
    if not as_block:
        lines.append(".end")
    return Written("\n".join(lines) + "\n", {name: begin + at for name, at in places.items()})


def _inside(cell: Cell, library: Library, seen: dict[str, Cell]) -> list[Cell]:
    """The cells in a cell, the innermost first."""
    for part in cell.parts:
        inner = library.cells.get(part.device)
        if inner is not None and library.reaches(inner.name, cell.name):
            message = f"{part.name}: {inner.name} contains {cell.name} itself; take the block out"
            raise CircuitError(message, part=part.name)
        if inner is not None and inner.name not in seen and inner.name != cell.name:
            _inside(inner, library, seen)
            seen[inner.name] = inner
    return list(seen.values())


def _block(cell: Cell, library: Library) -> tuple[list[str], dict[str, int]]:
    given = "".join(f" {name}={value_text(split(text)[0], '')}" for name, text in cell.parameters.items())
    lines, places = _parts(cell, library)
    head = " ".join([".subckt", cell.name, *(pin.name.lower() for pin in cell.pins)]) + given
    return [head, *lines, ".ends"], {name: at + 1 for name, at in places.items()}


def _top(cell: Cell, library: Library) -> tuple[list[str], dict[str, int]]:
    parameters = [f".param {name}={value_text(split(text)[0], '')}" for name, text in cell.parameters.items()]
    lines, places = _parts(cell, library)
    return [*parameters, *lines], {name: at + len(parameters) for name, at in places.items()}


def _parts(cell: Cell, library: Library) -> tuple[list[str], dict[str, int]]:
    nets = library.connections(cell).terminals
    letters = {part.name.lower(): line_name(part, library) for part in cell.parts}
    lines: list[str] = []
    places: dict[str, int] = {}
    for part in cell.parts:
        symbol = library.symbol(part)
        if symbol is None:
            continue
        places[part.name] = len(lines)
        ends = [_net(nets[part.name, name]) for name, _ in library.terminals(part)]
        for name in part.instances:
            head = _lettered(name, "X" if isinstance(symbol, Cell) else symbol.kind)
            lines.append(" ".join([head, *_rest(part, symbol, ends, letters)]))
    return lines, places


def line_name(part: Part, library: Library) -> str:
    """What a part is called in a deck: its name, behind its letter where it does not begin with it."""
    symbol = library.symbol(part)
    return _lettered(part.name, "X" if symbol is None or isinstance(symbol, Cell) else symbol.kind)


def _lettered(name: str, letter: str) -> str:
    plain = name.lower().replace("[", "_").replace("]", "")
    return plain if plain[0] == letter.lower() else f"{letter.lower()}_{plain}"


def _net(name: str) -> str:
    return name.lower() if name != GROUND else GROUND


def _rest(part: Part, symbol: Symbol | Cell, ends: list[str], letters: Mapping[str, str]) -> Iterator[str]:
    """What follows the name: nets, model or value, and further values."""
    yield from ends
    if isinstance(symbol, Cell):
        yield symbol.name
        yield from (f"{name}={value_text(split(text)[0], '')}" for name, text in part.values.items())
        return
    texts = {one.name: split(part.values.get(one.name, ""))[0].strip() or one.default for one in symbol.fields}
    given = {name: text for name, text in texts.items() if text}
    if symbol.takes_model:
        yield part.device.lower()
        given = {name: text for name, text in given.items() if name in part.values}
    form = ELEMENTS[symbol.kind].deck
    if form is None:
        message = f"{part.name} is a file of S-parameters, which no line of a deck says"
        raise CircuitError(f"{message}; let a bench over the deck have it as a block", part=part.name)
    yield from form.write(given, {one.name: one.unit for one in symbol.fields}, letters)
