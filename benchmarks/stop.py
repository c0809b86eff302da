"""How soon a run stops when it is told to."""

from __future__ import annotations

import threading
import time

import numpy as np

from benchmarks.chain import bench_of, chain
from benchmarks.row import Row
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.engine.job import Job
from hearthline.core.engine.lanes import Lanes
from hearthline.core.engine.solve import SourceSweep, solve
from hearthline.core.engine.system import lower
from hearthline.core.formats.kit_folder import INSTALLED, read_kit


def rows() -> list[Row]:
    """The slowest of several stops in the middle of a run of a 60-device cell."""
    cell = chain(30)
    snapshot = Snapshot(bench_of(cell), {cell.name: cell}, read_kit(INSTALLED / "lm130"))
    lanes = Lanes(("typ",)).spread(**{"celsius": np.linspace(-40, 150, 16), "parameter:vdd": [1.2]})
    system = lower(snapshot.netlist(), snapshot.kit.models, lanes)
    worst = 0.0
    for _ in range(5):
        job = Job()
        thread = threading.Thread(
            target=solve, args=(system, SourceSweep(("vin",), np.linspace(0, 1.2, 20001))), kwargs={"job": job}
        )
        thread.start()
        while job.done < 100:
            time.sleep(0.001)
        begin = time.perf_counter()
        job.stop()
        thread.join()
        worst = max(worst, time.perf_counter() - begin)
    return [Row("from Stop to stopped, 60 devices", worst, 0.05, 1.0, "allowed")]
