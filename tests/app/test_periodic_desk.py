"""What the desk does about large signals: lines that a circuit asks for, and how the noise of a device acts."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QPushButton

from hearthline.app.panels.sizes_view import SizeRow
from hearthline.app.start import DEMO
from hearthline.core.analyses.line import parse_analysis
from hearthline.core.bench.offered import offered
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.formats.project_folder import read_project


def bare(key: str) -> Snapshot:
    """A bench of the demo without its analyses."""
    project = read_project(DEMO)
    bench = replace(project.benches[key], analyses=(), watches=(), readings=(), specifications=())
    return Snapshot(bench, project.cells, project.kit)


def test_a_growing_pole_and_a_port_with_power_ask():
    """With where, and why; what does neither asks for nothing."""
    (swing,) = offered(bare("vco_868_bench-swing"))
    assert swing.line.startswith("oscillation near 8")
    assert "a pole grows at 8" in swing.why
    (drive,) = offered(bare("pa_868_bench-power"))
    assert drive.line.startswith("balance at")
    assert "p1 gives power" in drive.why
    assert offered(bare("bias_core_bench-current")) == ()


def test_a_click_takes_the_line(person):
    """Into the bench, where it is asked for no more."""
    desk, window = person.desk, person.window
    desk.show_bench("vco_868_bench-swing")
    others = (parse_analysis("rest", "point"),)
    desk.change_bench(replace(desk.bench, analyses=others, watches=(), readings=(), specifications=()), "bare")
    window.show_side("both")
    window.side.show_view("bench")
    person.wait(lambda: bool(desk.offers.found))
    line = desk.offers.found[0].line
    view = window.side.view("bench").analyses
    person.click(next(one for one in view.findChildren(QPushButton) if one.text() == line))
    assert [one.text for one in desk.bench.analyses] == ["point", line]
    person.wait(lambda: line not in [one.text() for one in view.findChildren(QPushButton) if one.isVisible()])


def test_the_selected_device_shows_how_its_noise_acts(person):
    """Its gm, the answer, its noise and both, stacked; where the noise comes from is warm; nothing selected, the noise again."""
    desk, window = person.desk, person.window
    desk.show_bench("vco_868_bench-swing")
    lines = {"swing": "oscillation near 868M harmonics 7", "skirt": "phase_noise of swing from 10k to 10M points 2"}
    analyses = tuple(parse_analysis(name, line) for name, line in lines.items())
    few = replace(desk.bench.grid, corners=("typ",), temperatures=("27",))
    bench = replace(desk.bench, analyses=analyses, watches=(), readings=(), specifications=(), grid=few)
    desk.change_bench(bench, "short")
    desk.run()
    person.wait(lambda: desk.results.run is not None and "skirt" in desk.results.run.results)
    desk.results.show_analysis("skirt")
    desk.enter("X1")
    warm = {part: heat for part, _, heat in desk.heats(desk.cell)}
    assert max(warm, key=warm.get) in ("M3", "M4")
    assert {"M1", "M2"} <= set(warm)
    before = [strip.traces[0].watch.shown for strip in window.sheet.strips if strip.traces]
    desk.select("part", "M1")
    shown = [[trace.watch.shown for trace in strip.traces] for strip in window.sheet.strips if strip.traces]
    assert [titles[0].partition(":")[0] for titles in shown] == ["gm of x1.m1", "answer", "noise", "both"]
    assert not any(trace.problem for strip in window.sheet.strips for trace in strip.traces)
    desk.select("", "")
    assert [strip.traces[0].watch.shown for strip in window.sheet.strips if strip.traces] == before


def test_the_die_shows_what_is_hot_and_leads_to_it(person):
    """A bench without a die says how to write one; with one, a click on a finger selects its part."""
    desk, window = person.desk, person.window
    window.show_side("both")
    window.side.show_view("die")
    view = window.side.view("die")
    assert "This bench has no die" in view.said.text()
    assert not view.drawing.isVisible()
    desk.show_bench("pa_868_bench-hot")
    person.wait(lambda: desk.die.found is not None and view.drawing.picture is not None)
    picture = view.drawing.picture
    assert 75.0 < picture.peaks.max() < 90.0
    assert picture.celsius.max() <= picture.peaks.max() + 0.5
    assert "x1.m2" in view.sums.text()
    desk.enter("X1")
    x, y = picture.plan.sources[0].middle
    boxes = picture.plan.boxes
    person.click(view.drawing, view.drawing.place(float(boxes[0, 0]), float(y)))
    assert (desk.selection.kind, desk.selection.name) == ("part", "M2")
    image = view.drawing.grab().toImage()
    spot, corner = view.drawing.place(x, y), view.drawing.frame().topLeft()
    assert image.pixelColor(spot.toPoint()).lightness() < image.pixelColor(corner.toPoint() + QPoint(4, 4)).lightness()


def test_the_size_to_change_is_found_proved_and_taken_over(person):
    """Asked with a click, the first of the list run so, typed on the drawing as one step, and taken back."""
    desk, window = person.desk, person.window
    desk.show_bench("vco_868_bench-swing")
    few = {"swing": "oscillation near 868M harmonics 5", "noise": "phase_noise of swing from 1M to 10M points 1"}
    analyses = tuple(parse_analysis(name, line) for name, line in few.items())
    desk.change_bench(replace(desk.bench, analyses=analyses, watches=()), "short")
    window.show_side("both")
    window.side.show_view("sizes")
    view = window.side.view("sizes")
    assert view.reading == "phase noise"
    person.click(view.ask)
    person.wait(lambda: desk.sizes.found is not None and not desk.sizes.busy)
    rows = view.findChildren(SizeRow)
    found, first = desk.sizes.found, rows[0].size_
    assert first == found.ranked("phase noise")[0]
    factor = view.factor(found, first)
    now, foretold = found.values["phase noise"][0], found.foretold("phase noise", first, factor)
    assert foretold < now  # less is better, by its limit
    person.click(next(one for one in rows[0].findChildren(QPushButton) if one.text() == "prove"))
    person.wait(lambda: first in desk.sizes.proofs)
    proof = desk.sizes.proofs[first]
    assert abs(proof.values["phase noise"][0] - foretold) < 0.3 * abs(foretold - now)
    size = found.sizes[first]
    before = desk.project.cells[size.cell]
    row = next(one for one in view.findChildren(SizeRow) if one.size_ == first and one.isVisible())
    person.click(next(one for one in row.findChildren(QPushButton) if one.text() == "take over"))
    after = desk.project.cells[size.cell]
    assert {after.part(name).values[size.value] for name in size.parts} == {size.edits(factor)[0].new}
    assert desk.sizes.found is None  # of another circuit
    desk.documents.undo.undo()
    assert desk.project.cells[size.cell] == before


def test_a_bench_without_readings_has_nothing_to_rank_by(person):
    """There is no button to press, and a wrong change is not taken."""
    desk, window = person.desk, person.window
    window.show_side("both")
    window.side.show_view("sizes")
    view = window.side.view("sizes")
    desk.change_bench(replace(desk.bench, readings=(), specifications=()), "bare")
    assert not view.ask.isEnabled()
    person.type_into(view.by, "300 %")
    assert "at most 100 %" in view.by.toolTip()
