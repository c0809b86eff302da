"""What operators and functions may ask of whoever makes values of a text's expressions."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Protocol

from hearthline.core.models.veriloga import tree
from hearthline.core.models.veriloga.graph import Graph
from hearthline.core.models.veriloga.node import Node
from hearthline.core.models.veriloga.problems import Problems
from hearthline.core.models.veriloga.work import Work


class Making(Protocol):
    """Evaluates expressions in the state of `work`."""

    work: Work
    graph: Graph
    problems: Problems
    call_limit: Callable[[str, tuple[Node, ...], tree.Node], Node]

    def value(self, node: tree.Node) -> Node:
        """The value of an expression where only a value will do."""

    def count(self, node: tree.Call, minimum: int, maximum: int) -> None:
        """Raises a mistake where a call has more or fewer arguments."""

    def access(self, node: tree.Call) -> Node:
        """A voltage or current of a branch."""

    def check_access(self, node: tree.Call, ends: Sequence[int]) -> None:
        """Raises a mistake for an access that the discipline of its ends does not have."""

    def temperature(self) -> Node:
        """Of the lane [K]."""

    def multiplicity(self) -> Node:
        """How many such devices stand in parallel."""
