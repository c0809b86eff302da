"""Factors of small matrices as straight code: for one pattern every product is written out, with no index left to look up.

It does what `sparse.refill` and `sparse.solve` do, operation by operation in the same order, so that it gives the same numbers
to the last bit; a march that goes on for long takes it as soon as it has been made beside it.
"""

from __future__ import annotations

from collections.abc import Callable
from threading import Lock, Thread

import numpy as np

from hearthline.core.compiled.language import Code, real
from hearthline.core.compiled.machine import addresses_in, to_object
from hearthline.core.engine.linear import sparse
from hearthline.core.engine.linear.sparse import DECAYED, REPIVOT, TINY, LuRoom, Steps

MOST_UNKNOWNS, MOST_PRODUCTS = 60, 3000
"""Of a matrix whose factors are written out: beyond them looking up is not what takes the time."""
MOST_PATTERNS = 100
"""That a process has code for: it stays as long as the process does."""

Addresses = tuple[int, int]

_KNOWN: dict[bytes, Addresses | None] = {}
"""Refill and solution by pattern; None while they are being made, and where they cannot be."""
_LOCK = Lock()


def offer(room: LuRoom) -> None:
    """Gives the factors their straight code where there is some for their pattern; otherwise has it made, for later."""
    if room.size > MOST_UNKNOWNS or room.whole[sparse.HAS_PATTERN] == 0 or room.whole[sparse.REFILL] != 0:
        return
    steps = sparse.steps_of(room)
    key = b"".join(one.tobytes() for one in steps)
    with _LOCK:
        known, fresh = _KNOWN.get(key), key not in _KNOWN and len(_KNOWN) < MOST_PATTERNS
        if fresh:
            _KNOWN[key] = None
    if known is not None:
        room.whole[sparse.REFILL], room.whole[sparse.SOLUTION] = known
    elif fresh and _products(steps) <= MOST_PRODUCTS:
        Thread(target=_make, args=(key, steps), daemon=True).start()


def _make(key: bytes, steps: Steps) -> None:
    _KNOWN[key] = made(steps)


def made(steps: Steps) -> Addresses:
    """The addresses of both functions."""
    first, second = addresses_in(to_object(f"{_refill(steps)}\n{_solution(steps)}"), "refill", "solution")
    return first, second


def _products(steps: Steps) -> int:
    lower = np.diff(steps.lower_starts.astype(int))
    return int(lower[steps.upper_rows.astype(int)].sum())


def _less(code: Code, taken_from: str | None, a: str, b: str) -> str:
    """A product taken from a number, or from nothing."""
    return code.put(f"fsub double {taken_from or real(0.0)}, {code.put(f'fmul double {a}, {b}')}")


def _size(code: Code, value: str) -> str:
    return code.put(f"call double @llvm.fabs.f64(double {value})")


def _ranges(starts: np.ndarray) -> Callable[[int], range]:
    return lambda k: range(int(starts[k]), int(starts[k + 1]))


def _refill(steps: Steps) -> str:
    """As `sparse.refill`: 0, or REPIVOT where a pivot has decayed."""
    code = Code()
    columns, below, above = (_ranges(one) for one in (steps.starts, steps.lower_starts, steps.upper_starts))
    lower: dict[int, str] = {}
    for k in range(len(steps.starts) - 1):
        work = {int(steps.entries[p]): code.load("double", "%values", p) for p in columns(k)}
        for p in above(k):
            step = int(steps.upper_rows[p])
            amount = work.pop(step, real(0.0))
            code.store("double", amount, "%upper", p)
            for q in below(step):
                row = int(steps.lower_rows[q])
                work[row] = _less(code, work.get(row), lower[q], amount)
        pivot = work.pop(k, real(0.0))
        some = code.put(f"fcmp ogt double {_size(code, pivot)}, {real(TINY)}")
        code.lines += [f"  br i1 {some}, label %good{k}, label %decayed", f"good{k}:"]
        inverse = code.put(f"fdiv double {real(1.0)}, {pivot}")
        largest = real(0.0)
        for q in below(k):
            lower[q] = code.put(f"fmul double {work.pop(int(steps.lower_rows[q]), real(0.0))}, {inverse}")
            code.store("double", lower[q], "%lower", q)
            # what is not a number stays
            largest = code.put(f"call double @llvm.maximum.f64(double {largest}, double {_size(code, lower[q])})")
        code.store("double", pivot, "%pivots", k)
        share = code.put(f"fmul double {largest}, {real(DECAYED)}")
        fine = code.put(f"fcmp olt double {share}, {real(1.0)}")
        code.lines += [f"  br i1 {fine}, label %kept{k}, label %decayed", f"kept{k}:"]
    return "\n".join([
        "declare double @llvm.fabs.f64(double)", "declare double @llvm.maximum.f64(double, double)",
        "define i64 @refill(ptr noalias %values, ptr noalias %lower, ptr noalias %upper, ptr noalias %pivots) {", *code.lines,
        "  ret i64 0", "decayed:", f"  ret i64 {REPIVOT}", "}",
    ])  # fmt: skip


def _solution(steps: Steps) -> str:
    """As `sparse.solve`."""
    code = Code()
    below, above = _ranges(steps.lower_starts), _ranges(steps.upper_starts)
    count = len(steps.starts) - 1
    y = [code.load("double", "%right", int(steps.row_at[k])) for k in range(count)]
    for k in range(count):
        for q in below(k):
            row = int(steps.lower_rows[q])
            y[row] = _less(code, y[row], code.load("double", "%lower", q), y[k])
    for k in reversed(range(count)):
        amount = code.put(f"fdiv double {y[k]}, {code.load('double', '%pivots', k)}")
        code.store("double", amount, "%right", int(steps.column_at[k]))
        for p in above(k):
            row = int(steps.upper_rows[p])
            y[row] = _less(code, y[row], code.load("double", "%upper", p), amount)
    code.store("double", real(0.0), "%right", 0)
    return "\n".join([
        "define i64 @solution(ptr noalias %right, ptr noalias %lower, ptr noalias %upper, ptr noalias %pivots) {",
        *code.lines, "  ret i64 0", "}",
    ])  # fmt: skip
