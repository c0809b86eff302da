"""Plans of a die that are made, moved and tried: rows for every device, places that cannot be, and what another number does."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from hearthline.app.start import DEMO
from hearthline.core.bench.heat_placing import moved_to, placed, with_line
from hearthline.core.bench.heat_trying import PITCH, THICKNESS, tried
from hearthline.core.bench.run import run_bench, solve_point
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.engine.job import Job
from hearthline.core.engine.periodic.lanes import balance
from hearthline.core.engine.periodic.states import Periodic
from hearthline.core.engine.periodic.tones import one_tone
from hearthline.core.engine.system import System
from hearthline.core.errors import CircuitError
from hearthline.core.formats.bench_file import read_bench, write_bench
from hearthline.core.formats.project_folder import read_project
from hearthline.core.spread.pvt import lanes_of
from hearthline.core.thermal.die import PlanError
from hearthline.core.thermal.picture import picture
from tests.approximation import approx


def snapshot(key: str) -> Snapshot:
    """A bench of the demo."""
    project = read_project(DEMO)
    return Snapshot(project.benches[key], project.cells, project.kit)


def test_every_device_gets_a_place_by_its_block():
    """Eleven inverters are eleven rows; each device is as large as it is drawn, none lies over another, and a second time
    there is nothing left to place."""
    one = snapshot("ring11_bench-period")
    heat = placed(one, None)
    plan = heat.plan()
    assert len(plan.sources) == 22
    assert len({source.middle[1] for source in plan.sources}) == 11
    own = {source.part: source for source in plan.sources}
    assert own["x1.x3.m2"].size == approx((130e-9, 1.2e-6), rel=1e-9)
    assert own["x1.x3.m2"].fingers == 2
    with pytest.raises(PlanError, match="no further device"):
        placed(one, heat)
    point = solve_point(replace(one, bench=replace(one.bench, heat=heat)))
    assert "x1.x3.m2.temperature" in point.curves


def test_what_is_new_goes_above_what_is_there():
    """A plan by hand stays as it is, and the die grows where it must."""
    one = snapshot("pa_868_bench-hot")
    two = replace(one.bench.heat, sources=one.bench.heat.sources[1:])
    heat = placed(one, two)
    assert heat.sources[:2] == two.sources
    assert [line.part for line in heat.sources] == ["x1.m1", "x1.m3", "x1.m2"]
    top = max(source.middle[1] + source.size[1] / 2 for source in two.plan().sources)
    assert heat.plan().sources[2].middle[1] > top


def test_a_row_is_moved_and_turned_and_kept(tmp_path):
    """Both axes exchanged, and as it was when read again; a place outside, or over another, is refused by its part."""
    heat = snapshot("pa_868_bench-hot").bench.heat
    moved = moved_to(heat, "x1.m2", 250e-6, 120e-6)
    turned = with_line(moved, "x1.m2", turn="90")
    own = turned.plan().sources[0]
    assert own.middle == approx((250e-6, 120e-6), rel=1e-12)
    assert np.ptp(own.boxes[:, 0]) == 0.0
    assert np.ptp(own.boxes[:, 1]) == approx(7 * 9e-6, rel=1e-9)
    assert tuple(own.boxes[0, 2:]) == approx((40e-6, 4e-6), rel=1e-12)
    bench = replace(snapshot("pa_868_bench-hot").bench, heat=turned)
    write_bench(tmp_path / "b.toml", bench)
    assert read_bench(tmp_path / "b.toml", "b.toml").heat == turned
    with pytest.raises(PlanError, match=r"x1\.m2: its finger 1 lies outside"):
        moved_to(heat, "x1.m2", 1e-6, 200e-6)
    with pytest.raises(PlanError, match="lies over one of"):
        moved_to(heat, "x1.m2", 160e-6, 200e-6)
    with pytest.raises(PlanError, match="turned by 0 or by 90"):
        with_line(heat, "x1.m2", turn="45")


def test_a_picture_is_cut_between_its_points():
    """At a point of the grid its value, half way the mean of two, and at the edges too."""
    plan = snapshot("pa_868_bench-hot").bench.heat.plan()
    found = picture(plan, np.array([0.05, 0.006, 0.0003]), 27.0)
    assert found.at(float(found.x[40]), float(found.y[30])) == approx(float(found.celsius[40, 30]), rel=1e-12)
    middle = 0.5 * (found.celsius[40, 30] + found.celsius[41, 30])
    assert found.at(float(found.x[40:42].mean()), float(found.y[30])) == approx(float(middle), rel=1e-9)
    assert found.at(plan.die.length, plan.die.width) == approx(float(found.celsius[-1, -1]), rel=1e-12)


def test_wider_is_cooler_and_thicker_is_hotter():
    """At the operating point; what cannot be is a gap with its reason, and a stop is heeded."""
    one = snapshot("pa_868_bench-hot")
    bare = replace(one, bench=replace(one.bench, analyses=(), watches=(), readings=(), specifications=()))
    pitch = tried(bare, "x1.m2", PITCH)
    assert (np.diff(pitch.peaks) < 0).all()
    assert pitch.values[2] == approx(pitch.now, rel=1e-9)
    thick = tried(bare, "x1.m2", THICKNESS)
    assert (np.diff(thick.peaks) > 0).all()
    assert pitch.peaks[2] == approx(thick.peaks[2], rel=1e-9)
    narrow = with_line(one.bench.heat, "x1.m2", pitch="4.1u")
    gaps = tried(replace(bare, bench=replace(bare.bench, heat=narrow)), "x1.m2", PITCH)
    assert np.isnan(gaps.peaks[:2]).all()
    assert np.isfinite(gaps.peaks[2:]).all()
    assert "lie over each other" in gaps.problem
    job = Job()
    job.stop()
    with pytest.raises(CircuitError, match="stopped"):
        tried(bare, "x1.m2", PITCH, job)
    with pytest.raises(CircuitError, match="does not stand on a die"):
        tried(bare, "x1.m9", PITCH)


def test_a_balance_with_its_temperatures_is_that_at_its_temperatures():
    """What is found with temperatures as unknowns, with a resistance behind the die, is what is found at these temperatures by
    itself; and it is not looked for twice."""
    one = snapshot("pa_868_bench-hot")
    circuit, tone, tones, found = one.circuit, np.array([868e6]), one_tone(7), []

    def again(system: System) -> Periodic:
        found.append(balance(system, tone, tones, near=found[-1] if found else None))
        return found[-1]

    cold = circuit.system(one.netlist(), one.moved(lanes_of((one.condition(),))))
    system = circuit.heating.about(cold, again)
    settled, alone = again(system), balance(system, tone, tones)
    assert len(found) == 2
    assert settled.states[0].balanced.iterations == found[0].states[0].balanced.iterations
    here, there = settled.states[0].balanced.phasors, alone.states[0].balanced.phasors
    size = np.abs(there).max(axis=0)
    assert (np.abs(here - there).max(axis=0) <= 1e-5 * size + 1e-8).all()


def test_what_is_hotter_than_its_models_is_named():
    """With its finger, in a note of the run; a kit that says nothing of it is not asked."""
    one = snapshot("pa_868_bench-hot")
    assert one.kit.models.hottest == 150.0
    lines = tuple(line for line in one.bench.analyses if line.kind == "point")
    bare = replace(one.bench, analyses=lines or one.bench.analyses[:1], watches=(), readings=(), specifications=())
    for hottest, said in ((60.0, True), (150.0, False), (None, False)):
        kit = replace(one.kit, models=replace(one.kit.models, hottest=hottest))
        run = run_bench(replace(one, bench=bare, kit=kit))
        words = [note for note in run.notes if "its models are for up to 60 °C" in note]
        assert bool(words) == said
        assert not said or "x1.m2 reaches" in words[0]
