"""Devices whose temperature is an unknown: against the same devices at that temperature, and their slopes against differences."""

from __future__ import annotations

import numpy as np
import pytest

from hearthline.core.errors import ModelError
from hearthline.core.models.library import library_module, library_names
from hearthline.core.models.module import Module
from hearthline.core.models.veriloga.compiler import hot_variant
from tests.approximation import approx
from tests.modules import Device, module

RISE = 35.0
HEAT = "@heat"


def ends_of(one: Module) -> list[str]:
    """Names of its unknowns."""
    return [terminal.name for terminal in one.terminals]


def voltages(plain: Module, seed: int) -> np.ndarray:
    """About half a volt at every terminal."""
    return np.random.default_rng(seed).uniform(0.05, 0.9, len(plain.terminals))


def hot_unknowns(plain: Module, hot: Module, known: np.ndarray, rise: float) -> np.ndarray:
    """The same for the variant, with what it is warmer by."""
    values = dict(zip(ends_of(plain), known, strict=True)) | {HEAT: rise}
    return np.array([values[name] for name in ends_of(hot)])


@pytest.mark.parametrize("name", library_names())
@pytest.mark.parametrize("seed", [1, 2])
def test_it_is_the_same_device_at_another_temperature(name, seed):
    """Currents, charges, readouts and noise, to rounding."""
    plain, hot = library_module(name), hot_variant(library_module(name))
    known = voltages(plain, seed)
    wanted = Device(plain, 300.15 + RISE).at(*known)
    found = Device(hot, 300.15).at(*hot_unknowns(plain, hot, known, RISE))
    places = [ends_of(hot).index(one) for one in ends_of(plain)]
    for what in ("current", "charge"):
        size = np.abs(getattr(wanted, what)).max() + 1e-30
        assert getattr(found, what)[places] / size == approx(getattr(wanted, what) / size, rel=1e-9, abs=1e-9)
    for one, value in wanted.readout.items():
        assert found.readout[one] == approx(value, rel=1e-8, abs=1e-12)
    for one, (density, exponent) in wanted.noise.items():
        assert found.noise[one] == approx((density, exponent), rel=1e-8, abs=1e-60)


@pytest.mark.parametrize("name", library_names())
def test_its_slopes_are_those_of_differences(name):
    """Of all that flows and is stored, by every unknown and by its own temperature; and it turns into heat what its terminals
    take in."""
    hot = hot_variant(library_module(name))
    device, ends = Device(hot, 300.15), ends_of(hot)
    at = hot_unknowns(library_module(name), hot, voltages(library_module(name), 3), RISE)
    here = device.at(*at)
    for k, end in enumerate(ends):
        step = np.zeros(len(at))
        step[k] = 1e-3 if end == HEAT else 1e-6
        up, down = device.at(*(at + step)), device.at(*(at - step))
        for slope, flow in (("conductance", "current"), ("capacitance", "charge")):
            wanted = (getattr(up, flow) - getattr(down, flow)) / (2.0 * step[k])
            size = np.abs(getattr(here, slope)).max() + 1e-30
            assert getattr(here, slope)[:, k] / size == approx(wanted / size, rel=2e-4, abs=2e-7)
    plain = {one.kind for one in hot.terminals} <= {"port", "net"}
    others = [k for k, one in enumerate(hot.terminals) if one.discipline == "electrical"]
    if plain and all(one.discipline == "electrical" or one.name == HEAT for one in hot.terminals):
        taken = float(at[others] @ here.current[others])
        assert here.current[ends.index(HEAT)] == approx(-taken, rel=1e-9, abs=1e-25)


def test_what_is_stored_is_no_heat():
    """A resistor beside a capacitor, two of them, one behind a current of its own; a voltage across turns V²/R into heat, each."""
    text = "analog begin I(p, n) <+ V(p, n) / 100.0; I(p, n) <+ ddt(1e-9 * V(p, n)); end"
    series = "analog V(p, n) <+ 100.0 * I(p, n) + ddt(1e-6 * I(p, n));"
    for body in (text, series):
        hot = hot_variant(module(body))
        at = {"p": 3.0, "n": 1.0, HEAT: 10.0} | {one.name: 0.04 for one in hot.terminals if one.kind == "current"}
        found = Device(hot, 300.0, parallel=2.0, static=False).at(*(at[end] for end in ends_of(hot)))
        heat = ends_of(hot).index(HEAT)
        assert -found.current[heat] == approx(0.08, rel=1e-12)
        assert found.charge[heat] == 0.0


def test_a_device_without_a_text_is_refused():
    """What all that collapses has left is no device to start from."""
    plain = library_module("mos")
    assert plain.collapsed is not None
    with pytest.raises(ModelError, match="no text"):
        hot_variant(plain.collapsed)
