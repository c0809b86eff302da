"""What the checks found, as a list that leads to each; what can be mended in one step has a button for it."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import clear, quiet
from hearthline.app.state.desk import Desk
from hearthline.app.state.editor import Editor
from hearthline.app.theme.fonts import text_font
from hearthline.app.theme.theme import theme
from hearthline.core.circuit.rules.finding import ERROR, Finding

FIXES = {"open": "leave open", "body": "place it"}


class FindingRow(QFrame):
    """One finding; a click shows it."""

    clicked = pyqtSignal(object)

    def __init__(self, finding: Finding, fix) -> None:
        super().__init__()
        self.finding = finding
        self.setObjectName("card")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(10, 6, 10, 6)
        mark = Label("✕" if finding.weight == ERROR else "◦")
        mark.setStyleSheet(f"color: {theme.color('ember_ink' if finding.weight == ERROR else 'amber_ink').name()}")
        mark.setFont(text_font(14, bold=True))
        text = Label(finding.message)
        text.setWordWrap(True)
        text.setFont(text_font(12))
        layout.addWidget(mark, 0, Qt.AlignmentFlag.AlignTop)
        layout.addWidget(text, 1)
        if finding.fix:
            button = QPushButton(FIXES[finding.fix])
            button.clicked.connect(lambda _=False: fix(finding))
            layout.addWidget(button, 0, Qt.AlignmentFlag.AlignTop)

    def mousePressEvent(self, event) -> None:
        """Shows the place."""
        self.clicked.emit(self.finding)


class FindingsList(QScrollArea):
    """Follows the findings of the desk; a click shows where it is."""

    def __init__(self, desk: Desk, editor: Editor, show: Callable[[Finding], None]) -> None:
        super().__init__()
        self.desk, self.editor, self._show = desk, editor, show
        self.setObjectName("findings")
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        body = QWidget()
        self.column = QVBoxLayout(body)
        self.column.setContentsMargins(14, 10, 14, 10)
        self.setWidget(body)
        desk.findings_changed.connect(self._list)
        desk.bench_changed.connect(self._list)
        theme.changed.connect(self._list)
        self._list()

    def _list(self) -> None:
        clear(self.column)
        for finding in self.desk.findings:
            row = FindingRow(finding, self._fix)
            row.clicked.connect(self._show)
            self.column.addWidget(row)
        if not self.desk.findings:
            self.column.addWidget(quiet("Every check of this drawing passes."))
        self.column.addStretch()

    def _fix(self, finding: Finding) -> None:
        if finding.fix == "body":
            self.editor.fix_body(finding.of)
            return
        part, _, terminal = finding.of.rpartition(".")
        if any(one.name == part for one in self.editor.cell.parts):
            # the list may still be of the drawing as it was: the checks have not caught up
            self.editor.leave_open(part, terminal)
