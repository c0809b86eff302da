"""An oscillation from the circuit alone: from a pole that grows, along rising amplitude, to where it neither grows nor dies.

Where phasors grow as exp(s t) with s = σ + jω, a derivative in time of harmonic h is a product with h s. At a small amplitude
A of one net, σ and ω are those of the pole; as A is raised, devices bend and σ falls, and where it is 0 stands the
oscillation. So each step is a balance with A given and s sought, and the last one has σ = 0 given and A sought. The phase,
which nothing holds, is that of this net's first harmonic.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from hearthline.core.engine.periodic.balance import Balanced
from hearthline.core.engine.periodic.circuit import ALIASED, Along, LaneCircuit
from hearthline.core.engine.periodic.matrix import Jacobian, Reach, jacobian
from hearthline.core.engine.periodic.start import Pole
from hearthline.core.engine.periodic.steps import equations
from hearthline.core.engine.periodic.tones import Tones, one_tone, padded

FIRST_SHARE, RISE, LEAST_RISE, BEYOND = 1e-3, 4.0, 1.02, 1.15
"""Of the largest voltage, the amplitude to begin with [V a V]; by how much it is raised at a time, and at least; how far beyond
where growth seems to end."""
LARGEST = 100.0
"""Of the largest voltage, an amplitude that nothing has bent by then."""
ALIKE = 0.99
"""Share of the largest swing that another net's is, to be as good."""
CLIMBING = 4
"""Harmonics on the way up."""
MOST_ITERATIONS, CLOSE = 25, 1e-3


class NoOscillationError(Exception):
    """The way up led nowhere; its text says how far it went."""


class UnlimitedError(NoOscillationError):
    """It grows for ever."""


@dataclass(frozen=True)
class Standing:
    """A state with its s [1/s], and how much of its currents lay beyond the samples."""

    phasors: np.ndarray
    s: complex
    rest: float = 0.0

    @property
    def frequency(self) -> float:
        """[Hz]"""
        return self.s.imag / (2.0 * np.pi)


class Oscillator:
    """One lane's way from a pole to its oscillation."""

    def __init__(self, circuit: LaneCircuit, tones: Tones, rest: np.ndarray, pole: Pole):
        self.circuit, self.rest, self.pole = circuit, rest, pole
        self._wanted, self.tones = tones, tones
        self._reach: Reach | None = None
        self.iterations = 0
        nets = circuit.system.net_count
        size = np.abs(pole.shape[:nets])
        self.net = int(np.flatnonzero(size >= ALIKE * size.max())[0])  # of two sides the same one in every lane
        self.picks = ((self.net, 1, False), (self.net, 1, True))

    @property
    def order(self) -> np.ndarray:
        """Number of each harmonic."""
        return self.tones.products[:, 0].astype(float)

    def solve(self, near: Standing | None = None) -> tuple[Balanced, float]:
        """The oscillation and its frequency [Hz]. Raises NoOscillationError."""
        if near is not None:
            try:
                return self._refined(self._standing(near))
            except np.linalg.LinAlgError:
                pass
        return self.finished(self.risen())

    def risen(self) -> Standing:
        """Up from the pole, with few harmonics where these will do. Raises NoOscillationError and LinAlgError."""
        try:
            return self._risen(one_tone(min(CLIMBING, len(self._wanted) - 1)))
        except UnlimitedError:
            raise
        except (NoOscillationError, np.linalg.LinAlgError):
            return self._risen(self._wanted)

    def finished(self, state: Standing) -> tuple[Balanced, float]:
        """With all harmonics, from few. Raises NoOscillationError and LinAlgError."""
        self.tones = self._wanted
        if len(state.phasors) < len(self.tones):
            try:
                state = self._standing(Standing(padded(state.phasors, len(self.tones)), state.s))
            except np.linalg.LinAlgError:
                state = self._risen(self._wanted)
        return self._refined(state)

    def stand(self, phasors: np.ndarray, frequency: float) -> tuple[Balanced, float]:
        """From a state close by, whatever its phase. Raises LinAlgError."""
        self.tones = self._wanted
        size = np.abs(phasors[1, : self.circuit.system.net_count])
        self.net = int(np.argmax(size))
        self.picks = ((self.net, 1, False), (self.net, 1, True))
        turn = np.exp(-1j * self.order * np.angle(phasors[1, self.net]))
        s = 2j * np.pi * frequency
        return self._refined(self._standing(Standing(phasors * turn[:, None], s)))

    def with_harmonics(self, state: Standing, harmonics: int) -> Standing:
        """With more of them, if that will do."""
        self.tones = one_tone(harmonics)
        try:
            return self._standing(Standing(padded(state.phasors, len(self.tones)), state.s))
        except np.linalg.LinAlgError:
            return state

    def _risen(self, tones: Tones) -> Standing:
        self.tones = tones
        return self._standing(self._climb())

    def _climb(self) -> Standing:
        """Up to where it no longer grows: a state close to the one that is sought."""
        largest = self._largest(self.rest)
        amplitude, rise = FIRST_SHARE * largest, RISE
        state = self._at(self._first(amplitude), amplitude)
        before, fastest = None, state.s.real
        while True:
            wanted = amplitude * rise
            if wanted > LARGEST * largest:
                raise UnlimitedError(f"it still grows at an amplitude of {amplitude:.3g} V, and no device limits it")
            try:
                risen = self._at(self._ahead(before, state, wanted), wanted)
            except np.linalg.LinAlgError:
                rise, before = rise**0.5, None
                if rise < LEAST_RISE:
                    raise NoOscillationError(
                        f"the balance did not come down beyond an amplitude of {amplitude:.3g} V, where it grows by "
                        f"{state.s.real:.3g} 1/s"
                    ) from None
                continue
            if risen.s.real <= 0.0:
                return self._between(state, risen)
            before, state, amplitude = state, risen, wanted
            # growth falls about as 1 - (A / A0)²: not far beyond the A0 that this says
            left = min(1.0 - state.s.real / fastest, 1.0)
            rise = RISE if left <= 1e-3 else float(np.clip(BEYOND / np.sqrt(left), LEAST_RISE**2, RISE))

    def _ahead(self, before: Standing | None, state: Standing, amplitude: float) -> Standing:
        """A guess at a larger amplitude: straight on from the last two, or all harmonics raised."""
        here = abs(state.phasors[1, self.net])
        if before is None:
            x, rise = state.phasors.copy(), amplitude / here
            x[1:] *= rise ** np.minimum(self.order[1:, None], 2.0)
            return Standing(x, state.s)
        part = (amplitude - here) / (here - abs(before.phasors[1, self.net]))
        x = state.phasors + part * (state.phasors - before.phasors)
        return Standing(x, state.s + part * (state.s - before.s))

    def _largest(self, x: np.ndarray) -> float:
        """Voltage [V] at rest, 1 V at least."""
        return max(float(np.abs(x[: self.circuit.system.net_count]).max(initial=0.0)), 1.0)

    def _between(self, low: Standing, high: Standing) -> Standing:
        """Where a straight line says that it neither grows nor dies."""
        part = low.s.real / (low.s.real - high.s.real)
        x = low.phasors + part * (high.phasors - low.phasors)
        return Standing(x, low.s + part * (high.s - low.s))

    def _first(self, amplitude: float) -> Standing:
        """The shape of the pole on the operating point."""
        x = np.zeros((len(self.tones), self.circuit.size), complex)
        x[0], x[1] = self.rest, amplitude * self.pole.shape / self.pole.shape[self.net]
        return Standing(x, self.pole.s)

    def _at(self, state: Standing, amplitude: float) -> Standing:
        """The state with that amplitude and whatever growth it has. Raises LinAlgError."""
        x, s, size = state.phasors, state.s, np.inf
        self.circuit.trust()
        for _ in range(MOST_ITERATIONS):
            matrix, missing, along = self._equations(x, s)
            charge = self.order[:, None] * along.charges
            wanted = np.array([amplitude - x[1, self.net].real, -x[1, self.net].imag])
            step, (grown, turned) = matrix.bordered(missing, np.stack([charge, 1j * charge]), self.picks, wanted)
            x, s = x + step, s + complex(grown, turned)
            size, before = float(np.abs(step).max()), size
            if s.imag <= 0 or not np.isfinite(s) or size > 3.0 * before:
                break
            if not along.limited and self._settled(step, x, complex(grown, turned) / s, CLOSE):
                return Standing(x, s, along.rest)
        raise np.linalg.LinAlgError("did not come down")

    def _standing(self, state: Standing) -> Standing:
        """From close by to where it neither grows nor dies. Raises LinAlgError."""
        x, omega = state.phasors, state.s.imag
        self.circuit.trust()
        before = distance = np.inf
        for _ in range(MOST_ITERATIONS):
            matrix, missing, along = self._equations(x, 1j * omega)
            turn = turning(self.circuit, self.order, omega, x, along)
            wanted = np.array([-x[1, self.net].imag])
            step, (turned,) = matrix.bordered(missing, turn[None], self.picks[1:], wanted)
            x, omega = x + step, omega + turned
            if omega <= 0 or not np.isfinite(omega):
                break
            before, distance = distance, self._distance(step, x, turned / omega)
            certain = distance < before < np.inf and distance * (distance / before) ** 2 <= 0.1
            if not along.limited and (distance <= 1.0 or certain):
                return self._checked(Standing(x, 1j * omega, along.rest))
        raise np.linalg.LinAlgError("did not come down")

    def _checked(self, state: Standing) -> Standing:
        """Raises LinAlgError where Newton has gone back to rest."""
        if abs(state.phasors[1, self.net]) < 1e-2 * FIRST_SHARE * self._largest(self.rest):
            raise np.linalg.LinAlgError("it came to rest")
        return state

    def _refined(self, state: Standing) -> tuple[Balanced, float]:
        """With as many samples as it takes."""
        while state.rest > ALIASED and (finer := self.circuit.finer(self.tones, state.phasors)) is not None:
            self.tones = finer.tones
            state = self._standing(state)
        found = Balanced(state.phasors, self.tones, self.iterations, 0, state.rest)
        return found, state.frequency

    def _equations(self, x: np.ndarray, s: complex) -> tuple[Jacobian, np.ndarray, Along]:
        self.iterations += 1
        circuit, frequencies = self.circuit, self.order * s.imag / (2.0 * np.pi)
        along = circuit.along(self.tones, x)
        if not np.isfinite(along.flows).all():
            raise np.linalg.LinAlgError("gave values that are no numbers")
        powers = self.order * s
        wanted = replace(equations(circuit, frequencies, np.zeros_like(x)), s=powers)
        matrix = jacobian(circuit, self.tones, along, powers, frequencies, (self.net,), shunt_of(along), self._reach)
        self._reach = matrix.reach
        return matrix, wanted.missing(x, along), along

    def _distance(self, step: np.ndarray, x: np.ndarray, turned: float) -> float:
        circuit, limits = self.circuit, self.circuit.tolerances
        nets = np.arange(circuit.size) < circuit.system.net_count
        size = np.abs(x).max(axis=0)
        floor = np.where(nets, limits.vntol, limits.abstol + 1e-13 * size[~nets].max(initial=0.0))
        worst = float((np.abs(step).max(axis=0) / (limits.reltol * size + floor)).max())
        return max(worst, abs(turned) / limits.reltol)

    def _settled(self, step: np.ndarray, x: np.ndarray, turned: complex, share: float) -> bool:
        """Close enough for one on the way."""
        nets = self.circuit.system.net_count
        size = float(np.abs(x[1:, :nets]).max())
        return bool(np.abs(step[1:, :nets]).max() <= share * size and abs(turned) <= share)


def shunt_of(along: Along) -> float:
    """A conductance [S] like those of the devices."""
    return float(np.abs(along.slopes.mean(axis=0)).mean()) or 1e-3


def turning(circuit: LaneCircuit, order: np.ndarray, omega: float, x: np.ndarray, along: Along) -> np.ndarray:
    """How the equations change with the angular frequency of the oscillation [rad/s]: (products, unknowns)."""
    found = 1j * order[:, None] * along.charges
    spread = circuit.system.dispersion(circuit.lane, order * omega / (2.0 * np.pi))
    for k, entry in enumerate(np.asarray(circuit.arrays.slots)[spread.entries].astype(np.int64)):
        if entry < len(circuit.rows):
            found[:, circuit.rows[entry]] += order * spread.slopes[:, k] * x[:, circuit.columns[entry]]
    return found
