"""What sizes do to readings, against closed forms of an oscillator of which everything is known."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from hearthline.core.bench.sizing import leverage, readings_at_point, sizes_of, with_size
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.circuit.cell import Part
from hearthline.core.errors import CircuitError
from hearthline.core.formats.bench_source import read_benches
from hearthline.core.formats.project_folder import read_project
from tests.approximation import approx
from tests.benches import bench_text

CUBIC = """`include "disciplines.vams"
module cubic(a, b);
  inout a, b;
  electrical a, b;
  parameter real g = 1.5e-4;
  parameter real c = 1e-6;
  analog I(a, b) <+ c * pow(V(a, b), 3) - g * V(a, b);
endmodule
"""
PARTS = {
    "L1": ("inductor", 'l = "1u"'),
    "C1": ("capacitor", 'c = "1n"'),
    "R1": ("resistor", 'r = "10k"'),
    "N1": ("cubic", ""),
}
BENCH = """format = 3
name = "swing"
cell = "tank"
[point]
corner = "typ"
temperature = "27"
[grid]
corners = ["typ"]
temperatures = ["27"]
[[analyses]]
name = "o"
line = "oscillation harmonics 9"
[[analyses]]
name = "n"
line = "phase_noise of o from 10k to 100k points 1"
[[readings]]
name = "frequency"
formula = "carrier_frequency()"
analysis = "o"
[[readings]]
name = "noise"
formula = "db10(at(noise.phase, 1e5))"
analysis = "n"
[[specifications]]
reading = "frequency"
low = "5M"
[[specifications]]
reading = "noise"
high = "-100"
"""
DECIBELS = 10 / np.log(10)


def drawn(parts) -> str:
    """A cell with each part between net a and ground."""
    text = "format = 1\n"
    for k, (name, (device, values)) in enumerate(parts.items()):
        text += f'[[parts]]\nname = "{name}"\ndevice = "{device}"\nat = [{10 * k}, 0]\nvalues = {{{values}}}\n'
        text += f'[[parts]]\nname = "G{k}"\ndevice = "ground"\nat = [{10 * k}, 2]\n'
        text += f'[[labels]]\nnet = "a"\nat = [{10 * k}, -2]\n'
    return text


@pytest.fixture(scope="module")
def folder(tmp_path_factory):
    """A project with a tank and a cubic conductance, i = c v³ - g v."""
    found = tmp_path_factory.mktemp("tank")
    for name in ("cells", "benches", "devices"):
        (found / name).mkdir()
    (found / "project.toml").write_text(
        'format = 1\nname = "Tank"\nkit = "lm130"\ncells = ["tank"]\nbenches = ["tank-swing"]\n'
    )
    (found / "devices" / "cubic.va").write_text(CUBIC)
    (found / "cells" / "tank.toml").write_text(drawn(PARTS))
    (found / "benches" / "tank-swing.toml").write_text(BENCH)
    return found


@pytest.fixture(scope="module")
def tank(folder):
    """Its bench."""
    project = read_project(folder)
    assert not project.problems
    return Snapshot(project.benches["tank-swing"], project.cells, project.kit)


def test_an_oscillator_follows_its_tank_as_its_formulas_say(tank):
    """f = 1 / (2π √(LC)); noise goes with 1 / (R C² A²) and A² with g - 1/R (weak nonlinearity; the test of the noise itself
    has the source): the logarithmic slopes are those of these powers."""
    found = leverage(tank)
    place = {one.name: k for k, one in enumerate(found.sizes)}
    assert set(place) == {"L1 l", "C1 c", "R1 r"}
    frequency, noise = (found.slopes[name][:, 0] for name in ("frequency", "noise"))
    now = float(found.values["frequency"][0])
    assert frequency[place["L1 l"]] == approx(-now / 2, rel=1e-4)
    assert frequency[place["C1 c"]] == approx(-now / 2, rel=1e-4)
    assert noise[place["C1 c"]] == approx(-2 * DECIBELS, rel=1e-4)
    assert noise[place["R1 r"]] == approx(-3 * DECIBELS, rel=1e-3)
    assert abs(noise[place["L1 l"]]) < 1e-3
    assert [found.sizes[k].name for k in found.ranked("noise")[:2]] == ["R1 r", "C1 c"]


def test_what_is_foretold_is_what_a_run_finds(tank):
    """For a change of a fiftieth, to its square; and a limit that would not hold is named."""
    found = leverage(tank)
    size = [one.name for one in found.sizes].index("C1 c")
    proved = readings_at_point(with_size(tank, found.sizes[size], 1.02))
    for name in ("frequency", "noise"):
        assert proved[name][0] == approx(found.foretold(name, size, 1.02), rel=1e-4)
        assert proved[name][0] != approx(found.values[name][0], rel=1e-4)
    assert found.broken(size, 1.1) == ["frequency"]
    assert found.broken(size, 1.001) == []


def test_parts_that_are_alike_stay_so(tank):
    """Two capacitors of the same value change together, one of another value by itself, and are typed so."""
    cell = tank.cells["tank"]
    others = {"C2": "1n", "C3": "2n"}
    more = [Part(name, "capacitor", (50 + k, 0), values={"c": c}) for k, (name, c) in enumerate(others.items())]
    grown = replace(tank, cells={"tank": replace(cell, parts=(*cell.parts, *more))})
    sizes = {one.name: one for one in sizes_of(grown)}
    assert set(sizes) == {"L1 l", "C1, C2 c", "C3 c", "R1 r"}
    changed = with_size(grown, sizes["C1, C2 c"], 1.5).cells["tank"]
    assert [changed.part(name).values["c"] for name in ("C1", "C2", "C3")] == ["1.5n", "1.5n", "2n"]


def test_a_deck_has_no_sizes_that_a_drawing_could_take(tmp_path):
    """It says where they are changed."""
    (tmp_path / "c.cir").write_text("t\nr1 a 0 1k\ni1 0 a 1m\n.end\n")
    more = '[[readings]]\nname = "v"\nformula = "V(a)"\nanalysis = "o"\n'
    text = bench_text({"o": "point"}, ports={}, more=more).replace("circuit.cir", "c.cir")
    (tmp_path / "b.toml").write_text(text)
    with pytest.raises(CircuitError, match="changed in its own file"):
        sizes_of(read_benches(tmp_path / "b.toml")[0].snapshot)
