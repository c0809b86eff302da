"""The loop over the instances of a module that evaluates several of them abreast, in the lanes of vectors."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from hearthline.core.compiled.language import Code, real
from hearthline.core.models.layout import COUNT, LANES, SPAN
from hearthline.core.models.signature import REST
from hearthline.core.models.veriloga.abreast import AbreastWriter, behind, gather
from hearthline.core.models.veriloga.abreast_functions import spelled
from hearthline.core.models.veriloga.code import REAL, WHOLE, Writer
from hearthline.core.models.veriloga.graph import Graph
from hearthline.core.models.veriloga.instances import PARAMETERS, Leaf

STANDS = 1e-11
"""How far an unknown may move and be taken for one that rests [V]: a thousandth of the error that a step in time is allowed
at its most accurate, and far less than what Newton's method ends with."""
RESULTS = ("current", "conductance", "charge", "capacitance")
"""Stretches that come out of vectors."""


@dataclass(frozen=True)
class Rest:
    """Where it is remembered at which unknowns instances were evaluated last: for each of `terminals` of them, those at the
    places `watched`, among which is that where it is `forgotten`."""

    terminals: int
    watched: tuple[int, ...]
    forgotten: int

    def begin(self, code: Code, lanes: str, count: str, values: str, block: str) -> str:
        """Address of what is remembered of the instances from `block` on, behind the values in `lanes`."""
        more = code.put(f"add i64 {count}, {LANES - 1}")
        whole = code.put(f"and i64 {more}, -{LANES}")
        behind_values = code.put(f"mul i64 {whole}, {values}")
        offset = code.put(f"add i64 {behind_values}, {code.put(f'mul i64 {block}, {self.terminals}')}")
        return code.put(f"getelementptr double, ptr {lanes}, i64 {offset}")

    def forget(self, code: Code, begin: str) -> None:
        """Nothing is near what is no number."""
        at = code.put(f"getelementptr double, ptr {begin}, i64 {self.forgotten * LANES}")
        code.do(spelled(f"store REALS splat (double {real(math.nan)}), ptr {at}, align 8"))


class Abreast:
    """From instance 0 to the one before `%end`, `LANES` at a time; gives back how many were limited. Lanes that are left over
    do what the last instance does. Instances that are allowed to `rest` and have not moved keep what they gave; where
    they are not allowed to, it is forgotten where they stood."""

    def __init__(
        self, name: str, others: dict[str, tuple[int, str]], widths: Mapping[str, int | str], rest: Rest | None
    ):
        self.code, self.entry, self.others = Code(), Code("once"), others
        self.rest = rest
        self._block = self._rest_at = self._allowed = ""
        """The block that looks whether anything has moved, what it looks at, and whether that counts."""
        self._terminals: dict[int, str] = {}
        """Names of their unknowns, by place."""
        self.head = f"define internal i64 @{name}_abreast({PARAMETERS}, i64 %end) {{"
        self.entry.lines += [f"  %moved = alloca i{LANES}", *_rooms(widths)]
        self.given: dict[str, int | str] = {}
        """What lies abreast, and how much of it each instance has."""

    def writer(self, graph: Graph, leaf: Leaf, trusted: bool) -> Writer:
        """Of all lanes; what is trusted is evaluated one after the other."""
        assert not trusted
        return AbreastWriter(graph, self.code, leaf, self.others)

    def open(self) -> None:
        """Begins; there is one instance at least."""
        code = self.code
        code.do("%end_less_1 = sub i64 %end, 1")
        code.do("br label %loop")
        code.begin("loop")
        code.do("%k = phi i64 [ 0, %entry ], [ %k_next, %loop_end ]")
        code.do("%limited = phi i64 [ 0, %entry ], [ %limited_next, %loop_end ]")
        code.do(f"%k_next = add i64 %k, {LANES}")
        code.do("%last = icmp sge i64 %k_next, %end")
        code.do(f"store i{LANES} 0, ptr %moved")
        for lane in range(LANES):
            code.do(f"%mine_{lane} = add i64 %k, {lane}")
            code.do(f"%here_{lane} = icmp slt i64 %mine_{lane}, %end")
            code.do(f"%which_{lane} = select i1 %here_{lane}, i64 %mine_{lane}, i64 %end_less_1")
        here = "poison"  # lanes that count
        for lane in range(LANES):
            here = code.put(spelled(f"insertelement TRUTHS {here}, i1 %here_{lane}, i64 {lane}"))
        self._named("here", here, "TRUTHS")

    def place(self, name: str, base: str, kind: str, position: int, step: int | str) -> None:
        """Says where each instance's part of a stretch begins."""
        code = self.code
        if name == "values":  # they stand in lanes already
            lanes = self.entry.put(
                f"getelementptr double, ptr %w, i64 {self.entry.load(WHOLE, '%span', SPAN['abreast'])}"
            )
            code.do(f"%values_lanes = getelementptr double, ptr {lanes}, i64 {code.put(f'mul i64 %k, {step}')}")
            if self.rest is not None:
                count = self.entry.load(WHOLE, "%span", COUNT)
                self._rest_at = self.rest.begin(code, lanes, count, self.entry.put(f"add i64 0, {step}"), "%k")
            return
        start = self.entry.put(f"getelementptr {kind}, ptr {base}, i64 {self.entry.load(WHOLE, '%span', position)}")
        for lane in range(LANES):
            offset = code.put(f"mul i64 %which_{lane}, {step}")
            code.do(f"%{name}_{lane} = getelementptr {kind}, ptr {start}, i64 {offset}")
        if name in RESULTS:
            self.given[name] = step

    def terminal(self, name: str, place: int) -> None:
        """Loads the unknowns of a terminal."""
        code, addresses = self.code, []
        for lane in range(LANES):
            node = code.put(f"sext i32 {code.load('i32', f'%nodes_k_{lane}', place)} to i64")
            addresses.append(code.put(f"getelementptr double, ptr %w, i64 {node}"))
        self._named(name, gather(code, addresses))
        self._terminals[place] = name

    def look(self) -> None:
        """Goes on only where an instance has moved."""
        if self.rest is None:
            return
        code, moved = self.code, ""
        for place in self.rest.watched:
            at = code.put(f"getelementptr double, ptr {self._rest_at}, i64 {place * LANES}")
            before = code.put(spelled(f"load REALS, ptr {at}, align 8"))
            way = code.put(spelled(f"fsub REALS %{self._terminals[place]}, {before}"))
            size = code.put(spelled(f"call REALS @llvm.fabs.SUFFIX(REALS {way})"))
            far = code.put(spelled(f"fcmp ugt REALS {size}, splat (double {real(STANDS)})"))
            moved = code.put(spelled(f"or TRUTHS {moved}, {far}")) if moved else far
        any_moved = code.put(spelled(f"call i1 @any_abreast(TRUTHS {moved})"))
        self._allowed = self.entry.put(f"icmp ne i64 {self.entry.put(f'and i64 %wants, {REST}')}, 0")
        same = code.put(f"xor i1 {any_moved}, true")
        self._block = code.block
        code.do(f"br i1 {code.put(f'and i1 {same}, {self._allowed}')}, label %loop_end, label %evaluate")
        code.begin("evaluate")

    def number(self, name: str, stretch: str, slot: int) -> None:
        """Loads a number of each instance."""
        code = self.code
        if stretch != "values":
            self._named(name, gather(code, behind(code, REAL, stretch, slot)))
            return
        place = code.put(f"getelementptr double, ptr %values_lanes, i64 {slot * LANES}")
        code.do(f"%{name} = " + spelled(f"load REALS, ptr {place}, align 8"))

    def _named(self, name: str, value: str, type_: str = "REALS") -> None:
        self.code.do(f"%{name} = " + spelled(f"bitcast {type_} {value} to {type_}"))

    def setting(self, name: str, value: str) -> None:
        """Names what is the same for all instances."""
        first = self.entry.put(spelled(f"insertelement REALS poison, double {self.entry.put(value)}, i64 0"))
        self.entry.do(
            f"%{name} = " + spelled(f"shufflevector REALS {first}, REALS poison, <LANES x i32> zeroinitializer")
        )

    def store(self, value: str, stretch: str, place: int) -> None:
        """Writes a number of each instance."""
        lanes = self.code.put(f"getelementptr double, ptr %{stretch}_lanes, i64 {place * LANES}")
        self.code.do(spelled(f"store REALS {value}, ptr {lanes}, align 64"))

    def close(self) -> None:
        """Ends."""
        code, word = self.code, f"i{LANES}"
        for name, step in self.given.items():
            rows = ", ".join(f"ptr %{name}_{lane}" for lane in range(LANES))
            code.do(f"call void @from_lanes({rows}, i64 {step}, ptr %{name}_lanes)")
        moved = code.put(f"load {word}, ptr %moved")
        count = code.put(f"zext {word} {code.put(f'call {word} @llvm.ctpop.{word}({word} {moved})')} to i64")
        if self.rest is not None:
            self._remember(count)
        before = code.block
        code.do("br label %loop_end")
        code.begin("loop_end")
        if self._block:
            count = code.put(f"phi i64 [ {count}, %{before} ], [ 0, %{self._block} ]")
        code.do(f"%limited_next = add i64 %limited, {count}")
        code.do("br i1 %last, label %done, label %loop")
        code.begin("done")
        code.do("ret i64 %limited_next")

    def _remember(self, limited: str) -> None:
        code, rest = self.code, self.rest
        assert rest is not None
        sure = code.put(f"and i1 {self._allowed}, {code.put(f'icmp eq i64 {limited}, 0')}")
        for place in rest.watched:
            at = code.put(f"getelementptr double, ptr {self._rest_at}, i64 {place * LANES}")
            nan = f"REALS splat (double {real(math.nan)})"
            kept = code.put(spelled(f"select i1 {sure}, REALS %{self._terminals[place]}, {nan}"))
            code.do(spelled(f"store REALS {kept}, ptr {at}, align 8"))


def _rooms(widths: Mapping[str, int | str]) -> list[str]:
    """Room for results in lanes; what nothing is written to is nothing."""
    lines = []
    for name in RESULTS:
        if name not in widths:
            continue
        lines += [
            f"  %{name}_lanes = alloca <{LANES} x double>, i64 {widths[name]}, align 64",
            f"  call void @llvm.memset.p0.i64(ptr %{name}_lanes, i8 0, i64 {8 * LANES * int(widths[name])}, i1 false)",
        ]
    return lines


def prepared(rest: Rest | None) -> list[str]:
    """The function that puts the values of all instances into lanes; lanes that are left over have those of the last one."""
    lines = [
        f"define internal void @prepare({PARAMETERS}) {{", "entry:", "  %size = add i64 0, VALUES",
        f"  %count_at = getelementptr i64, ptr %span, i64 {COUNT}", "  %count = load i64, ptr %count_at",
        "  %end = sub i64 %count, 1",
        f"  %rows_at = getelementptr i64, ptr %span, i64 {SPAN['value']}", "  %rows_start = load i64, ptr %rows_at",
        f"  %lanes_at = getelementptr i64, ptr %span, i64 {SPAN['abreast']}", "  %lanes_start = load i64, ptr %lanes_at",
        "  %some = icmp sgt i64 %count, 0", "  br i1 %some, label %loop, label %done", "loop:",
        "  %k = phi i64 [ 0, %entry ], [ %k_next, %loop ]", f"  %k_next = add i64 %k, {LANES}",
    ]  # fmt: skip
    for lane in range(LANES):
        lines += [
            f"  %mine_{lane} = add i64 %k, {lane}", f"  %here_{lane} = icmp slt i64 %mine_{lane}, %count",
            f"  %which_{lane} = select i1 %here_{lane}, i64 %mine_{lane}, i64 %end",
            f"  %skip_{lane} = mul i64 %which_{lane}, %size", f"  %from_{lane} = add i64 %rows_start, %skip_{lane}",
            f"  %row_{lane} = getelementptr double, ptr %w, i64 %from_{lane}",
        ]  # fmt: skip
    rows = ", ".join(f"ptr %row_{lane}" for lane in range(LANES))
    code = Code("rest")
    if rest is not None:
        rest.forget(code, rest.begin(code, "%all_lanes", "%count", "%size", "%k"))
    return [
        *lines, "  %all_lanes = getelementptr double, ptr %w, i64 %lanes_start", *code.lines, "  %skip = mul i64 %k, %size",
        "  %to = add i64 %lanes_start, %skip", "  %lanes = getelementptr double, ptr %w, i64 %to",
        f"  call void @to_lanes({rows}, i64 %size, ptr %lanes)", "  %more = icmp slt i64 %k_next, %count",
        "  br i1 %more, label %loop, label %done", "done:", "  ret void", "}",
    ]  # fmt: skip
