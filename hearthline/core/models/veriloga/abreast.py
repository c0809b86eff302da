"""Writes the same values for several instances at once: each is a vector with a lane for each instance.

What stands under a condition is computed where it holds in any lane, and counts where it does: no lane stops another one.
"""

from __future__ import annotations

from collections.abc import Callable

from hearthline.core.compiled.language import Code
from hearthline.core.models.layout import LANES
from hearthline.core.models.veriloga.abreast_functions import (
    NATIVE,
    OWN,
    SUFFIX,
    functions_abreast,
    one_after_the_other,
    spelled,
    stem_of,
)  # fmt: skip
from hearthline.core.models.veriloga.code import REAL, TRUTH, WHOLE, Writer, kind
from hearthline.core.models.veriloga.graph import Graph
from hearthline.core.models.veriloga.node import Branching, Loop, Node
from hearthline.core.models.veriloga.transposing import from_lanes, to_lanes

TYPES = {what: f"<{LANES} x {what}>" for what in (REAL, WHOLE, TRUTH)}
ALL = "splat (i1 true)"


class AbreastWriter(Writer):
    """Writes for `LANES` instances. `others` collects functions that have to be called for one lane after the other."""

    def __init__(
        self, graph: Graph, code: Code, leaf: Callable[[Node], str | None], others: dict[str, tuple[int, str]]
    ) -> None:
        super().__init__(graph, code, leaf)
        self.others = others
        self.mask: str | None = None
        """In which lanes what is written now counts."""

    def type(self, what: str) -> str:
        """A vector of a kind."""
        return TYPES[what]

    def everywhere(self, what: str, literal: str) -> str:
        """The same in all lanes."""
        return f"splat ({what} {literal})"

    def to_whole(self, name: str) -> str:
        """Real numbers without what stands behind the point."""
        return self.code.put(spelled(f"call WHOLES @llvm.fptosi.sat.vLANESi64.SUFFIX(REALS {name})"))

    def call(self, symbol: str, *arguments: str, what: str = REAL) -> str:
        """What a function gives in each lane."""
        stem = stem_of(symbol)
        if stem == "exp":
            arguments = (*arguments, "zeroinitializer")
        elif stem in ("pow", "power_slope") and self.mask is not None:
            # lanes that do not count may have any base, and odd ones take long
            arguments = (self.select(self.mask, arguments[0], self.number(1.0), REAL), *arguments[1:])
        elif stem not in OWN | NATIVE:
            self.others[symbol] = (len(arguments), what)
        return super().call(symbol, *arguments, what=what)

    def named(self, symbol: str) -> str:
        """Of all lanes."""
        stem = stem_of(symbol)
        return f"llvm.{stem}.{SUFFIX}" if stem in NATIVE else f"{stem}_abreast"

    def _branching(self, branching: Branching) -> None:
        code, condition, phis = self.code, self.value(branching.condition, TRUTH), self.phis(branching)
        outside = self.mask
        opposite = code.put(f"xor {TYPES[TRUTH]} {condition}, {ALL}")
        sides = []
        for k, region in enumerate((branching.yes, branching.no)):
            if not self.lives(region):
                sides.append([self.value(phi.args[k + 1], kind(phi)) for phi in phis])
                continue
            self.mask = self._both(outside, (condition, opposite)[k])
            before, some, after = code.block, code.name("some"), code.name("after")
            code.do(
                f"br i1 {code.put(spelled(f'call i1 @any_abreast(TRUTHS {self.mask})'))}, label %{some}, label %{after}"
            )
            code.begin(some)
            self.write(region)
            values = [self.value(phi.args[k + 1], kind(phi)) for phi in phis]
            end = code.block
            code.do(f"br label %{after}")
            code.begin(after)
            self.mask = outside
            sides.append([
                code.put(f"phi {self.type(kind(phi))} [ zeroinitializer, %{before} ], [ {value}, %{end} ]")
                for phi, value in zip(phis, values, strict=True)
            ])  # fmt: skip
        for phi, yes, no in zip(phis, *sides, strict=True):
            self.names[phi.number] = self.select(condition, yes, no, kind(phi))

    def _both(self, outside: str | None, condition: str) -> str:
        return condition if outside is None else self.code.put(f"and {TYPES[TRUTH]} {outside}, {condition}")

    def _loop(self, loop: Loop) -> None:
        raise AssertionError("what has loops is written for one instance after the other")

    def remember(self, place: int, at: str, moved: str) -> None:
        """Where the conditions hold."""
        code = self.code
        addresses = behind(code, REAL, "memory", place)
        if self.mask is not None:
            at = self.select(self.mask, at, gather(code, addresses), REAL)
        scatter(code, at, addresses)
        counted = code.put(f"and {TYPES[TRUTH]} {moved}, {self._both(self.mask, '%here')}")
        word = code.put(f"bitcast {TYPES[TRUTH]} {counted} to i{LANES}")
        before = code.put(f"load i{LANES}, ptr %moved")
        code.do(f"store i{LANES} {code.put(f'or i{LANES} {before}, {word}')}, ptr %moved")


def gather(code: Code, addresses: list[str]) -> str:
    """The real number at each address. Load by load: processors gather no faster, and some much slower."""
    found = "poison"
    for lane, address in enumerate(addresses):
        one = code.put(f"load double, ptr {address}")
        found = code.put(f"insertelement {TYPES[REAL]} {found}, double {one}, i64 {lane}")
    return found


def scatter(code: Code, value: str, addresses: list[str]) -> None:
    """Writes one real number at each address."""
    for lane, address in enumerate(addresses):
        one = code.put(f"extractelement {TYPES[REAL]} {value}, i64 {lane}")
        code.do(f"store double {one}, ptr {address}")


def behind(code: Code, what: str, stretch: str, index: int) -> list[str]:
    """Addresses of one entry of each instance's part of a stretch."""
    return [code.put(f"getelementptr {what}, ptr %{stretch}_{lane}, i64 {index}") for lane in range(LANES)]


def preamble_abreast(others: dict[str, tuple[int, str]]) -> str:
    """What vectors of instances may call."""
    made = [one_after_the_other(symbol, arity, what) for symbol, (arity, what) in others.items()]
    return "\n".join([functions_abreast(), to_lanes(), from_lanes(), *made])
