"""Descriptions of lines, wires and substrates, worked out as they are typed."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from hearthline.app.state.asked import Asked
from hearthline.core.engine.job import Job
from hearthline.core.registry import registry

if TYPE_CHECKING:
    from hearthline.core.fields.box import Span
    from hearthline.core.fields.lines.card import Card
    from hearthline.core.fields.lines.section import Section
    from hearthline.core.fields.substrate.card import SubstrateCard
    from hearthline.core.fields.substrate.network import Substrate
    from hearthline.core.fields.wires.card import WiresCard
    from hearthline.core.fields.wires.n_port import Wire


@dataclass(frozen=True)
class Worked:
    """Which kind of description it was, what it says, and its numbers."""

    kind: str
    thing: Section | tuple[Wire, ...] | Substrate
    card: Card | WiresCard | SubstrateCard


# only who has such a file pays for what works it out


def _lines(path: Path, shown: str, text: str) -> Worked:
    from hearthline.core.fields.lines.card import card
    from hearthline.core.fields.lines.per_length import per_length
    from hearthline.core.formats.lines_file import LinesFile

    file = LinesFile(path, shown, text)
    return Worked("lines", file.section, card(per_length(file.section), _middle(file.span)))


def _wires(path: Path, shown: str, text: str) -> Worked:
    from hearthline.core.fields.wires.card import card
    from hearthline.core.formats.wires_file import WiresFile

    file = WiresFile(path, shown, text)
    return Worked("wires", file.wires, card(file.wires, file.plane, _middle(file.span)))


def _substrate(path: Path, shown: str, text: str) -> Worked:
    from hearthline.core.fields.substrate.card import card
    from hearthline.core.formats.substrate_file import SubstrateFile

    file = SubstrateFile(path, shown, text)
    return Worked("substrate", file.substrate, card(file.substrate, _middle(file.span)))


def _middle(span: Span) -> float:
    return float(span.frequencies[len(span.frequencies) // 2])


@dataclass(frozen=True)
class Description:
    """A kind of file: its `name`, which its ending has too, and what works out a text: of (path, how it is called, text)."""

    name: str
    work: Callable[[Path, str, str], Worked]

    @property
    def ending(self) -> str:
        """Of its files."""
        return f".{self.name}.toml"


DESCRIPTIONS: Mapping[str, Description] = registry("description", [
    Description("lines", _lines), Description("wires", _wires), Description("substrate", _substrate),
])  # fmt: skip
"""Another one is a line here, and a look in `interconnect.looks`."""


class Interconnects(Asked["Worked"]):
    """The newest text wins."""

    def ask(self, kind: str, path: Path, shown: str, text: str) -> None:
        """What a text says, in the middle of its sweep."""

        def make(job: Job) -> Worked:
            return DESCRIPTIONS[kind].work(path, shown, text)

        self.error = None
        self._question(make)
