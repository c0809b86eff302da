"""The engine's figures: corners, cores, one Newton iteration."""

from __future__ import annotations

import math
from dataclasses import replace

import numba as nb
import numpy as np

from benchmarks.row import Row, paired, timed
from hearthline.app.start import DEMO
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.circuit.netlist import Card
from hearthline.core.device.sheets import characterise
from hearthline.core.device.subject import of_kit
from hearthline.core.device.sweeps import Conditions
from hearthline.core.engine.dc import SweptSource, dc_sweep
from hearthline.core.engine.job import Job
from hearthline.core.engine.lanes import Lanes
from hearthline.core.expression import Expression
from hearthline.core.formats.project_folder import read_project
from hearthline.core.process.models import Corner, ModelSet
from hearthline.core.spread.pvt import lane_of, lanes_of


def rows() -> list[Row]:
    """All of them."""
    project = read_project(DEMO)
    snapshot = Snapshot(project.benches["inv_x1-transfer"], project.cells, project.kit)
    return [_corners(snapshot), _cores(snapshot), _iteration(snapshot), _sheets(snapshot)]


def _sweep(snapshot: Snapshot, lanes: Lanes, workers: int | None = None):
    watch = ("V(out)", "V(in)", "I(vdd)")
    swept = SweptSource("vin", np.linspace(0, 1.32, 1001))
    return dc_sweep(snapshot.netlist(), snapshot.kit.models, lanes, swept, watch, job=Job(workers))


def _corners(snapshot: Snapshot) -> Row:
    conditions = [lane_of(condition) for condition in snapshot.conditions()]

    def one_by_one() -> None:
        for lanes in conditions:
            _sweep(snapshot, lanes)

    ours, floor = paired(lambda: _sweep(snapshot, lanes_of(snapshot.conditions())), one_by_one)
    return Row("PVT: 45 corners × 1001 points, all at once", ours, floor, 0.6, "the same as 45 single runs")


def _cores(snapshot: Snapshot) -> Row:
    lanes = lanes_of(snapshot.conditions())
    ours, floor = paired(lambda: _sweep(snapshot, lanes), lambda: _sweep(snapshot, lanes, 1))
    return Row("lanes on all cores: the same 45 × 1001", ours, floor, 0.6, "on one core")


@nb.njit("float64(float64, float64, float64)", cache=True, nogil=True, error_model="numpy")
def _current(vgs, vds, beta):
    """Square law of one transistor, written out for the floor."""
    overdrive = vgs - 0.35
    if overdrive <= 0.0:
        return 0.0
    factor = beta * (1.0 + 0.16 * vds)
    if overdrive <= vds:
        return 0.5 * factor * overdrive * overdrive
    return factor * vds * (overdrive - 0.5 * vds)


@nb.njit("float64(int64, float64[::1], float64[::1])", cache=True, nogil=True, error_model="numpy")
def _hand_written(times, x, values):
    """As many Newton iterations of an inverter as wanted, with its stamps and a dense 5 × 5 elimination fixed in code."""
    matrix, right = np.zeros((5, 5)), np.zeros(5)
    total = 0.0
    for _ in range(times):
        matrix[:, :] = 0.0
        step = 1e-6
        i_n = _current(x[1], x[2], values[0])
        i_p = _current(x[0] - x[1], x[0] - x[2], values[1])
        gm_n = (_current(x[1] + step, x[2], values[0]) - i_n) / step
        gds_n = (_current(x[1], x[2] + step, values[0]) - i_n) / step
        gm_p = (_current(x[0] - x[1] + step, x[0] - x[2], values[1]) - i_p) / step
        gds_p = (_current(x[0] - x[1], x[0] - x[2] + step, values[1]) - i_p) / step
        leak = 1e-17 * (math.exp(-x[2] / 0.02585) + math.exp((x[2] - x[0]) / 0.02585) + 2.0)
        matrix[0, 0], matrix[0, 1], matrix[0, 2], matrix[0, 3] = gm_p + gds_p, -gm_p, -gds_p, 1.0
        matrix[1, 1], matrix[1, 4] = 1e-12, 1.0
        matrix[2, 0], matrix[2, 1], matrix[2, 2] = -gm_p - gds_p, gm_n + gm_p, gds_n + gds_p
        matrix[3, 0], matrix[4, 1] = 1.0, 1.0
        right[0], right[1], right[2] = i_p + x[3], x[4], i_n - i_p + leak
        right[3], right[4] = x[0] - 1.2, x[1] - 0.58
        for j in range(5):
            best = j
            for i in range(j + 1, 5):
                if abs(matrix[i, j]) > abs(matrix[best, j]):
                    best = i
            for k in range(5):
                matrix[j, k], matrix[best, k] = matrix[best, k], matrix[j, k]
            right[j], right[best] = right[best], right[j]
            for i in range(j + 1, 5):
                factor = matrix[i, j] / matrix[j, j]
                for k in range(j, 5):
                    matrix[i, k] -= factor * matrix[j, k]
                right[i] -= factor * right[j]
        for j in range(4, -1, -1):
            value = right[j]
            for k in range(j + 1, 5):
                value -= matrix[j, k] * right[k]
            right[j] = value / matrix[j, j]
        for j in range(5):  # a small step, so that no iteration is the same and nothing can be moved out of the loop
            x[j] -= 1e-3 * right[j]
            total += right[j]
    return total


def _level_one(snapshot: Snapshot) -> Snapshot:
    """The inverter with transistors of the square law, as the floor has them."""
    cards = {
        "n_rvt": ("NMOS", {"vto": 0.35, "kp": 310e-6, "lambda": 0.16, "is": 1e-17}),
        "p_rvt": ("PMOS", {"vto": -0.35, "kp": 95e-6, "lambda": 0.16, "is": 1e-17}),
    }
    made = {
        name: Card(name, kind, {key: Expression.constant(value) for key, value in values.items()})
        for name, (kind, values) in cards.items()
    }
    models = ModelSet({name: Corner(made) for name in snapshot.kit.models.names})
    return replace(snapshot, kit=replace(snapshot.kit, models=models))


def _iteration(snapshot: Snapshot) -> Row:
    snapshot = _level_one(snapshot)
    lanes = lanes_of(snapshot.conditions())
    counted = _sweep(snapshot, lanes, 1).solution.iterations
    values = np.array([2.4e-3, 2.2e-3])
    start = [1.2, 0.58, 0.5, 0.0, 0.0]
    ours, floor = paired(
        lambda: _sweep(snapshot, lanes, 1), lambda: _hand_written(counted, np.array(start), values)
    )  # fmt: skip
    return Row(
        "Newton iteration, inverter, one core",
        ours / counted,
        floor / counted,
        3.0,
        "the same, written by hand in one loop",
    )


def _sheets(snapshot: Snapshot) -> Row:
    """What a person waits for at the device desk: all sheets of a MOS in five corners at three temperatures."""
    subject = of_kit(snapshot.kit, "n_rvt")
    conditions = Conditions(snapshot.kit.models.names, (-40.0, 27.0, 150.0))
    characterise(subject, conditions)
    seconds = min(timed(lambda: characterise(subject, conditions)) for _ in range(3))
    return Row("all sheets of a MOS, 5 corners × 3 temperatures", seconds, 2.0, 1.0, "allowed")
