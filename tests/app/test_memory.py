"""What the window remembers from one day to the next, and how large its texts are."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from hearthline.app.start import open_window
from hearthline.app.state.last_points import LastPoints
from hearthline.app.state.memory import MOST_PROJECTS, Memory
from hearthline.app.theme.size import LARGEST, NAME, SCALE, SMALLEST, limited, scale_texts


def test_values_come_back_by_project(tmp_path):
    """Each project has its own; those of all projects stand beside them; the oldest project is forgotten first."""
    memory = Memory(tmp_path / "deep" / "desks.json")
    memory.put("shelf kept", True, tmp_path / "a")
    memory.put("shelf kept", False, tmp_path / "b")
    again = Memory(tmp_path / "deep" / "desks.json")
    assert again.get("shelf kept", False, tmp_path / "a") is True
    assert again.get("shelf kept", True, tmp_path / "b") is False
    assert again.get("shelf kept", True) is True
    for k in range(MOST_PROJECTS):
        again.put("x", k, tmp_path / f"p{k}")
    assert again.get("shelf kept", "nothing", tmp_path / "a") == "nothing"
    assert again.get("x", -1, tmp_path / f"p{MOST_PROJECTS - 1}") == MOST_PROJECTS - 1


@pytest.mark.parametrize("text", ["", "{", "[1, 2]", '{"": 5, "a": {"shelf kept": "yes"}}', "[" * 100_000])
def test_a_damaged_memory_is_as_good_as_none(tmp_path, text):
    """And it is written anew."""
    file = tmp_path / "desks.json"
    file.write_text(text)
    memory = Memory(file)
    assert memory.get("shelf kept", False) is False
    memory.put("shelf kept", True)
    assert Memory(file).get("shelf kept", False) is True


def test_a_window_opens_as_it_was_left(qtbot, folder, tmp_path):
    """Shelf, details and the first card."""
    file = tmp_path / "desks.json"
    first = open_window(folder, None, file)
    qtbot.addWidget(first)
    first.holder.pin_shelf(True)
    first.keep_details()
    first.room.first.button.click()
    first.leave()
    second = open_window(folder, None, file)
    second.show()
    assert second.shelf.isVisible()
    assert second.details.isVisible()
    second.keep_details()
    assert not second.details.isVisible()
    assert not second.room.first.isVisible()
    second.leave()
    second.deleteLater()


def test_a_drawing_shows_the_point_it_was_left_with_until_it_is_solved_again(qtbot, folder, tmp_path):
    """In grey: `look` says that it is old. A damaged file is as good as none."""
    file = tmp_path / "desks.json"
    first = open_window(folder, "ota_sense_bench-loop", file)
    qtbot.addWidget(first)
    qtbot.waitUntil(lambda: first.desk.point is not None and first.desk.point.dataset is not None, timeout=20000)
    left = first.desk.last_values.voltage("out")
    first.leave()
    second = open_window(folder, "ota_sense_bench-loop", file)
    assert second.desk.point is None
    assert second.desk.last_values.voltage("out") == left
    assert second.drawing.look().stale
    qtbot.waitUntil(lambda: second.desk.point is not None, timeout=20000)
    assert not second.drawing.look().stale
    second.leave()
    second.deleteLater()
    kept = next((tmp_path / "points").glob("*.json"))
    for damaged in ("", "[]", '{"ota_sense_bench-loop": {"V(out)": 3, "": [1, 2]}}'):
        kept.write_text(damaged)
        assert LastPoints(tmp_path / "points").values(folder, "ota_sense_bench-loop") is None


@pytest.mark.parametrize(
    ("points", "outside", "factor"),
    [(10, "", ""), (8, "", "0.8"), (16, "1.5", "2.4"), (99, "", "1.6"), ("x", "2", "2")],
)
def test_texts_grow_with_all_the_rest(points, outside, factor):
    """Between 8 and 16 points, on top of a scale from outside."""
    environment = {SCALE: outside} if outside else {}
    scale_texts(points, environment)
    assert environment.get(SCALE, "") == factor


def test_the_size_of_texts_is_a_command(person):
    """A point at a time, kept for the next start, within bounds."""
    do = {one.name: one.action for one in person.window.commands}
    for _ in range(12):
        do["Larger texts"]()
    assert person.window.memory.get(NAME, 0) == LARGEST
    for _ in range(12):
        do["Smaller texts"]()
    assert person.window.memory.get(NAME, 0) == SMALLEST
    assert limited("x") == 10


def names_of(person) -> list[str]:
    """Cells on the shelf, from above."""
    return [
        row.item.text
        for row in person.window.shelf.rows
        if row.item.depth == 0 and row.item.text in person.desk.project.cells
    ]


def test_cells_are_put_in_order_by_hand(person):
    """By a row's menu or Alt and an arrow; benches go along; the order is remembered for the project, and new cells come last."""
    person.key(Qt.Key.Key_S)
    before = names_of(person)
    row = next(row for row in person.window.shelf.rows if row.item.text == before[2] and row.item.depth == 0)
    QTest.keyClick(row, Qt.Key.Key_Up, Qt.KeyboardModifier.AltModifier)
    assert names_of(person) == [before[0], before[2], before[1], *before[3:]]
    row = next(row for row in person.window.shelf.rows if row.item.text == before[2] and row.item.depth == 0)
    dict(row.item.menu)["Down on the shelf"]()
    assert names_of(person) == before
    assert person.window.editor.new_cell("fresh")
    assert names_of(person)[-1] == "fresh"


def test_the_filter_of_the_shelf_keeps_what_a_row_stands_under(person):
    """All words, in any order; its benches with their cell; Return opens."""
    person.key(Qt.Key.Key_S)
    shelf = person.window.shelf
    QTest.keyClicks(shelf.filter, "perio")
    assert [row.item.text for row in shelf.rows] == ["ring11", "period"]
    QTest.keyClick(shelf.rows[1], Qt.Key.Key_Return)
    assert person.desk.bench_key == "ring11_bench-period"
    shelf.filter.setText("no such thing")
    assert shelf.rows == []


def test_the_shelf_goes_when_its_work_is_done(person):
    """Escape empties the filter, then puts it away; so does Return on a row, and a click on the desk; folding the kit does not."""
    shelf = person.window.shelf
    person.key(Qt.Key.Key_S)
    assert shelf.filter.hasFocus()
    QTest.keyClicks(shelf.filter, "ring")
    QTest.keyClick(shelf.filter, Qt.Key.Key_Escape)
    assert shelf.filter.text() == ""
    assert shelf.isVisible()
    QTest.keyClick(shelf.filter, Qt.Key.Key_Escape)
    assert not shelf.isVisible()
    person.key(Qt.Key.Key_S)
    count = len(shelf.rows)
    QTest.keyClick(shelf.rows[0], Qt.Key.Key_Return)
    assert shelf.isVisible()
    assert len(shelf.rows) > count
    QTest.keyClick(next(row for row in shelf.rows if row.item.text == "ring11"), Qt.Key.Key_Return)
    assert person.desk.cell.name == "ring11"
    assert not shelf.isVisible()
    person.key(Qt.Key.Key_S)
    person.window.drawing.setFocus()
    person.wait(lambda: not shelf.isVisible())
