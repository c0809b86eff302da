"""Housings as n-ports: solved once, and kept in a folder of the user's own for as long as their description stays."""

from __future__ import annotations

import os
import threading
from functools import lru_cache
from hashlib import sha256
from pathlib import Path

import numpy as np

from hearthline.core.compiled.own_folder import own_folder
from hearthline.core.errors import FileError, HearthlineError
from hearthline.core.fields.box import HousingError
from hearthline.core.formats.housing_file import HousingFile
from hearthline.core.nports.model import Model
from hearthline.core.nports.n_port import NPort
from hearthline.core.nports.rational import Rational
from hearthline.core.version import VERSION

FOLDER = "housings"
_ONE_AT_A_TIME = threading.Lock()
OF_NETWORK, OF_RATIONAL = ("frequencies", "s", "impedances"), ("poles", "residues", "constant")
"""What is kept of a solution."""


class UnsolvedError(HearthlineError):
    """A housing that takes a while and was not solved yet; `file` is its path."""

    def __init__(self, shown: str, file: Path):
        super().__init__(f"{shown} is being solved between its ports; that takes some seconds")
        self.file = file


def model_of_housing(path: Path, shown: str, may_solve: bool = True) -> Model:
    """What a housing does between its ports. Raises FileError by its line, and UnsolvedError where it would have to be solved
    and must not be here."""
    kept = kept_of(path, shown)
    if not kept.exists() and not may_solve:
        HousingFile(path, shown)  # what is wrong in it is said at once
        raise UnsolvedError(shown, path)
    with _ONE_AT_A_TIME:
        if not kept.exists():
            solve_housing(path, shown)
    return _model(kept, shown)


def kept_of(path: Path, shown: str) -> Path:
    """Where the n-port of a housing is, once it is solved. Raises FileError."""
    try:
        text = path.read_bytes()
    except OSError as error:
        raise FileError(f"cannot be read: {error.strerror}", shown) from None
    return own_folder(FOLDER) / f"{sha256(VERSION.encode() + text).hexdigest()[:32]}.npz"


def solve_housing(path: Path, shown: str) -> None:
    """Solves a housing between its ports and keeps that. Raises FileError by its line."""
    from hearthline.core.fields.driven import driven  # only who solves one pays for it
    from hearthline.core.fields.grid import Grid
    from hearthline.core.fields.mesh import mesh_lines

    kept, file = kept_of(path, shown), HousingFile(path, shown)
    if not file.housing.ports:
        raise FileError("a housing that is a part has [[ports]], and a [sweep]", shown)
    try:
        answer = driven(Grid(file.housing, mesh_lines(file.housing)))
    except HousingError as error:
        raise file.problem(error) from None
    network, rational = answer.resonant, answer.rational
    kept_arrays = [getattr(network, one) for one in OF_NETWORK]
    if rational is not None:
        kept_arrays += [getattr(rational, one) for one in OF_RATIONAL]
    beside = kept.with_name(f".{kept.stem}.{os.getpid()}.npz")
    try:
        np.savez(beside, *kept_arrays)
        os.replace(beside, kept)
    except OSError as error:
        beside.unlink(missing_ok=True)
        raise FileError(f"its solution cannot be kept: {error.strerror}", shown) from None


@lru_cache(maxsize=64)
def _model(kept: Path, shown: str) -> Model:
    with np.load(kept, allow_pickle=False) as found:
        arrays = [found[f"arr_{k}"] for k in range(len(found.files))]
    network, rest = arrays[: len(OF_NETWORK)], arrays[len(OF_NETWORK) :]
    return Model(shown, NPort(*network), Rational(*rest) if rest else None)
