"""From a deck to a flat netlist and its models."""

from __future__ import annotations

from collections.abc import Iterator

from hearthline.core import limits
from hearthline.core.circuit.flatten import CUT
from hearthline.core.circuit.netlist import GROUND, Card, Element, Netlist, Place, Scope, Template
from hearthline.core.collection import no_collection
from hearthline.core.elements.part_line import PartLine
from hearthline.core.formats.deck.reader import Block, Deck
from hearthline.core.models.library import library_names
from hearthline.core.process.models import Corner, ModelSet


def flatten(deck: Deck, cut: tuple[str, str] = ("", "")) -> tuple[Netlist, ModelSet]:
    """The flat circuit of `deck` and its models under the corner `""`; a node of a block, `cut`, is on the net `CUT` instead of
    its own. Raises DeckError at the line to be mended."""
    _check_size(deck.top)
    root = Scope(None, deck.top.parameters)
    cards: dict[str, Card] = {}
    modules = {*deck.modules, *library_names()}
    with no_collection():
        elements = tuple(_elements(deck.top, root, "", {}, (), cards, modules, cut))
    return Netlist(elements, root, deck.guesses, deck.initial), ModelSet({"": Corner(cards, root, deck.modules)})


def _check_size(top: Block) -> None:
    """Raises DeckError at the first line that makes the circuit too large, before any of it is made."""
    known: dict[int, int] = {}

    def size(block: Block, inside: tuple[int, ...]) -> int:
        if id(block) not in known:
            total = 0
            for part in block.parts.values():
                inner = block.find_block(part.model) if part.kind == "X" else None
                if inner is None or id(inner) in inside or len(inside) > limits.DEPTH:  # the last two are told later
                    total += 1
                else:
                    total += size(inner, (*inside, id(inner)))
                if total > limits.PARTS:
                    raise part.line.error(f"the circuit has more than {limits.PARTS} parts with what its blocks hold")
            known[id(block)] = total
        return known[id(block)]

    size(top, (id(top),))


def template(block: Block, outer: dict) -> Template:
    """A block without blocks inside as a device: `outer` are the parameters of the section that it stands in."""
    parts = []
    for part in block.parts.values():
        if part.kind == "X":
            raise part.line.error("a device that is a circuit may not hold blocks; write its parts out")
        place = Place(part.line.file, part.line.number, part.name)
        model = _find_model(block, part)
        kind, nodes, values, control = part.kind, part.nodes, part.values, part.control
        parts.append(Element(part.name, kind, nodes, values, model, Scope(), place, control, part.wave, part.initial))
    process = frozenset(outer) - set(block.parameters) - set(block.inputs)
    return Template(block.name, block.nodes, block.inputs, {**outer, **block.parameters}, tuple(parts), process)


def _elements(
    block: Block,
    scope: Scope,
    prefix: str,
    outside: dict[str, str],
    path: tuple[str, ...],
    cards: dict[str, Card],
    modules: set[str],
    cut: tuple[str, str],
) -> Iterator[Element]:
    for name, card in block.models.items():
        cards[_model_key(block, name)] = card

    def net(node: str) -> str:
        return node if node == GROUND else outside.get(node, prefix + node)

    for part in block.parts.values():
        nets = tuple(net(node) for node in part.nodes)
        if part.kind == "X" and not _is_device(block, part, modules):
            yield from _inside(
                block, part, scope, prefix + part.name + ".", nets, (*path, block.name), cards, modules, cut
            )
            continue
        place = Place(part.line.file, part.line.number, part.name)
        for piece in part.pieces or (part,):
            yield Element(
                prefix + piece.name, piece.kind, tuple(net(node) for node in piece.nodes), piece.values,
                _find_model(block, piece), scope, place, " ".join(prefix + name for name in piece.control.split()),
                piece.wave, piece.initial, piece.module,
            )  # fmt: skip


def _is_device(block: Block, part: PartLine, modules: set[str]) -> bool:
    """Whether an X line places a Verilog-A module, by itself or through a model card, and no block."""
    if block.find_block(part.model) is not None:
        return False
    return part.model in modules or _find_card(block, part.model) is not None


def _inside(block: Block, part: PartLine, scope: Scope, prefix: str, nets: tuple[str, ...],
            path: tuple[str, ...], cards: dict[str, Card], modules: set[str],
            cut: tuple[str, str]) -> Iterator[Element]:  # fmt: skip
    inner = block.find_block(part.model)
    if inner is None:
        raise part.line.error(f"there is no block '{part.model}'; define it with .subckt {part.model}")
    if inner.name in path or inner is block:
        raise part.line.error(f"block '{inner.name}' contains itself ({' > '.join([*path[1:], inner.name])})")
    if len(path) > limits.DEPTH:
        raise part.line.error(f"blocks stand more than {limits.DEPTH} deep in each other")
    if len(nets) != len(inner.nodes):
        raise part.line.error(
            f"{part.name} has {len(nets)} nodes; block '{inner.name}' has {len(inner.nodes)} ({' '.join(inner.nodes)})"
        )
    known = {**inner.inputs, **inner.parameters}
    for name in part.values:
        if name not in known:
            raise part.line.error(
                f"block '{inner.name}' has no parameter '{name}'; it has {', '.join(known) or 'none'}"
            )
    inner_scope = Scope(scope, known, part.values)
    ends = {node: CUT if cut == (prefix[:-1], node) else net for node, net in zip(inner.nodes, nets, strict=True)}
    yield from _elements(inner, inner_scope, prefix, ends, path, cards, modules, cut)


def _model_key(block: Block, name: str) -> str:
    return name if block.outer is None else f"{_path(block)}:{name}"


def _path(block: Block) -> str:
    return block.name if block.outer is None or block.outer.outer is None else f"{_path(block.outer)}.{block.name}"


def _find_model(block: Block, part: PartLine) -> str:
    """The key of the model that `part` means, seen from its block outwards; an unknown name stays as it is."""
    where = _find_card(block, part.model)
    return part.model if where is None else _model_key(where, part.model)


def _find_card(block: Block, name: str) -> Block | None:
    """The block, from the given one outwards, that has a model card of that name."""
    where: Block | None = block
    while where is not None and name not in where.models:
        where = where.outer
    return where if name else None
