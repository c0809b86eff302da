"""Compiles every kernel and the whole device library into its cache, so that no later start and no click has to."""

from __future__ import annotations

import time
from collections.abc import Callable
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from hearthline.core.models.module import Module


def _make(module: Module) -> None:
    """Machine code of a module, for instances with series resistances and for those without."""
    _ = module.address, module.collapsed and module.collapsed.address


def prepare(say: Callable[[str], None]) -> None:
    """Compiles one kernel after the other, the device texts, and then the driver; `say` gets a line for each."""
    from hearthline.core import compiled_files
    from hearthline.core.analyses import ANALYSES
    from hearthline.core.elements import DEVICES
    from hearthline.core.models.library import library_module, library_names
    from hearthline.core.models.veriloga.compiler import compile_file

    begin = time.perf_counter()
    names = library_names()
    texts = sorted((Path(__file__).parent / "demo").glob("*/devices/*.va"))
    total = len(DEVICES) + len(names) + len(texts) + 1
    for number, (letter, kind) in enumerate(DEVICES.items(), 1):
        say(f"[{number}/{total}] kernel of {letter} parts")
        _ = kind.kernel.address
    for number, name in enumerate(names, len(DEVICES) + 1):
        say(f"[{number}/{total}] device {name}")
        _make(library_module(name))
    for number, path in enumerate(texts, len(DEVICES) + len(names) + 1):
        say(f"[{number}/{total}] device {path.stem} of the demo")
        for module in compile_file(path, f"devices/{path.name}"):
            _make(module)
    say(f"[{total}/{total}] analyses")
    # compiled as they are imported
    drivers = {name for one in ANALYSES.values() for name in one.drivers}
    for name in sorted(drivers | {"hearthline.core.engine.in_time"}):
        import_module(name)

    compiled_files.note()
    say(f"kernels ready in {time.perf_counter() - begin:.1f} s")
