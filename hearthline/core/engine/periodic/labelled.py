"""Periodic states as labelled curves: phasors over frequency, and the same over one period of time."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from hearthline.core.data.dataset import Dataset
from hearthline.core.elements.port import POWER_VALUE
from hearthline.core.engine.dc import conditions_of
from hearthline.core.engine.dissipation import dissipated, dissipators
from hearthline.core.engine.periodic.course import FINELY
from hearthline.core.engine.periodic.states import LaneState, Periodic
from hearthline.core.engine.periodic.tones import Tones
from hearthline.core.engine.scattering import ports_of
from hearthline.core.engine.system import System

LEAST_POINTS, FOR_EACH = 256, 4
"""Of a waveform over a period; and for each harmonic."""


def dataset_of(
    kind: str, found: Periodic, kept: tuple[list[int] | None, list[int]], frequencies: np.ndarray
) -> Dataset:  # fmt: skip
    """Peak phasors of the unknowns that are kept (None: all), and of some device quantities; behind the axis of two tones which
    product each row is. `frequencies` (products,) or (lanes, products) [Hz]. Along a period nets inside of devices are left
    out."""
    system, products = found.system, found.products
    lanes = len(system.lanes)
    unknowns, variables = kept
    every = range(len(system.unknowns)) if unknowns is None else unknowns
    shown = [k for k in every if system.unknowns[k].kind]
    phasors = np.full((lanes, products, len(shown)), np.nan + 0j)
    devices = np.full((lanes, products, len(variables)), np.nan + 0j)
    for lane, state in enumerate(found.states):
        if state is not None:
            tones, here = state.balanced.tones, state.balanced.phasors
            phasors[lane, : len(tones)] = here[:, shown]
            if variables:
                grid = _grid(state)
                points = grid.to_samples(here) if state.balanced.shot is None else state.balanced.samples(grid.count)
                devices[lane, : len(tones)] = grid.to_phasors(state.circuit.readouts(points, np.array(variables)))
    curves = _products(found, lanes) | _powers(found, lanes, products)
    curves |= {system.unknowns[k].label: phasors[:, :, j] for j, k in enumerate(shown)}
    curves |= {system.variables[k].label: devices[:, :, j] for j, k in enumerate(variables)}
    units = {label: "W" if "." in label else "" for label in _products(found, lanes) | _powers(found, lanes, 1)}
    units |= {system.unknowns[k].label: system.unknowns[k].kind.replace("I", "A") for k in shown}
    units |= {system.variables[k].label: system.variables[k].unit for k in variables}
    outcomes = np.repeat(found.outcomes[:, None], products, axis=1)
    nets = set(system.netlist.nets)
    outside = [k for k in shown if system.unknowns[k].kind != "V" or system.unknowns[k].name in nets]
    waves = wave_of(kind, found, outside, variables, units)
    return Dataset(
        kind, "frequency", "Hz", frequencies, curves, units, conditions_of(system.lanes), outcomes, wave=waves
    )


def _products(found: Periodic, lanes: int) -> dict[str, np.ndarray]:
    state = next((one for one in found.states if one is not None), None)
    if state is None or state.balanced.tones.products.shape[1] == 1:
        return {}
    table = state.balanced.tones.products
    return {f"k{k + 1}": np.repeat(table[None, :, k], lanes, axis=0) for k in range(table.shape[1])}


def _powers(found: Periodic, lanes: int, products: int) -> dict[str, np.ndarray]:
    """Of each port what goes into it and what it can give, at each product [W]."""
    curves = {}
    for port in ports_of(found.system):
        delivered, available = np.full((2, lanes, products), np.nan)
        for lane, state in enumerate(found.states):
            if state is not None and products > 1:
                x = np.pad(state.balanced.phasors, ((0, 0), (1, 0)))
                power = -0.5 * ((x[:, port.ends[0]] - x[:, port.ends[1]]) * x[:, port.branch].conj()).real
                power[0] *= 2.0
                delivered[lane, : len(power)] = power
                available[lane] = 0.0
                watts = found.system.values[lane, port.value + POWER_VALUE : port.value + POWER_VALUE + 2]
                for tone in range(state.balanced.tones.products.shape[1]):
                    unit = np.eye(state.balanced.tones.products.shape[1], dtype=int)[tone]
                    place = state.balanced.tones.place_of(unit)
                    if place is not None:
                        available[lane, place[0]] = watts[tone]
        curves[delivered_label(port.number)] = delivered
        curves[available_label(port.number)] = available
    return curves


def delivered_label(port: int) -> str:
    """What goes into a port."""
    return f"port{port}.delivered"


def available_label(port: int) -> str:
    """What a port can give."""
    return f"port{port}.available"


def wave_of(
    kind: str, found: Periodic, shown: list[int], variables: list[int], units: dict[str, str]
) -> Dataset | None:
    """One period from 0, its end left out; None where two tones have none in common."""
    states = [one for one in found.states if one is not None]
    if not states or states[0].balanced.tones.products.shape[1] != 1:
        return None
    system, lanes = found.system, len(found.states)
    points = points_of(found)
    times = np.full((lanes, points), np.nan)
    values = np.full((lanes, points, len(shown)), np.nan)
    devices = np.full((lanes, points, len(variables)), np.nan)
    heat = np.full((lanes, points, len(dissipators(system))), np.nan)
    for lane, state in enumerate(found.states):
        if state is None:
            continue
        here = state.balanced.samples(points)
        times[lane] = np.arange(points) / points / state.hertz[0]
        values[lane] = here[:, shown]
        if variables:
            devices[lane] = state.circuit.readouts(here, np.array(variables))
            heat[lane] = dissipated(system, lane, here, state.tolerances)
    curves = {system.unknowns[k].label: values[:, :, j] for j, k in enumerate(shown)}
    curves |= {system.variables[k].label: devices[:, :, j] for j, k in enumerate(variables)}
    if variables:
        parts = dissipators(system)
        curves |= {power_label(part): heat[:, :, j] for j, part in enumerate(parts)}
        units = units | dict.fromkeys(map(power_label, parts), "W")
    same = len(states) == lanes and (times == times[0]).all()
    return Dataset(
        f"{kind}-wave", "time", "s", times[0] if same else times, curves, dict(units), conditions_of(system.lanes),
        np.repeat(found.outcomes[:, None], points, axis=1),
    )  # fmt: skip


def _grid(state: LaneState) -> Tones:
    """Samples that hold what there is."""
    tones = state.balanced.tones
    return tones if state.balanced.shot is None else replace(tones, samples=(max(FINELY, tones.count),))


def power_label(part: str) -> str:
    """What a part turns into heat."""
    return f"{part}.power"


def power_labels(system: System) -> set[str]:
    """Of all parts that do."""
    return {power_label(part) for part in dissipators(system)}


def points_of(found: Periodic) -> int:
    """Along a period."""
    return max(LEAST_POINTS, FOR_EACH * found.products)
