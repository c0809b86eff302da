"""Laws that several devices share, written from their sources for the tests: temperature laws, junction charges and shot noise
of the Berkeley equations (Vladimirescu and Liu, ERL-M80/7, 1980; Nagel, ERL-M520, 1975), values from memory."""

from __future__ import annotations

import numpy as np
from scipy.constants import e as q
from scipy.constants import epsilon_0, k
from scipy.integrate import quad

TN = 300.15
EPS_OX = 3.9 * epsilon_0
TEMPERATURES = (233.15, 300.15, 423.15)


def ut(t: float) -> float:
    """kT/q [V]."""
    return k * t / q


def gap(t: float) -> float:
    """Band gap of silicon [eV]."""
    return 1.16 - 7.02e-4 * t * t / (t + 1108.0)


def potential(phi: float, t: float, tn: float = TN) -> float:
    """A built-in or surface potential [V] at t: ni² goes as T³ exp(-Eg/kT)."""
    ratio = (t / tn) ** 3 * np.exp(gap(tn) / ut(tn) - gap(t) / ut(t))
    return phi * t / tn - ut(t) * np.log(ratio)


def junction_capacitance(v: float, cj: float, vj: float, mj: float, fc: float, t: float) -> float:
    """At a voltage and temperature: cj(T) / (1 - v/vj(T))^mj, straight beyond fc vj."""
    now = potential(vj, t)
    cj = cj * (1 + mj * (4e-4 * (t - TN) - (now / vj - 1)))
    if v < fc * now:
        return cj / (1 - v / now) ** mj
    return cj / (1 - fc) ** (1 + mj) * (1 - fc * (1 + mj) + mj * v / now)


def junction_charge(v: float, *card: float) -> float:
    """Its integral from 0."""
    middle = card[3] * potential(card[1], card[4])
    return quad(junction_capacitance, 0, v, card, epsabs=0, epsrel=1e-11, points=[middle] if 0 < middle < v else None)[
        0
    ]


def shot(current: float, v: float, t: float) -> float:
    """2 q (If + Ir) of a junction of ideality 1, in the form that is Nyquist's at rest for any: 2 q I coth(v / 2 UT)."""
    return 2 * q * current / np.tanh(v / (2 * ut(t)))
