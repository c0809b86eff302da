"""How many threads work at a time."""

from __future__ import annotations

import os


def worker_count() -> int:
    """As many as processors that this process may use."""
    return max(1, len(os.sched_getaffinity(0)))
