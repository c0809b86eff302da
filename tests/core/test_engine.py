"""Lanes, continuations, progress, stop, and failures that leave the others standing."""

from __future__ import annotations

import threading

import numpy as np
import pytest

from hearthline.core.engine.dc import SweptSource, dc_sweep, operating_point
from hearthline.core.engine.job import Job
from hearthline.core.engine.lanes import Lanes
from hearthline.core.engine.solve import SourceSweep, Tolerances, solve
from hearthline.core.engine.system import lower
from hearthline.core.errors import CircuitError
from hearthline.core.formats.deck.flatten import flatten
from hearthline.core.formats.deck.reader import read
from hearthline.core.outcome import Continuation, Outcome
from tests.approximation import approx
from tests.decks import planned, point


@pytest.fixture
def circuit(tmp_path):
    """Netlist and models of a deck's text."""

    def make(text: str):
        path = tmp_path / "t.cir"
        path.write_text("t\n" + text)
        return flatten(read(path, "t.cir"))

    return make


def ring(stages: int) -> str:
    """A closed chain of inverters."""
    text = ".param vdd=1.2\nvdd vdd 0 {vdd}\n.model n nmos vto=0.4 kp=200u lambda=0.1\n.model p pmos vto=-0.4 kp=80u lambda=0.1\n"
    for k in range(stages):
        a, b = f"n{k}", f"n{(k + 1) % stages}"
        text += f"mn{k} {b} {a} 0 0 n w=1u l=0.2u\nmp{k} {b} {a} vdd vdd p w=2u l=0.2u\n"
    return text


def test_lanes_agree_with_runs_of_their_own(circuit):
    """45 lanes together give what each gives alone."""
    netlist, models = circuit(ring(5))
    lanes = Lanes().spread(**{"celsius": np.linspace(-40, 150, 9), "parameter:vdd": np.linspace(1.0, 1.4, 5)})
    together = operating_point(netlist, models, lanes).dataset.curve("V(n2)")[:, 0]
    for k in (0, 17, 44):
        alone = Lanes(celsius=lanes.celsius[k : k + 1], parameters={"vdd": lanes.parameters["vdd"][k : k + 1]})
        assert operating_point(netlist, models, alone).dataset.curve("V(n2)")[0, 0] == approx(together[k], rel=1e-9)


def test_any_number_of_workers_gives_the_same(circuit):
    """Threads share nothing that matters."""
    netlist, models = circuit(ring(5))
    lanes = Lanes().spread(celsius=np.linspace(-40, 150, 23))
    swept = SweptSource("vdd", np.linspace(0.8, 1.4, 31))
    one, four = (dc_sweep(netlist, models, lanes, swept, job=Job(workers)).dataset for workers in (1, 4))
    for label in (label for label in one.curves if label.startswith(("V(", "I("))):
        np.testing.assert_allclose(one.curves[label], four.curves[label], rtol=1e-8, atol=1e-12)


def test_a_latch_ends_in_the_same_state_on_any_machine(circuit):
    """Which of two stable states a lane finds may not depend on how many processors there are."""
    netlist, models = circuit(ring(2))
    lanes = Lanes().spread(**{"celsius": np.linspace(-40, 150, 11), "parameter:vdd": np.linspace(0.9, 1.4, 9)})
    one, three = (operating_point(netlist, models, lanes, job=Job(workers)).dataset for workers in (1, 3))
    np.testing.assert_array_equal(one.curve("V(n0)"), three.curve("V(n0)"))


def test_a_lane_that_fails_is_marked_and_the_others_stand(circuit):
    """One lane asks for a current that no diode of this kind can carry at any voltage that is a number."""
    netlist, models = circuit(".param k=1\ni1 0 a {k}\nd1 a 0 d\n.model d d is=1e-14\n")
    lanes = Lanes(("",) * 3, np.full(3, 27.0), {"k": np.array([1e-3, 1e200, 2e-3])})
    result = operating_point(netlist, models, lanes)
    assert result.solution.failed_lanes.tolist() == [1]
    volts = result.dataset.curve("V(a)")[:, 0]
    assert np.isnan(volts[1])
    assert volts[2] - volts[0] == approx(0.02586 * np.log(2), rel=1e-3)
    error = result.solution.failure(1)
    assert error.nets == ("a",)
    assert set(error.parts) == {"i1", "d1"}


def test_progress_counts_every_point_and_a_stop_keeps_what_is_done(circuit):
    """Stopped from another thread; what was solved is there, the rest is marked, and progress never lies."""
    netlist, models = circuit(ring(9))
    job = Job(2)
    lanes = Lanes().spread(celsius=np.linspace(-40, 150, 64))
    system = lower(netlist, models, lanes)
    sweep = SourceSweep(("vdd",), np.linspace(0.9, 1.4, 4001))
    found = []
    thread = threading.Thread(target=lambda: found.append(solve(system, sweep, job=job)))
    thread.start()
    while job.done < 200 and thread.is_alive():
        pass
    job.stop()
    thread.join()
    outcomes = found[0].outcomes
    solved = int((outcomes == Outcome.SOLVED).sum())
    assert 200 <= solved < outcomes.size
    assert job.done == solved
    assert np.isfinite(found[0].kept[outcomes == Outcome.SOLVED]).all()
    assert not len(found[0].failed_lanes)


def test_a_job_stopped_before_it_begins_does_nothing(circuit):
    """No point is solved."""
    netlist, models = circuit(ring(3))
    job = Job()
    job.stop()
    assert (solve(lower(netlist, models, Lanes()), job=job).outcomes == Outcome.STOPPED).all()


STAGES = "\n".join(f"m{k} n{k + 1} n{k} 0 0 n w=100u l=1u\nr{k} vdd n{k + 1} 100k" for k in range(16))
DIODES = "\n".join(f"d{k} n{k} n{k + 1} d" for k in range(30))


@pytest.mark.parametrize(
    ("text", "iterations", "continuation"),
    [
        (
            f"vdd vdd 0 5\n{STAGES}\nv1 n0 0 0.8\n.model n nmos vto=0.4 kp=200u lambda=0.1",
            20,
            Continuation.GMIN_STEPPING,
        ),
        (f"v1 a 0 30\nr0 a n0 1\n{DIODES}\nr1 n30 0 1\n.model d d is=1e-14", 5, Continuation.SOURCE_STEPPING),
    ],
    ids=["gmin stepping", "source stepping"],
)
def test_helpers_find_what_plain_newton_does_not(circuit, text, iterations, continuation):
    """With few iterations allowed, a continuation is needed, is named in the log, and ends at the same solution."""
    system = lower(*circuit(text), Lanes())
    helped = solve(system, tolerances=Tolerances(iterations=iterations))
    assert helped.outcomes[0, 0] == Outcome.SOLVED
    assert helped.continuations[0] == continuation
    assert helped.log() == [f"1 of 1 lanes: {continuation.sentence}"]
    plain = solve(system, tolerances=Tolerances(iterations=500))
    assert plain.continuations[0] == Continuation.NONE
    np.testing.assert_allclose(helped.kept, plain.kept, rtol=1e-7, atol=1e-9)


def test_large_currents_that_cancel_do_not_keep_newton_from_settling():
    """A hundred amperes through a diode, a source that only sets its voltage: its small current is found to rounding."""
    free = point("i1 0 a 100\nd1 a 0 d\n.model d d is=1e-14")
    held = point(f"i1 0 a 100\nd1 a 0 d\nv1 a 0 {free['V(a)']!r}\n.model d d is=1e-14")
    assert abs(held["I(v1)"]) < 1e-10


def test_a_net_between_off_transistors_still_has_a_voltage():
    """Two off transistors in series: only their junctions hold the net between them."""
    text = "v1 a 0 1.2\nvg g 0 0\nm1 a g x 0 n\nm2 x g 0 0 n\n.model n nmos vto=0.4 kp=100u is={i}\n"
    held = point(".param i=1e-14\n" + text)
    assert -1e-15 <= held["V(x)"] <= 1.2


def test_gmin_is_added_only_when_asked_for():
    """`.options gmin` stands across every junction; without it nothing leaks that the model does not have."""
    text = "v1 a 0 -1\nd1 a 0 d\n.model d d is=1e-15\n"
    assert point(text)["d1.id"] == approx(-1e-15, rel=1e-9)
    assert point(text + ".options gmin=1e-9\n")["d1.id"] == approx(-1e-9, rel=1e-5)


def test_nodeset_chooses_between_two_stable_states():
    """A latch goes where it is told to start."""
    latch = ring(2)
    high = point(latch + ".nodeset v(n0)=1.2 v(n1)=0\n")
    low = point(latch + ".nodeset v(n0)=0 v(n1)=1.2\n")
    assert high["V(n0)"] > 1.1 > 0.1 > high["V(n1)"]
    assert low["V(n1)"] > 1.1 > 0.1 > low["V(n0)"]


def test_series_resistances_of_a_transistor_are_real():
    """RD and RS of the card are the same as resistors outside."""
    card = ".model n nmos vto=0.4 kp=200u lambda=0.05"
    bias = "vd d 0 1.2\nvg g 0 1.2\n"
    inside = point(bias + f"m1 d g 0 0 n w=10u l=1u\n{card} rd=200 rs=100")
    outside = point(bias + f"m1 x g y 0 n w=10u l=1u\nrd d x 200\nrs y 0 100\n{card}")
    assert inside["m1.id"] == approx(outside["m1.id"], rel=1e-9)
    assert inside["V(m1.di)"] == approx(outside["V(x)"], rel=1e-9)


def test_threshold_temperature_laws():
    """With TCV the straight law; without it the Berkeley one, between -0.5 and -3 mV/K: common practice, no source."""
    text = "vd d 0 1\nvg g 0 1\nm1 d g 0 0 n\n.model n nmos vto=0.5 phi=0.7 gamma=0.4 {}\n.dc temp 27 37 10"
    straight = planned(text.format("tcv=0.8m"))[0]
    vth = straight.columns(straight.run())["m1.vth"]
    assert vth[1] - vth[0] == approx(-8e-3, rel=1e-9)
    berkeley = planned(text.format(""))[0]
    vth = berkeley.columns(berkeley.run())["m1.vth"]
    assert -30e-3 < vth[1] - vth[0] < -5e-3


def test_what_is_watched_must_exist(circuit):
    """And what is swept."""
    netlist, models = circuit("v1 a 0 1\nr1 a 0 1k\n")
    with pytest.raises(CircuitError, match=r"no quantity 'V\(q\)'"):
        dc_sweep(netlist, models, Lanes(), SweptSource("v1", np.zeros(2)), ("V(q)",))
    with pytest.raises(CircuitError, match="no source 'v7'"):
        dc_sweep(netlist, models, Lanes(), SweptSource("v7", np.zeros(2)))
