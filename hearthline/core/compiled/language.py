"""Text in LLVM's language, line by line, for what is written by a program of ours."""

from __future__ import annotations

import struct


def bits(value: float) -> int:
    """The bits of a number, as one with a sign."""
    return int(struct.unpack("<q", struct.pack("<d", value))[0])


def real(value: float) -> str:
    """A literal, bit by bit."""
    return f"0x{bits(float(value)) & 0xFFFFFFFFFFFFFFFF:016X}"


class Code:
    """Lines of a function, with fresh names for values and blocks; those of values begin with `stem`."""

    def __init__(self, stem: str = "t"):
        self.lines: list[str] = []
        self.block = "entry"
        self._stem, self._count = stem, 0

    def name(self, stem: str = "") -> str:
        """A name that nothing has yet."""
        self._count += 1
        return f"{stem or self._stem}{self._count}"

    def put(self, text: str) -> str:
        """A value: what `text` gives."""
        name = f"%{self.name()}"
        self.lines.append(f"  {name} = {text}")
        return name

    def do(self, text: str) -> None:
        """A statement without a value."""
        self.lines.append(f"  {text}")

    def begin(self, block: str) -> None:
        """What follows stands in a block of that name."""
        self.lines.append(f"{block}:")
        self.block = block

    def load(self, kind: str, base: str, index: int | str) -> str:
        """One entry of an array."""
        return self.put(f"load {kind}, ptr {self.put(f'getelementptr {kind}, ptr {base}, i64 {index}')}")

    def store(self, kind: str, value: str, base: str, index: int | str) -> None:
        """Writes one entry of an array."""
        self.do(f"store {kind} {value}, ptr {self.put(f'getelementptr {kind}, ptr {base}, i64 {index}')}")
