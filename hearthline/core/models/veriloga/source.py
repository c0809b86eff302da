"""The compiler directives of a Verilog-A text: comments, includes, macros and conditions are gone after this stage.

Verilog-AMS LRM 2.4, chapter 10 and section 2.3. What comes out is plain text in which every line knows the file and
line that it came from.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path

from hearthline.core import limits
from hearthline.core.models.veriloga.problems import Problems, UnusableError
from hearthline.core.texts import can_be_a_file, shortened

STANDARD = Path(__file__).resolve().parent / "standard"
"""Folder of the standard headers that every text may include."""

DEEPEST, MOST_LINES, MOST_GROWTH = 40, 200_000, 20_000_000
"""How deep files include each other, lines of a text with all that it includes, and characters that macros may come to."""
EXPANSION = 200
"""What a macro inside a macro counts at least, in characters."""
_DIRECTIVE = re.compile(r"\s*`(\w+)\s*(.*)", re.DOTALL)
_USE = re.compile(r'`(\w+)|"(?:[^"\\]|\\.)*"')
_COMMENT = re.compile(r'//[^\n]*|/\*.*?(?:\*/|\Z)|"(?:[^"\\\n]|\\.)*"', re.DOTALL)
_CONDITIONS = ("ifdef", "ifndef", "elsif", "else", "endif")
_IGNORED = ("timescale", "default_discipline", "default_transition", "resetall", "default_nettype", "begin_keywords",
            "end_keywords", "celldefine", "endcelldefine", "line", "pragma")  # fmt: skip


@dataclass(frozen=True)
class Macro:
    """A `define: parameters (None where it takes none) and text."""

    parameters: tuple[str, ...] | None
    text: str


@dataclass
class Source:
    """A text after its directives; `problems.places` says where each line came from."""

    lines: list[str] = field(default_factory=list)
    problems: Problems = field(default_factory=Problems)
    files: dict[str, str] = field(default_factory=dict)

    @property
    def text(self) -> str:
        """All lines."""
        return "\n".join(self.lines) + "\n"


def read_source(text: str, shown: str, folder: Path | None, defines: Mapping[str, str] | None = None) -> Source:
    """The text named `shown`, whose includes are looked for in `folder` and among the standard headers.

    Mistakes are collected in the result's problems; `files` holds what was included, name to content.
    """
    source = Source()
    macros = {"__VAMS_ENABLE__": Macro(None, "1"), "__VAMS_COMPACT_MODELING__": Macro(None, "1")}
    macros.update({name: Macro(None, value) for name, value in (defines or {}).items()})
    with suppress(UnusableError):  # the mistake is written down
        _Reader(source, macros).read(text, shown, folder, 0)
    return source


@dataclass
class _Condition:
    line: int
    active: bool
    taken: bool
    outside: bool


class _Reader:
    def __init__(self, source: Source, macros: dict[str, Macro]):
        self.source, self.macros, self.problems = source, macros, source.problems
        self.open: list[Path] = []
        self.grown = 0

    def read(self, text: str, shown: str, folder: Path | None, depth: int) -> None:
        self.shown = shown
        conditions: list[_Condition] = []
        lines = iter(enumerate(_without_comments(text).split("\n"), 1))
        for number, line in lines:
            while line.rstrip().endswith("\\"):
                line = line.rstrip()[:-1] + " " + next(lines, (0, ""))[1]
            directive = _DIRECTIVE.match(line)
            name = directive[1] if directive else ""
            active = all(condition.active for condition in conditions)
            if name in _CONDITIONS:
                self._condition(name, directive[2].strip(), conditions, number)
            elif not active:
                continue
            elif name == "include":
                self._include(directive[2], number, folder, depth)
                self.shown = shown
            elif name == "define":
                self._define(directive[2], number)
            elif name == "undef":
                self.macros.pop(directive[2].strip(), None)
            elif name not in _IGNORED:
                self._plain(line, number, lines)
        for condition in conditions:
            self.problems.mistake_at(shown, condition.line, "this condition has no `endif")

    def _plain(self, line: str, number: int, lines) -> None:
        while "`" in line and _unclosed(line):
            following = next(lines, None)
            if following is None:
                break
            line += " " + following[1]
        self.source.lines.append(self._expand(line, number, ()))
        self.problems.places.append((self.shown, number))

    def _condition(self, name: str, rest: str, conditions: list[_Condition], number: int) -> None:
        if name in ("ifdef", "ifndef"):
            outside = all(condition.active for condition in conditions)
            active = (rest.split(" ")[0] in self.macros) == (name == "ifdef")
            conditions.append(_Condition(number, active and outside, active, outside))
            return
        if not conditions:
            self.problems.mistake_at(self.shown, number, f"`{name} without `ifdef before it")
            return
        last = conditions[-1]
        if name == "endif":
            conditions.pop()
            return
        wanted = name == "else" or rest.split(" ")[0] in self.macros
        last.active = last.outside and not last.taken and wanted
        last.taken |= wanted

    def _include(self, rest: str, number: int, folder: Path | None, depth: int) -> None:
        match = re.match(r'\s*["<]([^">]+)[">]', rest)
        if not match:
            self.problems.mistake_at(self.shown, number, 'a file name is missing; write `include "disciplines.vams"')
            return
        name, here = match[1], self.shown
        if not can_be_a_file(name):
            self.problems.mistake_at(here, number, f"'{shortened(name)}' cannot be the name of a file")
            return
        if depth > DEEPEST or len(self.source.lines) > MOST_LINES:
            self.problems.mistake_at(here, number, "files include each other without end")
            raise UnusableError()
        for place in (folder, STANDARD):
            path = place / name if place else None
            if path is not None and path.is_file():
                if path.resolve() in self.open:
                    self.problems.mistake_at(
                        here,
                        number,
                        f"files include each other without end: '{name}' includes itself; remove this line",
                    )
                    return
                try:
                    text = path.read_text(encoding="utf-8")
                except (OSError, UnicodeDecodeError) as error:
                    self.problems.mistake_at(here, number, f"cannot read '{name}': {error}")
                    return
                self.source.files[str(path)] = text
                self.open.append(path.resolve())
                self.read(text, name, path.parent, depth + 1)
                self.open.pop()
                return
        known = ", ".join(sorted(path.name for path in STANDARD.glob("*.vams")))
        self.problems.mistake_at(here, number, f"there is no file '{name}' beside this one; built in are {known}")

    def _define(self, rest: str, number: int) -> None:
        match = re.match(r"\s*(\w+)(\(([^)]*)\))?(.*)", rest, re.DOTALL)
        if not match:
            self.problems.mistake_at(self.shown, number, "a macro has a name and a text; write `define GMIN 1e-12")
            return
        parameters = None if match[2] is None else tuple(p.strip() for p in match[3].split(",") if p.strip())
        self.macros[match[1]] = Macro(parameters, match[4].strip())

    def _expand(self, line: str, number: int, busy: tuple[str, ...]) -> str:
        """The line with its macros replaced, again and again; a macro inside itself is a mistake."""
        pieces, position = [], 0
        self.grown += len(line) + (EXPANSION if busy else 0)
        if self.grown > MOST_GROWTH or len(busy) > limits.DEPTH:
            self.problems.mistake_at(self.shown, number, "macros inside macros make the text too long to be used")
            raise UnusableError()
        while match := _USE.search(line, position):
            pieces.append(line[position : match.start()])
            position = match.end()
            name = match[1]
            if name is None:
                pieces.append(match[0])
                continue
            if name not in self.macros:
                self.problems.mistake_at(self.shown, number, f"unknown macro or directive `{name}")
            elif name in busy:
                self.problems.mistake_at(self.shown, number, f"macro `{name} contains itself")
            else:
                text, position = self._call(name, line, position, number)
                pieces.append(self._expand(text, number, (*busy, name)))
        return "".join(pieces) + line[position:]

    def _call(self, name: str, line: str, position: int, number: int) -> tuple[str, int]:
        macro = self.macros[name]
        if macro.parameters is None:
            return macro.text, position
        arguments, end = _arguments(line, position)
        if arguments is None or len(arguments) != len(macro.parameters):
            wanted = ", ".join(macro.parameters)
            self.problems.mistake_at(self.shown, number, f"macro `{name} takes arguments: `{name}({wanted})")
            return "0", end
        by_name = dict(zip(macro.parameters, arguments, strict=True))
        return re.sub(r"\b[A-Za-z_]\w*\b", lambda word: by_name.get(word[0], word[0]), macro.text), end


def _without_comments(text: str) -> str:
    """Comments become blanks and keep their line breaks; strings stay."""
    return _COMMENT.sub(lambda m: m[0] if m[0].startswith('"') else "\n" * m[0].count("\n") or " ", text)


def _unclosed(line: str) -> bool:
    """Whether the arguments of a macro on this line go on in the next."""
    match = re.search(r"`\w+\s*\(", line)
    if not match:
        return False
    bare = re.sub(r'"(?:[^"\\]|\\.)*"', "", line[match.start() :])
    return bare.count("(") > bare.count(")")


def _arguments(line: str, position: int) -> tuple[list[str] | None, int]:
    """The arguments in parentheses at `position`, split at commas outside inner parentheses."""
    start = re.compile(r"\s*\(").match(line, position)
    if not start:
        return None, position
    depth, pieces, current = 1, [], start.end()
    for k in range(start.end(), len(line)):
        letter = line[k]
        depth += (letter in "([{") - (letter in ")]}")
        if depth == 0 or (depth == 1 and letter == ","):
            pieces.append(line[current:k].strip())
            current = k + 1
        if depth == 0:
            return pieces, k + 1
    return None, len(line)
