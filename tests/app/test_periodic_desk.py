"""What the desk does about large signals: lines that a circuit asks for, and how the noise of a device acts."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton

from hearthline.app.panels.sizes_view import SizeRow
from hearthline.app.start import DEMO
from hearthline.core.analyses.line import parse_analysis
from hearthline.core.bench.heat_placing import with_line
from hearthline.core.bench.offered import offered
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.formats.project_folder import read_project
from hearthline.core.formats.run_file import read_run


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
    desk.results.show_analysis("swing")
    desk.select("net", "outp")
    net = [strip.traces[0] for strip in window.sheet.strips if strip.traces]
    assert [trace.watch.formula for trace in net] == ["in_time(V(outp))", "in_time(shift(outp))"]
    assert "10 µA lock" in net[1].watch.title
    assert not any(trace.problem for trace in net)


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
    QTest.mouseMove(view.drawing, view.drawing.place(x, y).toPoint())
    cut = view.drawing.grab().toImage()
    QTest.mouseMove(window, QPoint(2, 2))
    view.drawing.leaveEvent(None)
    image = view.drawing.grab().toImage()
    assert image != cut  # both cuts were there
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

    def taking() -> list[QPushButton]:
        rows = [one for one in view.findChildren(SizeRow) if one.size_ == first and one.isVisible()]
        return [one for row in rows for one in row.findChildren(QPushButton) if one.text() == "take over"]

    person.wait(lambda: bool(taking()))
    person.click(taking()[0])
    after = desk.project.cells[size.cell]
    assert {after.part(name).values[size.value] for name in size.parts} == {size.edits(factor)[0].new}
    assert desk.sizes.found is None  # of another circuit
    desk.documents.undo.undo()
    assert desk.project.cells[size.cell] == before


def test_an_answer_about_another_circuit_is_dropped(person):
    """A value that is typed while sizes are tried: neither what they did before nor that they were stopped is shown."""
    desk, window = person.desk, person.window
    window.show_side("both")
    window.side.show_view("sizes")
    view = window.side.view("sizes")
    person.click(view.ask)
    desk.change_part(desk.cell.part("M2").with_value("w", "4u"), "w")
    person.wait(lambda: not desk.sizes.busy)
    assert desk.sizes.found is None
    assert desk.sizes.error is None
    person.click(view.ask)
    person.wait(lambda: desk.sizes.found is not None)
    assert "M2 w" in [one.name for one in desk.sizes.found.sizes]


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


def test_a_run_of_a_hot_bench_is_seen_beside_its_cold_one_and_along_the_die(person):
    """Two curves of a watch, and the die at each power of the run without another one."""
    desk, window = person.desk, person.window
    desk.show_bench("pa_868_bench-hot")
    line = parse_analysis("drive", "balance at 868M harmonics 3 within pin at -30,-12")
    few = replace(desk.bench.grid, corners=("typ",))
    desk.change_bench(replace(desk.bench, analyses=(line,), grid=few), "short")
    window.show_side("both")
    window.side.show_view("charts")
    person.run()
    run = desk.results.run
    assert run.cold["drive"].lanes == run.results["drive"].lanes == 2
    ghosts = [len(strip.ghosts) for strip in window.sheet.strips if strip.traces]
    assert ghosts[0] > 0  # gain; temperatures have none
    assert sum(ghosts) == ghosts[0]
    assert "without its heat" in window.sheet.note.text()
    gains = [float(values["drive"].curves["V(out)"][0, 1].real) for values in (run.cold, run.results)]
    assert gains[0] != gains[1]
    window.side.show_view("die")
    view = window.side.view("die")
    person.wait(lambda: view.along.isVisible() and view.along.maximum() == 2)
    peaks = []
    for place in (1, 2):
        view.along.setValue(place)
        person.wait(lambda: not desk.die.busy)
        peaks.append(float(view.drawing.picture.peaks.max()))
        assert "pin" in view.said.text()
    assert peaks[0] > peaks[1] + 10.0  # driven harder, it is cooler
    stored = read_run(desk.results.entries[0].path).run
    assert set(stored.cold) == {"drive"}


def test_fingers_are_put_dragged_and_typed(person):
    """Devices get a place with a click; a row follows the mouse, as one step; a pitch that cannot be is refused in place."""
    desk, window = person.desk, person.window
    desk.show_bench("inv_x1-transfer")
    window.show_side("both")
    window.side.show_view("die")
    view = window.side.view("die")
    person.wait(lambda: desk.point is not None and desk.point.dataset is not None)
    person.click(view.put)
    person.wait(lambda: view.drawing.picture is not None)
    assert {line.part for line in desk.bench.heat.sources} == {"m1", "m2"}
    box = view.drawing.picture.plan.boxes[0]
    part = view.drawing.picture.plan.parts[0]
    before = view.drawing.picture.plan.sources[0].middle
    warm, rest = view.drawing.picture.peaks.copy(), view.drawing.picture.plan
    other = view.drawing.place(*(float(one) for one in rest.boxes[-1][:2])).toPoint()
    QTest.mousePress(view.drawing, Qt.MouseButton.LeftButton, pos=other)
    for way in (QPoint(-10, 10), QPoint(-30, 40)):
        QTest.mouseMove(view.drawing, other + way)
    assert view.drawing.picture.plan.sources[-1].middle != rest.sources[-1].middle  # the map goes along
    assert (view.drawing.picture.peaks != warm).any()
    QTest.keyClick(view.drawing, Qt.Key.Key_Escape)
    assert view.drawing.picture.plan == rest
    QTest.mouseRelease(view.drawing, Qt.MouseButton.LeftButton, pos=other + QPoint(-30, 40))
    assert desk.bench.heat.plan() == rest
    begin = view.drawing.place(float(box[0]), float(box[1])).toPoint()
    QTest.mousePress(view.drawing, Qt.MouseButton.LeftButton, pos=begin)
    for way in (QPoint(10, -10), QPoint(30, -40)):
        QTest.mouseMove(view.drawing, begin + way)
    QTest.mouseRelease(view.drawing, Qt.MouseButton.LeftButton, pos=begin + QPoint(30, -40))
    after = desk.bench.heat.plan().sources[0].middle
    assert after[0] > before[0]
    assert after[1] > before[1]
    person.wait(lambda: view.drawing.picture.plan.sources[0].middle == after)
    desk.select("part", part.upper())
    assert view.line.isVisible()
    person.type_into(view.line.lines["pitch"], "10n")
    assert "pitch" in view.line.lines["pitch"].toolTip()
    person.type_into(view.line.lines["pitch"], "5u")
    QTest.keyClick(view.line.lines["pitch"], Qt.Key.Key_Return)
    assert next(line.pitch for line in desk.bench.heat.sources if line.part == part) == "5u"
    wide = with_line(desk.bench.heat, part, size="2u, 2u")  # the finer the fingers, the longer their series
    wide = with_line(wide, "m1" if part == "m2" else "m2", size="2u, 2u")
    bare = replace(desk.bench, heat=wide, analyses=(), watches=(), readings=(), specifications=())
    desk.change_bench(bare, "the operating point alone")
    person.click(view.trying.chips["thickness"])
    person.wait(lambda: desk.trials.found is not None)
    assert (desk.trials.found.peaks[1:] >= desk.trials.found.peaks[:-1]).all()
    assert view.trying.table.count() > 8
