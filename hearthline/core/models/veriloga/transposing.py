"""From rows of numbers, one for each instance, to vectors with a lane for each instance, and back; in LLVM's language.

Functions of their own, and loops: written out for every number they would be most of a kernel, and of the time that it takes
to make it.
"""

from __future__ import annotations

from hearthline.core.models.layout import LANES
from hearthline.core.models.veriloga.abreast_functions import REALS

ROWS = ", ".join(f"ptr %r{lane}" for lane in range(LANES))


def _name(stage: int, k: int) -> str:
    return f"%s{stage}_{k}"


def _transposed() -> list[str]:
    """Rows `%s0_0`, `%s0_1`, ... as columns: each stage swaps blocks of half the size."""
    lines, stage, size = [], 0, LANES // 2
    while size:
        for k in range(LANES):
            if k & size:
                continue
            a, b = _name(stage, k), _name(stage, k + size)
            low = [lane if not lane & size else LANES + lane - size for lane in range(LANES)]
            for target, picks in ((k, low), (k + size, [lane + size for lane in low])):
                mask = ", ".join(f"i32 {lane}" for lane in picks)
                name = _name(stage + 1, target)
                lines.append(f"  {name} = shufflevector {REALS} {a}, {REALS} {b}, <{LANES} x i32> <{mask}>")
        stage, size = stage + 1, size // 2
    return lines


def _loop(name: str, block: list[str], single: list[str]) -> str:
    """A function of rows, how many numbers each has, and the lanes: whole blocks, and then number by number."""
    return "\n".join([
        f"define internal void @{name}({ROWS}, i64 %count, ptr noalias %lanes) noinline {{", "entry:",
        f"  %whole = and i64 %count, -{LANES}", "  %any = icmp sgt i64 %whole, 0", "  br i1 %any, label %block, label %rest",
        "block:", "  %b = phi i64 [ 0, %entry ], [ %b_next, %block ]", f"  %b_lanes = mul i64 %b, {LANES}",
        *block, f"  %b_next = add i64 %b, {LANES}", "  %more = icmp slt i64 %b_next, %whole",
        "  br i1 %more, label %block, label %rest",
        "rest:", "  %left = icmp slt i64 %whole, %count", "  br i1 %left, label %single, label %done",
        "single:", "  %k = phi i64 [ %whole, %rest ], [ %k_next, %single ]", f"  %k_lanes = mul i64 %k, {LANES}",
        "  %at = getelementptr double, ptr %lanes, i64 %k_lanes",
        *single, "  %k_next = add i64 %k, 1", "  %again = icmp slt i64 %k_next, %count",
        "  br i1 %again, label %single, label %done", "done:", "  ret void", "}",
    ])  # fmt: skip


def to_lanes() -> str:
    """Numbers of rows, as vectors."""
    stages = LANES.bit_length() - 1
    block, single, before = [], [], "poison"
    for lane in range(LANES):
        block += [
            f"  %b{lane} = getelementptr double, ptr %r{lane}, i64 %b",
            f"  {_name(0, lane)} = load {REALS}, ptr %b{lane}, align 8",
        ]
        single += [
            f"  %k{lane} = getelementptr double, ptr %r{lane}, i64 %k",
            f"  %x{lane} = load double, ptr %k{lane}",
            f"  %v{lane} = insertelement {REALS} {before}, double %x{lane}, i64 {lane}",
        ]
        before = f"%v{lane}"
    block += _transposed()
    for k in range(LANES):
        block += [
            f"  %o{k}_at = add i64 %b_lanes, {k * LANES}",
            f"  %o{k} = getelementptr double, ptr %lanes, i64 %o{k}_at",
            f"  store {REALS} {_name(stages, k)}, ptr %o{k}, align 8",
        ]
    return _loop("to_lanes", block, [*single, f"  store {REALS} {before}, ptr %at, align 8"])


def from_lanes() -> str:
    """Vectors, as numbers of rows."""
    stages = LANES.bit_length() - 1
    block, single = [], [f"  %v = load {REALS}, ptr %at, align 8"]
    for k in range(LANES):
        block += [
            f"  %i{k}_at = add i64 %b_lanes, {k * LANES}",
            f"  %i{k} = getelementptr double, ptr %lanes, i64 %i{k}_at",
            f"  {_name(0, k)} = load {REALS}, ptr %i{k}, align 8",
        ]
    block += _transposed()
    for lane in range(LANES):
        block += [
            f"  %b{lane} = getelementptr double, ptr %r{lane}, i64 %b",
            f"  store {REALS} {_name(stages, lane)}, ptr %b{lane}, align 8",
        ]
        single += [
            f"  %k{lane} = getelementptr double, ptr %r{lane}, i64 %k",
            f"  %x{lane} = extractelement {REALS} %v, i64 {lane}",
            f"  store double %x{lane}, ptr %k{lane}",
        ]
    return _loop("from_lanes", block, single)
