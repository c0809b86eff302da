"""What the search puts first, what it says of commands that cannot run, and values for what is selected."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from hearthline.app.panels.search import Entry, rank


def entry(text: str, kind: str = "command") -> Entry:
    """One that does nothing."""
    return Entry(text, kind, "", lambda: None)


def test_a_name_wins_over_a_word_in_the_middle():
    """Exact, beginning, beginnings of words, anywhere; then what was taken last; then by kind."""
    new, other, inside = entry("New cell"), entry("Write the cell as a deck"), entry("Renew cells")
    assert min([inside, other, new], key=lambda e: rank(e, "new cell", [])) is new
    by_words = sorted([inside, entry("New empty cell")], key=lambda e: rank(e, "new cell", []))
    assert by_words[0].text == "New empty cell"
    same = [entry("cell", "place"), entry("cell", "bench"), entry("cell", "cell")]
    assert [e.kind for e in sorted(same, key=lambda e: rank(e, "cell", []))] == ["place", "cell", "bench"]
    assert min(same, key=lambda e: rank(e, "cell", [("bench", "cell")])).kind == "bench"


def find(person, text: str) -> list[Entry]:
    """What is offered for a text."""
    QTest.keyClick(person.window.drawing, Qt.Key.Key_Space)
    search = person.window.search
    search.field.clear()
    QTest.keyClicks(search.field, text)
    return search._found


def test_new_cell_is_first(person):
    """As typed; by words, Return takes it."""
    assert find(person, "new cell")[0].text == "New cell"


def test_a_value_offers_the_fields_of_the_selected_part(person):
    """With a unit those of that unit; Return sets it, undo takes it back."""
    person.click_on_drawing("part", "M2")
    found = find(person, "3.2um")
    assert [one.text for one in found[:2]] == ["w = 3.2 µm", "l = 3.2 µm"]
    QTest.keyClick(person.window.search.field, Qt.Key.Key_Return)
    assert person.desk.cell.part("M2").values["w"] == "3.2um"
    person.desk.documents.undo.undo()
    assert person.desk.cell.part("M2").values["w"] == "2.4u"


@pytest.mark.parametrize(
    ("name", "words"),
    [
        ("Delete", "something selected"),
        ("Into the block", "a block selected"),
        ("Stop the run", "a run that is going on"),
    ],
)
def test_a_command_says_what_it_needs(person, name, words):
    """In the list, and when it is chosen all the same; nothing is done."""
    before = person.desk.project
    found = next(one for one in find(person, name) if one.text == name)
    assert words in found.what
    found.action()
    assert words in str(person.desk.message)
    assert person.desk.project == before
