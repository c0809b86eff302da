"""The chips of the top line: the condition of the live point, and the grid that a run crosses."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QWidget, QWidgetAction

from hearthline.app.panels.rows import chip, clear, offer
from hearthline.app.panels.value_field import ValueEditor, ValueLine
from hearthline.app.state.desk import Desk
from hearthline.core.data.dataset import AROUND
from hearthline.core.errors import HearthlineError
from hearthline.core.quantity import read, write
from hearthline.core.spread.pvt import Condition


class ConditionChips(QWidget):
    """One chip for the corner, the temperature, each parameter, and the count of all conditions."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self._shown: tuple | None = None
        self.row = QHBoxLayout(self)
        self.row.setContentsMargins(0, 0, 0, 0)
        self.row.setSpacing(6)
        desk.bench_changed.connect(self._show)
        desk.results.condition_changed.connect(self._show)
        desk.document_changed.connect(self._show)
        desk.spread.one.changed.connect(self._show)
        self._show()

    def _show(self) -> None:
        """Makes the chips anew, but only when they say something else."""
        bench = self.desk.bench
        chosen, sample = self.desk.results.chosen, self.desk.spread.one.point
        shown = (self.desk.bench_key, bench.point, bench.grid, chosen, sample and sample.name) if bench else None
        if shown == self._shown:
            return
        self._shown = shown
        clear(self.row)
        if bench is None:
            return
        if sample is not None:
            back = self._chip(f"{sample.name} ✕", "The whole desk shows this; click for the nominal circuit",
                              lambda _: self.desk.spread.one.back())  # fmt: skip
            back.setProperty("grid", True)
        if chosen is not None:
            back = self._chip(f"at {condition_words(chosen)} ✕", "The whole desk shows this condition of the run; click for "
                              "the bench's own point", lambda _: self.desk.results.choose_condition(-1))  # fmt: skip
            back.setProperty("grid", True)
            self._grid_chip()
            return
        point = bench.point
        self._chip(point.corner, "Process corner of the live operating point", self._offer_corners)
        self._chip(_understood(point.temperature, "°C"), "Temperature of the live operating point", self._offer_celsius)
        if bench.surroundings:
            around = point.surroundings or bench.surroundings[0].name
            self._chip(around, "What the circuit of the live operating point stands in", self._offer_surroundings)
        for name, text in point.parameters.items():
            tip = f"Parameter {name} of the live operating point"
            self._chip(f"{name} {_understood(text, 'V')}", tip, self._offerer(name))
        self._grid_chip()

    def _grid_chip(self) -> None:
        grid = self._chip(
            f"{self._count()} condition{'s' * (self._count() != 1)}", self._grid_words(), self._offer_grid
        )
        grid.setProperty("grid", True)

    def _chip(self, text: str, tip: str, pressed: Callable[[QWidget], None]) -> QPushButton:
        button = chip(text, lambda: pressed(button), tip)
        self.row.addWidget(button)
        return button

    def _count(self) -> int:
        try:
            return len(self.desk.snapshot.conditions()) if self.desk.snapshot else 0
        except HearthlineError:
            return 0

    # -- the live point

    def _offer_corners(self, button: QWidget) -> None:
        offer(button, [(name, lambda n=name: self._point(f"corner {n}", corner=n)) for name in self._corners()])

    def _corners(self) -> tuple[str, ...]:
        kit, statistical = self.desk.project.kit, self.desk.bench.statistical
        names = kit.models.names if kit else self.desk.bench.grid.corners
        return (*names, *(f"{names[0]}+{one.name}" for one in statistical))

    def _offer_surroundings(self, button: QWidget) -> None:
        names = [one.name for one in self.desk.bench.surroundings]
        offer(button, [(name, lambda n=name: self._point(n, surroundings=n)) for name in names])

    def _offer_celsius(self, button: QWidget) -> None:
        def put(text: str) -> None:
            self._point(f"temperature {text}", temperature=text)

        bench = self.desk.bench
        self._offer_values(button, bench.grid.temperatures, bench.point.temperature, "°C", put)

    def _offerer(self, name: str) -> Callable[[QWidget], None]:
        def put(text: str) -> None:
            self._point(f"{name} = {text}", parameters={**self.desk.bench.point.parameters, name: text})

        def pressed(button: QWidget) -> None:
            bench = self.desk.bench
            self._offer_values(button, bench.grid.parameters.get(name, ()), bench.point.parameters[name], "V", put)

        return pressed

    def _offer_values(
        self, button: QWidget, texts: tuple[str, ...], now: str, unit: str, put: Callable[[str], None]
    ) -> None:
        """The values of the grid, and a field for any other."""
        menu = offer(button, [(_understood(text, unit), lambda t=text: put(t)) for text in texts])
        line = ValueLine(now, unit)
        line.setFixedWidth(110)

        def settle() -> None:
            if not line.verdict() and line.text() != now:
                put(line.text().strip())
            menu.close()

        line.entered.connect(settle)
        holder = QWidgetAction(menu)
        holder.setDefaultWidget(ValueEditor(line))
        menu.addAction(holder)

    def _point(self, text: str, **changed: object) -> None:
        bench = self.desk.bench
        self.desk.change_bench(replace(bench, point=replace(bench.point, **changed)), text)

    # -- the grid

    def _grid_words(self) -> str:
        return "A run crosses\n" + "\n".join(self._axes())

    def _axes(self) -> list[str]:
        grid = self.desk.bench.grid
        lines = [f"corner: {', '.join(grid.corners)}", f"temperature: {', '.join(grid.temperatures)} °C"]
        lines += [f"{name}: {', '.join(values)}" for name, values in grid.parameters.items()]
        return lines + ([f"{AROUND}: {', '.join(grid.surroundings)}"] if grid.surroundings else [])

    def _offer_grid(self, button: QWidget) -> None:
        """Each corner can be left out of the next run, or taken in again."""
        menu: QMenu = offer(button, [(f"corner {name}", lambda n=name: self._toggle(n)) for name in self._corners()])
        for name, action in zip(self._corners(), menu.actions(), strict=True):
            action.setCheckable(True)
            action.setChecked(name in self.desk.bench.grid.corners)
        menu.addSeparator()
        for line in self._axes()[1:]:
            menu.addAction(line).setEnabled(False)

    def _toggle(self, name: str) -> None:
        grid = self.desk.bench.grid
        chosen = tuple(c for c in self._corners() if (c in grid.corners) != (c == name))
        if chosen:
            self.desk.change_bench(replace(self.desk.bench, grid=replace(grid, corners=chosen)), f"corner {name}")


def condition_words(condition: Condition, temperature: bool = True) -> str:
    """A condition in a few words."""
    celsius = f"{condition.celsius:g} °C".replace("-", "−") if temperature else ""
    values = (write(value, "", 3) for value in condition.parameters.values())
    return " ".join([condition.corner, celsius, *values, condition.around]).strip()


def _understood(text: str, unit: str) -> str:
    """A typed value as it is understood; as typed where it is an expression."""
    try:
        return write(read(text, unit), unit)
    except HearthlineError:
        return text
