"""`hearthline solve` as scripts use it: files, exit status, statistics, and nothing written on wrong input."""

from __future__ import annotations

import csv
import json
from pathlib import Path

import numpy as np
import pytest

from hearthline.app.start import DEMO
from hearthline.cli import main

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
    assert numbers[0, header.index("V(b)")] == pytest.approx(1 / 3, rel=1e-15)


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
    assert numbers[0, header.index("V(a)")] == pytest.approx(-39.998)


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
        conditions = run.dataset.conditions
        lane = np.flatnonzero(
            (conditions["corner"] == corner) & (conditions["temperature"] == celsius) & (conditions["vdd"] == vdd)
        )[0]
        np.testing.assert_allclose(
            numbers[:, header.index("V(out)")], run.dataset.curve("V(out)")[lane], rtol=1e-9, atol=1e-12
        )
