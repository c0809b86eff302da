"""The source whose value is an expression of voltages and currents."""

from __future__ import annotations

from collections.abc import Iterator

from hearthline.core.elements.behavioural import read_source
from hearthline.core.elements.deck_form import Texts, by_expression
from hearthline.core.elements.deck_line import Line
from hearthline.core.elements.kind import ElementKind
from hearthline.core.elements.part_line import PartLine


class ExpressionForm:
    """A DeckForm."""

    def read(self, line: Line) -> PartLine:
        """As DeckForm has it."""
        return by_expression(line, *read_source(line))

    def write(self, given: Texts, units: Texts, names: Texts) -> Iterator[str]:
        """It is not drawn."""
        raise NotImplementedError


EXPRESSION_SOURCE = ElementKind("B", "expression source", deck=ExpressionForm(), by_voltage=True)
