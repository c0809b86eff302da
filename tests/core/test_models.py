"""Every device of the library keeps its promises over the whole bias plane: slopes are derivatives, what flows in flows out,
charge is conserved, values are continuous, and swapping what is symmetric changes nothing."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from hearthline.core.models.library import library_module, library_names
from tests.approximation import approx
from tests.examples import examples
from tests.modules import Device

GIVEN = {
    "bipolar": dict(rb=120, rbm=20, re=2, rc=15, vaf=60, var=8, ikf=8e-3, ikr=1e-3, ise=1e-16, isc=1e-15, cje=30e-15,
                    cjc=20e-15, xcjc=0.6, cjs=25e-15, mjs=0.4, tf=4e-12, xtf=3, vtf=2.5, itf=10e-3, tr=1e-10, kf=1e-15),
    "capacitor": dict(cj=1e-3, cjsw=1e-10, vc1=0.01, vc2=1e-3, leak=1e-3),
    "diode": dict(rs=5, bv=6, cjo=1e-12, tt=1e-9, kf=1e-14),
    "hemt": dict(p2=0.2, rd=2, rg=1, rs=1),
    "jfet": dict(rd=20, rs=20, cgs=1e-12, cgd=0.5e-12, kf=1e-15, **{"lambda": 0.02}),
    "memristor": dict(window=2),
    "mesfet": dict(rd=2, rs=2, rg=1, cgs=300e-15, cgd=30e-15, cds=50e-15, kf=1e-15, **{"lambda": 0.05}),
    "mos": dict(w=5e-6, l=0.13e-6, dvt=0.03, eta=0.05, cov=3e-10, cj=1e-3, cjsw=1e-10, rdsw=2e-4, kf=1e-24),
    "mos1": dict(w=1e-5, l=1e-6, vto=0.45, kp=2e-4, gamma=0.4, phi=0.7, tox=4e-9, cj=1e-3, cjsw=1e-10, ad=1e-12, pd=4e-6,
                 cgso=3e-10, cgdo=3e-10, cgbo=1e-10, kf=1e-26, **{"as": 1e-12, "ps": 4e-6, "lambda": 0.08}),
    "mos_rf": dict(w=5e-6, l=0.13e-6, eta=0.05, cov=3e-10, cj=1e-3, rbd=2e-3, rbc=8e-3, excess=2),
    "nanotube": {}, "resistor": dict(rsh=300, vc1=0.01, vc2=1e-3, cpar=1e-4, kf=1e-20), "switch": {},
    "varactor": dict(cedge=2e-10, rwell=300),
}  # fmt: skip
CHARGELESS = ("switch",)


def device(name: str, **changes) -> Device:
    """An instance with all effects on."""
    return Device(library_module(name), **{**GIVEN[name], **changes})


def test_every_module_of_the_library_is_tested_here():
    """None is forgotten."""
    assert set(GIVEN) == set(library_names())


@pytest.mark.parametrize("name", GIVEN)
def test_a_module_says_what_it_is(name):
    """Its source, the meaning and unit of every parameter and variable, and no doubt of the compiler."""
    found = library_module(name)
    assert found.source
    assert found.meaning
    assert not found.warnings
    assert all(p.meaning for p in found.parameters)
    assert all(r.meaning for r in found.readouts)
    assert {"i", "id", "ic", "q"} & {r.name for r in found.readouts}


def unknowns(name: str, data, low=-1.0, high=0.8) -> np.ndarray:
    """Random values for all terminals, away from the corners of piecewise laws."""
    width = len(library_module(name).terminals)
    drawn = data.draw(st.lists(st.floats(low, high), min_size=width, max_size=width))
    return np.round(drawn, 3) + 0.00037 * (1 + np.arange(width))


@pytest.mark.parametrize("kelvin", [233.15, 300.15, 423.15])
@pytest.mark.parametrize("name", GIVEN)
@examples(15)
@given(data=st.data())
def test_slopes_are_derivatives(name, kelvin, data):
    """Of flows and charges by every unknown, against central differences, hot and cold."""
    found, x = device(name, kelvin=kelvin), unknowns(name, data)
    center, step = found.at(*x), 1e-6
    for column in range(len(x)):
        up, down = x.copy(), x.copy()
        up[column] += step
        down[column] -= step
        a, b = found.at(*up), found.at(*down)
        for slope, high, low in ((center.conductance, a.current, b.current), (center.capacitance, a.charge, b.charge)):
            numeric = (high - low) / (2 * step)
            # rounding of the difference, and the third derivative that it leaves out
            noise = 1e-9 * (np.abs(high) + np.abs(low)) / step + 1e-5 * np.abs(slope).max() + 1e-25
            assert (np.abs(slope[:, column] - numeric) <= 2e-4 * np.abs(numeric) + noise).all()


@pytest.mark.parametrize("name", GIVEN)
@examples(15)
@given(data=st.data())
def test_what_flows_in_flows_out_and_charge_is_conserved(name, data):
    """The sum over all electrical nets is nothing, of currents and of charges, whatever the voltages."""
    found = device(name)
    at = found.at(*unknowns(name, data))
    nets = [t.kind in ("port", "net") and t.discipline == "electrical" for t in found.module.terminals]
    if name == "memristor":  # its state is a net to ground
        nets[found.module.ports] = False
    assert abs(at.current[nets].sum()) <= 1e-11 * np.abs(at.current).max() + 1e-25
    assert abs(at.charge[nets].sum()) <= 1e-11 * np.abs(at.charge).max() + 1e-30
    if name not in CHARGELESS:
        assert np.abs(at.charge).max() > 0 or np.abs(at.capacitance).max() > 0


@pytest.mark.parametrize("name", ["bipolar", "jfet", "mos", "mos1", "nanotube"])
@examples(15)
@given(data=st.data())
def test_the_other_type_is_the_mirror_image(name, data):
    """A p-channel (pnp) device at turned voltages carries turned currents and charges."""
    x = unknowns(name, data)
    turned = -x
    for k, terminal in enumerate(library_module(name).terminals):
        if terminal.discipline == "thermal":
            turned[k] = x[k]
    sign = {"vto": 0.45} if name == "mos1" else {}  # signed there, after the Berkeley cards
    n = device(name, type=1).at(*x)
    p = device(name, type=-1, **{key: -value for key, value in sign.items()}).at(*turned)
    electrical = [t.discipline == "electrical" for t in library_module(name).terminals]
    np.testing.assert_allclose(p.current[electrical], -n.current[electrical], rtol=1e-12, atol=1e-30)
    np.testing.assert_allclose(p.charge[electrical], -n.charge[electrical], rtol=1e-12, atol=1e-30)


@pytest.mark.parametrize("name", ["mos", "mos1", "jfet", "mesfet"])
@examples(25)
@given(data=st.data())
def test_drain_and_source_may_change_places(name, data):
    """Swapping the two ends swaps their currents and charges."""
    module = library_module(name)
    x = unknowns(name, data)
    order = list(range(len(x)))
    names = [t.name for t in module.terminals]
    for a, b in (("d", "s"), ("di", "si")):
        order[names.index(a)], order[names.index(b)] = names.index(b), names.index(a)
    same = {"cgd": 1e-12} if name == "jfet" else {}
    here, there = device(name, **same).at(*x), device(name, **same).at(*x[order])
    size = np.abs(here.current).max()
    np.testing.assert_allclose(there.current[order], here.current, rtol=1e-9, atol=1e-11 * size)
    size = np.abs(here.charge).max()
    np.testing.assert_allclose(there.charge[order], here.charge, rtol=1e-9, atol=1e-11 * size)


@pytest.mark.parametrize("name", ["mos", "nanotube", "hemt", "bipolar"])
def test_no_step_along_a_fine_sweep(name):
    """Between neighbours of a fine sweep of each terminal, currents and charges change no more than slopes allow."""
    found = device(name)
    width = len(found.module.terminals)
    for terminal in range(width):
        line = np.linspace(-0.9, 0.9, 1801)
        rows = []
        for v in line:
            x = np.full(width, 0.1)
            x[terminal] = v
            rows.append(found.at(*x))
        for what, slope in (("current", "conductance"), ("charge", "capacitance")):
            value = np.array([getattr(r, what) for r in rows])
            steep = np.array([getattr(r, slope)[:, terminal] for r in rows])
            step = line[1] - line[0]
            allowed = np.maximum(np.abs(steep[1:]), np.abs(steep[:-1])) * step * 1.1
            assert (np.abs(np.diff(value, axis=0)) <= allowed + 1e-6 * np.abs(value).max() + 1e-30).all()


@pytest.mark.parametrize("name", GIVEN)
def test_devices_in_parallel(name):
    """Three in parallel carry three times the current, charge and noise of one; unknowns of their own aside."""
    x = 0.05 * (1 + np.arange(len(library_module(name).terminals)))
    one, three = device(name).at(*x), device(name, parallel=3.0).at(*x)
    module = library_module(name)
    for k, t in enumerate(module.terminals):
        if t.kind in ("port", "net") and not (name == "memristor" and t.name == "w"):
            assert three.current[k] == approx(3 * one.current[k], rel=1e-9, abs=1e-25)
            assert three.charge[k] == approx(3 * one.charge[k], rel=1e-9, abs=1e-30)
    for source in one.noise:
        assert three.noise[source][0] == approx(3 * one.noise[source][0], rel=1e-9)


@pytest.mark.parametrize("name", GIVEN)
def test_nothing_flows_without_voltage(name):
    """In balance no device delivers power."""
    found = device(name)
    x = np.zeros(len(found.module.terminals))
    nets = [t.kind in ("port", "net") for t in found.module.terminals]
    assert np.abs(found.at(*x).current[nets]).max() <= 1e-14
