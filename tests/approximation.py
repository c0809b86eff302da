"""`approx` without a hidden absolute tolerance: 1e-12 beside a femtofarad or a noise density passes whatever it is."""

from __future__ import annotations

import pytest


def approx(expected, rel: float | None = None, abs: float | None = None, nan: bool = False):
    """As in pytest, but a tolerance is absolute only where `abs` is given: 1e-6 of the expected value otherwise.

    An expected 0 then wants exactly 0, or an `abs`; `nan` takes no number for equal to none.
    """
    if rel is None and abs is None:
        rel = 1e-6
    return pytest.approx(expected, rel=0.0 if rel is None else rel, abs=0.0 if abs is None else abs, nan_ok=nan)  # noqa: TID251
