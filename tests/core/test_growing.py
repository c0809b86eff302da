"""What is one file stays one file: something new is added by a registry alone, and runs everywhere."""

from __future__ import annotations

import csv
from dataclasses import replace

import pytest

from hearthline.app.start import DEMO
from hearthline.cli import main
from hearthline.core.analyses import ANALYSES
from hearthline.core.analyses.line import parse_analysis
from hearthline.core.bench.ready import ready_for
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.circuit.flatten import Library
from hearthline.core.circuit.outlines import outline_of
from hearthline.core.elements import ELEMENTS
from hearthline.core.errors import ExpressionError
from hearthline.core.formats.deck.drawing import cells_of_deck
from hearthline.core.formats.deck.reader import read
from hearthline.core.formats.deck.writer import write_deck
from hearthline.core.formats.project_folder import read_project
from hearthline.core.registry import registry
from tests.approximation import approx
from tests.toys import SQUARE, Span

BENCH = """format = 3
name = "toy"
deck = "d.cir"
[point]
corner = "typ"
temperature = "27"
[grid]
corners = ["typ"]
temperatures = ["27"]
[[analyses]]
name = "apart"
line = "span of a,b times 3 within v1 at 3,6"
[[readings]]
name = "distance"
formula = "I(span)"
[[specifications]]
reading = "distance"
low = "2.9"
"""


@pytest.fixture
def span(monkeypatch):
    """The registry with the toy in it."""
    monkeypatch.setitem(ANALYSES, "span", Span())


@pytest.mark.usefixtures("span")
def test_a_new_analysis_runs_from_a_bench(tmp_path, monkeypatch):
    """Its line is read, its settings stand in messages, `within` works, readings and limits as of any other."""
    monkeypatch.chdir(tmp_path)
    (tmp_path / "d.cir").write_text("t\nv1 a 0 3\nr1 a b 1k\nr2 b 0 2k\n")
    (tmp_path / "b.toml").write_text(BENCH)
    assert main(["run", "b.toml", "--out", "out"]) == 0
    with open(tmp_path / "out" / "apart.csv", newline="") as file:
        rows = list(csv.DictReader(file))
    assert [float(row["I(span)"]) for row in rows] == approx([3.0, 6.0], rel=1e-9)
    assert [float(row["v1"]) for row in rows] == [3.0, 6.0]
    with pytest.raises(ExpressionError, match="span takes of, times, within, at"):
        parse_analysis("a", "span from 1")


@pytest.mark.usefixtures("span")
def test_its_readings_are_offered():
    """As those of every kind."""
    project = read_project(DEMO)
    bench = replace(project.benches["inv_x1-transfer"], analyses=(parse_analysis("apart", "span"),), readings=())
    with_toy = Snapshot(replace(bench, specifications=()), project.cells, project.kit)
    assert [one.formula for one in ready_for(with_toy)] == ["I(span)"]


@pytest.fixture
def square(monkeypatch):
    """The registry with the toy element in it."""
    monkeypatch.setitem(ELEMENTS, "N", SQUARE)


@pytest.mark.usefixtures("square")
def test_a_new_element_in_decks_and_benches(tmp_path, monkeypatch, capsys):
    """Its line is read, its equations are solved, its parameters are checked: v + v² = 3 at a resistor of 1 kΩ and 1 mA/V²."""
    monkeypatch.chdir(tmp_path)
    exact = (13**0.5 - 1) / 2
    (tmp_path / "d.cir").write_text("t\nv1 a 0 3\nr1 a b 1k\nn1 b 0 1m\n.op\n")
    assert main(["solve", "d.cir", "--out", "out"]) == 0
    with open(tmp_path / "out" / "01-op.csv", newline="") as file:
        (values,) = csv.DictReader(file)
    assert float(values["V(b)"]) == approx(exact, rel=1e-9)
    assert float(values["n1.i"]) == approx(1e-3 * exact**2, rel=1e-9)
    (tmp_path / "b.toml").write_text(
        BENCH.replace("span of a,b times 3 within v1 at 3,6", "point")
        .replace("I(span)", "n1.i")
        .replace('low = "2.9"', 'low = "1m"')
    )
    assert main(["run", "b.toml", "--out", "out2"]) == 0
    (tmp_path / "d.cir").write_text("t\nv1 a 0 3\nr1 a b 1k\nn1 b 0 -1m\n.op\n")
    capsys.readouterr()
    assert main(["solve", "d.cir", "--out", "out3"]) != 0
    assert "d.cir:4: n1: k must be above 0, and is -0.001" in capsys.readouterr().err


@pytest.mark.usefixtures("square")
def test_a_new_element_on_drawings(tmp_path):
    """It comes from a deck, is written as one, and has its outline."""
    (tmp_path / "x.cir").write_text("t\n.subckt half in out\nr1 in out 1k\nn1 out 0 {2*1m}\n.ends\n")
    (cell,) = cells_of_deck(read(tmp_path / "x.cir", "x.cir"), Library({}, {}), "top", "x.cir")
    part = next(one for one in cell.parts if one.device == "square conductor")
    assert part.values == {"k": "2*1m"}
    (tmp_path / "y.cir").write_text(write_deck(cell, Library({"half": cell}, {})).text)
    again = read(tmp_path / "y.cir", "y.cir")
    assert again.top.blocks["half"].parts["n1"].values["k"].value({}) == approx(2e-3)
    assert outline_of(part, Library({}, {})) is SQUARE.outlines["square conductor"]


def test_two_of_one_name_are_a_mistake_of_ours():
    """Seen when the registry is imported."""
    with pytest.raises(ValueError, match="two entries 'span' among the kinds of analysis"):
        registry("analysis", [Span(), Span()])
