"""The journal of a project: changes that are not saved yet, kept beside the files in case the window ends by itself.

It holds the same tables as the files, as JSON: nobody edits it, and it is written while a person types.
"""

from __future__ import annotations

import json
import shutil
from collections.abc import Iterable
from pathlib import Path

from hearthline.core.bench.bench import Bench
from hearthline.core.circuit.cell import Cell
from hearthline.core.errors import FileError
from hearthline.core.formats.atomic import write_atomically
from hearthline.core.formats.bench_file import bench_data, bench_of
from hearthline.core.formats.cell_file import cell_data, cell_of
from hearthline.core.formats.toml_table import Table

FOLDER, FILE = ".unsaved", "journal.json"
Document = Cell | Bench


def write_journal(project: Path, documents: Iterable[Document]) -> None:
    """Makes the journal hold just these documents. Raises FileError."""
    cells, benches = {}, []
    for document in documents:
        if isinstance(document, Cell):
            cells[document.name] = cell_data(document)
        else:
            benches.append(bench_data(document))
    folder = project / FOLDER
    try:
        folder.mkdir(exist_ok=True)
    except OSError as error:
        raise FileError(f"the journal cannot be written: {error.strerror}", str(folder)) from None
    write_atomically(folder / FILE, json.dumps({"cells": cells, "benches": benches}))


def read_journal(project: Path) -> list[Document]:
    """The documents in the journal; nothing where it cannot be read, since the saved ones are still there."""
    try:
        text = (project / FOLDER / FILE).read_text(encoding="utf-8")
        found = json.loads(text)
        cells = [cell_of(Table(data, FILE, text), name) for name, data in found["cells"].items()]
        return cells + [bench_of(Table(data, FILE, text)) for data in found["benches"]]
    except (OSError, ValueError, KeyError, TypeError, AttributeError, FileError):
        return []


def clear_journal(project: Path) -> None:
    """Forgets the journal."""
    shutil.rmtree(project / FOLDER, ignore_errors=True)
