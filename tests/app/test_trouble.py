"""What the window does with bad input: it says what and where, shows the place, and loses nothing."""

from __future__ import annotations

from dataclasses import replace

import pytest
from PyQt6.QtWidgets import QPushButton

from hearthline.app.panels.label import Label
from hearthline.app.start import demo_copy, start
from hearthline.core.circuit.cell import Part, Wire


def spoil(folder, name: str, old: str, new: str) -> None:
    """Exchanges a piece of a project's file."""
    path = folder / name
    text = path.read_text()
    assert old in text
    path.write_text(text.replace(old, new, 1))


def card(person) -> str:
    """What the card at the foot of the drawing says."""
    return person.window.card.text.text()


def test_an_unknown_device_is_named_and_shown(opened, folder):
    """The rest is drawn; the button selects the part."""
    spoil(folder, "cells/inv_x1.toml", 'device = "p_rvt"', 'device = "p_fast"')
    person = opened(folder)
    assert "M2: there is no device" in card(person)
    assert "p_rvt" in card(person)
    person.click(person.window.card.button)
    assert person.desk.selection.name == "M2"
    assert not person.window.grab().isNull()


def test_a_net_without_a_path_is_named_and_lit(opened, folder):
    """The message names net and parts; the button shows the net."""
    spoil(folder, "benches/inv_x1-transfer.toml", '[[stimuli]]\nname = "vin"\npin = "in"\ndc = "580m"\n', "")
    spoil(folder, "benches/inv_x1-transfer.toml", "sweep of vin", "sweep of vdd")
    person = opened(folder)
    assert "net in has no DC path" in card(person)
    assert person.window.card.button.text() == "Show in"
    person.click(person.window.card.button)
    assert (person.desk.selection.kind, person.desk.selection.name) == ("net", "in")


def test_a_missing_kit_leaves_the_drawing(opened, folder):
    """The cell is drawn; running is not possible and says why."""
    spoil(folder, "project.toml", 'kit = "lm130"', 'kit = "lm90"')
    person = opened(folder, ready=False)
    assert "no kit 'lm90'" in card(person)
    assert person.desk.cell is not None
    assert not person.window.topline.run_button.isEnabled()
    person.desk.run()
    assert "kit is missing" in card(person)
    assert not person.window.grab().isNull()


def test_a_file_with_a_wrong_line_is_a_row_of_the_shelf(opened, folder):
    """File and line; a click says it again after it was dismissed."""
    spoil(folder, "benches/inv_x1-transfer.toml", "points 1001", "point 1001")
    person = opened(folder, ready=False)
    assert "benches/inv_x1-transfer.toml:31" in card(person)
    person.click(person.window.card.button)
    assert "inv_x1-transfer" not in card(person)
    section = dict(person.window.shelf.items())["Problems (1)"]
    section[0].pressed()
    assert "benches/inv_x1-transfer.toml:31" in card(person)
    assert "inv_x1" in person.desk.project.cells


def test_a_folder_that_is_no_project_opens_an_empty_desk(opened, tmp_path):
    """With the reason, and no trace back."""
    person = opened(tmp_path, ready=False)
    assert "project.toml: cannot be read" in card(person)
    assert "No bench is open" in person.window.sheet.empty.text()


def test_a_circuit_that_does_not_solve_says_which_nets_moved(person):
    """A current beyond all numbers: nothing is lost, and the way back works."""
    desk = person.desk
    new = Part("I9", "current source", (20, 0), values={"dc": "1e308"})
    holder = Part("R9", "resistor", (20, 20), values={"r": "1e-200"})
    ground = Part("G9", "ground", (20, 22))
    cell = desk.cell
    desk.documents.exchange(
        cell,
        replace(
            cell,
            parts=(*cell.parts, new, holder, ground),
            wires=(*cell.wires, Wire(((20, 2), (20, 18))), Wire(((20, -2), (10, 0)))),
        ),
        "trouble",
        "",
    )
    person.wait(lambda: person.desk.point.error is not None)
    assert "moved last: nets i9_n, out" in card(person)
    assert person.window.card.button.text() == "Show i9_n"
    desk.documents.undo.undo()
    person.wait(lambda: person.desk.point.error is None)


def test_a_project_that_cannot_be_written_keeps_the_changes(person):
    """The message names the file; the change is still there and still unsaved."""
    desk = person.desk
    desk.change_part(desk.cell.part("M2").with_value("w", "3u"), "w")
    path = desk.project.folder / "cells" / "inv_x1.toml"
    path.unlink()
    path.mkdir()
    assert not desk.documents.save()
    assert "inv_x1.toml: cannot be written" in card(person)
    assert [document.name for document in desk.documents.unsaved] == ["inv_x1"]
    assert not person.window.close()
    assert person.window.question.isVisible()


@pytest.mark.parametrize(
    ("old", "new", "said"),
    [("1u", "7u", "was changed by somebody else"), ("at = [-12, 0]", "at = [-12, 0", "unclosed array")],
)
def test_a_file_that_was_changed_outside_is_not_overwritten(person, old, new, said):
    """Neither a good change nor a broken one; the change in the window stays too."""
    desk = person.desk
    folder = desk.project.folder
    desk.change_part(desk.cell.part("M2").with_value("w", "3u"), "w")
    spoil(folder, "cells/inv_x1.toml", old, new)
    assert not desk.documents.save()
    assert said in card(person)
    assert new in (folder / "cells" / "inv_x1.toml").read_text()
    assert desk.documents.unsaved
    (folder / "cells" / "inv_x1.toml").rename(folder / "cells" / "theirs.toml")
    assert desk.documents.save()
    assert '"3u"' in (folder / "cells" / "inv_x1.toml").read_text()


def test_a_damaged_run_is_said_and_the_others_show(person):
    """The logbook reads what it can."""
    person.run()
    (person.desk.project.folder / "runs" / "20990101-000000-x.nc").write_bytes(b"rubbish")
    person.desk.results.read_logbook()
    assert "is damaged" in card(person)
    assert len(person.desk.results.entries) == 1


def test_without_a_display_the_command_says_how_to_see_it(monkeypatch, capsys):
    """One line, and an exit status that scripts can tell."""
    for name in ("QT_QPA_PLATFORM", "DISPLAY", "WAYLAND_DISPLAY"):
        monkeypatch.delenv(name, raising=False)
    assert start(None, None) == 2
    assert capsys.readouterr().out.count("\n") == 1


@pytest.mark.parametrize("size", [(1024, 640), (1920, 1080)])
def test_other_window_sizes_lay_out(person, size):
    """Nothing overlaps the hearth line, and all segments can be reached."""
    person.window.resize(*size)
    person.wait(lambda: person.window.width() == size[0])
    hearth = person.window.hearth.geometry()
    assert hearth.bottom() < person.window.height()
    assert person.window.holder.geometry().bottom() <= hearth.top()


def test_changes_of_a_window_that_ended_by_itself_are_offered_again(opened, folder):
    """The journal holds them; another window of the same project neither offers nor deletes it while the first lives; a
    window that is closed without an answer leaves it; they come back as an undoable change; closing in good order
    leaves nothing."""
    first = opened(folder)
    desk = first.desk
    desk.change_part(desk.cell.part("M2").with_value("w", "3.3u"), "w")
    journal = folder / ".unsaved" / "journal.json"
    first.wait(lambda: journal.is_file() and "3.3u" in journal.read_text())
    assert '"2.4u"' in (folder / "cells" / "inv_x1.toml").read_text()

    living = opened(folder)
    assert not living.window.question.isVisible()
    living.window.leave()
    assert journal.exists()

    first.die()
    unanswered = opened(folder)
    assert unanswered.window.question.isVisible()
    unanswered.desk.change_part(unanswered.desk.cell.part("M1").with_value("w", "1.1u"), "w")
    unanswered.wait(lambda: (folder / ".unsaved" / "journal-2.json").exists())
    unanswered.window.leave()
    assert "3.3u" in journal.read_text()

    second = opened(folder)
    question = second.window.question
    assert question.isVisible()
    assert "inv_x1" in question.findChild(Label).text()
    second.click(next(b for b in question.findChildren(QPushButton) if b.text() == "Take them back"))
    assert second.desk.cell.part("M2").values["w"] == "3.3u"
    second.desk.documents.undo.undo()
    assert second.desk.cell.part("M2").values["w"] == "2.4u"
    second.window.leave()
    assert not journal.exists()


def test_the_demo_is_opened_as_a_copy(monkeypatch, tmp_path):
    """What a person saves stays theirs, and the shipped demo stays as it is."""
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    copy = demo_copy()
    assert copy == tmp_path / "hearthline" / "kilnwatch"
    (copy / "cells" / "inv_x1.toml").write_text("mine")
    assert (demo_copy() / "cells" / "inv_x1.toml").read_text() == "mine"
