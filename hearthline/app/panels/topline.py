"""The top line: bench, conditions as chips, find anything, run and stop with progress."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QAction, QIcon
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QMenu, QProgressBar, QPushButton, QSizePolicy, QWidget, QWidgetAction

from hearthline.app.panels.rows import chip, clear
from hearthline.app.panels.value_field import ValueField, ValueLine
from hearthline.app.state.desk import Desk
from hearthline.app.theme.fonts import text_font
from hearthline.core.errors import HearthlineError
from hearthline.core.quantity import read, write

ICON = Path(__file__).parents[1] / "theme" / "icons" / "hearth.svg"


class TopLine(QWidget):
    """`find` opens the search."""

    def __init__(self, desk: Desk, find: Callable[[], None], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self._shown_bench: object = ""
        self.setObjectName("topline")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(44)
        logo = QLabel()
        logo.setPixmap(QIcon(str(ICON)).pixmap(QSize(22, 22)))
        self.bench_button = QPushButton()
        self.bench_button.setObjectName("bench")
        self.bench_button.setToolTip("The bench on the desk; click for the others")
        self.bench_button.clicked.connect(self._offer_benches)
        self.chips = QHBoxLayout()
        self.chips.setSpacing(6)
        self.find_button = QPushButton("Add or find anything                    Space")
        self.find_button.setToolTip("Parts, nets, readings, benches and commands in one list")
        self.find_button.clicked.connect(lambda _=False: find())
        self.progress = QProgressBar()
        self.progress.setTextVisible(False)
        self.progress.setFixedSize(90, 6)
        self.run_button = QPushButton("Run")
        self.run_button.setObjectName("run")
        self.run_button.setAccessibleName("run")
        self.run_button.setFixedWidth(84)
        self.run_button.clicked.connect(lambda _=False: desk.stop() if desk.runner.busy else desk.run())
        for button in (self.bench_button, self.find_button, self.run_button):
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(12, 0, 12, 0)
        layout.setSpacing(8)
        layout.addWidget(logo)
        layout.addWidget(self.bench_button)
        layout.addLayout(self.chips)
        layout.addStretch(1)
        self.find_button.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        layout.addWidget(self.find_button)
        layout.addStretch(1)
        layout.addWidget(self.progress)
        layout.addWidget(self.run_button)
        desk.bench_changed.connect(self._show)
        desk.document_changed.connect(self._show)
        desk.runner.started.connect(self._show_running)
        desk.runner.progressed.connect(self._show_progress)
        desk.runner.finished.connect(lambda _: self._show_running())
        self._show()
        self._show_running()

    def _show(self) -> None:
        bench = self.desk.bench
        shown = (self.desk.bench_key, bench.point, bench.grid) if bench else None
        if shown == self._shown_bench:
            return
        self._shown_bench = shown
        self.bench_button.setText(bench.title if bench else "no bench")
        clear(self.chips)
        if bench is None:
            return
        point = bench.point
        self._chip(point.corner, "Process corner of the live operating point", self._offer_corners)
        self._chip(_shown(point.temperature, "°C"), "Temperature of the live operating point", self._offer_temperatures)
        for name, text in point.parameters.items():
            self._chip(
                f"{name} {_shown(text, 'V')}", f"Parameter {name} of the live operating point", self._offerer(name)
            )
        try:
            count = len(self.desk.snapshot.grid()) if self.desk.snapshot else 0
        except HearthlineError:
            count = 0
        grid = self._chip(f"{count} conditions", self._grid_words(), self._offer_grid)
        grid.setProperty("grid", True)
        self.run_button.setEnabled(self.desk.snapshot is not None)

    def _chip(self, text: str, tip: str, offer: Callable[[QWidget], None]) -> QPushButton:
        button = chip(text, lambda: offer(button), tip)
        self.chips.addWidget(button)
        return button

    def _grid_words(self) -> str:
        grid = self.desk.bench.grid
        lines = [f"corner: {', '.join(grid.corners)}", f"temperature: {', '.join(grid.temperatures)} °C"]
        lines += [f"{name}: {', '.join(values)}" for name, values in grid.parameters.items()]
        return "A run crosses\n" + "\n".join(lines)

    # -- running

    def _show_running(self) -> None:
        busy = self.desk.runner.busy
        self.run_button.setText("Stop" if busy else "Run")
        self.run_button.setToolTip(
            "Stop, keeping what is done (Ctrl+.)" if busy else "Run over all conditions (Ctrl+Return)"
        )
        self.progress.setVisible(busy)
        self.progress.setRange(0, 0)

    def _show_progress(self, done: int, total: int) -> None:
        self.progress.setRange(0, total)
        self.progress.setValue(done)
        self.progress.setToolTip(f"{done} of {total} points")

    # -- menus

    def _offer_benches(self) -> None:
        if self.desk.project:
            benches = self.desk.project.benches.items()
            self._menu(
                self.bench_button, [(bench.title, lambda k=key: self.desk.show_bench(k)) for key, bench in benches]
            )

    def _offer_corners(self, button: QWidget) -> None:
        names = self.desk.project.kit.models.names if self.desk.project.kit else self.desk.bench.grid.corners
        self._menu(button, [(name, lambda n=name: self._point(f"corner {n}", corner=n)) for name in names])

    def _offer_temperatures(self, button: QWidget) -> None:
        def put(text: str) -> None:
            self._point(f"temperature {text}", temperature=text)

        texts = self.desk.bench.grid.temperatures
        self._menu(button, [(_shown(t, "°C"), lambda t=t: put(t)) for t in texts])
        self._entry(self.desk.bench.point.temperature, "°C", put)

    def _offerer(self, name: str) -> Callable[[QWidget], None]:
        def put(text: str) -> None:
            parameters = {**self.desk.bench.point.parameters, name: text}
            self._point(f"{name} = {text}", parameters=parameters)

        def offer(button: QWidget) -> None:
            texts = self.desk.bench.grid.parameters.get(name, ())
            self._menu(button, [(_shown(t, "V"), lambda t=t: put(t)) for t in texts])
            self._entry(self.desk.bench.point.parameters[name], "V", put)

        return offer

    def _offer_grid(self, button: QWidget) -> None:
        """Each entry of each axis can be left out of the next run, or taken in again."""
        grid = self.desk.bench.grid
        kit = self.desk.project.kit
        entries = []
        corners = kit.models.names if kit else grid.corners
        for name in corners:
            chosen = tuple(c for c in corners if (c in grid.corners) != (c == name))
            entries.append((name, name in grid.corners, lambda c=chosen: self._grid("corners", corners=c)))
        menu = QMenu(self)
        for text, checked, action in entries:
            entry = QAction(f"corner {text}", menu)
            entry.setCheckable(True)
            entry.setChecked(checked)
            entry.triggered.connect(lambda _=False, action=action: action())
            menu.addAction(entry)
        menu.addSeparator()
        words = menu.addAction(self._grid_words().split("\n", 2)[2].replace("\n", "   "))
        words.setEnabled(False)
        self._pop(menu, button)

    def _grid(self, text: str, **changed: tuple[str, ...]) -> None:
        if all(changed.values()):
            self.desk.change_bench(replace(self.desk.bench, grid=replace(self.desk.bench.grid, **changed)), text)

    def _point(self, text: str, **changed: object) -> None:
        bench = self.desk.bench
        self.desk.change_bench(replace(bench, point=replace(bench.point, **changed)), text)

    def _menu(self, button: QWidget, entries: Iterable[tuple[str, Callable[[], None]]]) -> None:
        menu = QMenu(self)
        menu.setObjectName("offer")
        for text, action in entries:
            menu.addAction(text).triggered.connect(lambda _=False, action=action: action())
        self._pop(menu, button)

    def _entry(self, text: str, unit: str, put: Callable[[str], None]) -> None:
        """Adds a field to the open menu, for a value that is not in the list."""
        menu = self.findChildren(QMenu, "offer")[-1]
        line = ValueLine(text, unit)
        line.setFixedWidth(110)

        def settle() -> None:
            if not line.verdict() and line.text() != text:
                put(line.text().strip())
            menu.close()

        line.returnPressed.connect(settle)
        holder = QWidgetAction(menu)
        holder.setDefaultWidget(ValueField(line))
        menu.addAction(holder)

    def _pop(self, menu: QMenu, button: QWidget) -> None:
        menu.setFont(text_font())
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.popup(button.mapToGlobal(button.rect().bottomLeft()))


def _shown(text: str, unit: str) -> str:
    """A typed value as it is understood; as typed where it is an expression."""
    try:
        return write(read(text, unit), unit)
    except HearthlineError:
        return text
