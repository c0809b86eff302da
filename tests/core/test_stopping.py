"""Commands that are stopped or started twice into one folder, caches that are not what was written, sizes that no circuit has."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import tempfile
from contextlib import contextmanager
from itertools import pairwise

import pytest

from hearthline.cli import main
from hearthline.core.circuit.cell import Cell, Part
from hearthline.core.circuit.flatten import Library, flatten
from hearthline.core.compiled import objects, own_folder
from hearthline.core.errors import CircuitError
from hearthline.core.models.veriloga import kept
from hearthline.core.models.veriloga.compiler import compile_text
from tests.approximation import approx
from tests.modules import HEADERS, Device

LONG = "t\nv1 a 0 sin(0 1 1meg)\nr1 a b 1k\nc1 b 0 1n\n.op\n.tran 1n 3600\n"


@contextmanager
def at_work(folder):
    """A solve of an hour whose first analysis is written."""
    (folder / "t.cir").write_text(LONG)
    command = [sys.executable, "-m", "hearthline", "solve", "t.cir", "--out", "out", "--stats"]
    with subprocess.Popen(command, cwd=folder, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True) as run:
        assert '"analysis": "op"' in run.stdout.readline()
        try:
            yield run
        finally:
            run.kill()


@pytest.mark.parametrize("number", [signal.SIGINT, signal.SIGTERM])
def test_a_stopped_solve_keeps_what_was_finished(tmp_path, number):
    """Exit status 128 + n as shells have it, a sentence, and no half-written file."""
    with at_work(tmp_path) as run:
        run.send_signal(number)
        _, said = run.communicate(timeout=20)
    assert run.returncode == 128 + number
    assert "stopped; what was finished before stays" in said
    assert "Traceback" not in said
    assert [path.name for path in (tmp_path / "out").iterdir()] == ["01-op.csv"]


def test_two_commands_into_one_folder(tmp_path, monkeypatch, capsys):
    """The second is refused and changes nothing; once the first has ended it may."""
    monkeypatch.chdir(tmp_path)
    with at_work(tmp_path):
        (tmp_path / "u.cir").write_text("u\nv1 a 0 2\nr1 a 0 1\n.op\n")
        before = (tmp_path / "out" / "01-op.csv").read_text()
        assert main(["solve", "u.cir", "--out", "out"]) != 0
        assert "give each its own" in capsys.readouterr().err
        assert (tmp_path / "out" / "01-op.csv").read_text() == before
    assert main(["solve", "u.cir", "--out", "out"]) == 0
    assert (tmp_path / "out" / "01-op.csv").read_text() != before


def conductance(siemens: str) -> str:
    """A device text of its own."""
    body = f"module g(p, n); inout p, n; electrical p, n; analog I(p, n) <+ {siemens} * V(p, n); endmodule\n"
    return f"{HEADERS}{body}"


def test_a_damaged_cache_is_as_good_as_none(tmp_path, monkeypatch):
    """Every file cut, or with one byte changed: the text is compiled anew, and right."""
    monkeypatch.setattr(kept, "cache_folder", lambda: tmp_path)
    compile_text(conductance("0.25"), "g.va")
    files = [path for path in tmp_path.iterdir() if path.is_file()]
    assert files
    for damage in (
        lambda data: data[: len(data) // 2],
        lambda data: data[:-1] + bytes([data[-1] ^ 1]),
        lambda data: b"",
    ):
        for path in files:
            path.write_bytes(damage(path.read_bytes() or b"x"))
        assert Device(compile_text(conductance("0.25"), "g.va")[0]).at(2.0, 0.0).current[0] == approx(0.5)


def test_a_folder_that_others_may_write_to_is_no_cache(tmp_path):
    """What is in it is run."""
    assert own_folder.is_our_own(tmp_path)
    tmp_path.chmod(0o777)
    assert not own_folder.is_our_own(tmp_path)
    (tmp_path / "link").symlink_to(tmp_path)
    assert not own_folder.is_our_own(tmp_path / "link")


@pytest.mark.parametrize("name", ["models", "engine"])
def test_nothing_that_is_run_lies_where_others_may_write(tmp_path, monkeypatch, name):
    """Neither the user's cache folder nor the temporary one is used where somebody else could have put something there; and
    what is compiled of the engine never lies beside a folder for temporary files."""
    monkeypatch.setattr(own_folder, "user_cache_path", lambda _: tmp_path / "open")
    monkeypatch.setattr(tempfile, "tempdir", str(tmp_path))
    (tmp_path / "open").mkdir()
    (tmp_path / "open").chmod(0o777)
    own = tmp_path / f"hearthline-{os.getuid()}"
    find = own_folder.own_folder.__wrapped__
    assert find(name) == own / name
    (own / name).chmod(0o777)
    assert find(name).parent not in (tmp_path, own, tmp_path / "open")
    if name == "engine":
        monkeypatch.setattr(objects, "own_folder", find)
        found = objects.folder.__wrapped__()
        assert found.parent.parent.parent == tmp_path
        assert own_folder.is_our_own(found.parent.parent)


def test_a_tower_of_cells_is_refused_before_it_is_built():
    """Nine floors of ten: a thousand million resistors."""
    floors = [f"t{k}" for k in range(9)] + ["resistor"]
    cells = {
        name: Cell(name, parts=tuple(Part(f"X{k}", inner, (30 * k, 0)) for k in range(10)))
        for name, inner in pairwise(floors)
    }
    with pytest.raises(CircuitError, match="parts"):
        flatten(cells["t0"], Library(cells, {}))
