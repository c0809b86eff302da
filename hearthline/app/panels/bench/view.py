"""The bench as lines beside the drawing: what is tied to it, what is asked of it, over which conditions; or as its text."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QPlainTextEdit,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from hearthline.app.panels.bench.analyses import Analyses
from hearthline.app.panels.bench.conditions import Conditions
from hearthline.app.panels.bench.readings import Readings
from hearthline.app.panels.bench.samples import Samples
from hearthline.app.panels.bench.section import free_name
from hearthline.app.panels.bench.specifications import Specifications
from hearthline.app.panels.bench.stimuli import Stimuli
from hearthline.app.panels.bench.surroundings import SurroundingsSection
from hearthline.app.panels.bench.watches import Watches
from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import chip
from hearthline.app.panels.value_field import set_wrong
from hearthline.app.state.desk import Desk
from hearthline.app.theme.fonts import figure_font
from hearthline.core.errors import FileError
from hearthline.core.formats.bench_file import bench_of, bench_text
from hearthline.core.formats.toml_table import parse_toml


class BenchView(QWidget):
    """Lines and text are two views of one document; what is typed in either is there at once, and can be undone."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.title, self.problem = Label(), Label()
        self.title.setProperty("heading", True)
        self.problem.setWordWrap(True)
        self.problem.setProperty("quiet", True)
        self.make = chip("Make a bench of this cell", self._make, "pins tied by their kinds, with a first analysis")
        self.as_text = chip("as text", self._turn, "the whole bench as the text of its file, to edit", True)
        self.analyses, self.stimuli, self.conditions = Analyses(desk), Stimuli(desk), Conditions(desk)
        self.watches, self.readings, self.specifications = Watches(desk), Readings(desk), Specifications(desk)
        self.samples, self.surroundings = Samples(desk), SurroundingsSection(desk)
        self.sections = [
            self.analyses, self.stimuli, self.conditions, self.surroundings, self.watches, self.readings,
            self.specifications, self.samples,
        ]  # fmt: skip
        self.editor = QPlainTextEdit()
        self.editor.setFont(figure_font(12))
        self.editor.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.editor.setAccessibleName("bench as text")
        self.editor.textChanged.connect(self._typed)
        self._shown_text = ""
        self._lay_out()
        for signal in (desk.bench_changed, desk.document_changed, desk.results.analysis_changed):
            signal.connect(self.follow)
        desk.results.verdicts_changed.connect(self._show_values)
        self.follow()

    def _lay_out(self) -> None:
        head = QHBoxLayout()
        head.setContentsMargins(14, 8, 12, 0)
        head.addWidget(self.title)
        head.addStretch()
        head.addWidget(self.make)
        head.addWidget(self.as_text)
        lines = QWidget()
        lines.setObjectName("benchlines")
        column = QVBoxLayout(lines)
        column.setContentsMargins(14, 0, 12, 12)
        column.setSpacing(2)
        for section in self.sections:
            column.addWidget(section)
        column.addStretch()
        scroll = QScrollArea()
        scroll.setObjectName("benchscroll")
        scroll.setWidget(lines)
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        text = QWidget()
        text_column = QVBoxLayout(text)
        text_column.setContentsMargins(14, 4, 12, 10)
        text_column.addWidget(self.editor, 1)
        text_column.addWidget(self.problem)
        self.stack = QStackedWidget()
        self.stack.addWidget(scroll)
        self.stack.addWidget(text)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addLayout(head)
        layout.addWidget(self.stack, 1)
        layout.addStretch()

    def follow(self) -> None:
        """Everything from the document; only what is seen is laid anew."""
        bench = self.desk.bench
        self.title.setText(bench.title if bench else "no bench")
        has = bench is not None and bool(bench.name)
        self.stack.setVisible(has)
        self.as_text.setVisible(has)
        self.make.setVisible(bench is not None and not has)
        if not has or not self.isVisible():
            return
        if self.as_text.isChecked():
            self._show_text()
        else:
            for section in self.sections:
                section.show_all()

    def showEvent(self, event) -> None:
        """What was not seen may be stale."""
        super().showEvent(event)
        self.follow()

    def _show_values(self) -> None:
        if self.isVisible() and self.desk.bench and self.desk.bench.name and not self.as_text.isChecked():
            self.readings.show_all()

    def _make(self) -> None:
        taken = [bench.name for bench in self.desk.project.benches.values() if bench.subject == self.desk.bench.subject]
        self.desk.new_bench(free_name("bench", taken))

    # -- as text

    def _turn(self) -> None:
        self.stack.setCurrentIndex(1 if self.as_text.isChecked() else 0)
        self._shown_text = ""
        self.follow()

    def _show_text(self) -> None:
        text = bench_text(self.desk.bench)
        if text != self._shown_text and not self.editor.hasFocus():
            self._shown_text = text
            self.editor.setPlainText(text)

    def _typed(self) -> None:
        """Every text that can be is the bench; another says its line."""
        text = self.editor.toPlainText()
        if text == self._shown_text or self.desk.bench is None:
            return
        try:
            bench = bench_of(parse_toml(text, "line"))
            if bench.key != self.desk.bench.key:
                raise FileError("the name of a bench and its cell stay as they are", "line", 1)
        except FileError as error:
            self.problem.setText(str(error))
            set_wrong(self.problem, True)
            return
        self.problem.setText("")
        set_wrong(self.problem, False)
        self._shown_text = text
        if bench != self.desk.bench:
            self.desk.change_bench(bench, "bench as text", "bench as text")
