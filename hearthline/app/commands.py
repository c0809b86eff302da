"""Commands as data: name, keys, and what each does. The window, the search and the help sheet read this one list."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Command:
    """One command. `keys` as Qt writes them; the first is shown. `needs` says what is missing where it cannot run now."""

    name: str
    keys: tuple[str, ...]
    action: Callable[[], None]
    needs: Callable[[], str] = lambda: ""

    @property
    def shown_key(self) -> str:
        """The first key, as a person reads it."""
        return self.keys[0] if self.keys else ""
