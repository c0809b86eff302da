"""The spectrum of a waveform, and readings of it: amplitudes of harmonics, distortion, signal to noise.

Curves are (lanes, points) over time x (points,) [s], which need not be evenly spaced: they are taken straight between points at
even times. Windows are those of scipy.signal (F. J. Harris, Proc. IEEE 66, 1978).
"""

from __future__ import annotations

import numpy as np

from hearthline.core.data.measure import Curve


def spectrum(curve: Curve, x: np.ndarray, count: int = 4096, window: str = "hann") -> tuple[np.ndarray, Curve]:
    """Frequencies [Hz] (bins,) and amplitudes (lanes, bins) of `count` even samples: a sine of amplitude 1 whose frequency is a
    whole number of periods reads 1."""
    from scipy.signal import get_window  # late: a second of import

    times = np.linspace(x[0], x[-1], int(count), endpoint=False)
    even = np.array([np.interp(times, x, row) for row in curve])
    weights = get_window(window, len(times))
    lines = np.fft.rfft(even * weights, axis=1) / weights.sum()
    lines[:, 1:] *= 2.0
    if len(times) % 2 == 0:
        lines[:, -1] /= 2.0
    return np.fft.rfftfreq(len(times), times[1] - times[0]), np.abs(lines)


def harmonics(curve: Curve, x: np.ndarray, fundamental: Curve | float, count: int = 10) -> Curve:
    """Amplitudes (lanes, count) of the fundamental [Hz] and its multiples, by least squares over the last whole periods, with
    the mean taken out."""
    periods = np.broadcast_to(np.asarray(fundamental, float).reshape(-1), (len(curve),))
    return np.array([_amplitudes(row, x, f, int(count)) for row, f in zip(curve, periods, strict=True)])


def _amplitudes(row: np.ndarray, x: np.ndarray, fundamental: float, count: int) -> np.ndarray:
    whole = np.floor((x[-1] - x[0]) * fundamental * (1 + 1e-9)) / fundamental if fundamental > 0 else 0.0
    if not whole > 0:
        return np.full(count, np.nan)
    times = np.linspace(x[-1] - whole, x[-1], max(64 * count, 4096), endpoint=False)
    phases = 2 * np.pi * fundamental * np.outer(np.arange(1, count + 1), times)
    even = np.interp(times, x, row)
    even = even - even.mean()
    return 2.0 * np.abs(np.exp(-1j * phases) @ even) / len(times)


def thd(curve: Curve, x: np.ndarray, fundamental: Curve | float, count: int = 10) -> Curve:
    """Total harmonic distortion: the root of the sum of squares of the harmonics from the second on, over the fundamental."""
    found = harmonics(curve, x, fundamental, int(count))
    return np.sqrt(np.sum(found[:, 1:] ** 2, axis=1, keepdims=True)) / found[:, :1]


def snr(curve: Curve, x: np.ndarray, fundamental: Curve | float, count: int = 10) -> Curve:
    """Signal to noise [dB]: the power of the fundamental over that of everything that is neither it, nor one of its
    harmonics, nor the mean; over the last whole periods."""
    periods = np.broadcast_to(np.asarray(fundamental, float).reshape(-1), (len(curve),))
    found = []
    for row, f in zip(curve, periods, strict=True):
        whole = np.floor((x[-1] - x[0]) * f * (1 + 1e-9)) / f
        times = np.linspace(x[-1] - whole, x[-1], max(64 * int(count), 4096), endpoint=False)
        even = np.interp(times, x, row)
        amplitudes = _amplitudes(row, x, f, int(count))
        noise = np.var(even) - 0.5 * np.sum(amplitudes**2)
        found.append([10 * np.log10(0.5 * amplitudes[0] ** 2 / noise) if noise > 0 else np.inf])
    return np.array(found)
