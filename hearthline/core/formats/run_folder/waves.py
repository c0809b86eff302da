"""S-parameters of a run as Touchstone files, one a condition."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from hearthline.core.analyses.scattering import impedance_label, wave
from hearthline.core.bench.readings import Run
from hearthline.core.data.dataset import Dataset
from hearthline.core.formats.touchstone import write_touchstone
from hearthline.core.nports.n_port import NPort

REFERENCE = 50.0
"""[Ω]"""


def write_waves(folder: Path, run: Run) -> None:
    """`ANALYSIS.sNp`, of several conditions `ANALYSIS-1.sNp` and so on; one that did not converge has none. Raises
    FileError."""
    for name, data in run.results.items():
        if data.kind != "scattering":
            continue
        for old in folder.glob(f"{name}*.s*p"):  # of an earlier run over other conditions
            if re.fullmatch(rf"{re.escape(name)}(-\d+)?\.s\d+p", old.name):
                old.unlink()
        for number, network in networks_of(data):
            ending = f"-{number}" if data.lanes > 1 else ""
            write_touchstone(folder / f"{name}{ending}.s{network.ports}p", network)


def networks_of(dataset: Dataset) -> Iterator[tuple[int, NPort]]:
    """The n-port of each lane that converged, at the same impedance at all ports, with its number from 1."""
    ports = 0
    while wave(ports + 1, ports + 1) in dataset.curves:
        ports += 1
    s = np.array([[dataset.curves[wave(a + 1, b + 1)] for b in range(ports)] for a in range(ports)])
    impedances = np.array([dataset.curves[impedance_label(a + 1)] for a in range(ports)])
    for lane in range(dataset.lanes):
        here = np.moveaxis(s[:, :, lane], -1, 0)
        if np.isfinite(here).all():
            yield lane + 1, NPort(dataset.points, here, impedances[:, lane, 0]).at(REFERENCE)
