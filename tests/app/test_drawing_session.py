"""A scripted session: an inverter drawn from nothing by mouse and keys, made a block, a ring built of it, and its netlist held
against a deck."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QTextCursor
from PyQt6.QtTest import QTest

from hearthline.app.canvas.brush import View
from hearthline.core.circuit.flatten import flatten
from hearthline.core.formats.deck import flatten as deck_flatten
from hearthline.core.formats.deck.reader import read
from hearthline.core.formats.project_folder import read_project
from tests.approximation import approx

CONTROL = Qt.KeyboardModifier.ControlModifier
RING = """* a ring of three inverters
.subckt inv in out vdd
mn out in 0 0 n_rvt w=1u l=130n
mp out in vdd vdd p_rvt w=2.4u l=130n
.ends
x1 a b vdd inv
x2 b c vdd inv
x3 c a vdd inv
.model n_rvt nmos
.model p_rvt pmos
.op
"""


class Draughtsman:
    """A person who draws."""

    def __init__(self, person):
        self.person, self.window, self.desk = person, person.window, person.desk
        self.drawing = person.window.drawing

    def new_cell(self, name: str) -> None:
        """By its key; the paper is then laid so that the grid is easy to hit."""
        QTest.keyClick(self.window, Qt.Key.Key_C, CONTROL | Qt.KeyboardModifier.ShiftModifier)
        QTest.keyClicks(self.window.prompt.field, name)
        QTest.keyClick(self.window.prompt.field, Qt.Key.Key_Return)
        assert self.desk.cell.name == name
        QTest.keyClick(self.window, Qt.Key.Key_1)
        self.lay_paper()

    def lay_paper(self) -> None:
        """Ten pixels a step, the origin in the middle."""
        self.drawing.view = View(10.0, self.drawing.width() // 2, self.drawing.height() // 2)

    def at(self, x: float, y: float) -> QPoint:
        """A place of the grid on the screen."""
        return self.drawing.view.to_screen(x, y).toPoint()

    def go(self, x: float, y: float) -> None:
        """The pointer."""
        QTest.mouseMove(self.drawing, self.at(x, y))

    def click(self, x: float, y: float, modifier=Qt.KeyboardModifier.NoModifier) -> None:
        """The left button."""
        self.go(x, y)
        QTest.mouseClick(self.drawing, Qt.MouseButton.LeftButton, modifier, self.at(x, y))

    def drag(self, a: tuple[float, float], b: tuple[float, float], modifier=Qt.KeyboardModifier.NoModifier) -> None:
        """With the left button."""
        self.go(*a)
        QTest.mousePress(self.drawing, Qt.MouseButton.LeftButton, modifier, self.at(*a))
        middle = ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
        for place in (middle, b):
            QTest.mouseMove(self.drawing, self.at(*place))
        QTest.mouseRelease(self.drawing, Qt.MouseButton.LeftButton, modifier, self.at(*b))

    def key(self, key: Qt.Key, modifier=Qt.KeyboardModifier.NoModifier) -> None:
        """A key with the drawing in front."""
        self.drawing.setFocus()
        QTest.keyClick(self.drawing, key, modifier)

    def find(self, text: str) -> None:
        """Space, words, Return."""
        self.key(Qt.Key.Key_Space)
        QTest.keyClicks(self.window.search.field, text)
        QTest.keyClick(self.window.search.field, Qt.Key.Key_Return)

    def answer(self, text: str) -> None:
        """What the line at the pointer asks for."""
        field = self.window.prompt.field
        assert self.window.prompt.isVisible()
        field.selectAll()
        QTest.keyClicks(field, text)
        QTest.keyClick(field, Qt.Key.Key_Return)

    def place(self, what: str, *places: tuple[int, int], turns: int = 0) -> None:
        """Chooses something to place, turns it, clicks, and puts it away."""
        self.find(what)
        for _ in range(turns):
            self.key(Qt.Key.Key_T)
        for place in places:
            self.click(*place)
        self.key(Qt.Key.Key_Escape)

    def pin(self, kind: str, name: str, at: tuple[int, int]) -> None:
        """A pin of the cell."""
        self.find(f"{kind} pin place")
        self.answer(name)
        self.click(*at)

    def wire(self, *ways: tuple[tuple[float, float], ...]) -> None:
        """D, then a click at every place of a way."""
        for way in ways:
            self.go(30, 25)
            self.key(Qt.Key.Key_D)
            for place in way:
                self.click(*place)
            self.key(Qt.Key.Key_Escape)
            self.key(Qt.Key.Key_Escape)


def joints(elements) -> set[frozenset]:
    """What is joined: sets of (kind and device, terminal, stage), without the names of nets."""
    nets: dict = {}
    for element in elements:
        for k, net in enumerate(element.nets):
            name = "ground" if net == "0" else net
            nets.setdefault(name, set()).add((element.name, k))
    return {frozenset(group) for group in nets.values()}


@pytest.fixture
def draughtsman(person) -> Draughtsman:
    """A person at the demo, about to draw."""
    return Draughtsman(person)


def draw_inverter(one: Draughtsman) -> None:
    """Two transistors, three pins, ground, and wires."""
    one.place("n_rvt place", (-2, 5))
    one.place("p_rvt place", (-2, -5))
    one.place("ground mark", (0, 12))
    one.pin("input", "in", (-12, 0))
    one.pin("output", "out", (12, 0))
    one.pin("supply", "vdd", (0, -12))
    one.wire(((-4, -5), (-7, 0), (-4, 5)), ((-12, 0), (-7, 0)), ((0, -3), (0, 3)), ((12, 0), (0, 0)))
    one.wire(((0, -7), (0, -12)), ((0, -5), (0, -7)), ((0, 7), (0, 12)), ((0, 5), (0, 7)))
    one.click(-2, -5)
    QTest.keyClicks(one.drawing, "2")
    QTest.keyClicks(one.window.details.lines["w"], ".4u")
    QTest.keyClick(one.window.details.lines["w"], Qt.Key.Key_Return)


def test_an_inverter_from_nothing_a_block_and_a_ring(draughtsman, tmp_path):
    """Its flat netlist joins what the deck's joins, sizes and all; it is there again after save and open."""
    one, desk = draughtsman, draughtsman.desk
    one.new_cell("inv_mine")
    draw_inverter(one)
    one.person.wait(lambda: desk.findings == ())
    assert {part.name: part.device for part in desk.cell.parts} == {"M1": "n_rvt", "M2": "p_rvt", "GND1": "ground"}
    one.new_cell("ring_mine")
    one.place("inv_mine block", (-20, 0), (0, 0), (20, 0))
    assert desk.project.cells["inv_mine"].body is not None
    out = desk.project.cells["inv_mine"].body.places["out"][0]
    one.wire(((out - 20, 0), (-out, 0)), ((out, 0), (20 - out, 0)))
    one.wire(((20 + out, 0), (30, 0), (30, 8), (-30, 8), (-20 - out, 0)))
    one.pin("supply", "vdd", (0, -14))
    one.wire(((-20, -5), (-20, -10), (20, -10), (20, -5)), ((0, -5), (0, -10)), ((0, -14), (0, -10)))
    one.person.wait(lambda: desk.findings == ())
    deck = tmp_path / "ring.cir"
    deck.write_text(RING)
    expected = deck_flatten.flatten(read(deck))[0].elements
    drawn = flatten(desk.cell, desk.library).elements
    assert {e.name for e in drawn} == {f"x{k}.m{n}" for k in (1, 2, 3) for n in (1, 2)}
    renamed = {"mn": "m1", "mp": "m2"}
    wanted = {
        frozenset((f"{name.split('.')[0]}.{renamed[name.split('.')[1]]}", k) for name, k in group)
        for group in joints(expected)
    }
    assert joints(drawn) == wanted
    assert {e.values["w"].text for e in drawn if e.model == "p_rvt"} == {"2.4u"}
    QTest.keyClick(one.window, Qt.Key.Key_S, CONTROL)
    again = read_project(desk.project.folder)
    assert again.problems == ()
    assert again.cells["ring_mine"] == desk.cell
    assert again.cells["inv_mine"] == desk.project.cells["inv_mine"]


def test_every_step_of_drawing_can_be_undone_and_done_again(draughtsman):
    """Back to the empty cell and forth to the last wire, each step giving just the cell that was there."""
    one, desk = draughtsman, draughtsman.desk
    one.new_cell("inv_mine")
    undo = desk.documents.undo
    first = undo.index()
    states = []
    desk.documents.changed.connect(lambda: states.append(desk.project.cells.get("inv_mine")))
    draw_inverter(one)
    done, count = list(states), undo.index() - first
    assert count >= 14
    last = desk.cell
    for _ in range(count):
        one.key(Qt.Key.Key_Z, CONTROL)
    assert (desk.cell.parts, desk.cell.wires, desk.cell.pins) == ((), (), ())
    for _ in range(count):
        one.key(Qt.Key.Key_Z, CONTROL | Qt.KeyboardModifier.ShiftModifier)
    assert desk.cell == last == done[-1]


def test_selected_parts_become_a_block_and_dissolve_again(draughtsman):
    """With the same flat circuit, in one step each; inside, the values are those of this instance."""
    one, desk = draughtsman, draughtsman.desk
    desk.show_bench("inv_x1-transfer")
    one.person.wait(lambda: desk.point is not None and desk.point.dataset is not None)
    before = {net for net in joints(desk.snapshot.netlist().elements) if len(net) > 1}
    vth = desk.last_values.part("m1")["vth"].value
    one.key(Qt.Key.Key_A, CONTROL)
    one.key(Qt.Key.Key_B, CONTROL)
    one.answer("pair")
    assert set(desk.project.cells["pair"].part("M1").values) == {"w", "l"}
    block = desk.selection.name
    one.person.wait(lambda: desk.point.snapshot.cells == desk.project.cells)
    one.key(Qt.Key.Key_Return)
    assert desk.trail == (block,)
    assert desk.last_values.part(desk.instance.part("M1"))["vth"].value == approx(vth)
    one.key(Qt.Key.Key_Backspace)
    assert desk.selection.name == block
    one.key(Qt.Key.Key_B, CONTROL | Qt.KeyboardModifier.ShiftModifier)
    assert {net for net in joints(desk.snapshot.netlist().elements) if len(net) > 1} == before


def test_parts_are_moved_copied_turned_and_deleted(draughtsman):
    """Drag, Ctrl-drag, T, Del; wires follow and names stay apart."""
    one, desk = draughtsman, draughtsman.desk
    one.new_cell("scratch")
    one.place("resistor place", (0, 0), (10, 0))
    one.wire(((0, 2), (10, 2)))
    one.drag((10, 0), (14, -4))
    assert desk.cell.part("R2").at == (14, -4)
    joined = desk.library.connections(desk.cell).terminals
    assert joined["R1", "n"] == joined["R2", "n"]
    one.click(14, -4)
    one.key(Qt.Key.Key_T)
    assert desk.cell.part("R2").turn == 1
    joined = desk.library.connections(desk.cell).terminals
    assert joined["R1", "n"] == joined["R2", "n"]
    one.drag((0, 0), (-10, 0), CONTROL)
    assert [part.name for part in desk.cell.parts] == ["R1", "R2", "R3"]
    one.drag((-14, -8), (20, 10))
    assert len(desk.picked.parts) == 3
    one.key(Qt.Key.Key_Delete)
    assert desk.cell.parts == ()
    assert desk.cell.wires == ()


def test_several_parts_are_edited_at_once(draughtsman):
    """One field for all; different values say so."""
    one, desk = draughtsman, draughtsman.desk
    one.new_cell("scratch")
    one.place("resistor place", (0, 0), (10, 0))
    one.click(0, 0)
    one.click(10, 0, Qt.KeyboardModifier.ShiftModifier)
    field = one.window.details.lines["r"]
    one.person.type_into(field, "22k")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert {part.values["r"] for part in desk.cell.parts} == {"22k"}
    assert desk.documents.undo.undoText() == "2 parts r = 22k"


def test_copy_and_paste_between_cells_as_text(draughtsman):
    """What is copied is plain text that another cell reads; nonsense is refused with a message."""
    from PyQt6.QtGui import QGuiApplication

    one, desk = draughtsman, draughtsman.desk
    one.new_cell("scratch")
    desk.show_bench("inv_x1-transfer")
    one.key(Qt.Key.Key_A, CONTROL)
    one.key(Qt.Key.Key_C, CONTROL)
    assert 'device = "p_rvt"' in QGuiApplication.clipboard().text()
    desk.show_cell("scratch")
    one.lay_paper()
    one.key(Qt.Key.Key_V, CONTROL)
    one.click(0, 0)
    assert {part.name for part in desk.cell.parts} == {"M1", "M2", "GND1"}
    assert len(desk.picked.parts) == 3
    QGuiApplication.clipboard().setText("three resistors, please")
    one.key(Qt.Key.Key_V, CONTROL)
    assert "holds no piece of a drawing" in one.window.card.text.text()


def test_nets_are_named_and_pins_renamed(draughtsman):
    """N over a wire; the name field of a pin, with the bench's stimulus following."""
    one, desk = draughtsman, draughtsman.desk
    desk.show_bench("inv_x1-transfer")
    one.go(-7, 3)
    one.key(Qt.Key.Key_N)
    one.answer("gates")
    assert "one net is called" in " ".join(f.message for f in _found(one))
    one.key(Qt.Key.Key_Z, CONTROL)
    one.person.click_on_drawing("pin", "in")
    field = one.window.details.lines["name"]
    one.person.type_into(field, "a")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert desk.bench.stimulus("vin").pin == "a"
    assert desk.bench.readings[0].formula == "switching_point(V(out), V(a)) / vdd"
    one.person.wait(lambda: desk.point.error is None and desk.point.snapshot.cells == desk.project.cells)
    assert desk.last_values.voltage("a") == approx(0.58)


def _found(one: Draughtsman):
    one.person.wait(lambda: bool(one.desk.findings))
    return one.desk.findings


def test_a_gained_pin_is_placed_by_its_mend(draughtsman):
    """The finding on the block has a button; wires at other pins stay."""
    one, desk = draughtsman, draughtsman.desk
    desk.show_cell("ring11")
    one.person.wait(lambda: desk.point is not None)
    old = desk.project.cells["inv_x1"]
    from dataclasses import replace

    from hearthline.core.circuit.cell import Pin

    desk.documents.exchange(old, replace(old, pins=(*old.pins, Pin("en", "input", (-12, 6)))), "pin en")
    one.person.wait(lambda: any("inv_x1 has gained pin en; place it" in f.message for f in desk.findings))
    before = joints(flatten(desk.cell, desk.library).elements)
    one.window.side.show_view("findings")
    from PyQt6.QtWidgets import QPushButton

    button = next(b for b in one.window.side.view("findings").findChildren(QPushButton) if b.text() == "place it")
    one.person.click(button)
    assert "en" in desk.project.cells["inv_x1"].body.places
    after = joints(flatten(desk.cell, desk.library).elements)
    assert {group for group in before if len(group) > 2} == {group for group in after if len(group) > 2}


def test_a_terminal_is_left_open_from_the_list(draughtsman):
    """The mark is in the cell and the finding is gone."""
    one, desk = draughtsman, draughtsman.desk
    one.new_cell("scratch")
    one.place("resistor place", (0, 0))
    one.place("ground mark", (0, 2))
    one.person.wait(lambda: any("R1: terminal p" in f.message for f in desk.findings))
    finding = next(f for f in desk.findings if "terminal p" in f.message)
    one.window.side.view("findings")._fix(finding)
    one.person.wait(lambda: not any("R1: terminal p" in f.message for f in desk.findings))
    assert desk.cell.part("R1").open == ("p",)


def test_an_incomplete_circuit_keeps_its_last_values(draughtsman):
    """They go grey, and the reason stands on the card."""
    one, desk = draughtsman, draughtsman.desk
    desk.show_bench("inv_x1-transfer")
    one.person.wait(lambda: desk.point is not None and desk.point.error is None)
    kept = desk.last_values
    desk.select("net", "in")
    one.key(Qt.Key.Key_Delete)
    one.person.wait(lambda: desk.point.error is not None)
    assert desk.last_values is kept
    assert one.drawing.look().stale
    assert "no DC path" in one.window.card.text.text()


def test_the_symbol_is_reshaped_on_the_drawing(draughtsman):
    """Y, a terminal dragged; the wire there follows."""
    one, desk = draughtsman, draughtsman.desk
    desk.show_bench("ota_sense_bench-loop")
    one.person.wait(lambda: desk.point is not None)
    before = joints(flatten(desk.cell, desk.library).elements)
    one.lay_paper()
    part = desk.cell.part("X1")
    x, y = part.at
    desk.select("part", "X1")
    one.key(Qt.Key.Key_Y)
    one.drag((x + 7, y), (x + 9, y + 4))
    one.key(Qt.Key.Key_Escape)
    assert desk.project.cells["ota_sense"].body.places["out"] == (9, 4)
    assert joints(flatten(desk.cell, desk.library).elements) == before


def test_a_cell_edited_outside_asks(draughtsman):
    """The file is read again when the person says so."""
    one, desk = draughtsman, draughtsman.desk
    path = desk.project.folder / "cells" / "inv_x1.toml"
    path.write_text(path.read_text().replace('w = "2.4u"', 'w = "2.6u"'))
    one.person.wait(lambda: one.window.question.isVisible())
    from PyQt6.QtWidgets import QPushButton

    button = next(b for b in one.window.question.findChildren(QPushButton) if b.text() == "Take the file")
    one.person.click(button)
    assert desk.project.cells["inv_x1"].part("M2").values["w"] == "2.6u"
    assert not desk.documents.dirty


def test_the_table_of_devices_marks_trouble_and_leads_there(draughtsman):
    """Sorted by a column; a click goes into the block and selects the device."""
    one, desk = draughtsman, draughtsman.desk
    desk.show_bench("bias_core_bench-current")
    one.person.wait(lambda: desk.point is not None and desk.last_values is not None)
    table = one.window.side.view("devices")
    one.window.side.show_view("devices")
    one.person.wait(lambda: table.model.rowCount() == 8)
    column = 1 + table.model.table.columns.index("id")
    table.view.sortByColumn(column, Qt.SortOrder.DescendingOrder)
    shown = [table.sorted.data(table.sorted.index(row, 0)) for row in range(8)]
    values = dict(table.model.table.rows)
    assert shown == sorted(shown, key=lambda name: -values[name]["id"].value)
    row = shown.index("x1.m7")
    region = table.sorted.index(row, 1 + table.model.table.columns.index("region"))
    assert table.sorted.data(region) == "▲ triode"
    table._click(table.sorted.index(row, 0))
    assert (desk.trail, desk.selection.name) == (("X1",), "M7")


def test_the_netlist_beside_the_drawing_shares_the_selection(draughtsman):
    """Selecting a part lights its line; a click on a line selects the part."""
    one, desk = draughtsman, draughtsman.desk
    desk.show_bench("inv_x1-transfer")
    one.window.side.show_view("netlist")
    view = one.window.side.view("netlist")
    one.person.wait(lambda: view.written is not None and view.isVisible())
    one.person.click_on_drawing("part", "M2")
    lit = [selection.cursor.block().text() for selection in view.text.extraSelections()]
    assert lit == ["m2 out in vdd vdd p_rvt w=2.4u l=130n nf=2"]
    line = QTextCursor(view.text.document().findBlockByNumber(view.written.lines["M1"] - 1))
    one.person.click(view.text.viewport(), view.text.cursorRect(line).center())
    assert desk.selection.name == "M1"


def test_a_cell_is_written_as_deck_and_figures_and_read_again(draughtsman):
    """The deck solves by itself to the same voltages; dropped back under another name it is a drawing; SVG and PDF are whole."""
    import xml.etree.ElementTree as Xml

    from hearthline.cli import main

    one, desk = draughtsman, draughtsman.desk
    desk.show_bench("ota_sense_bench-loop")
    one.person.wait(lambda: desk.last_values is not None)
    out = desk.last_values.voltage("out")
    one.window.export_figure()
    figures = desk.project.folder / "figures"
    root = Xml.parse(figures / "ota_sense_bench.svg").getroot()
    assert root.tag.endswith("svg")
    assert len(list(root.iter("{http://www.w3.org/2000/svg}polyline"))) > 40
    assert (figures / "ota_sense_bench.pdf").read_bytes().startswith(b"%PDF")
    one.window.export_deck()
    deck = desk.project.folder / "decks" / "ota_sense_bench.cir"
    assert main(["solve", str(deck), "--out", str(desk.project.folder / "solved")]) == 0
    table = next((desk.project.folder / "solved").glob("*op*.csv")).read_text().splitlines()
    solved = dict(zip(table[0].split(","), map(float, table[1].split(",")), strict=True))
    assert solved["V(out)"] == approx(out, abs=1e-6)
    again = deck.with_name("follower.cir")
    again.write_text(deck.read_text().replace(".subckt ota_sense ", ".subckt amp ").replace(" ota_sense\n", " amp\n")
                     .replace(".subckt ideal_amp", ".subckt ideal").replace(" ideal_amp\n", " ideal\n"))  # fmt: skip
    assert one.window.editor.read_deck(again)
    assert desk.cell.name == "follower"
    one.person.wait(lambda: desk.point is not None and desk.point.snapshot.cell.name == "follower")
    assert desk.last_values.voltage("out") == approx(out, abs=1e-6)
    assert not one.window.editor.read_deck(again)
    assert "already" in one.window.card.text.text()


def test_a_wire_is_dragged_out_of_a_free_terminal(draughtsman):
    """And ends where it is let go: at another terminal, or in the open."""
    one, desk = draughtsman, draughtsman.desk
    one.new_cell("scratch")
    one.place("resistor place", (0, 0), (14, 6))
    one.drag((0, -2), (14, 4))
    nets = desk.library.connections(desk.cell).terminals
    assert nets["R1", "p"] == nets["R2", "p"]
    one.drag((0, 2), (0, 12))
    assert ((0, 2), (0, 12)) in [wire.points for wire in desk.cell.wires]


def test_a_path_selects_what_it_crosses_and_parts_are_lined_up(draughtsman):
    """Alt-drag; then a command of the search."""
    one, desk = draughtsman, draughtsman.desk
    one.new_cell("scratch")
    one.place("resistor place", (0, 0), (10, 3), (20, 1), (30, 12))
    one.drag((-5, 1), (24, 1), Qt.KeyboardModifier.AltModifier)
    assert desk.picked.parts == {"R1", "R2", "R3"}
    one.find("align top")
    assert {part.at[1] for part in desk.cell.parts} == {0, 12}


def test_a_part_dropped_on_a_wire_is_put_into_it(draughtsman):
    """The wire is cut between its terminals."""
    one, desk = draughtsman, draughtsman.desk
    one.new_cell("scratch")
    one.place("resistor place", (0, -10), (0, 10))
    one.wire(((0, -8), (0, 8)))
    one.place("capacitor place", (0, 0))
    nets = desk.library.connections(desk.cell).terminals
    assert nets["C1", "p"] == nets["R1", "n"]
    assert nets["C1", "n"] == nets["R2", "p"]
    assert nets["C1", "p"] != nets["C1", "n"]


def test_a_run_is_refused_with_what_the_checks_found(draughtsman):
    """Before anything is computed, naming the part."""
    one, desk = draughtsman, draughtsman.desk
    desk.show_bench("inv_x1-transfer")
    desk.change_part(desk.cell.part("M2").with_value("w", "2.4x"), "w")
    one.person.wait(lambda: any(f.part == "M2" for f in desk.findings))
    one.person.click(one.window.topline.run_button)
    assert not desk.results.runner.busy
    assert "M2: w: 'x' in '2.4x'" in one.window.card.text.text()
    assert "put this right before the run" in one.window.card.text.text()


def test_a_cell_by_itself_is_no_mistake(draughtsman):
    """It says what to do, and shows its findings all the same."""
    one, desk = draughtsman, draughtsman.desk
    desk.show_cell("slicer")
    one.person.wait(lambda: desk.point is not None)
    assert "without a bench" in one.window.card.text.text()
    assert one.window.card.property("wrong") is False


def test_a_killed_window_gives_its_new_cell_back(opened, folder):
    """From the journal, in the next window, when the person says so."""
    from PyQt6.QtWidgets import QPushButton

    first = Draughtsman(opened(folder))
    first.new_cell("found_again")
    first.place("resistor place", (0, 0))
    first.person.wait(lambda: (folder / ".unsaved" / "journal.json").exists())
    journal = folder / ".unsaved" / "journal.json"
    first.person.wait(lambda: '"found_again"' in journal.read_text() and '"R1"' in journal.read_text())
    text = journal.read_text()
    first.window.leave()  # which forgets the journal, as a kill would not
    journal.parent.mkdir(exist_ok=True)
    journal.write_text(text)
    second = opened(folder)
    button = next(b for b in second.window.question.findChildren(QPushButton) if b.text() == "Take them back")
    second.click(button)
    assert [part.name for part in second.desk.project.cells["found_again"].parts] == ["R1"]


def test_pins_and_parameters_of_a_cell(draughtsman):
    """The kind of a pin by a chip, a parameter typed as name = value, used in a value and set at a block."""
    from PyQt6.QtWidgets import QPushButton

    one, desk = draughtsman, draughtsman.desk
    one.new_cell("scaled")
    one.place("resistor place", (0, 0))
    one.pin("input", "a", (0, -6))
    chips = one.window.details.findChildren(QPushButton)
    desk.select("pin", "a")
    chips = one.window.details.findChildren(QPushButton)
    one.person.click(next(chip for chip in chips if chip.text() == "inout"))
    assert desk.cell.pins[0].kind == "inout"
    desk.select("", "")
    field = one.window.details.lines["new"]
    one.person.type_into(field, "rn = 3k")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert desk.cell.parameters == {"rn": "3k"}
    desk.select("part", "R1")
    line = one.window.details.lines["r"]
    one.person.type_into(line, "2*rn")
    assert line.parentWidget().echo.text() == "= 6 kΩ"
    one.person.type_into(line, "2*rx")
    assert "unknown parameter 'rx'" in line.parentWidget().echo.text()
    one.new_cell("above")
    one.place("scaled block", (0, 0))
    desk.select("part", "X1")
    assert "rn" in one.window.details.lines


def test_notes_hold_formulas_of_the_point(draughtsman):
    """In the names of the shown instance; nonsense is a question mark."""
    one, desk = draughtsman, draughtsman.desk
    desk.show_bench("ring11_bench-period")
    one.person.wait(lambda: desk.last_values is not None)
    desk.enter("X1")
    desk.enter("X2")
    volts = desk.last_values.voltage(desk.instance.net("out"))
    assert desk.last_values.formula("V(out)", desk.instance) == f"{volts:.4g}"
    gm = desk.last_values.part("x1.x2.m1")["gm"].value
    shown = desk.last_values.formula("1e6*m1.gm", desk.instance)
    assert float(shown) == approx(1e6 * gm, rel=1e-3)
    assert desk.last_values.formula("V(out", desk.instance) == "?"


def test_currents_into_the_pins_of_a_block_are_those_of_its_devices(draughtsman):
    """What the supply gives goes into the supply pins; what a pin carries is what the resistor at it takes."""
    one, desk = draughtsman, draughtsman.desk
    desk.show_bench("bias_core_bench-current")
    one.person.wait(lambda: desk.point is not None and desk.last_values is not None)
    desk.select("part", "X1")
    currents = desk.pin_currents("X1")
    assert currents["iout"] == approx(-desk.last_values.part("r1")["i"].value, rel=1e-4)
    assert currents["vdd"] == approx(-desk.last_values.part("vdd")["i"].value, rel=1e-3)
    assert one.drawing.look().pin_currents == {"X1": currents}


def test_a_cell_is_renamed_with_all_that_speaks_of_it_and_deleted_only_when_nothing_does(draughtsman):
    """Blocks and benches follow, in one step back and forth; the project on disk is whole afterwards."""
    one, desk = draughtsman, draughtsman.desk
    desk.show_bench("inv_x1-transfer")
    one.find("rename the cell")
    one.answer("inv_small")
    assert desk.bench_key == "inv_small-transfer"
    assert {part.device for part in desk.project.cells["ring11"].parts} == {"inv_small"}
    one.person.wait(lambda: desk.point is not None and desk.point.snapshot.cells == desk.project.cells)
    assert desk.point.error is None
    assert not one.window.editor.delete_cell()
    assert "inv_small is needed by ring11" in one.window.card.text.text()
    QTest.keyClick(one.window, Qt.Key.Key_S, CONTROL)
    again = read_project(desk.project.folder)
    assert again.problems == ()
    assert "inv_small" in again.cells
    assert "inv_x1" not in again.cells
    assert "inv_small-transfer" in again.benches
    one.key(Qt.Key.Key_Z, CONTROL)
    assert "inv_x1" in desk.project.cells
    assert desk.cell is not None
    one.new_cell("spare")
    assert one.window.editor.delete_cell()
    assert "spare" not in desk.project.cells
    one.key(Qt.Key.Key_Z, CONTROL)
    assert "spare" in desk.project.cells


def test_a_tool_in_hand_says_how_it_is_used(draughtsman):
    """At the foot of the drawing, until it is put away."""
    one = draughtsman
    one.new_cell("scratch")
    one.key(Qt.Key.Key_D)
    assert "click from terminal to terminal" in one.window.card.text.text()
    one.key(Qt.Key.Key_Escape)
    assert "click from terminal" not in one.window.card.text.text()
    one.find("resistor place")
    assert "T turns" in one.window.card.text.text()
