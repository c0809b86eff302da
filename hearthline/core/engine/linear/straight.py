"""Factors of small matrices as straight code: for one pattern every product is written out, with no index left to look up.

It does what `sparse.refill` and `sparse.solve` do, operation by operation in the same order, so that it gives the same numbers
to the last bit; a march that goes on for long takes it as soon as it has been made beside it.
"""

from __future__ import annotations

from collections.abc import Callable
from threading import Lock, Thread

import numpy as np

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


class _Text:
    """Lines of a function, with fresh names."""

    def __init__(self) -> None:
        self.lines: list[str] = []

    def put(self, text: str) -> str:
        name = f"%t{len(self.lines)}"
        self.lines.append(f"  {name} = {text}")
        return name

    def load(self, base: str, index: int) -> str:
        return self.put(f"load double, ptr {self.put(f'getelementptr double, ptr %{base}, i64 {index}')}")

    def store(self, value: str, base: str, index: int) -> None:
        self.lines.append(f"  store double {value}, ptr {self.put(f'getelementptr double, ptr %{base}, i64 {index}')}")

    def less(self, taken_from: str | None, a: str, b: str) -> str:
        """A product taken from a number, or from nothing."""
        return self.put(f"fsub double {taken_from or _real(0.0)}, {self.put(f'fmul double {a}, {b}')}")

    def size(self, value: str) -> str:
        return self.put(f"call double @llvm.fabs.f64(double {value})")


def _real(value: float) -> str:
    return f"0x{np.float64(value).view(np.uint64):016X}"


def _ranges(starts: np.ndarray) -> Callable[[int], range]:
    return lambda k: range(int(starts[k]), int(starts[k + 1]))


def _refill(steps: Steps) -> str:
    """As `sparse.refill`: 0, or REPIVOT where a pivot has decayed."""
    text = _Text()
    columns, below, above = (_ranges(one) for one in (steps.starts, steps.lower_starts, steps.upper_starts))
    lower: dict[int, str] = {}
    for k in range(len(steps.starts) - 1):
        work = {int(steps.entries[p]): text.load("values", p) for p in columns(k)}
        for p in above(k):
            step = int(steps.upper_rows[p])
            amount = work.pop(step, _real(0.0))
            text.store(amount, "upper", p)
            for q in below(step):
                row = int(steps.lower_rows[q])
                work[row] = text.less(work.get(row), lower[q], amount)
        pivot = work.pop(k, _real(0.0))
        some = text.put(f"fcmp ogt double {text.size(pivot)}, {_real(TINY)}")
        text.lines += [f"  br i1 {some}, label %good{k}, label %decayed", f"good{k}:"]
        inverse = text.put(f"fdiv double {_real(1.0)}, {pivot}")
        largest = _real(0.0)
        for q in below(k):
            lower[q] = text.put(f"fmul double {work.pop(int(steps.lower_rows[q]), _real(0.0))}, {inverse}")
            text.store(lower[q], "lower", q)
            # what is not a number stays
            largest = text.put(f"call double @llvm.maximum.f64(double {largest}, double {text.size(lower[q])})")
        text.store(pivot, "pivots", k)
        share = text.put(f"fmul double {largest}, {_real(DECAYED)}")
        fine = text.put(f"fcmp olt double {share}, {_real(1.0)}")
        text.lines += [f"  br i1 {fine}, label %kept{k}, label %decayed", f"kept{k}:"]
    return "\n".join([
        "declare double @llvm.fabs.f64(double)", "declare double @llvm.maximum.f64(double, double)",
        "define i64 @refill(ptr noalias %values, ptr noalias %lower, ptr noalias %upper, ptr noalias %pivots) {", *text.lines,
        "  ret i64 0", "decayed:", f"  ret i64 {REPIVOT}", "}",
    ])  # fmt: skip


def _solution(steps: Steps) -> str:
    """As `sparse.solve`."""
    text = _Text()
    below, above = _ranges(steps.lower_starts), _ranges(steps.upper_starts)
    count = len(steps.starts) - 1
    y = [text.load("right", int(steps.row_at[k])) for k in range(count)]
    for k in range(count):
        for q in below(k):
            row = int(steps.lower_rows[q])
            y[row] = text.less(y[row], text.load("lower", q), y[k])
    for k in reversed(range(count)):
        amount = text.put(f"fdiv double {y[k]}, {text.load('pivots', k)}")
        text.store(amount, "right", int(steps.column_at[k]))
        for p in above(k):
            row = int(steps.upper_rows[p])
            y[row] = text.less(y[row], text.load("upper", p), amount)
    text.store(_real(0.0), "right", 0)
    return "\n".join([
        "define i64 @solution(ptr noalias %right, ptr noalias %lower, ptr noalias %upper, ptr noalias %pivots) {",
        *text.lines, "  ret i64 0", "}",
    ])  # fmt: skip
