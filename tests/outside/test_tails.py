"""Rare failures against laws in closed form."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import stats
from scipy.integrate import quad

from hearthline.core.bench.rare import HIGH, rare_failure, sides_of, statistical_corner
from hearthline.core.spread.tails import tail
from tests import samples
from tests.approximation import approx

WAY = np.random.default_rng(3).standard_normal(12)
WAY /= np.linalg.norm(WAY)


def held(margins, truth: float, limits: int = 1, seeds: int = 100, variables: int = 12) -> tuple[int, float]:
    """In how many runs the interval holds the truth, and how many simulations a run takes."""
    runs = [tail(margins, limits, variables, seed=seed) for seed in range(seeds)]
    return sum(one.low <= truth <= one.high for one in runs), float(np.mean([one.simulations for one in runs]))


FEWEST = int(stats.binom.ppf(0.001, 100, 0.95))
"""Of 100 intervals of 95 % that hold, but for chance of 1 in 1000."""


@pytest.mark.parametrize("sigma", [4, 5, 6])
def test_a_linear_limit_fails_by_the_normal_law(sigma):
    """Q(4) = 3.2e-5 to Q(6) = 9.9e-10 within 10 % in under 5000 simulations."""
    found, simulations = held(lambda u: (sigma - u @ WAY)[:, None], stats.norm.sf(sigma))
    assert found >= FEWEST
    assert simulations < 5000


@pytest.mark.parametrize("bend", [0.2, -0.05])
def test_a_curved_limit_fails_as_its_integral_says(bend):
    """u1 > 4.5 + bend u2²: the integral of Q over the law of u2 (SciPy's quad)."""
    truth = quad(lambda v: stats.norm.pdf(v) * stats.norm.sf(4.5 + bend * v * v), -12, 12, epsabs=0)[0]
    found, _ = held(lambda u: (4.5 - u[:, 0] + bend * u[:, 1] ** 2)[:, None], truth)
    assert found >= FEWEST


def test_two_regions_are_both_found():
    """|u1| > 5: twice the normal tail; one region alone would say half."""
    found = tail(lambda u: np.column_stack([5 - u[:, 0], 5 + u[:, 0]]), 2, 12)
    assert len(found.points) == 2
    assert found.low <= 2 * stats.norm.sf(5) <= found.high
    assert found.doubtful == ""


def test_a_limit_in_stairs_is_found_all_the_same():
    """A reading that moves by half a standard deviation at a time, as one that is taken from few points: the failing half-space
    is that of the next stair, exactly 4.5 sigma away."""
    truth = stats.norm.sf(4.5)
    found, _ = held(lambda u: (4.4 - np.floor(2.0 * (u @ WAY)) / 2.0)[:, None], truth, seeds=40)
    assert found >= int(stats.binom.ppf(0.001, 40, 0.95))


def test_what_cannot_fail_or_is_everywhere_is_called_doubtful():
    """No failing point within nine sigma; and a sphere of radius 5 in twelve variables, which no few points stand for."""
    assert "no failing point" in tail(lambda u: np.full((len(u), 1), 1.0), 1, 12).doubtful
    assert tail(lambda u: (6.5 - np.linalg.norm(u, axis=1))[:, None], 1, 12, most=3000).doubtful


def test_a_divider_out_of_its_window(tmp_path):
    """Two resistors of 0.5 % sigma: V(out) beyond 0.49 .. 0.51 is a difference of 4 % of two normal values: 2 Q(5.66) to first
    order, and the exact normal law of r2 (1 - a) - a r1."""
    more = "".join(f'[[tolerances]]\npart = "{name}"\nsigma = "0.5%"\n' for name in ("r1", "r2"))
    plan = samples.source(tmp_path, more=more).sample_plan()
    found = rare_failure(plan)
    truth = 0.0
    for a, side in ((0.49, 1), (0.51, -1)):
        mean, sigma = (1 - a) - a, 0.005 * np.hypot(1 - a, a)
        truth += stats.norm.sf(side * mean / sigma)
    assert found.tail.low <= truth <= found.tail.high
    assert found.tail.error < 0.11
    assert found.tail.simulations < 5000
    assert len(found.points.normal) == 2
    np.testing.assert_allclose(sorted(found.points.reading("half")), [0.49, 0.51], rtol=2e-3)


def test_a_statistical_corner_is_k_sigma_away_and_worst_there(tmp_path):
    """At three sigma of two equal normal resistors V(out) is off by 3 · 0.5 % / sqrt(2) · 0.5 to first order."""
    more = "".join(f'[[tolerances]]\npart = "{name}"\nsigma = "0.5%"\n' for name in ("r1", "r2"))
    plan = samples.source(tmp_path, more=more).sample_plan()
    side = next(one for one in sides_of(plan) if one.end == HIGH)
    corner = statistical_corner(plan, side, 3.0)
    assert np.linalg.norm(corner.normal) == approx(3.0, rel=1e-6)
    assert corner.reading("half")[0] - 0.5 == approx(0.5 * 3 * 0.005 / np.sqrt(2), rel=0.01)
