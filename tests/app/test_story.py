"""The first slice from end to end, as a designer does it: drawing, edit, run, verdict, limit, save, open again."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from hearthline.app.state.runner import Progress
from hearthline.core.bench.verdict import State
from tests.approximation import approx


def test_from_the_drawing_to_a_verdict_and_back_again(opened, folder):
    """Every step of the story in one window, then in a second one."""
    person = opened(folder)
    desk, window = person.desk, person.window
    assert desk.bench_key == "inv_x1-transfer"
    assert person.voltage("in") == approx(0.58)
    before = person.voltage("out")

    person.click_on_drawing("part", "M2")
    assert desk.selection.name == "M2"
    field = window.details.lines["w"]
    QTest.keyClicks(window.drawing, "3")
    assert field.hasFocus()
    QTest.keyClicks(field, ".2u")
    QTest.keyClick(field, Qt.Key.Key_Return)
    person.wait(lambda: person.width() == "3.2u")
    assert person.voltage("out") > before + 0.1
    assert window.details.values["region"].text() == "saturation"

    person.run()
    assert desk.results.dataset.lanes == 45
    assert desk.results.dataset.curve("V(out)").shape == (45, 1001)
    assert (desk.results.dataset.outcomes == 0).all()
    verdict = desk.results.verdicts["switching point"]
    assert verdict.state is State.CLOSE
    assert verdict.worst == np.nanmin(desk.results.readings["switching point"])

    segment = window.hearth.segments[0]
    runs = len(desk.results.entries)
    person.type_into(segment.low, "0.47")
    assert desk.results.verdicts["switching point"].state is State.FAILS
    assert len(desk.results.entries) == runs
    assert not desk.results.runner.busy

    QTest.keyClick(window, Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    assert not desk.documents.unsaved
    cell, bench = desk.cell, desk.bench
    assert window.close()

    again = opened(folder)
    assert (again.desk.cell, again.desk.bench) == (cell, bench)
    again.wait(lambda: again.desk.results.verdicts["switching point"].state is State.FAILS)
    assert again.desk.results.dataset.lanes == 45
    assert again.desk.results.entries[0].change == "first run"
    assert not again.desk.results.stale


def test_the_logbook_says_what_changed_and_shows_runs_again(person):
    """Two runs, the second with a wider transistor; a click on the first brings its curves back."""
    person.run()
    first = person.desk.results.dataset.curve("V(out)").copy()
    person.desk.change_part(person.desk.cell.part("M2").with_value("w", "3.2u"), "w")
    person.wait(lambda: person.desk.results.stale)
    assert "press Run again" in person.window.sheet.note.text()
    person.run()
    assert not person.desk.results.stale
    assert [entry.change for entry in person.desk.results.entries] == ["M2.w 2.4u → 3.2u", "first run"]
    person.desk.results.show_run(person.desk.results.entries[1].path)
    person.wait(lambda: not person.desk.results.loading)
    np.testing.assert_array_equal(person.desk.results.dataset.curve("V(out)"), first)
    person.wait(lambda: person.desk.results.stale)


def test_undo_and_redo_of_typing(person):
    """One step a field visit, with the drawing and the point following."""
    person.click_on_drawing("part", "M2")
    field = person.window.details.lines["w"]
    for text in ("3.2u", "5u"):
        person.type_into(field, text)
        QTest.keyClick(field, Qt.Key.Key_Return)
    control, shift = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
    person.click(person.window.drawing, person.window.drawing.screen_place("part", "M2"))
    for modifier, width in ((control, "3.2u"), (control, "2.4u"), (control | shift, "3.2u")):
        person.key(Qt.Key.Key_Z, modifier)
        assert person.desk.cell.part("M2").values["w"] == width
        assert field.text() == width
        person.wait(lambda width=width: person.width() == width)


def test_stop_keeps_what_is_done(person):
    """A long run is stopped from the button; what was solved is shown, and the next run is whole again."""
    desk = person.desk
    person.click(person.window.side.words["bench"])
    line = person.window.side.view("bench").analyses.rows["transfer"].line
    person.type_into(line, "sweep of vin from 0 to 1.32 points 200001")
    QTest.keyClick(line, Qt.Key.Key_Return)
    assert desk.bench.analyses[0].settings["points"] == "200001"
    button = person.window.topline.run_button
    person.click(button)
    person.wait(lambda: desk.results.runner._job is not None and desk.results.runner._job.done > 0)
    assert button.text() == "Stop"
    person.key(Qt.Key.Key_Period, Qt.KeyboardModifier.ControlModifier)
    person.wait(lambda: not desk.results.runner.busy)
    assert "stopped" in desk.results.note
    assert (desk.results.dataset.outcomes == 0).any()
    assert (desk.results.dataset.outcomes != 0).any()
    assert button.text() == "Run"


def test_the_charts_fill_while_it_runs(person, monkeypatch):
    """Conditions appear as they are done; the verdict comes with the last; time left is said."""
    from hearthline.core.bench import portions

    monkeypatch.setattr(portions, "SHORT", 0.0)
    monkeypatch.setattr(portions, "PORTION", 0.0)
    monkeypatch.setattr(portions, "A_NUMBER", 1.0)
    desk, seen = person.desk, []

    def look() -> None:
        data = desk.results.dataset
        if data is not None:
            seen.append(int(np.isfinite(data.curve("V(out)")[:, 0]).sum()))

    desk.results.run_changed.connect(look)
    person.run()
    assert seen[-1] == 45
    assert len(seen) > 2
    assert seen[0] < 45
    assert seen == sorted(seen)
    assert desk.results.verdicts["switching point"].state.name == "FAILS"
    assert Progress("a", 1, 2, 0.5, 3, 45, 7.4).words == "a (1 of 2): 3 of 45 conditions, 7 s left"
