"""Between spectra and samples by tables, compiled; see `periodic.tones`."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from hearthline.core.compiled.codes import M, record
from hearthline.core.compiled.jit import inner


class Tables(NamedTuple):
    """From real and, behind them, imaginary parts of phasors, but the mean's, to samples: (samples, reals); and the way back
    (reals, samples)."""

    waves: np.ndarray
    means: np.ndarray


TABLES = record(Tables, M, M)


@inner
def product(a, b):
    """a b"""
    found = np.zeros((a.shape[0], b.shape[1]))
    for i in range(a.shape[0]):
        for k in range(a.shape[1]):
            factor, row = a[i, k], b[k]
            for j in range(b.shape[1]):
                found[i, j] += factor * row[j]
    return found


@inner
def parts_of(phasors):
    """Real parts of phasors (products, quantities), and behind them imaginary ones but the mean's."""
    products, count = phasors.shape
    found = np.zeros((2 * products - 1, count))
    for h in range(products):
        for j in range(count):
            found[h, j] = phasors[h, j].real
            if h > 0:
                found[products + h - 1, j] = phasors[h, j].imag
    return found


@inner
def put_phasors(parts, found):
    """Phasors of such parts into `found` (products, quantities)."""
    products, count = found.shape
    for h in range(products):
        for j in range(count):
            found[h, j] = complex(parts[h, j], parts[products + h - 1, j] if h > 0 else 0.0)
