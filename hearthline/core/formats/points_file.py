"""Reference points in a CSV file: two columns of numbers, x and y, with SI prefixes if one likes; a header is skipped."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np

from hearthline.core.errors import FileError, QuantityError
from hearthline.core.quantity import read

_BETWEEN = re.compile(r"[,;\t]|\s+")


def read_points(path: Path) -> np.ndarray:
    """The points (n, 2). Raises FileError with file and line."""
    try:
        lines = path.read_text(encoding="utf-8-sig").splitlines()
    except OSError as error:
        raise FileError(f"cannot be read: {error.strerror}", path.name) from None
    except UnicodeDecodeError:
        raise FileError("is not a text file in UTF-8", path.name) from None
    points: list[tuple[float, float]] = []
    header = False
    for number, line in enumerate(lines, 1):
        text = line.split("#")[0].strip()
        cells = [cell for cell in _BETWEEN.split(text) if cell]
        if not cells:
            continue
        try:
            x, y = (read(cell, "") for cell in cells[:2])
        except (QuantityError, ValueError):
            if not points and not header:
                header = True
                continue
            raise FileError(f"two numbers are wanted, x and y, and there is '{text}'", path.name, number) from None
        points.append((x, y))
    if not points:
        raise FileError("holds no points; write two columns, x and y", path.name)
    return np.array(points)
