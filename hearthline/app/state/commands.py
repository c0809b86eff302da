"""Undoable changes of documents: each exchanges frozen cells and benches for others."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtGui import QUndoCommand

from hearthline.core.bench.bench import Bench
from hearthline.core.circuit.cell import Cell

MERGE_ID = 1
Document = Cell | Bench
Pair = tuple[Document | None, Document | None]
"""What was there and what comes in its place; None where there was nothing, or where nothing comes."""


class Exchange(QUndoCommand):
    """Puts new documents in the place of old ones. Changes of the same `field` in a row become one, so that typing is one
    step."""

    def __init__(self, put: Callable[[list[Pair]], None], pairs: list[Pair], text: str, field: str):
        super().__init__(text)
        self._put, self._pairs, self._field = put, pairs, field

    def redo(self) -> None:
        """Puts the new documents in place."""
        self._put(self._pairs)

    def undo(self) -> None:
        """Puts the old documents back."""
        self._put([(new, old) for old, new in reversed(self._pairs)])

    def id(self) -> int:
        """Commands of one id are offered to `mergeWith`."""
        return MERGE_ID

    def mergeWith(self, later: QUndoCommand) -> bool:
        """Takes a later change of the same field into this one."""
        if not isinstance(later, Exchange) or not self._field or later._field != self._field:
            return False
        if len(self._pairs) != len(later._pairs):
            return False
        pairs = zip(self._pairs, later._pairs, strict=True)
        self._pairs = [(old, newest) for (old, _), (_, newest) in pairs]
        self.setText(later.text())
        self.setObsolete(all(old == new for old, new in self._pairs))
        return True
