"""Machine code of functions of the engine: out of its folder, or made by a process of its own first."""

from __future__ import annotations

import ctypes
import os
import subprocess
import sys
from collections.abc import Callable, Iterable
from threading import Lock

from hearthline.core.compiled import objects
from hearthline.core.compiled.codes import SIGN
from hearthline.core.compiled.machine import addresses_in
from hearthline.core.compiled.runtime import provide
from hearthline.core.errors import HearthlineError

_MAKING = Lock()


def code_of(name: str) -> int:
    """The address of a function `module:name`, made first where it is not kept. Raises HearthlineError."""
    found = objects.kept(name)
    if found is None:
        with _MAKING:  # two threads may want the same
            found = objects.kept(name)
            if found is None:
                finish(begin([name]))
                found = objects.kept(name)
    if found is None:
        raise HearthlineError(f"the machine code of {name} was made, and cannot be read from {objects.folder()}")
    provide()
    symbol, code = found
    return addresses_in(code, symbol)[0]


def called_with_words(address: int) -> Callable[[int], int]:
    """A function of one address, which lets other threads run meanwhile."""
    return ctypes.CFUNCTYPE(ctypes.c_int64, ctypes.c_void_p)(address)


def begin(names: Iterable[str], say: bool = False) -> subprocess.Popen:
    """Starts to make the machine code of some functions, one after the other; with none it takes what its input asks for, and
    may `say` each on its output."""
    paths = os.pathsep.join(path or os.getcwd() for path in sys.path)
    environment = {**os.environ, SIGN: "1", "PYTHONPATH": paths}
    command = [sys.executable, "-m", "hearthline.making", *names]
    pipe, nothing = subprocess.PIPE, subprocess.DEVNULL
    return subprocess.Popen(
        command,
        env=environment,
        stdin=pipe if say else nothing,
        stdout=pipe if say else nothing,
        stderr=pipe,
        text=True,
    )


def finish(process: subprocess.Popen) -> None:
    """Waits for it. Raises HearthlineError where it failed."""
    _, trouble = process.communicate()
    if process.returncode:
        last = trouble.strip().splitlines()[-1:] or ["it ended without a word"]
        raise HearthlineError(f"the engine could not be compiled: {last[0]}")
