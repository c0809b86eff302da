"""Yields, what makes them, and what would mend them, against closed forms and SciPy."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from hearthline.core.bench.passing import yield_rows
from hearthline.core.bench.sampled import run_samples
from hearthline.core.spread.contributions import contributions
from hearthline.core.spread.mend import COUNTED, SURFACE, WEIGHTS, Change, Foreteller, changed, proposals
from hearthline.core.spread.paired import paired
from hearthline.core.spread.ranking import bins_of, ranking
from hearthline.core.spread.yields import clopper_pearson, spread_of, within, yield_of
from hearthline.core.tolerance import Tolerance
from tests import samples
from tests.approximation import approx
from tests.samples import device, made, resistor


@given(st.integers(1, 5000), st.floats(0, 1))
def test_the_interval_is_clopper_and_pearsons(count, share):
    """SciPy's exact interval of a binomial proportion (Clopper and Pearson 1934)."""
    passed = round(share * count)
    exact = stats.binomtest(passed, count).proportion_ci(0.95, "exact")
    assert clopper_pearson(passed, count) == approx((exact.low, exact.high), rel=1e-9)


@pytest.mark.parametrize(
    ("tolerance", "law"),
    [
        (Tolerance(0.03), stats.uniform(-0.03, 0.06)),
        (Tolerance(sigma=0.02), stats.norm(0, 0.02)),
        (Tolerance(0.03, 0.02), stats.truncnorm(-1.5, 1.5, 0, 0.02)),
    ],
)
def test_laws_of_tolerances(tolerance, law):
    """Quantiles and standard deviation of SciPy's laws; and back."""
    probability = np.linspace(0.001, 0.999, 97)
    shares = tolerance.shares(stats.norm.ppf(probability))
    np.testing.assert_allclose(shares, law.ppf(probability), rtol=1e-9, atol=1e-15)
    np.testing.assert_allclose(tolerance.normals(shares), stats.norm.ppf(probability), rtol=1e-7, atol=1e-9)
    assert tolerance.deviation == approx(law.std(), rel=1e-9)


def test_yields_of_a_divider_are_those_of_its_law(tmp_path):
    """r1 uniform within 5 %, r2 normal of 2 %: the share of V(out) within 0.49 to 0.51, by integrating over r1; the exact
    interval of the count holds it (by chance 1 of 1000 would not)."""
    plan = samples.source(tmp_path, samples='count = "20000"\nseed = "4"\n').sample_plan()
    drawn = run_samples(plan)
    half, everything = yield_rows(plan.snapshot.bench, drawn)
    r1 = np.linspace(9500, 10500, 20001)
    low, high = 0.49 / 0.51 * r1, 0.51 / 0.49 * r1
    share = np.mean(stats.norm(10000, 200).cdf(high) - stats.norm(10000, 200).cdf(low))
    exact = stats.binomtest(half.share.passed, half.share.count).proportion_ci(0.999, "exact")
    assert exact.low < share < exact.high
    assert everything.share == half.share


def test_correlated_specifications_fail_together():
    """Two readings of correlation 0.8: all pass by the bivariate normal law (SciPy)."""
    both = made(
        (device("a"), device("b")), {"x": lambda v: v[:, 0], "y": lambda v: 0.8 * v[:, 0] + 0.6 * v[:, 1]}, 20000, 6
    )
    passing = within(both.values["x"], -np.inf, 1.0) & within(both.values["y"], -np.inf, 1.2)
    share = stats.multivariate_normal([0, 0], [[1, 0.8], [0.8, 1]]).cdf([1.0, 1.2])
    assert yield_of(passing).low < share < yield_of(passing).high


def test_capability_and_quantiles_of_a_normal_reading():
    """Cpk = room / 3 sigma; 99.7 % of a normal law lie within 2.968 sigma (SciPy)."""
    values = np.random.default_rng(2).normal(5.0, 0.5, 200_000)
    found = spread_of(values, 3.0, 6.5)
    assert (found.mean, found.sigma, found.skew) == approx((5.0, 0.5, 0.0), rel=0.01, abs=0.02)
    assert found.cpk == approx(1.0, rel=0.01)
    assert (found.high - 5.0) / 0.5 == approx(stats.norm.ppf(0.9985), rel=0.02)
    assert (spread_of(values, high=6.5).high - 5.0) / 0.5 == approx(stats.norm.ppf(0.997), rel=0.02)


def test_contributions_of_a_linear_network_are_its_partial_derivatives(tmp_path):
    """dV/V = (dr2 - dr1) / 2 for two equal resistors: shares by the variances of both laws, 5 %/sqrt 3 and 2 %."""
    drawn = run_samples(samples.source(tmp_path, samples='count = "4000"\nway = "sobol"\n').sample_plan())
    shares = {one.name: one.share for one in contributions(drawn, drawn.reading("half"))}
    of_r1 = 0.05**2 / 3 / (0.05**2 / 3 + 0.02**2)
    assert shares["r1.r"] == approx(of_r1, rel=0.02)
    assert shares["r2.r"] == approx(1 - of_r1, rel=0.03)
    assert shares["rest"] < 1e-3


def test_contributions_of_a_known_quadratic():
    """y = 2a + b + 0.7 ab + 0.5 a² of normal a, b: shares 4, 1, 0.49, 0.5 of their sum 5.99 (variance of a² is 2); with noise
    of variance 0.09 the rest."""
    noise = np.random.default_rng(8).normal(0, 0.3, 8000)
    drawn = made(
        tuple(device(name) for name in "abcdefgh"),
        {"y": lambda v: 2 * v[:, 0] + v[:, 1] + 0.7 * v[:, 0] * v[:, 1] + 0.5 * v[:, 0] ** 2 + noise}, 8000, 5,
    )  # fmt: skip
    shares = {one.name: one.share for one in contributions(drawn, drawn.reading("y"), curved=True)}
    total = 4 + 1 + 0.49 + 0.5 + 0.09
    for name, share in {"a.dvth": 4, "b.dvth": 1, "a.dvth × b.dvth": 0.49, "a.dvth²": 0.5, "rest": 0.09}.items():
        assert shares[name] == approx(share / total, rel=0.12), name
    assert all(share < 0.002 for name, share in shares.items() if name[0] in "cdefgh")


def test_the_innocent_are_not_called_guilty():
    """Of twenty parts one makes a reading; over 200 repeated runs no other is called guilty in 95 % of them, within what 200
    runs can tell (Holm 1979), and the one always is, and first."""
    parts = tuple(device(f"m{k}") for k in range(20))
    clean = 0
    for seed in range(200):
        drawn = made(parts, {"y": lambda v: v[:, 3]}, 400, seed)
        found = ranking(drawn, drawn.reading("y") < 1.2)
        assert found[0].part == "m3"
        assert found[0].guilty
        clean += not any(one.guilty for one in found[1:])
    assert clean >= stats.binom.ppf(0.001, 200, 0.95)


def test_the_statistic_follows_its_law_where_nothing_depends():
    """Chi squared with two degrees of freedom a variable: Kolmogorov's test on 400 runs (SciPy)."""
    parts = (device("m0"), device("m1"))
    found = []
    for seed in range(400):
        drawn = made((*parts, device("x")), {"y": lambda v: v[:, 2]}, 500, 1000 + seed)
        found += [one.statistic for one in ranking(drawn, drawn.reading("y") < 0.8) if one.part != "x"]
    assert stats.kstest(found, stats.chi2(2).cdf).pvalue > 1e-3


def test_bins_hold_all_samples_and_their_intervals_the_truth():
    """Passing where a value is below 1 sigma: only the bins about it are mixed; few samples make few bins."""
    drawn = made((device("m0"),), {"y": lambda v: v[:, 0]}, 1000, 1)
    passing = drawn.reading("y") < 1.0
    found = bins_of(drawn.normal[:, 0], drawn.numbers("m0.dvth"), passing)
    assert len(found) == 10
    assert sum(one.count for one in found) == 1000
    assert [one.share for one in found][:8] == [1.0] * 8
    assert found[-1].share == 0.0
    assert found[-1].high == approx(clopper_pearson(0, found[-1].count)[1])
    assert len(bins_of(drawn.normal[:60, 0], drawn.normal[:60, 0], passing[:60])) == 2


LAWS = (resistor("r1", Tolerance(0.05)), resistor("r2", Tolerance(sigma=0.02)), device("m1"))
READ = {"half": lambda v: v[:, 1] / (v[:, 0] + v[:, 1]) + 0.0005 * v[:, 2]}
LIMITS = {"half": (0.49, 0.508)}


@pytest.mark.parametrize(
    ("changes", "method"),
    [
        ((), COUNTED),
        ((Change("r1.r", 1.0, 0.5),), WEIGHTS),
        ((Change("r2.r", 0.99, 0.7),), WEIGHTS),
        ((Change("r1.r", 1.01, 0.6), Change("m1.dvth", 1.0, 0.5)), WEIGHTS),
        ((Change("r1.r", 1.03, 1.0),), SURFACE),
        ((Change("r1.r", 1.0, 0.02),), SURFACE),
    ],
)
def test_foretold_yields_agree_with_fresh_runs(changes, method):
    """Of changed nominals and tolerances: a fresh run of 200 000 lies in the interval in at least 18 of 20 repetitions."""
    fresh = made(tuple(changed(v, next((c for c in changes if c.variable == v.name), Change(v.name))) for v in LAWS),
                 READ, 200_000, 99)  # fmt: skip
    truth = within(fresh.values["half"], *LIMITS["half"]).mean()
    held = 0
    for seed in range(20):
        found = Foreteller(made(LAWS, READ, 4000, seed), LIMITS).predict(changes)
        assert found.method == method
        held += found.low <= truth <= found.high
    assert held >= 18


def test_proposals_reach_what_was_wanted_and_the_smallest_is_first():
    """Proved by fresh runs; for a resistor that is off centre alone, its value is what is proposed."""
    off = (resistor("r1", Tolerance(sigma=0.01), 1030.0), resistor("r2", Tolerance(sigma=0.01)))
    teller = Foreteller(made(off, {"half": lambda v: v[:, 1] / (v[:, 0] + v[:, 1])}, 4000, 3), {"half": (0.49, 0.51)})
    found = proposals(teller, 0.99, [("r1.r",), ("r2.r",)])
    assert found[0].size == min(one.size for one in found)
    (change,) = found[0].changes
    assert change.spread == 1.0
    assert change.nominal < 1.0 if change.variable == "r1.r" else change.nominal > 1.0
    for one in found:
        laws = tuple(changed(v, next((c for c in one.changes if c.variable == v.name), Change(v.name))) for v in off)
        fresh = made(laws, {"half": lambda v: v[:, 1] / (v[:, 0] + v[:, 1])}, 50_000, 17)
        assert within(fresh.values["half"], 0.49, 0.51).mean() > 0.985


def test_the_paired_interval_covers_the_difference():
    """Two yields over the same samples, 0.90 and 0.94 with 0.05 mended and 0.01 broken: in 93 to 98 % of 1000 runs of 400; its
    significance is that of the exact test (SciPy's binomial)."""
    generator, covered = np.random.default_rng(12), 0
    for _ in range(1000):
        which = generator.choice(4, 400, p=[0.89, 0.05, 0.01, 0.05])
        found = paired(np.isin(which, (0, 2)), np.isin(which, (0, 1)))
        covered += found.low <= 0.04 <= found.high
    assert 930 <= covered <= 980
    turned = found.mended + found.broken
    assert found.significance == approx(stats.binomtest(found.mended, turned).pvalue, rel=1e-9)
