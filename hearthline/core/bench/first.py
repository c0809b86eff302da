"""The first bench of a cell: its pins tied by their kinds, its supply as a parameter, the operating point asked for."""

from __future__ import annotations

from collections.abc import Mapping

from hearthline.core.analyses.line import Analysis
from hearthline.core.bench.bench import Bench, GridSetup, PointSetup, Stimulus
from hearthline.core.circuit.cell import Cell
from hearthline.core.errors import QuantityError
from hearthline.core.process.kit import ProcessKit
from hearthline.core.quantity import field_text, read

LOAD = "10f"
SHARES = (0.9, 1.0, 1.1)
"""Of the supply, that a run goes through."""


def first_bench(name: str, cell: Cell, kit: ProcessKit | None, parameters: Mapping[str, str]) -> Bench:
    """A bench called `name`; `parameters` are those that other benches of the project have. A cell without pins is a bench
    drawn as a cell, and gets nothing tied."""
    supplies = [pin.name for pin in cell.pins if pin.kind == "supply"]
    made_for = min((device.supply for device in kit.devices.values()), default=1.2) if kit else 1.2
    point = dict(parameters)
    supply = next((one for one in (*supplies, "vdd") if one in point), supplies[0] if supplies else "")
    if supply and supply not in point:
        point[supply] = field_text(made_for)
    stimuli = tuple(one for pin in cell.pins if (one := _tied(pin.name, pin.kind, supply, point)) is not None)
    corners = kit.models.names if kit else ("typ",)
    axes = {supply: _around(point[supply])} if supply in point else {}
    kind = "sweep" if any(pin.kind == "input" for pin in cell.pins) else "point"
    analysis = Analysis("transfer" if kind == "sweep" else "point", kind)
    return Bench(
        name, cell.name, stimuli, PointSetup(corners[0], "27", point), GridSetup(corners, ("-40", "27", "125"), axes),
        (analysis,),
    )  # fmt: skip


def _around(text: str) -> tuple[str, ...]:
    """Values about a supply; only itself where it is an expression."""
    try:
        value = read(text, "V")
    except QuantityError:
        return (text,)
    return tuple(f"{share * value:.4g}" for share in SHARES)


def _tied(pin: str, kind: str, supply: str, parameters: Mapping[str, str]) -> Stimulus | None:
    if kind == "supply":
        return Stimulus(pin, pin, pin if pin in parameters else supply)
    if kind == "ground":
        return Stimulus(pin, pin, kind="ground")
    if kind == "output":
        return Stimulus(f"c{pin}", pin, LOAD, "capacitance")
    half = f"{supply} / 2" if supply in parameters else "0"
    return Stimulus(f"v{pin}", pin, half) if kind == "input" else None
