"""Tables as CSV files, in full double precision."""

from __future__ import annotations

import os
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from pathlib import Path

import numpy as np

from hearthline.core.errors import FileError
from hearthline.core.formats.atomic import write_atomically


def write_csv(path: Path, columns: Mapping[str, np.ndarray]) -> None:
    """Writes equally long columns under their names; a number reads back to the same float, a text is quoted where it holds a
    comma. Raises FileError."""
    write_atomically(path, csv_text(columns))


def csv_text(columns: Mapping[str, np.ndarray]) -> str:
    """The same as a text."""
    lines = [",".join(_quoted(name) for name in columns)]
    texts = [_texts(values) for values in columns.values()]
    lines.extend(map(",".join, zip(*texts, strict=True)))
    return "\n".join(lines) + "\n"


def _texts(values: np.ndarray) -> list[str]:
    array = np.asarray(values)
    return list(map(_quoted if array.dtype.kind in "US" else repr, array.tolist()))


class TableFile:
    """A table that is written row by row and appears under its name only when it is finished. Raises FileError."""

    def __init__(self, path: Path, header: Sequence[str]):
        self.path, self.part = path, path.with_name(f".{path.name}.part")
        with self._said():
            self.file = open(self.part, "w", encoding="utf-8")  # noqa: SIM115  closed at exit
            self.file.write(",".join(map(_quoted, header)) + "\n")

    @contextmanager
    def _said(self) -> Iterator[None]:
        try:
            yield
        except OSError as error:
            raise FileError(f"cannot be written: {error.strerror}; this table is lost", str(self.path)) from None

    def __enter__(self) -> TableFile:
        return self

    def write(self, rows: np.ndarray) -> None:
        """Adds rows (count, columns)."""
        with self._said():
            self.file.writelines(",".join(map(repr, row)) + "\n" for row in rows.tolist())
            self.file.flush()  # so that it can be looked at while it grows

    def finish(self) -> None:
        """Nothing is missing: the file takes its name."""
        with self._said():
            self.file.flush()
            os.fsync(self.file.fileno())
            os.replace(self.part, self.path)

    def __exit__(self, *about: object) -> None:
        with suppress(OSError):
            self.file.close()
        self.part.unlink(missing_ok=True)


def _quoted(name: str) -> str:
    if not set(name) & {",", '"', "\n"}:
        return name
    return '"' + name.replace('"', '""') + '"'
