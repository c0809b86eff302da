"""What is read out of a device is what its currents and charges do: conductances and capacitances are their slopes between
terminals, voltages those that stand there. By the definitions of the small-signal equivalent circuits."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
import pytest

from hearthline.core.models.library import library_module
from tests.approximation import approx
from tests.modules import At, Device
from tests.outside.laws import TN, ut

MOS = dict(w=12e-6, l=0.8e-6, gamma=0.5, ad=4e-12, pd=9e-6, cj=1e-3, cjsw=1e-10, js=1.0) | {"as": 4e-12, "ps": 9e-6}
GIVEN = {
    "diode": {"n": 1.2, "cjo": 1e-12, "tt": 1e-9},
    "bipolar": dict(bf=80.0, vaf=30.0, var=8.0, ikf=2e-3, ise=3e-15, isc=1e-14, br=3.0, cje=3e-14, cjc=2e-14, xcjc=0.6, tf=8e-12, tr=3e-10),
    "jfet": {"vto": -1.8, "beta": 1e-3, "lambda": 0.03, "cgs": 2e-12, "cgd": 1e-12, "is": 1e-9},
    "mos1": {**MOS, "vto": 0.5, "kp": 1e-4, "lambda": 0.06, "tox": 9e-9, "cgbo": 1e-10, "cgso": 2e-10, "cgdo": 1e-10},
    "mos": MOS,
    "mesfet": {"vto": -1.2, "cgs": 3e-13, "cgd": 6e-14, "lambda": 0.04, "is": 1e-9, "alpha": 2.4},
    "hemt": {"vpk": -0.3, "p1": 1.8, "is": 1e-9, "alpha": 2.1},
    "nanotube": {},
    "capacitor": {"c": 1e-12, "vc1": 0.1},
    "varactor": {},
}  # fmt: skip


def two_terminals(found: At, u: Sequence[float], sign: int) -> dict[str, float]:
    """A junction or capacitance from the first terminal, or the inner one beyond a short, to the second."""
    inner = 3 if len(u) == 4 else 2 if len(u) == 3 else 0
    return {
        "gd": found.conductance[inner, inner],
        "cd": found.capacitance[inner, inner],
        "cap": found.capacitance[inner, inner],
        "v": u[inner] - u[1],
    }


def bipolar(found: At, u: Sequence[float], sign: int) -> dict[str, float]:
    """The hybrid-pi circuit with what each junction carries: only the base's own currents reach the emitter."""
    b, ci, bi, ei = 1, 4, 5, 6
    y, c = found.conductance, found.capacitance
    gmu = -y[bi, ci]
    return {
        "vbe": u[bi] - u[ei], "vce": u[ci] - u[ei], "ic": found.current[ci], "ib": found.current[bi], "beta": found.current[ci] / found.current[bi],
        "gpi": -y[bi, ei], "go": y[ci, ci], "gm": y[ci, bi] + gmu, "cpi": -c[ei, bi], "cmu": c[b, b] + c[bi, bi] + c[ei, bi],
    }  # fmt: skip


def field_effect(gate: int, drain: int, leak: int) -> Callable:
    """A channel between the drain and the terminal after it (or the next inner one), with junctions from `leak` to both ends."""

    def expected(found: At, u: Sequence[float], sign: int) -> dict[str, float]:
        y, c, d, s = found.conductance, found.capacitance, drain, len(u) - 1
        way = 1 if sign * (u[d] - u[s]) >= 0 else -1
        by_drain = y[d, d] + (y[leak, d] if leak else 0.0)
        by_leak = y[d, leak] - y[leak, d] if leak else 0.0
        by_gate = by_leak if gate == leak else y[d, gate]
        by_source = -(by_drain + by_gate + (by_leak if gate != leak else 0.0))
        current = found.readout["id"]
        return {
            "vgs": u[gate] - u[s], "vds": u[d] - u[s], "vbs": u[leak] - u[s], "gm": way * by_gate, "gmb": way * by_leak,
            "gds": by_drain if way > 0 else -by_source, "ron": (u[d] - u[s]) / current if current else np.inf,
            "cgg": c[gate, gate], "cgd": -c[gate, d], "cgs": -c[gate, s], "cgb": -c[gate, leak],
        }  # fmt: skip

    return expected


CASES = {
    "diode": (two_terminals, ((0.6, 0.0, 0.6), (-1.0, 0.0, -1.0))),
    "bipolar": (bipolar, ((1.0, 0.7, 0, -1, 1.0, 0.7, 0), (0.05, 0.72, 0, -1, 0.05, 0.72, 0), (-0.3, 0.4, 0, -1.5, -0.3, 0.4, 0))),
    "jfet": (field_effect(1, 3, 1), ((2.0, -0.5, 0, 2.0, 0), (0.2, 0.3, 0, 0.2, 0), (-0.5, -1.0, 0, -0.5, 0))),
    "mos1": (field_effect(1, 4, 3), ((1.5, 1.4, 0, -0.3, 1.5, 0), (0.2, 1.4, 0, 0.2, 0.2, 0), (-0.8, 0.6, 0, -1, -0.8, 0))),
    "mos": (field_effect(1, 4, 3), ((1.2, 0.8, 0, -0.3, 1.2, 0), (0.05, 0.9, 0, 0.2, 0.05, 0), (-0.6, 0.4, 0, -1, -0.6, 0))),
    "mesfet": (field_effect(4, 3, 4), ((2.0, -0.4, 0, 2.0, -0.4, 0), (0.2, 0.3, 0, 0.2, 0.3, 0))),
    "hemt": (field_effect(4, 3, 4), ((2.0, -0.1, 0, 2.0, -0.1, 0), (0.2, 0.3, 0, 0.2, 0.3, 0))),
    "nanotube": (field_effect(1, 0, 0), ((0.6, 0.5, 0.0),)),
    "capacitor": (two_terminals, ((0.7, 0.1),)),
    "varactor": (two_terminals, ((0.5, 0.1, 0.0, 0.5),)),
}  # fmt: skip


@pytest.mark.parametrize("sign", [1, -1])
@pytest.mark.parametrize(
    ("name", "place"), [(name, k) for name, (_, places) in CASES.items() for k in range(len(places))]
)
def test_readouts(name, place, sign):
    """Each that has such a definition, of both types where there are two."""
    law, places = CASES[name]
    module = library_module(name)
    if sign < 0 and "type" not in module.index:
        pytest.skip("has one type")
    given = GIVEN[name] | ({"type": sign} if "type" in module.index else {})
    u = [float(sign * v) for v in places[place]]
    found = Device(module, **given).at(*u)
    expected = law(found, u, sign)
    shared = set(expected) & set(found.readout)
    assert len(shared) >= 2
    for key in shared:
        assert found.readout[key] == approx(expected[key], rel=1e-9, abs=1e-24), key


@pytest.mark.parametrize("sign", [1, -1])
def test_edges_of_saturation_of_mesfet_hemt_nanotube_jfet_mos1(sign):
    """As the device pages state: 3/alpha, 1.5/alpha; of the ballistic tube what the drain's barrier needs, 3 kT/q more."""
    read = lambda name, *u: Device(library_module(name), **GIVEN[name]).at(*u).readout  # noqa: E731
    assert read("mesfet", 2.0, -0.4, 0, 2.0, -0.4, 0)["vdsat"] == approx(3 / 2.4)
    assert read("hemt", 2.0, -0.4, 0, 2.0, -0.4, 0)["vdsat"] == approx(1.5 / 2.1)
    assert read("mesfet", 2.0, -0.4, 0, 2.0, -0.4, 0)["vth"] == approx(-1.2)
    assert read("hemt", 2.0, -0.4, 0, 2.0, -0.4, 0)["vth"] == approx(-0.3 - 1 / 1.8)
    tube = Device(library_module("nanotube"), type=sign).at(sign * 0.6, sign * 0.5, 0.0).readout
    diameter = 0.246e-9 * 19 / np.pi
    vth = 0.43e-9 / diameter
    barrier = 0.9 * (0.5 - 0.3 - vth) + (0.03 - 0.05) * (np.sqrt(0.36 + 4e-4) - 0.02) + 0.3
    assert tube["diameter"] == approx(diameter)
    assert tube["vth"] == approx(sign * vth)
    assert tube["vdsat"] == approx(sign * (barrier + 3 * ut(TN)))
    jfet = Device(library_module("jfet"), type=sign, vto=-1.8).at(sign * 2.0, sign * -0.5, 0, sign * 2.0, 0).readout
    assert (jfet["vth"], jfet["vdsat"]) == (approx(sign * -1.8), approx(sign * 1.3))
    mos1 = (
        Device(library_module("mos1"), type=sign, vto=sign * 0.5)
        .at(sign * 2.0, sign * 1.2, 0, 0, sign * 2.0, 0)
        .readout
    )
    assert (mos1["vth"], mos1["vdsat"]) == (approx(sign * 0.5), approx(sign * 0.7))


@pytest.mark.parametrize(
    ("name", "given", "inner", "ports"),
    [
        ("mos", dict(w=1e-5, l=1.3e-7, rdsw=2e-4), (1.2, 0.6, 0, 0, 1.2, 0), ((4, 0), (5, 2))),
        ("mos", dict(w=1e-5, l=1.3e-7), (1.2, 0.6, 0, 0, 1.2, 0), ((4, 0), (5, 2))),
        ("mesfet", dict(rd=40.0, rs=30.0, rg=2.0, area=2.0, cgs=3e-13, cgd=6e-14), (2.0, -0.4, 0, 2.0, -0.4, 0), ((3, 0), (4, 1), (5, 2))),
        ("hemt", dict(rd=40.0, rs=30.0, rg=2.0, area=2.0, cds=0.0), (2.0, -0.1, 0, 2.0, -0.1, 0), ((3, 0), (4, 1), (5, 2))),
        ("bipolar", dict(rb=60.0, rc=20.0, re=3.0, vaf=40.0, cje=3e-14, cjc=2e-14, xcjc=0.7, tf=8e-12), (1.5, 0.78, 0, 0, 1.5, 0.78, 0),
         ((4, 0), (5, 1), (6, 2))),
        ("bipolar", dict(br=5.0, cje=3e-14, cjc=2e-14, tf=8e-12, tr=2e-10), (0.05, 0.78, 0, 0, 0.05, 0.78, 0), ((4, 0), (5, 1), (6, 2))),
    ],
)  # fmt: skip
def test_transit_frequency_of_the_whole_matrix(name, given, inner, ports):
    """The current gain with a shorted output, from the complete matrices of conductances and capacitances at low frequencies:
    Im(i_in / i_out) = f / fT (common practice)."""
    device = Device(library_module(name), **given)
    found = device.at(*inner)
    hertz = 1e4
    y = found.conductance + 2j * np.pi * hertz * found.capacitance
    shorts = [(a, b) for a, b in ports if not y[b].any()]
    joined = np.eye(len(inner))
    for a, b in shorts:  # no resistance: the inner terminal is the outer one
        joined[a, a], joined[a, b] = 0.0, 1.0
    y = joined.T @ y @ joined
    free = [1, *[a for a, b in ports if (a, b) not in shorts]]
    drive = np.zeros(len(free), complex)
    drive[0] = 1.0
    v = np.linalg.solve(y[np.ix_(free, free)], drive)
    gain = y[0, free] @ v
    assert found.readout["ft"] == approx(hertz / (1 / gain).imag, rel=2e-3)


@pytest.mark.parametrize("v", [0.35, 0.5, 0.7])
def test_gate_charge_of_a_forward_mesfet(v):
    """Straight beyond half the built-in potential (Statz et al. 1987), and its capacitance without a jump."""
    device = Device(library_module("mesfet"), vto=-1.0, pb=0.8, cgs=3e-13, cgd=0.0, alpha=2.0, **{"is": 1e-30})
    ve = 0.5 * (v + v - 4 + np.hypot(4, 0.5))
    vn = 0.5 * (ve - 1 + np.hypot(ve + 1, 0.2))
    half = 2 * 0.8 * (1 - np.sqrt(0.5))
    expected = 2 * 0.8 * (1 - np.sqrt(1 - vn / 0.8)) if vn < 0.4 else half + (vn - 0.4) / np.sqrt(0.5)
    assert device.at(4.0, v, 0, 4.0, v, 0).charge[4] == approx(3e-13 * expected, rel=1e-9)


def test_conductances_of_a_mesfet_turned_round():
    """What was the drain is the source: gm is that of the channel, without a sign."""
    device = Device(library_module("mesfet"), vto=-1.0, **{"is": 1e-30})
    step = 1e-5
    forward, back = (device.at(v, g, 0, v, g, 0).readout for v, g in ((1.0, 0.0), (-1.0, -1.0)))
    assert back["gm"] == approx(forward["gm"], rel=1e-9)
    more, less = (device.at(-1.0, -1.0 + d, 0, -1.0, -1.0 + d, 0).readout["id"] for d in (step, -step))
    assert back["gm"] == approx((less - more) / (2 * step), rel=1e-6)


@pytest.mark.parametrize(
    ("name", "expected"),
    [
        ("jfet", {(-2.5, 1.0): 0, (-0.5, 2.0): 2, (-0.5, 0.4): 1, (-0.5, 1.29): 1, (-0.5, 1.31): 2}),
        ("mos1", {(0.4, 1.0): 0, (1.2, 2.0): 2, (1.2, 0.3): 1, (1.2, 0.69): 1, (1.2, 0.71): 2}),
    ],
)
def test_regions_of_square_law_devices(name, expected):
    """Off below the threshold, saturated from vds = vgs - vth on (Shichman and Hodges 1968)."""
    device = Device(library_module(name), **(GIVEN[name] | ({"gamma": 0.0} if name == "mos1" else {})))
    for (vgs, vds), region in expected.items():
        u = (vds, vgs, 0, 0, vds, 0) if name == "mos1" else (vds, vgs, 0, vds, 0)
        assert device.at(*u).readout["region"] == region, (vgs, vds)


@pytest.mark.parametrize("vds", [0.03, 0.12, 0.6, 1.2])
def test_regions_of_the_charge_based_transistor(vds):
    """By the inversion coefficient: off under 5e-4, weak inversion under 0.1 where saturated, else saturation; and triode below
    vdsat (the device's page, common practice, no source)."""
    device, seen = Device(library_module("mos"), **MOS), set()
    for vg in np.arange(0.0, 1.0, 1e-3):
        found = device.at(vds, vg, 0, 0, vds, 0).readout
        saturated = 3 if found["ic"] < 0.1 else 2
        expected = 0 if found["ic"] < 5e-4 else 1 if vds < found["vdsat"] else saturated
        assert found["region"] == expected
        seen.add(expected)
    assert seen == ({0, 1} if vds < 0.07 else {0, 1, 2, 3} if vds < 0.5 else {0, 2, 3})


@pytest.mark.parametrize("sign", [1, -1])
@pytest.mark.parametrize("vg", [0.1, 0.35, 0.6, 1.2])
def test_edge_of_saturation_of_a_long_mos(vg, sign):
    """kT/q (2 q + 4), of the normalised charge q at the source, where ic = q² + q and the velocity does not saturate: near
    what Enz, Krummenacher and Vittoz (1995) write as kT/q (2 sqrt(ic) + 4) (from memory), and exact by the device's page."""
    found = (
        Device(library_module("mos"), type=sign, **MOS | {"l": 20e-6, "vsat": 1e9})
        .at(sign * 2.0, sign * vg, 0, 0, sign * 2.0, 0)
        .readout
    )
    q = np.sqrt(found["ic"] + 0.25) - 0.5
    assert found["vdsat"] == approx(sign * ut(TN) * (2 * q + 4), rel=1e-6)
    assert abs(found["vdsat"]) == approx(ut(TN) * (2 * np.sqrt(found["ic"]) + 4), rel=0.2)
