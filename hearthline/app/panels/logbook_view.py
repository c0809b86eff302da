"""The logbook in full: every run of the bench with what changed, its size; shown, kept behind, compared, restored, repeated."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import chip, clear, heading, quiet
from hearthline.app.panels.value_field import ValueLine
from hearthline.app.state.desk import Desk
from hearthline.app.state.logbook import LogEntry, difference
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.theme import theme
from hearthline.core.bench.compare import Beside, side_by_side
from hearthline.core.quantity import write

SHOWN_RUNS = 40


class LogbookView(QWidget):
    """Of the current bench; two runs can be chosen to stand side by side."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk, self.results = desk, desk.results
        self.pair: list = []
        self.runs, self.compared = QVBoxLayout(), QVBoxLayout()
        self.foot = QHBoxLayout()
        self.buttons: dict[tuple[str, str], QWidget] = {}
        self._lay_out()
        for signal in (
            self.results.logbook_changed,
            self.results.run_changed,
            self.results.ghost_changed,
            desk.bench_changed,
        ):
            signal.connect(self.refresh)

    def _lay_out(self) -> None:
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setContentsMargins(14, 8, 12, 8)
        column.setSpacing(4)
        column.addLayout(self.compared)
        column.addWidget(heading("Runs of this bench"))
        column.addLayout(self.runs)
        column.addStretch()
        scroll = QScrollArea()
        scroll.setWidget(inside)
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.foot.setContentsMargins(14, 4, 12, 8)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(scroll, 1)
        layout.addLayout(self.foot)

    def showEvent(self, event) -> None:
        """Catches up."""
        super().showEvent(event)
        self.refresh()

    @property
    def entries(self) -> list[LogEntry]:
        """Runs of this bench, newest first."""
        return [entry for entry in self.results.entries if entry.bench == self.desk.bench_key]

    def refresh(self) -> None:
        """Everything anew; only while it can be seen."""
        if not self.isVisible():
            return
        clear(self.runs)
        self.buttons = {}
        for entry in self.entries[:SHOWN_RUNS]:
            self.runs.addWidget(self._row(entry))
        if not self.entries:
            self.runs.addWidget(quiet("No run yet. Every run is kept here, with what changed since the one before."))
        self._show_pair()
        self._show_foot()

    def _row(self, entry: LogEntry) -> QWidget:
        row = QWidget()
        grid = QGridLayout(row)
        grid.setContentsMargins(0, 4, 0, 6)
        grid.setHorizontalSpacing(6)
        shown = self.results.shown is not None and self.results.shown.path == entry.path
        behind = self.results.ghost is not None and self.results.ghost.path == entry.path
        when = Label(f"{'▸ ' if shown else ''}{entry.made:%d %b %H:%M:%S}")
        when.setFont(text_font(12, bold=shown))
        size = Label(f"{write(entry.size, '', 2)}B" + (" · pinned" if entry.pinned else ""))
        size.setProperty("quiet", True)
        size.setFont(text_font(11))
        words = Label("; ".join(entry.words) or "nothing changed")
        words.setWordWrap(True)
        words.setFont(text_font(12))
        grid.addWidget(when, 0, 0)
        grid.addWidget(size, 0, 1, Qt.AlignmentFlag.AlignRight)
        grid.addWidget(words, 1, 0, 1, 2)
        actions = QHBoxLayout()
        actions.setSpacing(4)
        for word, tip, action, checked in (
            ("show", "its curves and readings", lambda: self.results.show_run(entry.path), shown),
            ("behind", "its curves as ghosts behind those of the shown run", lambda: self._ghost(entry), behind),
            (
                "compare",
                "its readings beside those of another run",
                lambda: self._compare(entry),
                entry.path in self.pair,
            ),
            (
                "restore",
                "circuit and bench as they were, as one step that can be undone",
                lambda: self._restore(entry),
                False,
            ),
            (
                "repeat",
                "the same circuit, bench and conditions once more, all anew",
                lambda: self._repeat(entry),
                False,
            ),
            ("pin", "never cleaned away", lambda: self.results.pin(entry, not entry.pinned), entry.pinned),
        ):
            button = chip(word, action, tip, True)
            button.setChecked(checked)
            self.buttons[entry.path.name, word] = button
            actions.addWidget(button)
        actions.addStretch()
        grid.addLayout(actions, 2, 0, 1, 2)
        return row

    # -- what a run can do

    def _ghost(self, entry: LogEntry) -> None:
        behind = self.results.ghost is not None and self.results.ghost.path == entry.path
        self.results.show_ghost(None if behind else entry.path)

    def _compare(self, entry: LogEntry) -> None:
        """The first that is chosen is compared with the shown run, two with each other."""
        self.pair = (
            [p for p in self.pair if p != entry.path] if entry.path in self.pair else [*self.pair[-1:], entry.path]
        )
        self.refresh()

    def _restore(self, entry: LogEntry) -> None:
        self.desk.restore(entry.record)
        self.refresh()

    def _repeat(self, entry: LogEntry) -> None:
        self.desk.repeat(entry.record)
        self.refresh()

    # -- two runs side by side

    def _pair(self) -> tuple[LogEntry, LogEntry] | None:
        known = {entry.path: entry for entry in self.entries}
        chosen = [known[path] for path in self.pair if path in known]
        if len(chosen) == 1 and self.results.shown is not None and self.results.shown.path in known:
            chosen.append(known[self.results.shown.path])
        if len(chosen) != 2 or chosen[0] is chosen[1]:
            return None
        first, second = sorted(chosen, key=lambda entry: entry.made)
        return first, second

    def _show_pair(self) -> None:
        clear(self.compared)
        pair = self._pair()
        if pair is None:
            return
        first, second = pair
        self.compared.addWidget(heading(f"{first.made:%d %b %H:%M:%S} beside {second.made:%d %b %H:%M:%S}"))
        words = difference(first.record, second.record)
        self.compared.addWidget(quiet("; ".join(words) or "nothing is different"))
        table = QWidget()
        grid = QGridLayout(table)
        grid.setContentsMargins(0, 4, 0, 4)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(2)
        for column, text in enumerate(("least … greatest", "before", "after", "middle moves by")):
            label = quiet(text, wrap=False)
            grid.addWidget(label, 0, column, Qt.AlignmentFlag.AlignLeft if column == 0 else Qt.AlignmentFlag.AlignRight)
        for row, one in enumerate(side_by_side(first.record.readings, second.record.readings), 1):
            for column, (text, role) in enumerate(self._cells(one)):
                label = Label(text)
                label.setFont(figure_font(11) if column else text_font(12))
                label.setStyleSheet(f"color: {theme.color(role).name()}")
                side = Qt.AlignmentFlag.AlignLeft if column == 0 else Qt.AlignmentFlag.AlignRight
                grid.addWidget(label, row, column, side)
        self.compared.addWidget(table)

    def _cells(self, one: Beside) -> list[tuple[str, str]]:
        def span(three) -> str:
            if three is None:
                return "–"
            low, high = write(three[1], one.unit, 3), write(three[2], one.unit, 3)
            same = low.rpartition(" ")[2] == high.rpartition(" ")[2] and " " in low
            return f"{low.rpartition(' ')[0] if same else low} … {high}"

        moved, role = "", "quiet"
        if one.first is not None and one.second is not None:
            step = one.second[0] - one.first[0]
            moved = ("+" if step > 0 else "") + write(step, one.unit, 3) if step else "nothing"
            role = "teal" if step else "quiet"
        return [(one.name, "ink"), (span(one.first), "ink"), (span(one.second), "ink"), (moved, role)]

    # -- size and rule

    def _show_foot(self) -> None:
        clear(self.foot)
        total, files = sum(entry.size for entry in self.results.entries), len(self.results.entries)
        cleanable = self.results.cleanable
        label = Label(f"{files} runs in the project, {write(total, '', 3)}B. Kept of each bench:")
        label.setProperty("quiet", True)
        label.setFont(text_font(11))
        line = ValueLine(str(self.results.rule.kept), "", _whole)
        line.setFixedWidth(54)
        line.setAccessibleName("runs kept")
        line.entered.connect(lambda: self._keep(line))
        self.foot.addWidget(label)
        self.foot.addWidget(line)
        freed = write(sum(entry.size for entry in cleanable), "", 2)
        button = chip(
            f"Clean {len(cleanable)}", self.results.clean, f"deletes the oldest beyond that, {freed}B; pinned ones stay"
        )
        button.setEnabled(bool(cleanable))
        self.foot.addWidget(button)
        self.foot.addStretch()

    def _keep(self, line: ValueLine) -> None:
        if not line.verdict() and int(float(line.text())) != self.results.rule.kept:
            self.results.keep(int(float(line.text())))


def _whole(number: float) -> str:
    return "" if number == int(number) and number >= 1 else "a whole number of 1 or more"
