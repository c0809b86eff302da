"""A line with losses as short lossless lines with its resistance and conductance in between.

The delay is exact, and the error falls with the square of the number of sections (Branin 1967 for the lossless parts); for
small losses that is the distributed line to a part in a thousand. What depends on frequency in a conductor is not in it.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from hearthline.core.elements.deck_line import Line
from hearthline.core.elements.part_line import PartLine
from hearthline.core.expression import Expression

SECTIONS = 24


def sections(line: Line, nets: tuple[str, ...], values: Mapping[str, Expression]) -> Iterator[PartLine]:
    """The parts of a line between four nets with `r`, `l`, `g`, `c` for a length and its `len`gth."""
    name = line.head
    text = {key: f"({value.text})" for key, value in values.items()}
    impedance, delay = f"sqrt({text['l']}/{text['c']})", f"{text['len']}*sqrt({text['l']}*{text['c']})/{SECTIONS}"

    def part(kind: str, suffix: str, ends: tuple[str, ...], **numbers: str) -> PartLine:
        made = {key: Expression.parse(written, deck=True) for key, written in numbers.items()}
        return PartLine(line, kind, ends, "", made, own_name=f"{name}.{suffix}")

    here, back = nets[0], nets[1]
    for k in range(SECTIONS):
        last = k == SECTIONS - 1
        after, after_back = (nets[2], nets[3]) if last else (f"{name}.n{k}", nets[1])
        left, right = here, after
        if "r" in values:
            half = f"{text['r']}*{text['len']}/{2 * SECTIONS}"
            left, right = f"{name}.a{k}", f"{name}.b{k}"
            yield part("R", f"ra{k}", (here, left), r=half)
            yield part("R", f"rb{k}", (right, after), r=half)
        yield part("T", f"t{k}", (left, back, right, after_back), z0=impedance, td=delay)
        if "g" in values:  # as a resistor, which makes noise
            leak = f"{text['g']}*{text['len']}/{SECTIONS}"
            yield part("R", f"g{k}", (after, after_back), r=f"({leak}) == 0 ? 1e30 : 1/({leak})")
        here = after
