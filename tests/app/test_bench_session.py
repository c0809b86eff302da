"""A designer at the bench, by mouse and keys: analyses, stimuli, watches, charts, readings, conditions, runs."""

from __future__ import annotations

import csv
import shutil
from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLineEdit, QMenu, QPlainTextEdit, QPushButton

from hearthline.app.panels.label import Label
from hearthline.core.analyses import ANALYSES
from hearthline.core.bench.verdict import State
from tests.approximation import approx
from tests.toys import Span

CONTROL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


def show(person, word: str) -> None:
    """One of the views beside the drawing."""
    person.click(person.window.side.words[word])


def press(widget, text: str) -> None:
    """A button of a widget by its word."""
    button = next(b for b in widget.findChildren(QPushButton) if b.text() == text and not b.isHidden())
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)


def visible(person, widget, kind, which):
    """The child of a kind that fits, once it can be seen."""
    person.wait(lambda: any(which(one) and one.isVisible() for one in widget.findChildren(kind)))
    return next(one for one in widget.findChildren(kind) if which(one) and one.isVisible())


def type_line(person, row, text: str) -> None:
    """Replaces the text of a line of the bench."""
    row.line.setFocus()
    row.line.selectAll()
    QTest.keyClicks(row.line, text)
    QTest.keyClick(row.line, Qt.Key.Key_Return)


def take(person, menu_of, text: str) -> None:
    """An entry of a menu that is open."""
    menu = next(m for m in menu_of.findChildren(QMenu) if m.isVisible())
    action = next(a for a in menu.actions() if a.text().startswith(text))
    menu.setActiveAction(action)
    QTest.keyClick(menu, Qt.Key.Key_Return)


def few_conditions(person) -> None:
    """Two supplies in the typical corner: quick."""
    bench = person.desk.bench
    grid = replace(bench.grid, corners=("typ",), temperatures=("27",), parameters={"vdd": ("1.2", "1.32")})
    person.desk.change_bench(replace(bench, grid=grid), "few")


def at_grid(person, x: float, y: float) -> None:
    """The pointer at a place of the drawing."""
    drawing = person.window.drawing
    QTest.mouseMove(drawing, drawing.view.to_screen(x, y).toPoint())


# -- setting up


def test_an_analysis_is_added_typed_and_run_alone(person):
    """Everything from the circuit at first; then a line of settings; the other analysis is not run."""
    few_conditions(person)
    show(person, "bench")
    view, desk = person.window.side.view("bench"), person.desk
    press(view.analyses, "ac")
    assert desk.bench.analysis_names == ("transfer", "response")
    row = view.analyses.rows["response"]
    assert row.echo.text() == "from the circuit: from 1 to 10G points 20 spaced decade by vin"
    type_line(person, row, "ac from 1k to 1G points 5")
    assert desk.bench.analyses[1].settings == {"from": "1k", "to": "1G", "points": "5"}
    assert row.echo.text() == "from the circuit: spaced decade by vin"
    row.line.setFocus()
    row.line.selectAll()
    QTest.keyClicks(row.line, "ac from 1k too 1G")
    assert row.echo.text().startswith(" " * 11 + "▲\n'too' at column 12")
    assert desk.bench.analyses[1].settings["to"] == "1G"
    QTest.keyClick(row.line, Qt.Key.Key_Escape)
    runs = len(desk.results.entries)
    press(row, "▸")
    person.wait(lambda: len(desk.results.entries) > runs)
    assert list(desk.results.run.results) == ["response"]
    assert np.iscomplexobj(desk.results.dataset.curve("V(out)"))
    person.run()
    assert set(desk.results.run.results) == {"transfer", "response"}
    assert any("response: nothing new" in line for line in desk.results.run.log)


def test_an_analysis_that_is_one_file_is_in_the_window(person, monkeypatch):
    """A kind that is in the registry is offered, says what it takes from the circuit, and runs."""
    monkeypatch.setitem(ANALYSES, "span", Span())
    few_conditions(person)
    show(person, "bench")
    view, desk = person.window.side.view("bench"), person.desk
    desk.change_bench(replace(desk.bench, note="anew"), "note", "note")
    view.analyses.add_new("span")
    assert view.analyses.rows["apart"].echo.text() == "from the circuit: of out,0 times 1"
    runs = len(desk.results.entries)
    press(view.analyses.rows["apart"], "▸")
    person.wait(lambda: len(desk.results.entries) > runs)
    found = desk.results.run.results["apart"]
    np.testing.assert_allclose(found.curve("I(span)"), found.curve("V(out)"))


def over_a_deck(opened, source, folder):
    """A window on a copy of a project with one more bench, over a deck."""
    shutil.copytree(source, folder)
    (folder / "benches" / "amp.cir").write_text("amp\n.param rl=1k\nvin in 0 1\nr1 in out {rl}\nr2 out 0 1k\n")
    (folder / "benches" / "amp-basics.toml").write_text(
        'format = 3\nname = "basics"\ndeck = "amp.cir"\n'
        '[point]\ncorner = "typ"\ntemperature = "27"\n'
        '[grid]\ncorners = ["typ"]\ntemperatures = ["27"]\n[grid.parameters]\nrl = ["1k", "3k"]\n'
        '[[analyses]]\nname = "rest"\nline = "point"\n[[readings]]\nname = "level"\nformula = "V(out)"\n'
        '[[specifications]]\nreading = "level"\nlow = "0.3"\n'
    )
    listing = folder / "project.toml"
    listing.write_text(listing.read_text().replace("benches = [", 'benches = ["amp-basics", '))
    return opened(folder)


def test_a_bench_over_a_deck(person, opened, tmp_path):
    """Is listed, has its operating point live, runs with its verdict, and shows its text where cells show theirs."""
    other = over_a_deck(opened, person.desk.project.folder, tmp_path / "over")
    desk = other.desk
    desk.show_bench("amp-basics")
    other.wait(lambda: desk.point is not None and desk.point.snapshot.bench.deck == "amp.cir")
    assert desk.point.dataset.curve("V(out)")[0, 0] == approx(0.5, rel=1e-9)
    other.run()
    assert desk.results.readings["level"] == approx([0.5, 0.25], rel=1e-9)
    assert desk.results.verdicts["level"].state == State.FAILS
    show(other, "bench")
    view = other.window.side.view("bench")
    press(view, "out")  # a net of the deck
    assert desk.bench.stimuli[0].pin == "out"
    type_line(other, view.stimuli.rows["out"], "out resistance 1k")
    other.wait(lambda: desk.point.snapshot is desk.snapshot)
    assert desk.point.dataset.curve("V(out)")[0, 0] == approx(1 / 3, rel=1e-9)
    show(other, "netlist")
    texts = {one.accessibleName(): one.toPlainText() for one in other.window.side.findChildren(QPlainTextEdit)}
    assert "r1 in out {rl}" in texts["netlist"]


def test_a_deck_is_read_again_at_each_run(person, opened, tmp_path):
    """It is edited elsewhere: what stood in it before is not taken for what stands in it now; one that is gone is told."""
    other = over_a_deck(opened, person.desk.project.folder, tmp_path / "over")
    desk, deck = other.desk, tmp_path / "over" / "benches" / "amp.cir"
    desk.show_bench("amp-basics")
    other.run()
    deck.write_text(deck.read_text().replace("r2 out 0 1k", ".param low=2k\nr2 out 0 {low}"))
    other.run()
    assert desk.results.readings["level"] == approx([2 / 3, 2 / 5], rel=1e-9)
    deck.write_text(deck.read_text().replace("low=2k", "low=3k"))  # a parameter that is no condition
    other.run()
    assert desk.results.readings["level"] == approx([3 / 4, 1 / 2], rel=1e-9)
    desk.change_bench(replace(desk.bench, note="anew"), "note", "note")
    assert desk.bench.title == "amp · basics"  # a change of the bench stays at it
    deck.unlink()
    desk.run()
    assert "there is no deck 'amp.cir'" in str(desk.message)
    assert desk.snapshot is None
    desk.new_bench("copy")
    assert desk.bench.title == "amp · copy"
    desk.delete_bench()
    assert desk.bench.title == "amp · basics"


def test_a_run_is_not_overtaken_by_a_stored_one(person):
    """One that was asked for before, and is read from its file more slowly than the new one is computed."""
    few_conditions(person)
    person.run()
    results = person.desk.results
    first = results.entries[0].path
    results.show_run(first)
    person.run()
    person.wait(lambda: not results.loading)
    assert results.shown.path == results.entries[0].path != first


def test_an_analysis_is_renamed_in_every_formula_and_kept_while_it_is_used(person):
    """Formulas follow; one that is still used is not taken away."""
    desk = person.desk
    desk.show_bench("slicer_bench-levels")
    show(person, "bench")
    view = person.window.side.view("bench")
    name = view.analyses.rows["down"].name
    person.type_into(name, "back")
    QTest.keyClick(name, Qt.Key.Key_Return)
    assert desk.bench.analysis_names == ("up", "back")
    assert {one.analysis for one in desk.bench.readings} == {"", "back"}
    press(view.analyses.rows["back"], "×")
    assert "still used by" in str(desk.message)
    assert "back" in desk.bench.analysis_names


def test_stimuli_are_tied_typed_and_pasted(person):
    """A load at the output, a course from two pasted columns, one that runs backwards is refused."""
    desk = person.desk
    show(person, "bench")
    view = person.window.side.view("bench")
    press(view.stimuli, "out")
    assert desk.bench.stimuli[-1].kind == "capacitance"
    row = view.stimuli.rows["cout"]
    type_line(person, row, "out capacitance 20f")
    assert desk.bench.stimulus("cout").dc == "20f"
    row.line.setFocus()
    row.line.selectAll()
    QTest.keyClicks(row.line, "nowhere capacitance 20f")
    assert "no pin 'nowhere'; there are" in row.echo.text()
    QTest.keyClick(row.line, Qt.Key.Key_Escape)
    QGuiApplication.clipboard().setText("time,volts\n0,0\n1n,1.2\n2n,0\n")
    press(view.stimuli.rows["vin"], "↓")
    assert desk.bench.stimulus("vin").wave == "pwl(0 0 1n 1.2 2n 0)"
    QGuiApplication.clipboard().setText("0 0\n2n 1\n1n 0")
    press(view.stimuli.rows["vin"], "↓")
    assert "runs backwards" in str(desk.message)
    assert desk.bench.stimulus("vin").wave == "pwl(0 0 1n 1.2 2n 0)"


def test_conditions_are_axes_and_picked_ones(person):
    """Another axis, each alone, one picked by hand; the chip counts them."""
    desk = person.desk
    show(person, "bench")
    view = person.window.side.view("bench")
    press(view.conditions, "each alone")
    assert len(desk.snapshot.conditions()) == 1 + 4 + 2 + 2
    press(view.conditions, "picked only")
    press(view.conditions, "pick one")
    row = view.conditions.rows["picked 0"]
    type_line(person, row, "ss 150 vdd=1.05")
    assert [(c.corner, c.celsius, c.parameters["vdd"]) for c in desk.snapshot.conditions()] == [("ss", 150.0, 1.05)]
    row.line.setFocus()
    row.line.selectAll()
    QTest.keyClicks(row.line, "slow 150")
    assert "no corner 'slow'" in row.echo.text()
    QTest.keyClick(row.line, Qt.Key.Key_Escape)
    press(view.conditions, "crossed")
    type_line(person, view.conditions.rows["temperature"], "27")
    assert len(desk.snapshot.conditions()) == 16


def test_the_bench_as_text(person):
    """Typed text is the bench; a wrong line is named; undo brings the old one back."""
    desk = person.desk
    show(person, "bench")
    view = person.window.side.view("bench")
    person.click(view.as_text)
    before = desk.bench
    text = view.editor.toPlainText()
    view.editor.setPlainText(text.replace("points 1001", "points 11"))
    assert desk.bench.analyses[0].settings["points"] == "11"
    view.editor.setPlainText(text.replace("points 1001", "point 11"))
    assert "line:" in view.problem.text()
    assert "'point' at column 29" in view.problem.text()
    view.editor.setPlainText(text.replace('name = "transfer"\ncell', 'name = "other"\ncell'))
    assert "stay as they are" in view.problem.text()
    desk.documents.undo.undo()
    assert desk.bench == before


# -- watching by pointing


def test_a_net_two_nets_a_terminal_and_a_quantity_are_watched(person):
    """B over each; the terminal gets an arrow; what was not watched is there without a new run; B again ends it."""
    desk, drawing = person.desk, person.window.drawing
    few_conditions(person)
    person.run()
    cell = desk.cell
    wire = next(w for w in cell.wires if drawing.scene.net_at(w.points[0]) == "in")
    middle = ((wire.points[0][0] + wire.points[1][0]) / 2, (wire.points[0][1] + wire.points[1][1]) / 2)
    at_grid(person, *middle)
    person.key(Qt.Key.Key_B)
    assert desk.bench.watches[-1].formula == "V(in)"
    strip = person.window.sheet.strips[-1]
    assert np.isfinite(strip.trace.y).all()
    at_grid(person, *middle)
    person.key(Qt.Key.Key_B)
    assert len(desk.bench.watches) == 2
    other = next(w for w in cell.wires if drawing.scene.net_at(w.points[0]) == "out")
    desk.pick(replace(desk.picked, wires=frozenset((wire, other))))
    person.key(Qt.Key.Key_B)
    assert desk.bench.watches[-1].formula == "V(in, out)"
    desk.select("", "")
    place = drawing.scene.terminals["M1"]["d"]
    at_grid(person, *place)
    person.key(Qt.Key.Key_B)
    assert desk.bench.watches[-1].formula == "m1.id"
    assert drawing.look().watched == (("M1", "d"),)
    part = cell.part("M2")
    at_grid(person, part.at[0] + 0.6, part.at[1] + 0.4)
    person.key(Qt.Key.Key_B)
    take(person, drawing, "gm:")
    assert desk.bench.watches[-1].formula == "m2.gm"
    assert not drawing.grab().isNull()


def test_a_watch_that_does_not_fit_says_so_and_keeps_the_others(person):
    """A net that is gone, and a formula that is a number."""
    few_conditions(person)
    person.run()
    show(person, "bench")
    view = person.window.side.view("bench")
    press(view.watches, "formula")
    row = view.watches.rows["2"]
    type_line(person, row, "V(gone)")
    show(person, "charts")
    strips = person.window.sheet.strips
    assert "no curve 'V(gone)'" in strips[2].head.note.text()
    assert np.isfinite(strips[0].trace.y).all()
    show(person, "bench")
    type_line(person, view.watches.rows["2"], "peak(V(out))")
    show(person, "charts")
    assert "is a number" in person.window.sheet.strips[2].head.note.text()


# -- charts


def drag(viewport, a: QPoint, b: QPoint, button=Qt.MouseButton.LeftButton) -> None:
    """From one place to another."""
    QTest.mouseMove(viewport, a)
    QTest.mousePress(viewport, button, pos=a)
    for share in (0.3, 0.6, 1.0):
        place = QPoint(round(a.x() + share * (b.x() - a.x())), round(a.y() + share * (b.y() - a.y())))
        QTest.mouseMove(viewport, place)
    QTest.mouseRelease(viewport, button, pos=b)


def test_zoom_by_box_and_back(person):
    """Both strips follow along the axis; U goes back, Shift+U shows all."""
    few_conditions(person)
    person.run()
    sheet = person.window.sheet
    first, second = sheet.strips
    before = first.plot.viewRange()
    drag(first.plot.viewport(), person.chart_place(0, 0.5, 1.1), person.chart_place(0, 0.7, 0.3))
    (left, right), (bottom, top) = first.plot.viewRange()
    assert (left, right, bottom, top) == approx((0.5, 0.7, 0.3, 1.1), abs=0.02)
    assert second.plot.viewRange()[0] == approx([left, right], abs=0.05)
    person.key(Qt.Key.Key_U)
    np.testing.assert_allclose(first.plot.viewRange(), before, atol=1e-6)
    person.key(Qt.Key.Key_U, SHIFT)
    assert first.plot.viewRange()[0][0] < 0.05


def test_markers_snap_step_and_tell_their_differences(person):
    """On a point, then on the summit of the current; J and L step, Shift+K clears."""
    few_conditions(person)
    person.run()
    sheet = person.window.sheet
    person.point_at_chart(0, 0.4, 1.19)
    person.key(Qt.Key.Key_K)
    trace = sheet.strips[1].trace
    lane = sheet.lane_read()
    x, y = trace.row(lane)
    top = float(x[np.argmax(y)])
    person.point_at_chart(1, top + 0.01, float(y.max()))
    person.key(Qt.Key.Key_K)
    markers = sheet.marking.markers
    assert markers[0].snapped == "point"
    assert (markers[1].snapped, markers[1].x) == ("peak", approx(top))
    text = sheet.marking.panel.text()
    assert "Δvin" in text
    assert "slope" in text
    person.key(Qt.Key.Key_L)
    assert sheet.marking.markers[1].x == approx(x[np.argmax(y) + 1])
    person.key(Qt.Key.Key_J)
    person.key(Qt.Key.Key_J)
    assert sheet.marking.markers[1].x == approx(x[np.argmax(y) - 1])
    person.key(Qt.Key.Key_K, SHIFT)
    assert not sheet.marking.markers
    assert sheet.marking.panel.isHidden()


def test_strips_are_joined_by_dragging_and_their_scales_chosen(person):
    """The title of one onto the other; then a scale from its menu; points on the curves."""
    few_conditions(person)
    person.run()
    sheet, desk = person.window.sheet, person.desk
    title = sheet.strips[1].head.titles[0]
    target = sheet.strips[0].plot
    goal = title.mapFromGlobal(target.mapToGlobal(target.rect().center()))
    drag(title, title.rect().center(), goal)
    assert len(sheet.strips) == 1
    assert [t.watch.formula for t in sheet.strips[0].traces] == ["V(out)", "-I(vdd)"]
    person.click(sheet.strips[0].head.titles[1])
    take(person, sheet.strips[0].head.titles[1], "a strip of its own")
    assert len(sheet.strips) == 2
    person.click(sheet.strips[1].head.titles[0])
    take(person, sheet.strips[1].head.titles[0], "log scale")
    assert desk.bench.watches[1].scale == "log"
    assert sheet.strips[1].axes["left"].logMode
    person.click(sheet.more_button)
    take(person, sheet.more_button, "points on the curves")
    assert sheet.strips[0].dots
    person.click(sheet.strips[0].head.titles[0])
    take(person, sheet.strips[0].head.titles[0], "against supply current")
    assert sheet.strips[2].trace.axis == "-I(vdd)"


def test_charts_leave_as_pictures_and_numbers(person):
    """In every format; what was written can be read."""
    import xarray

    few_conditions(person)
    person.run()
    sheet = person.window.sheet
    folder = person.desk.project.folder / "figures"
    for kind in ("PNG", "SVG", "PDF", "CSV", "netCDF"):
        person.click(sheet.more_button)
        take(person, sheet.more_button, f"write as {kind}")
        assert (
            "Written: figures/inv_x1-transfer-transfer"
            in person.window.question.findChildren(type(sheet.note))[-1].text()
        )
    stem = folder / "inv_x1-transfer-transfer"
    assert stem.with_suffix(".png").read_bytes()[:4] == b"\x89PNG"
    assert b"<svg" in stem.with_suffix(".svg").read_bytes()[:400]
    assert stem.with_suffix(".pdf").read_bytes().startswith(b"%PDF")
    rows = list(csv.reader(stem.with_suffix(".csv").open()))
    assert rows[0][:2] == ["vin [V]", "V(out) [V] typ 27 °C 1.2 V"]
    curve = person.desk.results.dataset.curve("V(out)")[0]
    np.testing.assert_array_equal([float(row[1]) for row in rows[1:]], curve)
    with xarray.open_dataset(stem.with_suffix(".nc"), engine="h5netcdf") as table:
        np.testing.assert_array_equal(table["V(out)"].values[0], curve)
    person.click(sheet.more_button)
    take(person, sheet.more_button, "copy as numbers")
    assert QGuiApplication.clipboard().text().splitlines()[0].split("\t")[0] == "vin [V]"


def test_a_transient_in_the_window_and_its_spectrum(person):
    """Steps of its own for every condition, one cursor over all; the spectrum has its own axis."""
    desk = person.desk
    desk.show_bench("peak_mem_bench-loop")
    few_conditions(person)
    person.run()
    sheet = person.window.sheet
    assert desk.results.dataset.ragged
    current = next(k for k, strip in enumerate(sheet.strips) if strip.trace.watch.shown == "current")
    title = sheet.strips[current].head.titles[0]
    person.click(title)
    take(person, title, "its spectrum, hann")
    strip = sheet.strips[-1]
    assert (strip.trace.axis, strip.trace.watch.scale, strip.trace.unit) == ("frequency", "dB", "dB")
    x, y = strip.trace.row(0)
    assert x[1 + np.argmax(y[1:])] == approx(50e3, rel=0.3)
    desk.results.move_cursor(5e-6)
    assert sheet.strips[current].cursor.isVisible()
    assert not strip.cursor.isVisible()


# -- readings and specifications


def test_a_ready_reading_is_taken_limited_and_drawn_on_its_curve(person):
    """From the list, with limits on the hearth line, its construction on the curve; a wrong formula points at the place."""
    few_conditions(person)
    person.run()
    show(person, "bench")
    view, desk = person.window.side.view("bench"), person.desk
    ready = next(one for one in view.readings.ready() if one.name == "output range")
    view.readings.take(ready)
    person.wait(lambda: "output range" in desk.results.numbers)
    row = view.readings.rows["output range"]
    assert row.echo.text().startswith("= ")
    show(person, "charts")
    assert person.window.sheet.strips[0].marks
    show(person, "bench")
    press(view.specifications, "output range")
    field = view.specifications.rows["output range"].fields["low"]
    person.type_into(field, "5")
    assert desk.results.verdicts["output range"].state is State.FAILS
    segment = person.window.hearth.segments[-1]
    person.type_into(segment.low, "0.1")
    assert desk.results.verdicts["output range"].state is State.HOLDS
    person.type_into(segment.high, "0.05")
    assert segment.high.property("wrong")
    assert "above the upper limit" in segment.high.toolTip()
    row = view.readings.rows["output range"]
    row.line.setFocus()
    row.line.selectAll()
    QTest.keyClicks(row.line, "peak(V(out) + 1")
    assert row.echo.text().startswith(" " * 4 + "▲\na closing bracket is missing")


# -- conditions and runs


def test_a_condition_is_shown_on_the_whole_desk(person):
    """From the table of all conditions: chips, operating point and curves; a second click goes back."""
    person.run()
    show(person, "conditions")
    view, desk = person.window.side.view("conditions"), person.desk
    assert view.matrix.rowCount() == 45
    assert "corner moves it by" in view.words.text()
    before = desk.point
    row = 44
    index = view.sorted.mapFromSource(view.matrix.index(row, 0))
    view.table.scrollTo(index)
    person.click(view.table.viewport(), view.table.visualRect(index).center())
    person.wait(lambda: desk.point is not before)
    assert desk.results.chosen.corner == "sf"
    assert float(desk.point.dataset.conditions["vdd"][0]) == 1.32
    assert desk.results.lane == 44
    chip = next(b for b in person.window.topline.findChildren(QPushButton) if b.text().startswith("at sf 150 °C"))
    at_point = desk.point
    person.click(chip)
    person.wait(lambda: desk.point is not at_point)
    assert desk.results.condition == -1
    worst = desk.results.verdicts["switching point"].lane
    column = len(view.matrix.axes)
    assert "worst" in view.matrix.data(view.matrix.index(worst, column))


def test_what_failed_is_listed_and_run_again_alone(person):
    """With the reason; when its cause is mended only what has no result is computed."""
    desk = person.desk
    few_conditions(person)
    good = desk.bench.stimulus("vdd")
    desk.change_bench(desk.bench.with_stimulus(replace(good, dc="vdd > 1.3 ? 1e200 : vdd")), "trouble")
    person.run()
    show(person, "conditions")
    view = person.window.side.view("conditions")
    assert "1 of 2 conditions failed" in view.note.text()
    assert view.matrix.data(view.matrix.index(1, 0)) == "typ ✕"
    runs = len(desk.results.entries)
    person.click(view.again)
    person.wait(lambda: len(desk.results.entries) > runs)
    assert any("1 of 2 conditions computed" in line for line in desk.results.run.log)


def test_conditions_that_are_new_are_asked_for(person):
    """The curves that are there stay good; the next run computes only what is new, and then nothing is asked."""
    desk = person.desk
    few_conditions(person)
    person.run()
    bench = desk.bench
    desk.change_bench(replace(bench, grid=replace(bench.grid, temperatures=("27", "85"))), "85")
    sheet = person.window.sheet
    person.wait(lambda: "2 conditions are not computed yet: press Run" in sheet.note.text())
    assert not desk.results.stale
    person.run()
    assert any("2 of 4 conditions computed" in line for line in desk.results.run.log)
    assert "press Run" not in sheet.note.text()


def test_a_very_large_run_asks_first(person):
    """With how large it would be; left alone, nothing runs."""
    desk = person.desk
    bench = desk.bench
    desk.change_bench(
        bench.with_analysis(replace(bench.analyses[0], settings={"of": "vin", "from": "0", "to": "1", "step": "1n"})),
        "fine",
    )
    desk.run()
    person.wait(lambda: person.window.question.isVisible())
    text = " ".join(label.text() for label in person.window.question.findChildren(type(person.window.sheet.note)))
    assert "45 000 000 045 points" in text
    press(person.window.question, "Leave it")
    assert not desk.results.runner.busy
    assert desk.results.run is None


def test_runs_are_compared_laid_behind_restored_and_repeated(person):
    """Two runs of different circuits, from their lines in the logbook."""
    desk, window = person.desk, person.window
    few_conditions(person)
    person.run()
    first = desk.cell
    desk.change_part(desk.cell.part("M2").with_value("w", "3.2u"), "w")
    person.run()
    show(person, "runs")
    view = window.side.view("runs")
    newest, oldest = view.entries
    assert newest.words == ("M2.w 2.4u → 3.2u",)

    def do(entry, word: str) -> None:
        person.wait(lambda: view.buttons[entry.path.name, word].isVisible())
        person.click(view.buttons[entry.path.name, word])

    do(oldest, "compare")
    person.wait(
        lambda: (
            {"M2.w 2.4u → 3.2u", "switching point"}
            <= {one.text() for one in view.findChildren(Label) if one.isVisible()}
        )
    )
    do(oldest, "behind")
    person.wait(lambda: desk.results.ghost is not None)
    assert window.sheet.strips[0].ghosts
    assert "behind it" in window.sheet.note.text()
    do(oldest, "behind")
    assert not window.sheet.strips[0].ghosts
    do(oldest, "restore")
    assert desk.cell.part("M2").values["w"] == first.part("M2").values["w"]
    desk.documents.undo.undo()
    assert desk.cell.part("M2").values["w"] == "3.2u"
    runs = len(desk.results.entries)
    do(oldest, "repeat")
    person.wait(lambda: len(desk.results.entries) > runs)
    assert desk.results.entries[0].record.cells["inv_x1"] == oldest.record.cells["inv_x1"]
    assert "repeated" in desk.results.entries[0].change


def test_old_runs_are_cleaned_by_rule(person):
    """But neither the pinned one nor the one that is shown."""
    desk = person.desk
    few_conditions(person)
    for width in ("2.5u", "2.6u", "2.7u"):
        desk.change_part(desk.cell.part("M2").with_value("w", width), "w")
        person.run()
    show(person, "runs")
    view = person.window.side.view("runs")
    oldest = view.entries[-1]
    person.click(view.buttons[oldest.path.name, "pin"])
    field = visible(person, view, QLineEdit, lambda one: one.accessibleName() == "runs kept")
    person.type_into(field, "1")
    QTest.keyClick(field, Qt.Key.Key_Return)
    person.click(visible(person, view, QPushButton, lambda one: one.text() == "Clean 1"))
    assert [entry.path for entry in view.entries] == [desk.results.shown.path, oldest.path]


def test_a_run_of_a_bench_that_is_left_is_kept_and_does_not_show(opened, folder):
    """It stands in the logbook of its own bench."""
    shutil.rmtree(folder / "runs", ignore_errors=True)
    person = opened(folder)
    desk = person.desk
    desk.run()
    desk.show_bench("cnt_slicer_bench-levels")
    person.wait(lambda: len(desk.results.entries) == 1)
    assert desk.results.run is None
    assert desk.results.entries[0].bench == "inv_x1-transfer"


def test_a_stored_run_that_is_read_late_does_not_show_on_another_bench(person):
    """The bench was left while its run was still being read."""
    desk = person.desk
    few_conditions(person)
    person.run()
    desk.show_bench("inv_x1-transfer")
    desk.show_bench("slicer_bench-levels")
    person.wait(lambda: not desk.results.loading)
    assert desk.results.run is None
    assert desk.results.analysis == "up"


def test_a_curve_of_a_million_points_is_drawn_thin(person):
    """As many points as can be seen, its extremes among them; zoomed in, more of them."""
    few_conditions(person)
    person.run()
    strip = person.window.sheet.strips[0]
    x = np.linspace(0, 1, 1_000_001)
    y = np.sin(300 * x)[None, :]
    y[0, 123_456] = 7.0
    trace = replace(strip.trace, x=x, y=y)
    strip.show_traces([trace], replace(strip.family, group=np.zeros(1, int), main=np.ones(1, bool)))
    item = strip.items[0]
    assert len(item.xData) < 8000
    assert item.yData.max() == 7.0
    strip.plot.setXRange(0.1234, 0.1235, padding=0)
    assert 90 <= len(item.xData) < 200
    assert strip.nearest(strip.box.mapViewToScene(QPointF(0.123456, 7.0)))[1] == 0


def test_the_target_of_a_specification_is_edited_in_place(person):
    """It says how far off the worst condition is; beyond the limits it is refused where it is typed."""
    person.run()
    desk, segment = person.desk, person.window.hearth.segments[0]
    assert segment.target.isVisible()
    assert "◇" in segment._context()
    person.type_into(segment.target, "0.48")
    assert desk.bench.specifications[0].target == "0.48"
    person.type_into(segment.target, "0.9")
    assert segment.target.property("wrong")
    assert "beyond the limits" in segment.target.toolTip()
    for field in (segment.low, segment.high):
        person.click(field)
        field.selectAll()
        QTest.keyClick(field, Qt.Key.Key_Delete)
    assert desk.results.verdicts["switching point"].state is State.AIMED
    assert not person.window.grab().isNull()


def test_a_reading_of_every_kind_is_offered_and_taken(person):
    """From the search, for an analysis that has them."""
    desk, window = person.desk, person.window
    few_conditions(person)
    person.key(Qt.Key.Key_Space)
    QTest.keyClicks(window.search.field, "noise analysis")
    QTest.keyClick(window.search.field, Qt.Key.Key_Return)
    assert desk.bench.analyses[-1].kind == "noise"
    person.run()
    person.key(Qt.Key.Key_Space)
    QTest.keyClicks(window.search.field, "integrated noise")
    QTest.keyClick(window.search.field, Qt.Key.Key_Return)
    person.wait(lambda: "integrated noise" in desk.results.numbers)
    found = desk.results.numbers["integrated noise"]
    assert found.unit == "V"
    assert (found.values > 0).all()
    assert desk.results.analysis == "density"


def test_a_bench_is_made_for_any_cell_copied_renamed_and_deleted(person):
    """Pins tied by their kinds; it runs at once; it is there after saving; its file is gone from the list after deleting."""
    desk, window = person.desk, person.window
    desk.show_cell("slicer")
    assert not desk.bench.name
    show(person, "bench")
    person.click(window.side.view("bench").make)
    bench = desk.bench
    assert bench.key == "slicer-bench"
    ties = {one.pin: (one.kind, one.dc) for one in bench.stimuli}
    assert ties["vdd"] == ("voltage", "vdd")
    assert ties["out"] == ("capacitance", "10f")
    assert bench.grid.parameters == {"vdd": ("1.08", "1.2", "1.32")}
    current = next(pin for pin in desk.top.pins if pin.name not in ("vdd", "out"))
    assert ties[current.name][1] == "vdd / 2"
    few_conditions(person)
    person.run()
    assert np.isfinite(desk.results.dataset.curve("V(out)")).all()
    person.key(Qt.Key.Key_E, CONTROL)
    prompt = window.prompt.field
    prompt.selectAll()
    QTest.keyClicks(prompt, "copy")
    QTest.keyClick(prompt, Qt.Key.Key_Return)
    assert desk.bench_key == "slicer-copy"
    assert desk.bench.stimuli == bench.stimuli
    desk.new_bench("bench")
    assert "has a bench 'bench' already" in str(desk.message)
    desk.rename_bench("other one")
    assert desk.bench_key == "slicer-other one"
    person.key(Qt.Key.Key_S, CONTROL)
    listing = (desk.project.folder / "project.toml").read_text()
    assert "slicer-other one" in listing
    desk.delete_bench()
    assert desk.bench_key == "slicer-bench"
    desk.documents.undo.undo()
    assert "slicer-other one" in desk.project.benches


def test_a_course_comes_from_a_csv_file_of_the_project(person):
    """Offered beside the clipboard; one that is no table names its line."""
    desk = person.desk
    (desk.project.folder / "courses").mkdir()
    (desk.project.folder / "courses" / "edges.csv").write_text("t,v\n0,0\n1e-9,1.2\n")
    (desk.project.folder / "wrong.csv").write_text("0,0\n1,2,3\n")
    show(person, "bench")
    row = person.window.side.view("bench").stimuli.rows["vin"]
    press(row, "↓")
    take(person, row, "from courses/edges.csv")
    assert desk.bench.stimulus("vin").wave == "pwl(0 0 1e-9 1.2)"
    row = person.window.side.view("bench").stimuli.rows["vin"]
    press(row, "↓")
    take(person, row, "from wrong.csv")
    assert "vin: line 2" in str(desk.message)
