"""Makes the machine code of device texts, for instances with series resistances and for those without."""

from __future__ import annotations

from pathlib import Path

from hearthline.core.models.library import library_module
from hearthline.core.models.veriloga.compiler import compile_file


def make_text(kind: str, name: str) -> None:
    """A `text` of the library, or all in a `file`."""
    modules = [library_module(name)] if kind == "text" else compile_file(Path(name), f"devices/{Path(name).name}")
    for module in modules:
        _ = module.address, module.collapsed and module.collapsed.address
