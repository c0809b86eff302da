"""A chain of inverters as a drawn cell in a project of its own: as many devices as a benchmark wants."""

from __future__ import annotations

from pathlib import Path

from hearthline.core.analyses.line import Analysis
from hearthline.core.bench.bench import Bench, GridSetup, PointSetup, Stimulus, Watch
from hearthline.core.circuit.cell import Cell, Label, Part, Pin, Wire
from hearthline.core.formats.bench_file import write_bench
from hearthline.core.formats.cell_file import write_cell

PITCH = 16


def chain(stages: int) -> Cell:
    """`stages` inverters in a row: two transistors each."""
    parts, wires, labels = [], [], []
    for k in range(stages):
        x = k * PITCH
        parts.append(Part(f"MN{k}", "n_rvt", (x - 2, 5), values={"w": "1u", "l": "130n"}))
        parts.append(Part(f"MP{k}", "p_rvt", (x - 2, -5), values={"w": "2.4u", "l": "130n"}))
        parts.append(Part(f"G{k}", "ground", (x, 9)))
        wires += [Wire(((x - 4, -5), (x - 7, -5), (x - 7, 5), (x - 4, 5))), Wire(((x, -3), (x, 3)))]
        wires += [Wire(((x, 5), (x, 9))), Wire(((x, -5), (x, -9))), Wire(((x, 0), (x + PITCH - 7, 0)))]
        labels.append(Label("vdd", (x, -9)))
    pins = (Pin("in", "input", (-7, 0)), Pin("vdd", "supply", (0, -9)), Pin("out", "output", (stages * PITCH - 7, 0)))
    return Cell(f"chain{stages}", pins, tuple(parts), tuple(wires), tuple(labels))


def bench_of(cell: Cell) -> Bench:
    """Supply and input for a chain."""
    return Bench(
        "point", cell.name, (Stimulus("vdd", "vdd", "vdd"), Stimulus("vin", "in", "580m")),
        PointSetup("typ", "27", {"vdd": "1.2"}), GridSetup(("typ",), ("27",)),
        (Analysis("transfer", "sweep", {"of": "vin", "points": "101"}),),
        (Watch("V(out)"),),
    )  # fmt: skip


def write_project(folder: Path, stages: int) -> None:
    """A project with one chain and its bench."""
    cell = chain(stages)
    (folder / "cells").mkdir(parents=True)
    (folder / "benches").mkdir()
    write_cell(folder / "cells" / f"{cell.name}.toml", cell)
    write_bench(folder / "benches" / "point.toml", bench_of(cell))
    text = f'format = 1\nname = "Chain"\nkit = "lm130"\ncells = ["{cell.name}"]\nbenches = ["point"]\n'
    (folder / "project.toml").write_text(text)
