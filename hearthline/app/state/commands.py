"""Undoable changes of documents: each exchanges one frozen cell or bench for another."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtGui import QUndoCommand

from hearthline.core.bench.bench import Bench
from hearthline.core.circuit.cell import Cell

MERGE_ID = 1


class Exchange(QUndoCommand):
    """Puts `new` in the place of `old`. Changes of the same `field` in a row become one, so that typing is one step."""

    def __init__(
        self, put: Callable[[Cell | Bench], None], old: Cell | Bench, new: Cell | Bench, text: str, field: str
    ):
        super().__init__(text)
        self._put, self._old, self._new, self._field = put, old, new, field

    def redo(self) -> None:
        """Puts the new document in place."""
        self._put(self._new)

    def undo(self) -> None:
        """Puts the old document back."""
        self._put(self._old)

    def id(self) -> int:
        """Commands of one id are offered to `mergeWith`."""
        return MERGE_ID

    def mergeWith(self, later: QUndoCommand) -> bool:
        """Takes a later change of the same field into this one."""
        if not isinstance(later, Exchange) or not self._field or later._field != self._field:
            return False
        self._new = later._new
        self.setText(later.text())
        self.setObsolete(self._new == self._old)
        return True
