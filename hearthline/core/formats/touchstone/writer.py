"""Writes Touchstone 1.1, and 2.0 where ports have impedances of their own."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np

from hearthline.core.formats.atomic import write_atomically
from hearthline.core.nports.n_port import NoiseParameters, NPort

PAIRS = 4
"""Of a line."""


def write_touchstone(path: Path, network: NPort, comments: tuple[str, ...] = (), newer: bool = False) -> None:
    """Version 1.1, or 2.0. Raises ValueError for impedances that the version has no place for: complex ones, and in 1.1 any
    that differ. Written whole or not at all."""
    write_atomically(path, "\n".join(_lines(network, comments, newer)) + "\n")


def _lines(network: NPort, comments: tuple[str, ...], newer: bool) -> Iterator[str]:
    impedances = np.asarray(network.impedances)
    if (impedances.imag != 0).any():
        raise ValueError("a file of S-parameters has real reference impedances; renormalise first")
    real = impedances.real.tolist()
    if not newer and len(set(real)) > 1:
        raise ValueError("version 1.1 has one reference impedance for all ports; renormalise first, or write 2.0")
    noise = network.noise
    yield from (f"! {line}" for line in comments)
    if newer:
        yield "[Version] 2.0"
    yield f"# Hz S RI R {real[0]:.17g}"
    if newer:
        yield f"[Number of Ports] {network.ports}"
        if network.ports == 2:
            yield "[Two-Port Data Order] 21_12"
        yield f"[Number of Frequencies] {len(network.frequencies)}"
        if noise is not None:
            yield f"[Number of Noise Frequencies] {len(noise.frequencies)}"
        yield "[Reference] " + " ".join(f"{one:.17g}" for one in real)
        yield "[Network Data]"
    yield from _points(network)
    if noise is not None:
        if newer:
            yield "[Noise Data]"
        yield from _noise(noise.seen_at(real[0]))
    if newer:
        yield "[End]"


def _points(network: NPort) -> Iterator[str]:
    ports = network.ports
    s = np.swapaxes(network.s, 1, 2) if ports == 2 else network.s
    rows = np.stack([s.real, s.imag], axis=-1).reshape(len(s), -1).tolist()
    width = 2 * (ports if ports > 2 else ports**2)
    for frequency, row in zip(network.frequencies.tolist(), rows, strict=True):
        first = f"{frequency!r} "
        for begin in range(0, len(row), width):
            for at in range(begin, begin + width, 2 * PAIRS):
                yield first + " ".join(map(repr, row[at : min(at + 2 * PAIRS, begin + width)]))
                first = ""


def _noise(noise: NoiseParameters) -> Iterator[str]:
    table = np.column_stack([
        noise.frequencies, 10.0 * np.log10(noise.factor_min), np.abs(noise.gamma_opt), np.degrees(np.angle(noise.gamma_opt)),
        noise.rn / noise.reference,
    ])  # fmt: skip
    for row in table.tolist():
        yield " ".join(map(repr, row))
