"""Writes what the code says of itself into docs/architecture.md: packages, analyses, commands, elements, devices, checks."""

from __future__ import annotations

import ast
import sys
import tomllib
from collections.abc import Iterator
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from hearthline.core.analyses import ANALYSES
from hearthline.core.circuit.rules.all import RULES
from hearthline.core.elements import DEVICES
from hearthline.core.models.library import library_names

ROOT = Path(__file__).resolve().parents[1]
PAGE = ROOT / "docs" / "architecture.md"
BEGIN, END = "<!-- from the code: scripts/architecture.py -->", "<!-- end -->"


def sentence(path: Path) -> str:
    """What a module or package says of itself, in one sentence."""
    said = ast.get_docstring(ast.parse(path.read_text(encoding="utf-8"))) or ""
    return " ".join(said.split("\n\n")[0].split())


def packages() -> Iterator[str]:
    """The packages of the core, in the order in which imports may point: each only at those below it."""
    with open(ROOT / "pyproject.toml", "rb") as file:
        contracts = tomllib.load(file)["tool"]["importlinter"]["contracts"]
    layers = next(one["layers"] for one in contracts if one["type"] == "layers")
    yield "| package | |"
    yield "|---|---|"
    for layer in layers:
        folder = ROOT / Path(*layer.split("."))
        if folder.is_dir():
            yield f"| `core/{folder.name}` | {sentence(folder / '__init__.py')} |"
        else:
            yield f"| `core/{folder.name}.py` | {sentence(folder.with_suffix('.py'))} |"


def lists() -> Iterator[str]:
    """What the registries hold."""
    analyses = ", ".join(f"`{one.name}` ({one.meaning})" for one in ANALYSES.values())
    yield f"- **Analyses**: {analyses}."
    commands = sorted(
        path.stem for path in (ROOT / "hearthline" / "commands").glob("[a-z]*.py") if path.stem != "status"
    )
    yield f"- **Commands** beside the window: {', '.join(f'`{name}`' for name in commands)}."
    yield f"- **Elements** by their letters: {' '.join(DEVICES)}; everything else is a Verilog-A module."
    yield f"- **Devices** of the library: {', '.join(f'`{name}`' for name in library_names())}."
    yield f"- **Checks** of a drawing: {', '.join(rule.__name__.replace('_', ' ') for rule in RULES)}."


def generated() -> str:
    """The part of the page between the marks."""
    return "\n".join([BEGIN, "", *packages(), "", *lists(), "", END])


def main() -> None:
    """Exchanges it."""
    text = PAGE.read_text(encoding="utf-8")
    before, rest = text.split(BEGIN)
    PAGE.write_text(before + generated() + rest.split(END)[1], encoding="utf-8")


if __name__ == "__main__":
    main()
