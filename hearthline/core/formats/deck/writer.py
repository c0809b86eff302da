"""A drawn cell as a deck: each cell inside it a `.subckt`, every part a line in the language that the reader reads."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from hearthline.core.circuit.cell import Cell, Part
from hearthline.core.circuit.flatten import Library
from hearthline.core.circuit.netlist import GROUND
from hearthline.core.circuit.wave_text import parse_wave
from hearthline.core.elements.kind import Symbol, ValueField
from hearthline.core.errors import CircuitError, HearthlineError, QuantityError
from hearthline.core.expression import Expression, parse_value
from hearthline.core.quantity import field_text, read, read_deck

_NUMBER = re.compile(r"(?<![\w.])(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?([A-Za-zµμ]*)")


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
    given = "".join(f" {name}={_value(text, '')}" for name, text in cell.parameters.items())
    lines, places = _parts(cell, library)
    head = " ".join([".subckt", cell.name, *(pin.name.lower() for pin in cell.pins)]) + given
    return [head, *lines, ".ends"], {name: at + 1 for name, at in places.items()}


def _top(cell: Cell, library: Library) -> tuple[list[str], dict[str, int]]:
    parameters = [f".param {name}={_value(text, '')}" for name, text in cell.parameters.items()]
    lines, places = _parts(cell, library)
    return [*parameters, *lines], {name: at + len(parameters) for name, at in places.items()}


def _parts(cell: Cell, library: Library) -> tuple[list[str], dict[str, int]]:
    nets = library.connections(cell).terminals
    letters = {part.name.lower(): line_name(part, library) for part in cell.parts}
    lines, places = [], {}
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
    if isinstance(symbol, Cell):
        yield from ends
        yield symbol.name
        yield from (f"{name}={_value(text, '')}" for name, text in part.values.items())
        return
    fields = {one.name: one for one in symbol.fields}
    texts = {name: part.values.get(name, "").strip() or one.default for name, one in fields.items()}
    given = {name: text for name, text in texts.items() if text}
    if symbol.kind == "K":
        yield from (letters.get(name.lower(), name.lower()) for name in given["coils"].replace(",", " ").split())
        yield _value(given["k"], "")
        return
    yield from ends
    if symbol.takes_model:
        yield part.device.lower()
        yield from (f"{name}={_value(text, fields[name].unit)}" for name, text in given.items() if name in part.values)
    elif symbol.kind in ("V", "I"):
        yield from _source(given, fields)
    elif symbol.kind == "T":
        yield from (f"{name}={_value(text, fields[name].unit)}" for name, text in given.items())
    else:
        if "control" in given:
            yield letters.get(given["control"].lower(), given["control"].lower())
        yield from (_value(text, fields[name].unit) for name, text in given.items() if name != "control")


def _source(given: Mapping[str, str], fields: Mapping[str, ValueField]) -> Iterator[str]:
    if "wave" not in given or given.get("dc") != fields["dc"].default:
        yield f"dc {_value(given['dc'], fields['dc'].unit)}"
    if "mag" in given:
        yield " ".join(["ac", _value(given["mag"], ""), *([_value(given["phase"], "")] if "phase" in given else [])])
    if "wave" in given:
        try:
            wave = parse_wave(given["wave"])
        except HearthlineError:
            return
        yield f"{wave.kind}({' '.join(_number_text(one) for one in wave.numbers)})"


def _number_text(expression: Expression) -> str:
    return _plain(expression.tree) if isinstance(expression.tree, float) else _braced(expression.text)


def _value(text: str, unit: str) -> str:
    """A value as a deck has it: a number in its own prefixes, or an expression in braces."""
    try:
        expression = parse_value(text, unit)
    except HearthlineError:
        return f"{{{text}}}"
    if not expression.names and isinstance(expression.tree, float):
        return _deck_number(text, unit, expression.tree)
    return _braced(text)


def _deck_number(text: str, unit: str, number: float) -> str:
    """The text itself where a deck reads it the same, else the number in full."""
    plain = text.strip().replace(" ", "").replace("µ", "u").removesuffix(unit)
    try:
        if plain and read_deck(plain) == number:
            return plain.lower()
    except QuantityError:
        pass
    return _plain(number)


def _plain(number: float) -> str:
    """A number with a prefix of decks, or in full where there is none that fits."""
    text = field_text(number).replace("M", "meg")
    try:
        return text if read_deck(text) == number else repr(number)
    except QuantityError:
        return repr(number)


def _braced(text: str) -> str:
    def rewrite(match: re.Match) -> str:
        if not match[3]:
            return match[0]
        try:
            return repr(read(match[0], ""))
        except QuantityError:
            return match[0]

    return "{" + _NUMBER.sub(rewrite, text).replace(" ", "") + "}"
