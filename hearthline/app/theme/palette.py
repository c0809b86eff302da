"""The colours of Hearthline, by what they are for: drawn in ink on warm paper, or in ash on coal."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Palette:
    """One theme. Every colour is used by its role, never by its name."""

    name: str
    paper: str
    panel: str
    raised: str
    line: str
    ink: str
    quiet: str
    ember: str
    ember_ink: str
    ember_wash: str
    amber: str
    amber_ink: str
    teal: str
    teal_wash: str
    moss: str
    ash: str
    curves: tuple[str, ...]


DAY = Palette(
    name="day",
    paper="#FBF7F0",
    panel="#F3ECE1",
    raised="#EADFCF",
    line="#D9CDBB",
    ink="#2C2723",
    quiet="#6F655A",
    ember="#C2491D",
    ember_ink="#A93C14",
    ember_wash="#F6DCD0",
    amber="#D9932B",
    amber_ink="#8A5600",
    teal="#1D6B72",
    teal_wash="#D9E8E6",
    moss="#5B7B3A",
    ash="#BFB3A2",
    curves=("#1D6B72", "#C2491D", "#4A5FA5", "#8A5A00", "#7A3B69", "#4F7A2E", "#35302B", "#A0522D"),
)

NIGHT = Palette(
    name="night",
    paper="#1D1A18",
    panel="#262220",
    raised="#332D29",
    line="#473F38",
    ink="#E9E0D4",
    quiet="#A89C8E",
    ember="#C2491D",
    ember_ink="#F08A62",
    ember_wash="#4A2617",
    amber="#D9932B",
    amber_ink="#E5AC55",
    teal="#63B5B8",
    teal_wash="#23393A",
    moss="#9BBD72",
    ash="#6E6459",
    curves=("#63B5B8", "#F08A62", "#93A5E6", "#E0B050", "#CF93BE", "#A3C97A", "#E9E0D4", "#D09A78"),
)

PALETTES = {palette.name: palette for palette in (DAY, NIGHT)}

DASHES: tuple[tuple[float, ...], ...] = (
    (), (7, 3), (2, 3), (9, 3, 2, 3), (4, 2), (12, 4), (2, 2, 2, 5), (6, 2, 2, 2, 2, 2)
)  # fmt: skip
"""One dash pattern for each curve colour, so that colour is never the only sign."""
