"""From code in LLVM's language to machine code, and from machine code into this process."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache
from threading import RLock

import llvmlite.binding as llvm

_LOCK = RLock()
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


@cache
def has_vectors() -> bool:
    """Whether this processor multiplies and adds whole vectors of numbers."""
    features = llvm.get_host_cpu_features()
    return bool(features.get("avx2") and features.get("fma"))


def to_object(text: str) -> bytes:
    """Machine code of a text in LLVM's language."""
    with _LOCK:
        machine = _machine()
        module = llvm.parse_assembly(text)
        module.triple, module.data_layout = machine.triple, str(machine.target_data)
        module.verify()
        builder = llvm.create_pass_builder(machine, llvm.create_pipeline_tuning_options(speed_level=2))
        passes = llvm.create_new_module_pass_manager()
        # values come computed once and in order: what else LLVM would look for is not there, and looking takes most of the time
        passes.add_always_inliner_pass()
        passes.add_global_dead_code_eliminate_pass()
        passes.add_sroa_pass()
        passes.add_simplify_cfg_pass()
        passes.add_dead_code_elimination_pass()
        passes.run(module, builder)
        return machine.emit_object(module)


def addresses_in(code: bytes, *names: str) -> list[int]:
    """Loads machine code and gives the addresses of its functions. Each goes into an engine of its own: several in one have
    mixed up their constants."""
    with _LOCK:
        engine = llvm.create_mcjit_compiler(llvm.parse_assembly(""), _new_machine())
        engine.add_object_file(llvm.ObjectFileRef.from_data(code))
        engine.finalize_object()
        _ENGINES.append(engine)
        return [engine.get_function_address(name) for name in names]


def know(addresses: Mapping[str, int]) -> None:
    """Functions that machine code which is loaded later may call by name."""
    with _LOCK:
        for name, address in addresses.items():
            llvm.add_symbol(name, address)


def _new_machine() -> llvm.TargetMachine:
    """An engine takes its machine with it, so each has its own."""
    _machine()
    return llvm.Target.from_default_triple().create_target_machine(opt=2, reloc="pic", codemodel="jitdefault")
