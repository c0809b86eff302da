"""A part that a file of S-parameters is: its ports against a common terminal."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache, cached_property
from weakref import WeakKeyDictionary

import numpy as np

from hearthline.core.constants import BOLTZMANN
from hearthline.core.elements.device import DeviceKind, Dispersion, Numbers, Readout
from hearthline.core.elements.kind import ElementKind, Point, Symbol, ValueField
from hearthline.core.elements.outline import Outline
from hearthline.core.models.layout import COUNT, NODE0
from hearthline.core.models.signature import (
    CAPACITANCE0,
    CHARGE,
    CHARGE0,
    CONDUCTANCE0,
    CURRENT,
    CURRENT0,
    READOUT,
    READOUT0,
    VALUE0,
    Array,
    kernel,
)
from hearthline.core.nports.model import Model
from hearthline.core.nports.n_port import NoiseParameters
from hearthline.core.nports.passivity import largest, places
from hearthline.core.quantity import write

COMMON = "c"
"""The last terminal."""
LETTER = "Y"
DRAWN = 4
"""Ports that a drawn part may have."""
HEADER = 5
"""Values before those of the ports: how many ports, states, conductances, capacitances, values."""


@kernel
def _kernel(wants: int, span: Array, nodes: Array, w: Array) -> int:
    """b = S a with S rational, u = v + R i at each port driving states of its own:

        v_k - R_k i_k = sum of D_kj u_j + sum of C_ks x_s        x_s' / ω_s = α_s x_s + β_s x_t + γ_s u_j

    Terminals: the ports and the common one; unknowns: the ports' currents [A], the states [V]. values: see `_values`.
    """
    for k in range(span[COUNT]):
        value = span[VALUE0]
        ports, states = int(w[value]), int(w[value + 1])
        conductances, capacitances = int(w[value + 2]), int(w[value + 3])
        value += k * int(w[value + 4])
        width = ports + 1 + ports + states
        n, f, s = span[NODE0] + width * k, span[CURRENT0] + width * k, span[CONDUCTANCE0] + conductances * k
        r = value + 5
        d, c = r + ports, r + ports + ports * ports
        g = c + ports * states
        common, first = w[nodes[n + ports]], n + ports + 1
        if wants & CURRENT:
            place, total = s, 0.0
            for p in range(ports):
                current = w[nodes[first + p]]
                w[f + p] = current
                total += current
                w[place], w[place + 1] = 1.0, -1.0
                place += 2
            w[f + ports] = -total
            for p in range(ports):
                out = w[nodes[n + p]] - common - w[r + p] * w[nodes[first + p]]
                at_common = -1.0
                for j in range(ports):
                    own, through = 1.0 if j == p else 0.0, w[d + p * ports + j]
                    out -= through * (w[nodes[n + j]] - common + w[r + j] * w[nodes[first + j]])
                    w[place], w[place + 1] = own - through, -own * w[r + p] - through * w[r + j]
                    at_common += through
                    place += 2
                w[place] = at_common
                place += 1
                for j in range(states):
                    out -= w[c + p * states + j] * w[nodes[first + ports + j]]
                    w[place] = -w[c + p * states + j]
                    place += 1
                w[f + ports + 1 + p] = out
            for j in range(states):
                alpha, beta, gamma = w[g + 6 * j], w[g + 6 * j + 1], w[g + 6 * j + 2]
                port, other = int(w[g + 6 * j + 3]), int(w[g + 6 * j + 4])
                drive = w[nodes[n + port]] - common + w[r + port] * w[nodes[first + port]]
                w[f + 2 * ports + 1 + j] = (
                    -alpha * w[nodes[first + ports + j]] - beta * w[nodes[first + ports + other]] - gamma * drive
                )
                w[place], w[place + 1], w[place + 2] = -alpha, -beta, -gamma
                w[place + 3], w[place + 4] = gamma, -gamma * w[r + port]
                place += 5
        if wants & CHARGE:
            q, slope = span[CHARGE0] + width * k, span[CAPACITANCE0] + capacitances * k
            for j in range(2 * ports + 1):
                w[q + j] = 0.0
            for j in range(states):
                w[q + 2 * ports + 1 + j] = w[g + 6 * j + 5] * w[nodes[first + ports + j]]
                w[slope + j] = w[g + 6 * j + 5]
        if wants & READOUT:
            for p in range(ports):
                w[span[READOUT0] + ports * k + p] = w[nodes[first + p]]
    return 0


def _pattern(ports: int, states: int, driven: list[tuple[int, int]]) -> tuple[tuple[int, int], ...]:
    """Conductances in the order in which the kernel writes them; `driven` is the port of each state, and its partner."""
    common, first = ports, ports + 1
    found: list[tuple[int, int]] = []
    for p in range(ports):
        found += [(p, first + p), (common, first + p)]
    for p in range(ports):
        for j in range(ports):
            found += [(first + p, j), (first + p, first + j)]
        found.append((first + p, common))
        found += [(first + p, first + ports + j) for j in range(states)]
    for j, (port, other) in enumerate(driven):
        row = first + ports + j
        found += [(row, row), (row, first + ports + other), (row, port), (row, common), (row, first + port)]
    return tuple(found)


class _Lowered:
    """A model as numbers of the kernel."""

    def __init__(self, model: Model):
        self.model = model
        rational = model.rational
        self.ports = model.network.ports
        self.root = np.sqrt(model.network.impedances.real)
        self.states, self.outputs = self._states(rational.poles, rational.real_residues)
        driven = [(int(row[3]), int(row[4])) for row in self.states]
        self.pattern = _pattern(self.ports, len(driven), driven)
        first = 2 * self.ports
        self.places = np.array(
            [
                [first + (p * (2 * self.ports + 1 + len(driven))) + 2 * j for j in range(self.ports)]
                for p in range(self.ports)
            ]
        )
        direct = rational.constant * self.root[:, None] / self.root
        size = len(driven)
        tail = [self.root**2, direct.ravel(), self.outputs.ravel(), self.states.ravel()]
        count = HEADER + sum(len(one) for one in tail)
        header = [self.ports, size, len(self.pattern), size, count]
        self.values = np.concatenate([np.array(header, float), *tail])

    def _states(self, poles: np.ndarray, residues: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Rows α, β, γ, port, partner, 1/ω [s] of the states, and what each adds at each port (ports, states)."""
        rows: list[tuple[float, ...]] = []
        columns: list[np.ndarray] = []
        for port in range(self.ports):
            k = 0
            for p in poles:
                size = abs(p)
                here = len(rows)
                for one in (0, 1) if p.imag > 0 else (0,):
                    turn = (p.imag if one == 0 else -p.imag) / size
                    drive = (2.0 if p.imag > 0 else 1.0) if one == 0 else 0.0
                    partner = here + (1 - one if p.imag > 0 else 0)
                    rows.append((p.real / size, turn, drive, port, partner, 1.0 / size))
                    columns.append(residues[k][:, port] / size * self.root / self.root[port])
                    k += 1
        return np.array(rows).reshape(-1, 6), np.array(columns).reshape(-1, self.ports).T

    def dispersion(self, values: np.ndarray, omega: np.ndarray) -> Dispersion:
        """What the file says beside the rational model."""
        frequencies = omega / (2.0 * np.pi)
        entries = np.concatenate([self.places.ravel(), self.places.ravel() + 1, self.common])
        return Dispersion(
            entries, self._gains(self.model.left(frequencies)), self._gains(self.model.left_slope(frequencies))
        )

    @cached_property
    def share(self) -> float:
        """By which the waves of a network with gain are multiplied so that it has none."""
        if self.model.passive:
            return 1.0
        omega = 2.0 * np.pi * self.model.network.frequencies
        return 1.0 / max(
            float(largest(self.model.rational, places(self.model.rational, omega)).max()),
            float(self.model.network.largest.max()),
        )

    def without_gain(self, conductances: np.ndarray) -> np.ndarray:
        """The entries with waves of that share."""
        first = self.ports + 1
        made = conductances.copy()
        for k, (row, column) in enumerate(self.pattern):
            port = row - first
            if 0 <= port < self.ports:
                alone = {port: 1.0, self.ports: -1.0, row: -(self.root[port] ** 2)}.get(column, 0.0)
                made[k] = alone + self.share * (conductances[k] - alone)
        return made

    @property
    def common(self) -> np.ndarray:
        """Where the entries of the common terminal stand."""
        return self.places[:, -1] + 2

    def _gains(self, s: np.ndarray) -> np.ndarray:
        through = s * self.root[:, None] / self.root
        by_current = -through * self.root**2
        count = len(s)
        return np.hstack([-through.reshape(count, -1), by_current.reshape(count, -1), through.sum(axis=2)])

    def correlation(self, values: np.ndarray, omega: np.ndarray, kelvin: float) -> np.ndarray:
        """Of the ports' equations [V²/Hz]: of a passive network 4kT R (1 - S Sᴴ) (Bosma, Philips Research Reports 1967); of
        another what its noise parameters say, or nothing."""
        frequencies = omega / (2.0 * np.pi)
        s = self.model.s(frequencies)
        if self.model.passive:
            waves = BOLTZMANN * kelvin * (np.eye(self.ports) - s @ np.swapaxes(s.conj(), 1, 2))
        elif self.model.network.noise is not None:
            waves = _waves_of(self.model.network.noise, self.model.network.impedances[0].real, s, frequencies)
        else:
            waves = np.zeros_like(s)
        return 4.0 * self.root[:, None] * _not_negative(waves) * self.root


def _not_negative(matrices: np.ndarray) -> np.ndarray:
    """Without what rounding, or a file with gain, makes negative."""
    sizes, ways = np.linalg.eigh(0.5 * (matrices + np.swapaxes(matrices.conj(), 1, 2)))
    return (ways * np.maximum(sizes, 0.0)[:, None, :]) @ np.swapaxes(ways.conj(), 1, 2)


def _waves_of(noise: NoiseParameters, reference: float, s: np.ndarray, frequencies: np.ndarray) -> np.ndarray:
    """Correlation of the waves that a noisy two-port sends out (Wedge and Rutledge, IEEE Trans. Microwave Theory Tech. 1992),
    the ends of its noise data held outside of them."""
    seen = noise.seen_at(reference)
    own = seen.frequencies
    least = np.interp(frequencies, own, seen.factor_min)
    gamma = np.interp(frequencies, own, seen.gamma_opt.real) + 1j * np.interp(frequencies, own, seen.gamma_opt.imag)
    hot = BOLTZMANN * 290.0
    t = 4.0 * np.interp(frequencies, own, seen.rn) / reference / np.abs(1.0 + gamma) ** 2
    s11, s21 = s[:, 0, 0], s[:, 1, 0]
    found = np.zeros_like(s)
    found[:, 0, 0] = hot * ((least - 1.0) * (np.abs(s11) ** 2 - 1.0) + t * np.abs(1.0 - s11 * gamma) ** 2)
    found[:, 1, 1] = hot * np.abs(s21) ** 2 * (least - 1.0 + t * np.abs(gamma) ** 2)
    found[:, 0, 1] = -hot * s21.conj() * gamma.conj() * t + s11 / s21 * found[:, 1, 1]
    found[:, 1, 0] = found[:, 0, 1].conj()
    return found


_KINDS: WeakKeyDictionary[Model, DeviceKind] = WeakKeyDictionary()


def kind_of(model: Model) -> DeviceKind:
    """What the engine sees of a model; one for all parts of the same file."""
    if model not in _KINDS:
        _KINDS[model] = _made(model)
    return _KINDS[model]


def model_of(kind: DeviceKind) -> Model:
    """What a kind was made of."""
    assert kind.again is not None
    (model,) = kind.again[1]
    return model


def _made(model: Model) -> DeviceKind:
    lowered = _Lowered(model)
    ports, states = lowered.ports, len(lowered.states)
    first = 2 * ports + 1

    def prepare(instance: Numbers, card: Numbers, celsius: np.ndarray) -> list[np.ndarray]:
        ones = np.ones(len(celsius))
        return [value * ones for value in lowered.values]

    frequencies = model.network.frequencies
    return DeviceKind(
        _kernel, ports + 1, prepare, len(lowered.values), tuple(Readout(f"i{k + 1}", "A") for k in range(ports)),
        unknowns=(*(f".i{k + 1}" for k in range(ports)), *(f".x{k + 1}" for k in range(states))),
        dispersion=lowered.dispersion, correlation=lowered.correlation,
        pattern=lowered.pattern, slopes=tuple((first + j, first + j) for j in range(states)), conducts=_conducting(model),
        without_gain=None if model.passive else lowered.without_gain, share=lowered.share,
        fingerprint=model.fingerprint, known=(float(frequencies[0]), float(frequencies[-1])),
        poles=tuple(model.rational.poles.tolist()),
        messages=tuple(_messages(model)), again=(kind_of, (model,)),
    )  # fmt: skip


def _messages(model: Model) -> Iterator[str]:
    """What a person must know of a file before a result is trusted."""
    first = float(model.network.frequencies[0])
    if first > 0:
        yield f"{model.name} begins at {write(first, 'Hz', 4)}; at 0 Hz a rational model stands in"
    if not model.causal:
        yield (
            f"no stable model follows {model.name}: S is up to {model.error:.2g} off in time and outside of its frequencies; "
            "it is not causal, or has too few points for its length"
        )
    if not model.passive:
        over = float(model.network.largest.max())
        noise = "its noise is that of its noise data" if model.network.noise else "it has no noise data, and is quiet"
        yield f"{model.name} gives out more than goes in (waves up to {over:.4g} times as large); {noise}"


def _conducting(model: Model) -> tuple[tuple[int, int], ...]:
    """Between which terminals a direct current flows: the last is the common one."""
    s = model.s(np.zeros(1))[0].real
    ports = len(s)
    small = 1e-9
    found = [(p, j) for p in range(ports) for j in range(p) if abs(s[p, j]) + abs(s[j, p]) > small]
    return tuple(found + [(p, ports) for p in range(ports) if np.abs(s[p] - np.eye(ports)[p]).max() > small])


# -- as drawn


@cache
def terminal_names(ports: int) -> tuple[str, ...]:
    """`1`, `2` and so on, and the common one."""
    return (*(str(k + 1) for k in range(ports)), COMMON)


def _places(ports: int) -> tuple[tuple[str, Point], ...]:
    """Ports on the left and on the right, two apart, the common terminal below."""
    left = (ports + 1) // 2
    found = []
    for k in range(ports):
        side, row, here = (-4, k, left) if k < left else (4, k - left, ports - left)
        found.append((str(k + 1), (side, 4 * row - 2 * (here - 1))))
    return (*found, (COMMON, (0, _height(ports))))


def _height(ports: int) -> int:
    return 4 if ports <= 2 else 4 * ((ports + 1) // 2)


def _outline(ports: int) -> Outline:
    bottom = _height(ports) - 1.6
    shape = Outline().box(-2.6, -bottom, 2.6, bottom).line((0, bottom), (0, _height(ports)))
    for _, (x, y) in _places(ports)[:-1]:
        edge = -2.6 if x < 0 else 2.6
        shape = shape.line((x, y), (edge, y)).line((edge, y - 0.45), (edge * 0.78, y), (edge, y + 0.45))
    return shape


def form_name(ports: int) -> str:
    """Of the symbol with so many ports."""
    return f"{ports}-port"


_MEANING = "file of S-parameters, in the folder `devices` of the project"
_FIELDS = (ValueField("file", "", _MEANING, first="line.s2p", kind="file"),)

N_PORT = ElementKind(
    LETTER, "n-port", {
        form_name(n): Symbol(LETTER, _places(n), _FIELDS, offered=f"file of S-parameters with {n} port{'s' * (n > 1)}")
        for n in range(1, DRAWN + 1)
    },
    outlines={form_name(n): _outline(n) for n in range(1, DRAWN + 1)},
)  # fmt: skip
