"""Readings of what repeats: harmonics and mixing products by their numbers, powers, and where a gain gives way as power rises.

Curves are (lanes, points) over the frequencies x of the products (points,) [Hz], the mean first.
"""

from __future__ import annotations

import numpy as np

from hearthline.core.data.measure import Curve, Mistake

MILLIWATT = 1e-3


def harmonic(curve: Curve, x: np.ndarray, number: float) -> Curve:
    """The phasor of a harmonic (lanes, 1); 0 is the mean. Raises Mistake for one that is not there."""
    k = _whole(number, "a harmonic")
    if not 0 <= k < curve.shape[1]:
        raise Mistake(f"has harmonics 0 to {curve.shape[1] - 1}, and not {k}")
    return curve[:, k : k + 1]


def mixed(curve: Curve, x: np.ndarray, first: Curve, second: Curve, k1: float, k2: float) -> Curve:
    """The phasor of the product k1 of the first tone and k2 of the second (lanes, 1), whose numbers stand in two curves. Of a
    product below 0 Hz it is the conjugate of that above. Raises Mistake for one that is not there."""
    wanted = _whole(k1, "a product"), _whole(k2, "a product")
    for sign in (1, -1):
        places = np.flatnonzero((first[0] == sign * wanted[0]) & (second[0] == sign * wanted[1]))
        if len(places):
            found = curve[:, places[:1]]
            return found if sign > 0 else np.conj(found)
    order = int((np.abs(first[0]) + np.abs(second[0])).max())
    raise Mistake(f"has products up to order {order}, and not {wanted[0]:d}, {wanted[1]:d}")


def dbc(curve: Curve, x: np.ndarray, number: float) -> Curve:
    """A harmonic over the first [dB]."""
    return 20.0 * np.log10(np.abs(harmonic(curve, x, number)) / np.abs(harmonic(curve, x, 1)))


def dbm(power: np.ndarray) -> np.ndarray:
    """A power [W] over 1 mW, in decibels."""
    return 10.0 * np.log10(np.real(power) / MILLIWATT)


def compression(gain: np.ndarray, power: np.ndarray, drop: float = 1.0) -> np.ndarray:
    """Where a gain (sweeps, powers) [dB] has fallen by `drop` below that of the lowest power: the power there (sweeps, 1), in
    whatever it is given, straight between points; NaN where it does not fall so far."""
    found = np.full((len(gain), 1), np.nan)
    for k, (row, over) in enumerate(zip(gain, power, strict=True)):
        order = np.argsort(over, kind="stable")
        below = row[order] - (row[order[0]] - drop)
        places = np.flatnonzero((below[:-1] > 0) & (below[1:] <= 0))
        if len(places):
            j = int(places[0])
            part = below[j] / (below[j] - below[j + 1])
            found[k] = over[order[j]] + part * (over[order[j + 1]] - over[order[j]])
    return found


def intercept(wanted: np.ndarray, unwanted: np.ndarray, order: float = 3.0) -> np.ndarray:
    """Where lines of slope 1 and of slope `order` (dB a dB) through the lowest power of a sweep (sweeps, powers) meet: the
    wanted product's power there (sweeps, 1) [dBm]."""
    return wanted[:, :1] + (wanted[:, :1] - unwanted[:, :1]) / (order - 1.0)


def lock_range(shift: Curve, x: np.ndarray, current: float, number: float = 1.0) -> Curve:
    """The width of the band [Hz] of a sine of current [A, peak] about a harmonic of an oscillation, into the net that a `shift`
    [s/C] over a period x is of, within which it locks the oscillation (lanes, 1).

    With the phase's answer v(t), dα/dt = mean of v(t + α) i(t): a current at n f0 holds a difference of frequency of up to
    f0 I |V_n| / 2 either way, n times as much at its own frequency (Adler 1946, generalised; Maffezzoni 2008).
    """
    k = _whole(number, "a harmonic")
    if k < 1:
        raise Mistake(f"locks at harmonics from 1 on, and not {k}")
    frequency = 1.0 / (len(x) * (x[1] - x[0]))
    phasor = 2.0 * np.abs(np.fft.rfft(shift, axis=1)[:, k : k + 1]) / shift.shape[1]
    return k * frequency * abs(current) * phasor


def flicker_corner(noise: Curve, x: np.ndarray) -> Curve:
    """The offset [Hz] where the parts of a phase's noise that fall with the square and with the cube of the offset are equal
    (lanes, 1); both from the ends of the curve."""
    white, coloured = _by_slope(noise, x)
    return np.where(white > 0, coloured / np.where(white > 0, white, 1.0), np.nan)[:, None]


def accumulated_jitter(noise: Curve, x: np.ndarray, frequency: Curve, cycles: float = 1.0) -> Curve:
    """Root mean square of the time that so many cycles of an oscillation at `frequency` [Hz] are too long or too short (lanes,
    1) [s], from the noise of its phase (lanes, offsets) [1/Hz], single sideband.

    σ² = 8 / ω0² times the integral of L(f) sin²(π f τ): c τ of a part c f0² / f²; of one of the cube it grows without end with
    the time that is waited, so that the lowest offset is where it begins (as of any text on jitter; Demir 2002).
    """
    white, coloured = _by_slope(noise, x)
    carrier = np.reshape(frequency, (-1, 1))[:, 0]
    span = cycles / carrier
    variance = white * span / carrier**2
    low = np.maximum(np.pi * float(x[0]) * span, 1e-12)
    # of 1/f³: π² τ² times the integral of sin²u / u³ from u = π f τ on
    variance += coloured * 2.0 / (np.pi * carrier) ** 2 * np.pi**2 * span**2 * _tail(low)
    return np.sqrt(variance)[:, None]


def _tail(low: np.ndarray) -> np.ndarray:
    """The integral of sin²u / u³ from `low` on, in closed form by the cosine integral."""
    from scipy.special import sici  # late: it is rarely wanted

    return np.sin(low) ** 2 / (2.0 * low**2) + np.sin(2.0 * low) / (2.0 * low) - sici(2.0 * low)[1]


def _by_slope(noise: Curve, x: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """a and b of a / f² + b / f³ through both ends of a curve, each at least 0 (lanes,)."""
    low, high = noise[:, 0] * x[0] ** 2, noise[:, -1] * x[-1] ** 2
    coloured = np.maximum((low - high) / (1.0 / x[0] - 1.0 / x[-1]), 0.0) if len(x) > 1 else np.zeros(len(noise))
    return np.maximum(high - coloured / x[-1], 0.0), coloured


def _whole(number: float, what: str) -> int:
    if number != int(number):
        raise Mistake(f"takes the number of {what}, which is whole, and not {number:g}")
    return int(number)
