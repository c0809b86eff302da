"""Calls machine code at an address from compiled code: device kernels, for which `signature` says what is handed over, and what
else takes four words, as factors that are written out."""

from __future__ import annotations

from hearthline.core.compiled.jit import intrinsic


@intrinsic
def call_kernel(typingctx, address, wants, span, nodes, work):
    """Calls the kernel at an address, with addresses of its arrays; for compiled code."""
    from llvmlite import ir
    from numba import int64

    def codegen(context, builder, signature, arguments):
        word = ir.IntType(64)
        kind = ir.FunctionType(word, [word] * 4)
        function = builder.inttoptr(arguments[0], kind.as_pointer())
        return builder.call(function, arguments[1:])

    return int64(int64, int64, int64, int64, int64), codegen
