"""All texts of the window in one table, by file: to be read for sense, one term for one thing."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from pathlib import Path

APP = Path(__file__).resolve().parents[1] / "hearthline" / "app"


def texts(tree: ast.Module) -> Iterator[str]:
    """Strings of two words or more that are not docstrings; what is filled in is `{}`."""
    quiet = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr)}
    inside = {id(one) for node in ast.walk(tree) if isinstance(node, ast.JoinedStr) for one in node.values}
    for node in ast.walk(tree):
        if isinstance(node, ast.JoinedStr):
            text = "".join(str(one.value) if isinstance(one, ast.Constant) else "{}" for one in node.values)
        elif isinstance(node, ast.Constant) and isinstance(node.value, str) and not {id(node)} & (quiet | inside):
            text = node.value
        else:
            continue
        if " " in text.strip() and re.search("[a-z]{3}", text) and "padding" not in text and "{{" not in text:
            yield text


def main() -> None:
    """One line a text."""
    for path in sorted(APP.glob("**/*.py")):
        for text in dict.fromkeys(texts(ast.parse(path.read_text(encoding="utf-8")))):
            print(f"{path.relative_to(APP)}\t{text!r}")


if __name__ == "__main__":
    main()
