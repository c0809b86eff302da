"""Every equation of the junction devices, the bipolar and the square-law transistors: currents, charges, noise of each mechanism
and laws of temperature against the published ones, written out here, at three temperatures and with every parameter away from
its default."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.constants import e as q
from scipy.constants import k

from hearthline.core.models.library import library_module
from tests.approximation import approx
from tests.modules import Device
from tests.outside.laws import EPS_OX, TEMPERATURES, TN, gap, junction_capacitance, junction_charge, potential, shot, ut


def slope_of(device: Device, terminal: int, x: list[float], row: int) -> float:
    """The capacitance from a terminal to a row."""
    return device.at(*x).capacitance[row, terminal]


DIODE = dict(
    area=3.0,
    n=1.3,
    rs=7.0,
    bv=6.0,
    ibv=2e-4,
    cjo=2e-12,
    vj=0.85,
    m=0.4,
    fc=0.45,
    tt=3e-9,
    eg=0.9,
    xti=4.0,
    kf=3e-16,
    af=1.2,
)


@pytest.mark.parametrize("t", TEMPERATURES)
@pytest.mark.parametrize("v", [-2.0, -0.05, 0.0, 0.2, 0.36, 0.5, 0.75])
def test_diode(v, t):
    """Shockley 1949; Berkeley: saturation current, transit time and depletion charge, series resistance, shot and 1/f noise."""
    device = Device(library_module("diode"), kelvin=t, dis=0.1, **DIODE, **{"is": 1e-14})
    p, found = DIODE, device.at(v + 0.01, 0.0, v)
    nvt = p["n"] * ut(t)
    isat = p["area"] * 1.1e-14 * (t / TN) ** (p["xti"] / p["n"]) * np.exp((t / TN - 1) * p["eg"] / nvt)
    current = isat * np.expm1(v / nvt)
    knee = p["bv"] - nvt * np.log(p["ibv"] * p["area"] / isat - 1)
    current_all = current - isat * np.exp((-v - knee) / nvt)
    card = (p["area"] * p["cjo"], p["vj"], p["m"], p["fc"], t)
    assert found.readout["id"] == approx(current_all, rel=1e-9, abs=1e-28)
    assert found.current[0] == approx(0.01 * p["area"] / p["rs"], rel=1e-9)
    assert found.charge[2] == approx(p["tt"] * current_all + junction_charge(v, *card), rel=1e-8, abs=1e-28)
    assert found.readout["cd"] == approx(
        p["tt"] * isat * np.exp(v / nvt) / nvt + junction_capacitance(v, *card), rel=1e-8
    )
    expected = 4 * k * t * isat / nvt if v == 0 else shot(current, v, t)
    assert found.noise["shot"][0] == approx(expected, rel=1e-8)
    assert found.noise["rs"] == (approx(4 * k * t * p["area"] / p["rs"], rel=1e-9), 0.0)
    assert found.noise["flicker"] == (approx(p["kf"] * abs(current_all) ** p["af"], rel=1e-8), 1.0)


def test_a_diode_breaks_down():
    """An exponential beyond BV, of the same slope."""
    device = Device(library_module("diode"), **{**DIODE, "rs": 0.0}, **{"is": 1e-14})
    at, beyond = (device.at(-v, 0.0, -v).readout["id"] for v in (6.0, 6.1))
    assert at == approx(-2e-4 * 3, rel=1e-6)
    assert beyond / at == approx(np.exp(0.1 / (1.3 * ut(TN))), rel=1e-6)
    assert device.at(-6.0, 0.0, -6.0).noise["shot"][0] == approx(2 * q * 6e-4, rel=1e-6)


BIPOLAR = dict(
    area=2.0, bf=80.0, nf=1.05, vaf=30.0, ikf=2e-3, ise=3e-15, ne=1.7, br=3.0, nr=1.1, var=7.0, ikr=1e-3, isc=2e-15, nc=1.9,
    rb=120.0, rbm=30.0, re=4.0, rc=25.0, cje=30e-15, vje=0.8, mje=0.35, cjc=20e-15, vjc=0.65, mjc=0.4, xcjc=0.7, cjs=25e-15,
    vjs=0.6, mjs=0.3, fc=0.45, tf=8e-12, xtf=3.0, vtf=2.0, itf=4e-3, tr=3e-10, xtb=1.2, eg=1.15, xti=3.5, kf=2e-15, af=1.1,
)  # fmt: skip


def gummel_poon(ve: float, vc: float, t: float):
    """Currents, base charge, charges and the forward and reverse parts: Gummel and Poon 1970 with the Berkeley laws."""
    p, vt = BIPOLAR, ut(t)
    growth = (t / TN) ** p["xti"] * np.exp((t / TN - 1) * p["eg"] / vt)
    gain = (t / TN) ** p["xtb"]
    isat = p["area"] * 1e-16 * growth
    forward, reverse = isat * np.expm1(ve / (p["nf"] * vt)), isat * np.expm1(vc / (p["nr"] * vt))
    q1 = 1 / (1 - vc / p["vaf"] - ve / p["var"])
    q2 = forward / (p["area"] * p["ikf"]) + reverse / (p["area"] * p["ikr"])
    qb = q1 / 2 * (1 + np.sqrt(1 + 4 * q2))
    ise = p["area"] * p["ise"] * growth ** (1 / p["ne"]) / gain
    isc = p["area"] * p["isc"] * growth ** (1 / p["nc"]) / gain
    ibe = forward / (p["bf"] * gain) + ise * np.expm1(ve / (p["ne"] * vt))
    ibc = reverse / (p["br"] * gain) + isc * np.expm1(vc / (p["nc"] * vt))
    grown = forward / (forward + p["area"] * p["itf"]) if forward > 0 else 0.0
    qf = p["tf"] * forward / qb * (1 + p["xtf"] * grown**2 * np.exp(vc / (1.44 * p["vtf"])))
    qbe = qf + junction_charge(ve, p["area"] * p["cje"], p["vje"], p["mje"], p["fc"], t)
    qbc = p["tr"] * reverse + junction_charge(vc, p["xcjc"] * p["area"] * p["cjc"], p["vjc"], p["mjc"], p["fc"], t)
    ways = tuple(i / -np.expm1(-v / vt) for i, v in ((forward, ve), (reverse, vc)))
    return (forward - reverse) / qb, ibe, ibc, qb, qbe, qbc, ways


@pytest.mark.parametrize("polarity", [1, -1])
@pytest.mark.parametrize("t", TEMPERATURES)
@pytest.mark.parametrize(("ve", "vc"), [(0.55, -1.5), (0.75, -0.4), (0.82, 0.5), (-0.5, 0.6), (0.3, 0.1)])
def test_bipolar(ve, vc, t, polarity):
    """Transport, base currents, charges to the last junction, resistances, noise of seven mechanisms."""
    p, s = BIPOLAR, polarity
    device = Device(library_module("bipolar"), kelvin=t, type=s, **p, **{"is": 1e-16})
    # c b e s ci bi ei: 10 mV across each resistance, the substrate 1 V below
    found = device.at(s * (ve - vc + 0.01), s * (ve + 0.01), -s * 0.01, -s * 1.0, s * (ve - vc), s * ve, 0.0)
    ict, ibe, ibc, qb, qbe, qbc, ways = gummel_poon(ve, vc, t)
    vcx, vs = ve + 0.01 - (ve - vc), -1.0 - (ve - vc)
    qbx = junction_charge(vcx, 0.3 * p["area"] * p["cjc"], p["vjc"], p["mjc"], p["fc"], t)
    qcs = junction_charge(vs, p["area"] * p["cjs"], p["vjs"], p["mjs"], p["fc"], t)
    gbase = p["area"] / (p["rbm"] + (p["rb"] - p["rbm"]) / qb)
    assert found.readout["ic"] == approx(s * (ict - ibc), rel=1e-9)
    assert found.readout["ib"] == approx(s * (ibe + ibc), rel=1e-9)
    assert found.current[0] == approx(s * 0.01 * p["area"] / p["rc"], rel=1e-9)
    assert found.current[1] == approx(s * 0.01 * gbase, rel=1e-9)
    assert found.current[2] == approx(-s * 0.01 * p["area"] / p["re"], rel=1e-9)
    assert found.charge[6] == approx(-s * qbe, rel=1e-7)
    assert found.charge[1] == approx(s * qbx, rel=1e-7)
    assert found.charge[3] == approx(s * qcs, rel=1e-7)
    assert found.charge[4] == approx(-s * (qbc + qbx + qcs), rel=1e-7)
    assert found.noise["collector"][0] == approx(2 * q * sum(ways) / qb, rel=1e-7)
    assert found.noise["base"][0] == approx(shot(ibe, ve, t), rel=1e-7)
    assert found.noise["base-collector"][0] == approx(shot(ibc, vc, t), rel=1e-7)
    assert found.noise["flicker"] == (approx(p["kf"] * abs(ibe) ** p["af"], rel=1e-7), 1.0)
    for name, conductance in (("rb", gbase), ("rc", p["area"] / p["rc"]), ("re", p["area"] / p["re"])):
        assert found.noise[name] == (approx(4 * k * t * conductance, rel=1e-9), 0.0)


@pytest.mark.parametrize(
    ("ve", "vc", "region"),
    [(0.6, -1.0, 1), (0.7, 0.5, 2), (0.1, 0.6, 3), (0.1, -1.0, 0), (0.41, 0.39, 1), (0.41, 0.41, 2), (0.39, 0.41, 3)],
)
def test_region_of_a_bipolar(ve, vc, region):
    """A junction conducts above 0.4 V: common practice, no source."""
    assert Device(library_module("bipolar")).at(ve - vc, ve, 0, 0, ve - vc, ve, 0).readout["region"] == region


def nyquist_at_rest(name: str, ends: tuple[str, str], t: float, **given) -> tuple[float, float]:
    """Noise density [A²/Hz] between two terminals at rest, and 4 k T of the conductance there."""
    device = Device(library_module(name), kelvin=t, **given)
    names = [terminal.name for terminal in device.module.terminals]
    found = device.at(*[0.0] * len(names))
    a, b = (names.index(end) for end in ends)
    across = [n for n in device.module.noise if {n.plus, n.minus} == {a, b}]
    return sum(found.noise[n.name][0] for n in across if n.kind == "white"), -4 * k * t * found.conductance[a, b]


@pytest.mark.parametrize("t", TEMPERATURES)
@pytest.mark.parametrize(
    ("name", "ends", "given"),
    [
        ("diode", ("ai", "c"), {"is": 1e-9, "n": 1.8}), ("bipolar", ("bi", "ei"), {"is": 1e-9, "ise": 1e-9, "ne": 2.0}),
        ("bipolar", ("bi", "ci"), {"is": 1e-9, "isc": 1e-9}), ("jfet", ("g", "si"), {"is": 1e-9}),
        ("mesfet", ("gi", "di"), {"is": 1e-9, "n": 1.3}), ("hemt", ("gi", "si"), {"is": 1e-9}), ("mos", ("b", "si"), {"js": 1e3}),
        ("mos", ("b", "di"), {"js": 1e3}), ("mos1", ("b", "di"), {"is": 1e-9}), ("resistor", ("p", "n"), {"r": 50.0}),
        ("switch", ("p", "n"), {}), ("memristor", ("p", "n"), {}),
    ],
)  # fmt: skip
def test_at_rest_every_lossy_pair_makes_nyquists_noise(name, ends, given, t):
    """4 k T G, H. Nyquist 1928, whatever carries the current, to 1e-6."""
    found, expected = nyquist_at_rest(name, ends, t, **given)
    assert found == approx(expected, rel=1e-6)


JFET = dict(area=2.0, vto=-1.8, beta=9e-4, rd=6.0, rs=5.0, cgs=2e-12, cgd=1e-12, pb=0.9, fc=0.4, kf=1e-16, af=1.2)
JFET |= {"lambda": 0.03, "is": 2e-14}


@pytest.mark.parametrize("polarity", [1, -1])
@pytest.mark.parametrize("t", TEMPERATURES)
@pytest.mark.parametrize(("vgs", "vds"), [(-1.0, 2.0), (-0.3, 0.5), (0.45, 1.0), (-1.0, -0.6), (-2.5, 1.0)])
def test_jfet(vgs, vds, t, polarity):
    """Shichman and Hodges 1968; gate junctions, charges, and van der Ziel's channel noise, either way round."""
    p, s = JFET, polarity
    device = Device(library_module("jfet"), kelvin=t, type=s, **p)
    found = device.at(s * (vds + 0.01), s * vgs, -s * 0.01, s * vds, 0.0)
    vgd = vgs - vds
    vov = (vgs if vds >= 0 else vgd) - p["vto"]
    across = abs(vds)
    factor = p["area"] * p["beta"] * (1 + p["lambda"] * across)
    channel = 0.0 if vov <= 0 else factor * (vov**2 if vov <= across else across * (2 * vov - across))
    channel *= np.sign(vds)
    isat = p["area"] * p["is"] * np.exp((t / TN - 1) * 1.11 / ut(t))
    igs, igd = isat * np.expm1(vgs / ut(t)), isat * np.expm1(vgd / ut(t))
    assert found.readout["id"] == approx(s * (channel - igd), rel=1e-9, abs=1e-30)
    assert found.readout["ig"] == approx(s * (igs + igd), rel=1e-9, abs=1e-30)
    for row, v, cap in ((3, vgd, "cgd"), (4, vgs, "cgs")):
        assert found.charge[row] == approx(
            -s * junction_charge(v, p["area"] * p[cap], p["pb"], 0.5, p["fc"], t), rel=1e-7
        )
    eta = max(1 - across / max(vov, 1e-9), 0.0)
    thermal = 8 / 3 * k * t * 2 * factor * max(vov, 0.0) * (1 + eta + eta**2) / (1 + eta)
    assert found.noise["channel"][0] == approx(thermal, rel=1e-9)
    assert found.noise["gate-source"][0] == approx(shot(igs, vgs, t), rel=1e-8)
    assert found.noise["gate-drain"][0] == approx(shot(igd, vgd, t), rel=1e-8)
    assert found.noise["flicker"] == (approx(p["kf"] * abs(channel) ** p["af"], rel=1e-9), 1.0)
    for name in ("rd", "rs"):
        assert found.noise[name][0] == approx(4 * k * t * p["area"] / p[name], rel=1e-9)
    assert found.readout["vdsat"] == approx(s * max(vov, 0.0), rel=1e-9)


MOS1 = dict(
    w=12e-6, l=2e-6, vto=0.55, kp=1.1e-4, gamma=0.5, phi=0.72, tox=9e-9, ld=0.1e-6, rd=8.0, rs=6.0, cgso=3e-10, cgdo=2e-10, cgbo=1e-10,
    js=2e-3, ad=10e-12, pd=14e-6, cj=4e-4, cjsw=3e-10, pb=0.75, mj=0.45, mjsw=0.3, fc=0.4, kf=2e-26, af=1.1, bex=-1.6,
) | {"as": 8e-12, "ps": 12e-6, "lambda": 0.05}  # fmt: skip


def ward_dutton(vgb: float, vsb: float, vdb: float, t: float) -> tuple[float, float, float, float]:
    """Drain current and the charges of gate, drain and source in strong inversion by integration along the channel: gradual
    channel, Q = -Cox (vgt - v) with the bulk charge of the source's end (Ward and Dutton 1978, 40/60 partition)."""
    p = MOS1
    phit = potential(p["phi"], t)
    leff = p["l"] - 2 * p["ld"]
    cox = EPS_OX / p["tox"] * p["w"] * leff
    vto = (
        p["vto"] - p["gamma"] * (np.sqrt(p["phi"]) - np.sqrt(phit)) + 0.5 * (gap(TN) - gap(t)) + 0.5 * (phit - p["phi"])
    )
    bent = np.sqrt(phit + vsb)
    vov = vgb - vsb - vto - p["gamma"] * (bent - np.sqrt(phit))
    vds = vdb - vsb
    end = min(vds, vov)
    v = np.linspace(0, end, 40001)
    current = vov * v - v * v / 2
    position = current / current[-1] if end > 0 else np.linspace(0, 1, len(v))
    charge = -cox * (vov - v)
    qn = np.trapezoid(charge, position)
    qd = np.trapezoid(charge * position, position)
    qb = -cox * p["gamma"] * bent
    beta = p["kp"] * (t / TN) ** p["bex"] * p["w"] / leff * (1 + p["lambda"] * vds)
    return beta * current[-1], -(qn + qb), qd, qn - qd


@pytest.mark.parametrize("t", TEMPERATURES)
@pytest.mark.parametrize(("vg", "vd", "vs"), [(2.2, 2.0, 0.3), (2.2, 0.8, 0.3), (1.8, 1.5, 0.0)])
def test_mos_level_1_with_charges(vg, vd, vs, t):
    """Current, all charges with overlaps and junctions, resistances and noise, with the laws of temperature."""
    p = MOS1
    device = Device(library_module("mos1"), kelvin=t, **p)
    found = device.at(vd + 0.01, vg, vs - 0.01, 0.0, vd, vs)
    current, qg, qd, qs = ward_dutton(vg, vs, vd, t)
    growth = np.exp(gap(TN) / ut(TN) - gap(t) / ut(t))
    ibd, ibs = p["js"] * p["ad"] * growth * np.expm1(-vd / ut(t)), p["js"] * p["as"] * growth * np.expm1(-vs / ut(t))
    leff = p["l"] - 2 * p["ld"]
    assert found.readout["id"] == approx(current - ibd, rel=1e-8)
    overlaps = p["w"] * (p["cgso"] * (vg - vs) + p["cgdo"] * (vg - vd)) + p["cgbo"] * leff * vg
    assert found.charge[1] == approx(qg + overlaps, rel=1e-6)
    bottom = [junction_charge(-v, p["cj"] * p[a], p["pb"], p["mj"], p["fc"], t) for v, a in ((vd, "ad"), (vs, "as"))]
    side = [junction_charge(-v, p["cjsw"] * p[a], p["pb"], p["mjsw"], p["fc"], t) for v, a in ((vd, "pd"), (vs, "ps"))]
    assert found.charge[4] == approx(qd - p["w"] * p["cgdo"] * (vg - vd) - bottom[0] - side[0], rel=1e-6)
    assert found.charge[5] == approx(qs - p["w"] * p["cgso"] * (vg - vs) - bottom[1] - side[1], rel=1e-6)
    for name in ("rd", "rs"):
        assert found.noise[name][0] == approx(4 * k * t / p[name], rel=1e-9)
    assert found.noise["bulk-drain"][0] == approx(shot(ibd, -vd, t), rel=1e-8)
    expected = 2 * q * p["js"] * p["as"] * growth * (2 if vs == 0 else 1) if vs == 0 else shot(ibs, -vs, t)
    assert found.noise["bulk-source"][0] == approx(expected, rel=1e-8)
    cox = EPS_OX / p["tox"]
    assert found.noise["flicker"] == (approx(p["kf"] * current ** p["af"] / (cox * leff**2), rel=1e-8), 1.0)


@pytest.mark.parametrize("t", TEMPERATURES)
@pytest.mark.parametrize("vds", [0.0, 0.2, 1.5])
def test_noise_and_threshold_of_a_plain_mos_level_1(vds, t):
    """Without an oxide: van der Ziel's channel noise between 4 k T gds and (8/3) k T gm, flicker noise by the current alone, and
    the threshold by its own coefficient where one is given."""
    p = dict(w=1e-5, l=1e-6, vto=0.6, kp=1e-4, tcv=1.5e-3, kf=1e-16, af=1.2, **{"lambda": 0.05, "is": 1e-40})
    found = Device(library_module("mos1"), kelvin=t, **p).at(vds, 1.4, 0, 0, vds, 0)
    vov = 1.4 - 0.6 + 1.5e-3 * (t - TN)
    beta = 1e-3 * (t / TN) ** -1.5 * (1 + 0.05 * vds)
    end = min(vds, vov)
    current = beta * end * (vov - end / 2)
    assert found.readout["id"] == approx(current, rel=1e-9, abs=1e-20)
    eta = max(1 - vds / vov, 0.0)
    assert found.noise["channel"][0] == approx(8 / 3 * k * t * beta * vov * (1 + eta + eta**2) / (1 + eta), rel=1e-9)
    assert found.noise["flicker"] == (approx(1e-16 * current**1.2, rel=1e-9), 1.0)


def test_mos_level_1_below_threshold_and_with_a_forward_bulk():
    """The bulk's charge of depletion and accumulation (Tsividis), and the square root's tangent beyond a forward bulk."""
    device = Device(library_module("mos1"), vto=0.6, gamma=0.5, phi=0.7, tox=1e-8, w=1e-5, l=1e-6)
    cox = EPS_OX / 1e-8 * 1e-11
    flat = 0.6 - 0.7 - 0.5 * np.sqrt(0.7)
    for vg in (-0.2, 0.1, 0.4):
        depletion = 0.5 * 0.25 * (np.sqrt(1 + 4 * (vg - flat) / 0.25) - 1)
        assert device.at(0.0, vg, 0, 0, 0.0, 0).charge[1] == approx(cox * depletion, rel=1e-9)
    assert device.at(0.0, flat - 0.5, 0, 0, 0.0, 0).charge[1] == approx(-0.5 * cox, rel=1e-9)
    found = device.at(0.1, 0.0, 0, 0.3, 0.1, 0).readout["vth"]
    assert found == approx(0.6 - 0.5 * 0.3 / (2 * np.sqrt(0.7)), rel=1e-9)


def test_mos_level_1_from_physical_parameters():
    """KP = UO COX, PHI = 2 UT ln(NSUB/ni), GAMMA = sqrt(2 q eps NSUB)/COX, RD from squares: Berkeley decks."""
    device = Device(
        library_module("mos1"), tox=1.2e-8, uo=450.0, nsub=3e16, vto=0.5, rsh=20.0, nrd=2.0, nrs=1.5, w=1e-5, l=1e-6
    )
    cox = EPS_OX / 1.2e-8
    phi = 2 * ut(TN) * np.log(3e16 / 1.45e10)
    gamma = np.sqrt(2 * 11.7 / 3.9 * EPS_OX * q * 3e22) / cox
    found = device.at(2.0, 1.5, 0, -1.0, 2.0, 0)
    vth = 0.5 + gamma * (np.sqrt(phi + 1) - np.sqrt(phi))
    assert found.readout["vth"] == approx(vth, rel=1e-6)
    assert found.readout["id"] == approx(0.5 * 450e-4 * cox * 10 * (1.5 - vth) ** 2, rel=1e-6)
    assert found.noise["rd"][0] == approx(4 * k * TN / 40, rel=1e-9)
    assert found.noise["rs"][0] == approx(4 * k * TN / 30, rel=1e-9)


@pytest.mark.parametrize("t", TEMPERATURES)
def test_mesfet_and_hemt_over_temperature(t):
    """Gate junctions of a gap of 1.42 eV, threshold, gain and peak by their coefficients, noise of gate and channel."""
    given = dict(
        area=2.0, tcv=1.2e-3, bex=-1.3, n=1.2, rd=4.0, rg=3.0, rs=2.0, kf=1e-16, af=1.1, vto=-1.5, beta=2e-3, b=0.4
    )
    given |= dict(alpha=2.2, pb=0.8, cgs=3e-13, cgd=5e-14, cds=4e-14) | {"lambda": 0.04, "is": 3e-15}
    found = Device(library_module("mesfet"), kelvin=t, **given).at(2.01, -0.29, -0.01, 2.0, -0.3, 0.0)
    nvt = 1.2 * ut(t)
    isat = 2 * 3e-15 * np.exp((t / TN - 1) * 1.42 / nvt) * (t / TN) ** (3 / 1.2)
    vov = -0.3 + 1.5 + 1.2e-3 * (t - TN)
    channel = 2 * 2e-3 * (t / TN) ** -1.3 * vov**2 / (1 + 0.4 * vov) * (1 + 0.04 * 2)
    igs, igd = (isat * np.expm1(v / nvt) for v in (-0.3, -2.3))
    assert found.readout["id"] == approx(channel - igd, rel=1e-9)
    assert found.readout["ig"] == approx(igs + igd, rel=1e-9)
    assert found.current[4] == approx(igs + igd - 0.01 * 2 / 3.0, rel=1e-9)
    assert found.current[5] == approx(-channel - igs + 0.01 * 2 / given["rs"], rel=1e-9)
    for name in ("rd", "rg", "rs"):
        assert found.noise[name][0] == approx(4 * k * t * 2 / given[name], rel=1e-9)
    assert found.noise["gate-source"][0] == approx(shot(igs, -0.3, t), rel=1e-8)
    assert found.noise["flicker"] == (approx(1e-16 * channel**1.1, rel=1e-9), 1.0)
    # far from the ends the gate's charge is that of a junction of grading one half, shared by drain and source
    ve = 0.5 * (-0.3 - 2.3 + np.hypot(2.0, 1 / 2.2))
    vn = 0.5 * (ve - 1.5 - 1.2e-3 * (t - TN) + np.sqrt((ve + 1.5 + 1.2e-3 * (t - TN)) ** 2 + 0.04))
    qg = 2 * (3e-13 * 2 * 0.8 * (1 - np.sqrt(1 - vn / 0.8)) + 5e-14 * (-0.3 - 2.3 - ve))
    assert found.charge[4] == approx(qg, rel=1e-9)
    assert found.charge[3] == approx(-0.5 * qg + 2 * 4e-14 * 2.0, rel=1e-9)
    given = dict(
        area=2.0, ipk=20e-3, vpk=-0.3, p1=1.8, p2=0.2, p3=0.4, alpha=2.1, gamma=0.02, n=1.3, tci=-2e-3, pnoise=1.4
    )
    given |= dict(cgs=4e-14, pgs=1.7, vgs0=-0.2, cgd=2e-14, pgd=0.9, vgd0=-0.4, cgsp=5e-15, cgdp=3e-15, cds=1.2e-14)
    given |= dict(rd=2.0, rg=3.0, rs=1.5) | {"lambda": 0.05, "is": 1e-15}
    found = Device(library_module("hemt"), kelvin=t, **given).at(1.51, 0.11, -0.01, 1.5, 0.1, 0.0)
    nvt = 1.3 * ut(t)
    isat = 2 * 1e-15 * (t / TN) ** (3 / 1.3) * np.exp((t / TN - 1) * 1.42 / nvt)
    v = 0.1 + 0.3 + 0.02 * 1.5
    channel = (
        2 * 20e-3 * (1 - 2e-3 * (t - TN)) * (1 + np.tanh(1.8 * v + 0.2 * v**2 + 0.4 * v**3)) * 1.075 * np.tanh(3.15)
    )
    igs, igd = (isat * np.expm1(x / nvt) for x in (0.1, -1.4))
    assert found.readout["id"] == approx(channel - igd, rel=1e-9)
    assert found.readout["ig"] == approx(igs + igd, rel=1e-9)
    charge = [
        2 * (c * (x + np.log(np.cosh(slope * (x - middle))) / slope) + fixed * x)
        for x, c, slope, middle, fixed in ((0.1, 4e-14, 1.7, -0.2, 5e-15), (-1.4, 2e-14, 0.9, -0.4, 3e-15))
    ]
    assert found.charge[4] == approx(sum(charge), rel=1e-9)
    assert found.charge[3] == approx(-charge[1] + 2 * 1.2e-14 * 1.5, rel=1e-9)
    gm, gds = found.readout["gm"], found.readout["gds"]
    assert found.noise["channel"][0] == approx(4 * k * t * (1.4 * gm + gds), rel=1e-9)
    assert found.noise["gate-source"][0] == approx(shot(igs, 0.1, t), rel=1e-8)
    assert found.noise["gate-drain"][0] == approx(shot(igd, -1.4, t), rel=1e-8)
    for name in ("rd", "rg", "rs"):
        assert found.noise[name][0] == approx(4 * k * t * 2 / given[name], rel=1e-9)


@pytest.mark.parametrize("name", ["mesfet", "hemt"])
def test_smooth_to_the_third_derivative_without_drain_voltage(name):
    """By differences of a fine sweep: no derivative up to the third jumps at vds = 0, and the current is odd."""
    device = Device(library_module(name), **({"vto": -1.0} if name == "mesfet" else {}), **{"is": 1e-30})
    step = 1e-3
    v = np.arange(-60, 61) * step
    current = np.array([device.at(x / 2, 0.1, -x / 2, x / 2, 0.1, -x / 2).current[3] for x in v])
    np.testing.assert_allclose(current, -current[::-1], rtol=0, atol=1e-12 * np.abs(current).max())
    third = np.diff(current, 3) / step**3
    middle = len(third) // 2
    assert np.abs(np.diff(third[middle - 6 : middle + 6])).max() < 0.05 * np.abs(third).max()


@pytest.mark.parametrize("v", [0.1, -0.1, 0.3, 1.575, -2.0])
def test_the_published_laws_of_mesfet_and_hemt_hold_from_a_tenth_of_a_volt(v):
    """Below, the drain voltage's amount is rounded (the pages of the devices say so)."""
    gate = 0.2 if v > -1 else v + 0.2
    device = Device(library_module("mesfet"), vto=-1.0, beta=2e-3, b=0.4, alpha=2.0, **{"is": 1e-30})
    vov = (gate if v > 0 else gate - v) + 1.0
    cubic = 1 - (1 - 2 * abs(v) / 3) ** 3 if abs(v) < 1.5 else 1.0
    expected = np.sign(v) * 2e-3 * vov**2 / (1 + 0.4 * vov) * cubic
    assert device.at(v, gate, 0, v, gate, 0).readout["id"] == approx(expected, rel=1e-12)
    device = Device(
        library_module("hemt"), ipk=0.02, vpk=-0.3, p1=1.8, p3=0, alpha=2.0, gamma=0, **{"is": 1e-30, "lambda": 0}
    )
    expected = 0.02 * (1 + np.tanh(1.8 * ((gate if v > 0 else gate - v) + 0.3))) * np.tanh(2 * v)
    assert device.at(v, gate, 0, v, gate, 0).readout["id"] == approx(expected, rel=1e-12)


@pytest.mark.parametrize("x", [0.02, 0.05, 0.09])
def test_hemt_and_mesfet_round_the_drain_voltage_by_the_even_polynomial_of_least_degree(x):
    """That is |v| and smooth to the third derivative at a tenth of a volt: (35 t² - 35 t⁴ + 21 t⁶ - 5 t⁸) / 16, solved for here."""
    powers = np.array([2, 4, 6, 8])
    falling = np.array([np.ones(4), powers, powers * (powers - 1), powers * (powers - 1) * (powers - 2)], float)
    far = 0.1 * np.linalg.solve(falling, [1, 1, 0, 0]) @ (x / 0.1) ** powers
    device = Device(
        library_module("hemt"), ipk=0.02, vpk=-0.3, p1=1.8, p3=0, alpha=2.0, gamma=0, **{"is": 1e-30, "lambda": 3.0}
    )
    middle = 0.1 - x / 2 + far / 2 + 0.3
    expected = 0.02 * (1 + np.tanh(1.8 * middle)) * (1 + 3 * far) * np.tanh(2 * x)
    assert device.at(x, 0.1, 0, x, 0.1, 0).readout["id"] == approx(expected, rel=1e-9)


@pytest.mark.parametrize("control", [-0.5, 0.62, 0.7, 0.79, 2.0])
def test_switch_without_hysteresis(control):
    """Its conductance goes over in decades, by a cubic step within the window (common practice, no source)."""
    found = Device(library_module("switch"), ron=2.0, roff=1e8, vt=0.7, vw=0.1).at(0.5, 0.1, control, 0.0, 0.0)
    y = np.clip((control - 0.7 + 0.1) / 0.2, 0, 1)
    conductance = 10 ** (-8 + np.log10(1e8 / 2) * y * y * (3 - 2 * y))
    assert found.current[0] == approx(0.4 * conductance, rel=1e-9)
    assert found.readout["res"] == approx(1 / conductance, rel=1e-9)
    assert found.readout["i"] == approx(0.4 * conductance, rel=1e-9)
    assert found.noise["thermal"][0] == approx(4 * k * TN * conductance, rel=1e-9)


@pytest.mark.parametrize("state", [-0.8, 0.0, 0.3, 1.2])
def test_switch_with_hysteresis(state):
    """Its inner state follows a cubic that folds where the control voltage is vh from the middle: s = ±1/√3."""
    device = Device(library_module("switch"), ron=2.0, roff=1e8, vt=0.7, vh=0.2, tau=3e-9)
    fold = 1.5 * np.sqrt(3) * (state**3 - state)
    found = device.at(0.5, 0.1, 0.75, 0.0, state + 1.3)
    assert found.current[4] == approx(1e-3 * (fold - 0.25), rel=1e-9)
    assert found.charge[4] == approx(3e-12 * state, rel=1e-9)
    y = np.clip(0.5 + np.sqrt(3) / 2 * state, 0, 1)
    assert found.current[0] == approx(0.4 * 10 ** (-8 + np.log10(1e8 / 2) * y * y * (3 - 2 * y)), rel=1e-9)
    assert abs(1.5 * np.sqrt(3) * (3**-1.5 - 3**-0.5)) == approx(1.0)


def test_a_hemt_does_not_turn_around_when_hot():
    """Its peak's current falls to a hundredth at most (common practice, no source)."""
    hot, cold = (Device(library_module("hemt"), kelvin=t, tci=-0.02, gamma=0, **{"is": 1e-60}) for t in (423.15, TN))
    place = (1.0, -0.1, 0, 1.0, -0.1, 0)
    assert hot.at(*place).readout["id"] == approx(0.01 * cold.at(*place).readout["id"], rel=1e-9)


@pytest.mark.parametrize("t", TEMPERATURES)
def test_resistor_capacitor_and_varactor(t):
    """Sheet, ends, coefficients of temperature and voltage, what lies below, 1/f noise (common practice, no source)."""
    rise = t - TN
    given = dict(
        w=2e-6,
        l=20e-6,
        rsh=200.0,
        dw=2e-7,
        dl=5e-7,
        rend=1e-4,
        tc1=1e-3,
        tc2=2e-6,
        vc1=0.01,
        vc2=3e-3,
        cpar=1e-4,
        kf=2e-24,
    )
    found = Device(library_module("resistor"), kelvin=t, dr=0.05, **given).at(0.8, 0.2, -0.3)
    plain = (200 * 19.5e-6 / 1.8e-6 + 2e-4 / 1.8e-6) * 1.05 * (1 + 1e-3 * rise + 2e-6 * rise**2)
    res = plain * (1 + 0.01 * 0.6 + 3e-3 * 0.36)
    assert found.current[0] == approx(0.6 / res, rel=1e-9)
    assert found.noise["thermal"][0] == approx(4 * k * t / res, rel=1e-9)
    assert found.noise["flicker"] == (approx(2e-24 * (0.6 / res) ** 2 / 40e-12, rel=1e-9), 1.0)
    np.testing.assert_allclose(found.charge, [2e-15 * 1.1, 2e-15 * 0.5, -2e-15 * 1.6], rtol=1e-9)
    assert Device(library_module("resistor"), kelvin=t, r=2e3, tc1=2e-3).at(1.0, 0.0).current[0] == approx(
        1 / (2e3 * (1 + 2e-3 * rise))
    )
    falling = Device(library_module("resistor"), r=1e3, vc1=-1.0)
    assert falling.at(3.0, 0.0).current[0] == approx(3.0 / 10.0)  # a hundredth at least
    given = dict(w=3e-6, l=5e-6, cj=1e-3, cjsw=2e-10, tc1=1e-3, tc2=3e-6, vc1=0.02, vc2=0.01, cbot=4e-5, leak=2e-3)
    found = Device(library_module("capacitor"), kelvin=t, dc=0.03, **given).at(0.9, 0.2, -0.1)
    c = 1.03 * (15e-15 + 2e-10 * 16e-6) * (1 + 1e-3 * rise + 3e-6 * rise**2)
    bottom = 4e-5 * 15e-12 * 0.3
    assert found.charge[0] == approx(c * (0.7 + 0.02 * 0.49 / 2 + 0.01 * 0.343 / 3), rel=1e-9)
    assert found.charge[2] == approx(-bottom, rel=1e-9)
    assert found.current[0] == approx(2e-3 * c * 0.7, rel=1e-9)
    assert Device(library_module("capacitor"), c=3e-12).at(1.0, 0.0).charge[0] == approx(3e-12)
    given = dict(
        w=9e-6, l=0.5e-6, cmax=1.2e-2, cmin=3e-3, cedge=2e-10, vmid=-0.1, vslope=0.25, rwell=300.0, rend=1e-4, tcv=1e-3
    )
    given |= dict(cwell=2e-4, edge=1e-6, pb=0.6, mj=0.3)
    device = Device(library_module("varactor"), kelvin=t, dc=0.02, **given)
    found = device.at(0.31, 0.0, -0.5, 0.3)
    area, u = 4.5e-12 * 1.02, (0.3 + 0.1 - 1e-3 * rise) / 0.25
    assert found.readout["cap"] == approx(area * (7.5e-3 + 4.5e-3 * np.tanh(u)) + 2 * 2e-10 * 9e-6, rel=1e-9)
    rs = (300 * 0.5e-6 + 1e-4) / 9e-6
    assert found.current[0] == approx(0.01 / rs, rel=1e-9)
    assert found.noise["rs"][0] == approx(4 * k * t / rs, rel=1e-9)
    well = junction_charge(-0.5, 2e-4 * 10e-6 * 1.5e-6, 0.6, 0.3, 0.5, TN)
    assert found.charge[2] == approx(well, rel=1e-7)
    forward = junction_charge(0.45, 2e-4 * 10e-6 * 1.5e-6, 0.6, 0.3, 0.5, TN)
    assert device.at(0.31, 0.0, 0.45, 0.3).charge[2] == approx(forward, rel=1e-7)
    charges = [device.at(v, 0.0, -0.5, v).charge[3] for v in (0.0, 0.3)]
    curve = np.linspace(0, 0.3, 3001)
    capacitance = area * (7.5e-3 + 4.5e-3 * np.tanh((curve + 0.1 - 1e-3 * rise) / 0.25)) + 2 * 2e-10 * 9e-6
    assert charges[1] - charges[0] == approx(np.trapezoid(capacitance, curve), rel=1e-6)


@pytest.mark.parametrize("t", TEMPERATURES)
@pytest.mark.parametrize(("vgs", "vds"), [(0.1, 0.3), (0.35, 0.02), (0.5, 0.6), (0.2, 0.0)])
def test_nanotube_from_either_end(vgs, vds, t):
    """Ballistic current, charge and shot noise: Lundstrom and Guo 2006; the same when drain and source change places."""
    from scipy.constants import h

    given = dict(chin=17, chim=3, l=4e-8, tubes=3, alphag=0.88, alphad=0.04, path=1.5e-7, cg=2e-10, dvt=0.02)
    device = Device(library_module("nanotube"), kelvin=t, **given)
    found, vt = device.at(vds, vgs, 0.0), ut(t)
    vth = 0.43e-9 / (0.246e-9 * np.sqrt(17**2 + 17 * 3 + 9) / np.pi) + 0.02
    share = 0.04 - 0.5 * 0.12
    middle = 0.88 * (vgs - vds / 2 - vth) + share * (np.sqrt(vds**2 + 4e-4) - 0.02)
    us, ud = (middle + vds / 2) / vt, (middle - vds / 2) / vt
    fs, fd = np.logaddexp(0, us), np.logaddexp(0, ud)
    i0 = 3 * 4 * q * k * t / h * 1.5e-7 / 1.9e-7
    assert found.current[0] == approx(i0 * (fs - fd), rel=1e-9, abs=1e-25)
    assert found.charge[1] == approx(0.5 * 3 * 2e-10 * 4e-8 * vt * (fs + fd), rel=1e-9)
    assert found.noise["channel"][0] == approx(2 * q * i0 * (1 / (1 + np.exp(-us)) + 1 / (1 + np.exp(-ud))), rel=1e-9)
    swapped = device.at(0.0, vgs, vds)
    assert swapped.current[0] == approx(-found.current[0], rel=1e-12, abs=1e-25)
    # beyond some UT the barrier is at alphag (vgs - vth) + alphad vds
    if vds > 0.5:
        assert us * vt == approx(0.88 * (vgs - vth) + 0.04 * vds, abs=2e-3)
