"""What is written can be read: over every demo cell and bench, at two window sizes and in both themes."""

from __future__ import annotations

import os
import subprocess
import sys
from itertools import pairwise

import pytest
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton, QWidget

from hearthline.app.canvas.tip import tip_at
from hearthline.app.canvas.words.nets import NetName, Tag
from hearthline.app.canvas.words.parts import BlockWords, PartWords
from hearthline.app.theme.palette import DAY, NIGHT
from hearthline.app.theme.theme import theme
from hearthline.core.circuit.symbols import GROUND_SYMBOL
from hearthline.core.models.library import library_names

LEAST = 9
"""Pixels of the smallest text."""


def layout(person):
    """The words of the drawing as it is shown."""
    drawing = person.window.drawing
    return drawing._layout(drawing.scene, drawing.look())


def shown_boxes(person) -> list[tuple[str, QRectF]]:
    """All words of the drawing, each with what it covers on the drawing."""
    return [
        (str(writing.item.key), box) for writing, place in layout(person).placed for box in writing.boxes(place)
    ]  # fmt: skip


def overlapping(boxes: list[tuple[str, QRectF]]) -> list[tuple[str, str]]:
    """Pairs that lie on each other by more than a pixel."""
    smaller = [(name, box.adjusted(1, 1, -1, -1)) for name, box in boxes]
    return [(a, b) for k, (a, one) in enumerate(smaller) for b, other in smaller[:k] if one.intersects(other)]


@pytest.mark.parametrize(
    ("size", "palette"), [((1280, 800), DAY), ((1920, 1080), NIGHT)], ids=["small day", "large night"]
)
def test_words_of_every_cell_can_be_read(opened, folder, size, palette):
    """None overlap, none leave the drawing; all parts show their name, nine of ten that have a gauge show it, and every named net
    its voltage."""
    one = opened(folder)
    theme.apply(palette)
    one.window.resize(*size)
    desk, drawing = one.desk, one.window.drawing
    one.window.show_side("both")
    for key in (*desk.project.benches, *(f"cell {name}" for name in desk.project.cells)):
        bench = desk.project.benches.get(key)
        if bench is not None:
            desk.show_bench(key)
        else:
            desk.show_cell(key.removeprefix("cell "))
        one.wait(lambda: desk.point is not None)
        one.wait(lambda: desk.stands_alone or desk.last_values is not None)
        for trail in ((), *(((part.name,)) for part in desk.cell.parts if part.device in desk.project.cells)):
            if trail:
                desk.leave_block(0)
                desk.enter(trail[0])
            check(one, drawing)


def check(one, drawing) -> None:
    """The shown drawing."""
    where = f"{one.desk.bench_key} {one.desk.trail}"
    boxes = shown_boxes(one)
    assert not overlapping(boxes), where
    paper = QRectF(drawing.rect()).translated(-drawing.view.x, -drawing.view.y).adjusted(-1, -1, 1, 1)
    outside = [name for name, box in boxes if not paper.contains(box)]
    assert not outside, where
    placed = layout(one).placed
    named = {writing.name for writing, _ in placed if isinstance(writing, PartWords | BlockWords)}
    assert named == {part.name for part in one.desk.cell.parts if part.device != GROUND_SYMBOL}, where
    gauges = [place.form > 0 for writing, place in placed if isinstance(writing, PartWords) and writing.gauge]
    assert sum(gauges) >= 0.9 * len(gauges), where
    if one.desk.last_values is not None and not one.desk.stands_alone:
        nets = {writing.name for writing, _ in placed if isinstance(writing, NetName)} - {"0", "gnd"}
        tagged = {writing.net for writing, _ in placed if isinstance(writing, Tag)}
        known = {net for net in nets if one.desk.last_values.voltage(one.desk.instance.net(net)) is not None}
        assert known <= tagged, where


def test_words_keep_their_size_and_stand_still(person):
    """At any zoom a name is as large as before; a value that changes moves nothing."""
    drawing = person.window.drawing
    before = {writing.item.key: place.box for writing, place in layout(person).placed}
    person.click_on_drawing("part", "M1")
    person.desk.change_part(person.desk.cell.part("M1").with_value("w", "1.1u"), "w")
    person.wait(lambda: person.desk.point.snapshot.cell.part("M1").values["w"] == "1.1u")
    after = {writing.item.key: place.box for writing, place in layout(person).placed}
    moved = [key for key in before if key != ("part", "M1") and before[key] != after.get(key)]
    assert not moved
    heights = set()
    for factor in (0.6, 1.5, 1.5):
        drawing.zoom(factor)
        heights |= {
            round(place.box[3] - place.box[1]) for one, place in layout(person).placed if isinstance(one, NetName)
        }
    assert len(heights) == 1
    assert min(heights) > LEAST


def test_the_cursor_covers_no_curve(person):
    """What it reads stands above the plot; names at curves lie on none of them."""
    person.run()
    person.point_at_chart(0, 0.62, 0.8)
    for strip in person.window.sheet.strips:
        assert strip.readout.text.startswith("vin ")
        assert strip.readout.geometry().bottom() < strip.plot.geometry().top() + 1
        boxes = [strip._box_of(label) for label in strip.labels if label.isVisible()]
        assert boxes
        for k, (left, top, right, bottom) in enumerate(boxes):
            assert left >= 0
            assert top >= 0
            assert right <= strip.box.width() + 4
            for other in boxes[:k]:
                apart = left > other[2] - 6 or other[0] > right - 6 or top > other[3] - 6 or other[1] > bottom - 6
                assert apart


def test_the_room_follows_the_work(person):
    """Charts take no room before a run; then drawing and charts have theirs; details come with the selection and leave the drawing
    where it is; the shelf comes by its key and on pointing."""
    window = person.window
    assert not window.side.isVisible()
    assert not window.details.isVisible()
    assert not window.shelf.isVisible()
    person.run()
    person.wait(lambda: window.side.isVisible())
    assert window.drawing.width() >= 520
    assert window.side.width() >= 640
    before = window.drawing.width()
    person.click_on_drawing("part", "M2")
    assert window.details.isVisible()
    assert window.drawing.width() == before
    window.desk.select("", "")
    assert not window.details.isVisible()
    window.holder.open_shelf()
    assert window.shelf.isVisible()
    names = [row.item.text for row in window.shelf.rows]
    assert "inv_x1_bench" not in names
    assert list(pairwise(names)).index(("inv_x1", "transfer")) >= 0
    person.click(window.side.words["charts"])
    assert not window.side.isVisible()
    person.click(window.side.words["bench"])
    assert window.side.view("bench").isVisible()


def test_what_had_no_room_is_there_on_pointing(person):
    """The pointer that rests on a part reads its sizes and values, on a wire the net's voltage, and elsewhere nothing."""
    drawing = person.window.drawing
    scene, look = drawing.scene, drawing.look()
    x, y = scene.cell.part("M2").at
    tip = tip_at(scene, look, x, y, 0.5)
    assert tip.startswith("M2  p_rvt\nw = 2.4u  l = 130n")
    assert "vth  −340 mV   threshold voltage" in tip
    a, b, net = next(piece for piece in scene.segments if piece[2] == "out")
    assert tip_at(scene, look, (a[0] + b[0]) / 2, (a[1] + b[1]) / 2, 0.3).startswith(f"net {net}: 626")
    assert tip_at(scene, look, x + 400, y, 0.5) == ""


def focusable(window) -> set[QWidget]:
    """Everything that the Tab key should reach now."""
    found = window.findChildren(QWidget)
    return {
        one for one in found
        if one.isVisible() and one.isEnabled() and one.focusPolicy() & Qt.FocusPolicy.TabFocus and one.focusProxy() is None
    }  # fmt: skip


def test_everything_is_reached_by_keyboard_and_has_a_name(person):
    """Tab goes through every control that can be seen, shelf and bench view included; each says what it is."""
    person.run()
    person.window.holder.pin_shelf(True)
    person.click(person.window.side.words["bench"])
    person.click_on_drawing("part", "M2")
    wanted, reached = focusable(person.window), set()
    widget = person.window.drawing
    widget.setFocus()
    for _ in range(20_000):
        reached.add(widget)
        widget = widget.nextInFocusChain()
        if widget is person.window.drawing:
            break
    assert not wanted - reached
    nameless = [
        type(one).__name__ for one in wanted
        if not (one.accessibleName() or getattr(one, "text", lambda: "")() or one.toolTip() or one.objectName())
    ]  # fmt: skip
    assert not nameless


@pytest.mark.parametrize("size", [(1024, 700), (1280, 800)])
def test_nothing_is_cut_off_at_the_smallest_window(opened, folder, size):
    """No button of the window is narrower than its words, and the foot stays whole."""
    one = opened(folder)
    one.window.resize(*size)
    one.run()
    one.wait(lambda: one.window.width() == size[0])
    assert one.window.hearth.geometry().bottom() < one.window.height()
    for button in one.window.findChildren(QPushButton):
        if button.isVisible() and button.text():
            wide = button.fontMetrics().horizontalAdvance(button.text())
            assert button.width() >= wide, button.text()


def test_a_quantity_says_what_it_is_and_whose_equation_gives_it(person):
    """In the tips of the details: meaning, unit, text."""
    person.click_on_drawing("part", "M2")
    tip = person.window.details.values["vdsat"].parentWidget().toolTip()
    assert tip.startswith("drain-source voltage at the edge of saturation [V], by the equations of ")
    name = tip.rsplit(" ", 4)[-4].removesuffix(".va")
    assert name in library_names()


SCALED = """
import sys
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QPushButton
application = QApplication([])
from hearthline.app.start import DEMO, open_window
window = open_window(DEMO)
window.resize(1024, 700)
window.show()
for _ in range(3000):
    QTest.qWait(10)
    if window.desk.point is not None:
        break
ratio = window.devicePixelRatioF()
cut = [b.text() for b in window.findChildren(QPushButton)
       if b.isVisible() and b.width() < b.fontMetrics().horizontalAdvance(b.text())]
picture = window.grab()
print(ratio, picture.width(), window.width(), cut, len(window.drawing._layout(window.drawing.scene, window.drawing.look()).placed))
window.leave()
"""


@pytest.mark.parametrize("factor", ["0.8", "1.25", "1.5", "1.6", "2"])
def test_other_scales_of_the_screen(factor):
    """Sharp, in a window of the same logical size, with nothing cut off; 0.8 and 1.6 are texts of 8 and 16 points."""
    environment = {**os.environ, "QT_SCALE_FACTOR": factor, "QT_QPA_PLATFORM": "offscreen"}
    done = subprocess.run(
        [sys.executable, "-c", SCALED], env=environment, capture_output=True, text=True, timeout=120, check=True
    )
    ratio, pixels, width, cut, words = done.stdout.splitlines()[-1].split()
    assert float(ratio) == float(factor)
    assert abs(int(pixels) - int(width) * float(factor)) <= 1
    assert int(width) == 1024
    assert cut == "[]"
    assert int(words) >= 6


def test_drawing_and_views_are_divided_by_hand_and_given_back(person):
    """The bar between them moves, a double click restores; a strip is made large by a double click on its head, and small by
    another; the table of conditions is put away."""
    person.run()
    split, sheet = person.window.room.split, person.window.sheet
    usual = split.sizes()
    handle = split.handle(1)
    split.moveSplitter(usual[0] - 120, 1)
    assert split.sizes()[0] == usual[0] - 120
    QTest.mouseDClick(handle, Qt.MouseButton.LeftButton)
    assert split.sizes() == usual
    first, second = sheet.strips
    QTest.mouseDClick(second.head, Qt.MouseButton.LeftButton, pos=second.head.rect().center())
    assert (first.isVisible(), second.isVisible()) == (False, True)
    QTest.mouseDClick(second.head, Qt.MouseButton.LeftButton, pos=second.head.rect().center())
    assert (first.isVisible(), second.isVisible()) == (True, True)
    before = first.height()
    person.click(sheet.readings.fold_button)
    assert not sheet.readings.table.isVisible()
    person.wait(lambda: first.height() > before)
    person.click(sheet.readings.fold_button)
    assert sheet.readings.table.isVisible()
