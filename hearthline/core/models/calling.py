"""Compiles device kernels, and calls them from compiled code and from Python; `signature` says what is handed over."""

from __future__ import annotations

from collections.abc import Callable

import numba as nb
from llvmlite import ir
from numba import float64, int32, int64
from numba.extending import intrinsic
from numba.types import CPointer

from hearthline.core import compiled_files

KERNEL = int64(int64, CPointer(int64), CPointer(int32), CPointer(float64))

OPTIONS = {"cache": True, "nogil": True, "error_model": "numpy"}
"""How every compiled function of the engine is compiled."""

compiled_files.use()  # whoever compiles takes the options from here


def compiled(function: Callable):
    """A kernel, or what its cache holds of it; its `address` is that of the machine code."""
    return nb.cfunc(KERNEL, **OPTIONS)(function)


@intrinsic
def call_kernel(typingctx, address, wants, span, nodes, work):
    """Calls the kernel at an address, with addresses of its arrays; for compiled code."""
    result = int64(int64, int64, int64, int64, int64)

    def codegen(context, builder, signature, arguments):
        word = ir.IntType(64)
        kind = ir.FunctionType(word, [word] * 4)
        function = builder.inttoptr(arguments[0], kind.as_pointer())
        return builder.call(function, arguments[1:])

    return result, codegen
