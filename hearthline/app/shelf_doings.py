"""What the menus of the shelf's rows do."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QUrl
from PyQt6.QtGui import QDesktopServices

from hearthline.app.drawing_commands import rename_cell
from hearthline.app.panels.shelf_items import Doings

if TYPE_CHECKING:
    from hearthline.app.frame import Frame


def doings(window: Frame) -> Doings:
    """All of them, for one window."""
    desk = window.desk
    return Doings(
        lambda: rename_cell(window), window.editor.delete_cell, lambda: copy_cell(window),
        lambda: ask_bench(window, "new name of the bench", desk.rename_bench),
        lambda: ask_bench(window, "name of the copy", desk.new_bench), desk.delete_bench, _reveal,
    )  # fmt: skip


def copy_cell(window: Frame) -> None:
    """Asks what the copy of the shown cell is called."""
    cell = window.desk.cell
    if cell is not None:
        window.ask_at_pointer("name of the copy", f"{cell.name}_copy", window.editor.copy_cell)


def ask_bench(window: Frame, label: str, answer) -> None:
    """A name for a bench, at the pointer."""
    if window.desk.bench is not None:
        window.ask_at_pointer(label, window.desk.bench.name, answer)


def _reveal(path: Path) -> None:
    """Opens the folder that a file stands in."""
    QDesktopServices.openUrl(QUrl.fromLocalFile(str(path.parent)))
