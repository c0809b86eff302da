"""What a parameter is that a card does not give: the Berkeley decks' defaults (ERL-M520 and ERL-M80/7, values from memory), and
those that the pages of our own models state."""

from __future__ import annotations

import re

import pytest

from hearthline.core.models.library import library_module
from tests.approximation import approx
from tests.modules import Device

BERKELEY = {
    "diode": {"area": 1, "is": 1e-14, "n": 1, "bv": 1e30, "ibv": 1e-3, "vj": 1, "m": 0.5, "fc": 0.5, "eg": 1.11, "xti": 3, "af": 1, "tnom": 27},
    "bipolar": {
        "area": 1, "is": 1e-16, "bf": 100, "nf": 1, "vaf": 1e30, "ikf": 1e30, "ne": 1.5, "br": 1, "nr": 1, "var": 1e30, "ikr": 1e30, "nc": 2,
        "vje": 0.75, "mje": 0.33, "vjc": 0.75, "mjc": 0.33, "xcjc": 1, "vjs": 0.75, "fc": 0.5, "vtf": 1e30, "eg": 1.11, "xti": 3, "af": 1, "tnom": 27, "type": 1,
    },
    "jfet": {"area": 1, "beta": 1e-4, "pb": 1, "is": 1e-14, "fc": 0.5, "af": 1, "tnom": 27, "type": 1, "vto": -2},
    "mos1": {"w": 1e-4, "l": 1e-4, "nf": 1, "nrd": 1, "nrs": 1, "type": 1, "nsub": 1e15, "tpg": 1, "bex": -1.5,
             "kp": 2e-5, "phi": 0.6, "is": 1e-14, "pb": 0.8, "mj": 0.5, "mjsw": 0.33, "fc": 0.5, "tox": 1e-7, "uo": 600, "af": 1, "tnom": 27},
}  # fmt: skip
OURS = {
    "mesfet": {"area": 1, "beta": 2.5e-3, "b": 0.3, "alpha": 2, "pb": 1, "is": 1e-14, "n": 1, "af": 1, "tnom": 27, "vto": -2},
    "hemt": {"area": 1, "ipk": 30e-3, "p1": 2, "p3": 0.3, "alpha": 2.5, "lambda": 0.03, "gamma": 0.01, "cgs": 50e-15, "pgs": 2, "cgd": 15e-15,
             "pgd": 0.8, "cds": 10e-15, "is": 1e-14, "n": 1.2, "pnoise": 1, "tnom": 27, "vpk": -0.2, "vgs0": -0.3, "vgd0": -0.3, "tci": -1.5e-3},
    "nanotube": {"l": 3e-8, "a": 0.246e-9, "vd": 0.43e-9, "alphag": 0.9, "alphad": 0.03, "path": 2e-7, "cg": 1.5e-10, "chin": 19, "tubes": 1, "type": 1},
    "varactor": {"w": 1e-5, "l": 1e-6, "cmax": 1e-2, "cmin": 2e-3, "edge": 1e-6, "pb": 0.7, "mj": 0.35, "vslope": 0.3, "tnom": 27},
    "resistor": {"r": 1e3, "w": 1e-6, "l": 1e-5, "tnom": 27}, "capacitor": {"c": 1e-12, "w": 1e-5, "l": 1e-5, "tnom": 27},
    "memristor": {"ron": 1e3, "roff": 1e5, "voff": 0.4, "koff": 1e6, "aoff": 3, "aon": 3, "start": 0.5, "von": -0.4, "kon": -1e6},
    "switch": {"ron": 1, "roff": 1e12, "vw": 0.1, "tau": 1e-11},
    "mos": {"w": 1e-6, "l": 1e-6, "nf": 1, "lov": 3e-7, "vto": 0.35, "gamma": 0.3, "phi": 0.85, "kp": 3e-4, "tox": 2.5e-9, "theta": 0.2,
            "vsat": 1e5, "lvt": 6e-8, "leta": 6e-8, "lc": 1e-8, "vc": 0.3, "pb": 0.8, "mj": 0.4, "js": 1e-6, "af": 1, "tcv": 6e-4, "tnom": 27, "type": 1, "bex": -1.4, "vex": -0.5},
}  # fmt: skip
OURS["mos_rf"] = OURS["mos"] | {"rshg": 8, "ends": 1, "rcg": 10, "nqs": 0.2, "excess": 1}


@pytest.mark.parametrize(("name", "defaults"), [*BERKELEY.items(), *OURS.items()])
def test_defaults(name, defaults):
    """To the digit; and no parameter is forgotten here but those that are 0 or come from others."""
    found = {p.name: str(p.default) for p in library_module(name).parameters}
    for parameter, expected in defaults.items():
        assert float(found[parameter]) == approx(expected), parameter
    assert {name for name, text in found.items() if re.fullmatch(r"[-+.\de]+", text) and float(text)} <= set(defaults)


@pytest.mark.parametrize(
    ("nf", "inner", "outer"), [(1, (0, 0), (1, 1)), (2, (1, 0), (0, 2)), (3, (1, 1), (1, 1)), (4, (2, 1), (0, 2))]
)
def test_diffusions_of_a_card_that_gives_none(nf, inner, outer):
    """Those between two fingers are shared, and only the outermost have an edge along the gate: counted by hand."""
    w, lov = 12e-6, 0.4e-6
    sizes = dict(w=w, l=2e-7, nf=float(nf), lov=lov, cj=1e-3, cjsw=2e-10)
    areas = {n: (i + o) * w / nf * lov for n, i, o in zip(("ad", "as"), inner, outer, strict=True)}
    edges = {n: (i + o) * 2 * lov + o * w / nf for n, i, o in zip(("pd", "ps"), inner, outer, strict=True)}
    found, expected = (
        Device(library_module("mos"), **sizes, **more).at(1.1, 0.6, 0.2, 0, 1.1, 0.2) for more in ({}, areas | edges)
    )
    assert list(found.charge) == approx(list(expected.charge), rel=1e-12)
