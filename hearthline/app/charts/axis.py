"""A chart axis with SI prefixes: round numbers at the ticks, the prefixed unit said once; or decades."""

from __future__ import annotations

from math import floor, log10

import pyqtgraph as pg

from hearthline.app.theme.fonts import figure_font
from hearthline.app.theme.theme import theme
from hearthline.core.quantity import PLAIN_UNITS, WRITTEN

ANGLES = (15.0, 30.0, 45.0, 90.0, 180.0, 360.0, 720.0, 1440.0)
"""Steps of an axis of angles [°]."""

TICK_ROOM = 24.0
FEW_DECADES, MOST_DECADES = 4, 12
"""Up to the first the values between decades are named, up to the second they have lines."""


def prefix_exponent(largest: float) -> int:
    """The power of ten, a multiple of three, that leaves the largest value between 1 and 999; volts stay volts."""
    if largest <= 0:
        return 0
    exponent = 0
    while largest * 10.0**-exponent < 1 and exponent > -18:
        exponent -= 3
    while largest * 10.0**-exponent >= 1000 and exponent < 15:
        exponent += 3
    return exponent


class PrefixAxis(pg.AxisItem):
    """Shows values divided by `10**exponent`; `unit_text` says the prefix and unit. A logarithmic one is given the logarithms
    and names whole decades."""

    def __init__(self, orientation: str) -> None:
        super().__init__(orientation)
        self.exponent, self.unit = 0, ""
        self._wide = False
        self.enableAutoSIPrefix(False)
        self.restyle()

    def restyle(self) -> None:
        """Takes the colours of the theme."""
        self.setPen(pg.mkPen(theme.color("line"), width=1))
        self.setTextPen(pg.mkPen(theme.color("quiet")))
        self.setStyle(tickFont=figure_font(11), tickLength=-4, tickTextOffset=5, autoExpandTextSpace=False)
        self.setStyle(tickTextWidth=34, tickTextHeight=14)

    def set_quantity(self, unit: str, largest: float, log: bool = False) -> None:
        """The unit of the values and the largest that will be shown."""
        self.unit, self.exponent = unit, 0 if log or unit in PLAIN_UNITS else prefix_exponent(largest)
        if self.logMode != log:
            self.setLogMode(log, log)
        self.picture = None
        self.update()

    @property
    def unit_text(self) -> str:
        """Prefix and unit."""
        return f"{WRITTEN[self.exponent]}{self.unit}"

    def tickSpacing(self, minVal: float, maxVal: float, size: float) -> list[tuple[float, float]]:
        """Angles go by parts of a turn; others as usual."""
        span = maxVal - minVal
        if self.unit == "°" and span > ANGLES[0]:
            step = next((one for one in ANGLES if span / one * TICK_ROOM <= size), ANGLES[-1])
            return [(step, 0.0)]
        return super().tickSpacing(minVal, maxVal, size)

    def logTickValues(self, minVal: float, maxVal: float, size: float, stdTicks: list) -> list:
        """Decades, thinned where there are many; where less than one is shown, the values between."""
        decades = list(range(floor(minVal), floor(maxVal) + 2))
        step = max(1, round(len(decades) * 46 / max(size, 1)))
        major = [float(d) for d in decades if d % step == 0 and minVal <= d <= maxVal]
        self._wide = len(decades) > FEW_DECADES
        if len(decades) > MOST_DECADES:
            return [(1.0 * step, major)]
        minor = [d + log10(k) for d in decades for k in range(2, 10) if minVal <= d + log10(k) <= maxVal]
        return [(1.0, major), (0.3, minor)]

    def logTickStrings(self, values: list[float], scale: float, spacing: float) -> list[str]:
        """Whole decades with prefix, `10k`; 2 and 5 between them."""
        return [self._decade_text(value) for value in values]

    def _decade_text(self, value: float) -> str:
        number = 10.0**value
        first = round(number / 10.0 ** floor(value + 1e-9))
        if first not in (1, 2, 5) or (self._wide and first != 1):
            return ""
        exponent = prefix_exponent(number * (1 + 1e-9))
        return f"{number / 10.0**exponent:g}{WRITTEN[exponent]}"

    def tickStrings(self, values: list[float], scale: float, spacing: float) -> list[str]:
        """Texts of the ticks."""
        if self.logMode:
            return self.logTickStrings(values, scale, spacing)
        divided = [value / 10.0**self.exponent for value in values]
        step = spacing / 10.0**self.exponent
        places = max(0, min(6, -_decade(step)))
        return [f"{value:.{places}f}".replace("-", "−") for value in divided]


def _decade(step: float) -> int:
    """Digits after the point that a step needs, negated."""
    return floor(log10(abs(step)) + 1e-9) if step else 0
