"""Two commits measured in turn, each in a tree of its own, so that a drift of the machine hits both."""

from __future__ import annotations

import json
import os
import statistics
import subprocess
import sys
import tempfile
from pathlib import Path

from benchmarks.row import write

ROOT = Path(__file__).resolve().parents[1]
LEAST = 0.03
"""A smaller change is none, however quiet the machine."""


def compare(old: str, new: str, words: list[str], rounds: int) -> int:
    """Prints each row of both, and says which moved beyond the noise of the rounds. Gives back 1 where one became slower."""
    with tempfile.TemporaryDirectory() as scratch:
        trees = {}
        for name in (old, new):
            tree = Path(scratch) / f"tree{len(trees)}"
            subprocess.run(
                ["git", "worktree", "add", "--detach", str(tree), name], cwd=ROOT, check=True, capture_output=True
            )
            trees[name] = tree
        try:
            taken = {name: [] for name in trees}
            for turn in range(rounds + 1):  # the first only makes what is compiled
                for name, tree in trees.items():
                    found = _measured(tree, words)
                    if turn:
                        taken[name].append(found)
                    print(f"round {turn} of {rounds}: {name}", file=sys.stderr, flush=True)
        finally:
            for tree in trees.values():
                subprocess.run(["git", "worktree", "remove", "--force", str(tree)], cwd=ROOT, capture_output=True)
    return _say(taken[old], taken[new])


def _measured(tree: Path, words: list[str]) -> dict:
    """The rows of one tree, with its own sources."""
    environment = {**os.environ, "PYTHONPATH": str(tree), "QT_QPA_PLATFORM": "offscreen"}
    done = subprocess.run(
        [sys.executable, "-m", "benchmarks", "--json", *words],
        cwd=tree,
        env=environment,
        capture_output=True,
        text=True,
    )
    if done.returncode:
        sys.exit(f"{tree}: {done.stderr.strip().splitlines()[-1]}")
    return json.loads(done.stdout.strip().splitlines()[-1])


def _say(old: list[dict], new: list[dict]) -> int:
    slower = 0
    for figure in [figure for figure in new[0] if figure in old[0]]:
        before, after = ([one[figure][0] for one in runs] for runs in (old, new))
        ratios = [b / a for a, b in zip(before, after, strict=True)]
        middle = statistics.median(ratios)
        noise = max(LEAST, 2.0 * statistics.median(abs(r - middle) for r in ratios))
        word = "same" if abs(middle - 1.0) <= noise else "slower" if middle > 1.0 else "faster"
        slower += word == "slower"
        unit = new[0][figure][2]
        a, b = write(statistics.median(before), unit), write(statistics.median(after), unit)
        print(f"{word:<7} {middle:>6.2f} ± {noise:.2f}  {a:>9} → {b:>9}  {figure}")
    return 1 if slower else 0
