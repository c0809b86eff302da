"""`hearthline lines`: what coupled lines have per length, and what they are between their ends."""

from __future__ import annotations

import argparse
from pathlib import Path

import numpy as np

from hearthline.commands.status import DONE


def run(options: argparse.Namespace) -> int:
    """Writes `lines.csv`, and `ports.sNp`. Raises HearthlineError for wrong input."""
    from hearthline.core.fields.lines.n_port import line_network
    from hearthline.core.fields.lines.per_length import per_length
    from hearthline.core.formats.lines_file import LinesFile
    from hearthline.core.formats.results_folder import folder_for_results
    from hearthline.core.formats.table import write_csv
    from hearthline.core.formats.touchstone.writer import write_touchstone
    from hearthline.stopping import heed_signals

    heed_signals()
    file = LinesFile(Path(options.file), options.file)
    with folder_for_results(Path(options.out), options.out) as out:
        found, frequencies = per_length(file.section), file.frequencies()
        series, across = found.impedance(frequencies[1:]), found.admittance(frequencies[1:])
        omega = 2.0 * np.pi * frequencies[1:]
        columns = {"frequency": frequencies[1:]}
        count = len(found.capacitance)
        for name, values in (
            ("r", series.real), ("l", series.imag / omega[:, None, None]), ("g", across.real),
            ("c", across.imag / omega[:, None, None]),
        ):  # fmt: skip
            columns |= {f"{name}_{i + 1}_{j + 1}": values[:, i, j] for i in range(count) for j in range(i + 1)}
        write_csv(out / "lines.csv", columns)
        write_touchstone(out / f"ports.s{2 * count}p", line_network(found, frequencies))
    return DONE
