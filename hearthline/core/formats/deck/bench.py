"""A bench over a deck as a snapshot."""

from __future__ import annotations

from pathlib import Path

from hearthline.core.bench.bench import Bench
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.errors import FileError, HearthlineError
from hearthline.core.expression import Expression, parse_value
from hearthline.core.formats.deck.circuit import DeckCircuit


def snapshot_over_deck(bench: Bench, folder: Path) -> Snapshot:
    """What a run is made of; the deck lies beside the bench's file, in `folder`. Raises HearthlineError: DeckError at the line
    of the deck, `CornerError` for a corner that it does not have."""
    path = folder / bench.deck
    if not path.is_file():
        raise FileError(f"there is no deck '{bench.deck}' beside the bench's file", bench.deck)
    given = {name: _parameter(name, text) for name, text in bench.point.parameters.items()}
    picked = (name for one in bench.grid.picked for name in one.parameters)
    circuit = DeckCircuit(path, bench.deck, given, names=[*bench.grid.parameters, *picked])
    corners = corners_of(bench)
    circuit.check_corners(corners)
    circuit.checked()
    return Snapshot(bench, {}, circuit.kit(corners, bench.deck), circuit)


def _parameter(name: str, text: str) -> Expression:
    try:
        return parse_value(text, "V")
    except HearthlineError as error:
        raise HearthlineError(f"parameter {name}: {error}") from None


def corners_of(bench: Bench) -> tuple[str, ...]:
    """Every corner that a run needs."""
    picked = tuple(one.corner for one in bench.grid.picked if one.corner)
    return tuple(dict.fromkeys((*bench.grid.corners, bench.point.corner, *picked)))
