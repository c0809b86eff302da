"""The view of lines, wires and substrates: what is typed, what is drawn and told of it, and what is saved."""

from __future__ import annotations

from dataclasses import replace

import pytest
from PyQt6.QtWidgets import QMenu

from hearthline.app.panels.label import Label
from hearthline.core.bench.surroundings import Surroundings
from hearthline.core.fields.substrate.card import SubstrateCard
from hearthline.core.fields.wires.card import WiresCard
from tests.app.presses import pressed


@pytest.fixture
def view(person):
    """Beside the drawing, with what is shown first."""
    person.window.show_side("both")
    person.window.side.show_view("interconnect")
    person.wait(lambda: person.desk.interconnects.found is not None)
    return person.window.side.view("interconnect")


def test_lines_are_worked_out_as_they_are_typed(person, view):
    """Their waves and matrices; what cannot be is said with its line, and what was there stays; saved on a click."""
    desk = person.desk
    card = desk.interconnects.found.card
    assert len(card.waves) == 2
    assert card.matrices["C"][0, 1] < 0
    text = view.text.toPlainText()
    view.text.setPlainText(text.replace('er = "4.3"', 'er = "0.4"'))
    person.wait(lambda: desk.interconnects.error is not None)
    assert "devices/board_pair.lines.toml:8: er is 1 or more" in view.said.text()
    assert view.drawings["lines"].thing is not None
    view.text.setPlainText(text.replace('er = "4.3"', 'er = "9.8"'))
    person.wait(lambda: desk.interconnects.error is None and desk.interconnects.found.card.waves[0].effective > 6)
    pressed(person, view, "save")
    assert 'er = "9.8"' in (desk.project.folder / "devices" / "board_pair.lines.toml").read_text()


def test_what_was_saved_is_in_the_next_circuit(person):
    """The n-port of a file is the new one as soon as that is written, in either view."""
    desk, window = person.desk, person.window
    desk.show_bench("driver_868_housed-stability")
    pair = (Surroundings("pair", {"box": "board_pair.lines.toml"}),)
    grid = replace(desk.bench.grid, surroundings=("pair",))
    desk.change_bench(replace(desk.bench, surroundings=pair, grid=grid), "pair alone")

    def model() -> str:
        return next(one for one in desk.snapshot.netlist().elements if one.name == "box").device.fingerprint

    window.show_side("both")
    window.side.show_view("interconnect")
    view = window.side.view("interconnect")
    person.wait(lambda: desk.interconnects.found is not None and not desk.live.busy)
    before, made = model(), desk.snapshot
    view.text.setPlainText(view.text.toPlainText().replace('er = "4.3"', 'er = "9.8"'))
    pressed(person, view, "save")
    person.wait(lambda: not desk.live.busy)
    assert model() != before
    assert desk.snapshot is not made
    made = desk.snapshot
    desk.housings.stored.emit()
    assert desk.snapshot is not made


def words(view) -> list[str]:
    """All that is written in a view."""
    return [label.text() for label in view.findChildren(Label) if label.isVisible()]


def test_wires_and_a_substrate_are_shown(person, view):
    """Each with its own drawing and numbers; the others are put away."""
    interconnects = person.desk.interconnects
    pressed(person, view, "chip_bonds")
    person.wait(lambda: interconnects.found is not None and isinstance(interconnects.found.card, WiresCard))
    assert view.drawings["wires"].isVisible()
    assert not view.drawings["lines"].isVisible()
    person.wait(lambda: {"coupling", "1.411 mm", "1.026 nH"} <= set(words(view)))
    pressed(person, view, "chip_ground")
    person.wait(lambda: isinstance(interconnects.found.card, SubstrateCard))
    assert view.drawings["substrate"].isVisible()
    person.wait(lambda: "R [Ω]" in words(view))
    text = view.text.toPlainText()
    view.text.setPlainText(text.replace('at = "0.75m, 0.4m"', 'at = "0.26m, 0.4m"'))
    person.wait(lambda: interconnects.error is not None)
    assert "chip_ground.substrate.toml" in view.said.text()
    assert "contacts 1 and 2 overlap" in view.said.text()


def test_a_new_file_begins_with_an_example(person, view):
    """Through the menu, next to those that are there; it can be worked out as it is."""
    desk, devices = person.desk, person.desk.project.folder / "devices"
    for kind, called in (("lines", "lines"), ("wires", "wires"), ("substrate", "substrates")):
        pressed(person, view, "new")
        menu = next(one for one in view.findChildren(QMenu) if one.isVisible())
        next(one for one in menu.actions() if one.text() == called).trigger()
        menu.close()
        person.wait(lambda kind=kind: desk.interconnects.found is not None and desk.interconnects.found.kind == kind)
        assert (devices / f"{kind}1.{kind}.toml").exists()
        assert view.file == f"{kind}1.{kind}.toml"
        assert desk.interconnects.error is None
