"""Prints one table: figure, ours, floor, ratio, target."""

from __future__ import annotations

from benchmarks import analyses, engine, models, rf, spread, stop, window
from benchmarks.row import write


def main() -> None:
    """All figures that exist so far; how each is held against its target is said, and nothing fails on time."""
    rows = [*engine.rows(), *analyses.rows(), *models.rows(), *rf.rows(), *spread.rows(), *stop.rows(), *window.rows()]
    width = max(len(row.figure) for row in rows)
    print(f"{'figure':<{width}}  {'ours':>9}  {'floor':>9}  {'ratio':>6}  {'target':>6}")
    for row in rows:
        mark = "" if row.ratio <= row.target else "  over"
        ours, floor = write(row.ours, row.unit), write(row.floor, row.unit)
        figures = f"{ours:>9}  {floor:>9}  {row.ratio:>6.2f}  {row.target:>6.2f}{mark}"
        print(f"{row.figure:<{width}}  {figures}   ({row.against})")


if __name__ == "__main__":
    main()
