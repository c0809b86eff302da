"""Runs decks written in a test, through the same reader and engine as the command."""

from __future__ import annotations

from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np

from hearthline.core.circuit.netlist import Element
from hearthline.core.engine.lanes import Lanes
from hearthline.core.engine.system import System, lower
from hearthline.core.formats.deck.flatten import flatten
from hearthline.core.formats.deck.plan import plan
from hearthline.core.formats.deck.reader import read
from hearthline.core.formats.deck.tasks import Task
from hearthline.core.process.models import ModelSet


def planned(text: str, **options) -> list[Task]:
    """The analyses of a deck; its title line is added."""
    with TemporaryDirectory() as folder:
        path = Path(folder) / "test.cir"
        path.write_text("test\n" + text)
        return plan(read(path, "test.cir", options.pop("corner", None)), **options)


def solved(text: str, **options) -> dict[str, np.ndarray]:
    """The table of the last analysis; every point must have been solved."""
    analysis = planned(text, **options)[-1]
    found = analysis.run()
    assert not found.failures, found.failures
    return analysis.columns(found)


def point(text: str, **options) -> dict[str, float]:
    """The operating point of a deck."""
    return {name: float(values[0]) for name, values in solved(text + "\n.op\n", **options).items()}


def circuit_of(text: str) -> tuple[System, ModelSet]:
    """The system of a deck's text in one lane, and its models; no analysis is needed."""
    with TemporaryDirectory() as folder:
        path = Path(folder) / "test.cir"
        path.write_text("test\n" + text)
        netlist, models = flatten(read(path, "test.cir"))
    return lower(netlist, models, Lanes()), models


def parts_of(text: str) -> tuple[Element, ...]:
    """The flat parts of a deck's text, good or bad."""
    with TemporaryDirectory() as folder:
        path = Path(folder) / "test.cir"
        path.write_text("test\n" + text)
        return flatten(read(path, "test.cir"))[0].elements
