"""Writes the figures of LM130 into its page, as decks over its models give them."""

from __future__ import annotations

import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from hearthline.core.formats.kit_folder import INSTALLED, read_kit
from tests.outside.silicon import figures

BEGIN, END = "<!-- figures -->", "<!-- end of figures -->"


def main() -> None:
    """Exchanges what stands between the two marks."""
    path = INSTALLED / "lm130" / "README.md"
    before, _, rest = path.read_text(encoding="utf-8").partition(BEGIN)
    _, _, after = rest.partition(END)
    lines = [
        f"- `{name}`: " + "; ".join(f"{label} = {value:.4g}" for label, value in figures(name).items())
        for name in read_kit(INSTALLED / "lm130").devices
    ]
    path.write_text(before + BEGIN + "\n" + "\n".join(lines) + "\n" + END + after, encoding="utf-8")


main()
