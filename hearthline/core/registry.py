"""Tables of things that are one file each."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Protocol, TypeVar


class Named(Protocol):
    """Something with a name."""

    @property
    def name(self) -> str:
        """What it is called."""


T = TypeVar("T", bound=Named)


def registry(what: str, entries: Iterable[T]) -> dict[str, T]:
    """The entries by name, in their order. Raises ValueError where two have one name: a mistake of ours, seen at import."""
    found: dict[str, T] = {}
    for entry in entries:
        if entry.name in found:
            raise ValueError(f"there are two entries '{entry.name}' among the kinds of {what}; give one another name")
        found[entry.name] = entry
    return found
