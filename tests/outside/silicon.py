"""Figures of a process as a designer would measure them, with decks over the kit's model file alone."""

from __future__ import annotations

import numpy as np

from hearthline.core.formats.kit_folder import INSTALLED
from tests.benches import data_of
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


def spiral(turned: bool = False, **sizes) -> tuple[float, float, float]:
    """Inductance [H] at 100 MHz, largest quality of any frequency, and where it resonates with itself [Hz]: one end held, the
    other one where it is turned."""
    given = " ".join(f"{name}={value}" for name, value in sizes.items())
    text = f"{_lib('typ')}\nx1 {'0 a' if turned else 'a 0'} l_spiral {given}\ni1 0 a 0 ac 1\nr1 a 0 1g\n.ac dec 100 100meg 40g\n"
    found = solved(text)
    z, f = found["V(a).re"] + 1j * found["V(a).im"], found["frequency"]
    below = np.flatnonzero(z.imag <= 0)
    resonance = (
        np.interp(0.0, -z.imag[below[0] - 1 : below[0] + 1], f[below[0] - 1 : below[0] + 1]) if len(below) else np.inf
    )
    return z.imag[0] / (2 * np.pi * f[0]), float(np.max(z.imag / z.real)), float(resonance)


def varactor_quality(frequency: float = 2.4e9, bias: float = 0.0, **sizes) -> float:
    """Quality of the varactor at a frequency, its bulk on ground."""
    given = " ".join(f"{name}={value}" for name, value in sizes.items())
    text = f"{_lib('typ')}\nx1 a 0 var_mos {given}\nv1 a 0 {bias} ac 1\n.ac lin 1 {frequency} {frequency}\n"
    found = solved(text)
    impedance = -1 / complex(found["I(v1).re"][0], found["I(v1).im"][0])
    return float(-impedance.imag / impedance.real)


def _op(text: str, column: str, corner: str = "typ", celsius: float = 27.0) -> float:
    return point(f"{_lib(corner)}\n{text}", celsius=celsius)[column]


def _noise(text: str, column: str, frequency: float) -> float:
    """A contribution to the voltage of net x [V/√Hz]."""
    return float(solved(f"{_lib('typ')}\n{text}\n.noise v(x) v1 lin 1 {frequency} {frequency}\n")[column][0])


def capacitance(text: str, frequency: float = 1e6, celsius: float = 27.0) -> float:
    """What v1 sees [F], from the imaginary part of its current."""
    found = solved(f"{_lib('typ')}\n{text}\n.ac lin 1 {frequency} {frequency}\n", celsius=celsius)
    return float(-found["I(v1).im"][0] / (2 * np.pi * frequency))


def _of_transistor(name: str) -> dict[str, float]:
    s, thick = sign(name), name.endswith("25")
    minimum, middle, supply = (280e-9, 1e-6, 2.5) if thick else (130e-9, 500e-9, 1.2)
    part = f"m1 d g 0 b {name} w=10u nf=4"

    def at(column: str, vg: float, vd: float, length: float = minimum, vb: float = 0.0, **condition) -> float:
        bias = f"vg g 0 {s * vg}\nvd d 0 {s * vd}\nvb b 0 {-s * vb}\n{part} l={length}"
        return abs(_op(bias, column, **condition))

    corners = {
        f"{label} {corner} {unit}": scale * at("m1.id", gate, supply, corner=corner) / 10
        for corner in ("ff", "ss", "fs", "sf")
        for label, unit, gate, scale in (("Idsat", "µA/µm", supply, 1e6), ("Ioff", "nA/µm", 0.0, 1e9))
    }

    noisy = f"{part} l={minimum}\nv1 g 0 {s * 0.7} ac 1\nvd d x {s * supply / 2}\nr1 x 0 1m\nvb b 0 0"
    return {
        "Idsat µA/µm": 1e6 * at("m1.id", supply, supply) / 10, "Ioff nA/µm": 1e9 * at("m1.id", 0, supply) / 10,
        "swing mV": 1e3 * swing(name, minimum), "fT GHz": transit_frequency(name, minimum, supply) / 1e9,
        "gm/gds, shortest": gain(name, minimum, vds=supply / 2), "gm/gds, longer": gain(name, middle, vds=supply / 2),
        "Vth, 10 µm V": at("m1.vth", 0.6, 0.05, 10e-6), "Vth, shortest V": at("m1.vth", 0.6, 0.05),
        "Vth at the supply V": at("m1.vth", 0.6, supply), "Vth, bulk 1 V V": at("m1.vth", 0.6, 0.05, 10e-6, 1.0),
        "Idsat -40 °C µA/µm": 1e6 * at("m1.id", supply, supply, celsius=-40.0) / 10,
        "Idsat 150 °C µA/µm": 1e6 * at("m1.id", supply, supply, celsius=150.0) / 10,
        "Ron Ω µm": 10 * at("m1.ron", supply, 0.05), "Id, 10 µm µA": 1e6 * at("m1.id", supply, supply, 10e-6),
        "Id, W 0.16 µm µA": 1e6 * abs(_op(
            f"m1 d d 0 0 {name} w=0.16u l={minimum}\nvd d 0 {s * supply}", "m1.id")),
        "Cgg fF": 1e15 * at("m1.cgg", supply, 0.0), "Cgd off fF": 1e15 * at("m1.cgd", 0.0, supply),
        "Cbd fF": 1e15 * at("m1.cbd", 0.0, 0.0), "Cbd at the supply fF": 1e15 * at("m1.cbd", 0.0, supply),
        "bulk leak 150 °C pA": 1e12 * abs(_op(
            f"{part} l={minimum}\nvd d 0 {s * supply}\nvg g 0 {-s}\nvb b 0 0", "I(vb)", celsius=150.0)),
        "1/f at 10 kHz pV": 1e12 * _noise(noisy, "m1.flicker", 1e4), "1/f at 10 MHz pV": 1e12 * _noise(noisy, "m1.flicker", 1e7),
        "thermal pV": 1e12 * _noise(noisy, "m1.channel", 1e7), "of rd pV": 1e12 * _noise(noisy, "m1.rd", 1e7),
        "Vth 150 °C V": at("m1.vth", 0.6, 0.05, 10e-6, celsius=150.0),
    } | corners  # fmt: skip


def _of_resistor(name: str) -> dict[str, float]:
    wide, narrow = f"x1 a 0 {name} w=2u l=20u", f"x1 a 0 {name} w=1u l=4u"

    def ohms(text: str, volts: float = 0.01, celsius: float = 27.0) -> float:
        return volts / -_op(f"{text}\nv1 a 0 {volts}", "I(v1)", celsius=celsius)

    noisy = f"x1 a x {name} w=2u l=20u\nv1 a 0 1 ac 1\nr1 x 0 1m"
    return {
        "2 × 20 µm Ω": ohms(wide), "1 × 4 µm Ω": ohms(narrow), "as it comes Ω": ohms(f"x1 a 0 {name}"),
        "change -40 °C 1e-3": 1e3 * (ohms(wide, celsius=-40.0) / ohms(wide) - 1),
        "change 150 °C 1e-3": 1e3 * (ohms(wide, celsius=150.0) / ohms(wide) - 1), "change by 1 V 1e-3": 1e3 * (ohms(wide, 1.0) / ohms(wide) - 1),
        "change by 4 V 1e-3": 1e3 * (ohms(wide, 4.0) / ohms(wide) - 1),
        "to below fF": 1e15 * capacitance(f"{wide}\nv1 a 0 0 ac 1"), "1/f at 10 Hz pV": 1e12 * _noise(noisy, "x1.flicker", 10.0),
    }  # fmt: skip


def _of_capacitor(name: str) -> dict[str, float]:
    def farads(size: str, volts: float = 0.0, celsius: float = 27.0) -> float:
        return 1e15 * capacitance(f"x1 a 0 {name} {size}\nv1 a 0 {volts} ac 1", celsius=celsius)

    square, strip = "w=10u l=10u", "w=4u l=40u"
    return {
        "10 × 10 µm fF": farads(square), "4 × 40 µm fF": farads(strip), "change -40 °C 1e-6": 1e6 * (farads(square, 0, -40.0) / farads(square) - 1),
        "change by 2 V 1e-6": 1e6 * (farads(square, 2.0) / farads(square) - 1),
        "change by -2 V 1e-6": 1e6 * (farads(square, -2.0) / farads(square) - 1),
        "lower plate fF": 1e15 * capacitance(f"x1 0 a {name} {square}\nv1 a 0 0 ac 1") - farads(square),
        "as it comes fF": farads(""), "2 × 2 µm fF": farads("w=2u l=2u"), "leak at 1 V aA": -1e18 * _op(f"x1 a 0 {name} {square}\nv1 a 0 1", "I(v1)"),
    }  # fmt: skip


def _of_varactor(name: str) -> dict[str, float]:
    def farads(volts: float, size: str = "w=20u l=0.5u", celsius: float = 27.0) -> float:
        return 1e15 * capacitance(f"x1 a 0 {name} {size}\nv1 a 0 {volts} ac 1", celsius=celsius)

    return {
        "-1.5 V fF": farads(-1.5), "-0.3 V fF": farads(-0.3), "0 V fF": farads(0.0), "1.5 V fF": farads(1.5),
        "50 × 0.25 µm fF": farads(1.5, "w=50u l=0.25u"), "0 V, 150 °C fF": farads(0.0, celsius=150.0),
        "as it comes, 1.5 V fF": farads(1.5, ""), "Q 0.25 µm": varactor_quality(w="10u", l="250n"), "Q 1 µm": varactor_quality(w="10u", l="1u"),
        "well fF": 1e15 * capacitance(f"x1 0 a {name} w=20u l=0.5u\nv1 a 0 0 ac 1") - farads(0.0),
    }  # fmt: skip


def _of_spiral(name: str) -> dict[str, float]:
    found = {}
    small = dict(d="140u", w="8u", s="2u", turns=2.5)
    for label, turned, sizes in (("200 µm", False, {}), ("turned", True, {}), ("140 µm", False, small)):
        inductance, quality, resonance = spiral(turned, **sizes)
        found |= {f"{label} nH": 1e9 * inductance, f"{label} Q": quality, f"{label} resonance GHz": resonance / 1e9}
    between = solved(f"{_lib('typ')}\nx1 a b {name}\nv1 a b ac 1\nr1 b 0 1t\n.ac lin 1 100meg 100meg\n")
    found["series Ω"] = float((-1 / complex(between["I(v1).re"][0], between["I(v1).im"][0])).real)
    return found


def _of_bipolar(name: str) -> dict[str, float]:
    s = -1 if name.startswith("pnp") else 1
    ends = "c b e 0" if s > 0 else "c b e"

    def at(column: str, vbe: float, vce: float = 1.0, celsius: float = 27.0, text: str = "") -> float:
        bias = f"q1 {ends} {name}\nvb b 0 {s * vbe}\nvc c 0 {s * vce}\nve e 0 0\n{text}"
        return abs(_op(bias, column, celsius=celsius))

    found = {
        f"{label} {vbe} V": scale * at(column, vbe, celsius=celsius)
        for label, column, scale, vbe, celsius in (
            ("Ic nA", "q1.ic", 1e9, 0.55, 27.0), ("Ic µA", "q1.ic", 1e6, 0.75, 27.0), ("Ic mA", "q1.ic", 1e3, 0.95, 27.0),
            ("Ic -40 °C nA", "q1.ic", 1e9, 0.65, -40.0), ("Ic 150 °C µA", "q1.ic", 1e6, 0.55, 150.0),
            ("beta", "q1.beta", 1.0, 0.2, 27.0), ("beta", "q1.beta", 1.0, 0.4, 27.0),
            ("beta", "q1.beta", 1.0, 0.65, 27.0), ("beta", "q1.beta", 1.0, 0.9, 27.0), ("beta 150 °C", "q1.beta", 1.0, 0.5, 150.0),
            ("fT GHz", "q1.ft", 1e-9, 0.65, 27.0), ("fT GHz", "q1.ft", 1e-9, 0.8, 27.0), ("fT GHz", "q1.ft", 1e-9, 0.92, 27.0),
            ("Cpi at rest fF", "q1.cpi", 1e15, 0.0, 27.0), ("Cpi reverse fF", "q1.cpi", 1e15, -2.0, 27.0),
        )
    }  # fmt: skip
    found |= {
        "Early V": at("q1.ic", 0.65, 1.0) / at("q1.go", 0.65, 1.0), "reverse beta": at("q1.ic", 0.65, 0.0) / at("q1.ib", 0.65, 0.0),
        "reverse Ic µA": 1e6 * abs(_op(f"q1 {ends} {name}\nvb b 0 {s * 0.75}\nvc c 0 0\nve e 0 {s * 1.0}", "q1.ic")),
        "reverse Ib nA": 1e9 * abs(_op(f"q1 {ends} {name}\nvb b 0 {s * 0.45}\nvc c 0 0\nve e 0 {s * 1.0}", "q1.ib")),
        "reverse Early 1e-3": 1e3 * (1 - abs(_op(f"q1 {ends} {name}\nvb b 0 {s * 0.6}\nvc c 0 0\nve e 0 {s * 3.0}", "q1.ic"))
                                     / abs(_op(f"q1 {ends} {name}\nvb b 0 {s * 0.6}\nvc c 0 0\nve e 0 {s * 0.6}", "q1.ic"))),
        "Cmu at rest fF": 1e15 * at("q1.cmu", 0.0, 0.0), "Cmu at 3 V fF": 1e15 * at("q1.cmu", 0.0, 3.0),
        "collector in all fF": 1e15 * capacitance(f"q1 a 0 0 {'0 ' if s > 0 else ''}{name}\nv1 a 0 0 ac 1"),
        "the same at 2 V fF": 1e15 * capacitance(f"q1 a 0 0 {'0 ' if s > 0 else ''}{name}\nv1 a 0 {s * 2} ac 1"),
        "storage ps": 1e12 * abs(_op(f"q1 {ends} {name}\nvb b 0 {s * 0.65}\nvc c 0 0\nve e 0 {s * 0.6}", "q1.cmu"))
        / abs(_op(f"q1 {ends} {name}\nvb b 0 {s * 0.65}\nvc c 0 0\nve e 0 {s * 0.6}", "q1.ic")),
    }  # fmt: skip
    driven = f"{_lib('typ')}\nq1 c b 0 {'0 ' if s > 0 else ''}{name}\nv1 b 0 {s * 0.7} ac 1\nvc c 0 {s * 1.0}"
    current = solved(f"{driven}\n.ac lin 1 10g 10g\n")
    found["Re Zin at 10 GHz Ω"] = float((-1 / complex(current["I(v1).re"][0], current["I(v1).im"][0])).real)
    noisy = f"q1 x b 0 {'0 ' if s > 0 else ''}{name}\nv1 b 0 {s * 0.85} ac 1\nvc d 0 {s * 1.5}\nr1 d x 10"
    found |= {
        f"{part} pV": 1e12 * _noise(noisy, f"q1.{part}", 1e3)
        for part in ("rb", "rc", "re", "flicker")
        if part != "rc" or s > 0
    }
    return found


def _of_diode(name: str) -> dict[str, float]:
    def at(column: str, volts: float, celsius: float = 27.0) -> float:
        return abs(_op(f"d1 a 0 {name}\nv1 a 0 {volts}", column, celsius=celsius))

    noisy = f"d1 a x {name}\nv1 a 0 0.8 ac 1\nr1 x 0 1"
    return {
        "0.6 V nA": 1e9 * at("d1.id", 0.6), "0.7 V µA": 1e6 * at("d1.id", 0.7), "1 V mA": 1e3 * at("d1.id", 1.0),
        "0.6 V, -40 °C pA": 1e12 * at("d1.id", 0.6, -40.0), "0.6 V, 150 °C µA": 1e6 * at("d1.id", 0.6, 150.0),
        "-9.4 V nA": 1e9 * at("d1.id", -9.4), "C fF": 1e15 * at("d1.cd", 0.0), "C at -2 V fF": 1e15 * at("d1.cd", -2.0),
        "C at 0.7 V pF": 1e12 * at("d1.cd", 0.7), "1/f at 1 kHz pV": 1e12 * _noise(noisy, "d1.flicker", 1e3),
        "of rs pV": 1e12 * _noise(noisy, "d1.rs", 1e3),
    }  # fmt: skip


def rf_transistor(name: str, overdrive: float = 0.2, frequency: float = 2.4e9) -> dict[str, float]:
    """Figures of 80 µm in 16 fingers of 130 nm as a two-port, at full supply: gate and drain are ports, through chokes."""
    sign = -1 if name[0] == "p" else 1
    volts = sign * (0.37 + overdrive)
    bias = f"cin a g 1\nlg bias g 1\nvg bias 0 {volts}\nld d s 1\nvd s 0 {sign * 1.2}\ncout d b 1\nra a 0 1e12\nrb b 0 1e12\n"
    parts = f"{_lib('typ')}\n{bias}m1 d g 0 0 {name} w=80u l=0.13u nf=16\n"
    data = data_of(parts, f"scattering from {frequency} to {frequency} points 1 spaced even")
    s = np.array([[data.curves[f"S({a},{b})"][0, 0] for b in (1, 2)] for a in (1, 2)])
    y = np.linalg.inv(np.eye(2) + s) @ (np.eye(2) - s) / 50
    figure = {
        label: float(np.abs(data.curves[f"twoport.{label}"][0, 0]))
        for label in ("gain_unilateral", "noise_factor_min", "rn")
    }
    return {
        "fT GHz": frequency * abs(y[1, 0] / y[0, 0]) / 1e9, "fmax GHz": frequency * np.sqrt(figure["gain_unilateral"]) / 1e9,
        "Re Zin Ω": (1 / y[0, 0]).real, "Re Yout mS": 1e3 * y[1, 1].real, "NFmin at 2.4 GHz dB": 10 * np.log10(figure["noise_factor_min"]), "Rn Ω": figure["rn"],
    }  # fmt: skip


def _of_rf_transistor(name: str) -> dict[str, float]:
    found = rf_transistor(name) | {f"{k}, 0.1 V": v for k, v in rf_transistor(name, 0.1).items() if k != "Rn Ω"}
    fast = rf_transistor(name, frequency=20e9)
    found |= {f"{k}, 20 GHz": fast[k] for k in ("Re Zin Ω", "Re Yout mS", "fmax GHz")}
    found["Re Yout mS, off, 20 GHz"] = rf_transistor(name, -0.37, 20e9)["Re Yout mS"]
    return found | _of_transistor(name)


def _seen(text: str, frequency: float) -> complex:
    """The impedance that v1 sees [Ω]."""
    found = solved(f"{_lib('typ')}\nv1 a 0 ac 1\n{text}\n.ac lin 1 {frequency} {frequency}\n")
    return -1 / complex(found["I(v1).re"][0], found["I(v1).im"][0])


def _of_pad(name: str) -> dict[str, float]:
    small, large = (_seen(f"x1 a {name} a={a}", 1e9) for a in ("60u", "100u"))
    w = 2 * np.pi * 1e9
    return {
        "60 µm fF": 1e15 * (1 / small).imag / w,
        "100 µm fF": 1e15 * (1 / large).imag / w,
        "60 µm Re Z Ω": small.real,
    }


def _of_wire(name: str) -> dict[str, float]:
    def wire(frequency: float, given: str = "") -> complex:
        return _seen(f"x1 a 0 {name} {given}", frequency)

    w = 2 * np.pi * 1e9
    return {
        "1 mm nH": 1e9 * wire(1e9).imag / w, "3 mm nH": 1e9 * wire(1e9, "len=3m").imag / w, "1 mm, 1 MHz mΩ": 1e3 * wire(1e6).real,
        "1 mm, 1 GHz mΩ": 1e3 * wire(1e9).real, "1 mm, 5 GHz mΩ": 1e3 * wire(5e9).real, "1 mm, 33 µm nH": 1e9 * wire(1e9, "d=33u").imag / w,
    }  # fmt: skip


def figures(name: str) -> dict[str, float]:
    """What the page of the kit says of a device, each figure under its name with the unit."""
    if name.endswith("_rf"):
        return _of_rf_transistor(name)
    if name.startswith(("n_", "p_")):
        return _of_transistor(name)
    of = {
        "r_poly": _of_resistor, "r_polyn": _of_resistor, "r_nwell": _of_resistor, "c_mim": _of_capacitor, "c_mom": _of_capacitor,
        "var_mos": _of_varactor, "l_spiral": _of_spiral, "npn_v": _of_bipolar, "pnp_s": _of_bipolar, "d_np": _of_diode,
        "pad": _of_pad, "bond_wire": _of_wire,
    }  # fmt: skip
    return of[name](name)
