"""What a tool may ask of the drawing that it works on."""

from __future__ import annotations

from typing import TYPE_CHECKING, Protocol

from PyQt6.QtCore import QPointF, pyqtBoundSignal

from hearthline.core.circuit.edit.picked import NOTHING, Picked

if TYPE_CHECKING:
    from hearthline.app.canvas.brush import View
    from hearthline.app.canvas.scene import Scene
    from hearthline.app.state.desk import Desk
    from hearthline.app.state.editor import Editor


class Surface(Protocol):
    """A drawing: `scene` is what is on it (None: nothing), `view` where that lies on the screen; `typed` carries what was typed
    over a part."""

    desk: Desk
    editor: Editor
    scene: Scene | None
    view: View
    pointer: QPointF
    typed: pyqtBoundSignal

    def use(self, tool: object | None) -> None:
        """Another tool; None for pointing."""

    def update(self) -> None:
        """Paints anew."""

    def show_preview(self, scene: Scene | None, picked: Picked = NOTHING) -> None:
        """What an edit would make of the drawing; None ends it."""
