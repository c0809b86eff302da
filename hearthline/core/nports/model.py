"""What simulates an n-port: its numbers at its frequencies, and a rational model outside of them and in time."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from hashlib import sha256

import numpy as np

from hearthline.core.nports.n_port import NPort
from hearthline.core.nports.passivity import largest, made_passive, places
from hearthline.core.nports.rational import FIRMLY, Rational, candidates
from hearthline.core.quantity import write

Array = np.ndarray
PASSIVE = 1e-3
"""By how much the largest singular value of measured numbers may stand above 1."""
RECIPROCAL = 1e-6
"""How far entries may differ that are the same: digits of a file."""
STILL_PASSIVE = 1e-5
"""Of a model."""
CAUSAL = 0.02
"""Error of the model, which is stable and so causal, up to which the numbers are."""


@dataclass(frozen=True, eq=False)
class Model:
    """An n-port ready to be simulated; `name` is that of its file. A rational model of it may be `known`, and is fitted
    otherwise."""

    name: str
    network: NPort
    known: Rational | None = None

    @cached_property
    def fingerprint(self) -> str:
        """Of its numbers."""
        network, digest = self.network, sha256()
        noise = network.noise
        more = (noise.frequencies, noise.factor_min, noise.gamma_opt, noise.rn) if noise else ()
        for one in (network.frequencies, network.s, network.impedances, *more):
            digest.update(np.ascontiguousarray(one).tobytes())
        return digest.hexdigest()[:20]

    @cached_property
    def passive(self) -> bool:
        """Whether it gives out no more than goes in."""
        return bool(self.network.largest.max(initial=0.0) <= 1.0 + PASSIVE)

    @cached_property
    def reciprocal(self) -> bool:
        """Whether it is the same both ways; at equal impedances S says so by itself."""
        return self.network.asymmetry <= RECIPROCAL

    @cached_property
    def rational(self) -> Rational:
        """The best that is stable, and passive where the network is."""
        if self.known is not None:
            return self.known
        found = candidates(self.network)
        if not self.passive:
            return found[0]
        passive, rank = self._first_passive(found)
        if rank:  # held at their ends, even those of many poles may be
            firm, _ = self._first_passive(candidates(self.network, FIRMLY))
            both = [one for one in (passive, firm) if one is not None]
            passive = min(both, key=self._error, default=None)
        if passive is not None:
            return passive
        flat = found[-1]
        return Rational(flat.poles, flat.residues, flat.constant / max(1.0, float(np.linalg.norm(flat.constant, 2))))

    def _first_passive(self, found: list[Rational]) -> tuple[Rational | None, int]:
        """The first that can be made passive, and how many cannot before it."""
        omega = 2.0 * np.pi * self.network.frequencies
        for rank, one in enumerate(found):
            made = made_passive(one, omega, self.network.frequencies[0] == 0.0)
            if largest(made, places(made, omega)).max() <= 1.0 + STILL_PASSIVE:
                return made, rank
        return None, len(found)

    def _error(self, model: Rational) -> float:
        """How far a model is from the numbers, at most."""
        return float(np.abs(model.at(2.0 * np.pi * self.network.frequencies) - self.network.s).max(initial=0.0))

    def facts(self) -> list[str]:
        """What a person wants to know of the file, a line each; of the rational model only once that is there."""
        network = self.network
        first, last = (write(float(f), "Hz", 4) for f in network.frequencies[[0, -1]])
        own = ", ".join(dict.fromkeys(write(float(z), "Ω", 4) for z in network.impedances.real))
        largest = float(network.largest.max())
        ports = f"{network.ports} port{'s' * (network.ports > 1)} at {own}"
        found = [f"{ports}; {len(network.frequencies)} points, {first} to {last}"]
        if network.ports > 1:
            both = f"not reciprocal: S differs by up to {network.asymmetry:.2g} from the other way"
            found.append("reciprocal" if self.reciprocal else both)
        found.append(
            f"passive: waves come out at most {largest:.4g} times as large"
            if self.passive
            else f"not passive: waves come out up to {largest:.4g} times as large"
        )
        if network.noise is not None:
            found.append(f"noise data at {len(network.noise.frequencies)} frequencies")
        if "rational" in self.__dict__:
            follows = f"a stable model of {len(self.rational.poles)} poles and pairs follows S to {self.error:.2g}"
            found.append(f"causal: {follows}" if self.causal else f"not causal, or too long for its points: {follows}")
            if network.frequencies[0] > 0:
                found.append("at 0 Hz by that model")
        return found

    @cached_property
    def error(self) -> float:
        """The largest difference of S from that of the rational model, over the file's frequencies."""
        return float(np.abs(self._left).max())

    @property
    def causal(self) -> bool:
        """Whether a causal model follows it."""
        return self.error <= CAUSAL

    @cached_property
    def _left(self) -> Array:
        return self.network.s - self.rational.at(2.0 * np.pi * self.network.frequencies)

    @cached_property
    def _spline(self) -> Callable[..., Array]:
        from scipy.interpolate import CubicSpline  # what only draws does without

        return CubicSpline(self.network.frequencies, self._left)

    def left(self, frequencies: Array) -> Array:
        """What S has beside the rational model at frequencies [Hz]: exact at the file's, smooth between them, nothing
        outside."""
        found = np.zeros((len(frequencies), *self.network.s.shape[1:]), complex)
        own, inside = self.network.frequencies, self.covers(frequencies)
        if inside.any():
            found[inside] = self._spline(frequencies[inside]) if len(own) > 1 else self._left
            at = np.minimum(np.searchsorted(own, frequencies), len(own) - 1)
            exact = inside & (own[at] == frequencies)
            found[exact] = self._left[at[exact]]
        return found

    def left_slope(self, frequencies: Array) -> Array:
        """Its slope by the angular frequency [s]."""
        found = np.zeros((len(frequencies), *self.network.s.shape[1:]), complex)
        own, inside = self.network.frequencies, self.covers(frequencies)
        if inside.any() and len(own) > 1:
            found[inside] = self._spline(frequencies[inside], 1) / (2.0 * np.pi)
        return found

    def s(self, frequencies: Array) -> Array:
        """S at any frequencies [Hz]."""
        return self.rational.at(2.0 * np.pi * frequencies) + self.left(frequencies)

    def covers(self, frequencies: Array) -> Array:
        """Which of these lie in the file's range."""
        own = self.network.frequencies
        return (frequencies >= own[0]) & (frequencies <= own[-1])
