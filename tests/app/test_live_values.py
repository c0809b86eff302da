"""What stands beside devices: gauges, currents that add up, columns by kind, tables that mark trouble."""

from __future__ import annotations

import numpy as np
import pytest

from hearthline.app.canvas.gauge import gauge_of, inversion_of, inversion_share, junction_share
from hearthline.app.panels.device_table import tables_of, trouble
from hearthline.app.state.values import PointValues, Quantity, terminal_currents
from hearthline.core.bench.bench import SHOWN
from hearthline.core.data.dataset import Dataset
from hearthline.core.formats.bench_file import bench_data, bench_of
from hearthline.core.formats.toml_table import Table
from tests.approximation import approx


def quantities(**values: float) -> dict[str, Quantity]:
    """Values of one device."""
    return {name: Quantity(name, value, "") for name, value in values.items()}


def point(**curves: float) -> PointValues:
    """An operating point of some labels; `__` stands for the dot."""
    found = {name.replace("__", "."): np.array([[value]]) for name, value in curves.items()}
    conditions = {"corner": np.array(["typ"]), "temperature": np.array([27.0])}
    return PointValues(Dataset("op", "point", "", np.zeros(1), found, {}, conditions, np.zeros((1, 1))))


def test_gauges_fill_with_drive_and_are_coloured_by_margin():
    """Weak, moderate, strong; moss, amber, ember, and quiet when off."""
    shares = [inversion_share(v) for v in (-0.2, -0.05, 0.1, 0.3, 2.0)]
    assert shares == sorted(shares)
    assert [inversion_of(ic) for ic in (0, 0.1, 10, 1e6)] == approx([0, 1 / 3, 2 / 3, 1])
    assert [junction_share(v) for v in (-1, 0.45, 0.75, 5)] == approx([0, 1 / 3, 2 / 3, 1])
    mos = dict(vth=0.4, vdsat=0.2, vgs=0.6, vds=0.5, region=2, gm=1e-3, gds=1e-5, id=1e-4)
    for sat, role in ((0.3, "moss"), (0.03, "amber"), (-0.1, "ember")):
        assert gauge_of(quantities(**mos, sat=sat)).role == role
    assert gauge_of(quantities(**{**mos, "region": 0}, sat=0.3)).role == "quiet"
    assert gauge_of(quantities(vbe=0.7, vce=0.1, region=2)).role == "ember"
    assert gauge_of(quantities(vd=-3.0, gd=1e-12)).role == "amber"
    assert gauge_of(quantities(i=1e-3, v=1.0)) is None


@pytest.mark.parametrize(
    ("values", "terminals", "expected"),
    [
        (dict(id=1e-4), "dgsb", {"d": 1e-4, "s": -1e-4}),
        (dict(ic=1e-3, ib=1e-5, vbe=0.7), "cbe", {"c": 1e-3, "b": 1e-5, "e": -1.01e-3}),
        (dict(i=2e-3, v=1.0), "pn", {"p": 2e-3, "n": -2e-3}),
        (dict(id=1e-3, vd=0.7), "pn", {"p": 1e-3, "n": -1e-3}),
        (dict(v=1.0), "pn", {}),
    ],
)
def test_currents_into_the_terminals_add_up_to_nothing(values, terminals, expected):
    """Kirchhoff's law; what an operating point does not tell is left out."""
    found = terminal_currents(quantities(**values), terminals)
    assert found == approx(expected)
    assert sum(found.values()) == approx(0, abs=1e-18)


def test_devices_are_sorted_into_tables_by_what_they_have():
    """Transistors, bipolars, diodes and the rest, inside blocks too."""
    values = point(
        x1__m1__vds=0.5, x1__m1__vgs=0.6, x1__m1__vdsat=0.2, x1__m1__gm=1e-3, x1__m1__gds=1e-5, x1__m1__id=1e-4,
        x1__m1__vth=0.4, x1__m1__region=2, q1__vbe=0.7, q1__vce=2.0, d1__vd=-1.0, d1__gd=1e-12, r1__i=1e-3, r1__v=1.0,
    )  # fmt: skip
    tables = tables_of(values)
    assert {kind: [name for name, _ in table.rows] for kind, table in tables.items()} == {
        "transistors": ["x1.m1"], "bipolars": ["q1"], "diodes": ["d1"], "other parts": ["r1"],
    }  # fmt: skip
    assert tables["transistors"].columns[:4] == ("id", "region", "sat", "gm")
    assert values.part("x1.m1")["sat"].value == approx(0.3)


@pytest.mark.parametrize(
    ("name", "values", "role"),
    [
        ("sat", dict(sat=-0.01, region=1), "ember_ink"),
        ("region", dict(sat=-0.01, region=1), "ember_ink"),
        ("sat", dict(sat=0.02, region=2), "amber_ink"),
        ("sat", dict(sat=0.2, region=2), ""),
        ("sat", dict(sat=-0.2, region=0), ""),
        ("vd", dict(vd=-0.2), "amber_ink"),
        ("region", dict(region=3, vbe=0.1), "ember_ink"),
        ("gm", dict(gm=1.0), ""),
    ],
)
def test_what_is_in_trouble_is_marked(name, values, role):
    """Out of saturation, under 50 mV of margin, in reverse; a transistor that is off is not."""
    assert trouble(name, quantities(**values)) == role


def test_columns_are_chosen_for_each_kind_of_device(person):
    """Kept in the bench file; a plain list of an older file is that of MOS transistors."""
    bench = person.desk.bench
    assert bench.columns("M") == ("id", "gm", "vth", "sat")
    assert bench.columns("Q") == SHOWN["Q"]
    data = bench_data(bench)
    data["shown"] = ["vgs", "vds"]
    assert bench_of(Table(data, "x", "")).columns("M") == ("vgs", "vds")
    data["shown"] = {"Q": ["ic"], "M": []}
    again = bench_of(Table(data, "x", ""))
    assert (again.columns("Q"), again.columns("M")) == (("ic",), ())
    assert bench_of(Table(bench_data(again), "x", "")) == again
