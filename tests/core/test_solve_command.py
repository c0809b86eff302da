"""`hearthline solve` as scripts use it: files, exit status, statistics, and nothing written on wrong input."""

from __future__ import annotations

import csv
import json
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

from hearthline.app.start import DEMO
from hearthline.cli import main
from tests.approximation import approx

GOOD = (
    "title\nV1 In 0 1\nR1 in OUT 1k\nM1 out in 0 0 nm W=1u L=1u\n.model nm nmos vto=0.4 kp=100u\n.op\n.dc V1 0 1 0.25\n"
)


def table(path: Path) -> tuple[list[str], np.ndarray]:
    """Header and numbers of a result."""
    with open(path, newline="") as file:
        rows = list(csv.reader(file))
    return rows[0], np.array([[float(cell) for cell in row] for row in rows[1:]])


@pytest.fixture
def run(tmp_path, monkeypatch):
    """Writes a deck and solves it in its folder; returns exit status and output folder."""
    monkeypatch.chdir(tmp_path)

    def run(text: str, *options: str) -> tuple[int, Path]:
        (tmp_path / "deck.cir").write_text(text)
        return main(["solve", "deck.cir", "--out", "res/ults", *options]), tmp_path / "res" / "ults"

    return run


def test_one_file_for_each_analysis(run):
    """In the order of the deck, swept column first, names in lower case, V and I capital."""
    status, out = run(GOOD)
    assert status == 0
    assert sorted(path.name for path in out.iterdir()) == ["01-op.csv", "02-dc.csv"]
    header, numbers = table(out / "02-dc.csv")
    assert header[:4] == ["v1", "V(in)", "V(out)", "I(v1)"]
    assert {"m1.id", "m1.gm", "m1.vth"} <= set(header)
    np.testing.assert_allclose(numbers[:, 0], [0, 0.25, 0.5, 0.75, 1])
    header, numbers = table(out / "01-op.csv")
    assert header[0] == "V(in)"
    assert numbers.shape[0] == 1


def test_numbers_keep_full_precision(run):
    """A third survives the file."""
    _, out = run("t\nv1 a 0 1\nr1 a b 2\nr2 b 0 1\n.op\n")
    header, numbers = table(out / "01-op.csv")
    assert numbers[0, header.index("V(b)")] == approx(1 / 3, rel=1e-15)


def test_statistics_are_one_json_line_an_analysis(run, capsys):
    """With what a harness wants to know."""
    run(GOOD, "--stats")
    lines = [json.loads(line) for line in capsys.readouterr().out.splitlines()]
    assert [line["analysis"] for line in lines] == ["op", "dc"]
    assert all(line["newton_iterations"] > 0 and line["unknowns"] == 3 and line["solve_seconds"] >= 0 for line in lines)
    assert lines[1]["accepted_steps"] == 5


def test_settings_from_the_command_line(run):
    """--set in deck numbers, --temp in degrees."""
    _, out = run("t\n.param k=1\nv1 a 0 {k+temper}\nr1 a 0 1\n.op\n", "--set", "K=2m", "--temp", "-40")
    header, numbers = table(out / "01-op.csv")
    assert numbers[0, header.index("V(a)")] == approx(-39.998)


@pytest.mark.parametrize(
    ("text", "options", "said"),
    [
        ("t\nv1 a 0 1\nr1 a 10k\n.op\n", (), "deck.cir:3: r1 has two nodes and no value"),
        ("t\nv1 a 0 1\nc1 a b 1p\nc2 b 0 1p\n.op\n", (), "deck.cir:3: net b has no DC path"),
        (GOOD, ("--set", "x=1"), "--set: there is no parameter 'x'"),
        (GOOD, ("--temp", "warm"), "--temp: 'warm' is not a number"),
        (GOOD, ("--set", "x"), "--set: 'x' is not PARAM=VALUE"),
    ],
)
def test_wrong_input_writes_nothing(run, capsys, text, options, said):
    """Exit status 2, the place and the mend on standard error, no folder."""
    status, out = run(text, *options)
    assert status == 2
    assert capsys.readouterr().err.startswith(said)
    assert not out.exists()


def test_an_analysis_that_does_not_converge_leaves_the_others(run, capsys):
    """Exit status 1; the message names nets and parts; the files of what was solved stay."""
    text = "t\nv1 a 0 0\ni1 0 d 1\nd1 d 0 dm\nr1 a 0 1\n.model dm d is=1e-14\n.options itl1=10 gmin=0\n.op\n"
    hopeless = (
        text.replace("i1 0 d 1", "i1 0 d {k}").replace("t\n", "t\n.param k=1m\n", 1) + ".dc k 1m 1e200 5e199\n.op\n"
    )
    status, out = run(hopeless)
    error = capsys.readouterr().err
    assert status == 1
    assert "deck.cir:10: .dc:" in error
    assert "net" in error
    assert sorted(path.name for path in out.iterdir()) == ["01-op.csv", "03-op.csv"]


def test_the_demo_deck_agrees_with_the_demo_bench(tmp_path):
    """The same circuit, corner by corner, from the deck and from the drawing: the same curve to the last digits."""
    from hearthline.core.bench.run import run_bench
    from hearthline.core.bench.snapshot import Snapshot
    from hearthline.core.formats.project_folder import read_project

    project = read_project(DEMO)
    run = run_bench(Snapshot(project.benches["inv_x1-transfer"], project.cells, project.kit))
    deck = DEMO / "decks" / "inv_x1-transfer.cir"
    for corner, celsius, vdd in (("typ", 27, 1.2), ("fs", -40, 1.32), ("ss", 150, 1.08)):
        assert (
            main(
                [
                    "solve",
                    str(deck),
                    "--out",
                    str(tmp_path),
                    "--corner",
                    corner,
                    "--temp",
                    str(celsius),
                    "--set",
                    f"vdd={vdd}",
                ]
            )
            == 0
        )
        header, numbers = table(tmp_path / "01-dc.csv")
        conditions = run.results["transfer"].conditions
        lane = np.flatnonzero(
            (conditions["corner"] == corner) & (conditions["temperature"] == celsius) & (conditions["vdd"] == vdd)
        )[0]
        np.testing.assert_allclose(
            numbers[:, header.index("V(out)")], run.results["transfer"].curve("V(out)")[lane], rtol=1e-9, atol=1e-12
        )


def test_transient_table_is_what_the_contract_says(run):
    """Accepted steps; no row before the start; with uic the first row holds the given values; a bound on the step."""
    text = "t\nv1 a 0 sin(0 1 1meg)\nr1 a b 1k\nc1 b 0 1n ic=0.5\n.tran 10n 3u 1u\n.tran 1u 3u 0 20n uic\n.ac dec 2 1k 1meg\n"
    status, out = run(text)
    assert status == 0
    header, numbers = table(out / "01-tran.csv")
    assert header == ["time", "V(a)", "V(b)", "I(v1)"]
    assert numbers[0, 0] >= 1e-6
    assert numbers[-1, 0] == 3e-6
    assert np.diff(numbers[:, 0]).max() <= 10e-9 * (1 + 1e-9)
    header, numbers = table(out / "02-tran.csv")
    assert numbers[0].tolist() == [0.0, 0.0, 0.5, 0.0]
    assert np.diff(numbers[:, 0]).max() <= 20e-9 * (1 + 1e-9)
    header, numbers = table(out / "03-ac.csv")
    assert header == ["frequency"] + [f"{label}.{part}" for label in ("V(a)", "V(b)", "I(v1)") for part in ("re", "im")]


def test_noise_table(run):
    """Totals first, a column for each contributor; the parts add up in power."""
    _, out = run("t\nv1 a 0 dc 1 ac 1\nr1 a b 1k\nd1 b 0 dm\n.model dm d is=1e-14\n.noise v(b) v1 lin 2 1k 2k\n")
    header, numbers = table(out / "01-noise.csv")
    assert header[:3] == ["frequency", "output_noise", "input_noise"]
    np.testing.assert_allclose((numbers[:, 3:] ** 2).sum(axis=1), numbers[:, 1] ** 2, rtol=1e-12)


@pytest.mark.parametrize(
    ("card", "said"),
    [
        (".tran 1n", "a transient has a print step and an end"),
        (".tran 1n 10n 20n", "leads nowhere"),
        (".tran 0 10n", "leads nowhere"),
        (".ac dec 0 1 10", "is no number of points"),
        (".ac dec 10 0 10", "cannot be"),
        (".ac 10 1 10", "frequencies are dec, oct or lin"),
        (".noise v(q) v1 dec 10 1 10", "there is no net 'q'"),
        (".noise v(a) v7 dec 10 1 10", "there is no source 'v7'"),
        (".options method=euler\n.tran 1n 10n", "there is no method 'euler'"),
        (".ic v(q)=1\n.tran 1n 10n", "there is no net 'q'"),
        ("v2 b 0 pwl(0 0 1n 1 1n 2)\nr2 b 0 1\n.tran 1n 10n", "each time after the one before"),
        ("v2 b 0 pulse(0)\nr2 b 0 1\n.tran 1n 10n", "too few numbers"),
        ("b2 b 0 v={v(a)*}\nr2 b 0 1\n.op", "is not a number or expression"),
        ("b2 b 0 v={nothing*v(a)}\nr2 b 0 1\n.op", "unknown parameter 'nothing'"),
        ("b2 b 0 v={i(v9)}\nr2 b 0 1\n.op", "there is no voltage source 'v9'"),
        ("k1 l1 l2 0.5\n.op", "there is no inductor 'l1'"),
        ("l1 a b 1u\nr3 b 0 1\nl2 c 0 1u\nl3 d 0 1u\nk1 l1 l2 0.9\nk2 l2 l3 0.9\nk3 l1 l3 -0.9\n.op", "too close"),
        ("l1 a b 1u\nl2 c 0 1u\nr9 b 0 1\nk1 l1 l2 1.2\n.op", "between -1 and 1"),
        ("t2 a 0 b 0 z0=50\nr2 b 0 1\n.op", "needs its impedance z0 and its delay td"),
    ],
)  # fmt: skip
def test_wrong_analyses_and_parts_are_refused_with_their_line(run, capsys, card, said):
    """Before anything is solved."""
    status, out = run(f"t\nv1 a 0 1\nr1 a 0 1k\n{card}\n")
    error = capsys.readouterr().err
    assert status == 2
    assert error.startswith("deck.cir:")
    assert said in error
    assert not out.exists()


def test_a_disk_that_cannot_be_written_loses_one_table_only(run, capsys, monkeypatch):
    """The message says which; the others are there, and no half file stays."""
    from hearthline.core.formats.table import TableFile

    def full(self, rows):
        with self._said():
            raise OSError(28, "No space left on device")

    monkeypatch.setattr(TableFile, "write", full)
    status, out = run("t\nv1 a 0 1\nr1 a 0 1k\n.op\n.tran 1n 10n\n.op\n")
    assert status == 1
    assert "No space left on device" in capsys.readouterr().err
    assert sorted(path.name for path in out.iterdir()) == ["01-op.csv", "03-op.csv"]


def test_check_and_info(run, capsys, tmp_path):
    """Rules only, and what a kit holds."""
    (tmp_path / "deck.cir").write_text(GOOD)
    assert main(["check", "deck.cir"]) == 0
    assert "3 parts, 2 nets; .op at line 6, .dc at line 7; no mistake found" in capsys.readouterr().out
    (tmp_path / "deck.cir").write_text("t\nv1 a 0 1\nr1 a 10k\n.op\n")
    assert main(["check", "deck.cir"]) == 2
    assert "deck.cir:3" in capsys.readouterr().err
    assert main(["info", "lm130"]) == 0
    shown = capsys.readouterr().out
    assert "corners: typ ff ss fs sf" in shown
    assert "n_rvt" in shown
    assert main(["info", "nowhere"]) == 2
    assert "kits that come along are lm130" in capsys.readouterr().err


def test_a_reader_that_has_read_enough_gets_no_trace_back():
    """As in `hearthline info lm130 | head -1`."""
    code = "import sys; from hearthline.cli import main; [main(['info', 'lm130']) for _ in range(60)]"
    with subprocess.Popen(
        [sys.executable, "-c", code], stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True
    ) as run:
        assert run.stdout.readline().startswith("LM130")
        run.stdout.close()
        assert run.stderr.read() == ""
    assert run.returncode == 0
