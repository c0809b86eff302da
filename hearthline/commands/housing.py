"""`hearthline housing`: resonances of a box of metal, and what it does between ports in it."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

import numpy as np

from hearthline.commands.status import DONE


def run(options: argparse.Namespace) -> int:
    """Writes `modes.csv`, and with ports `ports.sNp`. Raises HearthlineError for wrong input."""
    from hearthline.core.fields.box import HousingError
    from hearthline.core.fields.driven import driven
    from hearthline.core.fields.grid import Grid
    from hearthline.core.fields.mesh import effort
    from hearthline.core.fields.refining import refined
    from hearthline.core.formats.housing_file import HousingFile
    from hearthline.core.formats.results_folder import folder_for_results
    from hearthline.core.formats.table import write_csv
    from hearthline.core.formats.touchstone.writer import write_touchstone
    from hearthline.stopping import heed_signals

    heed_signals()
    file = HousingFile(Path(options.file), options.file)
    housing = file.housing
    with folder_for_results(Path(options.out), options.out) as out:
        try:

            def told(grid: Grid) -> None:
                size = f"{' x '.join(map(str, grid.cells))} cells, {effort(int(np.prod(grid.cells)))}"
                print(f"{options.file}: {size}", file=sys.stderr)

            found = refined(housing, told)
            modes, answer = found.modes, driven(found.grid) if housing.ports else None
        except HousingError as error:
            raise file.problem(error) from None
        count = len(modes.frequencies)
        table = {
            "mode": np.array([str(k + 1) for k in range(count)]), "frequency": modes.frequencies, "q": modes.quality,
            "q_wall": modes.walls, "q_fill": modes.filling,
        }  # fmt: skip
        write_csv(out / "modes.csv", table)
        if answer is not None:
            impedances = answer.network.impedances
            newer = len(set(impedances.real.tolist())) > 1
            said = (f"port {one.number} from {one.begin} to {one.end} m" for one in housing.ports)
            write_touchstone(out / f"ports.s{len(housing.ports)}p", answer.network, tuple(said), newer)
    if housing.accuracy is not None:
        words = f"resonances moved by up to {100 * found.moved:.2g} %; about {100 * found.left:.2g} % are left"
        more = "" if found.enough else "; no finer mesh is allowed"
        print(f"{options.file}: {words}{more}", file=sys.stderr)
    if count < housing.modes:
        print(f"{options.file}: the mesh has {count} resonances; make it finer for more", file=sys.stderr)
    return DONE
