"""Damaged inputs without end: files of the demo with pieces cut out, doubled, exchanged and put in, each a function of its number.
A reader answers with what it read or with an error of its own; anything else, and any long wait, is a fault.

    python -m tests.fuzz [--only KIND] [--first N] [--seconds S]

With the same kind and number comes the same input, so that a fault that is reported can be looked at again with `--first N
--seconds 0`; its damage then belongs into a test beside its mend.
"""

from __future__ import annotations

import argparse
import itertools
import random
import signal
import sys
import tempfile
import time
import traceback
from collections.abc import Callable
from contextlib import contextmanager
from functools import cache
from pathlib import Path

from hearthline.app.start import DEMO
from hearthline.core.circuit.flatten import Library, flatten
from hearthline.core.errors import HearthlineError
from hearthline.core.formats import journal
from hearthline.core.formats.bench_file import bench_of, bench_text
from hearthline.core.formats.cell_file import cell_data, cell_of
from hearthline.core.formats.deck.plan import plan
from hearthline.core.formats.deck.reader import read
from hearthline.core.formats.kit_folder import INSTALLED, read_kit
from hearthline.core.formats.project_folder import read_project
from hearthline.core.formats.run_file import read_run
from hearthline.core.formats.toml_table import parse_toml, read_version, toml_text
from hearthline.core.models.library import FOLDER
from hearthline.core.models.veriloga.compiler import compile_text

LONGEST = 20.0
"""What one input may take [s]."""
PIECES = (
    "{", "}", "(", ")", "[", "]", "=", ",", "'", '"', "\\", "/", "../", "\n", "\n+ ", "\n\n", "#", "*", ";", "$", "`", "`define X `X",
    "\x00", "\x1b[2J", "µ", "\u202e", "\ud800", "0", "-1", "-0", "1e999", "1e308", "1e-320", "9" * 400, "9" * 5000, "nan", "inf", "true",
    "1k1k", "_0", "__import__('os')", "a.b.c", "<b>x</b>", "(" * 300, "-" * 2000, "[" * 3000, "1+" * 2000 + "1", "V(p,n)", "ddt(", "begin",
    "end", "while (1)", "for (i=0; i<1000000000; i=i+1)", "poly(3)", ".ends", ".subckt x y", ".include deck.cir", "k1 ", "b1 a 0 v=", "uic",
    "[0:1000000000]", "version = 99", "name = 5", "at = [1, 2, 3]", "step = 0",
)  # fmt: skip


def damaged(text: str, number: int) -> str:
    """The text with one to four things done to it."""
    chance = random.Random(number)
    for _ in range(chance.choice((1, 1, 2, 3, 4))):
        text = chance.choice((_cut, _put_in, _put_in, _exchange_word, _double_lines, _exchange_lines, _cut_off))(
            text, chance
        )
    return text


def _cut(text: str, chance: random.Random) -> str:
    at = chance.randint(0, len(text))
    return text[:at] + text[at + chance.choice((1, 1, 3, 10, 50)) :]


def _put_in(text: str, chance: random.Random) -> str:
    at = chance.randint(0, len(text))
    return text[:at] + chance.choice(PIECES) + text[at:]


def _exchange_word(text: str, chance: random.Random) -> str:
    words = text.split(" ")
    words[chance.randrange(len(words))] = chance.choice((*PIECES, *chance.sample(words, min(3, len(words)))))
    return " ".join(words)


def _double_lines(text: str, chance: random.Random) -> str:
    lines = text.split("\n")
    at = chance.randrange(len(lines))
    return "\n".join([*lines[:at], *lines[at : at + chance.randint(1, 8)] * chance.choice((2, 2, 50)), *lines[at:]])


def _exchange_lines(text: str, chance: random.Random) -> str:
    lines = text.split("\n")
    a, b = chance.randrange(len(lines)), chance.randrange(len(lines))
    lines[a], lines[b] = lines[b], lines[a]
    return "\n".join(lines)


def _cut_off(text: str, chance: random.Random) -> str:
    return text[: chance.randint(0, len(text))]


@cache
def _texts(pattern: str) -> tuple[str, ...]:
    return tuple(path.read_text(encoding="utf-8") for path in sorted(DEMO.glob(pattern)))


@cache
def _project():
    return read_project(DEMO)


def _one(pattern: str, number: int) -> str:
    texts = _texts(pattern)
    return damaged(texts[number % len(texts)], number)


def deck(number: int, folder: Path) -> None:
    """Reads it, plans its analyses and solves for operating points."""
    path = folder / "deck.cir"
    path.write_text(_one("decks/*.cir", number), encoding="utf-8", errors="replace")
    for task in plan(read(path, "deck.cir")):
        if task.kind == "op":
            task.run()


def device(number: int, folder: Path) -> None:
    """Compiles one, of the demo or of the library."""
    texts = (*_texts("devices/*.va"), *(p.read_text(encoding="utf-8") for p in sorted(FOLDER.glob("*.va"))))
    compile_text(damaged(texts[number % len(texts)], number), "device.va", FOLDER)


def bench(number: int, folder: Path) -> None:
    """Reads it; what was read is written and read again as the same."""
    table = parse_toml(_one("benches/*.toml", number), "bench.toml")
    read_version(table, 1)
    found = bench_of(table)
    table = parse_toml(bench_text(found), "bench.toml")
    read_version(table, 1)
    assert bench_of(table) == found, "not the same when read again"


def cell(number: int, folder: Path) -> None:
    """Reads it, writes and reads it again, and makes a circuit of it."""
    table = parse_toml(_one("cells/*.toml", number), "cell.toml")
    read_version(table, 1)
    found = cell_of(table, "cell")
    table = parse_toml(toml_text(cell_data(found)), "cell.toml")
    read_version(table, 1)
    assert cell_of(table, "cell") == found, "not the same when read again"
    demo = _project()
    flatten(found, Library(demo.cells, demo.kit.symbols, demo.kit.templates, demo.kit.modules))


def project(number: int, folder: Path) -> None:
    """Reads the list of a project that has no other files."""
    text = damaged((DEMO / "project.toml").read_text(encoding="utf-8"), number)
    (folder / "project.toml").write_text(text, encoding="utf-8", errors="replace")
    read_project(folder)


def kit(number: int, folder: Path) -> None:
    """Reads a kit with its list or its models damaged."""
    for path in (INSTALLED / "lm130").iterdir():
        if path.is_file():
            (folder / path.name).write_bytes(path.read_bytes())
    damage = folder / random.Random(number).choice(
        ("kit.toml", "kit.toml", "lm130.lib", "lm130_mos.inc", "lm130_r.inc")
    )
    if damage.exists():
        text = damaged(damage.read_text(encoding="utf-8"), number)
        damage.write_text(text, encoding="utf-8", errors="replace")
    read_kit(folder)


def run(number: int, folder: Path) -> None:
    """Reads results with bytes that are not what was written."""
    data, chance = bytearray(_run()), random.Random(number)
    for _ in range(chance.choice((1, 10, 100))):
        data[chance.randrange(len(data))] = chance.randrange(256)
    (folder / "damaged.run.nc").write_bytes(
        bytes(data[: chance.choice((len(data), len(data), chance.randrange(len(data))))])
    )
    read_run(folder / "damaged.run.nc")


@cache
def _run() -> bytes:
    from datetime import UTC, datetime

    from hearthline.core.bench.run import run_bench
    from hearthline.core.bench.snapshot import Snapshot
    from hearthline.core.formats.run_file import write_run

    demo = _project()
    with tempfile.TemporaryDirectory() as folder:
        done = run_bench(Snapshot(demo.benches["inv_x1-transfer"], demo.cells, demo.kit))
        return write_run(Path(folder), done, datetime(2026, 11, 23, tzinfo=UTC)).read_bytes()


def unsaved(number: int, folder: Path) -> None:
    """Reads a journal."""
    demo = _project()
    kept = journal.Journal(folder)
    kept.write((*list(demo.cells.values())[:2], *list(demo.benches.values())[:2]), {"a.va": "module a; endmodule"})
    kept.path.write_text(damaged(kept.path.read_text(encoding="utf-8"), number), encoding="utf-8", errors="replace")
    journal.read(kept.path)


KINDS: dict[str, Callable[[int, Path], None]] = {
    "deck": deck, "device": device, "bench": bench, "cell": cell, "project": project, "kit": kit, "run": run, "journal": unsaved,
}  # fmt: skip


@contextmanager
def _at_most(seconds: float):
    def too_long(*_):
        raise TimeoutError(f"no answer in {seconds:g} s")

    before = signal.signal(signal.SIGALRM, too_long)
    signal.setitimer(signal.ITIMER_REAL, seconds)
    try:
        yield
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)
        signal.signal(signal.SIGALRM, before)


def fault(kind: str, number: int) -> str:
    """The trace back of an input that is not answered well, or nothing."""
    with tempfile.TemporaryDirectory() as folder:
        try:
            with _at_most(LONGEST):
                KINDS[kind](number, Path(folder))
        except HearthlineError as error:
            return "" if str(error).strip() else "an error without a word"
        except Exception:
            return traceback.format_exc()
    return ""


def main() -> int:
    """Goes through the kinds in turn until the time is over; exit status 1 when there was a fault."""
    parser = argparse.ArgumentParser(description=__doc__.split("\n")[0])
    parser.add_argument("--only", choices=KINDS, help="one kind of input")
    parser.add_argument("--first", type=int, default=0, help="number of the first input")
    parser.add_argument("--seconds", type=float, default=60.0, help="how long to go on; 0 for one input of each kind")
    options = parser.parse_args()
    kinds, end = [options.only] if options.only else list(KINDS), time.monotonic() + options.seconds
    faults = 0
    for number in itertools.count(options.first):
        for kind in kinds:
            if found := fault(kind, number):
                faults += 1
                print(
                    f"{found}\nfault: again with  python -m tests.fuzz --only {kind} --first {number} --seconds 0\n",
                    flush=True,
                )
        if time.monotonic() >= end:
            break
    print(f"{len(kinds) * (number + 1 - options.first)} inputs, {faults} faults; go on with --first {number + 1}")
    return int(faults > 0)


if __name__ == "__main__":
    sys.exit(main())
