"""Samples: how fast they are drawn, judged and ranked, what they take, and how many simulations a rare failure takes."""

from __future__ import annotations

import tempfile
import time
import tracemalloc
from dataclasses import replace
from datetime import datetime
from pathlib import Path

import numpy as np

from benchmarks.analyses import evaluation_of
from benchmarks.circuits import amplifier
from benchmarks.row import Row, best, paired
from benchmarks.window import demo_window, the_application
from hearthline.core.bench.rare import rare_failure
from hearthline.core.bench.run import run_bench
from hearthline.core.bench.sampled import SamplePlan, run_samples, sample_plan
from hearthline.core.engine.job import Job
from hearthline.core.formats.bench_source import BenchSource, read_benches
from hearthline.core.formats.run_file import write_run
from hearthline.core.spread.pvt import lanes_of
from hearthline.core.spread.ranking import ranking
from hearthline.core.spread.samples import SampleSet
from hearthline.core.spread.variables import TOLERANCE, Variable
from hearthline.core.tolerance import Tolerance

DEMO = Path(__file__).resolve().parents[1] / "hearthline" / "demo" / "kilnwatch"
SAMPLES, ITERATIONS = 1000, 5
HEAD = """format = 3
name = "samples"
deck = "a.cir"
[point]
corner = "typ"
temperature = "27"
[grid]
corners = ["typ"]
temperatures = ["27"]
[samples]
count = "1000"
[samples.mismatch]
n = { dvth = "3e-9" }
p = { dvth = "3e-9" }
"""
GAIN = """[[analyses]]
name = "op"
line = "point"
[[analyses]]
name = "response"
line = "ac by vp from 1k to 1G points 4"
[[readings]]
name = "level"
formula = "V(p4)"
[[readings]]
name = "gain"
formula = "gain(V(p4), 1k)"
analysis = "response"
"""


def rows() -> list[Row]:
    """All of them."""
    return [_amplifier(), _kept(), _file(), _ranked(), _dragged(), _rare()]


def _sampled(folder: Path, asked: str) -> BenchSource:
    """The amplifier of 20 charge-based transistors as a bench with samples."""
    text = amplifier().replace(".model n nmos vto=0.4 kp=200u lambda=0.1 is=1e-20", ".model n mos type=1")
    text = text.replace(".model p pmos vto=-0.4 kp=80u lambda=0.1 is=1e-20", ".model p mos type=-1")
    (folder / "a.cir").write_text(text)
    (folder / "b.toml").write_text(HEAD + asked)
    return read_benches(folder / "b.toml")[0]


def _amplifier() -> Row:
    """The whole of it: drawing, operating points, AC, readings."""
    with tempfile.TemporaryDirectory() as scratch:
        plan = sample_plan(_sampled(Path(scratch), GAIN).snapshot)
        found = run_samples(plan)
        assert not found.failures
        frequencies = plan.plans[1].points()
        circuit = plan.snapshot.circuit
        system = circuit.system(circuit.netlist, lanes_of(plan.conditions))
        evaluate, size = evaluation_of(system), len(system.unknowns)
        rng = np.random.default_rng(2)
        real = np.eye(size) * 3 + rng.random((size, size))
        waves = real + 1j * rng.random((size, size))

        def bare() -> None:
            evaluate((ITERATIONS + 1) * SAMPLES)
            for _ in range(ITERATIONS * SAMPLES):
                np.linalg.solve(real, np.ones(size))
            for _ in range(frequencies * SAMPLES):
                np.linalg.solve(waves, np.ones(size))

        ours, floor = paired(lambda: run_samples(plan), bare, 3)
    against = f"6 × 1000 evaluations, 5000 real and {frequencies} × 1000 complex LAPACK solutions"
    return Row("1000 samples of OP, AC and readings of 20 transistors", ours, floor, 2.0, against)


def _bytes(found: SampleSet) -> int:
    """Of the variables, readings and curves that are kept."""
    curves = sum(values.nbytes for data in found.curves.values() for values in (*data.curves.values(), data.outcomes))
    return found.normal.nbytes + sum(values.nbytes for values in found.values.values()) + curves


def _kept() -> Row:
    """Megabytes at the most while samples are run, over those that are kept."""
    watched = GAIN + '[[watches]]\nformula = "V(p4)"\nanalysis = "response"\n[[watches]]\nformula = "V(p4)"\n'
    with tempfile.TemporaryDirectory() as scratch:
        plan = sample_plan(_sampled(Path(scratch), watched.replace("points 4", "points 150")).snapshot)
        run_samples(plan, Job())
        tracemalloc.start()
        found = run_samples(plan, Job())
        peak = tracemalloc.get_traced_memory()[1]
        tracemalloc.stop()
    return Row("memory of 1000 samples with their curves", peak / 1e6, _bytes(found) / 1e6, 2.0, "what is kept", "MB")


def _made(samples: int, variables: int, readings: int) -> SampleSet:
    """Samples of readings that depend on some of the variables."""
    rng = np.random.default_rng(3)
    law = Tolerance(within=0.05)
    each = tuple(
        Variable(f"r{k}.r", TOLERANCE, f"r{k}", "r", 1e3, law.deviation, ((f"r{k}", "r"),), True, law)
        for k in range(variables)
    )
    normal = rng.standard_normal((samples, variables))
    values = {f"y{k}": (normal[:, k % 7] + 0.3 * rng.standard_normal(samples))[:, None] for k in range(readings)}
    return SampleSet(each, normal, {}, values, dict.fromkeys(values, ""))


def _file() -> Row:
    """Megabytes on the disk."""
    source = read_benches(DEMO, ["slicer_bench-mismatch"])[0]
    with tempfile.TemporaryDirectory() as scratch:
        run = run_bench(source.snapshot)
        rows = {"corner": np.array(["typ"]), "temperature": np.array([27.0])}
        kept = replace(_made(10_000, 100, 20), rows=rows)
        path = write_run(Path(scratch), replace(run, samples=kept), datetime.now())
        size = path.stat().st_size / 1e6
    return Row("run file of 10 000 samples × 100 variables × 20 readings", size, 30.0, 1.0, "30 MB", "MB")


def _ranked() -> Row:
    found = _made(10_000, 100, 1)
    passing = found.reading("y0") > -1.5
    seconds = best(lambda: ranking(found, passing))
    return Row("ranking of 100 parts by 10 000 samples", seconds, 0.1, 1.0, "allowed")


def _dragged() -> Row:
    """From a dragged limit to all yields on the screen: ten strips, of which as many are painted as can be seen."""
    with tempfile.TemporaryDirectory() as scratch:
        the_application()
        window = demo_window(scratch)
        desk = window.desk
        window.show_side("both")
        window.side.show_view("spread")
        spread = desk.spread
        spread.samples = replace(_made(10_000, 100, 10), rows={"corner": np.array(["typ"])})
        spread.moved = {f"y{k}": (-2.0, 2.0) for k in range(10)}
        spread.samples_changed.emit()
        the_application().processEvents()
        times = []
        for k in range(40):
            begin = time.perf_counter()
            spread.move_limit("y3", -2.0, 2.0 - 0.02 * k)
            the_application().processEvents()
            times.append(time.perf_counter() - begin)
        window.leave()
    times.sort()
    return Row("dragging a limit: 10 000 samples × 10 limits, to all yields", times[20], 0.016, 1.0, "allowed")


def _rare() -> Row:
    """Not seconds: simulations."""
    plan: SamplePlan = sample_plan(read_benches(DEMO, ["slicer_bench-mismatch"])[0].snapshot)
    tail = rare_failure(plan).tail
    assert not tail.doubtful
    assert tail.error < 0.11
    figure = f"a failure of {tail.sigma:.2f} sigma of the slicer, within {100 * tail.error:.0f} %"
    return Row(figure, tail.simulations, 5000.0, 1.0, "simulations allowed", "runs")
