"""What compiled functions take and give, in words that need no compiler: numbers, arrays, and records of these."""

from __future__ import annotations

from ctypes import addressof, c_char
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np


@dataclass(frozen=True)
class Code:
    """A number (`dims` 0), or a contiguous array of so many dimensions, of this kind."""

    kind: str
    dims: int = 0

    @cached_property
    def dtype(self) -> np.dtype:
        """Of its numbers."""
        return np.dtype(self.kind)


@dataclass(frozen=True)
class Record:
    """A NamedTuple, field by field."""

    of: type
    fields: tuple[Code | Record, ...]


INT, FLOAT = Code("i8"), Code("f8")
I, IM = Code("i8", 1), Code("i8", 2)  # noqa: E741
F, M, T = Code("f8", 1), Code("f8", 2), Code("f8", 3)
Z, ZM, ZT = Code("c16", 1), Code("c16", 2), Code("c16", 3)
N, U, UM, UB = Code("i4", 1), Code("u4", 1), Code("u4", 2), Code("u1", 1)
Form = Code | Record

SIGN = "HEARTHLINE_COMPILES"
"""Environment variable of a process that makes machine code."""


def record(of: type, *fields: Form) -> Record:
    """The code of a NamedTuple. Raises ValueError where the number of fields is another."""
    names: tuple[str, ...] = of._fields  # type: ignore[attr-defined]
    if len(fields) != len(names):
        raise ValueError(f"{of.__name__} has {len(names)} fields, and {len(fields)} are said")
    return Record(of, fields)


def address_of(array: np.ndarray) -> int:
    """Of its numbers; NumPy's own way takes several times as long."""
    try:
        return addressof(c_char.from_buffer(array))  # type: ignore[arg-type]
    except (TypeError, ValueError):  # it is not to be written to, or empty
        return array.ctypes.data


class Words:
    """An argument that is handed over again and again, as the words it is; what lies behind them is kept."""

    __slots__ = ("value", "words")

    def __init__(self, words: list[int], value: Any):
        self.words, self.value = words, value

    @classmethod
    def of(cls, code: Form, value: Any) -> Words:
        """Of an argument of a code. Raises TypeError where it does not fit."""
        words: list[int] = []
        words_of((code,), (value,), words)
        return cls(words, value)


def words_of(codes: tuple[Form, ...], arguments: tuple[Any, ...], into: list[int]) -> None:
    """Arguments as machine words: a number, or the address of an array and its shape. Raises TypeError for what does not fit
    its code: compiled code looks at nothing."""
    for code, value in zip(codes, arguments, strict=True):
        if isinstance(value, Words):
            into += value.words
        elif isinstance(code, Record):
            words_of(code.fields, value, into)
        elif code.dims:
            if value.dtype != code.dtype or value.ndim != code.dims or not value.flags.c_contiguous:
                gaps = "" if value.flags.c_contiguous else " with gaps"
                raise TypeError(
                    f"{value.ndim} dimensions of {value.dtype}{gaps} where {code.dims} of {code.dtype} are taken"
                )
            into.append(address_of(value))
            into.extend(value.shape)
        elif code.kind == "f8":
            into.append(int(np.float64(value).view(np.int64)))
        else:
            into.append(int(value))
