"""A circuit that is ready to be solved can go to another process: nothing of this one's memory is in it."""

from __future__ import annotations

import pickle
import subprocess
import sys
from collections.abc import Callable

import numpy as np
import pytest

from hearthline.app.start import DEMO
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.engine.periodic.lanes import balance
from hearthline.core.engine.periodic.tones import one_tone
from hearthline.core.engine.solve import SourceSweep, solve
from hearthline.core.engine.system import System, lower
from hearthline.core.formats.project_folder import read_project
from hearthline.core.spread.pvt import lane_of
from tests.decks import circuit_of

THERE = """
import pickle, sys
from hearthline.core.engine.solve import SourceSweep, solve
system = pickle.load(sys.stdin.buffer)
found = solve(system, SourceSweep())
pickle.dump((found.kept, found.outcomes), sys.stdout.buffer)
"""

EVERYTHING = """v1 in 0 1.2 pulse 0 1 1n 1n 1n 5n 10n
r1 in a 1k
l1 a b 1n
c1 b 0 1p
d1 b c dio
q1 in c 0 tran
m1 in b d 0 nm w=2u l=180n
r2 d 0 2k
b1 e 0 v=2*v(d)+v(c)**2
t1 e 0 g 0 z0=50 td=1n
r3 g 0 50
e1 h 0 g 0 2
r4 h 0 1k
.model dio d is=1e-15 rs=5
.model tran npn is=1e-16 bf=80
.model nm nmos vto=0.4 kp=200u lambda=0.05
"""


def written() -> System:
    """One of almost every kind of part."""
    return circuit_of(EVERYTHING)[0]


def drawn(title: str) -> Callable[[], System]:
    """A bench of the demo; the amplifiers' boards hold parts from files."""

    def made() -> System:
        project = read_project(DEMO)
        snapshot = Snapshot(project.benches[title], project.cells, project.kit)
        return lower(snapshot.netlist(), snapshot.models, snapshot.moved(lane_of(snapshot.condition())))

    return made


@pytest.mark.parametrize("make", [written, drawn("lna_868_bench-figures"), drawn("ota_sense_bench-loop")])
def test_another_process_finds_the_same_to_the_last_bit(make):
    """Kernels are found anew there: an address of this process would end it."""
    system = make()
    here = solve(system, SourceSweep())
    done = subprocess.run([sys.executable, "-c", THERE], input=pickle.dumps(system), capture_output=True, check=False)
    assert done.returncode == 0, done.stderr.decode()
    kept, outcomes = pickle.loads(done.stdout)
    np.testing.assert_array_equal(outcomes, here.outcomes)
    np.testing.assert_array_equal(kept, here.kept)


def test_one_that_was_balanced_goes_as_well():
    """It has kept itself several times over, and addresses of that, for compiled code."""
    system = circuit_of("v1 a 0 sin(0 1 1meg)\nr1 a b 1k\nd1 b 0 dio\n.model dio d is=1e-15\n")[0]
    assert balance(system, np.array([1e6]), one_tone(3)).states[0] is not None
    sent = pickle.loads(pickle.dumps(system))
    assert not {"copies", "handed"} & set(vars(sent))
    here, there = (balance(one, np.array([1e6]), one_tone(3)).states[0].balanced.phasors for one in (system, sent))
    np.testing.assert_array_equal(there, here)


def test_within_a_process_the_kinds_stay_the_same_ones():
    """So that machine code is loaded once."""
    system = written()
    again = pickle.loads(pickle.dumps(system))
    assert again.kinds == system.kinds
    assert all(one is other for one, other in zip(again.kernels, system.kernels, strict=True))
