"""The line of a part in a deck: which tokens are nodes, model and values."""

from __future__ import annotations

from dataclasses import dataclass, field

from hearthline.core.elements.deck_line import Line
from hearthline.core.elements.nets import node
from hearthline.core.elements.wave import Wave
from hearthline.core.errors import QuantityError
from hearthline.core.expression import Expression
from hearthline.core.models.module import Module
from hearthline.core.quantity import read_deck

INITIAL = "ic"
"""What a transient may begin with: a voltage, or the current of an inductor."""


@dataclass(frozen=True)
class PartLine:
    """A part as its line says: nodes, model or block name, values, and the source that controls it.

    A line may stand for several `pieces`. What is not `drawable` has no symbol that says all of it.
    """

    line: Line
    kind: str
    nodes: tuple[str, ...]
    model: str = ""
    values: dict[str, Expression] = field(default_factory=dict)
    control: str = ""
    wave: Wave | None = None
    initial: Expression | None = None
    module: Module | None = None
    pieces: tuple[PartLine, ...] = ()
    drawable: bool = True
    own_name: str = ""

    @property
    def name(self) -> str:
        """The part's name; a piece has one of its own."""
        return self.own_name or self.line.head


def is_number(token: str) -> bool:
    """Whether a token is a value and no name."""
    if token[0] in "{'":
        return True
    try:
        read_deck(token)
    except QuantityError:
        return False
    return True


def take_nodes(line: Line, alone: list[str], count: int, form: str) -> tuple[str, ...]:
    """The first `count` tokens as nets. Raises DeckError that shows the `form` of the line."""
    if len(alone) < count:
        raise line.error(f"{line.head} has too few nodes or values; write it as `{form}`")
    return tuple(node(token) for token in alone[:count])


def no_more(line: Line, rest: list[str], form: str) -> None:
    """Raises DeckError for what stands behind a line that is complete."""
    if rest:
        raise line.error(f"'{rest[0]}' at the end of {line.head} is not understood; write it as `{form}`")
