"""The folder that a command writes its results into: one command at a time."""

from __future__ import annotations

import fcntl
import os
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from hearthline.core.errors import FileError


@contextmanager
def folder_for_results(path: Path, shown: str) -> Iterator[Path]:
    """The folder, made where it is missing, while nobody else writes into it; what killed commands left there is gone.

    Raises FileError where it cannot be made, or another command is at work in it.
    """
    try:
        path.mkdir(parents=True, exist_ok=True)
        handle = os.open(path, os.O_RDONLY | os.O_DIRECTORY)
    except OSError as error:
        raise FileError(f"the folder cannot be made: {error.strerror}", shown) from None
    try:
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            raise FileError(
                "another command is writing its results into this folder; give each its own", shown
            ) from None
        except OSError:
            pass  # a file system without locks
        for pattern in (".*.csv.part", ".*.csv.*.new", ".verdict.*.new", "run.new"):
            for left in path.glob(pattern):
                with suppress(OSError):
                    left.unlink()
        yield path
    finally:
        os.close(handle)
