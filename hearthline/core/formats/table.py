"""Tables as CSV files, in full double precision."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

import numpy as np

from hearthline.core.formats.atomic import write_atomically


def write_csv(path: Path, columns: Mapping[str, np.ndarray]) -> None:
    """Writes equally long columns under their names; a number reads back to the same float."""
    lines = [",".join(_quoted(name) for name in columns)]
    rows = np.column_stack(list(columns.values())).tolist()
    lines.extend(",".join(map(repr, row)) for row in rows)
    write_atomically(path, "\n".join(lines) + "\n")


def _quoted(name: str) -> str:
    return f'"{name}"' if "," in name else name
