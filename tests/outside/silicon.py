"""Figures of a process as a designer would measure them, with decks over the kit's model file alone."""

from __future__ import annotations

import numpy as np

from hearthline.core.formats.kit_folder import INSTALLED
from tests.decks import point, solved

LIBRARY = INSTALLED / "lm130" / "lm130.lib"
WIDTH = 10e-6


def _lib(corner: str) -> str:
    return f'.lib "{LIBRARY}" {corner}'


def transistor(name: str, length: float, corner: str = "typ", width: float = WIDTH) -> str:
    """The transistor as m1 with its source and bulk on ground, driven by vg and vd of the channel's own sign."""
    return f"{_lib(corner)}\nm1 d g 0 0 {name} w={width} l={length} nf=4\n"


def sign(name: str) -> int:
    """-1 for p-channels, else 1."""
    return -1 if name.startswith("p") else 1


def transfer(name: str, length: float, vds: float, last: float = 1.2, corner: str = "typ", celsius: float = 27.0):
    """All of the transfer curve in 5 mV steps."""
    s = sign(name)
    text = f"{transistor(name, length, corner)}vg g 0 0\nvd d 0 {s * vds}\n.dc vg 0 {s * last} {s * 5e-3}\n"
    return solved(text, celsius=celsius)


def on_current(name: str, length: float = 130e-9, supply: float = 1.2, **options) -> float:
    """Drain current [A/m] with gate and drain at the supply."""
    return abs(transfer(name, length, supply, supply, **options)["m1.id"][-1]) / WIDTH


def off_current(name: str, length: float = 130e-9, supply: float = 1.2, **options) -> float:
    """Drain current [A/m] with the drain alone at the supply."""
    return abs(transfer(name, length, supply, supply, **options)["m1.id"][0]) / WIDTH


def swing(name: str, length: float = 130e-9) -> float:
    """Gate voltage [V] for a decade of the drain's current, where that is steepest."""
    found = transfer(name, length, 0.6)
    current = np.log10(np.abs(found["m1.id"]))
    return 1 / np.max(np.diff(current) / np.diff(np.abs(found["vg"])))


def transit_frequency(name: str, length: float = 130e-9, supply: float = 1.2) -> float:
    """The largest fT [Hz] over the gate voltage."""
    return float(np.max(transfer(name, length, supply, supply)["m1.ft"]))


def gain(name: str, length: float, overdrive: float = 0.15, vds: float = 0.6) -> float:
    """gm / gds at an overdrive of 0.15 V and half the supply."""
    found = transfer(name, length, vds)
    above = np.abs(found["vg"]) - np.abs(found["m1.vth"])
    at = int(np.argmin(np.abs(above - overdrive)))
    return found["m1.gm"][at] / found["m1.gds"][at]


def flicker_corner(name: str, length: float = 130e-9, overdrive: float = 0.2) -> float:
    """Frequency [Hz] where 1/f noise and thermal noise of the channel are equal."""
    found = transfer(name, length, 0.6)
    s = sign(name)
    above = np.abs(found["vg"]) - np.abs(found["m1.vth"])
    vg = found["vg"][int(np.argmin(np.abs(above - overdrive)))]
    text = f"{transistor(name, length)}vg g 0 {vg} ac 1\nvd d x {s * 0.6}\nr1 x 0 1m\n.noise v(x) vg dec 20 10k 10g\n"
    noise = solved(text)
    ratio = noise["m1.flicker"] / noise["m1.channel"]
    return float(10 ** np.interp(0.0, -np.log10(ratio), np.log10(noise["frequency"])))


def threshold_of_body(name: str, length: float = 130e-9) -> float:
    """By how much [V] one volt behind the bulk raises the threshold."""
    s = sign(name)
    text = f"{_lib('typ')}\nm1 d g 0 b {name} w=10u l={length}\nvg g 0 {s * 0.6}\nvd d 0 {s * 0.1}\nvb b 0 "
    return abs(point(text + f"{-s}")["m1.vth"]) - abs(point(text + "0")["m1.vth"])


def bipolar_transit_frequency(corner: str = "typ") -> float:
    """The largest fT [Hz] of the NPN over its current at vce = 1.2 V."""
    text = f"{_lib(corner)}\nq1 c b 0 0 npn_v\nvb b 0 0\nvc c 0 1.2\n.dc vb 0.6 0.95 5m\n"
    return float(np.max(solved(text)["q1.ft"]))


def spiral(**sizes) -> tuple[float, float, float]:
    """Inductance [H] at 100 MHz, largest quality of any frequency, and where it resonates with itself [Hz]: one end held."""
    given = " ".join(f"{name}={value}" for name, value in sizes.items())
    text = f"{_lib('typ')}\nx1 a 0 l_spiral {given}\ni1 0 a 0 ac 1\nr1 a 0 1g\n.ac dec 100 100meg 40g\n"
    found = solved(text)
    z, f = found["V(a).re"] + 1j * found["V(a).im"], found["frequency"]
    below = np.flatnonzero(z.imag <= 0)
    resonance = f[below[0]] if len(below) else np.inf
    return z.imag[0] / (2 * np.pi * f[0]), float(np.max(z.imag / z.real)), float(resonance)


def varactor_quality(frequency: float = 2.4e9, bias: float = 0.0, **sizes) -> float:
    """Quality of the varactor at a frequency, its bulk on ground."""
    given = " ".join(f"{name}={value}" for name, value in sizes.items())
    text = f"{_lib('typ')}\nx1 a 0 var_mos {given}\nv1 a 0 {bias} ac 1\n.ac lin 1 {frequency} {frequency}\n"
    found = solved(text)
    impedance = -1 / complex(found["I(v1).re"][0], found["I(v1).im"][0])
    return float(-impedance.imag / impedance.real)
