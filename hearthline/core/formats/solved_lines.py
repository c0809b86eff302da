"""Coupled lines as n-ports, solved again only when their file changes."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

from hearthline.core.errors import FileError
from hearthline.core.formats.lines_file import LinesFile
from hearthline.core.nports.model import Model


def model_of_lines(path: Path, shown: str) -> Model:
    """What lines are between their ends: near ones first. Raises FileError by the file's line."""
    try:
        status = path.stat()
    except OSError as error:
        raise FileError(f"cannot be read: {error.strerror}", shown) from None
    return _model(path, shown, status.st_mtime_ns, status.st_size)


@lru_cache(maxsize=64)
def _model(path: Path, shown: str, changed: int, size: int) -> Model:
    from hearthline.core.fields.lines.n_port import line_network  # only who has lines pays for them
    from hearthline.core.fields.lines.per_length import per_length

    file = LinesFile(path, shown)
    return Model(shown, line_network(per_length(file.section), file.frequencies()))
