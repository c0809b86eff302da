"""What the sources of a circuit are at the products of a balance: sines, pulses by their exact Fourier coefficients, and the
power of ports."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial

import numpy as np

from hearthline.core.circuit.netlist import Element
from hearthline.core.elements.port import DEVICE, POWER_VALUE, RESISTANCE_VALUE
from hearthline.core.engine.complaints import complain
from hearthline.core.engine.periodic.tones import SAME, Tones
from hearthline.core.engine.small_signal import unit_excitation
from hearthline.core.engine.system import System
from hearthline.core.engine.transient.waves import NAMES, PULSE, SIN, WaveInLanes
from hearthline.core.quantity import write


def excitation(system: System, lane: int, tones: Tones, frequencies: np.ndarray) -> np.ndarray:
    """Right sides (products, unknowns + 1) beside the direct values of sources, for tones [Hz]. Raises CircuitError at a source
    that does not fit."""
    found = np.zeros((len(tones), len(system.unknowns) + 1), complex)
    for name, phasors in [*_waves(system, lane, tones, frequencies), *_ports(system, lane, tones)]:
        found += phasors[:, None] * unit_excitation(system, name)[None, :]
    return found


def _waves(system: System, lane: int, tones: Tones, frequencies: np.ndarray) -> Iterator[tuple[str, np.ndarray]]:
    elements = {one.name: one for one in system.netlist.elements}
    for name, wave in system.waves.items():
        found, source = np.zeros(len(tones), complex), elements[name]
        direct = system.values[lane, system.source_slots[name]]
        if wave.kind == SIN:
            _add_sine(found, source, wave.numbers[lane], tones, frequencies)
        elif wave.kind == PULSE:
            _add_pulse(found, source, wave, lane, tones, frequencies)
        else:
            raise complain(source, f"a balance takes sin and pulse, which repeat for ever, and no {NAMES[wave.kind]}")
        found[0] -= direct
        yield name, found


def _padded(numbers: np.ndarray, count: int) -> np.ndarray:
    full = np.zeros(count)
    full[: len(numbers)] = np.nan_to_num(numbers[:count])
    return full


def _add_sine(found: np.ndarray, source: Element, numbers: np.ndarray, tones: Tones, frequencies: np.ndarray) -> None:
    offset, size, frequency, delay, damping, phase = _padded(numbers, 6)
    if delay or damping:
        raise complain(source, "in a balance a sine has no delay and no damping; leave them out")
    found[0] += offset
    if size:
        product = _mix_of(source, frequency, tones, frequencies)
        _add(found, tones, product, -1j * size * np.exp(1j * np.radians(phase)))


def _add_pulse(
    found: np.ndarray, source: Element, wave: WaveInLanes, lane: int, tones: Tones, frequencies: np.ndarray
) -> None:  # fmt: skip
    low, high, delay, rise, fall, width, period = _padded(wave.numbers[lane], 7)
    if period <= 0:
        raise complain(source, "in a balance a pulse has a period; it is the last of its numbers")
    if rise + width + fall > period * (1 + SAME):
        whole = f"{write(rise + width + fall, 's', 4)}, more than its period {write(period, 's', 4)}"
        raise complain(source, f"rise, width and fall come to {whole}")
    product = _mix_of(source, 1.0 / period, tones, frequencies)
    found[0] += low + (high - low) * (0.5 * (rise + fall) + width) / period
    number = 1
    while tones.place_of(number * product) is not None:
        omega = 2.0 * np.pi * number / period
        up = _edge(omega, delay, rise)
        down = _edge(omega, delay + rise + width, fall)
        _add(found, tones, number * product, 2.0 * (high - low) * (up - down) / period)
        number += 1


def _edge(omega: float, begin: float, length: float) -> complex:
    """The transform of a step from 0 to 1 that takes a length of time, without its mean."""
    middle = np.exp(-1j * omega * (begin + 0.5 * length)) / (1j * omega)
    return complex(middle * np.sinc(omega * length / (2.0 * np.pi)))


def _mix_of(source: Element, frequency: float, tones: Tones, frequencies: np.ndarray) -> np.ndarray:
    """The product of the tones that has that frequency. Raises CircuitError naming the nearest."""
    there = tones.frequencies(frequencies)
    near = int(np.argmin(np.abs(there[1:] - frequency))) + 1
    if abs(there[near] - frequency) <= SAME * frequency:
        return tones.products[near]
    said = ", ".join(write(one, "Hz", 6) for one in frequencies)
    message = (
        f"{write(frequency, 'Hz', 6)} is no whole mix of {said} that the balance keeps; the nearest is "
        f"{write(there[near], 'Hz', 6)}"
    )
    raise complain(source, message)


def _add(found: np.ndarray, tones: Tones, product: np.ndarray, phasor: complex) -> None:
    place = tones.place_of(product)
    if place is not None:
        index, conjugate = place
        found[index] += np.conj(phasor) if conjugate else phasor


def _ports(system: System, lane: int, tones: Tones) -> Iterator[tuple[str, np.ndarray]]:
    """Ports with a power: behind its resistance a cosine of phase 0 at each tone."""
    for name, powers, resistance in powers_of(system, lane):
        found = np.zeros(len(tones), complex)
        for tone, watts in enumerate(powers[: tones.products.shape[1]]):
            product = np.zeros(tones.products.shape[1], int)
            product[tone] = 1
            _add(found, tones, product, np.sqrt(8.0 * watts * resistance))
        yield name, found


def powers_of(system: System, lane: int) -> Iterator[tuple[str, np.ndarray, float]]:
    """Ports that give power: their names, powers [W] at each tone, and resistances [Ω]."""
    for at in system.instance_places:
        if at.kind is DEVICE:
            values = system.values[lane, at.value : at.value + DEVICE.values]
            powers = values[POWER_VALUE : POWER_VALUE + 2]
            if powers.any():
                yield at.name, powers, float(values[RESISTANCE_VALUE])


Shape = Callable[[np.ndarray], np.ndarray]


def driving(system: System, lane: int, hertz: np.ndarray) -> Shape:
    """The same at moments [s], beside the direct values of sources: gives (moments, unknowns)."""
    shapes: list[tuple[np.ndarray, Shape]] = []
    for name, wave in system.waves.items():
        numbers, shape = _padded(wave.numbers[lane], 7), {SIN: _sine_at, PULSE: _pulse_at}[wave.kind]
        direct = float(system.values[lane, system.source_slots[name]])
        shapes.append((_unit(system, name), partial(_beside, shape, numbers, direct)))
    for name, watts, resistance in powers_of(system, lane):
        size = float(np.sqrt(8.0 * watts[0] * resistance))
        shapes.append((_unit(system, name), partial(_cosine_at, size, float(hertz[0]))))

    def at(moments: np.ndarray) -> np.ndarray:
        found = np.zeros((len(moments), len(system.unknowns)))
        for unit, shape in shapes:
            found += shape(moments)[:, None] * unit
        return found

    return at


def _unit(system: System, name: str) -> np.ndarray:
    return unit_excitation(system, name)[1:].real


def _beside(
    shape: Callable[[np.ndarray, np.ndarray], np.ndarray], numbers: np.ndarray, direct: float, moments: np.ndarray
) -> np.ndarray:
    return shape(numbers, moments) - direct


def _cosine_at(size: float, frequency: float, moments: np.ndarray) -> np.ndarray:
    return size * np.cos(2.0 * np.pi * frequency * moments)


def _sine_at(numbers: np.ndarray, moments: np.ndarray) -> np.ndarray:
    offset, size, frequency, _, _, phase = numbers[:6]
    return offset + size * np.sin(2.0 * np.pi * frequency * moments + np.radians(phase))


def _pulse_at(numbers: np.ndarray, moments: np.ndarray) -> np.ndarray:
    low, high, delay, rise, fall, width, period = numbers
    corners = np.cumsum([0.0, rise, width, fall])
    levels = [low, high, high, low]
    return np.interp((moments - delay) % period, np.append(corners, period), [*levels, low])


def breaks(system: System, lane: int, period: float) -> np.ndarray:
    """Where the pulses have corners, as shares of a period [s], from 0 to 1."""
    found = [np.zeros(0)]
    for wave in system.waves.values():
        if wave.kind == PULSE:
            _, _, delay, rise, fall, width, own = _padded(wave.numbers[lane], 7)
            begins = delay % own + own * np.arange(-1, round(period / own) + 1)
            found.append((begins[:, None] + np.cumsum([0.0, rise, width, fall])).ravel() / period)
    every = np.concatenate(found)
    return every[(every >= 0.0) & (every <= 1.0)]
