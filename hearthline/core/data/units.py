"""Units that follow through formulas: V/A is Ω, A·s is C, a density in V/√Hz integrates to V.

A unit is powers of V, A, s, m and K; volts and amperes serve as base units here because circuits speak of them. What has no
such powers, like dB, is only a name.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache

BASES = ("V", "A", "s", "m", "K")
_NOTHING = (Fraction(0),) * len(BASES)
_KNOWN = {
    "V": (1, 0, 0), "A": (0, 1, 0), "s": (0, 0, 1), "m": (0, 0, 0, 1), "K": (0, 0, 0, 0, 1), "°C": (0, 0, 0, 0, 1),
    "Ω": (1, -1, 0), "S": (-1, 1, 0), "F": (-1, 1, 1), "H": (1, -1, 1), "Hz": (0, 0, -1), "W": (1, 1, 0),
    "J": (1, 1, 1), "C": (0, 1, 1), "1": (), "rad": (), "%": (), "°": (), "dB": (),
}  # fmt: skip
_NAMES = ("V", "A", "s", "m", "K", "Ω", "S", "F", "H", "Hz", "W", "J", "C")
_NAME_ONLY = ("°C", "°", "dB", "%")
_SUPERSCRIPTS = str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹⁻", "0123456789-")
_RAISED = str.maketrans("0123456789-", "⁰¹²³⁴⁵⁶⁷⁸⁹⁻")
_ATOM = re.compile(r"(√?)(°C|°|%|dB|[A-Za-zΩ]+|1)(?:\^?(-?\d+)|([⁰¹²³⁴⁵⁶⁷⁸⁹⁻]+))?")


@dataclass(frozen=True)
class Unit:
    """Powers of V, A, s, m, K; or a `name` that says more than they do (`dB`, `°C`)."""

    powers: tuple[Fraction, ...] = _NOTHING
    name: str = ""

    def __mul__(self, other: Unit) -> Unit:
        return Unit(tuple(a + b for a, b in zip(self.powers, other.powers, strict=True)))

    def __truediv__(self, other: Unit) -> Unit:
        return Unit(tuple(a - b for a, b in zip(self.powers, other.powers, strict=True)))

    def __pow__(self, exponent: Fraction | int) -> Unit:
        return Unit(tuple(a * exponent for a in self.powers))

    @property
    def plain(self) -> bool:
        """Whether it is that of a bare number."""
        return self.powers == _NOTHING and not self.name

    def fits(self, other: Unit) -> bool:
        """Whether quantities of both may be added."""
        return self.powers == other.powers and (self.name == other.name or not (self.plain or other.plain))

    def __str__(self) -> str:
        return self.name or _write(self.powers)


PLAIN = Unit()
DECIBEL, DEGREE = Unit(name="dB"), Unit(name="°")


@lru_cache(maxsize=1024)
def unit_of(text: str) -> Unit:
    """The unit that a text says: `V/√Hz`, `A²/Hz`, `1/V`; one that is not known is only a name."""
    text = text.strip()
    if not text or text == "V/V":
        return PLAIN
    if text in _NAME_ONLY:
        return Unit(_padded(_KNOWN[text]), text)
    above, *below = text.split("/")
    found = PLAIN
    for piece, sign in [(above, 1), *((one, -1) for one in below)]:
        for atom in re.split(r"[·*]", piece):
            match = _ATOM.fullmatch(atom.strip())
            if match is None or match[2] not in _KNOWN:
                return Unit(name=text)
            power = Fraction(int(match[3] or (match[4] or "1").translate(_SUPERSCRIPTS)))
            power = power / 2 if match[1] else power
            found = found * Unit(_padded(_KNOWN[match[2]])) ** (sign * power)
    return found


def _padded(powers: tuple[int, ...]) -> tuple[Fraction, ...]:
    return tuple(Fraction(p) for p in (*powers, *([0] * (len(BASES) - len(powers)))))


_NAMED = {_padded(_KNOWN[name]): name for name in reversed(_NAMES)}


@lru_cache(maxsize=1024)
def _write(powers: tuple[Fraction, ...]) -> str:
    if powers == _NOTHING:
        return ""
    if powers in _NAMED:
        return _NAMED[powers]
    if sum(power != 0 for power in powers) == 1:
        base, power = next((b, p) for b, p in zip(BASES, powers, strict=True) if p)
        return _raised(base, power) if power > 0 else f"1/{_raised(base, -power)}"
    for name in _NAMES:  # V², A²/Hz, V/√Hz, Ω/s: one known unit to a power, over a second to a power
        for over in ("Hz", "s", "V", "A", "m", "K"):
            for above in (1, 2):
                for below in (Fraction(0), Fraction(1), Fraction(1, 2), Fraction(2)):
                    if (Unit(_padded(_KNOWN[name])) ** above / Unit(_padded(_KNOWN[over])) ** below).powers == powers:
                        return _raised(name, Fraction(above)) + (f"/{_raised(over, below)}" if below else "")
    above = [_raised(base, p) for base, p in zip(BASES, powers, strict=True) if p > 0]
    below = [_raised(base, -p) for base, p in zip(BASES, powers, strict=True) if p < 0]
    return ("·".join(above) or "1") + "".join(f"/{one}" for one in below)


def _raised(name: str, power: Fraction) -> str:
    if power == 1:
        return name
    if power == Fraction(1, 2):
        return f"√{name}"
    if power.denominator == 1:
        return name + str(power.numerator).translate(_RAISED)
    return f"{name}^{power}"
