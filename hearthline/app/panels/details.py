"""Details of what is selected: fields to edit it, its operating point, and what the quantities mean."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QGridLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from hearthline.app.panels.rows import chip, clear, heading, pair, quiet
from hearthline.app.panels.value_field import ValueField, ValueLine
from hearthline.app.state.desk import Desk, Selection
from hearthline.app.state.values import COLUMNS, MEANINGS, saturation_role
from hearthline.app.theme.fonts import text_font
from hearthline.app.theme.theme import theme
from hearthline.core.circuit.cell import Cell
from hearthline.core.circuit.flatten import Library
from hearthline.core.circuit.symbols import Symbol
from hearthline.core.circuit.symbols import ValueField as FieldOfPart
from hearthline.core.errors import CircuitError, HearthlineError
from hearthline.core.expression import parse_value
from hearthline.core.quantity import write

LABELS = {
    "w": "width",
    "l": "length",
    "nf": "fingers",
    "m": "multiplier",
    "r": "resistance",
    "c": "capacitance",
    "dc": "value",
}
SHOWN = ("id", "vgs", "vds", "vbs", "vth", "vdsat", "gm", "gds", "gmb", "ron", "gm/id", "gm/gds", "region", "sat")


class Details(QScrollArea):
    """Rebuilt when the selection changes; texts follow the document and the live point."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.setObjectName("details")
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFixedWidth(226)
        body = QWidget()
        self.column = QVBoxLayout(body)
        self.column.setContentsMargins(12, 10, 12, 12)
        self.column.setSpacing(3)
        self.setWidget(body)
        self.lines: dict[str, ValueLine] = {}
        self.values: dict[str, QLabel] = {}
        desk.selection_changed.connect(self._build)
        desk.bench_changed.connect(self._build)
        desk.document_changed.connect(self._follow)
        desk.point_solved.connect(self._show_values)
        theme.changed.connect(self._show_values)
        self._build()

    # -- building

    def _build(self) -> None:
        clear(self.column)
        self.lines, self.values = {}, {}
        selection = self.desk.selection
        build = {"part": self._part, "pin": self._pin, "net": self._net}.get(selection.kind, self._bench)
        if self.desk.bench is None:
            build = self._nothing
        build(selection)
        self.column.addStretch()
        self._show_values()

    def _title(self, name: str, what: str) -> None:
        title = QLabel(name)
        title.setProperty("title", True)
        self.column.addWidget(title)
        if what:
            self.column.addWidget(quiet(what))

    def _nothing(self, selection: Selection) -> None:
        self._title("Nothing open", "Choose a bench in the shelf at the left.")

    def _add_field(self, grid: QGridLayout, key: str, label: str, line: ValueLine, tip: str) -> None:
        row = grid.rowCount()
        name = QLabel(label)
        name.setFont(text_font(12))
        name.setAlignment(Qt.AlignmentFlag.AlignTop)
        name.setContentsMargins(0, 6, 0, 0)
        name.setToolTip(tip)
        line.setAccessibleName(key)
        line.setObjectName(f"field {key}")
        line.settled.connect(self.desk.documents.end_typing)
        grid.addWidget(name, row, 0)
        grid.addWidget(ValueField(line), row, 1)
        self.lines[key] = line

    def _grid(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setContentsMargins(0, 6, 0, 0)
        grid.setVerticalSpacing(4)
        grid.setColumnMinimumWidth(0, 66)
        self.column.addLayout(grid)
        return grid

    # -- a part

    def _part(self, selection: Selection) -> None:
        part = self.desk.cell.part(selection.name)
        project = self.desk.project
        device = project.kit.devices.get(part.device) if project.kit else None
        self._title(part.name, f"{part.device}" + (f" · {device.meaning}" if device else ""))
        try:
            symbol = Library(project.cells, project.kit.symbols if project.kit else {}).symbol(part)
        except CircuitError as error:
            self.column.addWidget(quiet(str(error)))
            return
        grid = self._grid()
        for field in _fields(symbol):
            text, check = part.values.get(field.name, field.default), self._size_check(part.device, field)
            line = ValueLine(text, field.unit, check, self._cell_parameters, bool(field.default))
            line.changed.connect(lambda text, name=field.name: self._edit_part(selection.name, name, text))
            self._add_field(grid, field.name, LABELS.get(field.name, field.name), line, field.meaning)
        self._operating_point()
        self._columns_shown()

    def _size_check(self, device: str, field: FieldOfPart):
        kit = self.desk.project.kit

        def check(number: float) -> str:
            if field.name in ("w", "l", "nf", "m", "area") and number <= 0:
                return f"{LABELS.get(field.name, field.name)} must be above 0"
            return kit.size_error(device, field.name, number, field.unit) if kit else ""

        return check

    def _edit_part(self, part_name: str, field: str, text: str) -> None:
        part = self.desk.cell.part(part_name)
        if text:
            self.desk.change_part(part.with_value(field, text), field)
        else:
            self.desk.change_part(replace(part, values={k: v for k, v in part.values.items() if k != field}), field)

    def _bench_parameters(self) -> dict[str, float]:
        """Values of the bench's parameters at the live point, as far as they are understood."""
        try:
            return dict(self.desk.snapshot.condition().parameters) if self.desk.snapshot else {}
        except HearthlineError:
            return {}

    def _cell_parameters(self) -> dict[str, float]:
        """Values of the cell's own parameters over those of the bench."""
        found = self._bench_parameters()
        for name, text in self.desk.cell.parameters.items():
            try:
                found[name] = float(parse_value(text, "").value(found))
            except HearthlineError:
                continue
        return found

    def _operating_point(self) -> None:
        self.column.addWidget(heading("At this point"))
        for name in SHOWN:
            value = QLabel()
            row = pair({"gm/id": "gm / id", "gm/gds": "gm / gds"}.get(name, name), value, MEANINGS.get(name, ""))
            self.values[name] = value
            self.column.addWidget(row)

    def _columns_shown(self) -> None:
        self.column.addWidget(heading("Show on the drawing"))
        holder = QWidget()
        grid = QGridLayout(holder)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(4)
        for k, name in enumerate(COLUMNS):
            button = chip(name, lambda n=name: self._toggle_column(n), MEANINGS.get(name, ""), checkable=True)
            button.setChecked(name in self.desk.bench.shown)
            button.setStyleSheet("padding: 2px 4px; border-radius: 10px;")
            button.setFont(text_font(11))
            grid.addWidget(button, k // 4, k % 4)
        self.column.addWidget(holder)
        self.column.addWidget(quiet(f"Saturation margin: {MEANINGS['sat']}."))

    def _toggle_column(self, name: str) -> None:
        shown = self.desk.bench.shown
        new = tuple(n for n in shown if n != name) if name in shown else (*shown, name)
        self.desk.change_bench(replace(self.desk.bench, shown=new), f"show {name}")

    # -- a pin, a net

    def _pin(self, selection: Selection) -> None:
        pin = next(p for p in self.desk.cell.pins if p.name == selection.name)
        self._title(pin.name, f"{pin.kind} pin of {self.desk.cell.name}")
        stimuli = [s for s in self.desk.bench.stimuli if s.pin == pin.name]
        for stimulus in stimuli:
            unit = "V" if stimulus.kind == "voltage" else "A"
            self.column.addWidget(heading(f"Stimulus {stimulus.name}"))
            line = ValueLine(stimulus.dc, unit, parameters=self._bench_parameters)
            line.changed.connect(lambda text, name=stimulus.name: self._edit_stimulus(name, text))
            self._add_field(self._grid(), f"dc {stimulus.name}", stimulus.kind, line, "value at direct current")
        self.column.addWidget(heading("At this point"))
        self._value_row("voltage", "V")
        for stimulus in stimuli:
            self._value_row(f"I({stimulus.name.lower()})", "A")
        if not stimuli:
            self.column.addWidget(quiet("Nothing is tied to this pin on the bench."))

    def _edit_stimulus(self, name: str, text: str) -> None:
        bench = self.desk.bench
        new = replace(bench.stimulus(name), dc=text)
        self.desk.change_bench(bench.with_stimulus(new), f"{name} = {text}", f"stimulus {name}")

    def _net(self, selection: Selection) -> None:
        self._title(f"net {selection.name}", "")
        self.column.addWidget(heading("At this point"))
        self._value_row("voltage", "V")
        library = Library(self.desk.project.cells, self.desk.project.kit.symbols if self.desk.project.kit else {})
        try:
            terminals = library.connections(self.desk.cell).terminals
        except CircuitError:
            return
        joined = [f"{part} {terminal}" for (part, terminal), net in terminals.items() if net == selection.name]
        self.column.addWidget(heading("Joins"))
        self.column.addWidget(quiet(", ".join(joined) or "nothing"))

    def _value_row(self, name: str, unit: str) -> None:
        self.values[name] = QLabel()
        self.column.addWidget(pair(name, self.values[name], unit))

    # -- nothing selected: the bench

    def _bench(self, selection: Selection) -> None:
        bench = self.desk.bench
        self._title(bench.cell, f"bench {bench.name}")
        cell = self.desk.cell
        if cell is None:
            self.column.addWidget(quiet(f"The project has no readable cell {bench.cell}."))
            return
        self.column.addWidget(heading("Stimuli"))
        grid = self._grid()
        for stimulus in bench.stimuli:
            unit = "V" if stimulus.kind == "voltage" else "A"
            line = ValueLine(stimulus.dc, unit, parameters=self._bench_parameters)
            line.changed.connect(lambda text, name=stimulus.name: self._edit_stimulus(name, text))
            self._add_field(grid, f"dc {stimulus.name}", stimulus.name, line, f"{stimulus.kind} at pin {stimulus.pin}")
        self.column.addWidget(heading(f"Sweep of {bench.sweep.stimulus}"))
        grid = self._grid()
        self._sweep_field(grid, "start", "from", "V", lambda number: "")
        self._sweep_field(grid, "stop", "to", "V", lambda number: "")
        self._sweep_field(grid, "points", "points", "", _whole)
        self.column.addWidget(quiet("Select a part, a pin or a net on the drawing to see it here."))

    def _sweep_field(self, grid: QGridLayout, name: str, label: str, unit: str, check) -> None:
        line = ValueLine(str(getattr(self.desk.bench.sweep, name)), unit, check, self._bench_parameters)
        line.changed.connect(lambda text: self._edit_sweep(name, text))
        self._add_field(grid, f"sweep {name}", label, line, "where the sweep goes")

    def _edit_sweep(self, name: str, text: str) -> None:
        value = int(float(text)) if name == "points" else text
        bench = self.desk.bench
        self.desk.change_bench(
            replace(bench, sweep=replace(bench.sweep, **{name: value})), f"sweep {name}", f"sweep {name}"
        )

    def type_value(self, text: str) -> None:
        """Begins a new value in the first field, as if `text` had been typed there."""
        line = next(iter(self.lines.values()), None)
        if line is not None:
            line.setFocus()
            line.selectAll()
            line.insert(text)
            line.textEdited.emit(line.text())

    # -- following

    def _follow(self) -> None:
        """Texts of the fields after undo or a change from elsewhere."""
        bench, cell = self.desk.bench, self.desk.cell
        if bench is None or cell is None:
            return
        texts = {f"dc {stimulus.name}": stimulus.dc for stimulus in bench.stimuli}
        texts |= {f"sweep {n}": str(getattr(bench.sweep, n)) for n in ("start", "stop", "points")}
        if self.desk.selection.kind == "part":
            texts |= cell.part(self.desk.selection.name).values
        for key, line in self.lines.items():
            if key in texts:
                line.show_text(texts[key])

    def _show_values(self) -> None:
        answer = self.desk.point
        dataset = answer.dataset if answer else None
        if dataset is None:
            for label in self.values.values():
                label.setText("–")
            return
        selection = self.desk.selection
        if selection.kind == "part":
            self._show_part(answer.values.part(selection.name))
        elif "voltage" in self.values:
            volts = answer.values.voltage(selection.name)
            self._set("voltage", "–" if volts is None else write(volts, "V", 5), "teal")
        for name in self.values:
            if name.startswith("I(") and name in dataset.curves:
                self._set(name, write(float(dataset.curves[name][0, 0]), "A", 4), "teal")

    def _show_part(self, values: dict) -> None:
        for name, label in self.values.items():
            label.parentWidget().setVisible(name in values)
            if name not in values:
                continue
            role = "teal"
            if name in ("region", "sat"):
                role = {"ember": "ember_ink", "amber": "amber_ink"}.get(
                    saturation_role(values), saturation_role(values)
                )
            self._set(name, values[name].text, role)

    def _set(self, name: str, text: str, role: str) -> None:
        label = self.values[name]
        label.setText(text)
        style = f"color: {theme.color(role).name()}"
        if label.styleSheet() != style:  # setting it anew makes Qt lay out the whole panel
            label.setStyleSheet(style)


def _fields(symbol: Symbol | Cell | None) -> tuple[FieldOfPart, ...]:
    if isinstance(symbol, Cell):
        return tuple(FieldOfPart(name, "", "parameter of the block", text) for name, text in symbol.parameters.items())
    return symbol.fields if symbol else ()


def _whole(number: float) -> str:
    ok = number == int(number) and 2 <= number <= 1_000_000
    return "" if ok else "a whole number from 2 to 1 000 000"
