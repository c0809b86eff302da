"""Makes the machine code of every compiled function and of the whole device library, so that no later start and no click has
to: on all processors, functions of the engine from one end and device texts from the other, what takes longest first."""

from __future__ import annotations

import time
from collections import deque
from collections.abc import Callable, Iterator
from contextlib import suppress
from importlib import import_module
from pathlib import Path
from threading import Lock, Thread

LONGEST = ("run_lanes", "advance", "follow", "look", "scatter", "noise", "transfer", "determinants")
"""Functions that take long to compile; what the first calls the others call too, and it is there when they come."""
BAR = 24


def prepare(say: Callable[[str], None]) -> None:
    """Makes what is not there; `say` gets a line for each. Raises HearthlineError where a compiler fails."""
    from hearthline.core.workers import worker_count

    begin = time.perf_counter()
    tasks = [*_functions(), *_texts()]
    waiting = deque(tasks)
    done, lock, problems = 0, Lock(), []

    def made(task: str) -> None:
        nonlocal done
        with lock:
            done += 1
            full = BAR * done // max(1, len(tasks))
            say(f"{'█' * full}{'░' * (BAR - full)} {done}/{len(tasks)} {_spoken(task)}")

    def work(number: int) -> None:
        try:
            _worker(waiting, number == 0, made)
        except Exception as problem:
            problems.append(problem)

    threads = [Thread(target=work, args=(k,)) for k in range(min(worker_count(), max(1, len(tasks))))]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    if problems:
        raise problems[0]
    _write_bytecode()
    say(f"kernels ready in {time.perf_counter() - begin:.1f} s")


def _worker(waiting: deque[str], first: bool, made: Callable[[str], None]) -> None:
    """Hands one task after the other to a process of its own: the first from the front, others from the back."""
    from hearthline.core.compiled.loading import begin, finish

    process = begin([], say=True)
    assert process.stdin is not None
    assert process.stdout is not None
    while process.poll() is None and waiting:
        try:
            task = waiting.popleft() if first else waiting.pop()
        except IndexError:  # another was faster
            break
        process.stdin.write(task + "\n")
        process.stdin.flush()
        if not process.stdout.readline():
            break
        made(task)
    finish(process)


def _functions() -> Iterator[str]:
    """Those that are not kept, what takes longest first, then device kernels."""
    from hearthline.core.analyses import ANALYSES
    from hearthline.core.compiled.entry import Entry
    from hearthline.core.compiled.objects import kept
    from hearthline.core.elements import DEVICES, HOT

    modules = {name for one in ANALYSES.values() for name in one.drivers}
    modules |= {"hearthline.core.engine.kernels.following", "hearthline.core.engine.linear.pattern"}
    modules |= {"hearthline.core.fields.gathering", "hearthline.core.fields.passes"}
    found: dict[str, str] = {}
    for module in sorted(modules):
        entries = [one for one in vars(import_module(module)).values() if isinstance(one, Entry)]
        found |= {one.name: one.__name__ for one in entries}
    names = sorted(found, key=lambda name: LONGEST.index(found[name]) if found[name] in LONGEST else len(LONGEST))
    kinds = [*DEVICES.values(), *HOT]
    names += [f"{kind.kernel.function.__module__}:{kind.kernel.function.__name__}" for kind in kinds]
    yield from (name for name in dict.fromkeys(names) if kept(name) is None)


def _texts() -> Iterator[str]:
    """Devices of the demo, and of the library, long texts last."""
    from hearthline.core.models.library import FOLDER, library_names

    sizes = {name: (FOLDER / f"{name}.va").stat().st_size for name in library_names()}
    yield from (f"file {path}" for path in sorted((Path(__file__).parent / "demo").glob("*/devices/*.va")))
    yield from (f"text {name}" for name in sorted(sizes, key=lambda name: sizes[name]))


def _write_bytecode() -> None:
    """Of our own modules; where nobody does, each start compiles them, which takes a third of it."""
    from compileall import compile_dir

    with suppress(OSError):
        compile_dir(Path(__file__).parent, quiet=2)


def _spoken(task: str) -> str:
    kind, _, rest = task.partition(" ")
    if kind == "text":
        return f"device {rest}"
    if kind == "file":
        return f"device {Path(rest).stem} of the demo"
    module, _, name = task.partition(":")
    where = module.rpartition(".")[2]
    return f"kernel of the {where.replace('_', ' ')}" if name == "_kernel" else f"{where}: {name}"
