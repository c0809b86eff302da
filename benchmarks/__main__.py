"""Prints one table: figure, ours, floor, ratio, target, spread of repeats, state of the machine; and keeps it by commit.

python -m benchmarks [WORD ...]            all rows, or those of files or figures that hold a word
python -m benchmarks --compare OLD NEW     two commits in turn, and which rows moved beyond the noise
python -m benchmarks --page                the page with the curves, from what is kept
"""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Iterator
from importlib import import_module

from benchmarks import history
from benchmarks.compare import compare
from benchmarks.row import Row, machine_state, write

FILES = ("engine", "lanes", "analyses", "models", "rf", "periodic", "fields", "spread", "large", "stop", "window")


def measured(words: list[str]) -> Iterator[tuple[Row, float]]:
    """Rows with the state of the machine after each file; a word picks whole files, or rows by their figure."""
    files = [name for name in FILES if name in words] or list(FILES)
    others = [word for word in words if word not in FILES]
    for name in files:
        rows = [row for row in import_module(f"benchmarks.{name}").rows() if _wanted(row, others)]
        state = machine_state()
        yield from ((row, state) for row in rows)


def _wanted(row: Row, words: list[str]) -> bool:
    return not words or any(word.lower() in row.figure.lower() for word in words)


def table(rows: list[tuple[Row, float]], quickest: float) -> Iterator[str]:
    """The lines of the table; how each is held against its target is said, and nothing fails on time."""
    width = max((len(row.figure) for row, _ in rows), default=10)
    yield (f"{'figure':<{width}}  {'ours':>9}  {'floor':>9}  {'ratio':>6}  {'target':>6}  {'spread':>6}  {'state':>5}")
    for row, state in rows:
        mark = "" if row.ratio <= row.target else "  over"
        ours, floor = write(row.ours, row.unit), write(row.floor, row.unit)
        spread = f"{100 * row.spread:.0f} %" if row.spread else ""
        figures = (
            f"{ours:>9}  {floor:>9}  {row.ratio:>6.2f}  {row.target:>6.2f}  {spread:>6}  {state / quickest:>5.2f}{mark}"
        )
        yield f"{row.figure:<{width}}  {figures}   ({row.against})"


def main() -> None:
    """See above."""
    parser = argparse.ArgumentParser("benchmarks")
    parser.add_argument("words", nargs="*")
    parser.add_argument("--compare", nargs=2, metavar=("OLD", "NEW"))
    parser.add_argument("--rounds", type=int, default=5)
    parser.add_argument("--page", action="store_true")
    parser.add_argument("--json", action="store_true")
    options = parser.parse_args()
    if options.page:
        history.write_page()
        return
    if options.compare:
        sys.exit(compare(*options.compare, options.words, options.rounds))
    rows = list(measured(options.words))
    if options.json:
        print(json.dumps({row.figure: [row.ours, row.floor, row.unit] for row, _ in rows}))
        return
    quickest = min([*(state for _, state in rows), *history.states()], default=1.0)
    print("\n".join(table(rows, quickest)))
    if not options.words:
        history.keep(rows)
        history.write_page()


if __name__ == "__main__":
    main()
