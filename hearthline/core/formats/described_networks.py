"""N-ports that are described and worked out at once: lines, wires, substrates; again only when their file changes."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache
from pathlib import Path

from hearthline.core.errors import FileError
from hearthline.core.nports.model import Model
from hearthline.core.nports.n_port import NPort


def model_of_lines(path: Path, shown: str) -> Model:
    """Coupled lines between their ends. Raises FileError by the file's line."""
    return _known(_lines, path, shown)


def model_of_wires(path: Path, shown: str) -> Model:
    """Bond wires and vias between their ends. Raises FileError by the file's line."""
    return _known(_wires, path, shown)


def model_of_substrate(path: Path, shown: str) -> Model:
    """What is between contacts. Raises FileError by the file's line."""
    return _known(_substrate, path, shown)


# only who has such a file pays for what works it out


def _lines(path: Path, shown: str) -> NPort:
    from hearthline.core.fields.lines.n_port import line_network
    from hearthline.core.fields.lines.per_length import per_length
    from hearthline.core.formats.lines_file import LinesFile

    file = LinesFile(path, shown)
    return line_network(per_length(file.section), file.frequencies())


def _wires(path: Path, shown: str) -> NPort:
    from hearthline.core.formats.wires_file import WiresFile

    return WiresFile(path, shown).network()


def _substrate(path: Path, shown: str) -> NPort:
    from hearthline.core.formats.substrate_file import SubstrateFile

    return SubstrateFile(path, shown).network()


def _known(work: Callable[[Path, str], NPort], path: Path, shown: str) -> Model:
    try:
        status = path.stat()
    except OSError as error:
        raise FileError(f"cannot be read: {error.strerror}", shown) from None
    return _model(work, path, shown, status.st_mtime_ns, status.st_size)


@lru_cache(maxsize=64)
def _model(work: Callable[[Path, str], NPort], path: Path, shown: str, changed: int, size: int) -> Model:
    return Model(shown, work(path, shown))
