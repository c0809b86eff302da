"""What commands may ask of the window that they belong to."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Protocol

if TYPE_CHECKING:
    from hearthline.app.canvas.drawing import Drawing
    from hearthline.app.charts.sheet import Sheet
    from hearthline.app.commands import Command
    from hearthline.app.panels.overlay import HelpSheet
    from hearthline.app.panels.side import Side
    from hearthline.app.placing import Placer
    from hearthline.app.shelf_holder import ShelfHolder
    from hearthline.app.state.desk import Desk
    from hearthline.app.state.editor import Editor
    from hearthline.app.state.memory import Memory


class Frame(Protocol):
    """A window with a drawing and the views beside it."""

    desk: Desk
    editor: Editor
    drawing: Drawing
    side: Side
    sheet: Sheet
    placer: Placer
    help: HelpSheet
    commands: list[Command]
    holder: ShelfHolder
    memory: Memory

    def ask_at_pointer(self, question: str, text: str, action: Callable[[str], None]) -> None:
        """A line of text where the pointer is."""

    def ask_deck(self) -> None:
        """A deck to be read as cells."""

    def export_deck(self) -> None:
        """The cell as a deck."""

    def export_figure(self) -> None:
        """The drawing as SVG and PDF."""

    def open_search(self) -> None:
        """Whatever can be added or found."""

    def show_side(self, side: str) -> None:
        """`drawing`, `charts` or `both`."""

    def go_back(self) -> None:
        """Out of a device desk, or out of a block."""

    def save(self) -> None:
        """Everything that is not saved."""

    def new_text(self) -> None:
        """A new device text."""

    def close(self) -> bool:
        """Ends the work."""

    def keep_details(self) -> None:
        """Keeps the details where nothing is selected, or lets them come and go."""

    def do(self, command: Command) -> None:
        """Runs a command, or says what it needs."""
