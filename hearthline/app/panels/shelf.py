"""The shelf: what there is. Process kit and its devices, cells, benches, and the logbook of runs."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QFrame, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from hearthline.app.panels.rows import clear, heading, quiet
from hearthline.app.state.desk import Desk
from hearthline.app.state.logbook import LogEntry
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.marks import WARMTH, draw_mark
from hearthline.app.theme.theme import theme
from hearthline.core.bench.verdict import State
from hearthline.core.errors import HearthlineError
from hearthline.core.formats.project_folder import DEVICES


@dataclass(frozen=True)
class Item:
    """One row: its text, what stands at the right, a mark, whether it is the current one, and what a click does."""

    text: str
    side: str = ""
    state: State | None = None
    current: bool = False
    pressed: Callable[[], None] | None = field(default=None, compare=False)
    tip: str = ""
    small: bool = False


def _when(entry: LogEntry) -> str:
    """Date and all that changed, for the tip."""
    return f"{entry.made:%d %B %Y, %H:%M:%S}\n" + "\n".join(entry.words[:12])


class Row(QWidget):
    """Paints one item; the current one has a teal edge."""

    def __init__(self, item: Item) -> None:
        super().__init__()
        self.item = item
        self.hovered = False
        self.setFixedHeight(21 if item.small else 24)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setToolTip(item.tip)
        self.setAccessibleName(item.text)
        if item.pressed:
            self.setCursor(Qt.CursorShape.PointingHandCursor)

    def enterEvent(self, event) -> None:
        """Lifts the row."""
        self.hovered = True
        self.update()

    def leaveEvent(self, event) -> None:
        """Puts it back."""
        self.hovered = False
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Does what the item is for."""
        if self.item.pressed:
            self.item.pressed()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Edge, text, side text or mark."""
        painter, item = QPainter(self), self.item
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(6, 0, self.width() - 12, self.height() - 1)
        if item.current or (self.hovered and item.pressed):
            painter.setPen(theme.color("line"))
            painter.setBrush(theme.color("paper" if item.current else "raised"))
            painter.drawRoundedRect(box, 4, 4)
        if item.current:
            painter.fillRect(QRectF(6, 2, 3, self.height() - 5), theme.color("teal"))
        right = box.right() - 8
        if item.state is not None:
            draw_mark(painter, item.state, QPointF(right - 3, box.center().y()), 8)
            right -= 14
        painter.setFont(figure_font(11) if item.small else text_font(11))
        painter.setPen(theme.color("quiet"))
        side_width = painter.fontMetrics().horizontalAdvance(item.side)
        left = box.left() + 10
        if item.small:
            painter.drawText(QRectF(left, 0, side_width + 4, box.height()), Qt.AlignmentFlag.AlignVCenter, item.side)
            left += side_width + 8
        elif item.side:
            painter.drawText(
                QRectF(right - side_width, 0, side_width + 2, box.height()), Qt.AlignmentFlag.AlignVCenter, item.side
            )
            right -= side_width + 6
        painter.setFont(text_font(11 if item.small else 13))
        painter.setPen(theme.color("ink"))
        text = painter.fontMetrics().elidedText(item.text, Qt.TextElideMode.ElideRight, int(right - left))
        painter.drawText(QRectF(left, 0, right - left, box.height()), Qt.AlignmentFlag.AlignVCenter, text)


class Shelf(QScrollArea):
    """Follows the project, the current bench, the verdicts and the logbook."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self._built: tuple | None = None
        self.folded = True
        self.setObjectName("shelf")
        self.setFixedWidth(196)
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        body = QWidget()
        self.column = QVBoxLayout(body)
        self.column.setContentsMargins(0, 6, 0, 8)
        self.column.setSpacing(0)
        self.setWidget(body)
        signals = (
            desk.project_changed,
            desk.bench_changed,
            desk.trail_changed,
            desk.results.verdicts_changed,
            desk.results.logbook_changed,
            desk.results.run_changed,
        )
        for signal in (*signals, desk.documents.undo.indexChanged, desk.documents.saved, theme.changed):
            signal.connect(self._build)
        self._build()

    def items(self) -> list[tuple[str, list[Item]]]:
        """Sections with their rows."""
        project = self.desk.project
        if project is None:
            return []
        sections = [("Process kit", self._kit()), ("Cells", self._cells()), ("Benches", self._benches())]
        if project.texts:
            sections.insert(1, ("Device texts", self._texts()))
        if project.problems:
            sections.append((f"Problems ({len(project.problems)})", self._problems()))
        sections.append(("Logbook", self._logbook()))
        return sections

    def _kit(self) -> list[Item]:
        kit = self.desk.project.kit
        if kit is None:
            return [Item("missing", tip="the kit of this project could not be read", state=State.FAILS)]
        corners = kit.models.names
        tip = f"{kit.title}: {', '.join(corners)}. A click folds its devices away, or shows them."
        side = f"{len(kit.devices)} devices ▸" if self.folded else f"{len(corners)} corners ▾"
        rows = [Item(kit.name, side, pressed=self._fold, tip=tip)]
        if self.folded:
            return rows
        studied = self.desk.study.subject.name if self.desk.device_shown and self.desk.study.subject else ""
        return rows + [
            Item(d.name, d.symbol, None, d.name == studied, self._studier(kit, d.name), d.meaning)
            for d in kit.devices.values()
        ]

    def _fold(self) -> None:
        self.folded = not self.folded
        self._build()

    def _studier(self, kit, name: str) -> Callable[[], None]:
        return lambda: self.desk.study.study_device(kit, name)

    def _texts(self) -> list[Item]:
        """The project's own Verilog-A texts."""
        study = self.desk.study
        shown = study.path.name if self.desk.device_shown and study.path else ""
        return [
            Item(name, "", None, name == shown, self._opener(name), f"{DEVICES}/{name}")
            for name in self.desk.project.texts
        ]

    def _opener(self, name: str) -> Callable[[], None]:
        return lambda: self.desk.study.text_wanted.emit(self.desk.project.folder / DEVICES / name)

    def refresh(self) -> None:
        """Lays the rows anew where something else is current."""
        self._build()

    def _cells(self) -> list[Item]:
        changed = {document.name for document in self.desk.documents.unsaved}
        here = self.desk.cell.name if self.desk.cell else ""
        current = "" if self.desk.device_shown else here
        return [
            Item(name, "changed" if name in changed else "", None, name == current, self._cell_shower(name), cell.note)
            for name, cell in self.desk.project.cells.items()
        ]

    def _cell_shower(self, name: str) -> Callable[[], None]:
        def show() -> None:
            if self.desk.cell and self.desk.cell.name == name:
                self.desk.study.left.emit()
            else:
                self.desk.show_cell(name)

        return show

    def _benches(self) -> list[Item]:
        rows = []
        for key, bench in self.desk.project.benches.items():
            here = key == self.desk.bench_key and not self.desk.device_shown
            states = [verdict.state for verdict in self.desk.results.verdicts.values()] if here else []
            worst = max(states, key=WARMTH.get, default=None)
            rows.append(Item(bench.title, "", worst, here, lambda key=key: self.desk.show_bench(key), bench.note))
        return rows

    def _problems(self) -> list[Item]:
        return [
            Item(
                getattr(error, "file", "") or str(error), state=State.FAILS, tip=str(error), pressed=self._teller(error)
            )
            for error in self.desk.project.problems
        ]

    def _teller(self, error: HearthlineError) -> Callable[[], None]:
        return lambda: self.desk.tell(error)

    def _is_shown(self, path: Path) -> bool:
        shown = self.desk.results.shown
        return shown is not None and shown.path == path

    def _logbook(self) -> list[Item]:
        entries = [entry for entry in self.desk.results.entries if entry.bench == self.desk.bench_key][:12]
        return [
            Item(
                entry.change, f"{entry.made:%H:%M}", None, self._is_shown(entry.path),
                lambda path=entry.path: self.desk.results.show_run(path), _when(entry), True,
            )
            for entry in entries
        ]  # fmt: skip

    def _build(self, *_: object) -> None:
        """Lays the rows anew, but only when one of them says something else."""
        sections = self.items()
        if (sections, theme.palette) == self._built:
            return
        self._built = (sections, theme.palette)
        clear(self.column)
        for name, items in sections:
            label = heading(name)
            label.setContentsMargins(14, 10, 0, 3)
            self.column.addWidget(label)
            for item in items:
                self.column.addWidget(Row(item))
            if not items:
                hint = quiet({"Logbook": "runs will stand here"}.get(name, "none"))
                hint.setContentsMargins(16, 0, 0, 0)
                self.column.addWidget(hint)
        self.column.addStretch()
