"""Answers questions off the window's thread: the newest wins, stale answers are dropped."""

from __future__ import annotations

import sys
import threading
from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from hearthline.core.errors import HearthlineError


class NewestWins(QObject):
    """One thread for one kind of question. `answered(result)` and `refused(error)` arrive on the window's thread; `report`
    hands what a question says on its way to `told`."""

    answered = pyqtSignal(object)
    refused = pyqtSignal(object)
    told = pyqtSignal(object)
    _arrived = pyqtSignal(int, object, object)
    _reported = pyqtSignal(int, object)

    def __init__(self, name: str, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._changed = threading.Condition()
        self._wanted: tuple[int, Callable] | None = None
        self._closing = False
        self.number = self._answered = 0
        self._arrived.connect(self._receive)
        self._reported.connect(self._hear)
        self._thread = threading.Thread(target=self._work, name=name, daemon=True)
        self._thread.start()

    def ask(self, question: Callable[[Callable[[object], None]], object]) -> None:
        """`question(report)` is called on the thread, in the place of whatever was waiting."""
        with self._changed:
            self.number += 1
            self._wanted = (self.number, question)
            self._changed.notify()

    @property
    def busy(self) -> bool:
        """Whether an answer to the newest question is still to come."""
        return self._answered != self.number

    def close(self) -> None:
        """Ends the thread."""
        with self._changed:
            self._closing = True
            self._changed.notify()
        self._thread.join()

    def _work(self) -> None:
        while True:
            with self._changed:
                self._changed.wait_for(lambda: self._wanted or self._closing)
                wanted, self._wanted = self._wanted, None
            if self._closing:
                return
            number, question = wanted
            try:
                result, error = question(lambda what, number=number: self._reported.emit(number, what)), None
            except HearthlineError as problem:
                result, error = None, problem
            except Exception as fault:  # the thread goes on; the trace goes where those of the window go
                sys.excepthook(type(fault), fault, fault.__traceback__)
                result, error = None, HearthlineError(f"this could not be computed: {fault or type(fault).__name__}")
            self._arrived.emit(number, result, error)

    def _hear(self, number: int, what: object) -> None:
        if number == self.number:
            self.told.emit(what)

    def _receive(self, number: int, result: object, error: object) -> None:
        if number != self.number:
            return
        self._answered = number
        if error is not None:
            self.refused.emit(error)
        else:
            self.answered.emit(result)
