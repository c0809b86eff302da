"""What a deck asks for, ready to run: each analysis knows its table and what a person wants to know of its course."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from hearthline.core.engine.job import Job
from hearthline.core.engine.small_signal import Answer, NoiseAnswer, ac, noise
from hearthline.core.engine.solve import Solution, Sweep, Tolerances, solve
from hearthline.core.engine.system import System
from hearthline.core.engine.transient.run import March, Times, Track, transient
from hearthline.core.engine.worker import NOISE_PLACE
from hearthline.core.formats.deck.lines import Line
from hearthline.core.formats.table import TableFile, write_csv
from hearthline.core.outcome import Outcome


@dataclass(frozen=True)
class Axis:
    """One swept quantity: its name as a column, its values, and whether it is a `source`, `celsius` or `parameter`."""

    name: str
    what: str
    values: np.ndarray


def labelled(system: System) -> Iterator[tuple[int, str]]:
    """The unknowns that a table shows, with their labels."""
    return ((k, unknown.label) for k, unknown in enumerate(system.unknowns) if unknown.kind)


def split_complex(label: str, values: np.ndarray) -> dict[str, np.ndarray]:
    """Two columns for a complex one."""
    return {f"{label}.re": values.real, f"{label}.im": values.imag}


@dataclass(frozen=True)
class Planned:
    """An operating point or a sweep of it; `axes` with the fastest first."""

    kind: str
    line: Line
    axes: tuple[Axis, ...]
    system: System
    sweep: Sweep
    tolerances: Tolerances

    @property
    def numbers(self) -> int:
        """How many numbers the result holds."""
        points = self.sweep.points.size * len(self.system.lanes)
        return points * (len(self.system.unknowns) + len(self.system.variables))

    def run(self, job: Job | None = None) -> Solution:
        """Solves it; keeps every unknown and every device variable."""
        return solve(self.system, self.sweep, self.tolerances, None, self.variables, job)

    @property
    def variables(self) -> list[int]:
        """Indices of the operating-point variables of the deck's parts."""
        written = {element.name for element in self.system.netlist.elements}
        return [
            k for k, variable in enumerate(self.system.variables) if variable.element in written and not variable.hidden
        ]

    def columns(self, solution: Solution) -> dict[str, np.ndarray]:
        """The table of the result: swept columns first, then `V(..)`, `I(..)` and the variables; one row a point."""
        rows = solution.outcomes.size
        table: dict[str, np.ndarray] = {}
        period = 1
        for axis in self.axes:
            table[axis.name] = np.resize(np.repeat(axis.values, period), rows)
            period *= len(axis.values)
        for k, label in labelled(self.system):
            table[label] = solution.kept[:, :, k].reshape(rows)
        for position, k in enumerate(self.variables):
            table[self.system.variables[k].label] = solution.readouts[:, :, position].reshape(rows)
        return table

    def write(self, solution: Solution, path: Path) -> None:
        """The table as a file."""
        write_csv(path, self.columns(solution))

    def course(self, solution: Solution) -> tuple[int, int, int]:
        """Newton iterations, accepted and rejected steps."""
        return solution.iterations, int(solution.outcomes.size), 0


@dataclass(frozen=True)
class PlannedTransient:
    """A transient; its rows may go to a file as they come."""

    line: Line
    system: System
    times: Times
    tolerances: Tolerances
    kind = "tran"
    numbers = 0
    """Rows go to the file as they come."""

    @property
    def header(self) -> list[str]:
        """Names of the columns."""
        return ["time", *(label for _, label in labelled(self.system))]

    def run(self, job: Job | None = None, path: Path | None = None) -> March:
        """Solves it; with `path` the rows are written there and not kept, and the file appears when all is well."""
        unknowns = [k for k, _ in labelled(self.system)]
        if path is None:
            return transient(self.system, self.times, self.tolerances, unknowns, (), job)
        with TableFile(path, self.header) as table:

            def keep(track: Track, rows: np.ndarray) -> None:
                table.write(rows)

            march = transient(self.system, self.times, self.tolerances, unknowns, (), job, keep)
            if all(track.outcome == Outcome.SOLVED for track in march.tracks):
                table.finish()
        return march

    def columns(self, march: March) -> dict[str, np.ndarray]:
        """The table: `time`, then `V(..)` and `I(..)`; one row an accepted step."""
        rows = march.tracks[0].rows
        return {name: rows[:, k] for k, name in enumerate(self.header)}

    def course(self, march: March) -> tuple[int, int, int]:
        """Newton iterations, accepted and rejected steps."""
        track = march.tracks[0]
        start = march.start.iterations if march.start else 0
        return start + track.iterations, track.accepted, track.rejected


@dataclass(frozen=True)
class PlannedAc:
    """Small signals at many frequencies."""

    line: Line
    system: System
    frequencies: np.ndarray
    tolerances: Tolerances
    kind = "ac"

    @property
    def numbers(self) -> int:
        """How many numbers the result holds."""
        return 2 * len(self.frequencies) * len(self.system.unknowns)

    def run(self, job: Job | None = None) -> Answer:
        """Solves it."""
        return ac(self.system, self.frequencies, self.tolerances, job)

    def columns(self, answer: Answer) -> dict[str, np.ndarray]:
        """The table: `frequency`, then two columns for each `V(..)` and `I(..)`."""
        table = {"frequency": self.frequencies}
        for k, label in labelled(self.system):
            table |= split_complex(label, answer.values[0, 0, :, k])
        return table

    def write(self, answer: Answer, path: Path) -> None:
        """The table as a file."""
        write_csv(path, self.columns(answer))

    def course(self, answer: Answer) -> tuple[int, int, int]:
        """Newton iterations, accepted and rejected steps."""
        return answer.point.iterations, len(self.frequencies), 0


@dataclass(frozen=True)
class PlannedNoise:
    """Noise at an output, referred to a source."""

    line: Line
    system: System
    frequencies: np.ndarray
    output: tuple[str, str]
    source: str
    tolerances: Tolerances
    kind = "noise"

    @property
    def numbers(self) -> int:
        """How many numbers the result holds."""
        return len(self.frequencies) * (2 + int(self.system.places[-1] - self.system.places[NOISE_PLACE]) // 2)

    def run(self, job: Job | None = None) -> NoiseAnswer:
        """Solves it."""
        return noise(self.system, self.frequencies, self.output, self.source, self.tolerances, job)

    def columns(self, answer: NoiseAnswer) -> dict[str, np.ndarray]:
        """The table: `frequency`, totals at output and input, then the part of each contributor at the output [V/√Hz]."""
        table = {"frequency": self.frequencies, "output_noise": answer.output[0], "input_noise": answer.input[0]}
        for k, name in enumerate(answer.sources):
            table[name] = np.sqrt(answer.densities[0, :, k])
        return table

    def write(self, answer: NoiseAnswer, path: Path) -> None:
        """The table as a file."""
        write_csv(path, self.columns(answer))

    def course(self, answer: NoiseAnswer) -> tuple[int, int, int]:
        """Newton iterations, accepted and rejected steps."""
        return answer.point.iterations, len(self.frequencies), 0


Task = Planned | PlannedTransient | PlannedAc | PlannedNoise
