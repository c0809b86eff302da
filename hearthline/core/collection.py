"""Python's collector of circles of objects, out of the way while very many objects are made that all stay."""

from __future__ import annotations

import gc
from collections.abc import Iterator
from contextlib import contextmanager


@contextmanager
def no_collection() -> Iterator[None]:
    """It would look through all of them again and again; a third of the time that a large deck takes."""
    was = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was:
            gc.enable()
