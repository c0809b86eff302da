"""What a bench ties to the pins of its cell, as elements of the circuit; as a line of text; and waveforms from tables."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import TypeVar

from hearthline.core.bench.bench import STIMULUS_KINDS, Stimulus
from hearthline.core.circuit.netlist import GROUND, Element, Place, Scope
from hearthline.core.elements.port import IMPEDANCE, read_impedance
from hearthline.core.elements.wave import direct_value, parse_wave
from hearthline.core.errors import CircuitError, ExpressionError, HearthlineError
from hearthline.core.expression import Expression, parse_value
from hearthline.core.quantity import read

T = TypeVar("T")
_ELEMENTS = {"voltage": "V", "current": "I", "ground": "V", "resistance": "R", "capacitance": "C", "port": "P"}
DRIVING = ("voltage", "current", "port")
"""Kinds that may have a waveform and a small signal."""
WORDS = {
    **dict.fromkeys(STIMULUS_KINDS, ("to",)), **dict.fromkeys(DRIVING, ("to", "ac", "phase", "wave")),
    "port": ("number", "impedance", "power", "to", "ac", "phase", "wave"),
}  # fmt: skip
"""What a line of each kind may say behind its value."""
_VALUES = {"R": "r", "C": "c"}


def element_of(stimulus: Stimulus, root: Scope, pins: set[str], missing: str, owner: str) -> Element:
    """The element that a stimulus is. Raises CircuitError naming it for a pin that is gone, `missing` says where, or a value
    that is nonsense."""
    for pin in (stimulus.pin, *([stimulus.to] if stimulus.to else [])):
        if pin not in pins:
            known = ", ".join(sorted(pins)[:40]) or "none"
            message = f"stimulus {stimulus.name}: {missing} '{pin}'; it has {known}"
            raise CircuitError(message, part=stimulus.name)
    ends = stimulus.pin.lower(), stimulus.to.lower() or GROUND
    kind = _ELEMENTS[stimulus.kind]
    if kind == "I":
        ends = ends[::-1]  # a current source at a pin drives into it
    values: dict[str, Expression] = {}
    wave = None
    if kind in "VIP":
        wave = _attempt(stimulus, lambda: parse_wave(stimulus.wave)) if stimulus.wave else None
        values["dc"] = (
            direct_value(wave) if wave and not stimulus.dc else _value(stimulus, stimulus.dc or "0", stimulus.unit)
        )
        for key, text, unit in (("mag", stimulus.ac, ""), ("phase", stimulus.phase, "")):
            if text:
                values[key] = _value(stimulus, text, unit)
        if kind == "P":
            values |= _port_values(stimulus)
    else:
        values[_VALUES[kind]] = _value(stimulus, stimulus.dc, stimulus.unit)
    name = stimulus.name.lower()
    return Element(name, kind, ends, values, scope=root, place=Place(file=owner, part=stimulus.name), wave=wave)


def _port_values(stimulus: Stimulus) -> dict[str, Expression]:
    impedance = stimulus.impedance or IMPEDANCE
    real, imaginary = _attempt(stimulus, lambda: read_impedance(impedance))
    found = {"number": _value(stimulus, stimulus.number, ""), "impedance": real, "reactance": imaginary}
    powers = [text for text in stimulus.power.split(",") if text.strip()]
    return found | {
        name: _value(stimulus, text, "dBm") for name, text in zip(("power", "power2"), powers, strict=False)
    }


def _value(stimulus: Stimulus, text: str, unit: str) -> Expression:
    return _attempt(stimulus, lambda: parse_value(text, unit))


def _attempt(stimulus: Stimulus, action: Callable[[], T]) -> T:
    try:
        return action()
    except HearthlineError as error:
        raise CircuitError(f"stimulus {stimulus.name}: {error}", part=stimulus.name) from None


# as a line: `in voltage 580m ac 1 wave pulse(0 1.2 1n)`


def text_of(stimulus: Stimulus) -> str:
    """A stimulus as a line, without its name."""
    words = [stimulus.pin, stimulus.kind, stimulus.dc]
    for word in WORDS[stimulus.kind]:
        value = getattr(stimulus, word)
        words += [word, value] if value else []
    return " ".join(word for word in words if word)


def parse_stimulus(name: str, text: str) -> Stimulus:
    """The stimulus that a line says. Raises ExpressionError with the column."""
    match = re.match(r"\s*(\S+)\s+(\S+)\s*", text)
    if not match or match[2].lower() not in STIMULUS_KINDS:
        said = f"'{match[2]}'" if match else "this"
        kinds = ", ".join(STIMULUS_KINDS)
        column = match.start(2) + 1 if match else 1
        raise ExpressionError(
            f"{said} is not understood; write a pin and one of {kinds}, such as in voltage 600m", column
        )
    made = Stimulus(name, match[1], kind=match[2].lower())
    for word, value, column in _settings(text, match.end()):
        if word and word not in WORDS["port"]:
            raise ExpressionError(f"'{word}' at column {column}: there are {_listed(WORDS[made.kind])}", column)
        if word and word not in WORDS[made.kind]:
            raise ExpressionError(f"a {made.kind} has no {word}; look at column {column}", column)
        made = replace(made, **{word or "dc": value})
    check_stimulus(made)
    return made


def _settings(text: str, start: int) -> Iterator[tuple[str, str, int]]:
    """(word, value, column); the first value, which has no word, is the one at direct current."""
    rest, column = text[start:], start + 1
    listed = r"(to|ac|phase|number|impedance|power)\s+([^\s,]+(?:\s*,\s*[^\s,]+)*)"
    pattern = re.compile(rf"\s*(?:{listed}|(wave)\s+([A-Za-z]+\s*\(.*\))|(\S+))", re.DOTALL)
    place = 0
    first = True
    while match := pattern.match(rest, place):
        if match[1] or match[3]:
            yield match[1] or match[3], (match[2] or match[4]).strip(), column + match.start(1 if match[1] else 3)
        elif first:
            yield "", match[5], column + match.start(5)
        else:
            yield match[5], "", column + match.start(5)
        place, first = match.end(), False


def _listed(words: tuple[str, ...]) -> str:
    return " and ".join([", ".join(words[:-1]), words[-1]] if len(words) > 1 else words)


def check_stimulus(stimulus: Stimulus) -> None:
    """Raises ExpressionError or QuantityError for a value or a waveform that cannot be."""
    if stimulus.kind == "port":
        _check_port(stimulus)
    elif stimulus.kind != "ground" and not stimulus.dc and not stimulus.wave:
        raise ExpressionError(f"{stimulus.name} needs a value in {stimulus.unit}")
    if stimulus.dc:
        parse_value(stimulus.dc, stimulus.unit)
    for text in (stimulus.ac, stimulus.phase):
        if text:
            parse_value(text, "")
    if stimulus.wave:
        check_waveform(stimulus.wave)


def _check_port(stimulus: Stimulus) -> None:
    number = parse_value(stimulus.number, "") if stimulus.number else None
    if number is None or not isinstance(number.tree, float) or number.tree < 1 or number.tree != int(number.tree):
        raise ExpressionError(
            f"port {stimulus.name}: its number is 1, 2, 3 and so on, and is '{stimulus.number or 'not there'}'"
        )
    real, _ = read_impedance(stimulus.impedance or IMPEDANCE)
    if isinstance(real.tree, float) and real.tree <= 0:
        raise ExpressionError(
            f"port {stimulus.name}: the real part of its impedance must be above 0 Ω, and is {real.tree:g} Ω"
        )
    powers = stimulus.power.split(",") if stimulus.power else []
    if len(powers) > 2:
        raise ExpressionError(f"port {stimulus.name}: powers are of one tone or of two, not of {len(powers)}")
    for text in powers:
        parse_value(text.strip(), "dBm")


def check_waveform(text: str) -> None:
    """Raises ExpressionError for a waveform that is not understood, or that runs backwards."""
    wave = parse_wave(text)
    if wave.kind != "pwl":
        return
    before = -math.inf
    for expression in wave.numbers[::2]:
        if expression.names:
            return
        now = float(expression.value({}))
        if now < before:
            raise ExpressionError(f"the course runs backwards: {now:g} s stands after {before:g} s")
        before = now


def waveform_of_table(text: str) -> str:
    """`pwl(...)` from lines of time and value, as pasted or from a CSV file; a first line of words is passed over. Raises
    ExpressionError naming the line."""
    found: list[str] = []
    for number, line in enumerate(text.splitlines(), 1):
        words = [word for word in re.split(r"[,;\s]+", line.strip()) if word]
        if not words or words[0].startswith("#"):
            continue
        try:
            [read(word.rstrip("sVA") if word[-1:] in "sVA" else word) for word in words]
        except HearthlineError:
            if not found and not any(sign.isdigit() for sign in words[0]):
                continue  # names of the columns
            raise ExpressionError(f"line {number}: '{line.strip()}' is not a time and a value") from None
        if len(words) != 2:
            raise ExpressionError(f"line {number}: a time and a value are wanted, and there are {len(words)} numbers")
        found += [word.rstrip("sVA") for word in words]
    if len(found) < 4:
        raise ExpressionError("a waveform needs two lines or more, each a time and a value")
    waveform = f"pwl({' '.join(found)})"
    check_waveform(waveform)
    return waveform
