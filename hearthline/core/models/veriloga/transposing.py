"""From rows of numbers, one for each instance, to vectors with a lane for each instance, and back; in LLVM's language.

Functions of their own, and loops: written out for every number they would be most of a kernel, and of the time that it takes
to make it.
"""

from __future__ import annotations

from hearthline.core.models.layout import LANES
from hearthline.core.models.veriloga.abreast_functions import REALS

STAGES = LANES.bit_length() - 1
"""Of a transposition."""
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
    """A function of rows, how many numbers each has, and the lanes: whole blocks, and then number by number. In a block
    `%row0`, ... and `%lanes0`, ... are where to read and write; of a single number `%one0`, ... and `%at`."""
    blocks, ones = [], []
    for k in range(LANES):
        blocks += [
            f"  %row{k} = getelementptr double, ptr %r{k}, i64 %b",
            f"  %place{k} = add i64 %b_lanes, {k * LANES}",
            f"  %lanes{k} = getelementptr double, ptr %lanes, i64 %place{k}",
        ]
        ones.append(f"  %one{k} = getelementptr double, ptr %r{k}, i64 %k")
    return "\n".join([
        f"define internal void @{name}({ROWS}, i64 %count, ptr noalias %lanes) noinline {{", "entry:",
        f"  %whole = and i64 %count, -{LANES}", "  %any = icmp sgt i64 %whole, 0", "  br i1 %any, label %block, label %rest",
        "block:", "  %b = phi i64 [ 0, %entry ], [ %b_next, %block ]", f"  %b_lanes = mul i64 %b, {LANES}",
        *blocks, *block, f"  %b_next = add i64 %b, {LANES}", "  %more = icmp slt i64 %b_next, %whole",
        "  br i1 %more, label %block, label %rest",
        "rest:", "  %left = icmp slt i64 %whole, %count", "  br i1 %left, label %single, label %done",
        "single:", "  %k = phi i64 [ %whole, %rest ], [ %k_next, %single ]", f"  %k_lanes = mul i64 %k, {LANES}",
        "  %at = getelementptr double, ptr %lanes, i64 %k_lanes",
        *ones, *single, "  %k_next = add i64 %k, 1", "  %again = icmp slt i64 %k_next, %count",
        "  br i1 %again, label %single, label %done", "done:", "  ret void", "}",
    ])  # fmt: skip


def to_lanes() -> str:
    """Numbers of rows, as vectors."""
    block = [f"  {_name(0, k)} = load {REALS}, ptr %row{k}, align 8" for k in range(LANES)] + _transposed()
    block += [f"  store {REALS} {_name(STAGES, k)}, ptr %lanes{k}, align 8" for k in range(LANES)]
    single, before = [], "poison"
    for lane in range(LANES):
        single += [
            f"  %x{lane} = load double, ptr %one{lane}",
            f"  %v{lane} = insertelement {REALS} {before}, double %x{lane}, i64 {lane}",
        ]
        before = f"%v{lane}"
    return _loop("to_lanes", block, [*single, f"  store {REALS} {before}, ptr %at, align 8"])


def from_lanes() -> str:
    """Vectors, as numbers of rows."""
    block = [f"  {_name(0, k)} = load {REALS}, ptr %lanes{k}, align 8" for k in range(LANES)] + _transposed()
    block += [f"  store {REALS} {_name(STAGES, k)}, ptr %row{k}, align 8" for k in range(LANES)]
    single = [f"  %v = load {REALS}, ptr %at, align 8"]
    for lane in range(LANES):
        single += [
            f"  %x{lane} = extractelement {REALS} %v, i64 {lane}",
            f"  store double %x{lane}, ptr %one{lane}",
        ]
    return _loop("from_lanes", block, single)
