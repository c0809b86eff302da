"""Wrong lines and sources of balances, oscillations and what is about them: each is named with its place and what would be right."""

from __future__ import annotations

import pytest

from hearthline.cli import main
from tests.benches import bench_text

DIODE = "r1 a b 1k\nd1 b 0 dd\nc1 b 0 1n\n.model dd d is=1e-14\n"
SINE = "v1 a 0 sin(0 1 1.5meg)\n" + DIODE


@pytest.mark.parametrize(
    ("parts", "line", "said"),
    [
        (SINE, "balance at 1M harmonics 5", "circuit.cir:2: v1: 1.50000 MHz is no whole mix of 1.00000 MHz"),
        (SINE, "balance at 1.5M,1.5M", "b.toml:12: both tones are 1.50000 MHz"),
        (SINE, "balance at 1.5M,3M harmonics 4", "b.toml:12: harmonics are of one tone; of two say order"),
        (SINE, "balance at 1.5M order 4", "b.toml:12: order is for two tones; of one say harmonics"),
        (SINE, "balance at -1M", "b.toml:12: a tone is above 0 Hz"),
        (SINE, "balance at 1M,2M,3M", "b.toml:12: a balance has one tone or two"),
        (SINE, "balance at 1.5M harmonics 0", "b.toml:12: harmonics is a whole number of 1 or more"),
        ("v1 a 0 pwl(0 0 1u 1)\n" + DIODE, "balance at 1M", "circuit.cir:2: v1: a balance takes sin and pulse"),
        ("v1 a 0 sin(0 1 1meg 1u)\n" + DIODE, "balance at 1M", "circuit.cir:2: v1: in a balance a sine has no delay"),
        (
            "v1 a 0 pulse(0 1 0 1n 1n 1u)\n" + DIODE,
            "balance at 1M",
            "circuit.cir:2: v1: in a balance a pulse has a period",
        ),
        ("v1 a 0 pulse(0 1 0 1n 1n 2u 1u)\n" + DIODE, "balance at 1M", "v1: rise, width and fall come to"),
        (SINE, "oscillation near 0", "b.toml:12: an oscillation is near a frequency above 0 Hz"),
        (SINE, "oscillation harmonics 1.5", "b.toml:12: harmonics is a whole number"),
        (SINE, "phase_noise of q from 1 to 10 points 3", "b.toml:12: there is no oscillation 'q'; there is none"),
        (
            SINE,
            "conversion of q by v1 from 1 to 10 points 3",
            "b.toml:12: there is no balance or oscillation 'q'; there is none",
        ),
    ],
)
def test_what_is_wrong_is_named(tmp_path, capsys, parts, line, said):
    """Exit status 2, and nothing is written."""
    (tmp_path / "circuit.cir").write_text(f"test\n{parts}\n.end\n")
    (tmp_path / "b.toml").write_text(bench_text({"one": line}, ports={}))
    assert main(["run", str(tmp_path / "b.toml"), "--out", str(tmp_path / "out")]) == 2
    assert said in capsys.readouterr().err
    assert not (tmp_path / "out").exists()


def test_no_oscillation_is_no_result(tmp_path, capsys):
    """Exit status 1, with the pole that is nearest to one."""
    (tmp_path / "circuit.cir").write_text("test\nl1 a 0 1u\nc1 a 0 1n\nr1 a 0 1k\n.end\n")
    (tmp_path / "b.toml").write_text(bench_text({"one": "oscillation"}, ports={}))
    assert main(["run", str(tmp_path / "b.toml"), "--out", str(tmp_path / "out")]) == 1
    assert "no pole of the operating point grows; nearest to it is that at 5.032 MHz" in capsys.readouterr().err
