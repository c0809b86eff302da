"""Numbers with SI prefixes and units, in and out: `200u`, `12.96 µm`, `2.4G`, `1e-6`; `1MEG` in decks.

Reading combines the digits and the prefix as text, so that `3.2u` is the float nearest to 3.2e-6, and what
`write` prints is read back to the very same float.
"""

from __future__ import annotations

import math
import re
from decimal import Decimal

from hearthline.core import limits
from hearthline.core.errors import QuantityError

PREFIXES = {
    "a": -18, "f": -15, "p": -12, "n": -9, "u": -6, "µ": -6, "μ": -6, "m": -3, "": 0,
    "k": 3, "K": 3, "M": 6, "G": 9, "T": 12, "P": 15,
}  # fmt: skip
WRITTEN = {-18: "a", -15: "f", -12: "p", -9: "n", -6: "µ", -3: "m", 0: "", 3: "k", 6: "M", 9: "G", 12: "T", 15: "P"}
UNITS = (
    "m²",
    "m2",
    "m",
    "V/V",
    "V",
    "A",
    "Ω",
    "Ohm",
    "ohm",
    "Hz",
    "F",
    "H",
    "S",
    "W",
    "s",
    "°C",
    "degC",
    "K",
    "dB",
    "dBm",
    "%",
)
SAME_UNIT = {"Ohm": "Ω", "ohm": "Ω", "degC": "°C", "m2": "m²"}
PLAIN_UNITS = ("°C", "dB", "dBm", "%", "°", "V/V", "1/V", "ppm/K")
DECK_SCALES = (
    ("meg", 6), ("mil", None), ("t", 12), ("g", 9), ("k", 3), ("m", -3), ("u", -6), ("µ", -6), ("n", -9), ("p", -12),
    ("f", -15), ("a", -18),
)  # fmt: skip
MIL = 25.4e-6

_NUMBER = r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?"
_FIELD = re.compile(rf"\s*({_NUMBER})\s*(.*?)\s*")
_DECK = re.compile(rf"({_NUMBER})([A-Za-zµ%]*)")


def read(text: str, unit: str = "") -> float:
    """The number that `text` says, in the SI base of `unit` (`""` allows none).

    A lone `m` is milli; `mm`, `µm` carry the unit. Raises QuantityError naming what was not understood.
    """
    match = _FIELD.fullmatch(text.replace("−", "-"))
    if not match:
        raise QuantityError(f"'{text.strip()}' is not a number; write for example {_example(unit)}")
    digits, tail = match.groups()
    return _scaled(digits, _exponent(tail, unit, text.strip()))


def _exponent(tail: str, unit: str, text: str) -> int:
    if tail in PREFIXES and not (tail == "K" and unit == "K"):
        return PREFIXES[tail]
    for name in UNITS:
        if tail.endswith(name) and tail[: -len(name)] in PREFIXES:
            if SAME_UNIT.get(name, name) != unit:
                wanted = f"this is a number in {unit}" if unit else "a number without a unit is wanted"
                raise QuantityError(f"'{text}' is in {name}; {wanted}")
            return PREFIXES[tail[: -len(name)]]
    raise QuantityError(f"'{tail}' in '{text}' is not an SI prefix or a unit; write for example {_example(unit)}")


def _example(unit: str) -> str:
    return {"m": "3.2u or 3.2 µm", "Ω": "12k", "F": "100f", "°C": "27", "V": "600m or 0.6"}.get(unit, "200u or 2e-4")


def _scaled(digits: str, exponent: int) -> float:
    mantissa, _, given = digits.lower().partition("e")
    if len(digits) > limits.DIGITS or len(given.lstrip("+-0")) > 6:
        raise QuantityError(f"'{digits[:20]}...' is no number that can be used; it has {len(digits)} characters")
    value = float(f"{mantissa}e{int(given or 0) + exponent}")
    if math.isinf(value):
        raise QuantityError(f"'{digits}' is too large a number")
    return value


BEYOND = 1e-22, 1e18
"""Outside of these a number of some digits has an exponent."""


def write(value: float, unit: str = "", digits: int | None = None, space: bool = True) -> str:
    """`value` with the SI prefix that leaves 1 to 999 before the point: `3.2 µm`, `−18.4 µA`, `0.5`.

    With `digits` that many significant digits are shown, and a number without a unit stays plain (`0.482`); without
    `digits` as many as it takes to read the same float back.
    """
    if not math.isfinite(value):
        return "–" if math.isnan(value) else ("∞" if value > 0 else "−∞")
    if unit in PLAIN_UNITS and digits and 0 < abs(value) < 1e-4:
        return f"{value:.{digits - 1}e} {unit}".replace("-", "−", 1) if value < 0 else f"{value:.{digits - 1}e} {unit}"
    if digits and value and not BEYOND[0] <= abs(value) < BEYOND[1]:  # no prefix reaches so far
        return f"{value:.{digits - 1}e}{' ' if unit else ''}{unit}".replace("-", "−")
    if unit in PLAIN_UNITS or (not unit and digits and (value == 0 or 1e-4 <= abs(value) < 1e6)):
        return _mantissa(value, 0, digits) + (f" {unit}" if unit else "")
    exponent = _engineering_exponent(value, digits)
    number = _mantissa(value, exponent, digits)
    tail = f"{WRITTEN[exponent]}{unit}"
    return number + (" " if space and tail else "") + tail


def _engineering_exponent(value: float, digits: int | None) -> int:
    if value == 0:
        return 0
    rounded = Decimal(repr(value)) if digits is None else Decimal(f"{value:.{digits - 1}e}")
    return max(-18, min(15, 3 * (rounded.adjusted() // 3)))


def _mantissa(value: float, exponent: int, digits: int | None) -> str:
    if digits is None:
        text = format(Decimal(repr(value)).scaleb(-exponent).normalize(), "f")
        if len(text) > 24:
            text = str(Decimal(repr(value)).scaleb(-exponent).normalize()).replace("E", "e")
        return text.replace("-", "−") if value < 0 else text
    scaled = Decimal(f"{value:.{digits - 1}e}").scaleb(-exponent)
    places = max(0, digits - 1 - scaled.adjusted()) if scaled else digits - 1
    return f"{scaled:.{places}f}".replace("-", "−")


def field_text(value: float) -> str:
    """How a number stands in an input field or a file: `3.2u`, `0.55`, `12k`; reads back to the same float."""
    return write(value, space=False).replace("−", "-").replace("µ", "u")


def read_deck(text: str) -> float:
    """A number of a deck: `1k`, `2.2meg`, `10pF`, `1mil`; letters after the scale are ignored, `m` is milli.

    Raises QuantityError.
    """
    match = _DECK.fullmatch(text)
    if not match:
        raise QuantityError(f"'{text}' is not a number; write for example 10k, 2.2meg or 0.5u")
    digits, tail = match.group(1), match.group(2).lower()
    for name, exponent in DECK_SCALES:
        if tail.startswith(name):
            return _scaled(digits, 0) * MIL if exponent is None else _scaled(digits, exponent)
    return _scaled(digits, 0)
