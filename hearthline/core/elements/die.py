"""The die that parts stand on, as an element of the circuit: a net for each part, whose potential is what the part is warmer by
than the surroundings [K], and whose flows are powers [W].

Heat J_i flows into the die at each part. What is linear in it is Kirchhoff's integral θ of conductivity over temperature; a
finger is at the temperature T(θ) above a back at T_0 + R F (see `thermal.kirchhoff`), a part at the mean of its fingers f:

    x_i = mean T(T_0 + R F, θ_f) - T_0      θ_f = Σ_j M0_fj J_j + Σ_k s_ki      s_ki + τ_k ds_ki/dt = Σ_j Mk_ij J_j
    F = w_0 Σ J + Σ_l w_l b_l               b_l + τ_l db_l/dt = Σ_j J_j

with a state s for each part and time constant, and states b of what has come through to the back; M0 and all Mk together are
the thermal resistances times the conductivity, and all w are 1 together.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cache

import numpy as np

from hearthline.core.elements.device import DeviceKind, Numbers
from hearthline.core.models.layout import COUNT, NODE0
from hearthline.core.models.signature import (
    CAPACITANCE0,
    CHARGE,
    CHARGE0,
    CONDUCTANCE0,
    CURRENT,
    CURRENT0,
    VALUE0,
    Array,
    kernel,
)

HEADER = 12
"""Values before the others: parts, time constants, conductances, capacitances, values; the surroundings' temperature [K], the
resistance behind the die [K/W], exponent, conductivity [W/(m K)] at 300 K over 300 to the exponent, fingers, states of the
back, w_0. Then time constants, those of the back, its weights w, the place behind the last finger of each part, M0 (fingers,
parts), and Mk (parts, parts) of each time constant."""
REFERENCE = 300.0
"""[K] At which a conductivity is given."""


@kernel
def _kernel(wants: int, span: Array, nodes: Array, w: Array) -> int:
    """Terminals: the parts; unknowns: the heat that flows in at each [W], the states, time constant by time constant, and those
    of the back [W]."""
    for number in range(span[COUNT]):
        value = span[VALUE0]
        parts, times = int(w[value]), int(w[value + 1])
        conductances, capacitances = int(w[value + 2]), int(w[value + 3])
        value += number * int(w[value + 4])
        surroundings, behind = w[value + 5], w[value + 6]
        power, conductivity, fingers = w[value + 7] + 1.0, w[value + 8], int(w[value + 9])
        backs, at_once = int(w[value + 10]), w[value + 11]
        width, own_states = parts * (2 + times) + backs, parts * (2 + times)
        n = span[NODE0] + width * number
        f, s = span[CURRENT0] + width * number, span[CONDUCTANCE0] + conductances * number
        tau = value + 12
        back_tau = tau + times
        weights = back_tau + backs
        ends = weights + backs
        direct = ends + parts
        slow = direct + fingers * parts
        if wants & CURRENT:
            whole = 0.0
            for i in range(parts):
                whole += w[nodes[n + parts + i]]
            through = at_once * whole
            for k in range(backs):
                through += w[weights + k] * w[nodes[n + own_states + k]]
            back = max(surroundings + behind * through, 20.0)
            place = s
            for i in range(parts):
                w[f + i] = w[nodes[n + parts + i]]
                w[place] = 1.0
                place += 1
            first = 0
            for i in range(parts):
                own = place + 1
                w[f + parts + i], w[place] = w[nodes[n + i]] + surroundings, 1.0
                for j in range(parts + times + backs):
                    w[own + j] = 0.0
                place = own + parts + times + backs
                last = int(w[ends + i])
                for finger in range(first, last):
                    theta = 0.0
                    for j in range(parts):
                        theta += w[direct + parts * finger + j] * w[nodes[n + parts + j]]
                    for k in range(times):
                        theta += w[nodes[n + 2 * parts + k * parts + i]]
                    share, each = theta / conductivity, 1.0 / (last - first)
                    if abs(power) < 1e-9:
                        hot = back * math.exp(min(share, 50.0))
                    else:
                        least = 20.0**power if power > 0.0 else 1e5**power
                        hot = max(back**power + power * share, least) ** (1.0 / power)
                    by_theta = each * hot ** (1.0 - power) / conductivity
                    by_back = each * behind * (hot / back) ** (1.0 - power)
                    w[f + parts + i] -= each * hot
                    for j in range(parts):
                        w[own + j] -= by_theta * w[direct + parts * finger + j] + at_once * by_back
                    for k in range(times):
                        w[own + parts + k] -= by_theta
                    for k in range(backs):
                        w[own + parts + times + k] -= w[weights + k] * by_back
                first = last
            for k in range(times):
                for i in range(parts):
                    row = 2 * parts + k * parts + i
                    total = w[nodes[n + row]]
                    w[place] = 1.0
                    place += 1
                    for j in range(parts):
                        m = w[slow + (k * parts + i) * parts + j]
                        total -= m * w[nodes[n + parts + j]]
                        w[place] = -m
                        place += 1
                    w[f + row] = total
            for k in range(backs):
                w[f + own_states + k] = w[nodes[n + own_states + k]] - whole
                w[place] = 1.0
                place += 1
                for _ in range(parts):
                    w[place] = -1.0
                    place += 1
        if wants & CHARGE:
            q, slope = span[CHARGE0] + width * number, span[CAPACITANCE0] + capacitances * number
            for i in range(2 * parts):
                w[q + i] = 0.0
            for k in range(times):
                for i in range(parts):
                    row = 2 * parts + k * parts + i
                    w[q + row] = w[tau + k] * w[nodes[n + row]]
                    w[slope + k * parts + i] = w[tau + k]
            for k in range(backs):
                w[q + own_states + k] = w[back_tau + k] * w[nodes[n + own_states + k]]
                w[slope + times * parts + k] = w[back_tau + k]
    return 0


def _pattern(parts: int, times: int, backs: int) -> tuple[tuple[int, int], ...]:
    """Conductances in the order in which the kernel writes them."""
    found = [(i, parts + i) for i in range(parts)]
    for i in range(parts):
        row = parts + i
        found.append((row, i))
        found += [(row, parts + j) for j in range(parts)]
        found += [(row, 2 * parts + k * parts + i) for k in range(times)]
        found += [(row, (2 + times) * parts + k) for k in range(backs)]
    for k in range(times):
        for i in range(parts):
            row = 2 * parts + k * parts + i
            found.append((row, row))
            found += [(row, parts + j) for j in range(parts)]
    for k in range(backs):
        row = (2 + times) * parts + k
        found.append((row, row))
        found += [(row, parts + j) for j in range(parts)]
    return tuple(found)


def _nothing(instance: Numbers, card: Numbers, celsius: np.ndarray) -> list[np.ndarray]:
    raise NotImplementedError("a die is no part of a netlist")


@cache
def die_kind(parts: int, fingers: int, times: int, backs: int = 0) -> DeviceKind:
    """A die with so many parts, fingers, time constants, and states of its back."""
    states = tuple((2 * parts + k, 2 * parts + k) for k in range(parts * times + backs))
    values = HEADER + times + 2 * backs + parts + fingers * parts + times * parts**2
    return DeviceKind(
        _kernel, parts, _nothing, values, (), unknowns=_unknowns(parts, times, backs), pattern=_pattern(parts, times, backs),
        slopes=states, again=(die_kind, (parts, fingers, times, backs)),
    )  # fmt: skip


def _unknowns(parts: int, times: int, backs: int) -> tuple[str, ...]:
    flows = [f".heat{i + 1}" for i in range(parts)]
    states = [f".state{k + 1}.{i + 1}" for k in range(times) for i in range(parts)]
    return (*flows, *states, *(f".back{k + 1}" for k in range(backs)))


@dataclass(frozen=True)
class DieNumbers:
    """What the element is told of a die: the resistance behind it [K/W], exponent and conductivity [W/(m K)] at 300 K, the part
    of each finger (fingers,), M0 (fingers, parts) [1/m], time constants [s] at that conductivity and their matrices (times,
    parts, parts) [1/m]; time constants of what comes through to the back, and their weights."""

    behind: float
    exponent: float
    conductivity: float
    owners: np.ndarray
    direct: np.ndarray
    times: np.ndarray
    slow: np.ndarray
    back_times: np.ndarray
    weights: np.ndarray

    @property
    def kind(self) -> DeviceKind:
        """Of the element."""
        return die_kind(self.direct.shape[1], len(self.direct), len(self.times), len(self.back_times))

    def values(self, surroundings: np.ndarray) -> np.ndarray:
        """Of its kernel (lanes, values), at temperatures of the surroundings (lanes,) [K]."""
        kind, parts = self.kind, self.direct.shape[1]
        ends = np.cumsum(np.bincount(self.owners, minlength=parts))
        found = np.empty((len(surroundings), kind.values))
        found[:, :5] = parts, len(self.times), len(kind.conductance), len(kind.slopes), kind.values
        found[:, 5] = surroundings
        conductivity = self.conductivity / REFERENCE**self.exponent
        found[:, 6:HEADER] = (
            self.behind, self.exponent, conductivity, len(self.direct), len(self.back_times), 1.0 - self.weights.sum()
        )  # fmt: skip
        found[:, HEADER:] = np.concatenate(
            [self.times, self.back_times, self.weights, ends, self.direct.ravel(), self.slow.ravel()]
        )
        conducts = (surroundings / REFERENCE) ** self.exponent
        found[:, HEADER : HEADER + len(self.times)] /= conducts[:, None]
        return found
