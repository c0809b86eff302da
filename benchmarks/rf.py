"""Waves and noise of an RF cell, looks at every terminal, and files of n-ports."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np

from benchmarks.row import Row, best, paired
from hearthline.core.analyses.plan import Plan
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.engine.connection import all_connections
from hearthline.core.engine.job import Job
from hearthline.core.engine.look import looks
from hearthline.core.engine.scattering import scattering
from hearthline.core.formats.project_folder import read_project
from hearthline.core.formats.touchstone import read_touchstone, write_touchstone
from hearthline.core.nports.n_port import NPort
from hearthline.core.spread.pvt import lanes_of

DEMO = Path(__file__).resolve().parents[1] / "hearthline" / "demo" / "kilnwatch"
FREQUENCIES = np.linspace(0.5e9, 1.3e9, 201)


def rows() -> list[Row]:
    """All of them."""
    return [*_amplifier(), *_terminals(), *_files()]


def _amplifier() -> Iterator[Row]:
    """The demo's low-noise amplifier with all inner nodes of its devices."""
    project = read_project(DEMO)
    snapshot = Snapshot(project.benches["lna_868_bench-figures"], project.cells, project.kit)
    circuit = snapshot.circuit
    system = circuit.system(circuit.netlist, circuit.lanes((snapshot.condition(),)))
    size, count = len(system.unknowns), len(FREQUENCIES)
    rng = np.random.default_rng(1)
    matrices = rng.normal(size=(count, size, size)) + 1j * rng.normal(size=(count, size, size))
    right = np.ones((count, size, 2), complex)
    ours, floor = paired(lambda: scattering(system, FREQUENCIES), lambda: np.linalg.solve(matrices, right))
    yield Row(
        f"S and noise of lna_868, 201 frequencies, {size} unknowns", ours, floor, 1.5, "201 bare LAPACK solutions"
    )
    plan = Plan(circuit, snapshot.bench.analyses[0])
    conditions = snapshot.conditions()
    yield Row("the same at 45 conditions", best(lambda: plan.run(conditions, Job()), 3), 0.5, 1.0, "0.5 s")


def _terminals() -> Iterator[Row]:
    """Every terminal of 60 transistors against one."""
    project = read_project(DEMO)
    snapshot = Snapshot(project.benches["ring11_bench-period"], project.cells, project.kit)
    netlist = snapshot.circuit.netlist
    more = tuple(
        replace(one, name=f"{one.name}_{k}", nets=tuple(n if n in ("0", "vdd") else f"{n}_{k}" for n in one.nets))
        for k in range(2)
        for one in netlist.elements
        if one.kind == "M"
    )
    wide = type(netlist)((*netlist.elements, *more), netlist.root)
    system = snapshot.circuit.system(wide, lanes_of((snapshot.condition(),)))
    every = all_connections(system)
    frequencies = np.geomspace(1e6, 10e9, 201)
    ours, floor = paired(lambda: looks(system, every, frequencies), lambda: looks(system, every[:1], frequencies))
    count = sum(1 for one in system.netlist.elements if one.kind == "M")
    yield Row(
        f"looks at all {len(every)} terminals of {count} transistors, 201 frequencies", ours, floor, 3.0, "one terminal"
    )


def _files() -> Iterator[Row]:
    """Four ports at 10 000 frequencies, eight digits."""
    rng = np.random.default_rng(2)
    s = (0.2 * (rng.normal(size=(10_000, 4, 4)) + 1j * rng.normal(size=(10_000, 4, 4)))).round(8)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "a.s4p"
        write_touchstone(path, NPort(np.arange(1.0, 10_001.0) * 1e6, s, np.full(4, 50.0)))
        yield Row(
            "a file of four ports at 10 000 frequencies opens",
            best(lambda: read_touchstone(path), 3),
            0.3,
            1.0,
            "0.3 s",
        )
