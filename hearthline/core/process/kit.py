"""A process kit: devices with their symbols and size limits, and model cards by corner."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from hashlib import sha256

import numpy as np

from hearthline.core.circuit.netlist import Template
from hearthline.core.models.module import Module
from hearthline.core.nports.model import Model
from hearthline.core.process.models import ModelSet
from hearthline.core.quantity import write


@dataclass(frozen=True)
class KitDevice:
    """A device that the kit offers: its symbol, what it is, the sizes allowed, each (least, most) in SI units, and the
    largest voltage that it is made for [V]."""

    name: str
    symbol: str
    meaning: str = ""
    sizes: Mapping[str, tuple[float, float]] = field(default_factory=dict)
    supply: float = 1.2


@dataclass(frozen=True)
class Statistics:
    """What varies: the standard deviation of each parameter of the sections that is common to a chip, the correlations of
    pairs of them, and for each device the coefficients A of Pelgrom's law by parameter.

    M. J. M. Pelgrom, A. C. J. Duinmaijer and A. P. G. Welbers, IEEE J. Solid-State Circuits 24, 1989: the *difference* of
    two equal devices has a standard deviation of A over the root of the area W L [m²], so one device has A / sqrt(2 W L).
    """

    process: Mapping[str, float] = field(default_factory=dict)
    mismatch: Mapping[str, Mapping[str, float]] = field(default_factory=dict)
    correlations: Mapping[tuple[str, str], float] = field(default_factory=dict)

    @property
    def correlation(self) -> np.ndarray:
        """Between all parameters of `process`, in their order, shape (parameters, parameters)."""
        names = list(self.process)
        matrix = np.eye(len(names))
        for (a, b), value in self.correlations.items():
            i, j = names.index(a), names.index(b)
            matrix[i, j] = matrix[j, i] = value
        return matrix


@dataclass(frozen=True)
class ProcessKit:
    """A process as a designer gets it; `file` is where its model cards stand. `networks` are the project's files of
    S-parameters by their names; one that is asked for is read, and may raise FileError."""

    name: str
    title: str
    devices: Mapping[str, KitDevice]
    models: ModelSet
    note: str = ""
    statistics: Statistics = field(default_factory=Statistics)
    file: str = ""
    networks: Mapping[str, Model] = field(default_factory=dict)

    @property
    def modules(self) -> Mapping[str, Module]:
        """Verilog-A modules by lower-case name, of the kit and of the project."""
        return next(iter(self.models.corners.values())).modules if self.models.corners else {}

    @cached_property
    def fingerprint(self) -> str:
        """What tells whether two runs were made with the same models: of all cards, their parameters,
        devices that are small circuits, and device texts."""
        digest = sha256()
        variants = [item for group in self.models.variants.values() for item in group.items()]
        for name, corner in [*self.models.corners.items(), *variants]:
            for line in (name, *corner.said()):
                digest.update(line.encode())
        return digest.hexdigest()[:16]

    def with_modules(self, modules: Mapping[str, Module]) -> ProcessKit:
        """The kit with further modules in every corner."""
        corners = {
            name: replace(corner, modules={**corner.modules, **modules}) for name, corner in self.models.corners.items()
        }
        return replace(self, models=replace(self.models, corners=corners))

    @property
    def templates(self) -> Mapping[str, Template]:
        """Devices that are small circuits. They are those of the first corner: a drawing is one for all corners."""
        return next(iter(self.models.corners.values())).templates if self.models.corners else {}

    @property
    def symbols(self) -> Mapping[str, str]:
        """Symbol of each device."""
        return {name: device.symbol for name, device in self.devices.items()}

    def size_error(self, device: str, name: str, value: float, unit: str) -> str:
        """Why a size is not allowed, or nothing."""
        known = self.devices.get(device)
        if known is None or name not in known.sizes:
            return ""
        minimum, maximum = known.sizes[name]
        if minimum <= value <= maximum:
            return ""
        return f"{device} allows {write(minimum, unit)} to {write(maximum, unit)}"
