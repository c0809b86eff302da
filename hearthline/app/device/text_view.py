"""A device text as a person writes it: recompiled when typing pauses, each mistake marked on its line and said below."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtCore import QRect, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QSyntaxHighlighter, QTextCharFormat, QTextCursor, QTextFormat
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPlainTextEdit,
    QTextEdit,
    QVBoxLayout,
    QWidget,
)

from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import quiet
from hearthline.app.state.worker import NewestWins
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.theme import theme
from hearthline.core.errors import ModelError

PAUSE = 450
"""Milliseconds without a key after which a text is compiled."""

WORDS = frozenset(
    "module endmodule begin end if else case endcase default for while repeat analog function endfunction parameter "  # noqa: SIM905
    "localparam aliasparam real integer string electrical thermal inout input output branch ground from exclude inf".split()
)
START = """`include "constants.vams"
`include "disciplines.vams"

(* desc="a new device" *)
module new_device(p, n);
    inout p, n;
    electrical p, n;
    (* desc="resistance", units="Ohm" *) parameter real r = 1e3 from (0:inf);
    (* desc="current", units="A", multiplicity="multiply" *) real i;

    analog begin
        i = V(p, n) / r;
        I(p, n) <+ i;
    end
endmodule
"""


@dataclass(frozen=True)
class Compiled:
    """What came of a text: its modules, or the mistakes; and doubts. Each is (line, sentence)."""

    modules: tuple
    mistakes: tuple[tuple[int, str], ...]
    doubts: tuple[tuple[int, str], ...]


def compile_now(text: str, name: str, folder: Path, say: Callable[[str], None] = lambda stage: None) -> Compiled:
    """Compiles a text, its machine code too, so that nothing has to wait for it later; `say` hears of each stage."""
    from hearthline.core.models.veriloga.compiler import compile_text  # late: it brings the parser

    shown = f"devices/{name}"
    try:
        modules = compile_text(text, shown, folder, say)
        for module in modules:
            say(f"{shown}: machine code of {module.name}")
            _ = module.address
    except ModelError as error:
        found = [error, *error.others]
        return Compiled((), tuple((e.line if e.file == shown else 1, _said(e, shown)) for e in found), ())
    doubts = tuple((line if file == shown else 1, message) for m in modules for file, line, message in m.warnings)
    return Compiled(modules, (), doubts)


def _said(error, shown: str) -> str:
    return error.message if error.file == shown else f"{error.file}:{error.line}: {error.message}"


class _Margin(QWidget):
    """Line numbers, with a mark at lines where something is wrong or doubtful."""

    def __init__(self, editor: TextEditor) -> None:
        super().__init__(editor)
        self.editor = editor

    def sizeHint(self) -> QSize:
        """As wide as the largest number."""
        return QSize(self.editor.margin_width(), 0)

    def paintEvent(self, event) -> None:
        """Numbers beside the lines that are in view."""
        self.editor.paint_margin(event)


class _Colours(QSyntaxHighlighter):
    """Quiet comments, teal words of the language."""

    def highlightBlock(self, text: str) -> None:
        """One line."""
        word_format, comment, quoted = QTextCharFormat(), QTextCharFormat(), QTextCharFormat()
        word_format.setForeground(theme.color("teal"))
        comment.setForeground(theme.color("quiet"))
        quoted.setForeground(theme.color("moss"))
        start = 0
        code = text.split("//")[0]
        while start < len(code):
            if code[start].isalpha() or code[start] in "_`$":
                end = start + 1
                while end < len(code) and (code[end].isalnum() or code[end] in "_$"):
                    end += 1
                if code[start:end] in WORDS or code[start] in "`$":
                    self.setFormat(start, end - start, word_format)
                start = end
            elif code[start] == '"':
                end = code.find('"', start + 1)
                end = len(code) if end < 0 else end + 1
                self.setFormat(start, end - start, quoted)
                start = end
            else:
                start += 1
        if len(code) < len(text):
            self.setFormat(len(code), len(text) - len(code), comment)


class TextEditor(QPlainTextEdit):
    """The text with line numbers; `mark` shows where it is wrong."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("devicetext")
        self.setAccessibleName("device text")
        self.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.setTabChangesFocus(False)
        self.setFont(figure_font(12))
        self.setTabStopDistance(4 * self.fontMetrics().horizontalAdvance(" "))
        self.wrong: dict[int, str] = {}
        self.doubtful: dict[int, str] = {}
        self.margin = _Margin(self)
        self.colours = _Colours(self.document())
        self.blockCountChanged.connect(self._fit_margin)
        self.updateRequest.connect(self._scroll_margin)
        self._fit_margin()

    def margin_width(self) -> int:
        """Pixels for the line numbers."""
        return 18 + self.fontMetrics().horizontalAdvance("9") * max(3, len(str(self.blockCount())))

    def _fit_margin(self, *_: object) -> None:
        self.setViewportMargins(self.margin_width(), 0, 0, 0)

    def _scroll_margin(self, rectangle: QRect, dy: int) -> None:
        if dy:
            self.margin.scroll(0, dy)
        else:
            self.margin.update(0, rectangle.y(), self.margin.width(), rectangle.height())

    def resizeEvent(self, event) -> None:
        """The margin is as high as the text."""
        super().resizeEvent(event)
        box = self.contentsRect()
        self.margin.setGeometry(QRect(box.left(), box.top(), self.margin_width(), box.height()))

    def paint_margin(self, event) -> None:
        """Draws what stands in the margin."""
        painter = QPainter(self.margin)
        painter.fillRect(event.rect(), theme.color("panel"))
        painter.setFont(figure_font(11))
        block = self.firstVisibleBlock()
        top = self.blockBoundingGeometry(block).translated(self.contentOffset()).top()
        while block.isValid() and top <= event.rect().bottom():
            height = self.blockBoundingRect(block).height()
            number = block.blockNumber() + 1
            role = "ember_ink" if number in self.wrong else "amber" if number in self.doubtful else "quiet"
            painter.setPen(theme.color(role))
            box = QRect(0, int(top), self.margin.width() - 8, int(height))
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, str(number))
            if role != "quiet":
                painter.setBrush(theme.color(role))
                painter.drawRect(2, int(top + height / 2) - 3, 5, 6)
            block, top = block.next(), top + height

    def mark(self, mistakes, doubts) -> None:
        """Underlines lines and remembers their sentences."""
        self.wrong = dict(reversed(mistakes))
        self.doubtful = {line: text for line, text in reversed(doubts) if line not in self.wrong}
        selections = []
        for line, role in [*((k, "ember") for k in self.wrong), *((k, "amber") for k in self.doubtful)]:
            selection = QTextEdit.ExtraSelection()
            wash = QColor(theme.color(role))
            wash.setAlpha(38)
            selection.format.setBackground(wash)
            selection.format.setProperty(QTextFormat.Property.FullWidthSelection, True)
            selection.cursor = QTextCursor(self.document().findBlockByNumber(line - 1))
            selections.append(selection)
        self.setExtraSelections(selections)
        self.margin.update()

    def go_to(self, line: int) -> None:
        """Puts the cursor at the beginning of a line."""
        self.setTextCursor(QTextCursor(self.document().findBlockByNumber(line - 1)))
        self.setFocus()


class TextView(QWidget):
    """One device text of the project. `compiled(modules)` when it has no mistake."""

    compiled = pyqtSignal(object)
    typed = pyqtSignal(str, object, str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.path: Path | None = None
        self.drafts = None
        self._saved = ""
        self.name = Label()
        self.name.setFont(text_font(13, bold=True))
        self.state = quiet("", wrap=False)
        self.editor = TextEditor()
        self.list = QListWidget()
        self.list.setFont(text_font(12))
        self.list.setWordWrap(True)
        self.list.itemClicked.connect(self._go)
        self.pause = QTimer(self)
        self.pause.setSingleShot(True)
        self.pause.setInterval(PAUSE)
        self.pause.timeout.connect(self.compile)
        self.editor.textChanged.connect(self._typed)
        self.worker = NewestWins("device text", self)
        self.worker.answered.connect(self._take)
        self.worker.refused.connect(lambda error: self.state.setText(str(error)))
        self.worker.told.connect(lambda stage: self.state.setText(f"{stage} …"))
        theme.changed.connect(self._restyle)
        head = QHBoxLayout()
        head.setContentsMargins(12, 8, 12, 4)
        head.addWidget(self.name)
        head.addStretch()
        head.addWidget(self.state)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(head)
        layout.addWidget(self.editor, 1)
        layout.addWidget(self.list)
        self.result: Compiled | None = None

    def close_worker(self) -> None:
        """Ends the thread."""
        self.worker.close()

    def open(self, path: Path) -> None:
        """Shows a file, or the beginning of a new one where there is none."""
        self.path = path
        self._saved = path.read_text(encoding="utf-8", errors="replace") if path.is_file() else ""
        draft = self.drafts.drafts.get(path.name) if self.drafts else None
        self.editor.blockSignals(True)
        self.editor.setPlainText(draft if draft is not None else self._saved or START)
        self.editor.blockSignals(False)
        self.editor.mark((), ())
        self.list.hide()
        self.compile()

    @property
    def text(self) -> str:
        """As it stands now."""
        return self.editor.toPlainText()

    @property
    def opened(self) -> str:
        """What the file held when it was read or written last."""
        return self._saved

    @property
    def unsaved(self) -> bool:
        """Whether the file holds something else."""
        return self.path is not None and self.text != self._saved

    def saved(self) -> None:
        """Called after the text was written to its file."""
        self._saved = self.text
        self._name()

    def _typed(self) -> None:
        self._name()
        if self.path is not None:
            self.typed.emit(self.path.name, self.text if self.unsaved else None, self._saved)
            self.state.setText("…")
            self.pause.start()

    def _name(self) -> None:
        self.name.setText(f"{self.path.name}{' *' if self.unsaved else ''}" if self.path else "")

    def compile(self) -> None:
        """Asks for it to be compiled, on another thread."""
        if self.path is None:
            return
        self.state.setText("compiling …")
        text, name, folder = self.text, self.path.name, self.path.parent
        self.worker.ask(lambda report: compile_now(text, name, folder, report))
        self._name()

    def _take(self, result: Compiled) -> None:
        self.result = result
        self.editor.mark(result.mistakes, result.doubts)
        self.list.clear()
        for line, sentence in (*result.mistakes, *result.doubts):
            item = QListWidgetItem(f"{line}: {sentence}")
            item.setData(Qt.ItemDataRole.UserRole, line)
            item.setForeground(theme.color("ember_ink" if (line, sentence) in result.mistakes else "ink"))
            self.list.addItem(item)
        self.list.setVisible(self.list.count() > 0)
        self.list.setFixedHeight(min(132, 10 + 30 * self.list.count()))
        wrong, doubts = len(result.mistakes), len(result.doubts)
        said = f"{wrong} error{'s' * (wrong > 1)}" if wrong else "compiles"
        self.state.setText(said + (f", {doubts} warning{'s' * (doubts > 1)}" if doubts else ""))
        if result.modules:
            self.compiled.emit(result.modules)

    def _go(self, item: QListWidgetItem) -> None:
        self.editor.go_to(item.data(Qt.ItemDataRole.UserRole))

    def _restyle(self) -> None:
        self.editor.colours.rehighlight()
        if self.result:
            self.editor.mark(self.result.mistakes, self.result.doubts)
