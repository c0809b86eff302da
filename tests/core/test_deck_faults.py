"""Decks, device texts and results that are damaged, and runs that are killed: a message and never a trace back; what was finished stays."""

from __future__ import annotations

import csv
import os
import signal
import subprocess
import sys
from contextlib import suppress
from datetime import UTC, datetime

import pytest
from hypothesis import HealthCheck, given
from hypothesis import strategies as st

from hearthline.app.start import DEMO
from hearthline.core.bench.run import run_bench
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.errors import FileError, HearthlineError, ModelError
from hearthline.core.formats.deck.plan import plan
from hearthline.core.formats.deck.reader import read
from hearthline.core.formats.project_folder import read_project
from hearthline.core.formats.run_file import read_run, write_run
from hearthline.core.models.library import FOLDER
from hearthline.core.models.veriloga.compiler import compile_text
from tests.examples import examples

DECK = """everything
.param a=1 b={a*2}
.subckt inv in out vdd w=1u
mn out in 0 0 n w={w} l=0.2u
mp out in vdd vdd p w={2*w} l=0.2u
.ends inv
.model n nmos vto=0.4
.model p pmos vto=-0.4 ; a comment
x1 a b vdd inv w=2u
x2 b c vdd inv
vdd vdd 0 1.2
va a 0 dc 0 ac 1 pwl(0 0 1n 1)
b1 q 0 v={a*v(c)^2 + i(va)}
e1 r 0 poly(1) c 0 0 1 0.5
rq q 0 1k
+ tc1=1m
rr r 0 1k
l1 c s 1u ic=0
l2 s2 0 1u
k1 l1 l2 0.5
rs s 0 'b*1k'
rs2 s2 0 1k
t1 c 0 d 0 z0=50 td=1n
rd d 0 50
.ic v(b)=1
.nodeset v(c)=0
.options reltol=1e-4 method=gear
.op
.dc va 0 1 0.5 vdd 1 1.2 0.1
.ac dec 2 1 10
.tran 10p 2n uic
.noise v(c) va dec 2 1 10
.end
"""
PIECES = ["{", "}", "(", ")", "=", ",", "'", '"', "1e999", "-1", "0", "nan", "inf", "v(", "poly(2)", ".ends", ".subckt x", "*",
          "+", "$", ";", "\x00", "µ", "1k1k", "pulse(", "\n", "\n+ ", "k1 ", "b1 ", " "]  # fmt: skip
DAMAGE = st.lists(
    st.tuples(st.integers(0, len(DECK)), st.integers(0, 12), st.one_of(st.sampled_from(PIECES), st.text(max_size=3))),
    min_size=1, max_size=4,
)  # fmt: skip


@examples(150, [HealthCheck.function_scoped_fixture])  # the folder is empty enough: its one file is written anew
@given(damage=DAMAGE)
def test_a_damaged_deck_is_read_or_refused(tmp_path, damage):
    """Pieces cut out and others put in, anywhere."""
    text = DECK
    for place, cut, piece in damage:
        text = text[:place] + piece + text[place + cut :]
    path = tmp_path / "t.cir"
    path.write_text(text, encoding="utf-8", errors="replace")
    with suppress(HearthlineError):
        assert plan(read(path, "t.cir"))


def test_the_undamaged_deck_runs(tmp_path):
    """All its analyses: the damage above is done to something that works."""
    path = tmp_path / "t.cir"
    path.write_text(DECK)
    for task in plan(read(path, "t.cir")):
        assert not task.run().failures, task.kind


def test_a_run_that_is_killed_leaves_what_was_finished(tmp_path):
    """Killed in the middle of a transient of an hour: the table before it is whole, and no half table has a name."""
    (tmp_path / "t.cir").write_text("t\nv1 a 0 sin(0 1 1meg)\nr1 a b 1k\nc1 b 0 1n\n.op\n.tran 1n 3600\n")
    command = [sys.executable, "-m", "hearthline", "solve", "t.cir", "--out", "out", "--stats"]
    with subprocess.Popen(command, cwd=tmp_path, stdout=subprocess.PIPE, text=True) as run:
        assert '"analysis": "op"' in run.stdout.readline()
        os.kill(run.pid, signal.SIGKILL)
    tables = [path for path in (tmp_path / "out").iterdir() if path.suffix == ".csv"]
    assert [path.name for path in tables] == ["01-op.csv"]
    with open(tables[0], newline="") as file:
        header, row = csv.reader(file)
    assert len(header) == len(row)


LIBRARY_TEXT = (FOLDER / "diode.va").read_text(encoding="utf-8")
TEXT_PIECES = ["begin", "end", ";", "(", ")", "<+", "V(p)", "ddt(", "if (", "else", "module", "endmodule", "`define X", "`X", "`",
               "1e999", "0", "/", "exp(", "parameter real q = 1;", "analog", "\n", "//", "/*", '"', "µ", "while (1)", "@("]  # fmt: skip
TEXT_DAMAGE = st.lists(
    st.tuples(st.integers(0, len(LIBRARY_TEXT)), st.integers(0, 20), st.sampled_from(TEXT_PIECES)),
    min_size=1,
    max_size=3,
)


@examples(40)
@given(damage=TEXT_DAMAGE)
def test_a_damaged_device_text_is_compiled_or_refused(damage):
    """The diode of the library with pieces cut out and others put in: modules, or mistakes with their lines."""
    text = LIBRARY_TEXT
    for place, cut, piece in damage:
        text = text[:place] + piece + text[place + cut :]
    with suppress(ModelError):
        assert compile_text(text, "damaged.va", FOLDER)


def test_a_result_file_cut_in_half_says_so(tmp_path):
    """And is no longer taken for a run."""
    project = read_project(DEMO)
    run = run_bench(Snapshot(project.benches["inv_x1-transfer"], project.cells, project.kit))
    path = write_run(tmp_path, run, datetime(2026, 11, 23, tzinfo=UTC))
    whole = path.read_bytes()
    read_run(path)
    for part in (len(whole) // 2, 100, 0):
        path.write_bytes(whole[:part])
        with pytest.raises(FileError, match="is damaged"):
            read_run(path)
