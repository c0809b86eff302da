"""A circuit in time while one source follows given values, in equal steps: see `kernels.following`."""

from __future__ import annotations

import numpy as np

from hearthline.core.data.dataset import Dataset
from hearthline.core.engine.dc import conditions_of
from hearthline.core.engine.job import Job
from hearthline.core.engine.kernels.following import follow
from hearthline.core.engine.solve import Tolerances
from hearthline.core.engine.system import System
from hearthline.core.engine.worker import new_memory
from hearthline.core.errors import CircuitError
from hearthline.core.outcome import Outcome


def follow_source(
    system: System, source: str, samples: np.ndarray, steps: np.ndarray, watch: tuple[str, ...], job: Job | None = None
) -> Dataset:
    """The watched device variables while `source` takes samples (lanes, points) [V or A], one every steps (lanes,) [s].

    The dataset's points count the samples. Raises CircuitError for a source or a variable that the circuit does not have.
    """
    if source not in system.source_slots:
        raise CircuitError(f"there is no source '{source}'; there is {', '.join(system.source_slots)}", part=source)
    index = {variable.label: k for k, variable in enumerate(system.variables)}
    for label in watch:
        if label not in index:
            raise CircuitError(f"there is no quantity '{label}' to watch")
    lanes, points = samples.shape
    pattern, circuit = system.dynamic
    kept = np.full((lanes, points, len(watch)), np.nan)
    outcomes = np.full((lanes, points), int(Outcome.NOT_RUN), np.int64)
    follow(
        circuit, new_memory(circuit, pattern), system.values, system.guesses, system.source_slots[source],
        np.ascontiguousarray(samples, float), np.ascontiguousarray(steps, float),
        np.array([index[label] for label in watch], np.int64), kept, outcomes, (job or Job()).flag, Tolerances().array(),
    )  # fmt: skip
    curves = {label: kept[:, :, k] for k, label in enumerate(watch)}
    units = {label: system.variables[index[label]].unit for label in watch}
    return Dataset(
        "time", "sample", "", np.arange(points, dtype=float), curves, units, conditions_of(system.lanes), outcomes
    )
