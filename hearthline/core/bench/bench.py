"""A bench: a cell with its surroundings, the question asked of it, and the limits of the answer. Frozen, as typed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

SHOWN = {
    "M": ("id", "gm", "vth", "sat"),
    "J": ("id", "gm", "vth", "sat"),
    "Q": ("ic", "gm", "vbe", "vce"),
    "D": ("id", "vd"),
    "R": ("i", "v"),
    "C": ("v",),
    "L": ("i",),
    "V": ("i",),
    "I": ("v",),
    "E": ("i",),
    "G": ("i",),
    "F": ("i",),
    "H": ("i",),
    "X": ("id", "i", "gm", "v"),
}
"""What stands beside the devices of each kind where a bench does not say otherwise."""


@dataclass(frozen=True)
class Stimulus:
    """A source tied to a pin of the cell, against ground. `dc` is an expression of the bench's parameters."""

    name: str
    pin: str
    dc: str
    kind: str = "voltage"


@dataclass(frozen=True)
class PointSetup:
    """The condition at which the drawing shows its operating point: corner, temperature [degC], parameters as typed."""

    corner: str
    temperature: str
    parameters: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class GridSetup:
    """What a run crosses: corners, temperatures [degC] and parameters, as typed."""

    corners: tuple[str, ...]
    temperatures: tuple[str, ...]
    parameters: Mapping[str, tuple[str, ...]] = field(default_factory=dict)


@dataclass(frozen=True)
class SweepSetup:
    """A direct-current sweep of one stimulus, or of a source drawn in the cell: from, to (as typed) and how many points.
    Without a stimulus there is no sweep."""

    stimulus: str = ""
    start: str = "0"
    stop: str = "1"
    points: int = 101


@dataclass(frozen=True)
class Watch:
    """A curve to chart: a formula, and what to call it."""

    formula: str
    title: str = ""
    unit: str = "V"


@dataclass(frozen=True)
class Reading:
    """A number taken from the curves of each condition."""

    name: str
    formula: str
    unit: str = ""
    note: str = ""


@dataclass(frozen=True)
class Specification:
    """The limits a reading must meet, as typed; an empty text is no limit."""

    reading: str
    low: str = ""
    high: str = ""


@dataclass(frozen=True)
class Bench:
    """One bench of one cell."""

    name: str
    cell: str
    stimuli: tuple[Stimulus, ...]
    point: PointSetup
    grid: GridSetup
    sweep: SweepSetup = SweepSetup()
    watches: tuple[Watch, ...] = ()
    readings: tuple[Reading, ...] = ()
    specifications: tuple[Specification, ...] = ()
    shown: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    note: str = ""

    @property
    def title(self) -> str:
        """Cell and name, as the shelf shows it."""
        return f"{self.cell} · {self.name}" if self.name else self.cell

    @property
    def key(self) -> str:
        """Cell and name as one word, unique in a project."""
        return f"{self.cell}-{self.name}"

    def columns(self, kind: str) -> tuple[str, ...]:
        """The quantities that stand beside devices of a kind (its letter in a netlist) on the drawing."""
        return self.shown.get(kind, SHOWN.get(kind, ()))

    def stimulus(self, name: str) -> Stimulus:
        """The stimulus of that name; KeyError where there is none."""
        return next((s for s in self.stimuli if s.name == name), None) or _missing(name)

    def with_stimulus(self, new: Stimulus) -> Bench:
        """The same bench with the stimulus of that name exchanged."""
        return replace(self, stimuli=tuple(new if s.name == new.name else s for s in self.stimuli))

    def with_specification(self, new: Specification) -> Bench:
        """The same bench with the limits of that reading exchanged."""
        specifications = tuple(new if s.reading == new.reading else s for s in self.specifications)
        return replace(self, specifications=specifications)


def _missing(name: str):
    raise KeyError(name)


def bare_bench(cell: str, corner: str, parameters: Mapping[str, str] | None = None) -> Bench:
    """A bench for looking at a cell that has none: nothing is tied to it, in the typical corner at 27 degC."""
    parameters = dict(parameters or {})
    point = PointSetup(corner, "27", parameters)
    return Bench("", cell, (), point, GridSetup((corner,), ("27",), {}))
