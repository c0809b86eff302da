"""An amplifier at radio frequencies on the desk: planes with what is read in them, circles, terminals, a part from a file."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton

from hearthline.app.charts.plane_strip import PlaneStrip
from hearthline.app.charts.strip_menu import strip_entries
from hearthline.app.panels.loops_view import LoopRow
from hearthline.app.panels.matching_view import ProposalRow
from hearthline.core.circuit.cell import Part
from tests.approximation import approx


@pytest.fixture
def amplifier(opened, folder):
    """The low-noise amplifier at one condition, so that a run is short."""
    person = opened(folder)
    desk = person.desk
    desk.show_bench("lna_868_bench-figures")
    person.wait(lambda: desk.point is not None and desk.point.snapshot.bench.key == "lna_868_bench-figures")
    grid = replace(desk.bench.grid, corners=("typ",), temperatures=("27",), parameters={})
    desk.change_bench(replace(desk.bench, grid=grid), "one condition")
    return person


def plane(person) -> PlaneStrip:
    return next(strip for strip in person.window.sheet.strips if isinstance(strip, PlaneStrip))


def test_a_chart_of_reflections(amplifier):
    """The pointer on a curve reads its reflection, impedance and standing-wave ratio, and all charts follow its frequency;
    circles are turned on by the menu and follow too."""
    amplifier.run()
    desk, strip = amplifier.desk, plane(amplifier)
    data = desk.results.dataset
    gamma = complex(data.curves["S(2,2)"][0, 0])  # away from the other curve
    amplifier.point_at_chart(amplifier.window.sheet.strips.index(strip), gamma.real, gamma.imag)
    amplifier.wait(lambda: desk.results.cursor is not None)
    assert desk.results.cursor == approx(0.5e9, rel=0.2)  # the curve is slow there, and a pixel is wide
    words = "\n".join(row.text for row in strip.rows)
    k = int(np.argmin(np.abs(data.points - desk.results.cursor)))
    there = data.curves["S(2,2)"][0, k]
    z = 50 * (1 + there) / (1 - there)
    assert f"Z {z.real:.4g}" in words
    assert f"SWR {(1 + abs(there)) / (1 - abs(there)):.3g}" in words
    flat = next(one for one in amplifier.window.sheet.strips if one is not strip)
    assert flat.cursor.isVisible()
    before = len(strip.circles)
    dict(strip.own_entries())["circles of gain"]()
    dict(strip.own_entries())["circles of noise"]()
    assert len(strip.circles) >= before + 6
    at = list(strip.rings["gain"].xData)
    desk.results.move_cursor(0.8e9)
    moved = list(strip.rings["gain"].xData)
    assert at != moved


def test_a_two_port_needs_no_setting_up(amplifier):
    """Without a watch, gain, K, mu, noise figure, return losses and reflections are there after a run."""
    desk = amplifier.desk
    desk.change_bench(replace(desk.bench, watches=()), "nothing is watched")
    amplifier.run()
    shown = {trace.watch.shown for trace in amplifier.window.sheet.traces}
    assert {"S11", "S22", "gain", "K", "mu", "noise figure", "return loss in"} <= shown
    assert not [trace.problem for trace in amplifier.window.sheet.traces if trace.problem]


def test_where_it_wants_to_oscillate(opened, folder):
    """The two stages on one wire: a press looks at every terminal, the list begins with a loop beyond -1, the drawing glows
    there, a row leads to its part and adds a look; a change of the circuit forgets it."""
    person = opened(folder)
    desk = person.desk
    desk.show_bench("driver_868_bench-stability")
    person.wait(lambda: desk.point is not None and desk.point.snapshot.bench.key == "driver_868_bench-stability")
    person.window.side.show_view("loops")
    view = person.window.side.view("loops")
    person.click(next(b for b in view.findChildren(QPushButton) if b.text() == "Look at every terminal"))
    person.wait(lambda: not desk.warmth.busy)
    assert [count for _, count in desk.warmth.found.growing] == [2]
    assert desk.warmth.found.growing[0][0].celsius == -40.0
    rows = view.findChildren(LoopRow)
    assert rows[0].near.beyond
    assert rows[0].near.frequency == approx(0.98e9, rel=0.05)
    assert ("X1", "", 1.0) in person.window.drawing.look().warm
    person.click(rows[0])
    assert desk.trail == ("X1",)
    hot = {(part, terminal) for part, terminal, heat in person.window.drawing.look().warm if heat == 1.0}
    assert ("M4", "g") in hot
    person.click(next(b for b in rows[0].findChildren(QPushButton) if b.text() == "look"))
    assert desk.bench.analyses[-1].text.startswith(f"look at {rows[0].near.terminal} from 1M")
    assert desk.warmth.found is None


def test_a_file_is_placed_as_a_part(amplifier):
    """Found by its name, placed with its ports; its card says what the file is; another number of ports is named."""
    amplifier.key(Qt.Key.Key_Space)
    search = amplifier.window.search
    QTest.keyClicks(search.field, "board_line")
    assert any(entry.text == "board_line.s2p" for entry in amplifier.window.placer.entries())
    amplifier.key(Qt.Key.Key_Escape)
    desk = amplifier.desk
    desk.select("part", "BOARD")
    words = amplifier.window.details.page.file.text()
    assert "2 ports at 50.00 Ω" in words
    assert "reciprocal" in words
    assert "passive" in words
    three = Part("OTHER", "3-port", (0, 60), values={"file": "board_line.s2p"})
    cell = desk.cell
    desk.documents.exchange(cell, replace(cell, parts=(*cell.parts, three)), "another")
    amplifier.wait(lambda: any("board_line.s2p has 2 ports, and this part 3" in one.message for one in desk.findings))


def test_a_match_is_proposed_and_placed(amplifier):
    """From the menu of a chart: the impedance at the cursor is where it begins; a row shows its way, a press places its parts."""
    amplifier.run()
    desk, strip = amplifier.desk, plane(amplifier)
    desk.results.move_cursor(868e6)
    dict(strip_entries(amplifier.window.sheet, strip, 1))["match it at the cursor"]()
    amplifier.wait(lambda: not desk.matching.busy and bool(desk.matching.found))
    z = strip.traces[1].reflection(0, 868e6).impedance
    assert desk.matching.asked.load == approx(z, rel=1e-2)
    view = amplifier.window.side.view("matching")
    rows = view.findChildren(ProposalRow)
    assert len(rows) >= 4
    rows[1].enterEvent(None)
    assert view.chart.way.xData[0] == approx(rows[1].proposal.way[0].real, rel=1e-9)
    before = len(desk.cell.parts)
    amplifier.click(next(b for b in rows[0].findChildren(QPushButton) if b.text() == "place"))
    amplifier.click(amplifier.window.drawing, amplifier.window.drawing.rect().center())
    assert len(desk.cell.parts) >= before + len(rows[0].proposal.parts)


def test_a_terminal_is_pointed_at(amplifier):
    """Shift+B over the end of a lead adds a look at that terminal, once."""
    desk, drawing = amplifier.desk, amplifier.window.drawing
    desk.enter("X1")
    drawing.fit()
    place = drawing.view.to_screen(*drawing.scene.terminals["M1"]["g"])
    QTest.mouseMove(drawing, place.toPoint())
    amplifier.wait(lambda: drawing.pointer.x() >= 0)
    before = len(desk.bench.analyses)
    amplifier.key(Qt.Key.Key_B, Qt.KeyboardModifier.ShiftModifier)
    assert len(desk.bench.analyses) == before  # the demo looks there already
    place = drawing.view.to_screen(*drawing.scene.terminals["M3"]["d"])
    QTest.mouseMove(drawing, place.toPoint())
    amplifier.wait(lambda: abs(drawing.pointer.x() - place.x()) < 2)
    amplifier.key(Qt.Key.Key_B, Qt.KeyboardModifier.ShiftModifier)
    assert desk.bench.analyses[-1].text.startswith("look at x1.m3.d from 1M")
