"""Details of a net, and of a pin with the stimuli tied to it."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtWidgets import QGridLayout, QWidget

from hearthline.app.panels.pages.page import Page
from hearthline.app.panels.rows import chip, heading, quiet
from hearthline.app.panels.text_line import TextLine
from hearthline.app.panels.value_field import ValueLine
from hearthline.app.state.desk import Desk
from hearthline.app.state.editor import Editor
from hearthline.core.bench.bench import Stimulus
from hearthline.core.circuit.cell import PIN_KINDS, Label, Pin
from hearthline.core.errors import CircuitError
from hearthline.core.quantity import write


def stimulus_field(page: Page, stimulus: Stimulus) -> ValueLine:
    """A field for the value of a stimulus at direct current."""
    desk = page.desk

    def edit(text: str) -> None:
        bench = desk.bench
        new = replace(bench.stimulus(stimulus.name), dc=text)
        desk.change_bench(bench.with_stimulus(new), f"{stimulus.name} = {text}", f"stimulus {stimulus.name}")

    line = ValueLine(stimulus.dc or "0", stimulus.unit, parameters=page.bench_parameters)
    line.changed.connect(edit)
    return line


def voltage_of(desk: Desk, net: str) -> float | None:
    """The last valid voltage [V] of a net of the shown instance."""
    if desk.last_values is None or desk.instance is None:
        return None
    return desk.last_values.voltage(desk.instance.net(net))


class NetPage(Page):
    """The voltage of a net and what it joins."""

    def __init__(self, desk: Desk, editor: Editor, net: str, label: Label | None = None) -> None:
        super().__init__(desk, f"net {net}", "")
        self.net = net
        if label is not None:
            grid = self.add_grid()
            line = TextLine(label.net)
            line.settled.connect(lambda text: editor.name_net(label.at, text))
            self.add_text_field(grid, "name", line, "the name of this net; nets of one name are one")
        self.column.addWidget(heading("At this point"))
        self.add_value("voltage")
        try:
            terminals = desk.library.connections(desk.cell).terminals
        except CircuitError:
            return
        joined = [f"{part} {terminal}" for (part, terminal), name in terminals.items() if name == net]
        self.column.addWidget(heading("Joins"))
        self.column.addWidget(quiet(", ".join(joined) or "nothing"))

    def show_values(self) -> None:
        """Its voltage."""
        volts = voltage_of(self.desk, self.net)
        self.put("voltage", "–" if volts is None else write(volts, "V", 5))


class PinPage(Page):
    """Name and kind of a pin, the stimuli at it, its voltage, and the currents of the stimuli."""

    def __init__(self, desk: Desk, editor: Editor, pin: Pin) -> None:
        super().__init__(desk, pin.name, f"{pin.kind} pin of {desk.cell.name}")
        self.pin = pin
        grid = self.add_grid()
        line = TextLine(pin.name, self._name_problem)
        line.settled.connect(lambda text: editor.rename("pin", pin.name, text))
        self.add_text_field(grid, "name", line, "its name, and that of its net")
        kinds = QWidget()
        row = QGridLayout(kinds)
        row.setContentsMargins(0, 4, 0, 0)
        for k, kind in enumerate(PIN_KINDS):
            button = chip(kind, lambda kind=kind: self._turn_into(editor, kind), f"make it an {kind} pin", True)
            button.setChecked(kind == pin.kind)
            row.addWidget(button, k // 3, k % 3)
        self.column.addWidget(kinds)
        self.stimuli = [] if desk.trail else [one for one in desk.bench.stimuli if one.pin == pin.name]
        for stimulus in self.stimuli:
            self.column.addWidget(heading(f"Stimulus {stimulus.name}"))
            line = stimulus_field(self, stimulus)
            self.add_field(self.add_grid(), f"dc {stimulus.name}", stimulus.kind, line, "value at direct current")
        self.column.addWidget(heading("At this point"))
        self.add_value("voltage")
        for stimulus in self.stimuli:
            self.add_value(f"I({stimulus.name.lower()})")
        if not self.stimuli:
            self.column.addWidget(quiet("Nothing is tied to this pin on the bench."))

    def _turn_into(self, editor: Editor, kind: str) -> None:
        pin = next(pin for pin in self.desk.cell.pins if pin.name == self.pin.name)
        editor.change_pin(replace(pin, kind=kind))
        self.desk.selection_changed.emit()

    def _name_problem(self, text: str) -> str:
        if not text or any(sign in text for sign in " .,(){}"):
            return "a name without blanks, dots or brackets"
        taken = {pin.name.lower() for pin in self.desk.cell.pins} - {self.pin.name.lower()}
        return f"there is a pin {text} already" if text.lower() in taken else ""

    def texts(self) -> dict[str, str]:
        """Name, and values of the stimuli."""
        return {"name": self.pin.name} | {f"dc {stimulus.name}": stimulus.dc for stimulus in self.desk.bench.stimuli}

    def show_values(self) -> None:
        """Voltage and currents."""
        answer = self.desk.point
        volts = voltage_of(self.desk, self.pin.name)
        self.put("voltage", "–" if volts is None else write(volts, "V", 5))
        for name in self.values:
            if name != "voltage":
                known = answer is not None and answer.dataset is not None and name in answer.dataset.curves
                self.put(name, write(float(answer.dataset.curves[name][0, 0]), "A", 4) if known else "–")
