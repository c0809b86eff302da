"""Samples in pieces: one set at the end, earlier ones as they were, curves while there is room."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from hearthline.core.bench import sampled
from hearthline.core.bench.sampled import run_samples, sample_plan
from hearthline.core.engine.job import Job
from hearthline.core.engine.small_signal import ac
from hearthline.core.engine.system import lower
from hearthline.core.errors import CircuitError
from hearthline.core.formats.bench_source import read_benches
from tests import samples
from tests.approximation import approx

PARTS = "v1 in 0 1 ac 1 pulse(0 1 0 1n 1n 1u 2u)\nr1 in out 10k\nc1 out 0 10p\nr2 out 0 10k\n"
TRANSIENT = """[[analyses]]
name = "wave"
line = "transient to 1u"
[[watches]]
formula = "V(out)"
[[readings]]
name = "half"
formula = "at(V(out), 1u)"
"""


@pytest.fixture
def in_pieces(monkeypatch):
    """Forty samples at a time."""
    monkeypatch.setattr(sampled, "PORTION", 40)


def test_pieces_make_one_set_and_leave_earlier_ones_alone(tmp_path, in_pieces):
    """Readings and curves stand in the order of the samples; what was told on the way does not change afterwards."""
    plan = sample_plan(samples.source(tmp_path, samples='count = "130"\n').snapshot)
    told = []
    found = run_samples(plan, told=lambda some: told.append((some, some.values["half"].copy())))
    assert [some.count for some, _ in told] == [40, 80, 120]
    for some, values in told:
        np.testing.assert_array_equal(some.values["half"], values)
        np.testing.assert_array_equal(found.values["half"][: some.count], values)
    curves = found.curves["op"]
    assert found.curved == 130
    assert curves.conditions["sample"].tolist() == list(range(1, 131))
    np.testing.assert_array_equal(curves.curve("V(out)")[:, 0], found.values["half"][:, 0])


def test_curves_end_where_the_room_ends(tmp_path, in_pieces, monkeypatch):
    """The first ones are kept, none behind a gap; readings go on."""
    monkeypatch.setattr(sampled, "CURVE_BYTES", 16 * 100.0)
    found = run_samples(sample_plan(samples.source(tmp_path, samples='count = "400"\n').snapshot))
    assert 80 <= found.curved < 400
    assert found.curves["op"].conditions["sample"].tolist() == list(range(1, found.curved + 1))
    assert found.count == 400


def test_curves_of_lanes_with_steps_of_their_own(tmp_path, in_pieces):
    """A transient's lanes differ in length; they are put together all the same."""
    plan = sample_plan(samples.source(tmp_path, parts=PARTS, asked=TRANSIENT, samples='count = "100"\n').snapshot)
    found = run_samples(plan)
    data = found.curves["wave"]
    assert data.lanes == 100
    for lane in (0, 55, 99):
        values = data.curve("V(out)")[lane][: len(data.x(lane))]
        assert values[-1] == approx(found.values["half"][lane, 0], rel=1e-6)


def test_small_signals_keep_what_is_wanted(tmp_path):
    """As sweeps do; the same numbers, and a word about what was not kept."""
    source = read_benches(samples.bench(tmp_path, parts=PARTS))[0]
    circuit = source.snapshot.circuit
    system = lower(circuit.netlist, source.snapshot.models, circuit.lanes((source.snapshot.condition(),)))
    frequencies = np.logspace(3, 9, 13)
    whole, some = ac(system, frequencies), ac(system, frequencies, unknowns=[1])
    label = system.unknowns[1].label
    np.testing.assert_array_equal(some.of(label), whole.of(label))
    assert list(some.dataset().curves) == [label]
    with pytest.raises(CircuitError, match="no quantity"):
        some.of(system.unknowns[0].label)


def test_operating_points_of_very_many_lanes_keep_what_is_watched(tmp_path):
    """Everything of a few; beyond a size only the watched, so that memory stays in bounds."""
    plan = sample_plan(samples.source(tmp_path).snapshot)
    one = plan.plans[0]
    few = one.run(plan.conditions, Job()).dataset
    many = replace(one, share=1e-9).run(plan.conditions, Job()).dataset
    assert len(few.curves) > len(many.curves)
    assert list(many.curves) == ["V(out)"]
    np.testing.assert_array_equal(many.curve("V(out)"), few.curve("V(out)"))
