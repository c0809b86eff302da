"""Heat in the die with its circuit, and housings: against the figures that they are to reach."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from benchmarks.row import Row, best, paired
from hearthline.app.start import DEMO
from hearthline.core.bench.run import solve_point
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.engine.periodic.lanes import balance
from hearthline.core.engine.periodic.states import Periodic
from hearthline.core.engine.periodic.tones import one_tone
from hearthline.core.engine.system import System
from hearthline.core.fields.box import Housing, LinePort, Span
from hearthline.core.fields.driven import Reduction, driven
from hearthline.core.fields.grid import Grid
from hearthline.core.fields.lines.per_length import per_length
from hearthline.core.fields.lines.section import Conductor, Layer, Section
from hearthline.core.fields.mesh import mesh_lines
from hearthline.core.fields.modes import resonances
from hearthline.core.formats.project_folder import read_project
from hearthline.core.spread.pvt import lanes_of
from hearthline.core.thermal.die import Die, HeatSource, Plan
from hearthline.core.thermal.picture import picture
from hearthline.core.thermal.series import resistances


def rows() -> list[Row]:
    """All of them."""
    return [*_die(), *_circuit(), _housing(), _ports(), _lines()]


def _die() -> list[Row]:
    die = Die(400e-6, 300e-6, 100e-6, 148.0, -1.3)
    places = ((f"m{k}", (32e-6 + 42e-6 * (k % 9), 40e-6 + 55e-6 * (k // 9))) for k in range(40))
    plan = Plan(die, tuple(HeatSource(part, middle, (2e-6, 20e-6), 5, 8e-6) for part, middle in places))
    plan.check()
    return [
        Row("thermal resistances of 200 fingers", best(lambda: resistances(die, plan.boxes), 3), 1.0, 1.0, "1 s"),
        Row("map of their die", best(lambda: picture(plan, np.full(40, 1e-3), 27.0), 3), 0.05, 1.0, "50 ms"),
    ]


def _circuit() -> list[Row]:
    project = read_project(DEMO)
    hot = Snapshot(project.benches["pa_868_bench-hot"], project.cells, project.kit)
    cold = replace(hot, bench=replace(hot.bench, heat=None))
    point = paired(lambda: solve_point(hot), lambda: solve_point(cold))
    tone, harmonics = np.array([868e6]), one_tone(9)

    def large(snapshot: Snapshot) -> None:
        circuit = snapshot.circuit
        system = circuit.system(snapshot.netlist(), snapshot.moved(lanes_of((snapshot.condition(),))))
        if circuit.heating is not None:
            last = []

            def again(one: System) -> Periodic:
                last[:] = [balance(one, tone, harmonics, near=last[0] if last else None)]
                return last[0]

            again(circuit.heating.about(system, again))
            return
        balance(system, tone, harmonics)

    driven = paired(lambda: large(replace(hot)), lambda: large(replace(cold)))
    return [
        Row("electrothermal operating point of pa_868", *point, 2.0, "the isothermal one"),
        Row("electrothermal balance of pa_868", *driven, 1.5, "the isothermal one"),
    ]


def _housing() -> Row:
    grid = Grid(housing := Housing((40e-3, 30e-3, 12e-3), 5.8e7, 10, 1e-3), mesh_lines(housing))
    return Row("ten modes of a box of 40 x 30 x 12 cells", best(lambda: resonances(grid), 1), 5.0, 1.0, "5 s")


def _ports() -> Row:
    """Five ports at 400 frequencies by the reduced model, against ten factors of the whole equations with their solutions."""
    ports = tuple(
        LinePort(k + 1, (x, 15e-3, 0.0), (x, 15e-3, 12e-3)) for k, x in enumerate((5e-3, 12e-3, 20e-3, 28e-3, 35e-3))
    )
    housing = Housing((40e-3, 30e-3, 12e-3), 5.8e7, 1, 2e-3, (), ports, Span(1e9, 12e9, 400))
    grid = Grid(housing, mesh_lines(housing))

    def direct() -> None:
        whole = Reduction(grid)
        for frequency in np.linspace(1e9, 12e9, 10):
            whole.directly(2.0 * np.pi * frequency)

    return Row("five ports, 400 frequencies by reduction", *paired(lambda: driven(grid), direct), 3.0, "10 direct ones")


def _lines() -> Row:
    strips = tuple(Conductor((k * 1.2e-3, 0.635e-3), (k * 1.2e-3 + 0.6e-3, 0.64e-3)) for k in range(8))
    section = Section(strips, (Layer(0.635e-3, 9.8, 0.0002),))
    return Row("cross-section of 8 conductors", best(lambda: per_length(section), 3), 1.0, 1.0, "1 s")
