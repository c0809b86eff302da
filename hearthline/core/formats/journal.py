"""The journal of a project: changes that are not saved yet, kept beside the files in case the window ends by itself."""

from __future__ import annotations

import shutil
from collections.abc import Iterable
from pathlib import Path

from hearthline.core.bench.bench import Bench
from hearthline.core.circuit.cell import Cell
from hearthline.core.errors import FileError
from hearthline.core.formats.bench_file import read_bench, write_bench
from hearthline.core.formats.cell_file import read_cell, write_cell

FOLDER = ".unsaved"
Document = Cell | Bench


def write_journal(project: Path, documents: Iterable[Document]) -> None:
    """Makes the journal hold just these documents. Raises FileError."""
    folder = project / FOLDER
    clear_journal(project)
    for document in documents:
        kind = "cells" if isinstance(document, Cell) else "benches"
        try:
            (folder / kind).mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise FileError(f"the journal cannot be written: {error.strerror}", str(folder)) from None
        if isinstance(document, Cell):
            write_cell(folder / kind / f"{document.name}.toml", document)
        else:
            write_bench(folder / kind / f"{document.key}.toml", document)


def read_journal(project: Path) -> list[Document]:
    """The documents in the journal; one that cannot be read is left out, since the saved one is still there."""
    found: list[Document] = []
    for kind, read in (("cells", read_cell), ("benches", read_bench)):
        for path in sorted((project / FOLDER / kind).glob("*.toml")):
            try:
                found.append(read(path, f"{FOLDER}/{kind}/{path.name}"))
            except FileError:
                continue
    return found


def clear_journal(project: Path) -> None:
    """Forgets the journal."""
    shutil.rmtree(project / FOLDER, ignore_errors=True)
