"""How an oscillation's phase answers to charge: the perturbation projection vector, by the adjoint of the balance.

A current b(t) into the nets moves the oscillation along itself, x(t + α), by dα/dt = v(t)·b(t) (Demir, Mehrotra and
Roychowdhury, IEEE Trans. Circuits and Systems I 2000). In the balance J dx + F_ω dω = S, and the w with w J = 0 gives
dω = w·S / w·F_ω; a mean of v b is dω / ω, so that v is w over ω w·F_ω, as a function of time.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.engine.kernels.periodic import noise_at
from hearthline.core.engine.noise_sources import NoiseSources
from hearthline.core.engine.periodic.circuit import LaneCircuit
from hearthline.core.engine.periodic.course import Course
from hearthline.core.engine.periodic.matrix import jacobian
from hearthline.core.engine.periodic.oscillation import shunt_of, turning
from hearthline.core.engine.periodic.shooting import Shooting
from hearthline.core.engine.periodic.states import LaneState
from hearthline.core.engine.periodic.tones import Tones

LEAST_SAMPLES = 1024
"""Along a period, for noise: the root of a current has kinks."""


@dataclass(frozen=True)
class Sensitivity:
    """`shift` (products, unknowns): phasors of by how much earlier the oscillation comes for a charge into each equation at
    that moment [s/C of a net]; the same as a `course`, where the oscillation was shot."""

    tones: Tones
    shift: np.ndarray
    course: Course | None = None

    def along_period(self, points: int) -> np.ndarray:
        """Along a period (points, unknowns)."""
        if self.course is not None:
            return self.course.samples(points)
        return Tones(self.tones.products, (points,)).to_samples(self.shift)


def sensitivity_of(state: LaneState) -> Sensitivity:
    """Of an oscillation. Raises LinAlgError where it does not stand by itself."""
    circuit, tones, phasors = state.circuit, state.balanced.tones, state.balanced.phasors
    if state.balanced.shot is not None:
        course = Shooting(circuit).shift(state.balanced.shot)
        return Sensitivity(tones, course.phasors(len(tones) - 1), course)
    frequency = float(state.hertz[0])
    order, omega = tones.products[:, 0].astype(float), 2.0 * np.pi * frequency
    circuit.trust()
    along = circuit.along(tones, phasors)
    loudest = int(np.argmax(np.abs(phasors[1, : circuit.system.net_count])))
    matrix = jacobian(circuit, tones, along, 1j * omega * order, order * frequency, (loudest,), shunt_of(along))
    way = turning(circuit, order, omega, phasors, along)
    null = matrix.left_null(way, 1j * order[:, None] * phasors)
    turned = float((null.conj() * way).real.sum())
    shift = 2.0 * null / (omega * turned)
    shift[0] *= 0.5
    return Sensitivity(tones, shift)


@dataclass(frozen=True)
class Acting:
    """Along a period, of each source of noise that is no file's: the answer of the phase between its ends (samples, sources)
    [s/C], its density at 1 Hz [A²/Hz], and the exponent of that over frequency (sources,)."""

    across: np.ndarray
    density: np.ndarray
    exponent: np.ndarray


def acting(state: LaneState, sources: NoiseSources, found: Sensitivity) -> Acting:
    """How strongly each source is there, and acts, at each phase."""
    density = densities_of(state, sources)
    moving = np.pad(found.along_period(len(density)), ((0, 0), (1, 0)))
    across = moving[:, sources.ends[:, 0]] - moving[:, sources.ends[:, 1]]
    return Acting(across, np.maximum(density[..., 0], 0.0), density[..., 1].max(axis=0, initial=0.0))


def phase_noise(
    state: LaneState, sources: NoiseSources, found: Sensitivity, act: Acting, offsets: np.ndarray
) -> np.ndarray:  # fmt: skip
    """Single sideband over the carrier at offsets (points,) [Hz] by each source: (points, sources) [1/Hz].

    Half the one-sided density of the phase. A white source acts by the mean of its density, as it is at each moment, times the
    square of the sensitivity; one of 1/f by the square of the mean of the sensitivity times the root of its density (Hajimiri
    and Lee, IEEE J. Solid-State Circuits 1998).
    """
    frequency = float(state.hertz[0])
    white = (act.across**2 * act.density).mean(axis=0)
    coloured = (act.across * np.sqrt(act.density)).mean(axis=0) ** 2
    strength = np.where(act.exponent[None, :] == 0.0, white, coloured / offsets[:, None] ** act.exponent)
    each = np.hstack([strength, _correlated(state.circuit, sources, found, frequency, offsets)])
    return 0.5 * (frequency / offsets[:, None]) ** 2 * each


def densities_of(state: LaneState, sources: NoiseSources) -> np.ndarray:
    """At 1 Hz, and the exponent, of each source finely along the period (samples, sources, 2)."""
    circuit, samples = state.circuit, max(state.balanced.tones.count, LEAST_SAMPLES)
    points = np.pad(state.balanced.samples(samples), ((0, 0), (1, 0)))
    count = sum(
        kind.noise * int(span[0]) for span, kind in zip(circuit.system.spans, circuit.system.kinds, strict=True)
    )
    out = np.zeros((samples, 2 * count))
    values = circuit.system.values[circuit.lane]
    noise_at(circuit.arrays, circuit.memory, values, points, circuit.tolerances.array(), out)
    by_kernels = out.reshape(samples, count, 2)
    found = np.empty((samples, len(sources.ends), 2))
    for j, (_, _, place) in enumerate(sources.ends):
        found[:, j] = sources.own[circuit.lane, j] if place < 0 else by_kernels[:, place]
    return found


def _correlated(
    circuit: LaneCircuit, sources: NoiseSources, found: Sensitivity, frequency: float, offsets: np.ndarray
) -> np.ndarray:
    """Of parts from files, whose noise about each harmonic comes down by that harmonic of the sensitivity (points, groups)."""
    order = found.tones.products[:, 0]
    groups = sources.groups(circuit.lane, np.maximum(order * frequency, 1.0))
    total = np.zeros(len(groups.spans))
    for k, (first, count, entry) in enumerate(groups.spans):
        rows = groups.rows[first : first + count]
        two_sided = np.where(order[:, None] == 0, found.shift[:, rows - 1], 0.5 * found.shift[:, rows - 1])
        matrices = groups.matrices[:, entry : entry + count * count].reshape(-1, count, count)
        each = np.einsum("ha,hab,hb->h", two_sided, matrices, two_sided.conj()).real
        total[k] = each[0] + 2.0 * each[1:].sum()
    return np.repeat(total[None, :], len(offsets), axis=0)
