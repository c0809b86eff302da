"""Each panel by mouse and key: what it shows, what it refuses, and that nothing is lost."""

from __future__ import annotations

import re
from dataclasses import replace

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QColor, QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLineEdit, QMenu, QPushButton

from hearthline.app.panels.label import Label
from hearthline.app.theme.palette import PALETTES
from hearthline.core.bench.verdict import State
from tests.approximation import approx

CONTROL = Qt.KeyboardModifier.ControlModifier


# -- details


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("3.2x", "'x' in '3.2x'"),
        ("3.2 V", "is in V"),
        ("3.2", "p_rvt allows 160 nm to 100 µm"),
        ("2*wq", "unknown parameter 'wq'"),
        ("-1u", "above 0"),
    ],
)
def test_a_field_refuses_nonsense_in_place(person, text, said):
    """The reason stands under the field, the circuit stays as it was, and leaving the field brings the value back."""
    person.click_on_drawing("part", "M2")
    field = person.window.details.lines["w"]
    person.type_into(field, text)
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert said in field.parentWidget().echo.text()
    assert field.property("wrong") is True
    assert person.desk.cell.part("M2").values["w"] == "2.4u"
    person.click(person.window.details.lines["l"])
    assert field.text() == "2.4u"
    assert field.property("wrong") is False


def test_a_field_shows_what_it_understood(person):
    """With the micro sign, and every keystroke that makes sense is in the circuit at once."""
    person.click_on_drawing("part", "M1")
    field = person.window.details.lines["w"]
    person.type_into(field, "1.5 µm")
    assert field.parentWidget().echo.text() == "= 1.5 µm"
    person.wait(lambda: person.desk.point.snapshot.cell.part("M1").values["w"] == "1.5 µm")


def test_escape_takes_a_refused_text_back(person):
    """And the field is left."""
    person.click_on_drawing("part", "M2")
    field = person.window.details.lines["w"]
    person.type_into(field, "wide")
    QTest.keyClick(field, Qt.Key.Key_Escape)
    assert field.text() == "2.4u"


def test_a_pin_shows_its_stimulus_and_moves_the_point(person):
    """Typing another input voltage solves there."""
    person.click_on_drawing("pin", "in")
    field = person.window.details.lines["dc vin"]
    person.type_into(field, "0")
    person.wait(lambda: person.voltage("in") == 0.0)
    assert person.voltage("out") == approx(1.2, abs=1e-4)
    assert person.window.card.text.text().startswith("live · ")
    assert "M1 off" in person.window.card.text.text()


def test_values_shown_on_the_drawing_are_chosen_in_the_details(person):
    """A chip takes a column away, undo brings it back."""
    person.click_on_drawing("part", "M2")
    chip = next(b for b in person.window.details.findChildren(QPushButton) if b.text() == "vth")
    person.click(chip)
    assert "vth" not in person.desk.bench.columns("M")
    person.desk.documents.undo.undo()
    assert "vth" in person.desk.bench.columns("M")


# -- drawing


def test_pan_zoom_fit_and_select_nothing(person):
    """Wheel around the pointer, the middle button and the arrows pan, 0 fits, a click on the paper selects nothing."""
    drawing = person.window.drawing
    fitted = drawing.view
    place = QPointF(120, 140)
    before = drawing.view.to_grid(place)
    wheel = QWheelEvent(
        place, drawing.mapToGlobal(place), QPoint(), QPoint(0, 120), Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(drawing, wheel)
    assert drawing.view.scale > fitted.scale
    assert drawing.view.to_grid(place) == approx(before)
    person.desk.select("part", "M1")
    person.click(drawing, QPoint(20, 20))
    assert person.desk.selection.kind == ""
    x = drawing.view.x
    QTest.mousePress(drawing, Qt.MouseButton.MiddleButton, pos=QPoint(20, 20))
    QTest.mouseMove(drawing, QPoint(50, 20))
    QTest.mouseRelease(drawing, Qt.MouseButton.MiddleButton, pos=QPoint(50, 20))
    assert drawing.view.x == approx(x + 30)
    QTest.keyClick(drawing, Qt.Key.Key_Left)
    assert drawing.view.x > x + 30
    person.key(Qt.Key.Key_0)
    assert drawing.view == fitted


def test_a_net_under_the_pointer_lights_up_with_its_strip(person):
    """In the drawing and in the title of its chart."""
    person.run()
    drawing = person.window.drawing
    QTest.mouseMove(drawing, drawing.view.to_screen(6, 0).toPoint())
    assert person.desk.pointed_net == "out"
    assert person.window.sheet.strips[0].title.font().underline()
    assert not person.window.sheet.strips[1].title.font().underline()


def test_keys_give_either_side_all_the_room(person):
    """1, 3, 2."""
    window = person.window
    for key, drawing, charts in ((Qt.Key.Key_1, True, False), (Qt.Key.Key_3, False, True), (Qt.Key.Key_2, True, True)):
        person.key(key)
        assert (window.drawing.isVisible(), window.sheet.isVisible()) == (drawing, charts)


def test_digits_go_to_the_selected_part_and_else_to_the_view(person):
    """With a part selected a 1 begins its width; with nothing selected it gives the drawing all the room."""
    person.key(Qt.Key.Key_2)
    person.click_on_drawing("part", "M1")
    QTest.keyClicks(person.window.drawing, "1")
    assert person.window.sheet.isVisible()
    assert person.window.details.lines["w"].text() == "1"
    QTest.keyClick(person.window.details.lines["w"], Qt.Key.Key_Escape)
    person.window.drawing.setFocus()
    QTest.keyClick(person.window.drawing, Qt.Key.Key_Escape)
    QTest.keyClicks(person.window.drawing, "1")
    assert not person.window.sheet.isVisible()


# -- charts


def test_one_cursor_reads_all_curves(person):
    """The pointer over one strip moves the cursor in all; the nearest curve is named; the table reads all 45."""
    person.run()
    sheet, desk = person.window.sheet, person.desk
    lane = 44
    y = float(np.interp(0.6, desk.results.dataset.points, desk.results.dataset.curve("V(out)")[lane]))
    person.point_at_chart(0, 0.6, y)
    assert desk.results.cursor == approx(0.6, abs=0.01)
    assert desk.results.lane >= 0
    text = sheet.strips[0].readout.text
    assert re.search(r"vin 59\d\.\d mV|vin 60\d\.\d mV", text)
    assert "°C" in text
    assert sheet.strips[1].cursor.isVisible()
    sheet.readings.show_quantity("V(out), at the cursor")
    expected = [
        np.interp(desk.results.cursor, desk.results.dataset.points, row) for row in desk.results.dataset.curve("V(out)")
    ]
    np.testing.assert_allclose(sheet.readings.table.cells.values, expected)


def test_a_click_holds_the_cursor_and_keys_step_it(person):
    """Held until the next click; J and L go from point to point; Shift+K takes it away."""
    person.run()
    desk = person.desk
    viewport = person.window.sheet.strips[0].plot.viewport()
    person.point_at_chart(0, 0.5, 0.6)
    QTest.mouseClick(viewport, Qt.MouseButton.LeftButton, pos=person.chart_place(0, 0.5, 0.6))
    held = desk.results.cursor
    person.point_at_chart(0, 0.9, 0.6)
    assert desk.results.cursor == held
    person.window.drawing.setFocus()
    for key, step in ((Qt.Key.Key_L, 1), (Qt.Key.Key_L, 2), (Qt.Key.Key_J, 1)):
        person.key(key)
        k = int(np.argmin(abs(desk.results.dataset.points - held)))
        assert desk.results.cursor == approx(desk.results.dataset.points[k + step])
    person.key(Qt.Key.Key_K, Qt.KeyboardModifier.ShiftModifier)
    assert desk.results.cursor is None


def test_every_curve_can_be_told_apart_by_any_axis(person):
    """Groups by supply, temperature or corner, each labelled on its curve."""
    person.run()
    sheet = person.window.sheet
    for axis, labels in (
        ("vdd", {"1.08 V", "1.2 V", "1.32 V"}),
        ("temperature", {"−40 °C", "27 °C", "150 °C"}),
        ("corner", {"typ", "ff", "ss", "fs", "sf"}),
    ):
        person.click(sheet.axis_button)
        menu = next(m for m in sheet.axis_button.findChildren(QMenu) if m.isVisible())
        menu.setActiveAction(next(a for a in menu.actions() if a.text() == axis))
        QTest.keyClick(menu, Qt.Key.Key_Return)
        assert {label.toPlainText() for label in sheet.strips[0].labels} == labels
        assert len({item.opts["pen"].color().rgb() for item in sheet.strips[0].items}) == len(labels)
        assert len({tuple(item.opts["pen"].dashPattern()) for item in sheet.strips[0].items}) == len(labels)


def test_a_cell_of_the_table_chooses_its_curve(person):
    """And shows it in both strips."""
    person.run()
    table = person.window.sheet.readings.table
    person.click(table, table.box_of(30).center())
    assert person.desk.results.lane == 30
    assert all(strip.items[30].zValue() == 30 for strip in person.window.sheet.strips)


# -- hearth line


def test_a_click_on_a_specification_shows_its_worst_condition(person):
    """In the table and in the strips."""
    person.run()
    segment = person.window.hearth.segments[1]
    person.click(segment, QPoint(20, 15))
    assert person.desk.results.lane == person.desk.results.verdicts["noise margin low"].lane
    assert person.window.sheet.readings.quantity == "noise margin low"


def test_limits_follow_typing_and_refuse_nonsense(person):
    """The verdict of the stored numbers at once; a bad limit is marked and the last good one stays in force."""
    person.run()
    segment, desk = person.window.hearth.segments[0], person.desk
    assert desk.results.verdicts["switching point"].state is State.FAILS
    person.type_into(segment.low, "0.40")
    assert desk.results.verdicts["switching point"].state is State.HOLDS
    person.type_into(segment.low, "0.4x")
    assert segment.low.property("wrong") is True
    assert desk.bench.specifications[0].low == "0.4"
    QTest.keyClick(segment.low, Qt.Key.Key_Return)
    assert segment.low.text() == "0.4"
    person.type_into(segment.high, "")
    QTest.keyClick(segment.high, Qt.Key.Key_Backspace)
    assert desk.bench.specifications[0].high == ""
    desk.documents.undo.undo()
    assert desk.bench.specifications[0].high == "0.62"


# -- top line, search, keys, theme


def menu_entry(person, text: str) -> None:
    """Triggers an entry of the open menu."""
    menu = next(m for m in person.window.findChildren(QMenu) if m.isVisible())
    next(action for action in menu.actions() if action.text() == text).trigger()
    menu.close()


def test_chips_choose_the_condition_of_the_live_point(person):
    """Corner, temperature, supply; undo goes back."""

    def chip(text: str) -> QPushButton:
        return next(b for b in person.window.topline.findChildren(QPushButton) if b.text() == text and b.isVisible())

    before = person.voltage("out")
    person.click(chip("typ"))
    menu_entry(person, "fs")
    person.wait(lambda: person.desk.point.snapshot.bench.point.corner == "fs")
    assert person.voltage("out") < before
    person.click(chip("vdd 1.2 V"))
    menu_entry(person, "1.32 V")
    person.wait(lambda: person.voltage("vdd") == approx(1.32))
    person.click(chip("27 °C"))
    menu_entry(person, "150 °C")
    person.wait(lambda: person.desk.point.snapshot.bench.point.temperature == "150")
    for _ in range(3):
        person.desk.documents.undo.undo()
    assert person.desk.bench.point.corner == "typ"


def test_a_corner_can_be_left_out_of_the_run(person):
    """From the chip that counts the conditions."""
    grid = next(b for b in person.window.topline.findChildren(QPushButton) if b.text() == "45 conditions")
    person.click(grid)
    menu_entry(person, "corner sf")
    person.run()
    assert person.desk.results.dataset.lanes == 36


def test_temperatures_and_supplies_of_a_run_are_edited_as_lists(person):
    """Any number of values, refused in place where one is nonsense; the chip counts along."""
    person.click(person.window.side.words["bench"])
    rows = person.window.side.view("bench").conditions.rows
    person.type_into(rows["temperature"].line, "-40, 85x")
    assert "'x' in '85x'" in rows["temperature"].echo.text()
    person.type_into(rows["temperature"].line, "-40, 85")
    QTest.keyClick(rows["temperature"].line, Qt.Key.Key_Return)
    assert person.desk.bench.grid.temperatures == ("-40", "85")
    person.type_into(rows["vdd"].line, "1.2")
    QTest.keyClick(rows["vdd"].line, Qt.Key.Key_Return)
    buttons = person.window.topline.findChildren
    person.wait(lambda: "10 conditions" in [b.text() for b in buttons(QPushButton) if b.isVisible()])
    person.run()
    assert person.desk.results.dataset.lanes == 10
    assert set(person.desk.results.dataset.conditions["temperature"]) == {-40.0, 85.0}


def test_space_finds_parts_readings_and_commands(person):
    """Typed words narrow the list; Return does it; Escape puts it away."""
    window = person.window
    window.drawing.setFocus()
    person.key(Qt.Key.Key_Space)
    assert window.search.isVisible()
    QTest.keyClicks(window.search.field, "m2")
    QTest.keyClick(window.search.field, Qt.Key.Key_Return)
    assert (person.desk.selection.name, window.search.isVisible()) == ("M2", False)
    person.key(Qt.Key.Key_Space)
    QTest.keyClicks(window.search.field, "charts alone")
    QTest.keyClick(window.search.field, Qt.Key.Key_Return)
    assert not window.drawing.isVisible()
    person.key(Qt.Key.Key_Space)
    QTest.keyClicks(window.search.field, "zzz")
    assert "nothing of that name" in window.search.list.item(0).text()
    QTest.keyClick(window.search.field, Qt.Key.Key_Escape)
    assert not window.search.isVisible()


def test_the_help_sheet_lists_every_key(person):
    """F1 shows it and puts it away."""
    person.key(Qt.Key.Key_F1)
    assert person.window.help.isVisible()
    shown = " ".join(label.text() for label in person.window.help.findChildren(Label))
    for command in (c for c in person.window.commands if c.keys):
        assert command.name in shown
        assert all(key in shown for key in command.keys)
    person.key(Qt.Key.Key_F1)
    assert not person.window.help.isVisible()
    keys = [key for command in person.window.commands for key in command.keys]
    assert len(keys) == len(set(keys)), "a key that stands twice does nothing"


def test_night_and_day_without_restart(person):
    """The paper becomes coal, and paper again."""
    person.run()
    for name in ("night", "day"):
        person.key(Qt.Key.Key_N, CONTROL | Qt.KeyboardModifier.ShiftModifier)
        corner = QColor(person.window.drawing.grab().toImage().pixel(2, 2))
        assert corner.name().lower() == PALETTES[name].paper.lower()


def luminance(color: str) -> float:
    """Relative luminance (W3C, Web Content Accessibility Guidelines 2.1)."""
    parts = [int(color[k : k + 2], 16) / 255 for k in (1, 3, 5)]
    linear = [p / 12.92 if p <= 0.03928 else ((p + 0.055) / 1.055) ** 2.4 for p in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


@pytest.mark.parametrize("name", PALETTES)
@pytest.mark.parametrize("role", ["ink", "quiet", "teal", "ember_ink", "amber_ink"])
@pytest.mark.parametrize("ground", ["paper", "panel"])
def test_text_has_contrast(name, role, ground):
    """At least 4.5:1, the ratio of the Web Content Accessibility Guidelines 2.1."""
    palette = PALETTES[name]
    light, dark = sorted((luminance(getattr(palette, role)), luminance(getattr(palette, ground))), reverse=True)
    assert (light + 0.05) / (dark + 0.05) >= 4.5


# -- closing


def test_closing_with_changes_asks_in_the_window(person):
    """Keep working, then save and close."""
    window, desk = person.window, person.desk
    desk.change_part(desk.cell.part("M2").with_value("w", "3u"), "w")
    assert "*" in window.windowTitle()
    assert not window.close()
    assert window.question.isVisible()
    buttons = {button.text(): button for button in window.question.findChildren(QPushButton)}
    person.click(buttons["Keep working"])
    assert window.isVisible()
    window.close()
    person.click(buttons["Save and close"])
    assert not window.isVisible()
    assert '"3u"' in (desk.project.folder / "cells" / "inv_x1.toml").read_text()


def test_a_condition_that_does_not_converge_is_marked_and_says_why(person):
    """The others stand; the table, the verdict and the note name it."""
    desk = person.desk
    bench = desk.bench
    trouble = replace(bench.stimulus("vdd"), dc="vdd > 1.3 ? 1e200 : vdd")
    desk.change_bench(replace(bench.with_stimulus(trouble), grid=replace(bench.grid, corners=("typ",))), "trouble")
    person.run()
    assert sorted(desk.results.failures) == [2, 5, 8]
    assert np.isfinite(desk.results.readings["switching point"][[0, 1, 3, 4, 6, 7]]).all()
    verdict = desk.results.verdicts["switching point"]
    assert (verdict.state, verdict.missing) == (State.FAILS, 3)
    sheet = person.window.sheet
    assert "3 did not converge" in sheet.note.text()
    assert "typ 150 °C 1.32 V: " in sheet.note.toolTip()
    assert sheet.readings.table.words(2) == f"typ −40 °C 1.32 V: –\n{desk.results.failures[2]}"
    assert "\n" not in sheet.readings.table.words(0)


def test_any_other_temperature_is_typed_into_its_chip(person):
    """Under the values of the grid; Return puts it."""
    chip = next(b for b in person.window.topline.findChildren(QPushButton) if b.text() == "27 °C")
    person.click(chip)
    menu = next(m for m in chip.findChildren(QMenu) if m.isVisible())
    field = menu.findChild(QLineEdit)
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "85")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert person.desk.bench.point.temperature == "85"
