"""A period as values at moments that lie closer where more happens: for edges that no number of harmonics would hold."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from hearthline.core.engine.periodic.tones import one_tone

_ROOT = np.sqrt(6.0)
NODES = np.array([(4.0 - _ROOT) / 10.0, (4.0 + _ROOT) / 10.0, 1.0])
"""Of Radau's rule of order 5 in a step, as shares of it (Hairer and Wanner, Solving Ordinary Differential Equations II)."""
_RULE = np.array(
    [
        [(88.0 - 7.0 * _ROOT) / 360.0, (296.0 - 169.0 * _ROOT) / 1800.0, (-2.0 + 3.0 * _ROOT) / 225.0],
        [(296.0 + 169.0 * _ROOT) / 1800.0, (88.0 + 7.0 * _ROOT) / 360.0, (-2.0 - 3.0 * _ROOT) / 225.0],
        [(16.0 - _ROOT) / 36.0, (16.0 + _ROOT) / 36.0, 1.0 / 9.0],
    ]
)
WEIGHTS = _RULE[-1]
"""Of a mean over a step."""
SLOPES = np.linalg.inv(_RULE)
"""From rises above a step's beginning to slopes, in units of the step."""
NEAR = 1e-9
"""Share of a step before its end that its end is looked at, where the next step may begin elsewhere."""
FINELY = 8192
"""Samples that spectra are taken from, at least; and for each harmonic."""
FOR_EACH = 16
THINNED = 8
"""Times: what steps of a march may be drawn into one, since the rule here is of a higher order."""
LEAST_STEP = 1e-7
"""Of a step, as a share of the period."""


@dataclass(frozen=True)
class Course:
    """Values (steps, 3, unknowns) at the nodes of steps between `edges` (steps + 1,), shares of the period from 0 to 1; which
    unknowns are `held` together across an edge (unknowns,); and at which share `begin` the phase is 0."""

    edges: np.ndarray
    values: np.ndarray
    held: np.ndarray
    begin: float = 0.0

    @property
    def steps(self) -> np.ndarray:
        """Their lengths, as shares of the period."""
        return np.diff(self.edges)

    @property
    def moments(self) -> np.ndarray:
        """Of all nodes (steps, 3), as shares of the period; the last of a step just before its end."""
        nodes = NODES - np.array([0.0, 0.0, NEAR])
        return self.edges[:-1, None] + self.steps[:, None] * nodes

    @property
    def ends(self) -> np.ndarray:
        """Values at the ends of the steps (steps, unknowns)."""
        return self.values[:, 2]

    def samples(self, count: int) -> np.ndarray:
        """At so many moments of one period from where the phase is 0 (count, unknowns)."""
        return self.at((np.arange(count) / count + self.begin) % 1.0)

    def at(self, moments: np.ndarray) -> np.ndarray:
        """At shares of the period (moments, unknowns)."""
        step = np.clip(np.searchsorted(self.edges, moments, "right") - 1, 0, len(self.values) - 1)
        part = (moments - self.edges[step]) / self.steps[step]
        smooth, rough = _basis(part, np.concatenate([[0.0], NODES])), _basis(part, NODES)
        inside = np.einsum("mj,mjn->mn", smooth[:, 1:], self.values[step]) + smooth[:, :1] * self.ends[step - 1]
        return np.where(self.held, inside, np.einsum("mj,mjn->mn", rough, self.values[step]))

    def phasors(self, harmonics: int) -> np.ndarray:
        """Of the mean and so many harmonics (harmonics + 1, unknowns)."""
        count = max(FINELY, FOR_EACH * harmonics)
        return replace(one_tone(harmonics), samples=(count,)).to_phasors(self.samples(count))

    def on(self, edges: np.ndarray) -> Course:
        """The same at the nodes of other steps."""
        other = replace(self, edges=edges, values=np.zeros((len(edges) - 1, 3, 0)))
        return replace(other, values=self.at(other.moments.ravel()).reshape(len(edges) - 1, 3, -1))

    def halved(self, chosen: np.ndarray) -> Course:
        """With these of its steps (steps,) halved."""
        middles = self.edges[:-1] + 0.5 * self.steps
        return self.on(np.sort(np.concatenate([self.edges, middles[chosen]])))


def _basis(part: np.ndarray, nodes: np.ndarray) -> np.ndarray:
    """What each node's value weighs at parts of a step (parts, nodes): the polynomial through them."""
    found = np.ones((len(part), len(nodes)))
    for j, own in enumerate(nodes):
        for other in np.delete(nodes, j):
            found[:, j] *= (part - other) / (own - other)
    return found


def edges_of(times: np.ndarray, breaks: np.ndarray, most: int) -> np.ndarray:
    """Edges from moments that a march stopped at, as shares of the period, thinned to about so many or a few times, with
    `breaks` among them."""
    inside = times[(times > 0.0) & (times < 1.0)]
    thinned = inside[:: min(THINNED, max(1, len(inside) // most))]
    every = np.unique(np.concatenate([[0.0, 1.0], breaks[(breaks > 0.0) & (breaks < 1.0)], thinned]))
    fixed = np.concatenate([[0.0, 1.0], breaks])
    kept = [0.0]
    for moment in every[1:]:
        if moment - kept[-1] > LEAST_STEP:
            kept.append(float(moment))
        elif np.abs(fixed - moment).min() == 0.0 and len(kept) > 1:  # a break goes before what is beside it
            kept[-1] = float(moment)
    kept[-1] = 1.0
    return np.array(kept)
