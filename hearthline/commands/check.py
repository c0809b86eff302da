"""`hearthline check`: whether a deck could be run."""

from __future__ import annotations

import argparse
from pathlib import Path

from hearthline.commands.status import DONE


def run(options: argparse.Namespace) -> int:
    """Reads the deck; nothing is solved. Raises HearthlineError."""
    from hearthline.core.formats.deck.plan import plan
    from hearthline.core.formats.deck.reader import read

    planned = plan(read(Path(options.deck), options.deck, options.corner))
    system = planned[0].system
    analyses = ", ".join(f"{task.line.head} at line {task.line.number}" for task in planned)
    print(
        f"{options.deck}: {len(system.netlist.elements)} parts, {len(system.nets)} nets; {analyses}; no mistake found"
    )
    return DONE
