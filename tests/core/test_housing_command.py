"""`hearthline housing`: its files, and what is wrong with line and cause."""

from __future__ import annotations

import csv

import pytest
from scipy.constants import c as light

from hearthline.cli import main
from hearthline.core.formats.touchstone.reader import read_touchstone
from tests.approximation import approx

HOUSING = """format = 1
size = "22.86m, 10.16m, 40m"
wall_conductivity = "5.8e7"
modes = "3"
mesh = "3m"

[[objects]]
box = "0, 0, 0, 22.86m, 10.16m, 6m"
er = "2.2"
tan_delta = "0.001"

[[ports]]
number = "1"
line = "9m, 0, 20m, 9m, 10.16m, 20m"

[sweep]
from = "5G"
to = "9G"
points = "11"
"""


def run(folder, text: str) -> int:
    (folder / "h.toml").write_text(text)
    return main(["housing", str(folder / "h.toml"), "--out", str(folder / "out")])


def test_its_files(tmp_path):
    """Modes by rising frequency with what loses their energy, and the n-port."""
    assert run(tmp_path, HOUSING) == 0
    with (tmp_path / "out" / "modes.csv").open() as file:
        rows = list(csv.DictReader(file))
    assert list(rows[0]) == ["mode", "frequency", "q", "q_wall", "q_fill"]
    assert [one["mode"] for one in rows] == ["1", "2", "3"]
    frequencies = [float(one["frequency"]) for one in rows]
    assert frequencies == sorted(frequencies)
    for one in rows:
        q, wall, fill = (float(one[key]) for key in ("q", "q_wall", "q_fill"))
        assert 1 / q == approx(1 / wall + 1 / fill, rel=1e-9)
    network = read_touchstone(tmp_path / "out" / "ports.s1p", "ports.s1p")
    assert network.ports == 1
    assert len(network.frequencies) == 11
    other = tmp_path / "other"
    other.mkdir()
    assert run(other, HOUSING.partition("[[ports]]")[0].replace('wall_conductivity = "5.8e7"\n', "")) == 0
    assert not (other / "out" / "ports.s1p").exists()
    with (other / "out" / "modes.csv").open() as file:
        assert {one["q_wall"] for one in csv.DictReader(file)} == {"inf"}


@pytest.mark.parametrize(
    ("old", "new", "said"),
    [
        ('er = "2.2"', 'er = "0.5"', "9: er is 1 or more, and not 0.5; for metal say metal = true"),
        ("10.16m, 6m", "10.16m, 60m", "8: the box lies outside of the housing"),
        ("0, 0, 0, 22.86m", "0, 0, 7m, 22.86m", "8: box is its lowest corner"),
        ('"3"', '"2.5"', "4: modes is a whole number of 1 or more"),
        ('mesh = "3m"', 'mesh = "50u"', "5: the mesh would have"),
        ("9m, 10.16m, 20m", "9m, 5m, 20m", "14: a port goes from metal to metal"),
        ("9m, 10.16m, 20m", "8m, 10.16m, 20m", "14: a port's line goes along one axis"),
        ('number = "1"', 'number = "2"', "13: ports count from 1 on"),
        ('to = "9G"', 'to = "90G"', "18: cells of up to"),
        ('to = "9G"', 'to = "1G"', "18: a sweep goes from a lower frequency"),
        ('size = "22.86m, 10.16m, 40m"', 'size = "22.86m, 40m"', "2: size is 3 numbers"),
        ("5.8e7", "-1", "3: wall_conductivity is above 0"),
        ("[sweep]", "[swept]", "13: with ports there is a [sweep]"),
        ('er = "2.2"', 'eps = "2.2"', "eps"),
    ],
)
def test_what_is_wrong(tmp_path, capsys, old, new, said):
    """Exit status 2, with file and line."""
    assert run(tmp_path, HOUSING.replace(old, new)) == 2
    error = capsys.readouterr().err
    assert said in error
    assert "h.toml:" in error


def test_a_mesh_is_refined_until_it_is_good_enough(tmp_path, capsys):
    """The error that is said is about the true one: a bare box has its frequencies in closed form."""
    text = HOUSING.partition("[[objects]]")[0].replace('"3m"', '"6m"') + 'accuracy = "0.3%"\n'
    assert run(tmp_path, text) == 0
    told = capsys.readouterr().err
    assert told.count(" cells") >= 3
    left = float(told.partition("; about ")[2].partition(" %")[0])
    found = float(next(csv.DictReader((tmp_path / "out" / "modes.csv").open()))["frequency"])
    exact = 0.5 * light * ((1 / 22.86e-3) ** 2 + (1 / 40e-3) ** 2) ** 0.5
    assert 0 < left <= 0.3
    assert abs(found / exact - 1) <= 3e-3


def test_a_mesh_that_would_be_too_large_is_left_as_it_was(tmp_path, capsys, monkeypatch):
    """And it is said that it was not enough."""
    monkeypatch.setattr("hearthline.core.fields.mesh.MOST_CELLS", 3000)
    text = HOUSING.partition("[[objects]]")[0].replace('"3m"', '"4m"') + 'accuracy = "0.001%"\n'
    assert run(tmp_path, text) == 0
    assert "no finer mesh is allowed" in capsys.readouterr().err
