"""Makes machine code with Numba: of each entry a function of one address, behind which its arguments lie as machine words."""

from __future__ import annotations

from collections.abc import Callable
from importlib import import_module
from typing import Any

from hearthline.core.compiled import numba_start as numba_start
from hearthline.core.compiled import objects

# isort: split
import numba as nb
from numba import carray, types
from numba.extending import intrinsic

from hearthline.core.compiled.codes import FLOAT, Code, Form, Record
from hearthline.core.compiled.jit import ENTRIES
from hearthline.core.compiled.outermost import only_outermost
from hearthline.core.compiled.runtime import renamed

KERNEL = types.int64(
    types.int64, types.CPointer(types.int64), types.CPointer(types.int32), types.CPointer(types.float64)
)
KINDS = {
    "f8": types.float64, "i8": types.int64, "i4": types.int32, "u4": types.uint32, "u1": types.uint8, "c16": types.complex128
}  # fmt: skip


only_outermost()


def _caster(kind: Any) -> Any:
    """From a machine word to the address of numbers of a kind."""

    @intrinsic
    def cast(typingctx, address):
        def codegen(context, builder, signature, arguments):
            return builder.inttoptr(arguments[0], context.get_value_type(types.CPointer(kind)))

        return types.CPointer(kind)(types.int64), codegen

    return cast


@intrinsic
def as_float(typingctx, word):
    """The number whose bits a word has."""

    def codegen(context, builder, signature, arguments):
        return builder.bitcast(arguments[0], context.get_value_type(types.float64))

    return types.float64(types.int64), codegen


@intrinsic
def as_word(typingctx, number):
    """The bits of a number."""

    def codegen(context, builder, signature, arguments):
        return builder.bitcast(arguments[0], context.get_value_type(types.int64))

    return types.int64(types.float64), codegen


CASTS = {kind: _caster(numba) for kind, numba in KINDS.items()}


class _Text:
    """The text of a function that takes its arguments from behind an address."""

    def __init__(self, codes: tuple[Form, ...], gives: Form | None):
        self.count = 0
        self.names: dict[str, Any] = {"carray": carray, "as_float": as_float, "as_word": as_word}
        inside = ", ".join(map(self._argument, codes))
        call = f"function({inside})"
        ending = f"    {call}\n    return 0\n" if gives is None else f"    return {call}\n"
        if gives is FLOAT:
            ending = f"    return as_word({call})\n"
        self.text = f"def words(p):\n{ending}"

    def _argument(self, code: Form) -> str:
        if isinstance(code, Record):
            self.names[code.of.__name__] = code.of
            return f"{code.of.__name__}({', '.join(map(self._argument, code.fields))})"
        return self._array(code) if code.dims else self._number(code)

    def _array(self, code: Code) -> str:
        at, self.count = self.count, self.count + 1 + code.dims
        cast = f"as_{code.kind}"
        self.names[cast] = CASTS[code.kind]
        shape = "".join(f"p[{at + 1 + k}], " for k in range(code.dims))
        return f"carray({cast}(p[{at}]), ({shape}))"

    def _number(self, code: Code) -> str:
        at, self.count = self.count, self.count + 1
        return f"as_float(p[{at}])" if code.kind == "f8" else f"p[{at}]"


def make(name: str) -> None:
    """Makes and keeps the machine code of `module:name`: of an entry, or of a device kernel."""
    module, _, function = name.partition(":")
    found = getattr(import_module(module), function)
    if name in ENTRIES:
        dispatcher, codes, gives = ENTRIES[name]
        text = _Text(codes, gives)
        scope = {**text.names, "function": dispatcher}
        exec(compile(text.text, f"<{name}>", "exec"), scope)
        _keep(name, types.int64(types.CPointer(types.int64)), scope["words"])
    else:
        _keep(name, KERNEL, getattr(found, "function", found))


def _keep(name: str, signature: Any, function: Callable) -> None:
    made = nb.cfunc(signature, nogil=True, error_model="numpy")(function)
    objects.keep(name, made._wrapper_name, renamed(made._library._get_compiled_object()))
