"""The device equations that come with Hearthline, each a Verilog-A text of its own."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from hearthline.core.models.module import Module
from hearthline.core.models.veriloga.compiler import compile_file

FOLDER = Path(__file__).resolve().parent


@cache
def library_names() -> tuple[str, ...]:
    """The modules that there are; each stands in a file of its name."""
    return tuple(sorted(path.stem for path in FOLDER.glob("*.va")))


@cache
def library_module(name: str) -> Module:
    """The module of that name, compiled or from the cache."""
    return next(module for module in compile_file(FOLDER / f"{name}.va") if module.name == name)
