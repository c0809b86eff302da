"""A circuit of a hundred thousand unknowns, from the deck to its operating point."""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
from pathlib import Path

from benchmarks.circuits import mesh
from benchmarks.row import Row

SIDE, TRANSISTORS = 316, 1000
RUN = """
import json, resource, sys, time
from pathlib import Path
from hearthline.core.engine.lanes import Lanes
from hearthline.core.engine.solve import solve
from hearthline.core.engine.system import lower
from hearthline.core.formats.deck.flatten import flatten
from hearthline.core.formats.deck.reader import read
times = [time.perf_counter()]
def lap(value):
    times.append(time.perf_counter())
    return value
deck = lap(read(Path(sys.argv[1])))
netlist, models = lap(flatten(deck))
system = lap(lower(netlist, models, Lanes()))
lap(system.static)
found = lap(solve(system))
assert not len(found.failed_lanes)
memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6
print(json.dumps([len(system.unknowns), memory, *(b - a for a, b in zip(times, times[1:]))]))
"""


def rows() -> list[Row]:
    """In a process of its own, whose memory is its alone."""
    with tempfile.TemporaryDirectory() as scratch:
        deck = Path(scratch) / "mesh.cir"
        deck.write_text("a mesh\n" + mesh(SIDE, TRANSISTORS))
        done = subprocess.run([sys.executable, "-c", RUN, str(deck)], capture_output=True, text=True, check=True)
    size, memory, *laps = json.loads(done.stdout)
    words = ("reading", "flattening", "lowering", "ordering", "operating point")
    rows = [
        Row(f"mesh of {size:.0f} unknowns: {word}", lap, 10.0, 1.0, "of 10 s")
        for word, lap in zip(words, laps, strict=True)
    ]
    rows.append(Row(f"mesh of {size:.0f} unknowns: deck to operating point", sum(laps), 10.0, 1.0, "10 s"))
    rows.append(Row(f"mesh of {size:.0f} unknowns: memory", memory, 1.0, 1.0, "1 GB", "GB"))
    return rows
