"""The top line: bench, conditions as chips, find anything, run and stop with progress."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QIcon
from PyQt6.QtWidgets import QHBoxLayout, QProgressBar, QPushButton, QSizePolicy, QWidget

from hearthline.app.panels.conditions import ConditionChips
from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import offer
from hearthline.app.state.desk import Desk
from hearthline.app.state.runner import Progress

ICON = Path(__file__).parents[1] / "theme" / "icons" / "hearth.svg"


class TopLine(QWidget):
    """`find` opens the search."""

    def __init__(self, desk: Desk, find: Callable[[], None], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.setObjectName("topline")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(44)
        self.bench_button = self._button("", "bench", "The bench on the desk; click for the others")
        self.bench_button.clicked.connect(lambda _=False: self._offer_benches())
        self.find_button = self._button(
            "Add or find anything             Space",
            "find",
            "Parts to place, cells, nets, readings and commands in one list",
        )
        self.find_button.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        self.find_button.clicked.connect(lambda _=False: find())
        self.run_button = self._button("Run", "run", "")
        self.run_button.setFixedWidth(84)
        self.run_button.clicked.connect(lambda _=False: desk.stop() if desk.results.runner.busy else desk.run())
        self.progress = QProgressBar()
        self.progress.setTextVisible(False)
        self.progress.setFixedSize(90, 6)
        self.progress_note = Label()
        self.progress_note.setProperty("quiet", True)
        self._lay_out()
        desk.bench_changed.connect(self._show)
        desk.project_changed.connect(self._show)
        desk.results.runner.started.connect(self._show_running)
        desk.results.runner.progressed.connect(self._show_progress)
        desk.results.runner.finished.connect(lambda _: self._show_running())
        self._show()
        self._show_running()

    def _button(self, text: str, name: str, tip: str) -> QPushButton:
        button = QPushButton(text)
        button.setObjectName(name)
        button.setAccessibleName(name)
        button.setToolTip(tip)
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        return button

    def _lay_out(self) -> None:
        logo = Label()
        logo.setPixmap(QIcon(str(ICON)).pixmap(QSize(22, 22)))
        layout = QHBoxLayout(self)
        layout.setContentsMargins(12, 0, 12, 0)
        layout.setSpacing(8)
        layout.addWidget(logo)
        layout.addWidget(self.bench_button)
        layout.addWidget(ConditionChips(self.desk))
        layout.addStretch(1)
        layout.addWidget(self.find_button)
        layout.addStretch(1)
        layout.addWidget(self.progress_note)
        layout.addWidget(self.progress)
        layout.addWidget(self.run_button)

    def _show(self) -> None:
        bench = self.desk.bench
        self.bench_button.setText(bench.title if bench else "no bench")
        self.run_button.setEnabled(self.desk.snapshot is not None)

    def _show_running(self) -> None:
        busy = self.desk.results.runner.busy
        self.run_button.setText("Stop" if busy else "Run")
        self.run_button.setToolTip(
            "Stop, keeping what is done (Ctrl+.)" if busy else "Run over all conditions (Ctrl+Return)"
        )
        self.progress.setVisible(busy)
        self.progress_note.setVisible(busy)
        self.progress_note.setText("")
        self.find_button.setVisible(not busy)
        self.progress.setRange(0, 0)

    def _show_progress(self, progress: Progress) -> None:
        self.progress.setRange(0, 1000)
        self.progress.setValue(round(1000 * progress.share))
        self.progress.setToolTip(progress.words)
        self.progress_note.setText(progress.words)

    def _offer_benches(self) -> None:
        if self.desk.project:
            benches = self.desk.project.benches.items()
            offer(self.bench_button, [(b.title, lambda k=key: self.desk.show_bench(k)) for key, b in benches])
