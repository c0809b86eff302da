"""The functions of a compiled text that can be called."""

from __future__ import annotations

import ctypes
from collections.abc import Callable

from hearthline.core.compiled.machine import addresses_in


class Loaded:
    """The two functions of a module. `address` is that of the kernel, for compiled callers."""

    def __init__(self, code: bytes):
        self.address, setup_at = addresses_in(code, "kernel", "setup")
        pointer = ctypes.c_void_p
        kernel = ctypes.CFUNCTYPE(ctypes.c_int64, ctypes.c_int64, pointer, pointer, pointer)
        setup = ctypes.CFUNCTYPE(None, ctypes.c_int64, *(pointer,) * 6)
        self.kernel: Callable = kernel(self.address)
        self.setup: Callable = setup(setup_at)
