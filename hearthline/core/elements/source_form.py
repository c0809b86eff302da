"""How independent sources are written: a direct value, a small signal, a waveform, in any order."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from hearthline.core.elements.deck_form import Texts
from hearthline.core.elements.deck_line import Line
from hearthline.core.elements.deck_value import number_text, value_text
from hearthline.core.elements.part_line import PartLine, is_number, take_nodes
from hearthline.core.elements.wave import FORMS, Wave, direct_value, parse_wave
from hearthline.core.errors import HearthlineError
from hearthline.core.expression import Expression


@dataclass(frozen=True)
class SourceForm:
    """A DeckForm."""

    kind: str

    def read(self, line: Line) -> PartLine:
        """As DeckForm has it."""
        form = f"{self.kind.lower()}1 a b dc 1.2"
        alone, values = line.split()
        nodes, rest = take_nodes(line, alone, 2, form), alone[2:]
        wave = None
        if rest and rest[0] not in ("dc", "ac", *FORMS):
            values["dc"] = line.expression(rest.pop(0))
        while rest:
            word = rest.pop(0)
            if word == "dc" and rest:
                values["dc"] = line.expression(rest.pop(0))
            elif word == "ac":
                values["mag"] = Expression.constant(1.0)
                for name in ("mag", "phase"):
                    if rest and is_number(rest[0]):
                        values[name] = line.expression(rest.pop(0))
            elif word in FORMS:
                wave = Wave(word, _shape_numbers(line, word, rest))
                values.setdefault("dc", direct_value(wave))
            else:
                raise line.error(f"'{word}' in source {line.head} is not understood; write it as `{form}`")
        return PartLine(line, self.kind, nodes, "", values, wave=wave)

    def write(self, given: Texts, units: Texts, names: Texts) -> Iterator[str]:
        """As DeckForm has it. A source with a waveform and no direct value of its own has that of the waveform."""
        if "dc" in given and ("wave" not in given or given["dc"] != "0"):
            yield f"dc {value_text(given['dc'], units['dc'])}"
        if "mag" in given:
            words = [value_text(given[name], "") for name in ("mag", "phase") if name in given]
            yield " ".join(["ac", *words])
        for name, text in given.items():
            if name not in ("dc", "mag", "phase", "wave"):
                yield f"{name}={value_text(text, units[name])}"
        if "wave" in given:
            try:
                wave = parse_wave(given["wave"])
            except HearthlineError:
                return
            yield f"{wave.kind}({' '.join(number_text(one) for one in wave.numbers)})"


def _shape_numbers(line: Line, shape: str, rest: list[str]) -> tuple[Expression, ...]:
    """Takes the numbers of a shape from `rest`."""
    numbers = []
    while rest and rest[0] not in ("dc", "ac"):
        if not is_number(rest[0]) and not rest[0].isidentifier():
            break
        numbers.append(line.expression(rest.pop(0)))
    minimum = 4 if shape == "pwl" else 2
    if len(numbers) < minimum or (shape == "pwl" and len(numbers) % 2):
        raise line.error(f"{shape}(...) of {line.head} has too few numbers; write {FORMS[shape]}")
    if shape != "pwl" and len(numbers) > FORMS[shape].count(" ") + 1:
        raise line.error(f"{shape}(...) of {line.head} has too many numbers; write {FORMS[shape]}")
    return tuple(numbers)
