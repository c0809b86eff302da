"""Machine code of the engine: made by a process of its own, kept, loaded without the compiler, and made anew when it must be."""

from __future__ import annotations

import subprocess
import sys
from typing import NamedTuple

import numpy as np
import pytest

from hearthline.core.compiled import loading, objects
from hearthline.core.compiled.codes import FLOAT, IM, INT, UB, ZM, F, I, record, words_of
from hearthline.core.compiled.jit import entry, inner
from hearthline.core.compiled.runtime import renamed
from hearthline.core.errors import HearthlineError
from tests.approximation import approx


class Pair(NamedTuple):
    """A record in a record's place."""

    numbers: np.ndarray
    scale: float


PAIR = record(Pair, F, FLOAT)


@inner
def weighed(numbers, scale):
    """A sum, with memory of its own on the way."""
    held = np.zeros(numbers.shape[0])
    for k in range(numbers.shape[0]):
        held[k] = scale * numbers[k]
    total = 0.0
    for k in range(held.shape[0]):
        total += held[k]
    return total


@entry(PAIR, IM, ZM, UB, INT, I, gives=FLOAT)
def everything(pair, table, waves, flags, count, out):
    """One argument of each kind."""
    out[0] = table[1, 2] + count
    waves[0, 1] = waves[0, 0] * 1j
    flags[0] = 7
    return weighed(pair.numbers, pair.scale)


def test_arguments_of_every_kind_arrive_and_results_come_back():
    """Arrays are written in place; a number comes back whole."""
    table, waves = np.arange(6).reshape(2, 3), np.array([[2.0 + 1j, 0]])
    flags, out = np.zeros(2, np.uint8), np.zeros(1, np.int64)
    found = everything(Pair(np.array([0.5, 0.25]), 1.0 / 3.0), table, waves, flags, -9, out)
    assert found == approx(0.25, rel=1e-15)
    assert out[0] == 5 - 9
    assert waves[0, 1] == -1.0 + 2j
    assert flags.tolist() == [7, 0]
    assert everything.__doc__.startswith("One argument")


@pytest.mark.parametrize(
    ("value", "code"),
    [(np.zeros(3, np.float32), F), (np.zeros((2, 2)), F), (np.zeros((4, 4))[:, 1], F), (np.zeros(3, np.int32), I)],
)
def test_what_does_not_fit_is_refused_before_it_is_handed_over(value, code):
    """Compiled code looks at no types, no shapes, and no gaps."""
    with pytest.raises(TypeError):
        words_of((code,), (value,), [])
    with pytest.raises(ValueError, match="has 2 fields"):
        record(Pair, F)


def test_damaged_or_outdated_code_is_made_anew(tmp_path, monkeypatch):
    """A flipped bit, a file cut short, another source: none of them is run."""
    name = "tests.core.test_compiled:everything"
    everything.load()
    symbol, code = objects.kept(name)
    monkeypatch.setattr(objects, "folder", lambda: tmp_path)
    assert objects.kept(name) is None
    objects.keep(name, symbol, code)
    assert objects.kept(name) == (symbol, code)
    path = next(tmp_path.glob("*.code"))
    whole = path.read_bytes()
    for damaged in (whole[:-1] + bytes([whole[-1] ^ 1]), whole[: len(whole) // 2], b""):
        path.write_bytes(damaged)
        assert objects.kept(name) is None
    path.write_bytes(whole)
    monkeypatch.setattr(objects, "_stamp", lambda path: "another")
    assert objects.kept(name) is None


def test_sources_are_all_that_a_function_may_call():
    """Of the march in time the matrix and the devices' calls; not what only Python uses."""
    found = objects.sources_of("hearthline.core.engine.transient.march")
    for one in ("engine/newton.py", "engine/linear/sparse.py", "engine/transient/rules.py", "models/calling.py"):
        assert f"hearthline/core/{one}" in found
    assert not any("bench" in path or "formats" in path for path in found)


def test_a_function_that_cannot_be_compiled_says_so():
    """With the last word of the compiler."""
    with pytest.raises(HearthlineError, match="could not be compiled: .*no_such_function"):
        loading.code_of("hearthline.core.engine.drive:no_such_function")


def test_what_the_runtime_lacks_is_found_when_code_is_made():
    """And not when it is called."""
    assert b"HLM_Free" in renamed(b"x\0NRT_Free\0y")
    with pytest.raises(ValueError, match="wants HLM_Surprise"):
        renamed(b"x\0NRT_Surprise\0y")


def test_a_deck_is_solved_without_the_compiler(tmp_path):
    """Neither Numba nor SciPy is imported by a run whose machine code is there."""
    deck = tmp_path / "d.cir"
    deck.write_text(
        "t\nv1 a 0 pulse(0 1 0 1n 1n 1u 2u) ac 1\nr1 a b 1k\nc1 b 0 1n\n.op\n.ac dec 2 1k 1meg\n.tran 10n 2u\n"
    )
    run = f"from hearthline.cli import main; main(['solve', {str(deck)!r}, '--out', {str(tmp_path / 'o')!r}])"
    text = f"{run}; import sys; print(sorted({{'numba', 'scipy', 'PyQt6'}} & set(sys.modules)))"
    subprocess.run([sys.executable, "-c", text], check=True, capture_output=True)  # everything is made
    again = subprocess.run([sys.executable, "-c", text], check=True, capture_output=True, text=True)
    assert again.stdout.strip() == "[]"
