"""The analyses of a deck: its cards become those of a bench over its circuit, checked, lowered and ready to run."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from hearthline.core import limits
from hearthline.core.analyses import ANALYSES
from hearthline.core.analyses.kind import DeckCard
from hearthline.core.analyses.line import Analysis
from hearthline.core.analyses.plan import Plan
from hearthline.core.bench.bench import Bench, GridSetup, PointSetup
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.constants import BELOW_ZERO, ZERO_CELSIUS
from hearthline.core.elements import drives
from hearthline.core.elements.deck_line import Line
from hearthline.core.errors import AnalysisError, CircuitError, DeckError, FileError
from hearthline.core.expression import Expression
from hearthline.core.formats.deck.circuit import DeckCircuit
from hearthline.core.formats.deck.reader import Deck
from hearthline.core.formats.deck.tasks import Task
from hearthline.core.spread.pvt import Condition

CARDS = {one.card: one for one in ANALYSES.values() if one.card}


def plan(deck: Deck, celsius: float | None = None, settings: Mapping[str, float] | None = None) -> list[Task]:
    """All analyses of `deck`, at `celsius` where given, with parameters exchanged by `settings`.

    Raises FileError or CircuitError for anything wrong in the input, before anything is solved.
    """
    settings = dict(settings or {})
    for name in settings:
        if name not in deck.top.parameters:
            known = ", ".join(deck.top.parameters) or "none"
            raise FileError(f"there is no parameter '{name}'; the deck has {known}", "--set")
    if celsius is not None and celsius <= -ZERO_CELSIUS:
        raise FileError(f"{celsius:g} °C is {BELOW_ZERO}", "--temp")
    more = {name: Expression.constant(value) for name, value in settings.items()}
    circuit = DeckCircuit(Path(deck.name), deck.name, more, deck)
    circuit.checked()
    if not deck.analyses:
        *cards, last = CARDS
        raise DeckError(f"the deck asks for no analysis; write {', '.join(cards)} or {last}", deck.name)
    point = PointSetup("", repr(circuit.temperature if celsius is None else celsius))
    grid = GridSetup((point.corner,), (point.temperature,))
    analyses = tuple(_analysis(line, number, circuit) for number, line in enumerate(deck.analyses, 1))
    bench = Bench("", "", (), point, grid, analyses, deck=deck.name)
    snapshot = Snapshot(bench, {}, circuit.kit(("",)), circuit)
    conditions = snapshot.conditions()
    return [_task(snapshot, *pair, conditions, circuit) for pair in zip(deck.analyses, analyses, strict=True)]


def _analysis(line: Line, number: int, circuit: DeckCircuit) -> Analysis:
    kind, netlist = CARDS[line.head], circuit.first.netlist
    sources = frozenset(element.name for element in netlist.elements if drives(element))
    card = DeckCard(
        line, lambda token: circuit.number(line, line.expression(token)), sources, tuple(netlist.root.defined)
    )  # fmt: skip
    return Analysis(f"{kind.name}_{number}", kind.name, kind.of_card(card))


def _task(
    snapshot: Snapshot, line: Line, analysis: Analysis, conditions: tuple[Condition, ...], circuit: DeckCircuit
) -> Task:
    """One of them, lowered. Raises DeckError at its line for what only the circuit shows to be wrong in it."""
    planned = Plan(snapshot.circuit, analysis, everything=True)
    try:
        (share,) = planned.shares(conditions)
    except AnalysisError as error:
        raise line.error(error.message) from None
    except CircuitError as error:
        where = circuit.first.deck.voltage_lines.get(error.net)
        if error.line or where is None or error.net not in snapshot.circuit.netlist.initial:
            raise
        raise where.error(str(error)) from None
    if share.work.numbers > limits.NUMBERS:
        raise line.error(
            f"the table would hold {share.work.numbers:.3g} numbers, and at most {limits.NUMBERS:.3g} fit; take fewer points"
        )
    return Task(line, planned, share)
