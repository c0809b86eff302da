"""Statistics of the samples, within their own confidence intervals (SciPy)."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import stats

from hearthline.core.circuit.netlist import Element, Netlist
from hearthline.core.engine.dc import operating_point
from hearthline.core.errors import CircuitError
from hearthline.core.expression import Expression
from hearthline.core.process.kit import Statistics
from hearthline.core.spread.monte_carlo import Sampling, sampled
from hearthline.core.spread.pvt import Condition
from tests.approximation import approx
from tests.core.test_device_sheets import KIT

AT = Condition("typ", 27.0)


def numbers(**values):
    """Expressions of plain numbers."""
    return {name: Expression.constant(value) for name, value in values.items()}


def pair(width: float) -> Netlist:
    """Two equal transistors as diodes, each with its current."""
    parts = []
    for k in "ab":
        parts.append(Element(f"i{k}", "I", ("0", k), numbers(dc=10e-6)))
        parts.append(Element(f"m{k}", "M", (k, k, "0", "0"), numbers(w=width, l=0.5e-6), "n_rvt"))
    return Netlist(tuple(parts))


@pytest.mark.parametrize("way", ["random", "latin", "sobol"])
def test_thresholds_of_a_pair_differ_by_pelgroms_law(way):
    """σ(Δvth) = A/√(WL) (Pelgrom, Duinmaijer, Welbers 1989): the variance lies in its 99.9 % interval, and four times
    the area halves it."""
    sigmas = []
    for width in (1e-6, 4e-6):
        netlist = pair(width)
        lanes = sampled(netlist, KIT.statistics, Sampling(1024, 7, way, process=False), AT)
        data = operating_point(netlist, KIT.models, lanes).dataset
        difference = (data.curve("ma.vth") - data.curve("mb.vth"))[:, 0]
        expected = KIT.statistics.mismatch["n_rvt"]["dvth"] / np.sqrt(width * 0.5e-6)
        low, high = stats.chi2.ppf([0.0005, 0.9995], 1023) / 1023
        assert low * expected**2 < difference.var(ddof=1) < high * expected**2
        assert abs(difference.mean()) < 3.3 * expected / np.sqrt(1024)
        sigmas.append(difference.std())
    assert sigmas[0] / sigmas[1] == approx(2.0, rel=0.1)


def test_process_is_common_to_all_devices():
    """Without mismatch a pair stays equal, and the threshold spreads by the kit's number."""
    netlist = pair(1e-6)
    lanes = sampled(netlist, KIT.statistics, Sampling(2000, 3, mismatch=False), AT)
    data = operating_point(netlist, KIT.models, lanes).dataset
    np.testing.assert_allclose(data.curve("ma.vth"), data.curve("mb.vth"), rtol=1e-9)
    assert data.curve("ma.vth").std() == approx(KIT.statistics.process["dvn"], rel=0.06)


def test_equal_seeds_give_equal_samples_and_others_do_not():
    """A run can be repeated."""
    netlist = pair(1e-6)
    one, same, other = (sampled(netlist, KIT.statistics, Sampling(5, seed), AT) for seed in (1, 1, 2))
    assert all(np.array_equal(one.mismatch[key], same.mismatch[key]) for key in one.mismatch)
    assert not np.array_equal(one.mismatch["ma", "dvth"], other.mismatch["ma", "dvth"])


def test_a_device_without_area_is_named():
    """Instead of an infinite spread."""
    netlist = Netlist((Element("m1", "M", ("a", "a", "0", "0"), {}, "n_rvt"),))
    with pytest.raises(CircuitError, match="m1: its w is not given"):
        sampled(netlist, Statistics({}, {"n_rvt": {"dvth": 1e-9}}), Sampling(3), AT)
