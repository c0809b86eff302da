"""An analysis made ready for one circuit: its settings as numbers, how much it will compute, and the dataset that it gives over
some conditions."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from functools import cached_property
from typing import TYPE_CHECKING, cast

import numpy as np

from hearthline.core import limits
from hearthline.core.analyses.circuit import Circuit
from hearthline.core.analyses.kind import AnalysisKind, Counts, Lowered, Piece
from hearthline.core.analyses.line import Analysis
from hearthline.core.analyses.ranges import steps_of
from hearthline.core.analyses.temperatures import warm
from hearthline.core.data.dataset import joined
from hearthline.core.errors import AnalysisError, CircuitError, ConvergenceError
from hearthline.core.spread.draws import Draws
from hearthline.core.spread.pvt import Condition

if TYPE_CHECKING:
    from hearthline.core.engine.job import Job
    from hearthline.core.engine.lanes import Lanes
    from hearthline.core.engine.system import System

ALL_BYTES, NET_BYTES = 4e6, 32e6
"""Under the first everything is kept, under the second all nets and branch currents, beyond it only what is watched."""


@dataclass(frozen=True)
class Share:
    """The work over those conditions, by their places, that have one netlist."""

    work: Lowered
    places: list[int]


@dataclass(frozen=True)
class Plan:
    """One analysis of a circuit. `labels` are what is watched; `everything` is kept however much it is; what
    is run at a time is a `share` of all its conditions. With `draws` each condition is run for each of those samples."""

    circuit: Circuit
    analysis: Analysis
    labels: tuple[str, ...] = ()
    everything: bool = False
    share: float = 1.0
    draws: Draws | None = None

    @property
    def name(self) -> str:
        """What it is called."""
        return self.analysis.name

    @property
    def kind(self) -> AnalysisKind:
        """What it is."""
        return self.analysis.of

    @cached_property
    def settings(self) -> dict[str, str]:
        """Every setting as text, those left out as the circuit says. Raises AnalysisError for a name that the circuit lacks."""
        given = self.analysis.settings
        with self.blamed():
            found = {**self.kind.defaults(given, self.circuit), **given}
        return {one.word: found[one.word] for one in self.kind.settings if found.get(one.word)}

    def beside(self, name: str) -> Plan:
        """Another analysis of the same circuit."""
        other = next(one for one in self.circuit.analyses if one.name == name)
        return replace(self, analysis=cast(Analysis, other))

    def left_out(self) -> dict[str, str]:
        """The settings that come from the circuit."""
        return {word: text for word, text in self.settings.items() if word not in self.analysis.settings}

    # -- what it gives

    def run(self, conditions: tuple[Condition, ...], job: Job) -> Piece:
        """The analysis over these conditions. Raises HearthlineError for what is wrong in the bench or circuit; a lane that
        does not converge is marked and the others stand."""
        return self.solved(list(self.shares(conditions)), job)

    def shares(self, conditions: tuple[Condition, ...]) -> Iterator[Share]:
        """The work, lowered and ready. Raises HearthlineError."""
        for netlist, places in self.circuit.parts(conditions):
            some = conditions if len(places) == len(conditions) else tuple(conditions[k] for k in places)
            lanes = self.circuit.lanes(some, self.draws)
            if len(self.outer):
                lanes = self.spread(lanes, self.settings["within"], self.outer)
            yield Share(self.kind.lowered(self, netlist, lanes), places)

    def solved(self, shares: list[Share], job: Job) -> Piece:
        """All of them, in one dataset in the order of the conditions."""
        pieces = [self._nested(one.work, warm(self, one.work.solve(job), one.work.system)) for one in shares]
        found = pieces[0] if len(pieces) == 1 else together(pieces, [one.places for one in shares], self.per_condition)
        return found.with_data(units={**self.circuit.origin.parameter_units, **found.dataset.units})

    @property
    def per_condition(self) -> int:
        """Lanes of a condition: a sample is slower than what the analysis is made within."""
        return max(1, len(self.outer)) * (self.draws.count if self.draws is not None else 1)

    def _nested(self, work: Lowered, piece: Piece) -> Piece:
        """With the values that the analysis was made within as a condition."""
        if not len(self.outer):
            return piece.with_data(per_condition=self.per_condition) if self.draws is not None else piece
        name = self.settings["within"].lower()
        column = work.system.lanes.sources.get(name)
        outside = {} if column is None else {name: column[:: len(column) // piece.dataset.lanes]}
        return piece.with_data(
            per_condition=self.per_condition, conditions={**piece.dataset.conditions, **outside},
            units={**piece.dataset.units, **({name: self.unit_of(name)} if outside else {})},
        )  # fmt: skip

    # -- settings as numbers

    def number(self, word: str) -> float:
        """One setting. Raises AnalysisError naming analysis and setting."""
        return self._number(word, self.settings[word])

    def numbers(self, word: str) -> list[float]:
        """One setting that is a list. Raises AnalysisError."""
        return [self._number(word, one.strip()) for one in self.settings[word].split(",") if one.strip()]

    def _number(self, word: str, text: str) -> float:
        with self.blamed():
            return self.circuit.origin.number(word, text, self.kind.unit(self, word))

    @contextmanager
    def blamed(self) -> Iterator[None]:
        """What goes wrong inside is a mistake in the line of the analysis."""
        try:
            yield
        except AnalysisError:
            raise
        except CircuitError as error:
            raise AnalysisError(self.analysis.name, str(error), error.part) from None

    def count(self, word: str, minimum: int) -> int:
        """One setting that is a whole number. Raises AnalysisError."""
        count = self.number(word)
        if count != int(count) or count < minimum:
            message = f"{word} is a whole number of {minimum} or more, and is {count:g}"
            raise AnalysisError(self.analysis.name, message)
        return int(count)

    def unit_of(self, name: str) -> str:
        """Unit of what is swept."""
        if name.lower() == "temperature":
            return "°C"
        source = self.circuit.source(name)
        return "A" if source is not None and source.kind == "I" else "V"

    @cached_property
    def outer(self) -> np.ndarray:
        """Values of what the analysis is made within. Raises AnalysisError."""
        if "within" not in self.settings:
            return np.zeros(0)
        name, said, text = self.analysis.name, self.settings["within"], self.settings.get("at", "")
        if not text:
            raise AnalysisError(name, f"within {said} needs its values, as in: within {said} at 1.0,1.1,1.2")
        if " to " in text:
            begin, _, end, _, step = text.split()
            first, last, each = (self._number("at", one) for one in (begin, end, step))
            return first + each * np.arange(steps_of(name, first, last, each, limits.WITHIN))
        return np.array([self._number("at", one) for one in text.split(",") if one])

    def spread(self, lanes: Lanes, name: str, values: np.ndarray) -> Lanes:
        """Every lane at every value of a source, a parameter or the temperature. Raises AnalysisError for another name."""
        if name.lower() == "temperature":
            return lanes.spread(celsius=values)
        if self.circuit.source(name) is not None:
            return lanes.spread(**{f"source:{name.lower()}": values})
        known = self.circuit.origin.known_parameters
        name = name if name in known else name.lower()
        if name not in known:
            there = ", ".join([one.name for one in self.circuit.sources] + [*known, "temperature"])
            message = f"there is no source or parameter '{name}'; there are {there}"
            raise AnalysisError(self.analysis.name, message, part=name)
        return lanes.spread(**{f"parameter:{name}": values})

    # -- how much it is

    def points(self) -> int:
        """Points of one condition, before any array of them is made."""
        return self.kind.points(self) * max(1, len(self.outer))

    def kept(self, system: System, lanes: int) -> tuple[list[int] | None, list[int]]:
        """Which unknowns (None: all) and variables are kept: everything where it is little, else nets, else what is watched."""
        from hearthline.core.engine.dc import shown_variables

        shown = shown_variables(system)
        if self.everything:
            return None, shown
        points, wanted = lanes / self.share * self.kind.points(self), set(self.labels)
        watched = [k for k, one in enumerate(system.variables) if one.label in wanted]
        if 8 * points * (len(system.unknowns) + len(shown)) < ALL_BYTES:
            return None, shown
        if 8 * points * len(system.unknowns) < NET_BYTES:
            return None, watched
        return [k for k, one in enumerate(system.unknowns) if one.label in wanted], watched


def together(pieces: list[Piece], conditions: list[list[int]], per: int) -> Piece:
    """Pieces of one analysis in the order of their conditions: those of each piece by their places, with `per` lanes each."""
    places = [place * per + k for some in conditions for place in some for k in range(per)]
    failures: dict[int, ConvergenceError] = {}
    first = 0
    for piece in pieces:
        failures |= {places[first + lane]: text for lane, text in piece.failures.items()}
        first += piece.dataset.lanes
    counts = [piece.counts for piece in pieces]
    return replace(
        pieces[0],
        dataset=joined([piece.dataset for piece in pieces], np.argsort(places)),
        log=tuple(line for piece in pieces for line in piece.log),
        failures=failures,
        seconds=sum(piece.seconds for piece in pieces),
        notes=tuple(dict.fromkeys(note for piece in pieces for note in piece.notes)),
        counts=Counts(*(sum(getattr(one, name) for one in counts) for name in ("iterations", "accepted", "rejected"))),
    )
