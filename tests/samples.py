"""Sample sets made of formulas in a test, and benches over decks with samples."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path

import numpy as np

from hearthline.core.formats.bench_source import BenchSource, read_benches
from hearthline.core.spread.samples import SampleSet
from hearthline.core.spread.variables import MISMATCH, TOLERANCE, Variable
from hearthline.core.tolerance import Tolerance

Reading = Callable[[np.ndarray], np.ndarray]


def resistor(name: str, tolerance: Tolerance, nominal: float = 1000.0) -> Variable:
    """A value with a tolerance."""
    return Variable(f"{name}.r", TOLERANCE, name, "r", nominal, tolerance.deviation, ((name, "r"),), True, tolerance)


def device(name: str, sigma: float = 1.0) -> Variable:
    """A threshold that differs."""
    return Variable(f"{name}.dvth", MISMATCH, name, "dvth", 0.0, sigma, ((name, "dvth"),))


def made(variables: tuple[Variable, ...], readings: Mapping[str, Reading], count: int, seed: int) -> SampleSet:
    """Samples of readings that are functions of the variables' values (samples, variables)."""
    normal = np.random.default_rng(seed).standard_normal((count, len(variables)))
    values = np.column_stack([one.values(z) for one, z in zip(variables, normal.T, strict=True)])
    return SampleSet(variables, normal, {}, {name: of(values)[:, None] for name, of in readings.items()}, {})


DIVIDER = "v1 in 0 1\nr1 in out 10k\nr2 out 0 10k\n"
HALF = """[[analyses]]
name = "op"
line = "point"
[[watches]]
formula = "V(out)"
[[readings]]
name = "half"
formula = "V(out)"
[[specifications]]
reading = "half"
low = "0.49"
high = "0.51"
"""
TOLERANCES = """[[tolerances]]
part = "r1"
within = "5%"
[[tolerances]]
part = "r2"
sigma = "2%"
"""


def bench(folder: Path, parts: str = DIVIDER, more: str = TOLERANCES, samples: str = 'count = "400"\nseed = "3"\n',
          asked: str = HALF) -> Path:  # fmt: skip
    """A bench file over a deck of these parts, with samples."""
    (folder / "d.cir").write_text(f"samples\n{parts}.end\n")
    text = 'format = 3\nname = "b"\ndeck = "d.cir"\n[point]\ncorner = "typ"\ntemperature = "27"\n'
    text += f'[grid]\ncorners = ["typ"]\ntemperatures = ["27", "100"]\n[samples]\n{samples}{more}{asked}'
    (folder / "b.toml").write_text(text)
    return folder / "b.toml"


def source(folder: Path, **said: str) -> BenchSource:
    """The same, read."""
    return read_benches(bench(folder, **said))[0]
