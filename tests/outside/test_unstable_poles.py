"""How many poles grow, by the turns of the normalised determinant, where the number is known."""

from __future__ import annotations

import numpy as np
import pytest

from hearthline.core.bench.readings import Reader
from tests.benches import curve, data_of, ran

WIDE = "stability from 1k to 1T points 10"


def counted(parts: str, line: str = WIDE) -> float:
    """As the reading says."""
    reading = '[[readings]]\nname = "poles"\nformula = "unstable_poles()"\nanalysis = "one"\n'
    run = ran(parts, {"one": line}, ports={}, more=reading)
    return float(Reader(run.snapshot.bench, run.results).all()["poles"].values[0])


@pytest.mark.parametrize(("siemens", "expected"), [(-0.5e-3, 0), (-0.999e-3, 0), (-1.001e-3, 2), (-5e-3, 2)])
def test_a_resonator_with_a_negative_conductance(siemens, expected):
    """L, C and 1 kΩ in parallel: two poles grow where the negative conductance is the larger one."""
    assert counted(f"l1 a 0 1n\nc1 a 0 1p\nr1 a 0 1k\ng1 a 0 a 0 {siemens}\n") == expected


@pytest.mark.parametrize(("gain", "expected"), [(1.9, 0), (2.1, 2), (20, 2)])
def test_a_ring_of_three(gain, expected):
    """Three equal stages -A/(1 + sT): their phase turns by 60° each where |1 + j√3| = 2, so it grows for A > 2."""
    parts = ""
    for one, other in (("a", "b"), ("b", "c"), ("c", "a")):
        parts += f"g{one} {other} 0 {one} 0 {gain / 1e3}\nr{one} {other} 0 1k\nc{one} {other} 0 1p\n"
    assert counted(parts) == expected


def test_a_latch_has_one_real_pole():
    """Two inverting stages in a loop with a gain above 1: one real pole grows, which is half a turn."""
    parts = "g1 b 0 a 0 2m\ng2 a 0 b 0 2m\nr1 a 0 1k\nr2 b 0 1k\nc1 a 0 1p\nc2 b 0 1p\n"
    assert counted(parts, "stability from 1 to 1T points 10") == 1


def test_a_line_between_a_negative_resistance_and_a_load():
    """Γ = -4 and 1/3 at the ends of 1 ns: e^(-2sT) (-4/3) = 1 has growing poles at odd multiples of 1/4T, 250 MHz and on."""
    parts = "g1 a 0 a 0 {-1/30}\nt1 a 0 b 0 z0=50 td=1n\nr1 b 0 100\n"
    data = data_of(parts, "stability from 1M to 2G points 400 spaced even", ports={})
    turns = curve(data, "stability.turns")
    for below, expected in ((0.4e9, 2), (0.6e9, 2), (1.0e9, 4), (1.5e9, 6), (2.0e9, 8)):
        place = int(np.argmin(np.abs(data.points - below)))
        assert abs(turns[place] - expected) < 0.5, (below, turns[place])


def test_a_line_between_resistances_is_stable():
    """Passive: no turn."""
    parts = "r0 a 0 30\nt1 a 0 b 0 z0=50 td=1n\nr1 b 0 100\n"
    assert counted(parts, "stability from 1M to 20G points 20") == 0


def test_the_determinant_is_a_return_difference():
    """Bode 1945: of one transconductance: 1 + gm R/(1 + sCR) of a follower, by hand."""
    data = data_of("g1 0 a 0 a 4m\nr1 a 0 1k\nc1 a 0 1p\n", WIDE, ports={})
    s = 2j * np.pi * data.points
    np.testing.assert_allclose(curve(data, "stability.ndf"), 1 + 4 / (1 + 1e-9 * s), rtol=1e-9)
