"""Numbers of lines, wires and substrates, as rows and matrices."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout

from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import quiet
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.core.fields.lines.card import Card
from hearthline.core.fields.substrate.card import SubstrateCard
from hearthline.core.fields.wires.card import WiresCard
from hearthline.core.quantity import write

MOST = 6
"""Lines, wires or contacts that are shown whole."""
LINE_UNITS = {"C": "F/m", "L": "H/m", "R": "Ω/m", "G": "S/m"}


def lines_card(layout: QVBoxLayout, card: Card) -> None:
    """Waves, then matrices per length."""
    rows = []
    for wave in card.waves[:MOST]:
        signs = " ".join("+" if one > 0.05 else "−" if one < -0.05 else "0" for one in wave.shape)
        impedances = ", ".join(
            f"{z:.4g}" for z, v in zip(wave.impedance, wave.shape, strict=True) if np.isfinite(z) and abs(v) > 0.05
        )
        rows.append([signs, f"{impedances} Ω", f"{wave.effective:.4g}", f"{wave.loss:.3g} dB/m"])
    layout.addLayout(_rows(("wave", "impedance", "effective er", "loss"), rows))
    if card.closed is not None:
        words = (
            f"In closed form {card.closed[0]:.4g} Ω and {card.closed[1]:.4g}, for a strip of no thickness without loss."
        )
        layout.addWidget(quiet(words))
    _matrices(layout, {f"{name} [{LINE_UNITS[name]}]": matrix for name, matrix in card.matrices.items()})


def wires_card(layout: QVBoxLayout, card: WiresCard) -> None:
    """A row for each wire, then how they are coupled."""
    rows = [
        [str(k + 1), *(write(float(one[k]), unit, 4) for one, unit in (
            (card.lengths, "m"), (np.diag(card.inductances), "H"), (card.resting, "Ω"), (card.resistances, "Ω")
        ))]
        for k in range(min(len(card.lengths), MOST))
    ]  # fmt: skip
    layout.addLayout(_rows(("wire", "length", "inductance", "resistance at rest", "at that frequency"), rows))
    if len(card.lengths) > 1:
        _matrices(layout, {"M [H]": card.inductances, "coupling": card.couplings})


def substrate_card(layout: QVBoxLayout, card: SubstrateCard) -> None:
    """What lies straight between each two, and from each to the back."""
    layout.addWidget(quiet("Straight between each two contacts, and on the diagonal from each to the back:"))
    _matrices(layout, {"R [Ω]": card.resistances, "C [F]": card.capacitances})


def _rows(words: tuple[str, ...], rows: list[list[str]]) -> QGridLayout:
    grid = QGridLayout()
    grid.setHorizontalSpacing(16)
    for column, word in enumerate(words):
        grid.addWidget(quiet(word, wrap=False), 0, column)
    for row, texts in enumerate(rows, 1):
        for column, text in enumerate(texts):
            grid.addWidget(_figure(text), row, column)
    grid.setColumnStretch(len(words), 1)
    return grid


def _matrices(layout: QVBoxLayout, matrices: dict[str, np.ndarray]) -> None:
    row = QHBoxLayout()
    row.setSpacing(18)
    for name, matrix in matrices.items():
        row.addLayout(_matrix(name, matrix))
    row.addStretch()
    layout.addLayout(row)
    left = len(next(iter(matrices.values()))) - MOST
    if left > 0:
        layout.addWidget(quiet(f"{left} more are in the file that `hearthline ports` writes."))


def _matrix(name: str, matrix: np.ndarray) -> QGridLayout:
    grid, count = QGridLayout(), min(len(matrix), MOST)
    grid.setHorizontalSpacing(8)
    grid.setVerticalSpacing(0)
    title = Label(name)
    title.setFont(text_font(12, bold=True))
    grid.addWidget(title, 0, 0, 1, count)
    for i in range(count):
        for j in range(count):
            value = float(matrix[i, j])
            text = "–" if not np.isfinite(value) else write(value, "", 3, space=False).replace("-", "−")
            label = _figure(text)
            label.setAlignment(Qt.AlignmentFlag.AlignRight)
            grid.addWidget(label, 1 + i, j)
    return grid


def _figure(text: str) -> Label:
    label = Label(text)
    label.setFont(figure_font(12))
    return label
