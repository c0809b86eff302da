"""The way from a text to a module, and its cache: what was compiled once is read from the user's cache folder.

The cache goes by the content: the text after its directives, and the compiler itself.
"""

from __future__ import annotations

import hashlib
import json
import os
import sys
import tempfile
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from functools import cache, cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from platformdirs import user_cache_path

from hearthline.core.errors import ModelError
from hearthline.core.models.module import Module
from hearthline.core.models.veriloga.machine import Loaded, processor, to_object
from hearthline.core.models.veriloga.problems import Problems, UnusableError
from hearthline.core.models.veriloga.source import STANDARD, Source, read_source

if TYPE_CHECKING:
    from hearthline.core.models.veriloga import tree

DEEPEST_TREE = 40_000
MOST_TEXTS = 300
"""That the cache holds."""
SHUT = "s"
"""Ends the name of a kernel without inner nets that zero resistances join."""

Generated = tuple[dict, str]

HERE = Path(__file__).resolve().parent
INGREDIENTS = (*sorted(HERE.glob("*.py")), HERE / "grammar.lark", STANDARD / "limiting.vams")


@dataclass(frozen=True)
class CachedCode:
    """The machine code of a module: made from its text in LLVM's language, unless that has been done already."""

    stem: Path

    @cached_property
    def loaded(self) -> Loaded:
        """The two functions."""
        path = self.stem.with_suffix(".o")
        if not path.is_file():
            self._make(path)
        return Loaded(path.read_bytes())

    def _make(self, path: Path) -> None:
        written = self.stem.with_suffix(".ll")
        try:
            _write(path, to_object(written.read_text(encoding="utf-8")))
        except (OSError, RuntimeError) as error:
            raise ModelError(f"no machine code could be made of it: {error}; change the text, or try again") from error


def compile_file(
    path: Path, shown: str | None = None, say: Callable[[str], None] = lambda text: None
) -> tuple[Module, ...]:
    """The modules of a Verilog-A file, named `shown` in messages. Raises ModelError with every mistake found."""
    shown = shown or path.name
    try:
        text = path.read_text(encoding="utf-8")
    except OSError as error:
        raise ModelError(f"cannot be read: {error.strerror}", shown) from None
    except UnicodeDecodeError:
        raise ModelError("is no text in UTF-8", shown) from None
    return compile_text(text, shown, path.parent, say)


def compile_text(
    text: str, shown: str, folder: Path | None = None, say: Callable[[str], None] = lambda text: None
) -> tuple[Module, ...]:
    """The modules of a text whose includes stand in `folder`; `say` hears of each stage. Raises ModelError.

    The compiled functions are not made here but when first asked for; `Module.compiled` makes them.
    """
    source = read_source(text, shown, folder)
    source.problems.check()
    stem = _key(source, shown)
    index = cache_folder() / f"{stem}.json"
    descriptions = _known(index) or _generate(source, shown, stem, say)
    return tuple(_module(stem, k, description) for k, description in enumerate(descriptions))


def _known(index: Path) -> list[dict] | None:
    """What was found out about a text before; None where there is nothing, or what is there is damaged."""
    try:
        os.utime(index)  # used now: kept the longest
        return json.loads(index.read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return None


_KNOWN: dict[str, Module] = {}


def _module(stem: str, number: int, description: dict) -> Module:
    """One module object for one content, so that machine code is loaded once in a process."""
    key = f"{stem}_{number}"
    if key not in _KNOWN:
        whole, shut = {**description, "shut": None}, description["shut"]
        if shut:
            whole["shut"] = Module.of(shut, CachedCode(cache_folder() / f"{key}{SHUT}"))
        _KNOWN[key] = Module.of(whole, CachedCode(cache_folder() / key))
    return _KNOWN[key]


def _generate(source: Source, shown: str, stem: str, say: Callable[[str], None]) -> list[dict]:
    # late, because a text that is in the cache needs no parser
    from hearthline.core.models.veriloga.parser import parse

    problems = source.problems
    say(f"{shown}: reading")
    # long sums are deep trees; Python's own frames take no room on the machine's stack
    sys.setrecursionlimit(max(sys.getrecursionlimit(), DEEPEST_TREE))
    try:
        trees = parse(source.text, problems)
    except UnusableError:
        problems.check()
        raise
    if not trees:
        problems.mistake_at(shown, 1, "there is no module in this text; write `module name(ports); ... endmodule`")
    made = []
    for module in trees:
        say(f"{shown}: equations of {module.name}")
        try:
            made.append(_both(module, problems, shown))
        except UnusableError:
            continue
        except RecursionError:
            problems.mistake(module.line, "an expression is nested too deeply; use variables in between")
    problems.check()
    descriptions = []
    for k, (whole, shut) in enumerate(made):
        _write(cache_folder() / f"{stem}_{k}.ll", whole[1].encode())
        if shut:
            _write(cache_folder() / f"{stem}_{k}{SHUT}.ll", shut[1].encode())
        descriptions.append({**whole[0], "shut": shut and {**shut[0], "shut": None}})
    _write(cache_folder() / f"{stem}.json", json.dumps(descriptions).encode())
    _prune(cache_folder())
    return descriptions


def _both(module: tree.Module, problems: Problems, shown: str) -> tuple[Generated, Generated | None]:
    """A module as it is written, and as it is where all series resistances are zero; None where there are none."""
    from hearthline.core.models.veriloga.equations import equations_of
    from hearthline.core.models.veriloga.generate import generate

    equations = equations_of(module, problems)
    joinable = equations.joinable
    shut = generate(equations_of(module, problems, joinable), shown) if joinable else None
    return generate(equations, shown), shut


def _prune(folder: Path) -> None:
    """Forgets the texts that were not used for the longest time: each pause in typing leaves one here."""
    kept = []
    for index in folder.glob("*.json"):
        with suppress(OSError):  # another process may prune too
            kept.append((index.stat().st_mtime, index))
    for _, index in sorted(kept)[:-MOST_TEXTS]:
        for path in (index, *folder.glob(f"{index.stem}_*")):
            path.unlink(missing_ok=True)


@cache
def cache_folder() -> Path:
    """Where generated files and their machine code are kept: the user's cache folder, or a temporary one."""
    for folder in (user_cache_path("hearthline") / "models", Path(tempfile.gettempdir()) / f"hearthline-{os.getuid()}"):
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except OSError:
            continue
        if os.access(folder, os.W_OK):
            return folder
    return Path(tempfile.mkdtemp(prefix="hearthline-"))


@cache
def _compiler() -> bytes:
    """Stands for this compiler: its own files and the version of what makes machine code of them."""
    digest = hashlib.sha256(f"{processor()} {sys.version}".encode())
    for path in INGREDIENTS:
        digest.update(path.read_bytes())
    return digest.digest()


def _key(source: Source, shown: str) -> str:
    digest = hashlib.sha256(_compiler())
    digest.update(repr((shown, source.text, source.problems.places)).encode())
    stem = "".join(letter if letter.isalnum() else "_" for letter in Path(shown).stem)
    return f"{stem[:40]}_{digest.hexdigest()[:20]}"


def _write(path: Path, content: bytes) -> None:
    """Whole or not at all, so that another process never reads half a file."""
    handle, name = tempfile.mkstemp(dir=path.parent, suffix=".tmp")
    with os.fdopen(handle, "wb") as file:
        file.write(content)
    os.replace(name, path)
