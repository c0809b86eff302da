"""The MOS transistor for high frequencies: what its gate and its well add to the small signals and to the noise."""

from __future__ import annotations

import numpy as np
import pytest
from numpy.testing import assert_allclose
from scipy.constants import k as boltzmann

from tests.approximation import approx
from tests.benches import curve, data_of
from tests.decks import point

T0 = 290.0
COLD = str(T0 - 273.15)
LONG = "type=1 vto=0.4 kp=300u gamma=0.02 theta=0 vsat=1e9 tox=4n lc=0 tnom=16.85"
"""A channel of the text books: square law, no velocity saturation, hardly a bulk effect; at T0 as it is given."""
SIZE = "w=100u l=1u nf=10"
COX = 3.9 * 8.8541878128e-12 / 4e-9


def circuit(card: str, vg: float, vd: float, size: str = SIZE) -> str:
    """A transistor with its bias through chokes, ports at gate and drain."""
    bias = f"cin a g 1\nlg bias g 1\nvg bias 0 {vg}\nld d s 1\nvd s 0 {vd}\ncout d b 1\nra a 0 1e15\nrb b 0 1e15\n"
    return f".model n {card}\n{bias}m1 d g 0 0 n {size}\n"


def at(card: str, vg: float, vd: float, frequency: float = 1e9, celsius: str = COLD, size: str = SIZE):
    """Figures at one frequency."""
    return data_of(
        circuit(card, vg, vd, size), f"scattering from {frequency} to {frequency} points 1 spaced even", celsius=celsius
    )


def y_of(data) -> np.ndarray:
    s = np.array([[curve(data, f"S({a},{b})")[0] for b in (1, 2)] for a in (1, 2)])
    return np.linalg.inv(np.eye(2) + s) @ (np.eye(2) - s) / 50


def op(card: str, vg: float, vd: float) -> dict[str, float]:
    return point(f".model n {card}\nvg g 0 {vg}\nvd d 0 {vd}\nm1 d g 0 0 n {SIZE}\n.temp {COLD}\n")


@pytest.mark.parametrize("bias", [(0.9, 1.2), (0.9, 0.05), (0.3, 1.2)])
def test_without_resistances_it_is_the_transistor_it_is_made_of(bias):
    """Currents, small signals and noise of `mos`, at every bias."""
    more = "rdsw=2e-4 cov=3e-10 cj=1m cjsw=1e-10 kf=1e-25"
    bare = f"mos_rf ({LONG} {more} rshg=0 rcg=0 nqs=0)"
    ours, theirs = (at(card, *bias) for card in (bare, f"mos ({LONG} {more})"))
    for label in ("S(1,1)", "S(2,1)", "S(1,2)", "S(2,2)", "twoport.noise_factor", "twoport.rn"):
        assert_allclose(curve(ours, label), curve(theirs, label), rtol=1e-4, err_msg=label)


@pytest.mark.parametrize(("ends", "part"), [(1, 3), (2, 12)])
def test_resistance_of_the_fingers(ends, part):
    """A third of a finger's length contacted at one end, a twelfth at both, and the contacts; all fingers in parallel."""
    card = f"mos_rf ({LONG} rshg=8 rcg=30 nqs=0 ends={ends})"
    z = 1 / y_of(at(card, 0.9, 0.0, 1e9))[0, 0]
    assert z.real == approx(8 * (10 / 1) / part / 10 + 30 / 10 / ends, rel=1e-3)


def test_the_channel_charges_through_a_fifth_of_its_resistance():
    """Re Yin = (ωC)²/(5 gd0), C = 2/3 Cox W L (van der Ziel 1986), far below the transit frequency; gd0 = gm of a square law."""
    card = f"mos_rf ({LONG} rshg=0 rcg=0)"
    found, bare = (y_of(at(c, 1.2, 1.5, 0.2e9))[0, 0].real for c in (card, card.replace("rcg=0", "rcg=0 nqs=0")))
    gd0 = op(card, 1.2, 1.5)["m1.gm"]
    c = y_of(at(card, 1.2, 1.5, 0.2e9))[0, 0].imag / (2 * np.pi * 0.2e9)
    assert c == approx(2 / 3 * COX * 100e-6 * 1e-6, rel=0.05)
    assert found - bare == approx((2 * np.pi * 0.2e9 * c) ** 2 / (5 * gd0), rel=0.02)


def test_least_noise_of_a_long_channel():
    """Fmin = 1 + (2/√5)(ω/ωT) sqrt(γ δ (1 - |c|²)), γ = 2/3, δ = 4/3, c = 0.395 (Shaeffer and Lee 1997, from memory);
    the sign of c by the integrals over a channel with g ~ sqrt(u), u = 1 - x/L: <Q i> ~ ∫ sqrt(u) (2 sqrt(u) - 4/3) du = 1/9."""
    card = f"mos_rf ({LONG} rshg=0 rcg=0)"
    data = at(card, 1.2, 1.5, 0.1e9)
    gm, c = op(card, 1.2, 1.5)["m1.gm"], op(card, 1.2, 1.5)["m1.cgg"]
    expected = 2 / np.sqrt(5) * 2 * np.pi * 0.1e9 * c / gm * np.sqrt(2 / 3 * 4 / 3 * (1 - 0.395**2))
    assert curve(data, "twoport.noise_factor_min")[0] - 1 == approx(expected, rel=0.03)
    assert curve(data, "twoport.rn")[0] == approx(2 / 3 / gm, rel=0.03)
    best = curve(data, "twoport.gamma_opt")[0]
    y = (1 - best) / (1 + best) / 50
    assert y.imag == approx(-2 * np.pi * 0.1e9 * c * (1 - 0.395 * np.sqrt(4 / 3 / 5 / (2 / 3))), rel=0.03)


def test_excess_noise_of_a_short_channel():
    """In saturation it multiplies the channel's noise: Rn goes with it; at vds = 0 nothing is hot."""
    cold, hot = (at(f"mos_rf ({LONG} rshg=0 rcg=0 excess={e})", 1.2, 1.5, 0.01e9) for e in (1, 2))
    qs = 0.5 * (np.sqrt(1 + 4 * op(f"mos_rf ({LONG})", 1.2, 1.5)["m1.ic"]) - 1)  # i = q² + q, nothing at the drain
    ratio = curve(hot, "twoport.rn")[0] / curve(cold, "twoport.rn")[0]
    assert ratio - 1 == approx(qs / (qs + 1), rel=1e-3)


@pytest.mark.parametrize("drain", ["b", "a"])
def test_nyquist_without_current(drain):
    """At vds = 0 gate and channel make 4kT Re Z, whatever the resistances: gate against ground, drain open or held."""
    card = f".model n mos_rf ({LONG} rshg=8 rcg=30 rbd=2m rbc=8m cov=3e-10 cj=1m excess=2)"
    load = "rl b 0 200" if drain == "b" else "rl b 0 1"
    parts = f"{card}\nvg s 0 0.9\nlg s a 1\nm1 b a 0 0 n {SIZE}\n{load}\n"
    frequency = "from 0.3G to 0.3G points 1 spaced even"
    noise = data_of(parts, f"noise of a by vg {frequency}", ports={}, celsius=COLD)
    z = curve(data_of(parts, f"look at m1.g {frequency}", ports={}, celsius=COLD), "look.into")[0]
    seen = (1 / (1 / z + 1 / (2j * np.pi * 0.3e9))).real
    assert curve(noise, "noise.output")[0] ** 2 == approx(4 * boltzmann * T0 * seen, rel=2e-3)


def test_the_well_shows_at_the_drain():
    """Cbd in series with the well's resistances: Re Y22 = ω²C²(Rbd + Rbc) with the gate held, where nothing else conducts."""
    frequency = 1e9
    base = f"{LONG} cj=1m rshg=0 rcg=0 nqs=0"
    found, bare = (y_of(at(f"mos_rf ({base} {more})", 0.0, 1.2, frequency))[1, 1] for more in ("rbd=2m rbc=8m", ""))
    c = bare.imag / (2 * np.pi * frequency)
    assert (found - bare).real == approx((2 * np.pi * frequency * c) ** 2 * 10e-3 / 100e-6, rel=0.05)


def test_far_below_threshold_its_channel_is_charged_without_resistance():
    """Where there are no carriers, the input is that of a gate with its own resistance alone; a drive that goes there and back
    is followed (a conductance without an end once stopped it)."""
    vg = -3.0
    ours, without = (y_of(at(f"mos_rf ({LONG} cov=3e-10 nqs={nqs})", vg, 1.2))[0, 0] for nqs in (0.2, 0))
    assert (1 / ours).real == approx((1 / without).real, rel=1e-3)
    parts = f".model n mos_rf ({LONG} cov=3e-10)\nv1 g 0 sin(0 3 868meg)\nvd d 0 1.2\nm1 d g 0 0 n {SIZE}\n"
    data = data_of(parts, "transient to 3n step 10p", ports={})
    assert np.ptp(curve(data, "V(g)")) == approx(6.0, rel=1e-3)
