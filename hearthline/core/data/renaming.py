"""The text of a formula when something that it speaks of gets another name."""

from __future__ import annotations

import re

from hearthline.core.data.formula import ACCESS

ANALYSIS, NET, PART, WORD = "analysis", "net", "part", "word"


def renamed(text: str, kind: str, old: str, new: str) -> str:
    """The formula with `new` in the place of `old`: an analysis, a net of the cell, a part or source of it with all that is
    inside, or a word that stands by itself: a reading, what is swept. The rest stays as typed."""
    pieces, end = [], 0
    for match in ACCESS.finditer(text):
        pieces += [_outside(text[end : match.start()], kind, old, new), _access(match, kind, old, new)]
        end = match.end()
    return "".join([*pieces, _outside(text[end:], kind, old, new)])


def mentions(text: str, kind: str, name: str) -> bool:
    """Whether a formula speaks of something by that name."""
    return renamed(text, kind, name, "") != text


_OUTSIDE = {
    ANALYSIS: r"(?<![\w.]){}(?=\s*\()",
    PART: r"(?i)(?<![\w.]){}(?=\.)",
    WORD: r"(?i)(?<![\w.]){}(?![\w.]|\s*[(=])",
}


def _outside(text: str, kind: str, old: str, new: str) -> str:
    pattern = _OUTSIDE.get(kind)
    return re.sub(pattern.format(re.escape(old)), lambda _: new, text) if pattern else text


def _access(match: re.Match, kind: str, old: str, new: str) -> str:
    """`V(a, b)` or `I(part)`; what is inside of a block has the name of the block before it."""

    def follow(name: re.Match) -> str:
        first, dot, rest = name[0].partition(".")
        is_net = match[1] == "V" and not dot
        if first.lower() != old.lower() or kind != (NET if is_net else PART):
            return name[0]
        return f"{new}{dot}{rest}"

    return match[1] + re.sub(r"[^(),\s]+", follow, match[0][1:])
