"""Numba makes machine code of every function it meets, and wrappers that Python could call. Of ours only the outermost, a C
function, is ever called; what it calls is linked into it. Without the rest, making the engine takes half the time."""

from __future__ import annotations

from typing import Any

from numba.core.codegen import JITCodeLibrary
from numba.core.registry import cpu_target

OUTERMOST = "cfunc."
"""What Numba's names of C functions begin with."""


class Library(JITCodeLibrary):
    """What was compiled of one function."""

    @property
    def outermost(self) -> bool:
        """Whether C can call it."""
        return any(one.name.startswith(OUTERMOST) and not one.is_declaration for one in self._final_module.functions)

    def _finalize_final_module(self) -> None:
        if self.outermost:
            super()._finalize_final_module()
        else:
            self._finalized = True

    def get_pointer_to_function(self, name: str) -> int:
        return super().get_pointer_to_function(name) if self.outermost else 0


def _no_environment(_name: str, _environment: Any) -> None:
    """Of Python's objects; compiled functions use none."""


def only_outermost() -> None:
    """From now on Numba makes machine code of C functions alone."""
    codegen = cpu_target.target_context.codegen()
    codegen._library_class = Library
    codegen.set_env = _no_environment
