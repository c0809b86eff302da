"""Two windows of one project, a window that ends by itself, and a fault in a slot: nothing that was drawn or written is lost."""

from __future__ import annotations

from PyQt6.QtCore import QTimer
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QPushButton

from hearthline.app.faults import Faults
from hearthline.app.panels.label import Label
from hearthline.core.formats.project_folder import read_project
from tests.app.test_trouble import card

TEXT = "devices/cnt_fet.va"


def press(person, text: str) -> None:
    """Answers the question across the window."""
    person.click(next(b for b in person.window.question.findChildren(QPushButton) if b.text() == text))


def write(person, text: str) -> None:
    """Opens the device text and types at its end."""
    person.window.show_text(person.desk.project.folder / TEXT)
    person.window.device_desk.text.editor.appendPlainText(text)


def test_two_windows_each_add_a_cell(opened, folder):
    """Both are in the project's list, with those that were there."""
    one, other = opened(folder), opened(folder)
    before = set(one.desk.project.cells)
    assert one.window.editor.new_cell("from_one")
    assert other.window.editor.new_cell("from_other")
    assert one.desk.documents.save()
    assert other.desk.documents.save()
    project = read_project(folder)
    assert set(project.cells) == before | {"from_one", "from_other"}
    assert not project.problems


def test_a_device_text_that_another_window_saved_is_not_overwritten(opened, folder):
    """Whether it is on show or was left for another text; what was typed stays."""
    for leave in (False, True):
        one, other = opened(folder), opened(folder)
        write(one, f"// one {leave}")
        write(other, f"// other {leave}")
        if leave:
            other.window.show_text(folder / "devices" / "peak_switch.va")
        one.window.save()
        other.window.save()
        assert "changed by somebody else" in card(other)
        on_disk = (folder / TEXT).read_text()
        assert f"// one {leave}" in on_disk
        assert f"// other {leave}" not in on_disk
        assert f"// other {leave}" in other.desk.documents.drafts["cnt_fet.va"]


def test_a_device_text_comes_back_after_an_end_without_warning(opened, folder):
    """From the journal, with what was typed."""
    first = opened(folder)
    write(first, "// unfinished")
    journal = folder / ".unsaved" / "journal.json"
    first.wait(lambda: journal.is_file() and "// unfinished" in journal.read_text())
    first.die()
    second = opened(folder)
    assert "cnt_fet.va" in second.window.question.findChild(Label).text()
    press(second, "Take them back")
    second.window.show_text(folder / TEXT)
    assert "// unfinished" in second.window.device_desk.text.text
    second.window.save()
    assert "// unfinished" in (folder / TEXT).read_text()


def test_a_fault_in_a_slot_is_told_and_the_window_goes_on(person, folder, capsys):
    """The journal is written at once, the report can be copied and names the place, and the next change works."""
    desk = person.desk
    faults = Faults(person.window)
    faults.install()
    try:
        desk.change_part(desk.cell.part("M2").with_value("w", "3.1u"), "w")

        def broken() -> None:
            raise ZeroDivisionError("a fault for the test")

        QTimer.singleShot(0, broken)
        person.wait(lambda: person.window.question.isVisible())
    finally:
        faults.remove()
    assert "a fault for the test" in person.window.question.findChild(Label).text()
    assert "3.1u" in (folder / ".unsaved" / "journal.json").read_text()
    press(person, "Copy the report")
    assert "in broken" in QGuiApplication.clipboard().text()
    assert "ZeroDivisionError" in capsys.readouterr().err
    desk.change_part(desk.cell.part("M2").with_value("w", "3.2u"), "w")
    assert desk.documents.save()
    assert '"3.2u"' in (folder / "cells" / "inv_x1.toml").read_text()
