"""From code in LLVM's language to machine code, and from machine code to functions that can be called."""

from __future__ import annotations

import ctypes
from collections.abc import Callable
from functools import cache
from threading import Lock

import llvmlite.binding as llvm

_LOCK = Lock()
_ENGINES: list[llvm.ExecutionEngine] = []
"""Machine code lives as long as the process."""


@cache
def _machine() -> llvm.TargetMachine:
    llvm.initialize_native_target()
    llvm.initialize_native_asmprinter()
    return llvm.Target.from_default_triple().create_target_machine(
        cpu=llvm.get_host_cpu_name(), features=llvm.get_host_cpu_features().flatten(), opt=2, reloc="pic",
        codemodel="jitdefault",
    )  # fmt: skip


@cache
def processor() -> str:
    """What machine code is made for: it fits no other kind of processor."""
    return f"{llvm.llvm_version_info} {llvm.get_host_cpu_name()} {llvm.get_host_cpu_features().flatten()}"


def to_object(text: str) -> bytes:
    """Machine code of a text in LLVM's language."""
    with _LOCK:
        machine = _machine()
        module = llvm.parse_assembly(text)
        module.triple, module.data_layout = machine.triple, str(machine.target_data)
        module.verify()
        builder = llvm.create_pass_builder(machine, llvm.create_pipeline_tuning_options(speed_level=2))
        builder.getModulePassManager().run(module, builder)
        return machine.emit_object(module)


class Loaded:
    """The two functions of a module. `address` is that of the kernel, for compiled callers."""

    def __init__(self, code: bytes):
        with _LOCK:
            engine = llvm.create_mcjit_compiler(llvm.parse_assembly(""), _new_machine())
            engine.add_object_file(llvm.ObjectFileRef.from_data(code))
            engine.finalize_object()
            _ENGINES.append(engine)
            self.address = engine.get_function_address("kernel")
            pointer = ctypes.c_void_p
            kernel = ctypes.CFUNCTYPE(ctypes.c_int64, ctypes.c_int64, pointer, pointer, pointer)
            setup = ctypes.CFUNCTYPE(None, ctypes.c_int64, *(pointer,) * 6)
            self.kernel: Callable = kernel(self.address)
            self.setup: Callable = setup(engine.get_function_address("setup"))


def _new_machine() -> llvm.TargetMachine:
    """An engine takes its machine with it, so each has its own."""
    _machine()
    return llvm.Target.from_default_triple().create_target_machine(opt=2, reloc="pic", codemodel="jitdefault")
