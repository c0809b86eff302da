"""Ranges of an axis that are said by their ends and a step."""

from __future__ import annotations

import numpy as np

from hearthline.core.errors import AnalysisError


def steps_of(owner: str, begin: float, end: float, step: float, maximum: float) -> int:
    """How many points from `begin` to `end` in steps. Raises AnalysisError for a step that never arrives, or too many."""
    if begin == end:
        return 1
    if step == 0:
        raise AnalysisError(owner, "a step of nothing never arrives; give a step, or points in its place")
    count = (end - begin) / step
    if count < 0:
        raise AnalysisError(owner, f"a step of {step:g} leads away from {end:g}; turn its sign")
    if not count < maximum:
        raise AnalysisError(owner, f"steps of {step:g} are more than {maximum:.0e} points; take larger ones")
    return int(np.floor(count * (1 + 1e-12) + 1e-9)) + 1
