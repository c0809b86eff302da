"""What the circuit itself says about an analysis: sweep range from the supply, stop time from the stimuli, output from the
labels."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property

from hearthline.core.bench.analysis import SETTINGS, Analysis
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.circuit.netlist import Element
from hearthline.core.errors import CircuitError, HearthlineError
from hearthline.core.quantity import field_text

SUPPLY_NETS = ("vdd", "vcc", "vss", "vee", "avdd", "dvdd", "vbat", "supply")
OUTPUTS = ("out", "outp", "output", "vout", "iout", "y", "q")
PERIODS = 4
"""Of the slowest stimulus, that a transient lasts."""
TIMES = {"pulse": (2, 6), "sin": (3, 2), "exp": (4, 5), "sffm": (0, 4)}


class Surroundings:
    """What is found in the circuit of a snapshot. Raises HearthlineError where the circuit is wrong."""

    def __init__(self, snapshot: Snapshot):
        self.snapshot, self.netlist = snapshot, snapshot.netlist()

    @cached_property
    def sources(self) -> list[Element]:
        """Independent sources, first those that are not supplies, and among those first what is driven by a signal."""
        found = [element for element in self.netlist.elements if element.kind in ("V", "I")]
        return sorted(found, key=lambda e: (self.is_supply(e), e.kind == "I", e.name not in ("vin", "in")))

    def is_supply(self, element: Element) -> bool:
        """Whether a source feeds the circuit: by the net it is at, or by the kind of the pin."""
        supplies = {pin.name.lower() for pin in self.snapshot.cell.pins if pin.kind == "supply"}
        supplies |= {label.net.lower() for label in self.snapshot.cell.labels if label.kind == "supply"}
        return element.kind == "V" and (element.nets[0] in supplies or element.nets[0] in SUPPLY_NETS)

    @cached_property
    def supply(self) -> float:
        """The highest supply voltage of all conditions [V]; that of the process where none is found."""
        highest = 0.0
        for element in self.netlist.elements:
            if self.is_supply(element) and "dc" in element.values:
                for condition in self.snapshot.conditions():
                    try:
                        highest = max(highest, float(element.values["dc"].value(condition.parameters)))
                    except HearthlineError:
                        continue
        made_for = [device.supply for device in self.snapshot.kit.devices.values()]
        return highest or (min(made_for) if made_for else 1.0)

    def source(self, name: str) -> Element | None:
        """The independent source of that name."""
        return next((one for one in self.sources if one.name == name.lower()), None)

    @cached_property
    def output(self) -> str:
        """The net that is most likely meant: an output pin, a label that says so, or the last net."""
        cell = self.snapshot.cell
        pins = [pin.name.lower() for pin in cell.pins if pin.kind == "output"]
        labels = [label.net.lower() for label in cell.labels]
        nets = self.netlist.nets
        likely = [net for net in OUTPUTS if net in labels or net in nets]
        return next(iter([*pins, *likely, *labels[-1:], *nets[-1:]]), "out")

    @cached_property
    def duration(self) -> float:
        """Some periods of the slowest stimulus [s]; 1 µs where nothing moves."""
        lengths = [length for element in self.netlist.elements if element.wave for length in self._lengths(element)]
        return max(lengths, default=1e-6)

    def _lengths(self, element: Element) -> list[float]:
        wave, found = element.wave, []
        try:
            parameters = self.snapshot.condition().parameters
            numbers = [float(one.value(parameters)) for one in wave.numbers]
        except HearthlineError:
            return []
        if wave.kind == "pwl":
            return [1.2 * numbers[-2]] if numbers[-2] > 0 else []
        delay, length = TIMES[wave.kind]
        if len(numbers) > length and numbers[length] > 0:
            unit = numbers[length] if wave.kind in ("pulse", "exp") else 1.0 / numbers[length]
            wait = numbers[delay] if wave.kind != "sffm" and len(numbers) > delay else 0.0
            found.append(wait + (5 if wave.kind == "exp" else PERIODS) * unit)
        elif wave.kind == "pulse" and len(numbers) > 2:
            found.append(5 * (numbers[2] + sum(numbers[3:6])) or 1e-6)
        return found


def complete(analysis: Analysis, around: Surroundings) -> dict[str, str]:
    """Every setting as text, those left out as the circuit says. Raises CircuitError for a name that the circuit lacks."""
    given = dict(analysis.settings)
    found = {**_DEFAULTS[analysis.kind](given, around), **given}
    if analysis.kind == "sweep" and "step" in given and "points" not in given:
        found.pop("points", None)
    return {one.word: found[one.word] for one in SETTINGS[analysis.kind] if found.get(one.word)}


def left_out(analysis: Analysis, around: Surroundings) -> dict[str, str]:
    """The settings that come from the circuit."""
    return {word: text for word, text in complete(analysis, around).items() if word not in analysis.settings}


def _sweep(given: Mapping[str, str], around: Surroundings) -> dict[str, str]:
    names = [one.name for one in around.sources]
    name = given.get("of") or next(iter(names), "")
    if not name:
        raise CircuitError(
            "there is nothing to sweep: the circuit has no source; say a parameter or temperature after `of`"
        )
    span = {"of": name, "points": "201"}
    source = around.source(name)
    if name.lower() == "temperature":
        celsius = [one.celsius for one in around.snapshot.conditions()]
        low, high = (min(celsius), max(celsius)) if max(celsius) > min(celsius) else (-40.0, 125.0)
        return {**span, "from": field_text(low), "to": field_text(high), "points": "41"}
    if source is not None and source.kind == "V":
        return {**span, "from": "0", "to": field_text(around.supply)}
    parameters = around.snapshot.condition().parameters
    now = float(source.values["dc"].value(parameters)) if source is not None else parameters.get(name)
    if now is None:
        known = ", ".join([*names, *parameters, "temperature"])
        raise CircuitError(f"there is no source or parameter '{name}' to sweep; there are {known}", part=name)
    now = now or 1e-6
    return {**span, "from": field_text(0.5 * now), "to": field_text(2.0 * now)}


def _transient(given: Mapping[str, str], around: Surroundings) -> dict[str, str]:
    stop = given.get("to") or field_text(float(f"{around.duration:.3g}"))
    return {"to": stop, "from": "0", "begin": "point", "rule": "trap", "error": "1e-3"}


def _ac(given: Mapping[str, str], around: Surroundings) -> dict[str, str]:
    driven = any("mag" in one.values for one in around.sources)
    by = "" if driven or not around.sources else around.sources[0].name
    return {"from": "1", "to": "10G", "points": "20", "spaced": "decade", "by": by}


def _noise(given: Mapping[str, str], around: Surroundings) -> dict[str, str]:
    driven = [one.name for one in around.sources if "mag" in one.values] or [one.name for one in around.sources]
    return {
        "of": around.output, "by": next(iter(driven), ""), "from": "1", "to": "1G", "points": "10", "spaced": "decade"
    }  # fmt: skip


_DEFAULTS = {"point": lambda given, around: {}, "sweep": _sweep, "transient": _transient, "ac": _ac, "noise": _noise}
