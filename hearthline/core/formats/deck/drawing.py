"""A deck as drawn cells: every `.subckt` and the top become cells whose parts are placed and wired."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import replace

from hearthline.core.circuit.cell import Cell, Part, Pin
from hearthline.core.circuit.edit.arrange import GROUNDS, arranged, is_supply
from hearthline.core.circuit.edit.blocks import used_parameters, with_body
from hearthline.core.circuit.flatten import Library
from hearthline.core.elements import ELEMENTS
from hearthline.core.elements.part_line import PartLine
from hearthline.core.elements.wave import Wave
from hearthline.core.errors import QuantityError
from hearthline.core.expression import Expression
from hearthline.core.formats.deck.reader import Block, Deck
from hearthline.core.quantity import field_text, read_deck

_DECK_NUMBER = re.compile(r"(?<![\w.])(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?[A-Za-zµ]*")


def cells_of_deck(deck: Deck, library: Library, name: str, file: str) -> tuple[Cell, ...]:
    """The blocks of a deck as cells, the innermost first, and its top under `name` where it has parts. Blocks of other
    files, such as those of a kit, only come where they are used and the kit has no device of the name.

    Raises DeckError at a part that cannot be drawn: a device that the kit does not have, or an expression source.
    """
    found: dict[str, Cell] = {}
    for block in deck.top.blocks.values():
        if block.line is not None and block.line.file == file:
            _add(block, library, found)
    if deck.top.parts:
        for part in deck.top.parts.values():
            inner = deck.top.find_block(part.model) if part.kind == "X" and part.model not in library.devices else None
            if inner is not None:
                _add(inner, library, found)
        found[name] = _cell(deck.top, name, (), library, found)
    return tuple(found.values())


def _add(block: Block, library: Library, found: dict[str, Cell]) -> None:
    """A block, after the blocks that it is made of."""
    if block.name in found:
        return
    for part in block.parts.values():
        inner = block.find_block(part.model) if part.kind == "X" and part.model not in library.devices else None
        if inner is not None and inner is not block:
            _add(inner, library, found)
    found[block.name] = with_body(_cell(block, block.name, block.nodes, library, found))


def _cell(block: Block, name: str, nodes: tuple[str, ...], library: Library, cells: Mapping[str, Cell]) -> Cell:
    library = Library({**library.cells, **cells}, library.devices, library.templates, library.modules, library.networks)
    parts: list[Part] = []
    nets: dict[tuple[str, str], str] = {}
    for line in block.parts.values():
        part = _part(line, block, library)
        parts.append(part)
        terminals = [terminal for terminal, _ in library.terminals(part)]
        if len(terminals) != len(line.nodes):
            raise line.line.error(
                f"{line.name} has {len(line.nodes)} nodes and {part.device} has {len(terminals)} ({' '.join(terminals)})"
            )
        nets |= {(part.name, terminal): net for terminal, net in zip(terminals, line.nodes, strict=True)}
    pins = tuple(Pin(node, _pin_kind(node, nets), (0, 0)) for node in nodes)
    drawn = arranged(name, parts, nets, pins, library)
    known = {key: _text(value) for key, value in {**block.inputs, **block.parameters}.items()}
    used = used_parameters(drawn, known) if block.outer is None else known
    return replace(drawn, parameters=used)


def _pin_kind(node: str, nets: Mapping[tuple[str, str], str]) -> str:
    if is_supply(node):
        return "supply"
    if node in GROUNDS:
        return "ground"
    touching = {terminal for (_, terminal), net in nets.items() if net == node}
    if touching and touching <= {"g", "b", "cp", "cn"}:
        return "input"
    driven = bool(touching & {"d", "c"}) and not touching & {"g", "b"}
    return "output" if driven or node.startswith(("out", "q", "y", "vo")) else "inout"


def _part(line: PartLine, block: Block, library: Library) -> Part:
    return Part(line.name.upper(), _device(line, block, library), (0, 0), values=_values(line, block))


def _device(line: PartLine, block: Block, library: Library) -> str:
    kind = ELEMENTS[line.kind]
    if not line.drawable:
        raise line.line.error(f"{line.name} cannot be drawn: there is no symbol for this form of part")
    if kind.title in kind.symbols:
        return kind.title
    name = line.model
    known = {key.lower(): key for key in (*library.cells, *library.devices, *library.modules)}
    if name.lower() not in known and not library.knows(Part("", name, (0, 0))):
        raise line.line.error(f"{line.name}: neither kit nor project has a device or cell '{name}'; there is "
                              f"{', '.join(sorted(known.values()))}")  # fmt: skip
    return known.get(name.lower(), name)


def _values(line: PartLine, block: Block) -> dict[str, str]:
    values = {name: _text(value) for name, value in line.values.items()}
    kind = ELEMENTS[line.kind]
    if kind.of_card:
        card = block.models.get(line.model)
        values = {name: _text(value) for name, value in (card.values.items() if card else ()) if name in kind.of_card}
    if line.control:
        values[kind.controls] = line.control.upper()
    if line.wave is not None:
        values["wave"] = _wave(line.wave)
    return values


def _wave(wave: Wave) -> str:
    return f"{wave.kind}({' '.join(_text(number) for number in wave.numbers)})"


def _text(expression: Expression) -> str:
    """A value of a deck as it is typed into a field."""
    if isinstance(expression.tree, float):
        return field_text(expression.tree)

    def rewrite(match: re.Match) -> str:
        try:
            return field_text(read_deck(match[0]))
        except QuantityError:
            return match[0]

    return _DECK_NUMBER.sub(rewrite, expression.text)
