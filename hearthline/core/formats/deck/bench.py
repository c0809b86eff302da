"""A bench over a deck as a snapshot."""

from __future__ import annotations

import re
from dataclasses import replace
from pathlib import Path

from hearthline.core.bench.bench import Bench, FileBlock
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.bench.statistical import plain
from hearthline.core.circuit.netlist import GROUND, Element, Place
from hearthline.core.elements import n_port
from hearthline.core.errors import BenchError, HearthlineError
from hearthline.core.expression import Expression, parse_value
from hearthline.core.formats.deck.circuit import DeckCircuit
from hearthline.core.formats.network_files import Networks, model_of_file


def snapshot_over_deck(bench: Bench, folder: Path) -> Snapshot:
    """What a run is made of; the deck lies beside the bench's file, in `folder`. Raises DeckError at the line of the deck, and
    BenchError for a deck, corner or parameter that is not there."""
    path = folder / bench.deck
    if not path.is_file():
        raise BenchError(f"there is no deck '{bench.deck}' beside this file", "", "deck")
    given = {name: _parameter(name, text) for name, text in bench.point.parameters.items()}
    picked = (name for one in bench.grid.picked for name in one.parameters)
    circuit = DeckCircuit(path, bench.deck, given, names=[*bench.grid.parameters, *picked])
    corners = corners_of(bench)
    circuit.check_corners(corners)
    circuit.checked()
    for name in dict.fromkeys([*bench.point.parameters, *bench.grid.parameters]):
        _check_used(name, bench, circuit.names)
    blocks = tuple(_block(one, k, folder) for k, one in enumerate(bench.blocks))
    kit = replace(circuit.kit(corners, bench.deck), networks=Networks(folder))
    return Snapshot(bench, {}, kit, circuit, blocks)


def _block(block: FileBlock, index: int, folder: Path) -> Element:
    """The part that a file is. Raises FileError at the file's line, and BenchError for nets that do not go with it."""
    path = folder / block.file
    if not path.is_file():
        raise BenchError(f"there is no file '{block.file}' beside this one", "blocks", "file", index)
    model = model_of_file(path, block.file)
    ports, nets = model.network.ports, [GROUND if net.lower() == "gnd" else net.lower() for net in block.nets]
    if len(nets) not in (ports, ports + 1):
        message = f"{block.name}: {block.file} has {ports} port{'s' * (ports != 1)}, and there are {len(nets)} nets"
        raise BenchError(
            f"{message}; name one for each port, and the common one if it is not ground", "blocks", "nets", index
        )
    nets += [GROUND] * (ports + 1 - len(nets))
    place = Place(part=block.name)
    return Element(block.name.lower(), n_port.LETTER, tuple(nets), place=place, device=n_port.kind_of(model))


def _parameter(name: str, text: str) -> Expression:
    try:
        return parse_value(text, "V")
    except HearthlineError as error:
        raise BenchError(f"parameter {name}: {error}", "point", name) from None


def _check_used(name: str, bench: Bench, known: tuple[str, ...]) -> None:
    """Raises BenchError for a parameter that neither the deck has nor anything of the bench uses."""
    values = [text for one in bench.stimuli for text in (one.dc, one.wave, one.ac, one.phase)]
    values += [text for one in bench.analyses for text in one.settings.values()]
    values += list(bench.point.parameters.values())
    if name.lower() in known or any(re.search(rf"(?<!\w){re.escape(name)}(?!\w)", text) for text in values):
        return
    there = ", ".join(known) or "none"
    message = f"the deck has no parameter '{name}', and no stimulus uses it; it has {there}"
    raise BenchError(message, "grid" if name in bench.grid.parameters else "point", name)


def corners_of(bench: Bench) -> tuple[str, ...]:
    """Every corner that a run needs."""
    picked = tuple(one.corner for one in bench.grid.picked if one.corner)
    every = (*bench.grid.corners, bench.point.corner, *picked)
    return tuple(dict.fromkeys(plain(one, bench.statistical) for one in every))
