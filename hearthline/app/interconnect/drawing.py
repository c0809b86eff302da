"""What drawings of lines, wires and substrates have alike."""

from __future__ import annotations

from typing import Any

from PyQt6.QtWidgets import QWidget

from hearthline.app.theme.theme import theme


class Drawing(QWidget):
    """Shows a `thing`, or nothing; `called` for those who do not see it, `high` in pixels."""

    def __init__(self, called: str, high: int) -> None:
        super().__init__()
        self.thing: Any = None
        self.setFixedHeight(high)
        self.setAccessibleName(called)
        theme.changed.connect(self.update)

    def show_thing(self, thing: Any) -> None:
        """Another one."""
        self.thing = thing
        self.update()
