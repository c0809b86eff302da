"""The device desk and the text view, by mouse and keys in the real window."""

from __future__ import annotations

import threading

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from hearthline.app.entries import entries
from hearthline.app.panels.label import Label
from hearthline.app.panels.shelf import Row
from hearthline.core.circuit.cell import Part


def row(person, text: str) -> Row:
    """A row of the shelf, which its key opens."""
    if not person.window.shelf.isVisible():
        person.key(Qt.Key.Key_S)
    return next(
        r for r in person.window.shelf.findChildren(Row) if r.item.text == text and r.isVisibleTo(person.window)
    )


def device_row(person, name: str) -> Row:
    """The row of a device of the kit, whose devices are folded away at first."""
    if not any(one.item.text == name for one in person.window.shelf.rows):
        person.click(row(person, "LM130"))
        rows = person.window.shelf.findChildren
        person.wait(lambda: any(r.item.text == name and r.isVisibleTo(person.window) for r in rows(Row)))
    return row(person, name)


def study(person, name: str):
    """Opens a device from the shelf and waits for its sheets."""
    person.click(device_row(person, name))
    person.wait(lambda: person.desk.study.answer is not None and person.desk.study.answer.found.subject.name == name)
    return person.window.device_desk


def number(desk, name: str):
    """A number taken from the curves."""
    return next(r for r in desk.numbers if r.name.text() == name)


def test_a_device_of_the_kit_shows_its_sheets_and_gives_way_again(person):
    """A click on the shelf; all charts have curves; Backspace leads back to the cell."""
    desk = study(person, "n_rvt")
    assert person.window.middle.currentWidget() is desk
    assert desk.title.text() == "n_rvt"
    assert len(desk.sheets.charts) == len(desk.sheets.specs) >= 9
    for chart in desk.sheets.charts:
        assert chart.items
    person.key(Qt.Key.Key_Backspace)
    assert person.window.middle.currentWidget() is person.window.room
    assert person.window.drawing.isVisible()


def test_a_number_draws_how_it_was_read_off(person):
    """Its chart becomes large, with the construction and the formula; once more, and it goes away."""
    desk = study(person, "n_rvt")
    person.click(number(desk, "lambda"))
    assert desk.sheets.large is not None
    assert desk.sheets.specs[desk.sheets.large].title == "Output family"
    assert "I2 - I1" in desk.sheets.charts[desk.sheets.large].note.text()
    person.click(number(desk, "lambda"))
    assert desk.sheets.number is None
    person.click(desk.all_button)
    assert desk.sheets.large is None


def test_sizes_corners_and_temperatures_change_the_curves(person):
    """Typing a width solves anew; a size the kit does not allow is refused in place; corners add curves."""
    desk = study(person, "n_rvt")
    before = desk.study.answer.found.datasets["output"].curve("id").max()
    person.type_into(desk.fields["w"], "2u")
    person.wait(lambda: desk.study.answer.found.datasets["output"].curve("id").max() > 1.9 * before)
    person.type_into(desk.fields["w"], "1m")
    assert desk.fields["w"].property("wrong")
    assert "allows 160 nm to 100 µm" in desk.fields["w"].toolTip()
    assert desk.study.wishes.sizes["w"] == "2u"
    person.click(desk.corner_chips["ff"])
    person.wait(lambda: "ff" in desk.study.answer.found.datasets["output"].conditions["corner"])
    person.type_into(desk.fields["temperatures"], "27, 125")
    person.wait(lambda: desk.study.answer.found.datasets["output"].lanes == 4 * 5)
    desk.sheets.choose_axis("corner")
    desk.sheets.choose_axis("temperature")
    person.click(desk.corner_chips["ff"])
    person.click(desk.corner_chips["typ"])
    assert desk.corner_chips["typ"].isChecked()


def test_the_width_for_a_bias(person):
    """Current and overdrive give the width by the full model and by the square law; gm/ID instead of the overdrive too."""
    desk = study(person, "n_rvt")
    person.wait(lambda: "full model: W =" in desk.sized.text())
    first = desk.sized.text()
    person.type_into(desk.fields["current"], "200u")
    person.wait(lambda: desk.sized.text() != first and "square law" in desk.sized.text())
    person.type_into(desk.fields["gm/id"], "90")
    person.wait(lambda: "out of reach" in desk.sized.text())


def test_points_of_a_data_sheet_lie_over_the_curve(person, tmp_path):
    """A CSV file over the large chart, with the largest error in percent; a broken file says its line."""
    desk = study(person, "n_rvt")
    desk.sheets.enlarge(0)
    dataset = desk.study.answer.found.datasets["output"]
    lane = dataset.lanes - 1
    path = tmp_path / "sheet.csv"
    path.write_text(
        "vds,id\n"
        + "\n".join(f"{x},{np.interp(x, dataset.points, dataset.curve('id')[lane]) / 1.04}" for x in (0.2, 0.6, 1.0))
    )
    desk.compare_with(path)
    assert "at most 4.0 % off" in desk.sheets.charts[0].note.text()
    path.write_text("1,2\nnonsense\n")
    desk.compare_with(path)
    assert "sheet.csv:2" in desk.status.text()


def test_any_quantity_may_be_the_axis(person):
    """A diode over its own junction voltage, or over the voltage at its terminals; points on request."""
    desk = study(person, "d_np")
    desk.sheets.enlarge(0)
    assert "against vd" in desk.sheets.charts[0].note.text()
    desk.sheets.choose_x("vp")
    assert "against v [" in desk.sheets.charts[0].note.text()
    before = len(desk.sheets.charts[0].items)
    person.click(desk.points_button)
    assert len(desk.sheets.charts[0].items) > before


@pytest.mark.parametrize("name", ["p_rvt", "npn_v", "r_poly", "var_mos"])
def test_other_families(person, name):
    """Each has its own sheets."""
    desk = study(person, name)
    assert all(chart.items for chart in desk.sheets.charts)


@pytest.mark.parametrize("name", ["l_spiral", "pad", "bond_wire"])
def test_a_small_circuit_is_seen_over_frequency(person, name):
    """Its inductance or capacitance, quality and resistance."""
    desk = study(person, name)
    assert all(chart.items for chart in desk.sheets.charts)
    assert desk.study.answer.found.sheets.charts[0].y == ("c" if name == "pad" else "l")


def test_a_model_card_of_a_deck(person):
    """Found by Space-search under the deck's name; its sheets are those of any device."""
    deck = person.desk.project.folder / "decks" / "mine.cir"
    deck.write_text("mine\n.model nch nmos (vto=0.5 kp=120u lambda=0.05 tox=4n)\n.model dd d (is=1f)\n.op\n")
    entry = next(e for e in entries(person.window) if e.text == "nch")
    entry.action()
    person.wait(lambda: person.desk.study.answer is not None and person.desk.study.subject.name == "nch")
    desk = person.window.device_desk
    assert "model of mine.cir" in desk.meaning.text()
    assert all(chart.items for chart in desk.sheets.charts)
    person.type_into(desk.fields["w"], "5u")
    before = desk.study.answer
    person.wait(lambda: desk.study.answer is not before or desk.study.answer.found.subject.number("w") == 5e-6)
    deck.write_text("mine\n.model nch nmos (vto={\n")
    assert not [e for e in entries(person.window) if e.text == "dd"]


# -- the text view


def text_view(person, name: str):
    """Opens a device text and waits until it is compiled."""
    person.click(row(person, name))
    view = person.window.device_desk.text
    person.wait(lambda: view.result is not None and view.path.name == name)
    return view


def test_a_text_compiles_while_it_is_typed(person):
    """A mistake is marked on its line and said below; mended, the sheets follow."""
    view = text_view(person, "cnt_fet.va")
    person.wait(lambda: person.desk.study.answer is not None)
    assert view.state.text() == "compiles"
    line = next(k for k, t in enumerate(view.text.split("\n"), 1) if "barrier = control" in t)
    good = view.text
    view.editor.setPlainText(good.replace("barrier = control", "barier = control"))
    person.wait(lambda: bool(view.editor.wrong))
    assert line in view.editor.wrong
    assert "did you mean 'barrier'" in view.list.item(0).text()
    assert view.list.isVisible()
    view.list.itemClicked.emit(view.list.item(0))
    assert view.editor.textCursor().blockNumber() + 1 == line
    before = person.desk.study.answer
    view.editor.setPlainText(good.replace("0.43e-9", "0.30e-9"))
    person.wait(lambda: not view.editor.wrong and person.desk.study.answer is not before)
    assert person.window.device_desk.text.unsaved


def test_a_new_text_is_saved_and_can_be_placed(person):
    """Ctrl+N begins one, Ctrl+S writes it; it stands on the shelf, and a part of it has a symbol with its ports."""
    QTest.keyClick(person.window, Qt.Key.Key_N, Qt.KeyboardModifier.ControlModifier)
    view = person.window.device_desk.text
    person.wait(lambda: view.result is not None and len(view.result.modules) == 1)
    view.editor.setPlainText(view.text.replace("new_device", "ember_link"))
    person.wait(lambda: [m.name for m in view.result.modules] == ["ember_link"])
    QTest.keyClick(person.window, Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    folder = person.desk.project.folder
    assert (folder / "devices" / "new_device.va").read_text() == view.text
    assert "new_device.va" in person.desk.project.texts
    part = Part("X1", "ember_link", (40, 0), values={"r": "2k"})
    assert [name for name, _ in person.desk.library.terminals(part)] == ["p", "n"]
    person.wait(lambda: any(r.item.text == "new_device.va" for r in person.window.shelf.findChildren(Row)))


def test_leaving_with_an_unsaved_text_asks_first(person):
    """As with any document."""
    view = text_view(person, "peak_switch.va")
    view.editor.insertPlainText("// a note\n")
    person.window.close()
    assert person.window.isVisible()
    assert "not saved" in " ".join(label.text() for label in person.window.question.findChildren(Label))


def test_no_thread_is_left(opened, folder):
    """The desk's own threads end with the window."""
    person = opened(folder)
    study(person, "n_rvt")
    person.window.leave()
    names = {thread.name for thread in threading.enumerate()}
    assert not names & {"device sheets", "sizing", "device text"}
