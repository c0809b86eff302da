"""Loops over the instances of a module: one after the other, or several abreast.

Both give a body the same names: unknowns `%x0`, values `%v0`, what limiting remembers `%m0`, settings `%setting_gmin`, `%mode`;
and stores what it gives.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from hearthline.core.compiled.language import Code
from hearthline.core.models.layout import COUNT, LANES
from hearthline.core.models.veriloga.code import REAL, WHOLE, Writer
from hearthline.core.models.veriloga.graph import Graph
from hearthline.core.models.veriloga.node import Node

WORTHWHILE = 200
"""Values that a body works out, from which on it is written for instances abreast too."""
PARAMETERS = "i64 %wants, ptr noalias %span, ptr noalias %nodes, ptr noalias %w"

Leaf = Callable[[Node], str | None]


class Instances(Protocol):
    """A function that goes over instances; `head` is its first line, what is the same for all of them stands in `entry`."""

    code: Code
    entry: Code
    head: str

    def writer(self, graph: Graph, leaf: Leaf, trusted: bool) -> Writer:
        """What writes the body."""

    def open(self) -> None:
        """Begins."""

    def place(self, name: str, base: str, kind: str, position: int, step: int | str) -> None:
        """Says where an instance's part of a stretch begins."""

    def terminal(self, name: str, place: int) -> None:
        """Loads the unknown of a terminal."""

    def look(self) -> None:
        """Once all terminals are known: goes on where something has to be evaluated."""

    def number(self, name: str, stretch: str, slot: int) -> None:
        """Loads a number of an instance."""

    def setting(self, name: str, value: str) -> None:
        """Names what is the same for all instances, `value` says how it comes about."""

    def store(self, value: str, stretch: str, place: int) -> None:
        """Writes a number of an instance."""

    def close(self) -> None:
        """Ends."""


class OneByOne:
    """From instance `%first` on, one after the other; gives back how many were limited."""

    def __init__(self, name: str):
        self.code, self.entry = Code(), Code("once")
        self.head = f"define internal i64 @{name}({PARAMETERS}, i64 %first) {{"
        self.entry.lines += ["  %moved = alloca i1", "  %turns = alloca i64"]

    def writer(self, graph: Graph, leaf: Leaf, trusted: bool) -> Writer:
        """Of one instance."""
        return Writer(graph, self.code, leaf, trusted)

    def open(self) -> None:
        """Begins."""
        code, count = self.code, self.entry.load(WHOLE, "%span", COUNT)
        code.do(f"br i1 {code.put(f'icmp sgt i64 {count}, %first')}, label %loop, label %done")
        code.begin("loop")
        code.do("%k = phi i64 [ %first, %entry ], [ %k_next, %loop_end ]")
        code.do("%limited = phi i64 [ 0, %entry ], [ %limited_next, %loop_end ]")
        code.do("%k_next = add i64 %k, 1")
        code.do(f"%last = icmp eq i64 %k_next, {count}")
        code.do("store i1 false, ptr %moved")
        code.do("store i64 0, ptr %turns")

    def place(self, name: str, base: str, kind: str, position: int, step: int | str) -> None:
        """Says where the instance's part of a stretch begins."""
        code = self.code
        offset = code.put(f"add i64 {self.entry.load(WHOLE, '%span', position)}, {code.put(f'mul i64 %k, {step}')}")
        code.do(f"%{name} = getelementptr {kind}, ptr {base}, i64 {offset}")

    def terminal(self, name: str, place: int) -> None:
        """Loads the unknown of a terminal."""
        code = self.code
        node = code.put(f"sext i32 {code.load('i32', '%nodes_k', place)} to i64")
        code.do(f"%{name} = load double, ptr {code.put(f'getelementptr double, ptr %w, i64 {node}')}")

    def look(self) -> None:
        """Always."""

    def number(self, name: str, stretch: str, slot: int) -> None:
        """Loads a number of the instance."""
        self.code.do(f"%{name} = load double, ptr {self.code.put(f'getelementptr double, ptr %{stretch}, i64 {slot}')}")

    def setting(self, name: str, value: str) -> None:
        """Names what is the same for all instances."""
        self.entry.do(f"%{name} = {value}")

    def store(self, value: str, stretch: str, place: int) -> None:
        """Writes a number of the instance."""
        self.code.store(REAL, value, f"%{stretch}", place)

    def close(self) -> None:
        """Ends."""
        code = self.code
        moved = code.put("load i1, ptr %moved")
        code.do("br label %loop_end")
        code.begin("loop_end")
        code.do(f"%limited_next = add i64 %limited, {code.put(f'zext i1 {moved} to i64')}")
        code.do("br i1 %last, label %done, label %loop")
        code.begin("done")
        code.do(f"ret i64 {code.put('phi i64 [ 0, %entry ], [ %limited_next, %loop_end ]')}")


def fewest(values: int) -> int:
    """Instances that are worth evaluating abreast, with lanes that nothing comes of, in a body of so many values: the more of
    them, the less it weighs that numbers are brought into lanes and back. As measured with eight lanes."""
    return 2 if values > 1000 else 4


def shared(name: str, fewest: int) -> list[str]:
    """A function that has as many instances as it pays for evaluated abreast, and the rest one after the other."""
    call = "call i64 @{}(i64 %wants, ptr %span, ptr %nodes, ptr %w, i64 {})"
    return [
        f"define internal i64 @{name}({PARAMETERS}) {{", "entry:",
        f"  %count_at = getelementptr i64, ptr %span, i64 {COUNT}", "  %count = load i64, ptr %count_at",
        f"  %left = and i64 %count, {LANES - 1}", f"  %few = icmp slt i64 %left, {fewest}",
        "  %rest = select i1 %few, i64 %left, i64 0", "  %end = sub i64 %count, %rest",
        "  %some = icmp sgt i64 %end, 0", "  br i1 %some, label %many, label %one",
        "many:", f"  %first = {call.format(f'{name}_abreast', '%end')}", "  br label %one",
        "one:", "  %before = phi i64 [ 0, %entry ], [ %first, %many ]",
        f"  %last = {call.format(f'{name}_one_by_one', '%end')}", "  %total = add i64 %before, %last", "  ret i64 %total", "}",
    ]  # fmt: skip


def alone(name: str) -> list[str]:
    """A function that has every instance evaluated one after the other."""
    call = f"call i64 @{name}_one_by_one(i64 %wants, ptr %span, ptr %nodes, ptr %w, i64 0)"
    return [f"define internal i64 @{name}({PARAMETERS}) {{", "entry:", f"  %total = {call}", "  ret i64 %total", "}"]
