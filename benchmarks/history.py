"""Results by commit: a line each in `benchmarks/history.jsonl`, and a page with their curves."""

from __future__ import annotations

import html
import json
import subprocess
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path

from benchmarks.row import Row, write

HERE = Path(__file__).resolve().parent
FILE, PAGE = HERE / "history.jsonl", HERE.parent / "docs" / "benchmarks.html"
WIDE, HIGH = 260, 60


def commit() -> str:
    """What the sources are, with a + where they are changed."""
    name = subprocess.run(
        ["git", "rev-parse", "--short", "HEAD"], cwd=HERE, capture_output=True, text=True
    ).stdout.strip()
    changed = subprocess.run(["git", "status", "--porcelain", "-uno"], cwd=HERE, capture_output=True, text=True).stdout
    return f"{name}{'+' if changed.strip() else ''}"


def entries() -> list[dict]:
    """All that is kept, the oldest first."""
    if not FILE.exists():
        return []
    return [json.loads(line) for line in FILE.read_text(encoding="utf-8").splitlines() if line.strip()]


def states() -> Iterator[float]:
    """Of the machine, at each row."""
    for entry in entries():
        yield from (row["state"] for row in entry["rows"].values())


def keep(rows: list[tuple[Row, float]]) -> None:
    """One more line."""
    said = {
        row.figure: {
            "ours": float(row.ours), "floor": float(row.floor), "target": row.target, "unit": row.unit,
            "spread": round(row.spread, 4), "state": state,
        }
        for row, state in rows
    }  # fmt: skip
    line = {"commit": commit(), "date": datetime.now().isoformat(timespec="minutes"), "rows": said}
    with FILE.open("a", encoding="utf-8") as file:
        file.write(json.dumps(line, ensure_ascii=False) + "\n")


def write_page() -> None:
    """Every figure's ratio to its floor over the commits, against its target."""
    kept = entries()
    figures = dict.fromkeys(figure for entry in reversed(kept) for figure in entry["rows"])
    parts = [_part(figure, kept) for figure in figures]
    PAGE.write_text(
        "<!doctype html><meta charset=utf-8><title>Benchmarks</title><style>body{font:13px sans-serif;background:#fbf6ef;"
        "color:#2b2724;max-width:1180px;margin:24px auto}section{display:inline-block;width:280px;margin:0 12px 14px 0;"
        "vertical-align:top}p{margin:2px 0}small{color:#7a6f66}</style><h1>Benchmarks</h1>"
        "<p>Ratio to the floor, commit by commit; the dashed line is the target. From benchmarks/history.jsonl.</p>"
        + "".join(parts)
        + "\n",
        encoding="utf-8",
    )
    print(PAGE.relative_to(HERE.parent))


def _part(figure: str, kept: list[dict]) -> str:
    found = [(entry["commit"], entry["rows"][figure]) for entry in kept if figure in entry["rows"]]
    ratios = [row["ours"] / row["floor"] for _, row in found]
    target = found[-1][1]["target"]
    most = 1.1 * max([*ratios, target])
    step = (WIDE - 10) / max(1, len(ratios) - 1)
    places = [(5 + k * step, HIGH - 4 - (HIGH - 8) * ratio / most) for k, ratio in enumerate(ratios)]
    line = " ".join(f"{x:.1f},{y:.1f}" for x, y in places)
    dots = "".join(
        f'<circle cx="{x:.1f}" cy="{y:.1f}" r="2.5" fill="#1d6a70"><title>{html.escape(name)}: {ratio:.3g}</title></circle>'
        for (x, y), (name, _), ratio in zip(places, found, ratios, strict=True)
    )
    level = HIGH - 4 - (HIGH - 8) * target / most
    last = found[-1][1]
    words = f"{write(last['ours'], last['unit'])} / {write(last['floor'], last['unit'])} = {ratios[-1]:.3g}"
    return (
        f'<section><p>{html.escape(figure)}</p><svg width="{WIDE}" height="{HIGH}"><line x1="0" x2="{WIDE}" y1="{level:.1f}" '
        f'y2="{level:.1f}" stroke="#c2481d" stroke-dasharray="4 3"/><polyline points="{line}" fill="none" stroke="#1d6a70"/>'
        f"{dots}</svg><p><small>{html.escape(words)}, target {target:g}</small></p></section>"
    )
