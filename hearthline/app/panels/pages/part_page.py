"""Details of a part, or of several at once: values as fields, operating point, and which of it stands on the drawing."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace

from PyQt6.QtWidgets import QGridLayout, QWidget

from hearthline.app.panels.pages.page import Page
from hearthline.app.panels.rows import chip, clear, heading, quiet
from hearthline.app.panels.text_line import FileLine, TextLine, WaveLine, WordsLine
from hearthline.app.panels.value_field import ValueLine
from hearthline.app.state.desk import Desk
from hearthline.app.state.editor import Editor
from hearthline.app.state.equations import tips_of
from hearthline.app.state.values import MEANINGS, Quantity, region_word, saturation_role
from hearthline.app.theme.fonts import text_font
from hearthline.core.circuit.cell import Cell, Part
from hearthline.core.elements import n_port
from hearthline.core.elements.kind import Symbol, ValueField
from hearthline.core.errors import CircuitError, HearthlineError
from hearthline.core.expression import parse_value
from hearthline.core.quantity import write
from hearthline.core.spread.variables import device_sigmas, is_voltage

LABELS = {
    "w": "width", "l": "length", "nf": "fingers", "m": "multiplier", "r": "resistance", "c": "capacitance", "dc": "value",
    "mag": "AC", "phase": "AC phase", "wave": "in time",
}  # fmt: skip
SHOWN = ("id", "vgs", "vds", "vbs", "vth", "vdsat", "gm", "gds", "gmb", "ron", "gm/id", "gm/gds", "region", "sat")
POSITIVE = ("w", "l", "nf", "m", "area")
TEXT_ROLES = {"ember": "ember_ink", "amber": "amber_ink"}
MOST_COLUMNS = 16


class PartPage(Page):
    """Watches parts by name; of several it shows the values that all of them take."""

    def __init__(self, desk: Desk, editor: Editor, parts: tuple[Part, ...]) -> None:
        first = parts[0]
        device = desk.project.kit.devices.get(first.device) if desk.project.kit else None
        what = f"{first.device} · {device.meaning}" if device else first.device
        title = first.name if len(parts) == 1 else f"{len(parts)} parts"
        super().__init__(desk, title, what if len({p.device for p in parts}) == 1 else "of different kinds")
        self.editor = editor
        self.names = tuple(part.name for part in parts)
        try:
            symbols = [desk.library.symbol(part) for part in parts]
        except CircuitError as error:
            self.column.addWidget(quiet(str(error)))
            return
        self.symbol = symbols[0]
        grid = self.add_grid()
        if len(parts) == 1:
            self._add_name(grid, first.name)
        for field in _common(symbols):
            self._add_value_field(grid, parts, field)
        if len(parts) == 1:
            self._add_of_one(first)

    def _add_name(self, grid: QGridLayout, name: str) -> None:
        line = TextLine(name, self._name_problem)
        line.settled.connect(lambda text: self.editor.rename("part", self.names[0], text))
        self.add_text_field(grid, "name", line, "its name; M1[4] stands for four in parallel")

    def _name_problem(self, text: str) -> str:
        taken = {part.name.lower() for part in self.desk.cell.parts} - {self.names[0].lower()}
        if not text or any(sign in text for sign in " .,(){}"):
            return "a name without blanks, dots or brackets; M1[4] stands for four in parallel"
        return f"there is a {text} already" if text.lower() in taken else ""

    def _add_value_field(self, grid: QGridLayout, parts: tuple[Part, ...], field: ValueField) -> None:
        texts = {part.values.get(field.name, field.default) for part in parts}
        text = texts.pop() if len(texts) == 1 else ""
        kind = {"wave": WaveLine, "parts": WordsLine, "file": FileLine}.get(field.kind, ValueLine)
        empty = bool(field.default) or field.optional or len(parts) > 1
        line = kind(text, field.unit, self._check(parts[0].device, field), self._parameters, empty)
        if len(parts) > 1 and not text:
            line.setPlaceholderText("different")
        line.changed.connect(lambda text, name=field.name: self.editor.change_parts(self.names, name, text))
        self.add_field(grid, field.name, LABELS.get(field.name, field.name), line, field.meaning)

    def _add_of_one(self, part: Part) -> None:
        if isinstance(self.symbol, Cell):
            self._add_block(part)
        for terminal in part.open:
            self.column.addWidget(
                chip(
                    f"{terminal} is left open",
                    lambda t=terminal: self.editor.leave_open(part.name, t),
                    "take the mark away",
                )
            )
        self.file = quiet("")
        self.file.setVisible(getattr(self.symbol, "kind", "") == n_port.LETTER)
        self.column.addWidget(self.file)
        self.differs = quiet("")
        self.column.addWidget(self.differs)
        self.column.addWidget(heading("At this point"))
        self.rows = QWidget()
        self.column.addWidget(self.rows)
        self._shown_rows: tuple[str, ...] | None = None
        self.chips = QWidget()
        self.column.addWidget(self.chips)

    def _add_block(self, part: Part) -> None:
        row = QWidget()
        grid = QGridLayout(row)
        grid.setContentsMargins(0, 4, 0, 0)
        words = (
            ("go in", lambda: self.desk.enter(part.name), "shows the values of this very block (Return)"),
            ("dissolve", self.editor.dissolve, "its parts take its place"),
        )
        for k, (word, action, tip) in enumerate(words):
            grid.addWidget(chip(word, action, tip), 0, k)
        self.column.addWidget(row)

    def texts(self) -> dict[str, str]:
        """The parts' values."""
        parts = [part for part in self.desk.cell.parts if part.name in self.names] if self.desk.cell else []
        found: dict[str, str] = {}
        fields = {field.name: field for field in _common([getattr(self, "symbol", None)])}
        for name, field in fields.items():
            texts = {part.values.get(name, field.default) for part in parts}
            found[name] = texts.pop() if len(texts) == 1 else ""
        return found | ({"name": self.names[0]} if len(self.names) == 1 else {})

    # -- the operating point

    def show_values(self) -> None:
        """The part's operating point."""
        if len(self.names) > 1 or not hasattr(self, "rows"):
            return
        if not self.file.isHidden():
            self.file.setText("\n".join(self._facts()))
        words = self._spread_words()
        self.differs.setText(words)
        self.differs.setVisible(bool(words))
        point, instance = self.desk.last_values, self.desk.instance
        values = point.part(instance.part(self.names[0])) if point and instance else {}
        if isinstance(self.symbol, Cell):
            values = self._pin_voltages()
        names = tuple(sorted(values, key=lambda n: SHOWN.index(n) if n in SHOWN else len(SHOWN)))
        names = tuple(name for name in names if name[0] != "@")
        if names != self._shown_rows:
            self._lay_rows(names, values)
        for name in names:
            bipolar = name == "region" and "vbe" in values
            text = region_word(values[name].value, True) if bipolar else values[name].text
            self.put(name, text, _role(name, values))

    def _spread_words(self) -> str:
        """How much the device differs from its twin, by its area."""
        snapshot, instance = self.desk.snapshot, self.desk.instance
        if snapshot is None or instance is None:
            return ""
        try:
            found = device_sigmas(snapshot.netlist(), snapshot.kit.statistics, snapshot.condition(),
                                  instance.part(self.names[0]))  # fmt: skip
        except HearthlineError:
            return ""
        words = [f"{name} {sigma_text(name, sigma)}" for name, sigma in found.items()]
        return f"differs by σ of {', '.join(words)}, by its area" if words else ""

    def _facts(self) -> list[str]:
        """Of the part's file."""
        part = (
            next((one for one in self.desk.cell.parts if one.name == self.names[0]), None) if self.desk.cell else None
        )
        try:
            return self.desk.library.network(part).facts() if part else []
        except HearthlineError as error:
            return [str(error)]

    def _pin_voltages(self) -> dict[str, Quantity]:
        """The voltage at each terminal of a block."""
        desk = self.desk
        if desk.last_values is None or desk.instance is None:
            return {}
        nets = desk.library.nets(desk.cell)
        if nets is None:
            return {}
        found = {}
        for (part, pin), net in nets.terminals.items():
            volts = desk.last_values.voltage(desk.instance.net(net)) if part == self.names[0] else None
            if volts is not None:
                found[pin] = Quantity(pin, volts, "V", f"voltage at pin {pin}")
        return found

    def _lay_rows(self, names: tuple[str, ...], values: Mapping[str, Quantity]) -> None:
        self._shown_rows = names
        part = (
            next((one for one in self.desk.cell.parts if one.name == self.names[0]), None) if self.desk.cell else None
        )
        self._tips = tips_of(values, part.device if part is not None else "", self.desk.project.kit)
        rows, chips = QWidget(), QWidget()
        self.values = {}
        self.fill_values(rows, names, self._tips)
        self._fill_columns(chips, () if isinstance(self.symbol, Cell) else names)
        for old, new in ((self.rows, rows), (self.chips, chips)):
            self.column.replaceWidget(old, new)
            old.deleteLater()
        self.rows, self.chips = rows, chips

    def _fill_columns(self, holder: QWidget, names: tuple[str, ...]) -> None:
        """Chips for what stands beside devices of this kind on the drawing."""
        grid = QGridLayout(holder)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(4)
        clear(grid)
        columns = [name for name in names if name != "region"][:MOST_COLUMNS]
        if not columns:
            return
        grid.addWidget(heading("Show on the drawing"), 0, 0, 1, 4)
        for k, name in enumerate(columns):
            button = chip(name, lambda n=name: self._toggle(n), self._tips.get(name, ""), checkable=True)
            button.setChecked(name in self.desk.bench.columns(self._kind))
            button.setStyleSheet("padding: 2px 4px; border-radius: 10px;")
            button.setFont(text_font(11))
            grid.addWidget(button, 1 + k // 4, k % 4)
        if "sat" in names:
            text = quiet(f"Saturation margin: {MEANINGS['sat']}.")
            grid.addWidget(text, 2 + len(columns) // 4, 0, 1, 4)

    @property
    def _kind(self) -> str:
        return getattr(self.symbol, "kind", "X")

    def _toggle(self, name: str) -> None:
        bench = self.desk.bench
        shown = bench.columns(self._kind)
        new = tuple(n for n in shown if n != name) if name in shown else (*shown, name)
        self.desk.change_bench(replace(bench, shown={**bench.shown, self._kind: new}), f"show {name}")

    # -- checks

    def _check(self, device: str, field: ValueField) -> Callable[[float], str]:
        kit = self.desk.project.kit

        def check(number: float) -> str:
            if field.name in POSITIVE and number <= 0:
                return f"{LABELS.get(field.name, field.name)} must be above 0"
            return kit.size_error(device, field.name, number, field.unit) if kit else ""

        return check

    def _parameters(self) -> dict[str, float]:
        """Values of the cell's own parameters over those of the bench."""
        found = self.bench_parameters()
        for name, text in self.desk.cell.parameters.items():
            try:
                found[name] = float(parse_value(text, "").value(found))
            except HearthlineError:
                continue
        return found


def _fields(symbol: Symbol | Cell | None) -> tuple[ValueField, ...]:
    if isinstance(symbol, Cell):
        return tuple(ValueField(name, "", "parameter of the block", text) for name, text in symbol.parameters.items())
    return symbol.fields if symbol else ()


def _common(symbols: list[Symbol | Cell | None]) -> list[ValueField]:
    """The fields that all of them have."""
    names = [{field.name for field in _fields(symbol)} for symbol in symbols]
    return [field for field in _fields(symbols[0]) if all(field.name in known for known in names)]


def _role(name: str, values: dict[str, Quantity]) -> str:
    if name not in ("region", "sat") or "sat" not in values:
        return "teal"
    role = saturation_role(values)
    return TEXT_ROLES.get(role, role)


def sigma_text(name: str, sigma: float) -> str:
    """A standard deviation of a device: a voltage, or a share."""
    return write(sigma, "V", 3) if is_voltage(name) else f"{100 * sigma:.3g} %"
