"""Runs decks written in a test, through the same reader and engine as the command."""

from __future__ import annotations

from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np

from hearthline.core.formats.deck.plan import Planned, plan
from hearthline.core.formats.deck.reader import read


def planned(text: str, **options) -> list[Planned]:
    """The analyses of a deck; its title line is added."""
    with TemporaryDirectory() as folder:
        path = Path(folder) / "test.cir"
        path.write_text("test\n" + text)
        return plan(read(path, "test.cir", options.pop("corner", None)), **options)


def solved(text: str, **options) -> dict[str, np.ndarray]:
    """The table of the last analysis; every point must have been solved."""
    analysis = planned(text, **options)[-1]
    solution = analysis.run()
    assert not len(solution.failed_lanes), solution.failure(solution.failed_lanes[0])
    return analysis.columns(solution)


def point(text: str, **options) -> dict[str, float]:
    """The operating point of a deck."""
    return {name: float(values[0]) for name, values in solved(text + "\n.op\n", **options).items()}
