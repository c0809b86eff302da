"""Benches over decks written in a test: ports, files, and one analysis of one condition."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from tempfile import TemporaryDirectory

from hearthline import read_bench
from hearthline import run as run_bench
from hearthline.core.bench.readings import Run
from hearthline.core.data.dataset import Dataset
from hearthline.core.formats.touchstone import write_touchstone
from hearthline.core.nports.n_port import NPort

FIFTY = {"a": "50", "b": "50"}


def bench_text(
    lines: Mapping[str, str], ports: Mapping[str, str] = FIFTY, blocks: Mapping[str, tuple[str, ...]] | None = None,
    celsius: str = "27", more: str = "",
) -> str:  # fmt: skip
    """A bench over `circuit.cir`: analyses by name, the impedance of the port at each net, files with their nets."""
    text = f'format = 3\nname = "b"\ndeck = "circuit.cir"\n[point]\ncorner = "typ"\ntemperature = "{celsius}"\n'
    text += f'[grid]\ncorners = ["typ"]\ntemperatures = ["{celsius}"]\n'
    for number, (net, impedance) in enumerate(ports.items(), 1):
        text += f'[[stimuli]]\nname = "p{number}"\npin = "{net}"\nkind = "port"\nnumber = "{number}"\nimpedance = "{impedance}"\n'
    for number, (file, nets) in enumerate((blocks or {}).items(), 1):
        listed = ", ".join(f'"{net}"' for net in nets)
        text += f'[[blocks]]\nname = "x{number}"\nfile = "{file}"\nnets = [{listed}]\n'
    for name, line in lines.items():
        text += f'[[analyses]]\nname = "{name}"\nline = "{line}"\n'
    return text + more


def ran(parts: str, lines: Mapping[str, str], files: Mapping[str, NPort] | None = None, **options) -> Run:
    """The run of a bench over these parts, with files beside it."""
    with TemporaryDirectory() as folder:
        for name, network in (files or {}).items():
            write_touchstone(Path(folder) / name, network)
        (Path(folder) / "circuit.cir").write_text(f"test\n{parts}\n.end\n")
        (Path(folder) / "b.toml").write_text(bench_text(lines, **options))
        source = read_bench(Path(folder) / "b.toml")
        source.check()
        found = run_bench(source).made
    assert not found.failures, found.failures
    return found


def data_of(parts: str, line: str, files: Mapping[str, NPort] | None = None, **options) -> Dataset:
    """The answer of one analysis."""
    return ran(parts, {"one": line}, files, **options).results["one"]


def curve(data: Dataset, label: str):
    """Of the only lane."""
    return data.curves[label][0]
