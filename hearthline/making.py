"""Makes machine code, as `python -m hearthline.making`: of the functions that are named (`module:name`), or else of what its
input asks for, a line each: such a function, `text NAME` (a device of the library) or `file PATH` (device texts). Says each
when it is kept."""

from __future__ import annotations

import sys
from pathlib import Path


def make(task: str) -> None:
    """One of them. Raises whatever the compiler raises."""
    kind, _, rest = task.partition(" ")
    if rest:
        _make_text(kind, rest)
        return
    from hearthline.core.compiled.making import make as make_function

    make_function(kind)


def _make_text(kind: str, name: str) -> None:
    """A `text` of the library, or all in a `file`: for instances with series resistances and for those without."""
    from hearthline.core.models.library import library_module
    from hearthline.core.models.veriloga.compiler import compile_file

    modules = [library_module(name)] if kind == "text" else compile_file(Path(name), f"devices/{Path(name).name}")
    for module in modules:
        _ = module.address, module.collapsed and module.collapsed.address


if __name__ == "__main__":
    for line in sys.argv[1:] or sys.stdin:
        make(line.strip())
        print(line.strip(), flush=True)
