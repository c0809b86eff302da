"""The transient analysis: from a system and its times to rows of accepted steps, lane by lane on all processors."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, replace

import numpy as np

from hearthline.core.engine.job import Job
from hearthline.core.engine.linear.straight import offer
from hearthline.core.engine.solve import Solution, SourceSweep, Tolerances, solve
from hearthline.core.engine.system import System
from hearthline.core.engine.transient import march as m
from hearthline.core.engine.transient.lines import lines_of, with_more_room
from hearthline.core.engine.transient.rules import RULES
from hearthline.core.engine.worker import ITERATION_COUNT, X_PLACE, new_memory
from hearthline.core.errors import ConvergenceError
from hearthline.core.outcome import Outcome

DEFAULT = Tolerances()
NEWTON_SHARE = 0.03
"""Of the error allowed to a step, that Newton's last step may be."""
CHUNK_NUMBERS = 1 << 15
"""Numbers written before what there is is handed on, and progress told."""


@dataclass(frozen=True)
class Times:
    """When: print step, end, from when on rows are written, longest step (0: the print step), all [s]; whether to begin
    at given values instead of the operating point; the rule, `trap` or `gear`; the error allowed to a step, relative to
    an unknown's peak, and absolute [V] and [A]."""

    step: float
    stop: float
    start: float = 0.0
    longest: float = 0.0
    given: bool = False
    rule: str = "trap"
    rel: float = 2e-5
    abs_voltage: float = 2e-8
    abs_current: float = 1e-12

    @property
    def longest_step(self) -> float:
        """No step is longer than this."""
        return self.longest or min(self.step, (self.stop - self.start) / 50.0 if self.stop > self.start else self.stop)


@dataclass
class Track:
    """One lane's rows: `rows` (accepted steps, 1 + watched unknowns + watched variables), the time first."""

    lane: int
    pieces: list[np.ndarray] = field(default_factory=list)
    outcome: Outcome = Outcome.NOT_RUN
    reached: float = 0.0
    accepted: int = 0
    rejected: int = 0
    iterations: int = 0
    moved: np.ndarray | None = None
    culprit: int = 0
    handing: float = 0.0

    @property
    def rows(self) -> np.ndarray:
        """All of them in one array."""
        if len(self.pieces) > 1:
            self.pieces = [np.concatenate(self.pieces)]
        return self.pieces[0] if self.pieces else np.zeros((0, 0))


Keeper = Callable[[Track, np.ndarray], None]


@dataclass(frozen=True)
class March:
    """What came out in all lanes: the operating points that they began from, and their rows."""

    system: System
    start: Solution | None
    tracks: list[Track]
    unknowns: Sequence[int]
    variables: Sequence[int]
    seconds: float = 0.0

    @property
    def failed_lanes(self) -> list[int]:
        """Those that did not come to the end, stopped ones aside."""
        bad = (Outcome.SOLVED, Outcome.STOPPED)
        return [track.lane for track in self.tracks if track.outcome not in bad]

    def failure(self, lane: int) -> ConvergenceError:
        """Why a lane failed, and at which time."""
        track = self.tracks[lane]
        if track.moved is None:
            return self.start.failure(lane)
        shape = self.start or _nothing(self.system)
        moved, culprits = np.zeros_like(shape.moved), np.zeros_like(shape.culprits)
        moved[lane], culprits[lane] = track.moved, track.culprit
        outcomes = np.full((len(self.tracks), 1), int(track.outcome), np.int64)
        error = replace(shape, moved=moved, culprits=culprits, outcomes=outcomes).failure(lane)
        return ConvergenceError(f"at {track.reached:.6g} s: {error}", error.nets, error.parts)

    def notes(self) -> list[str]:
        """What a person must know of the operating point."""
        return self.start.notes() if self.start else []

    def log(self) -> list[str]:
        """What the operating point needed."""
        return self.start.log() if self.start else []


def _nothing(system: System) -> Solution:
    """A solution of nothing, to speak about failures with."""
    job = Job()
    job.stop()
    return solve(system, job=job)


def transient(
    system: System,
    times: Times,
    tolerances: Tolerances = DEFAULT,
    unknowns: Sequence[int] | None = None,
    variables: Sequence[int] = (),
    job: Job | None = None,
    keeper: Keeper | None = None,
) -> March:
    """Follows `system` in every lane; keeps the given unknowns (None: all) and variables at every accepted step.

    `keeper` gets each piece of rows as it comes, in place of memory. A lane that fails is marked and the others stand.
    """
    job = job or Job()
    _ = system.static, system.dynamic  # kernels are loaded before the clock runs
    begin = time.perf_counter()
    watched = np.array(range(len(system.unknowns)) if unknowns is None else unknowns, np.int64) + 1
    prepared = [_sources(system, times, lane) for lane in range(len(system.lanes))]
    values = system.values.copy()
    for lane, sources in enumerate(prepared):
        first = np.zeros(len(sources.kinds))
        m.values_at(sources, 0.0, first)
        values[lane, sources.slots] = first
    start = None
    if not times.given:
        start = solve(system.with_values(values), SourceSweep(), tolerances, None, (), job, hold=True)
    tracks = [Track(lane) for lane in range(len(system.lanes))]
    job.begin(1000 * len(tracks), len(tracks))
    found = March(system, start, tracks, watched - 1, tuple(variables))

    def follow(track: Track) -> None:
        _follow(found, values[track.lane], prepared[track.lane], times, tolerances, job, track, keeper)

    if len(tracks) == 1:
        follow(tracks[0])
    else:
        with ThreadPoolExecutor(job.workers) as pool:
            list(pool.map(follow, tracks))
    # what a keeper does with the rows is not solving
    return replace(found, seconds=time.perf_counter() - begin - sum(track.handing for track in tracks))


def _sources(system: System, times: Times, lane: int) -> m.Sources:
    waves = {name: wave.complete(times.step, times.stop) for name, wave in system.waves.items()}
    numbers = [wave.numbers[lane] for wave in waves.values()]
    starts = np.concatenate([[0], np.cumsum([len(one) for one in numbers])]).astype(np.int64)
    return m.Sources(
        np.array([wave.kind for wave in waves.values()], np.int64),
        np.array([system.source_slots[name] for name in waves], np.int64), starts,
        np.concatenate([*numbers, np.zeros(1)]),
    )  # fmt: skip


def _follow(
    found: March, values, sources, times: Times, tolerances: Tolerances, job: Job, track: Track, keeper
) -> None:
    system, lane = found.system, track.lane
    pattern, circuit = system.dynamic
    memory = new_memory(circuit, pattern)
    x = memory.work[circuit.places[X_PLACE] :][: len(system.unknowns) + 1]
    if found.start is None:
        x[1:] = system.initial[lane, 1:]
    else:
        track.outcome = Outcome(int(found.start.outcomes[lane, 0]))
        if track.outcome != Outcome.SOLVED:
            return
        x[1:] = found.start.kept[lane, 0]
    march, lines = _march(system, times), lines_of(*system.lines(lane))
    limits = tolerances.array()
    limits[:3] = NEWTON_SHARE * times.rel, NEWTON_SHARE * times.abs_voltage, NEWTON_SHARE * times.abs_current
    watched = np.asarray(found.unknowns, np.int64) + 1
    variables = np.array(found.variables, np.int64)
    width = 1 + len(watched) + len(variables)
    rows = np.zeros((max(16, CHUNK_NUMBERS // width), width))
    while True:
        code = m.advance(circuit, memory, values, sources, lines, march, watched, variables, rows, job.flag, limits)
        piece = rows[: march.state[m.ROWS]]
        if keeper is None:
            track.pieces.append(piece.copy())
        else:
            handing = time.perf_counter()
            keeper(track, piece)
            track.handing += time.perf_counter() - handing
        track.reached = float(march.clock[m.NOW])
        job.progress[lane] = round(1000 * track.reached / times.stop)
        if code == m.FORGETFUL:
            lines = with_more_room(lines)
        elif code != m.PAUSED:
            break
        offer(memory.lu)
    track.accepted, track.rejected = int(march.state[m.ACCEPTED]), int(march.state[m.REJECTED])
    track.iterations = int(memory.counters[ITERATION_COUNT])
    track.outcome = Outcome.SOLVED if code == m.DONE else Outcome(code)
    if track.outcome not in (Outcome.SOLVED, Outcome.STOPPED):
        track.moved = memory.vectors[: len(system.unknowns) + 1].copy()


def _march(system: System, times: Times) -> m.MarchArrays:
    size = len(system.unknowns) + 1
    clock = np.zeros(m.CLOCK)
    clock[m.LAST_WORST] = 1.0
    clock[m.STOP], clock[m.LONGEST], clock[m.FIRST_ROW] = times.stop, times.longest_step, times.start
    clock[m.BEFORE] = clock[m.EARLIER] = clock[m.EARLIEST] = times.stop
    state = np.zeros(7, np.int64)
    state[m.WANTED_RULE] = RULES[times.rule]
    rows, columns = system.capacitance_pairs
    controlled = np.zeros(size, np.int64)
    controlled[columns] = 2
    controlled[1 : system.net_count + 1] = 1
    controlled[0] = 0
    accuracy = np.array([times.rel, times.abs_voltage, times.abs_current, 1e-3])
    return m.MarchArrays(clock, state, np.zeros((m.PAST, size)), accuracy, controlled, rows, columns)
