"""`hearthline ports`: the S-parameters of whatever an n-port may be."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from hearthline.commands.status import DONE


def run(options: argparse.Namespace) -> int:
    """Writes `ports.sNp`. Raises HearthlineError for wrong input."""
    from hearthline.core.errors import FileError
    from hearthline.core.formats.network_files import ENDINGS, kind_of
    from hearthline.core.formats.results_folder import folder_for_results
    from hearthline.core.formats.touchstone.writer import write_touchstone
    from hearthline.stopping import heed_signals

    heed_signals()
    path = Path(options.file)
    kind = kind_of(path)
    if kind is None:
        raise FileError(f"a file is known by its ending, as one of {ENDINGS}", options.file)
    with folder_for_results(Path(options.out), options.out) as out:
        model = kind(path, options.file, True)
        newer = len(set(model.network.impedances.real.tolist())) > 1
        write_touchstone(out / f"ports.s{model.network.ports}p", model.network, (f"from {path.name}",), newer)
        for line in model.facts():
            print(f"{options.file}: {line}", file=sys.stderr)
    return DONE
