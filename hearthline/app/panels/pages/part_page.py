"""Details of a part: its values as fields, its operating point, and which of it stands on the drawing."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtWidgets import QGridLayout, QWidget

from hearthline.app.panels.pages.page import Page
from hearthline.app.panels.rows import chip, heading, quiet
from hearthline.app.panels.value_field import ValueLine
from hearthline.app.state.desk import Desk
from hearthline.app.state.values import COLUMNS, MEANINGS, Quantity, saturation_role
from hearthline.app.theme.fonts import text_font
from hearthline.core.circuit.cell import Cell, Part
from hearthline.core.circuit.symbols import Symbol, ValueField
from hearthline.core.errors import CircuitError, HearthlineError
from hearthline.core.expression import parse_value

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
POSITIVE = ("w", "l", "nf", "m", "area")
TEXT_ROLES = {"ember": "ember_ink", "amber": "amber_ink"}


class PartPage(Page):
    """Watches one part by name."""

    def __init__(self, desk: Desk, part: Part) -> None:
        device = desk.project.kit.devices.get(part.device) if desk.project.kit else None
        super().__init__(desk, part.name, f"{part.device} · {device.meaning}" if device else part.device)
        self.name = part.name
        try:
            symbol = desk.library.symbol(part)
        except CircuitError as error:
            self.column.addWidget(quiet(str(error)))
            return
        grid = self.add_grid()
        for field in _fields(symbol):
            text = part.values.get(field.name, field.default)
            line = ValueLine(text, field.unit, self._check(part.device, field), self._parameters, bool(field.default))
            line.changed.connect(lambda text, name=field.name: self._edit(name, text))
            self.add_field(grid, field.name, LABELS.get(field.name, field.name), line, field.meaning)
        self.column.addWidget(heading("At this point"))
        for name in SHOWN:
            self.add_value(name, MEANINGS.get(name, ""), name.replace("/", " / "))
        self._add_columns()

    def texts(self) -> dict[str, str]:
        """The part's values."""
        return dict(self.desk.cell.part(self.name).values)

    def show_values(self) -> None:
        """The part's operating point; rows it does not have are away."""
        answer = self.desk.point
        values = answer.values.part(self.name) if answer and answer.values else {}
        for name, label in self.values.items():
            label.parentWidget().setVisible(name in values)
            if name in values:
                self.put(name, values[name].text, _role(name, values))

    def _edit(self, field: str, text: str) -> None:
        part = self.desk.cell.part(self.name)
        bare = replace(part, values={name: value for name, value in part.values.items() if name != field})
        self.desk.change_part(part.with_value(field, text) if text else bare, field)

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

    def _add_columns(self) -> None:
        self.column.addWidget(heading("Show on the drawing"))
        holder = QWidget()
        grid = QGridLayout(holder)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(4)
        for k, name in enumerate(COLUMNS):
            button = chip(name, lambda n=name: self._toggle(n), MEANINGS.get(name, ""), checkable=True)
            button.setChecked(name in self.desk.bench.shown)
            button.setStyleSheet("padding: 2px 4px; border-radius: 10px;")
            button.setFont(text_font(11))
            grid.addWidget(button, k // 4, k % 4)
        self.column.addWidget(holder)
        self.column.addWidget(quiet(f"Saturation margin: {MEANINGS['sat']}."))

    def _toggle(self, name: str) -> None:
        shown = self.desk.bench.shown
        new = tuple(n for n in shown if n != name) if name in shown else (*shown, name)
        self.desk.change_bench(replace(self.desk.bench, shown=new), f"show {name}")


def _fields(symbol: Symbol | Cell | None) -> tuple[ValueField, ...]:
    if isinstance(symbol, Cell):
        return tuple(ValueField(name, "", "parameter of the block", text) for name, text in symbol.parameters.items())
    return symbol.fields if symbol else ()


def _role(name: str, values: dict[str, Quantity]) -> str:
    if name not in ("region", "sat"):
        return "teal"
    role = saturation_role(values)
    return TEXT_ROLES.get(role, role)
