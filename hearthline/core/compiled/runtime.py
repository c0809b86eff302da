"""What machine code that Numba made wants from its runtime: memory for arrays that live inside a function. Numba's own would
have to be imported. What it would need to raise an exception is there by name; compiled functions of ours raise none.

The head of a piece of memory is as Numba 0.68 lays it out: count of references, destructor, its data, address of the numbers,
their size, allocator; eight bytes each.
"""

from __future__ import annotations

import re
from functools import cache

from hearthline.core.compiled.machine import addresses_in, know, to_object

NUMBAS, OURS = (b"NRT_", b"\0numba_"), (b"HLM_", b"\0hlmsa_")
"""How names begin, in Numba's code and after `renamed`, so that the two runtimes never meet."""

TEXT = """
declare ptr @malloc(i64)
declare void @free(ptr)

define ptr @HLM_MemInfo_alloc_aligned(i64 %size, i32 %align) {
  %wide = zext i32 %align to i64
  %more = add i64 %wide, 64
  %total = add i64 %size, %more
  %p = call ptr @malloc(i64 %total)
  %none = icmp eq ptr %p, null
  br i1 %none, label %out, label %good
good:
  store i64 1, ptr %p
  %dtor = getelementptr i64, ptr %p, i64 1
  store i64 0, ptr %dtor
  %info = getelementptr i64, ptr %p, i64 2
  store i64 0, ptr %info
  %at = ptrtoint ptr %p to i64
  %behind = add i64 %at, 63
  %up = add i64 %behind, %wide
  %mask = sub i64 0, %wide
  %data = and i64 %up, %mask
  %where = getelementptr i64, ptr %p, i64 3
  store i64 %data, ptr %where
  %long = getelementptr i64, ptr %p, i64 4
  store i64 %size, ptr %long
  %own = getelementptr i64, ptr %p, i64 5
  store i64 0, ptr %own
  br label %out
out:
  ret ptr %p
}

define ptr @HLM_MemInfo_alloc(i64 %size) {
  %p = call ptr @HLM_MemInfo_alloc_aligned(i64 %size, i32 16)
  ret ptr %p
}

define ptr @HLM_Allocate(i64 %size) {
  %p = call ptr @malloc(i64 %size)
  ret ptr %p
}

define void @HLM_MemInfo_call_dtor(ptr %p) {
  call void @free(ptr %p)
  ret void
}

define void @HLM_Free(ptr %p) {
  call void @free(ptr %p)
  ret void
}

define i32 @hlmsa_do_raise(ptr %what) {
  ret i32 0
}

define ptr @hlmsa_runtime_build_excinfo_struct(ptr %a, ptr %b) {
  ret ptr null
}

define ptr @hlmsa_unpickle(ptr %a, i32 %b, ptr %c) {
  ret ptr null
}

define void @hlmsa_gil_ensure(ptr %state) {
  ret void
}

define void @hlmsa_gil_release(ptr %state) {
  ret void
}
"""
NAMES = (
    "HLM_MemInfo_alloc_aligned", "HLM_MemInfo_alloc", "HLM_Allocate", "HLM_MemInfo_call_dtor", "HLM_Free", "hlmsa_do_raise",
    "hlmsa_runtime_build_excinfo_struct", "hlmsa_unpickle", "hlmsa_gil_ensure", "hlmsa_gil_release",
)  # fmt: skip


OWN = {"HLM_incref", "HLM_decref"}
"""That each piece of machine code has itself."""


def renamed(code: bytes) -> bytes:
    """Machine code of Numba that asks for our runtime; names keep their length. Raises ValueError where it asks for something
    that is not there."""
    for old, new in zip(NUMBAS, OURS, strict=True):
        code = code.replace(old, new)
    asked = {name.decode() for name in re.findall(rb"(?<=\0)(?:HLM_|hlmsa_)\w+(?=\0)", code)}
    if missing := asked - {*NAMES, *OWN}:
        raise ValueError(f"compiled code wants {', '.join(sorted(missing))} of the runtime, which it does not have")
    return code


@cache
def provide() -> None:
    """Before machine code that wants it is loaded."""
    know(dict(zip(NAMES, addresses_in(to_object(TEXT), *NAMES), strict=True)))
