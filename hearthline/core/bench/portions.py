"""Conditions in portions, so that what is done can be shown while the rest is computed."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import replace

import numpy as np

from hearthline.core.analyses.kind import Piece
from hearthline.core.analyses.plan import Plan, together
from hearthline.core.data.dataset import AROUND, Dataset, joined
from hearthline.core.engine.job import Job
from hearthline.core.outcome import Outcome
from hearthline.core.spread.pvt import Condition

SHORT, PORTION = 0.6, 0.5
"""Seconds: what takes less than the first in all is not divided, else a portion takes about the second."""

A_NUMBER = 5e-7
"""Seconds that a voltage at a point takes, about: only to leave short work undivided."""

Told = Callable[[Dataset], None]


def in_portions(plan: Plan, conditions: tuple[Condition, ...], job: Job, told: Told) -> Piece:
    """The analysis over all conditions; `told` gets what there is after each portion but the last, with the lanes that are
    still to come marked as not run. Raises HearthlineError."""
    if plan.kind.countable and A_NUMBER * len(conditions) * plan.points() * len(plan.circuit.netlist.nets) < SHORT:
        return plan.run(conditions, job)
    pieces: list[Piece] = []
    places: list[list[int]] = []
    done, count = 0, job.workers
    while done < len(conditions):
        count = min(count, len(conditions) - done)
        begin = time.perf_counter()
        job.portion(done, count, len(conditions))
        part = replace(plan, share=count / len(conditions))  # so that it keeps what the whole would keep
        pieces.append(part.run(conditions[done : done + count], job))
        places.append(list(range(done, done + count)))
        done += count
        each = (time.perf_counter() - begin) / count
        left = len(conditions) - done
        if left and not job.stopped:
            told(_padded(together(pieces, places, pieces[0].dataset.per_condition).dataset, conditions, done))
        count = left if job.stopped or each * left < SHORT else max(job.workers, round(PORTION / max(each, 1e-9)))
    job.portion(0, len(conditions), len(conditions))
    return pieces[0] if len(pieces) == 1 else together(pieces, places, pieces[0].dataset.per_condition)


def _padded(data: Dataset, conditions: tuple[Condition, ...], done: int) -> Dataset:
    """With lanes for the conditions that are still to come."""
    per = data.per_condition
    order = np.arange(len(conditions) * per)
    pending = order >= done * per
    found = joined([data], np.where(pending, order % per, order))
    curves = {label: _without(values, pending) for label, values in found.curves.items()}
    outcomes = found.outcomes.copy()
    outcomes[pending] = Outcome.NOT_RUN
    known = {"corner": [one.corner for one in conditions], "temperature": [one.celsius for one in conditions]}
    known[AROUND] = [one.around for one in conditions]
    for name in found.conditions:
        if all(name in one.parameters for one in conditions):
            known[name] = [one.parameters[name] for one in conditions]
    columns = {
        name: np.repeat(np.array(known[name], values.dtype), per) if name in known else values
        for name, values in found.conditions.items()
    }
    points = _without(found.points, pending) if found.ragged else found.points
    return replace(found, curves=curves, outcomes=outcomes, conditions=columns, points=points)


def _without(values: np.ndarray, pending: np.ndarray) -> np.ndarray:
    found = values.astype(np.result_type(values, float))  # a copy; whole numbers have no NaN
    found[pending] = np.nan
    return found
