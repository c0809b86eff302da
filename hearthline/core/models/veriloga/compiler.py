"""The way from a text to a module, and its cache: what was compiled once is read from the user's cache folder.

The cache goes by the content: the text after its directives, and the compiler itself.
"""

from __future__ import annotations

import hashlib
import json
import sys
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, replace
from functools import cache, cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from hearthline.core.compiled import language, machine
from hearthline.core.compiled.machine import processor, to_object
from hearthline.core.errors import FileError, ModelError
from hearthline.core.models.module import Module
from hearthline.core.models.veriloga.kept import keep, kept, prune
from hearthline.core.models.veriloga.machine import Loaded
from hearthline.core.models.veriloga.problems import Problems, TooLargeError, UnusableError
from hearthline.core.models.veriloga.source import STANDARD, Source, read_source
from hearthline.core.texts import read_text

if TYPE_CHECKING:
    from hearthline.core.models.veriloga import tree

COLLAPSED, HOT = "s", "_hot"
"""Ends the name of a kernel without inner nets that zero resistances join, and of a text whose devices heat themselves."""

Generated = tuple[dict, str]

HERE = Path(__file__).resolve().parent
INGREDIENTS = (
    *sorted(HERE.glob("*.py")), HERE.parent / "layout.py", Path(machine.__file__), Path(language.__file__),
    HERE / "grammar.lark", STANDARD / "limiting.vams",
)  # fmt: skip


_TEXTS: dict[str, str] = {}
"""What this process has generated: the cache may forget it, or be damaged, before it is asked for."""


@dataclass(frozen=True)
class Text:
    """A text after its directives, as `shown` in messages; by its `stem` the cache knows it. Where it is `hot` its devices have
    a net for their own heat."""

    source: Source
    shown: str
    stem: str
    hot: bool = False

    def descriptions(self, say: Callable[[str], None] = lambda text: None) -> list[dict]:
        """Of each of its modules. Raises ModelError."""
        return _known(self.stem) or self.generate(say)

    def generate(self, say: Callable[[str], None] = lambda text: None) -> list[dict]:
        """The same, made anew with the code of each."""
        return _generate(self, say)


@dataclass(frozen=True)
class CachedCode:
    """The machine code of module `number` of a text: made from code in LLVM's language, unless that has been done already."""

    text: Text
    number: int
    collapsed: bool = False

    @property
    def stem(self) -> str:
        """By which the cache knows it."""
        return f"{self.text.stem}_{self.number}{COLLAPSED * self.collapsed}"

    @property
    def again(self) -> tuple[Callable, tuple]:
        """How another process makes or loads the module; addresses of this one mean nothing there."""
        return module_of, (self.text, self.number, self.collapsed)

    @cached_property
    def loaded(self) -> Loaded:
        """The two functions."""
        found = kept(f"{self.stem}.o")
        if found is not None:
            with suppress(RuntimeError):
                return Loaded(found)
        return Loaded(self._made())

    def _made(self) -> bytes:
        try:
            code = to_object(self._language())
        except RuntimeError as error:
            message = f"no machine code could be made of it: {error}; change the text, or try again"
            raise ModelError(message, self.text.shown) from error
        with suppress(OSError):  # a full disk keeps nobody from running it now
            keep(f"{self.stem}.o", code)
        return code

    def _language(self) -> str:
        if self.stem in _TEXTS:
            return _TEXTS[self.stem]
        found = kept(f"{self.stem}.ll")
        if found is None:
            self.text.generate()
            return _TEXTS[self.stem]
        return found.decode()


def compile_file(
    path: Path, shown: str | None = None, say: Callable[[str], None] = lambda text: None
) -> tuple[Module, ...]:
    """The modules of a Verilog-A file, named `shown` in messages. Raises ModelError with every mistake found."""
    shown = shown or path.name
    try:
        text = read_text(path, shown, "strict")
    except OSError as error:
        raise ModelError(f"cannot be read: {error.strerror}", shown) from None
    except FileError as error:
        raise ModelError(error.message, shown) from None
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
    written = Text(source, shown, _key(source, shown))
    return tuple(_module(written, k, one) for k, one in enumerate(written.descriptions(say)))


def module_of(text: Text, number: int, collapsed: bool) -> Module:
    """Module `number` of a text, or what it is where all that may collapse has; the one of this process."""
    known = _KNOWN.get(f"{text.stem}_{number}")
    found = known or _module(text, number, text.descriptions()[number])
    return found.collapsed if collapsed and found.collapsed is not None else found


def _known(stem: str) -> list[dict] | None:
    """What was found out about a text before; None where there is nothing, or what is there is damaged."""
    found = kept(f"{stem}.json")
    try:
        return None if found is None else json.loads(found)
    except (ValueError, RecursionError):
        return None


_KNOWN: dict[str, Module] = {}


def _module(text: Text, number: int, description: dict) -> Module:
    """One module object for one content, so that machine code is loaded once in a process."""
    key = f"{text.stem}_{number}"
    if key not in _KNOWN:
        whole, collapsed = {**description, "collapsed": None}, description["collapsed"]
        if collapsed:
            whole["collapsed"] = Module.of(collapsed, CachedCode(text, number, True))
        _KNOWN[key] = Module.of(whole, CachedCode(text, number))
    return _KNOWN[key]


def hot_variant(module: Module) -> Module:
    """The same device with a net for its own heat, behind its own nets: its temperature is an unknown, and the power that it
    turns into heat flows into that net; with exact derivatives. Raises ModelError where its text cannot have that."""
    code = module.code
    if not isinstance(code, CachedCode) or code.collapsed:
        raise ModelError("has no text that could be followed in its temperature", module.file)
    return module_of(replace(code.text, stem=f"{code.text.stem}{HOT}", hot=True), code.number, False)


def _generate(text: Text, say: Callable[[str], None]) -> list[dict]:
    # late, because a text that is in the cache needs no parser
    from hearthline.core.models.veriloga.parser import parse

    source, shown, stem = text.source, text.shown, text.stem
    problems = source.problems
    say(f"{shown}: reading")
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
            made.append(_both(module, problems, text))
        except (UnusableError, TooLargeError):
            continue
        except RecursionError:
            problems.mistake(module.line, "functions call each other too deeply; use variables in between")
    problems.check()
    descriptions = []
    for k, (whole, collapsed) in enumerate(made):
        _TEXTS[f"{stem}_{k}"] = whole[1]
        if collapsed:
            _TEXTS[f"{stem}_{k}{COLLAPSED}"] = collapsed[1]
        descriptions.append({**whole[0], "collapsed": collapsed and {**collapsed[0], "collapsed": None}})
    with suppress(OSError):  # a full disk keeps nobody from running it now
        for name in [name for name in _TEXTS if name.startswith(f"{stem}_")]:
            keep(f"{name}.ll", _TEXTS[name].encode())
        keep(f"{stem}.json", json.dumps(descriptions).encode())
        prune()
    return descriptions


def _both(module: tree.Module, problems: Problems, text: Text) -> tuple[Generated, Generated | None]:
    """A module as it is written, and as it is where all series resistances are zero; None where there are none."""
    from hearthline.core.models.veriloga.equations import equations_of
    from hearthline.core.models.veriloga.generate import generate

    equations = equations_of(module, problems, hot=text.hot)
    joinable = equations.joinable
    collapsed = generate(equations_of(module, problems, joinable, text.hot), text.shown) if joinable else None
    return generate(equations, text.shown), collapsed


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
