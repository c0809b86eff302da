"""Ports, looks and files of a bench as scripts use them: what is wrong is named by file and line, and what is written."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from numpy.testing import assert_allclose

from hearthline.cli import main
from hearthline.core.formats.touchstone import read_touchstone
from tests.benches import bench_text

PARTS = "r1 a b 30\nc1 b 0 1p\nr2 b 0 1k\n.subckt two p q\nr1 p q 100\n.ends\nx1 a b two\n"
S1P = "# GHz S RI\n0 0 0\n1 0 0\n"
LINES = {"sp": "scattering from 1G to 2G points 3 spaced even"}


@pytest.fixture
def run(tmp_path, monkeypatch, capsys):
    """Runs a bench over `PARTS`, texts exchanged; gives the exit status, what was said, and the folder of the results."""
    monkeypatch.chdir(tmp_path)

    def run(*exchanged: tuple[str, str], lines=LINES, more: str = "", **options) -> tuple[int, str, Path]:
        text = bench_text(lines, more=more, **options)
        for old, new in exchanged:
            assert old in text
            text = text.replace(old, new, 1)
        (tmp_path / "b.toml").write_text(text)
        (tmp_path / "circuit.cir").write_text(f"test\n{PARTS}.end\n")
        (tmp_path / "load.s1p").write_text(S1P)
        (tmp_path / "bad.s1p").write_text(S1P.replace("1 0 0", "1 0 0\n0.5 0 0"))
        status = main(["run", "b.toml", "--out", "out"])
        return status, capsys.readouterr().err, tmp_path / "out"

    return run


BLOCK = {"load.s1p": ("a",)}


@pytest.mark.parametrize(
    ("exchanged", "options", "said"),
    [
        ([('number = "2"', 'number = "1"')], {}, "b.toml:20: p1 and p2 are both port number 1; give one of them another number"),
        ([('number = "2"', 'number = "3"')], {}, "b.toml:20: there is no port number 2, and p2 has number 3; ports count from 1 on"),
        ([('number = "2"\n', "")], {}, "b.toml:19: port p2: its number is 1, 2, 3 and so on, and is 'not there'"),
        ([('number = "2"', 'number = "2.5"')], {}, "b.toml:20: port p2: its number is 1, 2, 3 and so on, and is '2.5'"),
        ([('impedance = "50"', 'impedance = "0"')], {}, "b.toml:14: port p1: the real part of its impedance must be above 0 Ω, and is 0 Ω"),
        ([('impedance = "50"', 'impedance = "-5+20j"')], {}, "b.toml:14: port p1: the real part of its impedance must be above 0 Ω, and is -5 Ω"),
        ([('impedance = "50"', 'impedance = "fifty ohms"')], {}, "b.toml:14: "),
        ([('pin = "b"', 'pin = "z"')], {}, "b.toml:18: stimulus p2: deck circuit.cir has no net 'z'"),
        ([('name = "p2"', 'name = "p1"')], {}, "b.toml:17: there are two stimuli 'p1'; rename one of them"),
        ([], {"ports": {}}, "b.toml:12: the circuit has no port"),
        ([], {"lines": {"l": "look at r1.g from 1G to 2G points 1"}}, "b.toml:24: r1 has no terminal 'g'; it has p, n"),
        ([], {"lines": {"l": "look at r9.p from 1G to 2G points 1"}}, "b.toml:24: there is no part 'r9'"),
        ([], {"lines": {"l": "look at x1.z from 1G to 2G points 1"}}, "b.toml:24: x1 has no terminal 'z', or it is on no net"),
        ([], {"lines": {"l": "look at r1 from 1G to 2G points 1"}}, "b.toml:24: "),
        ([('nets = ["a"]', 'nets = ["a", "b", "0"]')], {"blocks": BLOCK}, "b.toml:25: x1: load.s1p has 1 port, and there are 3 nets"),
        ([('file = "load.s1p"', 'file = "none.s1p"')], {"blocks": BLOCK}, "b.toml:24: there is no file 'none.s1p' beside this one"),
        ([('file = "load.s1p"', 'file = "bad.s1p"')], {"blocks": BLOCK}, "bad.s1p:4: frequency 0.5 comes behind 1"),
        ([('name = "x1"', 'name = "r1"')], {"blocks": BLOCK}, "b.toml:25: block 'r1' has the name of a part; rename one of them"),
    ],
)  # fmt: skip
def test_wrong_input_is_named_by_line(run, exchanged, options, said):
    """Status 2, and nothing is written."""
    status, told, out = run(*exchanged, **options)
    assert told.startswith(said)
    assert status == 2
    assert not out.exists()


@pytest.mark.parametrize(
    ("formula", "said"),
    [
        ("distance(impedance_of(1), -50)", "wants an impedance with a real part above 0 Ω"),
        ("gain_at(5e9)", "nan"),
        ("distance(impedance_of(1), 50, 5e9, 6e9)", "nan"),
        ("return_loss(3, 1e9)", "S(3,3)"),
        ("mu_min(2e9, 1e9)", "nan"),
        ("unstable_poles()", "there is no 'stability.turns'"),
    ],
)
def test_readings_that_cannot_be(run, formula, said):
    """A wanted impedance of less than nothing, a frequency outside, a port that is not there: at the formula's line, or no number."""
    status, told, out = run(more=f'[[readings]]\nname = "x"\nformula = "{formula}"\nanalysis = "sp"\n')
    if said == "nan":
        assert status == 0
        assert "nan" in (out / "readings.csv").read_text()
    else:
        assert status == 2
        assert told.partition("\n")[2].startswith("b.toml:27: ") or told.startswith("b.toml:27: ")
        assert said in told


def test_waves_are_written_at_50_ohms(run):
    """One file a condition, what the tables hold renormalised; ports of another impedance."""
    status, _, out = run(('temperatures = ["27"]', 'temperatures = ["0", "27"]'), ports={"a": "20+5j", "b": "75"})
    assert status == 0
    assert sorted(path.name for path in out.glob("*.s2p")) == ["sp-1.s2p", "sp-2.s2p"]
    assert (out / "sp-1.s2p").read_text().splitlines()[0] == "# Hz S RI R 50"
    found = read_touchstone(out / "sp-1.s2p")
    omega = 2j * np.pi * found.frequencies
    series, shunt = 1 / (1 / 30 + 1 / 100), 1 / 1e3 + 1e-12 * omega
    through = 2 / (2 + series / 50 + shunt * 50 + series * shunt)
    assert_allclose(found.s[:, 1, 0], through, rtol=1e-9)
    status, _, out = run()
    assert [path.name for path in out.glob("*.s2p")] == ["sp.s2p"]


def test_a_block_may_carry_a_stimulus(run):
    """Nets that only files and stimuli have are nets too."""
    status, told, _ = run(('pin = "b"', 'pin = "far"'), blocks={"load.s1p": ("far",)})
    assert (status, told.count("\n")) == (0, 2)
