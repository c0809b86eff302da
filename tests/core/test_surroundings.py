"""Benches that tell surroundings apart: what their files say, and what a circuit does in each of them."""

from __future__ import annotations

import csv
import json
from dataclasses import replace
from uuid import uuid4

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from hearthline import run as run_bench
from hearthline.app.start import DEMO
from hearthline.cli import main
from hearthline.core.bench.basis import basis_of
from hearthline.core.bench.couplings import carrier
from hearthline.core.bench.nearness import nearness
from hearthline.core.formats.bench_file import bench_data, bench_of
from hearthline.core.formats.bench_source import read_benches
from hearthline.core.formats.project_folder import read_project
from hearthline.core.formats.run_file import read_run
from hearthline.core.formats.solved_housing import UnsolvedError, kept_of
from hearthline.core.formats.toml_table import Table
from hearthline.core.formats.touchstone import write_touchstone
from hearthline.core.nports.model import Model
from hearthline.core.nports.n_port import NPort
from hearthline.core.nports.rational import Rational
from tests.approximation import approx

DECK = "divider\nr1 in mid 50\nr2 out 0 50\n.end\n"
BENCH = """format = 3
name = "b"
deck = "circuit.cir"
[point]
corner = "typ"
temperature = "27"
[grid]
corners = ["typ"]
temperatures = ["27", "100"]
surroundings = ["tied", "far apart", "lossy line"]
[[stimuli]]
name = "vin"
pin = "in"
dc = "1"
ac = "1"
[[blocks]]
name = "x1"
file = "pad.s2p"
nets = ["mid", "out"]
[[surroundings]]
name = "tied"
files = { x1 = "through" }
[[surroundings]]
name = "far apart"
files = { x1 = "open" }
[[surroundings]]
name = "lossy line"
files = {}
[[analyses]]
name = "small"
line = "ac from 1k to 1M points 1"
[[watches]]
formula = "V(out)"
[[readings]]
name = "level"
formula = "at(abs(V(out)), 10k)"
"""


def pad() -> NPort:
    """6.02 dB between 50 Ohm."""
    s = np.tile(np.array([[0.0, 0.5], [0.5, 0.0]], complex), (2, 1, 1))
    return NPort(np.array([0.0, 1e9]), s, np.full(2, 50.0 + 0j))


@pytest.fixture
def folder(tmp_path):
    """A deck with a part from a file, and a bench over it."""
    (tmp_path / "circuit.cir").write_text(DECK)
    write_touchstone(tmp_path / "pad.s2p", pad())
    (tmp_path / "b.toml").write_text(BENCH)
    return tmp_path


def table(path) -> tuple[list[str], list[list[str]]]:
    """Of a file: its columns, and its rows."""
    rows = list(csv.reader(path.open()))
    return rows[0], rows[1:]


def test_a_circuit_in_three_places(folder):
    """Half of 1 V where the ports are tied, nothing where they are open, a quarter through 6 dB; from the voltage divider."""
    assert main(["run", str(folder / "b.toml"), "--out", str(folder / "out")]) == 0
    columns, rows = table(folder / "out" / "readings.csv")
    assert columns == ["corner", "temperature", "surroundings", "level"]
    names = ["tied", "far apart", "lossy line"]
    assert [row[2] for row in rows] == [name for name in names for _ in range(2)]
    levels = dict(zip((row[2] for row in rows), (float(row[3]) for row in rows), strict=True))
    assert levels["tied"] == approx(0.5, rel=1e-6)
    assert levels["far apart"] == approx(0.0, abs=1e-6)
    assert levels["lossy line"] == approx(0.25, rel=1e-6)
    columns, _ = table(folder / "out" / "small.csv")
    assert columns[:4] == ["corner", "temperature", "surroundings", "frequency"]


def test_a_run_keeps_its_surroundings(folder):
    """Names with spaces among them."""
    main(["run", str(folder / "b.toml"), "--out", str(folder / "out")])
    run = read_run(folder / "out" / "run.nc").run
    assert [one.around for one in run.conditions][::2] == ["tied", "far apart", "lossy line"]
    assert run.results["small"].conditions["surroundings"].tolist()[::2] == ["tied", "far apart", "lossy line"]


def test_the_point_has_the_first_or_its_own(folder):
    """Where nothing is said the first; a run without an axis stays there."""
    text = BENCH.replace('surroundings = ["tied", "far apart", "lossy line"]\n', "")
    (folder / "b.toml").write_text(text)
    assert main(["run", str(folder / "b.toml"), "--out", str(folder / "out")]) == 0
    assert [row[2] for row in table(folder / "out" / "readings.csv")[1]] == ["tied", "tied"]
    (folder / "b.toml").write_text(text.replace("[grid]", 'surroundings = "lossy line"\n[grid]'))
    assert main(["run", str(folder / "b.toml"), "--out", str(folder / "again")]) == 0
    assert [row[2] for row in table(folder / "again" / "readings.csv")[1]] == ["lossy line", "lossy line"]


def test_a_changed_place_is_another_basis(folder):
    """What was computed in one place is not taken for another."""

    def basis() -> str:
        snapshot = read_benches(folder / "b.toml")[0].snapshot
        return basis_of(snapshot, snapshot.bench.analyses[0])

    before = basis()
    assert before == basis()
    (folder / "b.toml").write_text(BENCH.replace('x1 = "open"', 'x1 = "through"'))
    assert basis() != before


@pytest.mark.parametrize(
    ("old", "new", "said"),
    [
        (
            '"far apart", "lossy line"]',
            '"nowhere"]',
            "b.toml:10: there are no surroundings 'nowhere'; there is tied, far apart",
        ),
        ('name = "far apart"', 'name = "tied"', "there are two surroundings 'tied'; rename one of them"),
        ('x1 = "open"', 'x1 = "gone.s2p"', "x1: there is no file 'gone.s2p'; there is open, through, one.s1p, pad.s2p"),
        ('x1 = "open"', 'x7 = "open"', "there is no n-port 'x7' in the circuit; there is x1"),
        ('x1 = "open"', 'x1 = "one.s1p"', "x1 has 2 ports, and one.s1p has 1"),
    ],
)
def test_what_is_wrong_with_surroundings(folder, capsys, old, new, said):
    """With place and cause, and exit status 2."""
    write_touchstone(
        folder / "one.s1p", NPort(np.array([0.0, 1e9]), np.zeros((2, 1, 1), complex), np.full(1, 50.0 + 0j))
    )
    assert old in BENCH
    (folder / "b.toml").write_text(BENCH.replace(old, new))
    assert main(["run", str(folder / "b.toml"), "--out", str(folder / "out")]) == 2
    told = capsys.readouterr().err
    assert said in told
    assert "b.toml:" in told


NAMES = st.lists(st.text("abc d", min_size=1, max_size=6).filter(str.strip), min_size=1, max_size=4, unique=True)


@given(NAMES, st.data())
def test_surroundings_are_read_as_they_were_written(names, data):
    """Of any names and files."""
    files = st.dictionaries(st.text("xy1", min_size=1, max_size=3), st.text("ab.", min_size=1, max_size=5), max_size=2)
    plain = {
        "format": 3, "name": "b", "deck": "d.cir",
        "point": {"corner": "typ", "temperature": "27", "surroundings": data.draw(st.sampled_from(names))},
        "grid": {"corners": ["typ"], "temperatures": ["27"], "surroundings": names},
        "surroundings": [{"name": name, "files": data.draw(files)} for name in names],
    }  # fmt: skip
    bench = bench_of(Table(plain, "b.toml", ""))
    assert bench_of(Table(bench_data(bench), "b.toml", "")) == bench
    assert [one.name for one in bench.surroundings] == names


# -- the demo


def test_the_driver_in_its_box():
    """Stable bare, two poles grow in the box, none with an absorber or with posts: what the demo is there to show."""
    source = read_benches(DEMO, ["driver_868_housed-stability"])[0]
    found = run_bench(source)
    poles = dict(
        zip((one.around for one in found.made.conditions), found.readings["unstable poles"].values, strict=True)
    )
    assert poles == {"bare": 0.0, "in the box": 2.0, "with absorber": 0.0, "with posts": 0.0}


def test_a_window_does_not_wait_for_a_housing(tmp_path):
    """On the main thread of a patient project it is said that it is being solved; what is wrong in it is said at once."""
    devices = tmp_path / "devices"
    devices.mkdir()
    (tmp_path / "project.toml").write_text('format = 1\nname = "p"\nkit = "lm130"\ncells = []\nbenches = []\n')
    text = f'format = 1\n# {uuid4()}\nsize = "50m, 40m, 10m"\nmesh = "10m"\n[[ports]]\nnumber = "1"\nline = "25m, 20m, 0, 25m, 20m, 10m"\n'
    path = devices / "box.housing.toml"
    path.write_text(text + '[sweep]\nfrom = "1G"\nto = "6G"\npoints = "5"\n')
    assert not kept_of(path, "box").exists()
    waiting = read_project(tmp_path, patient=True).kit.networks
    with pytest.raises(UnsolvedError, match=r"box\.housing\.toml is being solved"):
        waiting["box.housing.toml"]
    at_once = read_project(tmp_path).kit.networks["box.housing.toml"]
    assert at_once.network.ports == 1
    assert waiting["box.housing.toml"].fingerprint == at_once.fingerprint
    path.write_text(text.replace("50m", "-50m") + '[sweep]\nfrom = "1G"\nto = "6G"\n')
    with pytest.raises(Exception, match=r"devices/box\.housing\.toml:3: "):
        waiting["box.housing.toml"]


def test_json_of_a_verdict_names_the_place(folder):
    """Where the worst is."""
    (folder / "b.toml").write_text(BENCH + '[[specifications]]\nreading = "level"\nlow = "0.1"\n')
    assert main(["run", str(folder / "b.toml"), "--out", str(folder / "out")]) == 3
    (one,) = json.loads((folder / "out" / "verdict.json").read_text())["specifications"]
    assert one["at"]["surroundings"] == "far apart"


def test_what_closes_the_loop_is_named():
    """Of the driver in its box: back from its output to its input, at the resonance; checked by cutting that way: without the
    entry of the n-port no pole grows."""
    source = read_benches(DEMO, ["driver_868_housed-stability"])[0]
    snapshot = source.snapshot
    condition = next(one for one in snapshot.conditions() if one.around == "in the box")
    found = nearness(snapshot, (condition,))
    assert found.growing == ((condition, 2),)
    worst = found.terminals[0]
    assert "carried by box from out to in" in worst.carrier
    carried = carrier(snapshot, condition, worst.frequency)
    model = snapshot.kit.networks["gateway_box.housing.toml"]
    s = model.network.s.copy()
    s[:, 1, 3] = 0.0
    known = Rational(model.rational.poles, cut(model.rational.residues), model.rational.constant)
    deaf = Model("deaf", replace(model.network, s=s), known)
    files = {**snapshot.kit.networks, "gateway_box.housing.toml": deaf}
    cut_off = replace(snapshot, kit=replace(snapshot.kit, networks=files))
    assert nearness(cut_off, (condition,)).growing == ()
    level = 20 * np.log10(abs(model.s(np.array([worst.frequency]))[0, 1, 3]))
    assert carried.decibels == approx(level, rel=1e-9)


def cut(residues: np.ndarray) -> np.ndarray:
    """Without the way from the fourth port to the second."""
    found = residues.copy()
    found[:, 1, 3] = 0.0
    return found


def test_a_circuit_without_n_ports_has_no_carrier():
    """And is not asked for one."""
    snapshot = read_benches(DEMO, ["driver_868_bench-stability"])[0].snapshot
    assert carrier(snapshot, snapshot.condition(), 1e9) is None
