"""A piece of a drawing as text, for the clipboard: the tables of a cell file."""

from __future__ import annotations

import tomllib

import tomlkit

from hearthline.core.circuit.cell import Cell
from hearthline.core.errors import FileError
from hearthline.core.formats.cell_file import cell_data, cell_of
from hearthline.core.formats.toml_table import Table, plain_document

HEAD = "# a piece of a Hearthline drawing\n"


def write_fragment(piece: Cell) -> str:
    """The text of a piece."""
    return HEAD + tomlkit.dumps(plain_document(cell_data(piece)))


def read_fragment(text: str) -> Cell:
    """The piece in a text. Raises FileError where it holds none."""
    try:
        data = tomllib.loads(text)
    except tomllib.TOMLDecodeError:
        raise FileError("holds no piece of a drawing", "the clipboard") from None
    return cell_of(Table(data, "the clipboard", text), "piece")
