"""What a circuit may stand in: bare, on a board, in its box. Each says what the n-ports of the circuit are there."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cache

import numpy as np

from hearthline.core.circuit.netlist import Netlist
from hearthline.core.elements import n_port
from hearthline.core.errors import BenchError, HearthlineError
from hearthline.core.nports.model import Model
from hearthline.core.nports.n_port import NPort

SECTION = "surroundings"
OPEN, THROUGH = "open", "through"
"""In the place of a file: every port left open; the first port tied to the second, the third to the fourth."""


@dataclass(frozen=True)
class Surroundings:
    """By a name that conditions are called by: the file of each n-port that is another one here, by the part's flat name."""

    name: str
    files: Mapping[str, str] = field(default_factory=dict)


def placed(netlist: Netlist, around: Surroundings, index: int, files: Mapping[str, Model]) -> Netlist:
    """The circuit in its surroundings. Raises BenchError for a part that is no n-port, and for a file that is not there or has
    another number of ports."""
    wanted = {part.lower(): file.strip() for part, file in around.files.items()}
    own = {one.name: one for one in netlist.elements if one.kind == n_port.LETTER}
    for part, file in wanted.items():
        if part not in own:
            known = ", ".join(own) or "none"
            raise BenchError(f"there is no n-port '{part}' in the circuit; there is {known}", SECTION, part, index)
        if file not in (OPEN, THROUGH, *files):
            known = ", ".join([OPEN, THROUGH, *files])
            raise BenchError(f"{part}: there is no file '{file}'; there is {known}", SECTION, part, index)
    found = []
    for one in netlist.elements:
        if one.name not in wanted or one.name not in own:
            found.append(one)
            continue
        ports, file = len(one.nets) - 1, wanted[one.name]
        model = _ideal(file, ports) if file in (OPEN, THROUGH) else files[file]
        if model.network.ports != ports:
            there = f"{file} has {model.network.ports}" if file != THROUGH else "through wants an even number"
            raise BenchError(f"{one.name} has {ports} ports, and {there}", SECTION, one.name, index)
        found.append(replace(one, device=n_port.kind_of(model)))
    return replace(netlist, elements=tuple(found))


@cache
def _ideal(word: str, ports: int) -> Model:
    """Nothing at all, or ports tied together in pairs."""
    s = np.eye(ports)
    if word == THROUGH:
        s = np.kron(np.eye(ports // 2), np.array([[0.0, 1.0], [1.0, 0.0]]))
    frequencies = np.array([0.0, 1e13])
    s = np.broadcast_to(s, (2, *s.shape)).astype(complex)
    return Model(word, NPort(frequencies, s, np.full(s.shape[-1], 50.0 + 0j)))


def index_of(all_of_them: tuple[Surroundings, ...], name: str, section: str) -> int:
    """Where the one of a name stands. Raises BenchError for another name."""
    names = [one.name for one in all_of_them]
    if name not in names:
        known = ", ".join(names) or "none"
        raise BenchError(f"there are no surroundings '{name}'; there is {known}", section, SECTION)
    return names.index(name)


def fingerprint(all_of_them: tuple[Surroundings, ...], files: Mapping[str, Model]) -> str:
    """Of everything that they change."""
    found = []
    for one in all_of_them:
        for part, file in sorted(one.files.items()):
            try:
                found.append(f"{one.name} {part} {files[file].fingerprint if file in files else file}")
            except HearthlineError:  # it is said when it is wanted
                found.append(f"{one.name} {part} {file}")
    return " ".join(found)
