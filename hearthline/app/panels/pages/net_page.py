"""Details of a net, and of a pin with the stimuli tied to it."""

from __future__ import annotations

from dataclasses import replace

from hearthline.app.panels.pages.page import Page
from hearthline.app.panels.rows import heading, quiet
from hearthline.app.panels.value_field import ValueLine
from hearthline.app.state.desk import Desk
from hearthline.core.bench.bench import Stimulus
from hearthline.core.circuit.cell import Pin
from hearthline.core.errors import CircuitError
from hearthline.core.quantity import write


def stimulus_field(page: Page, stimulus: Stimulus) -> ValueLine:
    """A field for the value of a stimulus at direct current."""
    desk = page.desk

    def edit(text: str) -> None:
        bench = desk.bench
        new = replace(bench.stimulus(stimulus.name), dc=text)
        desk.change_bench(bench.with_stimulus(new), f"{stimulus.name} = {text}", f"stimulus {stimulus.name}")

    line = ValueLine(stimulus.dc, "V" if stimulus.kind == "voltage" else "A", parameters=page.bench_parameters)
    line.changed.connect(edit)
    return line


class NetPage(Page):
    """The voltage of a net and what it joins."""

    def __init__(self, desk: Desk, net: str) -> None:
        super().__init__(desk, f"net {net}", "")
        self.net = net
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
        values = self.desk.point.values if self.desk.point else None
        volts = values.voltage(self.net) if values else None
        self.put("voltage", "–" if volts is None else write(volts, "V", 5))


class PinPage(Page):
    """The stimuli at a pin, its voltage, and the currents of the stimuli."""

    def __init__(self, desk: Desk, pin: Pin) -> None:
        super().__init__(desk, pin.name, f"{pin.kind} pin of {desk.cell.name}")
        self.pin = pin
        self.stimuli = [stimulus for stimulus in desk.bench.stimuli if stimulus.pin == pin.name]
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

    def texts(self) -> dict[str, str]:
        """Values of the stimuli."""
        return {f"dc {stimulus.name}": stimulus.dc for stimulus in self.desk.bench.stimuli}

    def show_values(self) -> None:
        """Voltage and currents."""
        answer = self.desk.point
        volts = answer.values.voltage(self.pin.name) if answer and answer.values else None
        self.put("voltage", "–" if volts is None else write(volts, "V", 5))
        for name in self.values:
            if name != "voltage":
                known = answer is not None and answer.dataset is not None and name in answer.dataset.curves
                self.put(name, write(float(answer.dataset.curves[name][0, 0]), "A", 4) if known else "–")
