"""Evaluates a compiled module by itself: its currents, charges, conductances, readouts and noise at given unknowns."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from hearthline.core.compiled.codes import INT, F, I, N
from hearthline.core.compiled.jit import entry
from hearthline.core.models.calling import call_kernel
from hearthline.core.models.layout import lengths
from hearthline.core.models.module import Module
from hearthline.core.models.signature import (
    CHARGE,
    CURRENT,
    NOISE,
    PREPARE,
    READOUT,
    SCALE,
    SETTINGS,
    START_MODE,
    STATIC,
    TRUST,
)  # fmt: skip
from hearthline.core.models.veriloga.compiler import compile_text

HEADERS = '`include "constants.vams"\n`include "disciplines.vams"\n'


@entry(INT, INT, I, N, F)
def evaluate(address, wants, span, nodes, w):
    """Calls the kernel at an address, from Python: with one span and whole arrays."""
    return call_kernel(address, wants, span.ctypes.data, nodes.ctypes.data, w.ctypes.data)


@dataclass(frozen=True)
class At:
    """What a device does at some unknowns; conductances and capacitances as whole matrices."""

    current: np.ndarray
    conductance: np.ndarray
    charge: np.ndarray
    capacitance: np.ndarray
    readout: dict[str, float]
    noise: dict[str, tuple[float, float]]


@dataclass(frozen=True)
class Stretches:
    """What a kernel writes of several instances, a row for each, and how many it says were limited."""

    memory: np.ndarray
    current: np.ndarray
    conductance: np.ndarray
    charge: np.ndarray
    capacitance: np.ndarray
    readout: np.ndarray
    noise: np.ndarray
    limited: int


class Session:
    """Instances of a module with values (instances, values), whose kernel is called again and again in the same memory."""

    def __init__(self, module: Module, values: np.ndarray, mode: float = TRUST, static: bool = True):
        m, count = module, len(values)
        width = len(m.terminals)
        said = sum(1 + s.arguments for s in m.said if s.by_solution)
        sizes = lengths(
            count, width, m.values, m.memory, len(m.conductance), len(m.capacitance), len(m.readouts) + said, len(m.noise),
            m.abreast,
        )  # fmt: skip
        starts = SETTINGS + 1 + np.concatenate([[0], np.cumsum(sizes)])
        self.module, self.count, self.work = module, count, np.zeros(starts[-1])
        self.work[SCALE], self.work[START_MODE], self.work[STATIC] = 1.0, mode, float(static)
        self.unknowns, values_at, *self.stretch = (self.work[a:b] for a, b in pairwise(starts))
        values_at[:] = values.ravel()
        self.span = np.array([count, 0, *starts[1:10]])
        self.nodes = np.arange(starts[0], starts[0] + width * count, dtype=np.int32)
        assert self.call(PREPARE) == 0

    def call(self, wants: int, unknowns: np.ndarray | None = None) -> int:
        """At unknowns (instances, terminals); gives back how many were limited."""
        if unknowns is not None:
            self.unknowns[:] = unknowns.ravel()
        return evaluate(self.module.address, wants, self.span, self.nodes, self.work)

    def stretches(self, limited: int = 0) -> Stretches:
        """What was written, in its own memory."""
        return Stretches(*(one.reshape(self.count, -1) for one in self.stretch[:7]), limited)


def evaluated(
    module: Module, values: np.ndarray, unknowns: np.ndarray, wants: int, mode: float = TRUST, static: bool = True,
    memory: np.ndarray | None = None,
) -> Stretches:  # fmt: skip
    """One call of a module's kernel for instances with values (instances, values) between unknowns (instances, terminals)."""
    session = Session(module, values, mode, static)
    if memory is not None:
        session.stretch[0][:] = memory.ravel()
    return session.stretches(session.call(wants, unknowns))


class Device:
    """One instance of a module with its parameters."""

    def __init__(self, module: Module, kelvin: float = 300.15, parallel: float = 1.0, static: bool = True, **given):
        self.module, self.static = module, static
        count = len(module.parameters)
        p, g = np.zeros((1, count)), np.zeros((1, count))
        for name, value in given.items():
            p[0, module.index[name]], g[0, module.index[name]] = value, 1.0
        self.values, self.notes = np.zeros((1, module.values)), np.zeros((1, module.notes))
        environment = np.array([[kelvin, parallel]])
        module.setup(p, g, np.ones((1, module.ports)), environment, self.values, self.notes)

    def at(self, *unknowns: float) -> At:
        """Everything at the given values of the terminals; those not given are 0. Shorted terminals are not joined: they
        carry nothing, and the device is between its inner ones."""
        m = self.module
        width = len(m.terminals)
        given = np.zeros((1, width))
        given[0, : len(unknowns)] = unknowns
        found = evaluated(m, self.values, given, CURRENT | CHARGE | READOUT | NOISE, static=self.static)
        assert found.limited == 0
        readout = {r.name: float(v) for r, v in zip(m.readouts, found.readout[0], strict=False)}
        noise = {n.name: tuple(found.noise[0, 2 * k : 2 * k + 2]) for k, n in enumerate(m.noise)}
        return At(
            found.current[0], _matrix(width, m.conductance, found.conductance[0]), found.charge[0],
            _matrix(width, m.capacitance, found.capacitance[0]), readout, noise,
        )  # fmt: skip


def _matrix(width: int, pattern, entries: np.ndarray) -> np.ndarray:
    found = np.zeros((width, width))
    for (row, column), value in zip(pattern, entries, strict=True):
        found[row, column] += value
    return found


def module(body: str, ports: str = "p, n", name: str = "dut") -> Module:
    """A module around the given text, with electrical ports."""
    text = f"{HEADERS}module {name}({ports}); inout {ports}; electrical {ports};\n{body}\nendmodule\n"
    return compile_text(text, "dut.va")[0]
