"""A chart axis with SI prefixes: round numbers at the ticks, the prefixed unit said once."""

from __future__ import annotations

from math import floor, log10

import pyqtgraph as pg

from hearthline.app.theme.fonts import figure_font
from hearthline.app.theme.theme import theme
from hearthline.core.quantity import WRITTEN


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
    """Shows values divided by `10**exponent`; `unit_text` says the prefix and unit."""

    def __init__(self, orientation: str) -> None:
        super().__init__(orientation)
        self.exponent, self.unit = 0, ""
        self.enableAutoSIPrefix(False)
        self.restyle()

    def restyle(self) -> None:
        """Takes the colours of the theme."""
        self.setPen(pg.mkPen(theme.color("line"), width=1))
        self.setTextPen(pg.mkPen(theme.color("quiet")))
        self.setStyle(tickFont=figure_font(11), tickLength=-4, tickTextOffset=5, autoExpandTextSpace=False)
        self.setStyle(tickTextWidth=34, tickTextHeight=14)

    def set_quantity(self, unit: str, largest: float) -> None:
        """The unit of the values and the largest that will be shown."""
        self.unit, self.exponent = unit, prefix_exponent(largest)
        self.picture = None
        self.update()

    @property
    def unit_text(self) -> str:
        """Prefix and unit."""
        return f"{WRITTEN[self.exponent]}{self.unit}"

    def tickStrings(self, values: list[float], scale: float, spacing: float) -> list[str]:
        """Texts of the ticks."""
        divided = [value / 10.0**self.exponent for value in values]
        step = spacing / 10.0**self.exponent
        places = max(0, min(6, -_decade(step)))
        return [f"{value:.{places}f}".replace("-", "−") for value in divided]


def _decade(step: float) -> int:
    """Digits after the point that a step needs, negated."""
    return floor(log10(abs(step)) + 1e-9) if step else 0
