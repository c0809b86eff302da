"""What the analyses at direct current have in common."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hearthline.core.analyses.kind import Counts, Piece
from hearthline.core.data.dataset import Dataset

if TYPE_CHECKING:
    from hearthline.core.engine.solve import Solution


def piece_of(solution: Solution, data: Dataset) -> Piece:
    """A solution with the dataset that was read from it."""
    failures = {int(lane): solution.failure(lane) for lane in solution.failed_lanes}
    counts = Counts(solution.iterations, int(solution.outcomes.size))
    return Piece(data, tuple(solution.log()), failures, solution.seconds, tuple(solution.notes()), counts)
