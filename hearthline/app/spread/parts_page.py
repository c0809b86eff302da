"""Parts by how they cost the yield, the guilty one first, and what makes each reading vary."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import clear, heading, offer, quiet
from hearthline.app.spread.pass_bins import PassBins
from hearthline.app.state.desk import Desk
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.theme import theme
from hearthline.core.spread.ranking import Guilt, bins_of
from hearthline.core.spread.variables import PROCESS, TOLERANCE, Variable, is_voltage

MOST, TERMS = 24, 10
UNITS = {"r": "Ω", "c": "F", "l": "H", "w": "m"}


def unit_of(variable: Variable) -> str:
    """Of a variable's value, where its name tells it."""
    if variable.kind != TOLERANCE:
        return "V" if is_voltage(variable.parameter) else ""
    if variable.parameter == "l" and variable.nominal > 1e-6:
        return "m"
    return UNITS.get(variable.parameter, "")


class PartCard(QFrame):
    """One part: its verdict, and the share that passes over its strongest variable."""

    clicked = pyqtSignal(str)

    def __init__(self, guilt: Guilt) -> None:
        super().__init__()
        self.part = guilt.part
        self.setObjectName("card")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        said = (
            guilt.variables[0].removeprefix(f"{guilt.part}.") if guilt.variables[0] != guilt.part else "of the process"
        )
        name, variable = Label(guilt.part.removeprefix("process.")), quiet(said, wrap=False)
        name.setFont(text_font(12, bold=True))
        word = "guilty" if guilt.guilty else "innocent"
        verdict = Label(word)
        verdict.setFont(text_font(12, bold=guilt.guilty))
        verdict.setStyleSheet(f"color: {theme.color('ember_ink' if guilt.guilty else 'quiet').name()}")
        sure = "p < 0.0001" if guilt.significance < 1e-4 else f"p = {guilt.significance:.2g}"
        figures = Label(f"{100 * guilt.share:.3g} % of the failing · {sure}")
        figures.setFont(figure_font(10))
        self.bins = PassBins()
        self.bins.setFixedSize(226, 66)
        layout = QGridLayout(self)
        layout.setContentsMargins(10, 4, 8, 4)
        layout.setVerticalSpacing(0)
        row = QHBoxLayout()
        row.setSpacing(8)
        row.addWidget(name)
        row.addWidget(variable)
        row.addStretch()
        row.addWidget(verdict)
        layout.addLayout(row, 0, 0)
        layout.addWidget(figures, 1, 0)
        layout.addWidget(self.bins, 0, 1, 2, 1)
        layout.setColumnStretch(0, 1)

    def mousePressEvent(self, event) -> None:
        """Chooses the part."""
        self.clicked.emit(self.part)


class ShareBar(QWidget):
    """A share of a variance."""

    def __init__(self, share: float, rest: bool) -> None:
        super().__init__()
        self.share, self.rest = share, rest
        self.setFixedHeight(9)
        self.setMinimumWidth(120)

    def paintEvent(self, event) -> None:
        """From the left."""
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.color("raised"))
        wide = round(min(1.0, max(0.0, self.share)) * self.width())
        painter.fillRect(0, 0, wide, self.height(), theme.color("ash" if self.rest else "teal"))


class PartsPage(QScrollArea):
    """Follows the analysis of the samples."""

    def __init__(self, desk: Desk, show: Callable[[str], None]) -> None:
        super().__init__()
        self.desk, self.spread, self._show_part = desk, desk.spread, show
        self.reading = ""
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        body = QWidget()
        self.column = QVBoxLayout(body)
        self.column.setContentsMargins(10, 0, 10, 8)
        self.column.setSpacing(5)
        self.setWidget(body)
        desk.spread.analysed.connect(self.refresh)
        desk.spread.samples_changed.connect(self.refresh)
        theme.changed.connect(self.refresh)
        self.refresh()

    def showEvent(self, event) -> None:
        """Catches up."""
        super().showEvent(event)
        self.refresh()

    def refresh(self) -> None:
        """Takes the analysis as it is; only while it can be seen."""
        if not self.isVisible():
            return
        clear(self.column)
        analysis, samples = self.spread.analysis, self.spread.samples
        if analysis is None or samples is None:
            self.column.addWidget(quiet("The parts are being ranked …" if samples is not None else "No samples yet."))
            self.column.addStretch()
            return
        self._add_ranking()
        self._add_contributions()
        self.column.addStretch()

    def _add_ranking(self) -> None:
        samples, judged, ranking = self.spread.samples, self.spread.judged, self.spread.analysis.ranking
        self.column.addWidget(heading("Which part costs the yield"))
        failing = int((~judged.together).sum())
        if not failing or failing == samples.count:
            word = "no sample fails" if not failing else "every sample fails"
            self.column.addWidget(quiet(f"Under these limits {word}, so nothing tells the parts apart. Drag a limit."))
            return
        guilty = [one for one in ranking if one.guilty]
        self.column.addWidget(quiet(
            "Passing against the rank of each part's values, straight and bent (chi squared), corrected for "
            f"{len(ranking)} parts; {len(guilty)} of them {'is' if len(guilty) == 1 else 'are'} guilty."
        ))  # fmt: skip
        for guilt in ranking[:MOST]:
            card = PartCard(guilt)
            variable = samples.variables[samples.names.index(guilt.variables[0])]
            normal = samples.normal[:, samples.names.index(guilt.variables[0])]
            bins = bins_of(normal, variable.values(normal), judged.together)
            card.bins.show_bins(bins, unit_of(variable), judged.total.share, guilt.guilty)
            card.clicked.connect(self._choose)
            self.column.addWidget(card)

    def _choose(self, part: str) -> None:
        self.spread.choose_part(part)
        variable = next((one for one in self.spread.samples.variables if one.part == part), None)
        if variable is not None and variable.kind != PROCESS:
            self._show_part(part)

    def _add_contributions(self) -> None:
        found = self.spread.analysis.contributions
        names = list(found)
        if self.reading not in names:
            self.reading = next((name for name in self.spread.judged.limits), next(iter(names), ""))
        row = QHBoxLayout()
        row.addWidget(heading("What makes it vary:"))
        button = QPushButton(f"{self.reading} ▾")
        button.setProperty("plain", True)
        button.setFont(text_font(12, bold=True))
        button.clicked.connect(lambda _=False: offer(button, [(name, self._reader(name)) for name in names]))
        row.addWidget(button)
        row.addStretch()
        self.column.addLayout(row)
        grid = QGridLayout()
        grid.setColumnStretch(1, 1)
        terms = found.get(self.reading, [])
        for k, one in enumerate([*terms[:-1][:TERMS], *terms[-1:]]):
            name, share = Label("not explained" if not one.variables else one.name), Label(f"{100 * one.share:.3g} %")
            name.setFont(text_font(11))
            share.setFont(figure_font(11))
            grid.addWidget(name, k, 0)
            grid.addWidget(ShareBar(one.share, not one.variables), k, 1)
            grid.addWidget(share, k, 2)
        self.column.addLayout(grid)

    def _reader(self, name: str) -> Callable[[], None]:
        def choose() -> None:
            self.reading = name
            self.refresh()

        return choose
