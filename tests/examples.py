"""How many random cases a property is tried on."""

from __future__ import annotations

import os
from collections.abc import Iterable

from hypothesis import HealthCheck, settings

TIMES = int(os.environ.get("HEARTHLINE_EXAMPLES", "1"))
"""How many times the usual number; `make fuzz` sets it."""
MANY = TIMES > 1


def examples(count: int, allowed: Iterable[HealthCheck] = (), **others) -> settings:
    """So many usually, and many times that in `make fuzz`; what is `allowed` is said why where it is given."""
    return settings(max_examples=count * TIMES, suppress_health_check=list(allowed), **others)
