"""LM130 as an experienced designer would find it: figures of a 130 nm process in their ranges (common practice, no source), corners
where its own statistics say, and the page of the kit as it is."""

from __future__ import annotations

import re

import numpy as np
import pytest

from hearthline.core.circuit.netlist import Element, Netlist
from hearthline.core.engine.dc import operating_point
from hearthline.core.errors import FileError
from hearthline.core.expression import Expression
from hearthline.core.formats.deck.reader import read_models
from hearthline.core.formats.kit_folder import INSTALLED, read_kit
from hearthline.core.spread.monte_carlo import Sampling, sampled
from hearthline.core.spread.pvt import Condition
from tests.approximation import approx
from tests.outside import silicon

KIT = read_kit(INSTALLED / "lm130")
GIGA = 1e9


@pytest.mark.parametrize(
    ("name", "on", "swing", "transit", "corner"),
    [("n_rvt", (550, 600), (80, 90), (80, 110), (1, 20)), ("p_rvt", (230, 260), (80, 90), (35, 50), (1, 20))],
)
def test_core_transistors(name, on, swing, transit, corner):
    """Idsat [A/m = µA/µm], swing [mV a decade], fT [GHz], gm/gds at the shortest and at 0.5 µm, flicker corner [MHz]: common
    practice for 130 nm, no source."""
    assert on[0] <= silicon.on_current(name) <= on[1]
    assert swing[0] <= 1e3 * silicon.swing(name) <= swing[1]
    assert transit[0] <= silicon.transit_frequency(name) / GIGA <= transit[1]
    assert 10 <= silicon.gain(name, 130e-9) <= 15
    assert 60 <= silicon.gain(name, 500e-9) <= 90
    assert corner[0] <= silicon.flicker_corner(name) / 1e6 <= corner[1]
    assert 1e-4 < silicon.off_current(name) < 1e-2


def test_bipolar_spiral_and_varactor():
    """fT of an NPN in a deep well 1 to 5 GHz; a spiral of 3.9 nH resonates near 8 to 10 GHz, and a smaller one higher, but it
    does; Q of a varactor at 2.4 GHz 50 to 100: common practice, no source."""
    assert 1 <= silicon.bipolar_transit_frequency() / GIGA <= 5
    inductance, quality, resonance = silicon.spiral()
    assert inductance == approx(3.9e-9, rel=0.03)
    assert 8 <= resonance / GIGA <= 10
    assert 5 <= quality <= 20
    small, _, higher = silicon.spiral(d="140u", w="8u", s="2u", turns=2.5)
    assert 1.2e-9 < small < 1.5e-9
    assert 12e9 < higher < 40e9
    for sizes in (dict(w="10u", l="250n"), dict(w="20u", l="500n")):
        assert 50 <= silicon.varactor_quality(**sizes) <= 100


def spread(name: str, count: int = 600) -> tuple[np.ndarray, np.ndarray]:
    """Idsat and ln Ioff of the shortest, over samples of the process alone."""
    s = silicon.sign(name)
    numbers = lambda **values: {key: Expression.constant(v) for key, v in values.items()}  # noqa: E731
    found = []
    for gate in (1.2, 0.0):
        parts = (
            Element("vg", "V", ("g", "0"), numbers(dc=s * gate)), Element("vd", "V", ("d", "0"), numbers(dc=s * 1.2)),
            Element("m1", "M", ("d", "g", "0", "0"), numbers(w=10e-6, l=130e-9, nf=4.0), name),
        )  # fmt: skip
        netlist = Netlist(parts)
        lanes = sampled(netlist, KIT.statistics, Sampling(count, 5, "sobol", mismatch=False), Condition("typ", 27.0))
        found.append(np.abs(operating_point(netlist, KIT.models, lanes).dataset.curve("m1.id")[:, 0]))
    return found[0], np.log(found[1])


@pytest.mark.parametrize("name", ["n_rvt", "p_rvt"])
def test_corners_stand_at_three_sigma_of_the_kits_own_statistics(name):
    """Of Idsat (whose sigma is 4 to 5 %) and of ln Ioff; each corner on its side."""
    on, off = spread(name)
    assert 0.039 <= on.std() / on.mean() <= 0.051
    fast = {"ff": 1, "ss": -1, "fs": 1 if name == "n_rvt" else -1, "sf": -1 if name == "n_rvt" else 1}
    typical = silicon.on_current(name), np.log(silicon.off_current(name))
    for corner, side in fast.items():
        found = silicon.on_current(name, corner=corner), np.log(silicon.off_current(name, corner=corner))
        assert np.log(found[0] / typical[0]) / (on.std() / on.mean()) == approx(3 * side, abs=0.3)
        assert (found[1] - typical[1]) / off.std() == approx(3 * side, abs=0.3)


@pytest.mark.parametrize(("kind", "names"), [("r", {"fr": -3}), ("c", {"fcap": -3}), ("q", {"fbf": 3, "fis": 3})])
def test_corners_of_passives_and_bipolars_stand_at_three_sigma(kind, names):
    """Of each parameter that they have, slow and fast; a resistor is fast where it is small."""
    for corner, side in (("fast", 1), ("slow", -1)):
        given = read_models(silicon.LIBRARY, f"{kind}_{corner}").top.parameters
        for name, sigmas in names.items():
            value = given[name].value({})
            assert value - 1 == approx(side * sigmas * KIT.statistics.process[name], rel=1e-9)


@pytest.mark.parametrize("way", ["random", "latin", "sobol"])
def test_what_goes_together_is_correlated_as_the_kit_says(way):
    """Sigma of every parameter and every correlation of pairs, within what 4096 samples can tell (99.9 %)."""
    lanes = sampled(Netlist(()), KIT.statistics, Sampling(4096, 3, way), Condition("typ", 27.0))
    names = list(KIT.statistics.process)
    drawn = np.array([lanes.process[name] for name in names])
    np.testing.assert_allclose(drawn.std(axis=1), list(KIT.statistics.process.values()), rtol=0.05)
    assert np.abs(np.corrcoef(drawn) - KIT.statistics.correlation).max() < 0.055
    assert KIT.statistics.correlations["fbf", "fis"] == approx(0.6)


def test_a_latin_hypercube_is_one():
    """Each of n strata of each parameter holds just one of n samples (McKay, Beckman, Conover 1979); random ones do not, nor a
    part of a Sobol sequence."""
    from scipy.stats import norm

    uncorrelated = [
        name for name in KIT.statistics.process if not any(name in pair for pair in KIT.statistics.correlations)
    ]
    for way, is_one in (("latin", True), ("random", False), ("sobol", False)):
        lanes = sampled(Netlist(()), KIT.statistics, Sampling(50, 9, way), Condition("typ", 27.0))
        for name in uncorrelated:
            strata = np.floor(50 * norm.cdf(lanes.process[name] / KIT.statistics.process[name])).astype(int)
            assert (len(set(strata)) == 50) == is_one


@pytest.mark.parametrize(("device", "parameter"), [(d, p) for d, law in KIT.statistics.mismatch.items() for p in law])
def test_mismatch_of_every_device_follows_pelgrom(device, parameter):
    """One device: A / sqrt(2 W L m), of bipolars and diodes A / sqrt(2 area m); and the model takes it."""
    numbers = lambda **values: {key: Expression.constant(v) for key, v in values.items()}  # noqa: E731
    by_area = device in ("npn_v", "pnp_s", "d_np")
    kind = "D" if device == "d_np" else "Q" if by_area else "M" if device[0] in "np" else "X"
    nets = {"D": ("a", "0"), "Q": ("a", "a", "0"), "M": ("a", "a", "0", "0"), "X": ("a", "0")}[kind]
    sizes = dict(area=3.0, m=2.0) if by_area else dict(w=2e-6, l=3e-6, m=2.0)
    netlist = Netlist(
        (Element("v1", "V", ("a", "0"), numbers(dc=0.5)), Element("x1", kind, nets, numbers(**sizes), device))
    )
    lanes = sampled(netlist, KIT.statistics, Sampling(1024, 2, "sobol", process=False), Condition("typ", 27.0))
    area = 6.0 if by_area else 12e-12
    expected = KIT.statistics.mismatch[device][parameter] / np.sqrt(2 * area)
    assert lanes.mismatch["x1", parameter].std() == approx(expected, rel=0.03)
    few = sampled(netlist, KIT.statistics, Sampling(4, 2, process=False), Condition("typ", 27.0))
    assert not operating_point(netlist, KIT.models, few).solution.failed_lanes.size


def test_correlations_that_cannot_be_are_refused(tmp_path):
    """What goes with two others makes those go together too; a name that is none; a value beyond 1."""
    import shutil

    for value, first, said in (
        ("0.99", "dvn", "cannot be together"),
        ("2", "dvn", "between -1 and 1"),
        ("0.1", "dvx", "'dvx' is not"),
    ):
        folder = tmp_path / f"{value}{first}"
        shutil.copytree(INSTALLED / "lm130", folder)
        path = folder / "kit.toml"
        text = path.read_text()
        more = "".join(
            f'[[statistics.correlations]]\nof = ["{a}", "{b}"]\nvalue = "{v}"\n\n'
            for a, b, v in ((first, "fkn", value), ("dvp", "fkn", "-0.99"))
        )
        path.write_text(text.replace("# Pelgrom's", more + "# Pelgrom's", 1))
        with pytest.raises(FileError, match=said):
            read_kit(folder)


@pytest.mark.parametrize("name", list(KIT.devices))
def test_the_page_of_the_kit_says_what_its_devices_are(name):
    """Its figures are what decks over the models give, to the last digit written but one (`scripts/kit_page.py`)."""
    page = (INSTALLED / "lm130" / "README.md").read_text(encoding="utf-8")
    (block,) = re.findall(rf"^- `{name}`: (.*)$", page, re.MULTILINE)
    written = dict(piece.rsplit(" = ", 1) for piece in block.split("; "))
    found = silicon.figures(name)
    assert list(written) == list(found)
    np.testing.assert_allclose([float(text) for text in written.values()], list(found.values()), rtol=2e-3)
