"""Addresses of arrays as compiled code uses them: no counting of references, no looking at signs of indices.

Whoever makes a pointer keeps its array alive; the drivers do, because their arrays are arguments that Python owns.
"""

from __future__ import annotations

from hearthline.core.compiled.jit import inner, intrinsic


@intrinsic
def pointer(typingctx, array, offset):
    """The address of entry `offset` of a contiguous array."""
    from numba import int64, types

    kind = types.CPointer(array.dtype)

    def codegen(context, builder, signature, arguments):
        held = context.make_array(signature.args[0])(context, builder, arguments[0])
        return builder.gep(held.data, [arguments[1]])

    return kind(array, int64), codegen


@intrinsic
def behind(typingctx, start, offset):
    """The address `offset` entries behind another."""
    from numba import int64

    def codegen(context, builder, signature, arguments):
        return builder.gep(arguments[0], [arguments[1]])

    return start(start, int64), codegen


@intrinsic
def address(typingctx, start):
    """A pointer as a number."""
    from numba import int64
    from numba.core import cgutils

    def codegen(context, builder, signature, arguments):
        return builder.ptrtoint(arguments[0], cgutils.intp_t)

    return int64(start), codegen


@inner
def copy(target, source, count):
    """target[:count] = source[:count]"""
    for k in range(count):
        target[k] = source[k]


@inner
def put(target, value, count):
    """target[:count] = value"""
    for k in range(count):
        target[k] = value
