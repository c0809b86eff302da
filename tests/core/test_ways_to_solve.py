"""Refined sweeps, hysteresis, several solutions, held nets, transients in lanes, stops and long runs."""

from __future__ import annotations

import threading

import numpy as np
import pytest

from hearthline.core.circuit.checks import likely_cause
from hearthline.core.engine.dc import SweptSource, dc_sweep, other_solutions
from hearthline.core.engine.job import Job
from hearthline.core.engine.lanes import Lanes
from hearthline.core.engine.solve import solve
from hearthline.core.engine.system import lower
from hearthline.core.engine.transient.labelled import dataset_of
from hearthline.core.engine.transient.run import Times, transient
from hearthline.core.outcome import Outcome
from tests.approximation import approx
from tests.decks import circuit_of, parts_of, planned, solved

CARDS = ".model n nmos vto=0.4 kp=200u lambda=0.1\n.model p pmos vto=-0.4 kp=80u lambda=0.1\n"
INVERTER = f"vdd vdd 0 1.2\nvin in 0 0\nmn out in 0 0 n w=1u l=0.2u\nmp out in vdd vdd p w=2.5u l=0.2u\n{CARDS}"


def latch(drive: str = "") -> str:
    """Two inverters that hold each other."""
    text = f"vdd vdd 0 1.2\n{CARDS}{drive}"
    for a, b in (("x", "y"), ("y", "x")):
        text += f"mn{a} {b} {a} 0 0 n w=1u l=0.2u\nmp{a} {b} {a} vdd vdd p w=2.5u l=0.2u\n"
    return text


def test_a_refined_sweep_is_fine_where_the_curve_bends():
    """Few points find the steep part of an inverter, and a straight line misses nothing."""
    system, models = circuit_of(INVERTER)
    swept = SweptSource("vin", np.linspace(0, 1.2, 13))
    data = dc_sweep(system.netlist, models, Lanes(), swept, ("V(out)",), bend=2e-3).dataset
    steps = np.diff(data.points)
    assert (steps > 0).all()
    assert steps.min() < 0.01 < steps.max()
    assert len(data.points) < 400
    fine = dc_sweep(system.netlist, models, Lanes(), SweptSource("vin", np.linspace(0, 1.2, 2001)), ("V(out)",)).dataset
    drawn = np.interp(fine.points, data.points, data.curve("V(out)")[0])
    assert np.abs(drawn - fine.curve("V(out)")[0]).max() < 0.01


def test_up_and_down_shows_hysteresis():
    """A latch that is pushed through a resistor flips at two different voltages."""
    system, models = circuit_of(latch("vin in 0 0\nrin in x 2k\n"))
    up = np.linspace(0, 1.2, 241)
    data = dc_sweep(
        system.netlist, models, Lanes(), SweptSource("vin", np.concatenate([up, up[::-1]])), ("V(y)",)
    ).dataset
    y = data.curve("V(y)")[0]
    rising, falling = up[np.argmax(y[:241] < 0.6)], up[::-1][np.argmax(y[241:] > 0.6)]
    assert rising > falling + 0.1


def test_a_latch_can_be_asked_for_its_other_states():
    """Two stable ones and the one in between."""
    system, _ = circuit_of(latch())
    known = solve(system).kept[0, 0]
    found = np.vstack([known, other_solutions(system, known)])[:, [u.name for u in system.unknowns].index("x")]
    assert np.sort(found) == approx([0.0, np.sort(found)[1], 1.2], abs=1e-3)
    assert 0.4 < np.sort(found)[1] < 0.8


def test_initial_voltages_hold_the_operating_point_and_let_go():
    """A latch begins where `.ic` says and stays in the state that is nearest."""
    for volts, end in ((0.2, 0.0), (1.0, 1.2)):
        table = solved(latch("cx x 0 10f\ncy y 0 10f\n") + f".ic v(x)={volts}\n.tran 10p 2n\n")
        assert table["V(x)"][0] == approx(volts, abs=1e-3)
        assert table["V(x)"][-1] == approx(end, abs=1e-3)


def test_lanes_of_a_transient_are_one_dataset():
    """Each lane keeps steps of its own; together they stand in one dataset, and device quantities go along."""
    netlist = circuit_of(".param r=1k\nv1 a 0 pulse(0 1 0 1n 1n 1 2)\nr1 a b {r}\nc1 b 0 1n\n")[0].netlist
    models = circuit_of("r1 a 0 1\n")[1]
    lanes = Lanes().spread(**{"parameter:r": [500.0, 1e3, 2e3]})
    system = lower(netlist, models, lanes)
    current = [v.label for v in system.variables].index("r1.i")
    march = transient(system, Times(100e-9, 5e-6), variables=[current])
    data = dataset_of(march)
    assert data.conditions["r"].tolist() == [500.0, 1e3, 2e3]
    for lane, ohms in enumerate((500.0, 1e3, 2e3)):
        late = data.points[lane] > 1e-8
        t = data.points[lane, late]
        assert len(t) > 20
        expected = 1 - (ohms * 1e-9 / 1e-9) * (np.exp(1e-9 / (ohms * 1e-9)) - 1) * np.exp(-t / (ohms * 1e-9))
        np.testing.assert_allclose(data.curve("V(b)")[lane, late], expected, atol=3e-4)
        by_hand = (data.curve("V(a)") - data.curve("V(b)"))[lane, late] / ohms
        np.testing.assert_allclose(data.curve("r1.i")[lane, late], by_hand, atol=1e-7)


def test_a_lane_of_a_transient_that_fails_leaves_the_others():
    """And says when."""
    netlist = circuit_of(".param k=1\nv1 a 0 dc 0 sin(0 {k} 1k)\nr1 a b 1\nd1 b 0 d\n.model d d is=1e-14\n")[0].netlist
    models = circuit_of("d1 a 0 d\nr1 a 0 1\n.model d d is=1e-14\n")[1]
    lanes = Lanes(("",) * 3, np.full(3, 27.0), {"k": np.array([1.0, 1e306, 2.0])})
    march = transient(lower(netlist, models, lanes), Times(1e-5, 1e-3))
    assert march.failed_lanes == [1]
    assert "at " in str(march.failure(1))
    assert march.tracks[2].reached == 1e-3


def test_a_stopped_transient_keeps_what_it_has():
    """Rows come in pieces while it runs, memory stays bounded, and a stop ends it."""
    system, _ = circuit_of("v1 a 0 sin(0 1 1meg)\nr1 a b 1k\nc1 b 0 1n\n")
    job, pieces = Job(), []
    enough = threading.Event()

    def keeper(track, rows):
        pieces.append(len(rows))
        enough.set()

    thread = threading.Thread(
        target=lambda: pieces.append(transient(system, Times(1e-9, 1.0), job=job, keeper=keeper).tracks[0])
    )
    thread.start()
    assert enough.wait(60)
    job.stop()
    thread.join()
    track = pieces.pop()
    assert track.outcome == Outcome.STOPPED
    assert not track.pieces
    assert max(pieces) <= (1 << 18) // 4
    assert track.accepted + 1 == sum(pieces)


def test_statistics_of_a_transient(tmp_path):
    """Counts of steps and iterations are those of the run."""
    (task,) = planned("v1 a 0 pulse(0 1 1u 1n 1n 5u 20u)\nr1 a b 1k\nc1 b 0 1n\n.tran 1u 20u\n")
    counts = task.run(path=tmp_path / "t.csv").counts
    lines = (tmp_path / "t.csv").read_text().splitlines()
    assert len(lines) == counts.accepted + 2
    assert counts.iterations >= counts.accepted + counts.rejected
    assert [path.name for path in tmp_path.iterdir()] == ["t.csv"]


def test_a_net_without_capacitance_jumps():
    """Held at first and then let go, it is where its parts want it after the first step; so is one that flips later."""
    table = solved(INVERTER.replace("vin in 0 0", "vin in 0 pwl(0 0 1n 1.2 2n 1.2)") + ".ic v(out)=0.3\n.tran 10p 2n\n")
    assert table["V(out)"][0] == approx(0.3, abs=1e-3)
    assert table["V(out)"][1] == approx(1.2, abs=1e-6)
    flipping = latch("vin in 0 pwl(0 0 1n 1.2 2n 1.2)\nrin in x 2k\n")
    table = solved(flipping + ".tran 10p 2n\n")
    assert table["V(y)"][0] > 1.1
    assert table["V(y)"][-1] < 0.1


def test_initial_voltages_across_parts_reach_nets_in_a_chain():
    """From ground on, and for a part between nets of which nothing is known from its second net on."""
    text = "r1 a 0 1\nr2 b a 1\nr3 p 0 1\nr4 q 0 1\nc1 a 0 1n ic=1\nc2 b a 1n ic=2\nc3 p q 1n ic={1/2}\nl1 p z 1u ic=3m\nrz z 0 1\n"
    table = solved(text + ".tran 1n 5n uic\n")
    first = {name: values[0] for name, values in table.items()}
    assert (first["V(a)"], first["V(b)"], first["V(p)"], first["V(q)"], first["I(l1)"]) == (1.0, 3.0, 0.5, 0.0, 3e-3)
    assert table["V(p)"][1] - table["V(q)"][1] == approx(0.5, abs=0.05)


@pytest.mark.parametrize(
    ("nets", "said"),
    [
        (("w",), "nothing but bulks (m1, m2) is at net w"),
        (("x", "e"), "only r2 is at net e"),
        (("i",), "only current sources are at net i"),
        (("a",), ""),
    ],
)
def test_likely_causes_are_said_in_words(nets, said):
    """For the nets that moved last."""
    text = "v1 a 0 1\nm1 x a 0 w n\nm2 x a 0 w n\nr1 a x 1\nr2 x e 1\ni1 0 i 1\ni2 i 0 1\nri i2 0 1\n.model n nmos\n"
    elements = parts_of(text)
    assert said in likely_cause(elements, nets)
    assert bool(likely_cause(elements, nets)) == bool(said)
