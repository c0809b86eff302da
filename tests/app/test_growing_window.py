"""What is one file stays one file in the window too: a toy view and a toy element, entered in their registries alone."""

from __future__ import annotations

from hearthline.app.panels.label import Label
from hearthline.app.views import VIEWS, Around, SideView
from hearthline.core.elements import ELEMENTS
from tests.app.test_drawing_session import Draughtsman
from tests.approximation import approx
from tests.toys import SQUARE


class Census(Label):
    """How many parts the shown cell has; a click leads to the first."""

    def __init__(self, around: Around):
        super().__init__()
        self.around = around
        around.desk.trail_changed.connect(self.count)
        self.count()

    def count(self) -> None:
        """Anew."""
        self.setText(f"{len(self.around.desk.cell.parts)} parts")

    def mousePressEvent(self, event) -> None:
        """To the first part."""
        self.around.guide.part(self.around.desk.cell.parts[0].name)


def test_a_new_view_stands_beside_the_drawing(opened, folder, monkeypatch):
    """It has a word with its count, a command, and leads to parts; it is made when it is first wanted."""
    monkeypatch.setitem(VIEWS, "census", SideView("census", Census, count=lambda desk: len(desk.project.cells)))
    one = opened(folder)
    side, desk = one.window.side, one.desk
    one.wait(lambda: side.words["census"].text() == f"census {len(desk.project.cells)}")
    assert not side.findChildren(Census)
    one.click(side.words["census"])
    view = side.view("census")
    assert view.isVisible()
    assert view.text() == f"{len(desk.cell.parts)} parts"
    one.click(view)
    assert desk.selection.name == desk.cell.parts[0].name
    side.show_view("charts")
    next(one for one in one.window.commands if one.name == "Show the census").action()
    assert view.isVisible()


def test_a_new_element_is_placed_drawn_and_solved(person, monkeypatch):
    """Found by its name, with the value it begins with; its operating point stands beside it."""
    monkeypatch.setitem(ELEMENTS, "N", SQUARE)
    one = Draughtsman(person)
    one.new_cell("toy")
    one.place("voltage source place", (-8, 0))
    one.place("square conductor place", (8, 0))
    one.place("ground mark", (-8, 6), (8, 6))
    one.wire(((-8, -2), (-8, -6), (8, -6), (8, -2)), ((-8, 2), (-8, 6)), ((8, 2), (8, 6)))
    part = next(part for part in one.desk.cell.parts if part.device == "square conductor")
    assert part.name == "N1"
    assert part.values == {"k": "1m"}

    def current() -> float:
        values = one.desk.last_values
        return values.part("n1")["i"].value if values is not None and "n1" in values.elements else 0.0

    person.wait(lambda: current() == approx(1e-3, rel=1e-6))
