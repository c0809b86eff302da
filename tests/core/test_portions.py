"""A run in portions is the run in one, and what is told on the way is true of what is done."""

from __future__ import annotations

import numpy as np
import pytest

from hearthline.app.start import DEMO
from hearthline.core.bench import portions
from hearthline.core.bench.run import run_bench
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.engine.job import Job
from hearthline.core.formats.project_folder import read_project
from hearthline.core.outcome import Outcome

PROJECT = read_project(DEMO)


@pytest.mark.parametrize("key", ["inv_x1-transfer", "inv_x1_bench-edges"])
def test_portions_give_the_same_run(key, monkeypatch):
    """Sweeps and transients, whose lanes have points of their own; each told run holds what is done, and nothing else."""
    monkeypatch.setattr(portions, "SHORT", 0.0)
    monkeypatch.setattr(portions, "PORTION", 0.0)
    monkeypatch.setattr(portions, "A_NUMBER", 1.0)
    snapshot = Snapshot(PROJECT.benches[key], PROJECT.cells, PROJECT.kit)
    whole, seen = run_bench(snapshot), []
    job = Job(workers=8)
    found = run_bench(snapshot, job, told=seen.append)
    assert found.bases == whole.bases
    assert found.failures == whole.failures
    for name, data in whole.results.items():
        assert data.curves.keys() == found.results[name].curves.keys()
        for label, values in data.curves.items():
            other = found.results[name].curves[label]
            if not data.ragged:
                np.testing.assert_allclose(other, values, rtol=1e-6, atol=1e-9)
        for label, values in data.conditions.items():
            np.testing.assert_array_equal(found.results[name].conditions[label], values)
    assert len(seen) >= 5
    assert job.share == 1.0
    counts = []
    for run in seen:
        name, data = next(reversed(run.results.items()))
        pending = (data.outcomes == Outcome.NOT_RUN).all(axis=1)
        counts.append(int((~pending).sum()))
        label = next(iter(data.curves))
        assert data.lanes == whole.results[name].lanes
        assert np.isnan(data.curves[label][pending]).all()
        assert np.isfinite(data.curves[label][~pending][:, 0]).all()
        for axis, values in whole.results[name].conditions.items():
            np.testing.assert_array_equal(data.conditions[axis], values)
        assert not run.complete
    first = counts[: len(counts) // len(whole.results)]
    assert first == sorted(first)


def test_a_stop_between_portions_leaves_the_rest_undone(monkeypatch):
    """What was done stands; the others are marked as not reached."""
    monkeypatch.setattr(portions, "SHORT", 0.0)
    monkeypatch.setattr(portions, "PORTION", 0.0)
    monkeypatch.setattr(portions, "A_NUMBER", 1.0)
    snapshot = Snapshot(PROJECT.benches["inv_x1-transfer"], PROJECT.cells, PROJECT.kit)
    job = Job(workers=4)
    found = run_bench(snapshot, job, told=lambda run: job.stop())
    data = found.results["transfer"]
    assert not found.complete
    assert np.isfinite(data.curve("V(out)")[:4]).all()
    assert (data.outcomes[8:] != Outcome.SOLVED).all()


def test_short_runs_are_not_divided():
    """Where all of it takes a moment."""
    snapshot = Snapshot(PROJECT.benches["inv_x1-transfer"], PROJECT.cells, PROJECT.kit)
    run_bench(snapshot)
    seen = []
    run_bench(snapshot, told=seen.append)
    assert len(seen) == 0


def test_whole_numbers_wait_too():
    """Which product of two tones a row is stands in a curve of whole numbers."""
    pending = np.array([False, True])
    found = portions._without(np.array([[1, 2], [1, 2]]), pending)
    np.testing.assert_array_equal(found, [[1.0, 2.0], [np.nan, np.nan]])
