"""The view of a housing: what is in its file, what resonates, and what a person changes with mouse and keys."""

from __future__ import annotations

import subprocess
import sys
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton

from hearthline.app.housing.box_drawing import ELEVATION, PLAN
from hearthline.app.panels.label import Label
from hearthline.core.formats.housing_file import HousingFile
from tests.app.presses import pressed
from tests.approximation import approx

BOX = """# A small one, for a test.
format = 1
size = "60m, 40m, 12m"
wall_conductivity = "35M"
modes = "3"
mesh = "10m"

[[objects]]                       # kept
box = "10m, 10m, 0, 30m, 30m, 6m"
er = "4"
"""


@pytest.fixture
def view(person):
    """On a project whose only housing is small."""
    devices = person.desk.project.folder / "devices"
    for path in devices.glob("*.housing.toml"):
        path.unlink()
    (devices / "small.housing.toml").write_text(BOX)
    person.desk.show_bench("inv_x1-transfer")
    person.window.show_side("both")
    person.window.side.show_view("housing")
    found = person.window.side.view("housing")
    person.wait(lambda: found.housings.resonances.found is not None)
    return found


def test_resonances_and_their_fields(person, view):
    """As the file says; a click on the chart shows another one, and a dashed line moves the plane."""
    modes = view.housings.resonances.found.modes
    assert len(modes.frequencies) == 3
    assert set(view.drawing.slices) == {PLAN, ELEVATION}
    before = view.drawing.slices[PLAN].size
    x = view.chart._x(float(modes.frequencies[2]))
    person.click(view.chart, QPointF(x, view.chart.height() / 2))
    assert view.mode == 2
    assert np.abs(view.drawing.slices[PLAN].size - before).max() > 0.1
    drag(view.drawing, view.drawing.handles(PLAN)[0], QPointF(0, -12))
    assert view.planes[PLAN] > 6.5e-3


def drag(widget, begin: QPointF, by: QPointF) -> None:
    """Presses, moves and lets go."""
    QTest.mousePress(widget, Qt.MouseButton.LeftButton, pos=begin.toPoint())
    for share in (0.3, 0.7, 1.0):
        QTest.mouseMove(widget, (begin + share * by).toPoint())
    QTest.mouseRelease(widget, Qt.MouseButton.LeftButton, pos=(begin + by).toPoint())


def test_a_block_is_dragged_typed_and_saved(person, view):
    """With its faces going to walls; fields are those before until it is asked again; the file keeps its comments."""
    drawing, housings = view.drawing, view.housings
    (block,) = housings.housing.things
    middle = drawing.box_of(PLAN, block).center()
    drag(drawing, middle, QPointF(drawing.frame(PLAN).right() - drawing.box_of(PLAN, block).right() - 2, 0))
    assert housings.housing.things[0].high[0] == approx(60e-3)
    assert view.thing == 0
    assert drawing.slices == {}
    assert "Changed since" in view.said.text()
    line, _ = view.line.lines["er"]
    person.type_into(line, "0.5")
    assert "er is 1 or more" in line.toolTip()
    person.type_into(line, "6")
    QTest.keyClick(line, Qt.Key.Key_Return)
    assert housings.housing.things[0].er == 6.0
    pressed(person, view, "save")
    path = person.desk.project.folder / "devices" / "small.housing.toml"
    assert HousingFile(path, "small").housing == housings.housing
    assert "# kept" in path.read_text()
    pressed(person, view, "take back")
    assert housings.housing.things[0].er == 4.0
    assert housings.unsaved
    pressed(person, view, "find resonances")
    person.wait(lambda: not housings.resonances.busy)
    assert housings.resonances.found.housing == housings.housing


def test_a_key_is_left_out_by_typing_nothing(person, view):
    """Walls without loss; what must be there is told."""
    line, _ = view.line.lines["wall_conductivity"]
    person.type_into(line, "")
    QTest.keyClick(line, Qt.Key.Key_Backspace)
    QTest.keyClick(line, Qt.Key.Key_Return)
    assert view.housings.housing.wall_conductivity is None
    line, _ = view.line.lines["size"]
    person.click(line)
    line.selectAll()
    QTest.keyClick(line, Qt.Key.Key_Backspace)
    assert "size" in line.toolTip()


def test_an_absorber_is_tried_and_taken(person, view):
    """Its quality beside that of the housing as it is."""
    pressed(person, view.trying, "absorber")
    person.type_into(view.trying.values, "1m, 3m")
    pressed(person, view, "try these")
    trials = view.housings.trials
    person.wait(lambda: trials.found is not None and not trials.busy)
    rows = [view.drawing, view.line, view.trying]
    person.wait(lambda: all(a.geometry().bottom() <= b.geometry().top() for a, b in pairwise(rows)))
    bare, thin, thick = (one.modes.quality[0] for one in trials.found.found)
    assert bare > 1000 > thin > thick
    assert trials.found.numbers == (0.0, 1e-3, 3e-3)
    assert view.trying.chart.isVisible()
    pressed(person, view.trying, "take it")
    assert len(view.housings.housing.things) == 2
    person.type_into(view.trying.values, "99m")
    QTest.keyClick(view.trying.values, Qt.Key.Key_Return)
    person.wait(lambda: trials.error is not None)
    assert "thinner than the box" in view.trying.said.text()


def test_a_damaged_housing_says_where(person, view):
    """And the view goes on with another one."""
    path = person.desk.project.folder / "devices" / "bad.housing.toml"
    path.write_text(BOX.replace('er = "4"', 'er = "0.4"'))
    view.follow()
    pressed(person, view, "bad")
    assert "devices/bad.housing.toml:10: er is 1 or more" in view.said.text()
    pressed(person, view, "small")
    person.wait(lambda: view.housings.resonances.found is not None)


def test_surroundings_are_chosen_at_the_top(person):
    """The operating point of the drawing in what is chosen, and the conditions of a run as they are typed."""
    desk = person.desk
    desk.show_bench("driver_868_housed-stability")
    chips = [one.text() for one in person.window.topline.findChildren(QPushButton)]
    assert "bare" in chips
    person.window.show_side("both")
    person.window.side.show_view("bench")
    rows = person.window.side.view("bench").conditions.rows
    person.type_into(rows["surroundings"].line, "bare, with posts")
    QTest.keyClick(rows["surroundings"].line, Qt.Key.Key_Return)
    assert desk.bench.grid.surroundings == ("bare", "with posts")
    person.type_into(rows["surroundings"].line, "bare, nowhere")
    assert "there are no surroundings 'nowhere'" in rows["surroundings"].echo.text()


def test_loops_say_what_carries_them(person):
    """Of the driver in its box."""
    desk, window = person.desk, person.window
    desk.show_bench("driver_868_housed-stability")
    window.show_side("both")
    window.side.show_view("loops")
    desk.change_bench(replace(desk.bench, grid=replace(desk.bench.grid, surroundings=("in the box",))), "box alone")
    person.wait(lambda: desk.point is not None and not desk.live.busy)
    desk.warmth.ask(desk.snapshot)
    person.wait(lambda: desk.warmth.found is not None)
    words = [one.text() for one in window.side.view("loops").findChildren(Label)]
    assert any("carried by box from out to in" in one for one in words)


def test_surroundings_are_added_typed_renamed_and_removed(person):
    """In the bench's own list, with the axis of its conditions; what is no part or file is told in place."""
    desk, window = person.desk, person.window
    desk.show_bench("driver_868_housed-stability")
    window.show_side("both")
    window.side.show_view("bench")
    section = window.side.view("bench").surroundings
    assert list(section.rows) == ["bare", "in the box", "with absorber", "with posts"]
    pressed(person, section, "gateway_absorber")
    assert desk.bench.surroundings[-1].files == {"box": "gateway_absorber.housing.toml"}
    assert desk.bench.grid.surroundings[-1] == "gateway_absorber"
    row = section.rows["gateway_absorber"]
    person.type_into(row.line, "box = nowhere.s4p")
    assert "there is no file 'nowhere.s4p'" in row.echo.text()
    person.type_into(row.line, "bax = open")
    assert "there is no n-port 'bax' in the circuit; there is box" in row.echo.text()
    person.type_into(row.line, "box = open")
    QTest.keyClick(row.line, Qt.Key.Key_Return)
    assert desk.bench.surroundings[-1].files == {"box": "open"}
    person.type_into(section.rows["with posts"].name, "posts")
    QTest.keyClick(section.rows["with posts"].name, Qt.Key.Key_Return)
    assert "posts" in desk.bench.grid.surroundings
    section.rows["in the box"].removed.emit()
    assert desk.bench.grid.surroundings == ("bare", "with absorber", "posts", "gateway_absorber")
    assert [one.name for one in desk.bench.surroundings] == ["bare", "with absorber", "posts", "gateway_absorber"]
    desk.documents.undo.undo()
    assert "in the box" in desk.bench.grid.surroundings


def test_a_window_starts_without_what_solves_fields():
    """Nothing of it is imported until somebody wants it, but for the cosines that heat has too."""
    text = (
        "import sys, hearthline.app.window; print([m for m in sys.modules if m.startswith('hearthline.core.fields.')])"
    )
    found = subprocess.run([sys.executable, "-c", text], check=True, capture_output=True, text=True)
    assert found.stdout.strip() in ("[]", "['hearthline.core.fields.cosines']")
