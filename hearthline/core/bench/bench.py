"""A bench: a cell with its surroundings, the questions asked of it, and the limits of the answers. Frozen, as typed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from pathlib import PurePosixPath
from typing import NoReturn

from hearthline.core.analyses.line import Analysis
from hearthline.core.bench.heat import HeatSetup
from hearthline.core.bench.samples import SampleSetup, ToleranceLine
from hearthline.core.bench.statistical import StatisticalCorner
from hearthline.core.bench.surroundings import Surroundings
from hearthline.core.elements import ELEMENTS
from hearthline.core.registry import Derived

SHOWN: Mapping[str, tuple[str, ...]] = Derived(
    ELEMENTS, lambda: {letter: one.shown for letter, one in ELEMENTS.items() if one.shown}
)
"""What stands beside the devices of each kind where a bench does not say otherwise."""

SCALES = (
    "linear", "log", "dB", "phase", "angle", "real", "imaginary", "delay", "smith", "smith y", "smith zy", "polar",
)  # fmt: skip
"""How a watch may be drawn: rectangular ones first, then those in a plane (see `data.plane`). `phase` goes on where `angle`
jumps."""
STIMULUS_KINDS = {
    "voltage": "V",
    "current": "A",
    "ground": "",
    "resistance": "Ω",
    "capacitance": "F",
    "port": "V",
}
"""What may be tied to a pin, with the unit of its value."""


@dataclass(frozen=True)
class Stimulus:
    """What is tied to a pin of the cell, against ground or to another pin: a source or a load. `dc` is its value, an expression
    of the bench's parameters; a source may have a `wave` (its waveform) and an `ac` amplitude with its `phase` [°]; a port its
    `number`, its `impedance` [Ω] and the `power` that it can give [dBm]."""

    name: str
    pin: str
    dc: str = ""
    kind: str = "voltage"
    wave: str = ""
    ac: str = ""
    phase: str = ""
    to: str = ""
    number: str = ""
    impedance: str = ""
    power: str = ""

    @property
    def unit(self) -> str:
        """Of its value."""
        return STIMULUS_KINDS[self.kind]


@dataclass(frozen=True)
class PointSetup:
    """A condition as typed: corner, temperature [degC], parameters, and surroundings by their name (empty: as at the point, the
    first of them there). The bench's own is where the drawing shows its operating point."""

    corner: str
    temperature: str
    parameters: Mapping[str, str] = field(default_factory=dict)
    surroundings: str = ""


CROSSED, ALONE, PICKED = "crossed", "alone", "picked"


@dataclass(frozen=True)
class GridSetup:
    """The conditions of a run: corners, temperatures [degC], parameters, surroundings, as typed; `how` they come together: all
    `crossed`, each axis `alone` about the point, or only those `picked` by hand. Picked ones are added in any case."""

    corners: tuple[str, ...]
    temperatures: tuple[str, ...]
    parameters: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    how: str = CROSSED
    picked: tuple[PointSetup, ...] = ()
    surroundings: tuple[str, ...] = ()


@dataclass(frozen=True)
class Watch:
    """A curve to chart: a formula, and what to call it; the analysis that it is taken from (the first where none is said), the
    strip it shares with others of the same word, and its scale: linear, log, dB, phase."""

    formula: str
    title: str = ""
    unit: str = ""
    analysis: str = ""
    strip: str = ""
    scale: str = ""

    @property
    def shown(self) -> str:
        """What it is called in the charts."""
        return self.title or self.formula


@dataclass(frozen=True)
class Reading:
    """A number taken from the curves of each condition. Its unit follows from the formula where none is given."""

    name: str
    formula: str
    unit: str = ""
    note: str = ""
    analysis: str = ""

    @property
    def word(self) -> str:
        """As other formulas call it."""
        return self.name.lower().replace(" ", "_").replace("-", "_")


@dataclass(frozen=True)
class Specification:
    """What a reading must meet, as typed; an empty text is no limit. A `target` is where it should be: it says how far off the
    worst condition is, and fails nothing. `share` is the yield that is wanted, which decides where there are samples."""

    reading: str
    low: str = ""
    high: str = ""
    target: str = ""
    share: str = ""


@dataclass(frozen=True)
class FileBlock:
    """A part of a bench over a deck that a file of S-parameters is: its path beside the bench's file, and the nets of its
    ports, with one more the net of its common terminal, which is ground otherwise."""

    name: str
    file: str
    nets: tuple[str, ...]


@dataclass(frozen=True)
class Bench:
    """One bench of one cell, or of the circuit of a `deck`, a path beside the bench's file."""

    name: str
    cell: str
    stimuli: tuple[Stimulus, ...]
    point: PointSetup
    grid: GridSetup
    analyses: tuple[Analysis, ...] = ()
    watches: tuple[Watch, ...] = ()
    readings: tuple[Reading, ...] = ()
    specifications: tuple[Specification, ...] = ()
    shown: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    note: str = ""
    deck: str = ""
    blocks: tuple[FileBlock, ...] = ()
    samples: SampleSetup | None = None
    tolerances: tuple[ToleranceLine, ...] = ()
    statistical: tuple[StatisticalCorner, ...] = ()
    heat: HeatSetup | None = None
    surroundings: tuple[Surroundings, ...] = ()

    @property
    def subject(self) -> str:
        """What it is about: the cell's name, or the deck's without folder and ending."""
        return _subject(self.cell, self.deck)

    @property
    def title(self) -> str:
        """Cell and name, as the shelf shows it."""
        return f"{self.subject} · {self.name}" if self.name else self.subject

    @property
    def key(self) -> str:
        """Cell and name as one word, unique in a project."""
        return key_of(self.cell, self.deck, self.name)

    def columns(self, kind: str) -> tuple[str, ...]:
        """The quantities that stand beside devices of a kind (its letter in a netlist) on the drawing."""
        return self.shown.get(kind, SHOWN.get(kind, ()))

    @property
    def analysis_names(self) -> tuple[str, ...]:
        """In their order."""
        return tuple(analysis.name for analysis in self.analyses)

    def analysis_of(self, item: Watch | Reading) -> str:
        """The analysis that a watch or reading is taken from: the one it says, or the first."""
        return item.analysis or (self.analyses[0].name if self.analyses else "")

    def stimulus(self, name: str) -> Stimulus:
        """The stimulus of that name; KeyError where there is none."""
        return next((s for s in self.stimuli if s.name == name), None) or _missing(name)

    def with_stimulus(self, new: Stimulus) -> Bench:
        """The same bench with the stimulus of that name exchanged."""
        return replace(self, stimuli=tuple(new if s.name == new.name else s for s in self.stimuli))

    def with_analysis(self, new: Analysis) -> Bench:
        """The same bench with the analysis of that name exchanged."""
        return replace(self, analyses=tuple(new if a.name == new.name else a for a in self.analyses))

    def with_specification(self, new: Specification) -> Bench:
        """The same bench with the limits of that reading exchanged."""
        specifications = tuple(new if s.reading == new.reading else s for s in self.specifications)
        return replace(self, specifications=specifications)


def _subject(cell: str, deck: str) -> str:
    return cell or PurePosixPath(deck).stem


def key_of(cell: str, deck: str, name: str) -> str:
    """What a bench is called in a project."""
    return f"{_subject(cell, deck)}-{name}"


def _missing(name: str) -> NoReturn:
    raise KeyError(name)


def bare_bench(cell: str, corner: str, parameters: Mapping[str, str] | None = None) -> Bench:
    """A bench for looking at a cell that has none: nothing is tied to it, in the typical corner at 27 degC."""
    parameters = dict(parameters or {})
    point = PointSetup(corner, "27", parameters)
    return Bench("", cell, (), point, GridSetup((corner,), ("27",), {}))
