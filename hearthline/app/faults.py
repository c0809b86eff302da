"""What happens when something in the window goes wrong that nobody thought of: the journal is written, the person is told and
may copy the report, and the window goes on. An exception in a slot, a paint event or a thread comes here."""

from __future__ import annotations

import platform
import sys
import threading
import traceback

from PyQt6.QtCore import PYQT_VERSION_STR, QT_VERSION_STR, QObject, pyqtSignal
from PyQt6.QtGui import QGuiApplication

from hearthline import __version__


class Faults(QObject):
    """Hears of every exception that nothing caught. `install` makes it the one that Python calls."""

    heard = pyqtSignal(str, str)

    def __init__(self, window) -> None:
        super().__init__(window)
        self.window = window
        self.reports: list[str] = []
        self.heard.connect(self._show)

    def install(self) -> None:
        """From here on; until `remove`."""
        sys.excepthook = self.hear
        threading.excepthook = lambda found: self.hear(found.exc_type, found.exc_value, found.exc_traceback)

    @staticmethod
    def remove() -> None:
        """As Python has it by itself."""
        sys.excepthook, threading.excepthook = sys.__excepthook__, threading.__excepthook__

    def hear(self, kind: type[BaseException], error: BaseException | None, trace) -> None:
        """Called from any thread."""
        if issubclass(kind, KeyboardInterrupt | SystemExit):
            sys.__excepthook__(kind, error, trace)
            return
        text = "".join(traceback.format_exception(kind, error, trace))
        versions = f"Python {platform.python_version()}, Qt {QT_VERSION_STR}, PyQt {PYQT_VERSION_STR}"
        report = f"Hearthline {__version__}, {versions}\n{text}"
        if report in self.reports:  # a fault in painting comes back with every picture
            return
        self.reports.append(report)
        print(text, file=sys.stderr, end="")
        self.heard.emit(f"{kind.__name__}: {error}", report)

    def _show(self, what: str, report: str) -> None:
        self.window.desk.documents.write_journal_now()
        text = (
            f"Something went wrong that should not ({what[:200]}). What is not saved is in the journal; the window goes on, "
            "and saving under another name is wise."
        )
        answers = {"Copy the report": lambda: QGuiApplication.clipboard().setText(report), "Go on": lambda: None}
        self.window.question.ask(text, answers)
