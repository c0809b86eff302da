"""Shooting, the second way to a periodic state: against the balance, SciPy in time, closed forms, and the exponents of modes."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from hearthline.core.engine.job import Job
from hearthline.core.engine.periodic.circuit import LaneCircuit
from hearthline.core.engine.periodic.following import shot_of, swung
from hearthline.core.engine.periodic.lanes import balance
from hearthline.core.engine.periodic.modes import modes
from hearthline.core.engine.periodic.oscillating import Wanted, oscillate
from hearthline.core.engine.periodic.sensitivity import sensitivity_of
from hearthline.core.engine.periodic.settling import Settled
from hearthline.core.engine.periodic.states import LaneState
from hearthline.core.engine.periodic.tones import one_tone
from tests.approximation import approx
from tests.benches import curve, data_of
from tests.decks import circuit_of

RECTIFIER = "v1 a 0 sin(0 1 1meg)\nd1 a b dd\nr1 b 0 1k\nc1 b 0 1n\n.model dd d is=1e-14 n=1.05 cjo=1p tt=1n\n"
MOS = ".model n nmos vto=0.4 kp=200u lambda=0.1\n.model p pmos vto=-0.4 kp=80u lambda=0.1\n"
CLIPPED = f"vdd vdd 0 1.2\nv1 g 0 sin(0.6 0.3 1meg)\nm1 d g 0 0 n w=10u l=0.2u\nr1 vdd d 2k\nc1 d 0 300p\n{MOS}"
POL = "l1 a 0 1\nc1 a 0 1\nb1 a 0 i=1.5*(v(a)**3/3-v(a))\n"
"""v'' - 1.5 (1 - v²) v' + v = 0."""


@pytest.mark.parametrize(("parts", "harmonics"), [(RECTIFIER, 120), (CLIPPED, 200)])
def test_shooting_and_balance_agree(parts, harmonics):
    """Two ways with nothing in common but the devices; charges of the diode are not straight."""
    system, tone = circuit_of(f"{parts}.end\n")[0], np.array([1e6])
    state = balance(system, tone, one_tone(harmonics)).states[0]
    shot = shot_of(LaneCircuit(system, 0, state.tolerances), tone, Job())
    nets = slice(0, system.net_count)
    there, here = shot.course.phasors(20)[:, nets], state.balanced.phasors[:21, nets]
    assert np.abs(there - here).max() == approx(0.0, abs=1e-7 * np.abs(here).max())
    assert shot.moved < 1e-6
    multipliers = np.linalg.eigvals(shot.monodromy)
    largest = multipliers[np.argmax(np.abs(multipliers))]
    assert modes(state)[0].real == approx(float(np.log(np.abs(largest))) * 1e6, rel=1e-4)


def test_edges_too_steep_for_harmonics_are_as_in_time():
    """An inverter under pulses, which a balance has no harmonics for; the same equation by SciPy's Radau."""
    pulse = "pulse(0 1.2 0 50p 50p 950p 2n)"
    parts = (
        f"vdd vdd 0 1.2\nv1 g 0 {pulse}\nm1 d g 0 0 n w=10u l=0.2u\nm2 d g vdd vdd p w=20u l=0.2u\nc1 d 0 300f\n{MOS}"
    )
    wave = data_of(parts, "balance at 500M", ports={}).wave

    def drain(vgs, vds, kp, size):
        over = max(vgs - 0.4, 0.0)
        mean = (over - 0.5 * vds) * vds if vds < over else 0.5 * over * over
        return kp * size * mean * (1.0 + 0.1 * vds)

    def slope(t, v):
        g = float(np.interp(t % 2e-9, [0, 50e-12, 1e-9, 1.05e-9, 2e-9], [0, 1.2, 1.2, 0, 0]))
        return [(drain(1.2 - g, 1.2 - v[0], 80e-6, 100) - drain(g, v[0], 200e-6, 50)) / 300e-15]

    moments = wave.points
    found = solve_ivp(slope, (0, 6e-9), [1.2], "Radau", t_eval=4e-9 + moments, rtol=1e-9, atol=1e-10, max_step=1e-11)
    assert curve(wave, "V(d)") == approx(found.y[0], abs=1e-5)


def test_a_comparator_swings_as_in_time():
    """Edges that no harmonics of a balance hold; the same two equations by SciPy's Radau."""
    parts = "b1 o 0 v=2.5*tanh(50*(v(p)-v(m)))\nr1 o p 10k\nr2 p 0 10k\nr3 o m 10k\nc1 m 0 10n\ncp p 0 1p\n"
    data = data_of(parts, "oscillation harmonics 31", ports={})

    def slope(t, v):
        out = 2.5 * np.tanh(50 * (v[1] - v[0]))
        return [(out - v[0]) / 1e-4, (out - 2 * v[1]) / 1e-8]

    def rises(t, v):
        return v[0]

    rises.direction = 1
    found = solve_ivp(slope, (0, 2e-3), [1.0, 0.5], "Radau", events=rises, rtol=1e-9, atol=1e-10)
    assert 1 / data.points[1] == approx(np.diff(found.t_events[0])[-1], rel=1e-6)
    assert curve(data.wave, "V(m)").max() == approx(found.y[0][len(found.t) // 2 :].max(), abs=1e-4)


def test_the_phase_answers_alike_by_both_ways():
    """The adjoint of the balance, and that of the steps of a period."""
    system = circuit_of(f"{POL}.end\n")[0]
    by_balance = oscillate(system, Wanted(None, 63)).states[0]
    values = by_balance.balanced.samples(400)
    near = Settled(np.arange(400) / 400, values, float(by_balance.hertz[0]))
    balanced, frequency = swung(by_balance.circuit, near, 63)
    shot = LaneState(system, 0, by_balance.tolerances, balanced, np.array([frequency]))
    assert frequency == approx(float(by_balance.hertz[0]), rel=1e-7)
    one, other = (sensitivity_of(state).along_period(256)[:, 0] for state in (by_balance, shot))
    assert other == approx(one, abs=1e-5 * np.abs(one).max())
