"""What an analysis is: a line of plain settings, a run over lanes that gives labelled data, readings that fit it, and the card
that asks for it in a deck."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from contextlib import AbstractContextManager
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING, Any, ClassVar, Protocol

from hearthline.core.data.dataset import Dataset
from hearthline.core.errors import ConvergenceError, DeckError
from hearthline.core.expression import Expression

if TYPE_CHECKING:  # the engine is loaded when something is run
    import numpy as np

    from hearthline.core.analyses.circuit import Circuit
    from hearthline.core.circuit.netlist import Netlist
    from hearthline.core.engine.job import Job
    from hearthline.core.engine.lanes import Lanes
    from hearthline.core.engine.system import System
    from hearthline.core.engine.transient.run import Keeper

NUMBER, WORD, LIST = "number", "word", "list"
NET, SOURCE, SWEPT, TERMINAL, OSCILLATION, LARGE = "net", "source", "swept", "terminal", "oscillation", "large"


@dataclass(frozen=True)
class Setting:
    """One setting: its word in the line, its unit, what it means. `kind` is a number, one of `words`, a list of numbers, or the
    name of something: a net (or two with a comma), a source, a terminal, an oscillation or what else repeats in the bench, or
    what can be swept. `said` is the word in the line where that is another."""

    word: str
    unit: str
    meaning: str
    kind: str = NUMBER
    words: tuple[str, ...] = ()
    said: str = ""

    @property
    def spoken(self) -> str:
        """The word in the line."""
        return self.said or self.word


@dataclass(frozen=True)
class Ready:
    """A reading ready to be taken; `{out}`, `{in}`, `{supply}` and `{supply_net}` stand for nets and a source of the circuit,
    `{here}` and `{other}` for this analysis and another of its kind."""

    name: str
    formula: str
    note: str = ""


@dataclass(frozen=True)
class Counts:
    """What it took: Newton iterations, steps or points accepted, steps rejected."""

    iterations: int = 0
    accepted: int = 0
    rejected: int = 0


@dataclass(frozen=True)
class Piece:
    """What came out over some conditions: the dataset, what the engine said on the way, why lanes failed, what a person must
    know of the result, how long it took [s], and what it took."""

    dataset: Dataset
    log: tuple[str, ...] = ()
    failures: Mapping[int, ConvergenceError] = field(default_factory=dict)
    seconds: float = 0.0
    notes: tuple[str, ...] = ()
    counts: Counts = Counts()

    def with_data(self, **changes: Any) -> Piece:
        """The same with parts of its dataset exchanged; what is of the lanes in its wave too."""
        wave = self.dataset.wave
        if wave is not None:
            wave = replace(wave, **{key: changes[key] for key in ("conditions", "per_condition") if key in changes})
        return replace(self, dataset=replace(self.dataset, **{"wave": wave, **changes}))


@dataclass(frozen=True)
class Lowered:
    """An analysis lowered to its system, ready to be solved; `numbers` is how many the result will hold. `stream` solves it
    with rows handed on as they are made, where it can."""

    system: System
    numbers: float
    solve: Callable[[Job], Piece]
    stream: Callable[[Job, Keeper], Piece] | None = None


class Ask(Protocol):
    """An analysis made ready for one circuit, as its kind sees it; see `plan.Plan`."""

    @property
    def name(self) -> str:
        """What it is called."""

    @property
    def circuit(self) -> Circuit:
        """What it is asked of."""

    @property
    def settings(self) -> Mapping[str, str]:
        """Every setting as text."""

    @property
    def labels(self) -> tuple[str, ...]:
        """What is watched."""

    @property
    def everything(self) -> bool:
        """Whether all is kept, however much it is."""

    def number(self, word: str) -> float:
        """One setting."""

    def numbers(self, word: str) -> list[float]:
        """One that is a list."""

    def count(self, word: str, minimum: int) -> int:
        """One that is a whole number."""

    def beside(self, name: str) -> Ask:
        """Another analysis of the same circuit."""

    def unit_of(self, name: str) -> str:
        """Unit of what is swept."""

    def spread(self, lanes: Lanes, name: str, values: np.ndarray) -> Lanes:
        """Every lane at every value of a source, a parameter or the temperature."""

    def kept(self, system: System, lanes: int) -> tuple[list[int] | None, list[int]]:
        """Which unknowns (None: all) and variables are kept."""

    def blamed(self) -> AbstractContextManager[None]:
        """What goes wrong inside is a mistake in the line of the analysis."""


class CardLine(Protocol):
    """A line of a deck, as an analysis reads its card from it."""

    @property
    def tokens(self) -> tuple[str, ...]:
        """Its words, the card's own first."""

    def error(self, message: str) -> DeckError:
        """An error at this line."""

    def expression(self, token: str) -> Expression:
        """What a token says."""


@dataclass(frozen=True)
class DeckCard:
    """The card of an analysis in a deck, with what its circuit has: `number` of a token, the names of independent sources and
    of parameters."""

    line: CardLine
    number: Callable[[str], float]
    sources: frozenset[str]
    parameters: tuple[str, ...]

    def error(self, message: str) -> DeckError:
        """An error at its line."""
        return self.line.error(message)

    @property
    def tokens(self) -> tuple[str, ...]:
        """What stands behind the card's name."""
        return self.line.tokens[1:]


WITHIN = (
    Setting(
        "within", "", "a second source, parameter or `temperature`: everything is done at each of its values", SWEPT
    ),
    Setting("at", "V", "the values of that second one: with commas between, or as -40 to 125 step 5", LIST),
)
"""What every analysis takes behind its own."""


class AnalysisKind:
    """One kind of analysis. A new one is a file with a subclass, and a line in `ANALYSES`."""

    name: ClassVar[str]
    """The word that its line begins with."""
    meaning: ClassVar[str]
    called: ClassVar[str]
    """What a new one is called in formulas."""
    own: ClassVar[tuple[Setting, ...]] = ()
    """What it takes, in the order in which a line says it."""
    ready: ClassVar[tuple[Ready, ...]] = ()
    card: ClassVar[str] = ""
    """Its card in a deck, `.op`; nothing where a deck cannot ask for it."""
    form: ClassVar[str] = ""
    """How the card is written."""
    drivers: ClassVar[tuple[str, ...]] = ()
    """Modules of compiled code that it needs, to be compiled ahead."""

    @property
    def settings(self) -> tuple[Setting, ...]:
        """All that its line may say."""
        return (*self.own, *WITHIN)

    @property
    def table(self) -> str:
        """What its table is called in files of a deck's results."""
        return self.card.removeprefix(".")

    def setting(self, word: str) -> Setting:
        """The setting of that word; KeyError where there is none."""
        found = next((one for one in self.settings if one.word == word), None)
        if found is None:
            raise KeyError(word)
        return found

    def defaults(self, given: Mapping[str, str], circuit: Circuit) -> dict[str, str]:
        """What the circuit says about settings that were left out. Raises CircuitError for a name that it lacks."""
        return {}

    def unit(self, plan: Ask, word: str) -> str:
        """The unit of a setting."""
        return plan.unit_of(plan.settings["within"]) if word == "at" else self.setting(word).unit

    countable = True
    """Whether its points are known beforehand, and not only about."""

    def points(self, plan: Ask) -> int:
        """Points of one lane, before any array of them is made. Raises CircuitError."""
        return 1

    def lowered(self, plan: Ask, netlist: Netlist, lanes: Lanes) -> Lowered:
        """Lowered over all lanes. Raises CircuitError for what is wrong in bench or circuit."""
        raise NotImplementedError

    def of_card(self, card: DeckCard) -> dict[str, str]:
        """The settings that a card of a deck says. Raises DeckError."""
        raise NotImplementedError

    def needs(self, plan: Ask) -> tuple[str, ...]:
        """Names of the analyses whose settings it depends on too."""
        return ()

    def labels(self, system: System) -> frozenset[str]:
        """What curves there may be, by their labels."""
        unknowns = (one.label for one in system.unknowns if one.kind)
        return frozenset([*unknowns, *(one.label for one in system.variables if not one.hidden)])

    def columns(self, plan: Ask) -> Mapping[str, str]:
        """What curves are called otherwise in the table of a deck's results."""
        return {}


def text_of(value: float) -> str:
    """A number as a setting, exactly."""
    return repr(float(value))
