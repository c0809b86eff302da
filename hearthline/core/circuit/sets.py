"""Disjoint sets, for everything that asks what is joined to what."""

from __future__ import annotations

from collections.abc import Hashable


class DisjointSets:
    """Sets of hashable members that can be joined; a member not seen before is a set of its own."""

    def __init__(self) -> None:
        self._above: dict[Hashable, Hashable] = {}

    def copy(self) -> DisjointSets:
        """The same sets, to be joined further without changing these."""
        other = DisjointSets()
        other._above = dict(self._above)
        return other

    def root(self, member: Hashable) -> Hashable:
        """The member that stands for the set of `member` until the next join."""
        above = self._above
        above.setdefault(member, member)
        while above[member] != member:
            above[member] = above[above[member]]
            member = above[member]
        return member

    def join(self, keeper: Hashable, other: Hashable) -> None:
        """Makes one set of two; the root of `keeper` stays."""
        self._above[self.root(other)] = self.root(keeper)

    def joined(self, a: Hashable, b: Hashable) -> bool:
        """Whether the two are in one set."""
        return self.root(a) == self.root(b)

    def members(self) -> list[Hashable]:
        """All members, in the order of first mention."""
        return list(self._above)
