"""Cross-sections of coupled lines, worked out as they are typed."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from hearthline.app.state.asked import Asked
from hearthline.core.engine.job import Job

if TYPE_CHECKING:
    from hearthline.core.fields.lines.card import Card
    from hearthline.core.fields.lines.section import Section

ENDING = ".lines.toml"


@dataclass(frozen=True)
class Worked:
    """A section with its card."""

    section: Section
    card: Card


class Sections(Asked["Worked"]):
    """The newest text wins."""

    def ask(self, path: Path, shown: str, text: str) -> None:
        """What lines of that text have per length, in the middle of their sweep."""

        def make(job: Job) -> Worked:
            from hearthline.core.fields.lines.card import card
            from hearthline.core.fields.lines.per_length import per_length
            from hearthline.core.formats.lines_file import LinesFile

            file = LinesFile(path, shown, text)
            frequencies = file.span.frequencies
            return Worked(file.section, card(per_length(file.section), float(frequencies[len(frequencies) // 2])))

        self.error = None
        self._question(make)
