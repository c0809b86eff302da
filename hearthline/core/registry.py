"""Tables of things that are one file each."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sized
from typing import Generic, Protocol, TypeVar


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


Key = TypeVar("Key")
Value = TypeVar("Value")


class Derived(Mapping[Key, Value], Generic[Key, Value]):
    """A table that follows from a registry by `make`, and is made anew when something is entered there."""

    def __init__(self, source: Sized, make: Callable[[], dict[Key, Value]]):
        self._source, self._make = source, make
        self._table: dict[Key, Value] = {}
        self._size = -1

    def _now(self) -> dict[Key, Value]:
        if len(self._source) != self._size:
            self._table, self._size = self._make(), len(self._source)
        return self._table

    def __getitem__(self, key: Key) -> Value:
        return self._now()[key]

    def __iter__(self) -> Iterator[Key]:
        return iter(self._now())

    def __len__(self) -> int:
        return len(self._now())

    def __contains__(self, key: object) -> bool:
        return key in self._now()
