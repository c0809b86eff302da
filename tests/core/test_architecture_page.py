"""The page about the architecture is as the code is."""

from __future__ import annotations

import runpy
from pathlib import Path

ROOT = Path(__file__).parents[2]


def test_the_page_is_drawn_from_the_code():
    """`scripts/architecture.py` would change nothing."""
    script = runpy.run_path(str(ROOT / "scripts" / "architecture.py"))
    assert script["generated"]() in script["PAGE"].read_text(encoding="utf-8")
