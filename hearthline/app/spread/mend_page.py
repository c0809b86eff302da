"""What another value or tolerance would do to the yield, what is proposed, and the proof with old and new side by side."""

from __future__ import annotations

import math

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QPushButton, QScrollArea, QSlider, QVBoxLayout, QWidget

from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import chip, clear, heading, offer, quiet
from hearthline.app.panels.text_line import TextLine
from hearthline.app.panels.value_field import set_wrong
from hearthline.app.spread.distribution import Distribution
from hearthline.app.spread.parts_page import unit_of
from hearthline.app.spread.yield_page import worst_of
from hearthline.app.state.desk import Desk
from hearthline.app.state.judging import percent, share_text
from hearthline.app.state.mends import Proof
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.theme import theme
from hearthline.core.bench.mending import edited, edits_of, group_of, mended_bench
from hearthline.core.errors import HearthlineError
from hearthline.core.quantity import write
from hearthline.core.spread.mend import SURFACE, WEIGHTS, Change, Prediction, Proposal
from hearthline.core.spread.variables import PROCESS, TOLERANCE, Variable
from hearthline.core.spread.yields import within, yield_of

STEPS = 60
NOMINAL, NARROWEST = 3.0, 0.1
"""Standard deviations that a nominal value can be dragged by, and the least factor of what it spreads."""
WANTED = "99 %"


class MendPage(QScrollArea):
    """Of one part at a time."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk, self.spread, self.mends = desk, desk.spread, desk.spread.mends
        self.variable = ""
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(10, 0, 10, 8)
        column.setSpacing(4)
        self.setWidget(body)
        self.which = QPushButton()
        self.which.setProperty("plain", True)
        self.which.setFont(text_font(12, bold=True))
        self.which.clicked.connect(lambda _=False: self._offer())
        self.nominal, self.width_ = self._slider("nominal value"), self._slider("tolerance")
        self.words = [Label(), Label()]
        self.foretold = Label()
        self.foretold.setFont(figure_font(13))
        self.how = quiet("")
        self.wanted = TextLine(WANTED, _share_problem)
        self.wanted.setAccessibleName("wanted yield")
        self.wanted.setMaximumWidth(70)
        self.proposals, self.proof = QVBoxLayout(), QVBoxLayout()
        self._lay_out(column)
        self.spread.samples_changed.connect(self.refresh)
        self.spread.analysed.connect(self.refresh)
        self.spread.part_changed.connect(self._take_part)
        self.spread.mends.changed.connect(self._list)
        theme.changed.connect(self._list)

    def _slider(self, name: str) -> QSlider:
        slider = QSlider(Qt.Orientation.Horizontal)
        slider.setRange(-STEPS, STEPS)
        slider.setAccessibleName(name)
        slider.valueChanged.connect(lambda _: self._foretell())
        return slider

    def _lay_out(self, column: QVBoxLayout) -> None:
        row = QHBoxLayout()
        row.addWidget(heading("Try another value:"))
        row.addWidget(self.which)
        row.addStretch()
        row.addWidget(chip("prove", lambda: self._prove(self._changes()), "runs it over the same random numbers"))
        row.addWidget(chip("as it is", self._back, "no change"))
        column.addLayout(row)
        grid = QGridLayout()
        for k, (word, slider) in enumerate((("value", self.nominal), ("spread", self.width_))):
            self.words[k].setFont(figure_font(11))
            self.words[k].setMinimumWidth(150)
            grid.addWidget(quiet(word, wrap=False), k, 0)
            grid.addWidget(slider, k, 1)
            grid.addWidget(self.words[k], k, 2)
        column.addLayout(grid)
        column.addWidget(self.foretold)
        column.addWidget(self.how)
        row = QHBoxLayout()
        row.addWidget(heading("Reach a yield of"))
        row.addWidget(self.wanted)
        self.ask = QPushButton("Propose")
        self.ask.clicked.connect(lambda _=False: self._propose())
        row.addWidget(self.ask)
        row.addStretch()
        column.addLayout(row)
        column.addLayout(self.proposals)
        column.addLayout(self.proof)
        column.addStretch()

    def showEvent(self, event) -> None:
        """Catches up."""
        super().showEvent(event)
        self.refresh()

    # -- trying

    def _variables(self) -> list[Variable]:
        """Those that a drawing can change, the guiltiest first."""
        samples, analysis = self.spread.samples, self.spread.analysis
        if samples is None:
            return []
        order = [name for one in (analysis.ranking if analysis else ()) for name in one.variables]
        known = {one.name: one for one in samples.variables if one.kind != PROCESS}
        return [known[name] for name in [*order, *known] if name in known] if order else list(known.values())

    def _offer(self) -> None:
        names = list(dict.fromkeys(one.name for one in self._variables()))
        offer(self.which, [(name, lambda name=name: self._take(name)) for name in names[:40]])

    def _take_part(self) -> None:
        own = next((one.name for one in self._variables() if one.part == self.spread.part), "")
        if own:
            self._take(own)

    def _take(self, name: str) -> None:
        if name != self.variable:
            self.variable = name
            self._back()
        self._foretell()

    def _back(self) -> None:
        for slider in (self.nominal, self.width_):
            slider.setValue(0)

    @property
    def _chosen(self) -> Variable | None:
        return next((one for one in self._variables() if one.name == self.variable), None)

    def refresh(self) -> None:
        """Takes the samples as they are; only while it can be seen."""
        if not self.isVisible():
            return
        if self._chosen is None:
            self.variable = next((one.name for one in self._variables()), "")
        self._foretell()
        self._list()

    def _changes(self) -> list[Change]:
        variable = self._chosen
        if variable is None:
            return []
        nominal = 1.0 + self.nominal.value() / STEPS * NOMINAL * variable.sigma if variable.kind == TOLERANCE else 1.0
        spread = (1.0 / NARROWEST) ** (self.width_.value() / STEPS)
        snapshot, samples = self.desk.snapshot, self.spread.samples
        names = group_of(snapshot, samples.variables, variable.name) if snapshot is not None else (variable.name,)
        return [Change(name, nominal, spread) for name in names]

    def _foretell(self) -> None:
        variable, teller = self._chosen, self.mends.teller
        self.which.setText(f"{variable.name} ▾" if variable else "no part varies")
        for widget in (self.nominal, self.width_):
            widget.setEnabled(variable is not None and (widget is self.width_ or variable.kind == TOLERANCE))
        if variable is None or teller is None:
            self.foretold.setText("no specification has a limit" if variable is not None else "")
            return
        changes = self._changes()
        change = changes[0]
        unit = unit_of(variable)
        value = write(variable.nominal * change.nominal, unit, 4) if variable.kind == TOLERANCE else "by its size"
        self.words[0].setText(value)
        self.words[1].setText(_width_words(variable, change))
        self.words[1].setToolTip(", ".join(one.variable for one in changes))
        self._say(teller.predict(changes))

    def _say(self, found: Prediction) -> None:
        if math.isnan(found.share):
            self.foretold.setText("too few samples to tell")
            return
        self.foretold.setText(f"yield {_foretold(found)}")
        self.how.setText(_how(found))

    # -- proposals

    def _propose(self) -> None:
        if self.mends.busy:
            self.mends.stop()
            return
        text = self.wanted.text().strip().removesuffix("%").strip()
        if _share_problem(self.wanted.text()):
            set_wrong(self.wanted, True)
            return
        analysis = self.spread.analysis
        self.mends.propose(self.desk.snapshot, float(text) / 100.0, analysis.ranking if analysis is not None else ())

    def _prove(self, changes: list[Change]) -> None:
        if any(one.size for one in changes):
            self.mends.prove(self.desk.snapshot, changes, self.words_of(changes))

    def words_of(self, changes: list[Change] | tuple[Change, ...]) -> str:
        """As they would be typed."""
        snapshot, variables = self.desk.snapshot, {one.name: one for one in self.spread.samples.variables}
        try:
            edits = edits_of(snapshot, variables, changes)
        except HearthlineError:
            edits = []
        if edits:
            return ", ".join(f"{one.part} {one.value} {one.old} → {one.new}" for one in edits)
        return ", ".join(f"{one.variable} × {one.nominal:.3g}, spread × {one.spread:.3g}" for one in changes)

    def _list(self) -> None:
        clear(self.proposals)
        clear(self.proof)
        self.ask.setText("Stop" if self.mends.busy else "Propose")
        for one in self.mends.proposals:
            self.proposals.addWidget(self._row(one))
        if self.mends.proof is not None:
            self.proof.addWidget(ProofCard(self.desk, self.mends.proof, self._adopt))

    def _row(self, proposal: Proposal) -> QFrame:
        row = QFrame()
        row.setObjectName("card")
        layout = QGridLayout(row)
        layout.setContentsMargins(10, 4, 8, 4)
        words = Label(self.words_of(proposal.changes))
        words.setFont(text_font(12, bold=True))
        words.setWordWrap(True)
        found = proposal.prediction
        figures = Label(f"foretold {_foretold(found)}; {_how(found)}")
        figures.setFont(figure_font(10))
        figures.setWordWrap(True)
        layout.addWidget(words, 0, 0)
        layout.addWidget(figures, 1, 0)
        prove = chip("prove", lambda: self._prove(list(proposal.changes)), "runs it over the same random numbers")
        prove.setEnabled(not self.mends.busy)
        layout.addWidget(prove, 0, 1, 2, 1)
        layout.setColumnStretch(0, 1)
        return row

    def _adopt(self) -> None:
        """The drawing and the bench take the proven change, as one step."""
        proof, snapshot = self.mends.proof, self.desk.snapshot
        variables = {one.name: one for one in self.spread.samples.variables}
        project = self.desk.project
        try:
            edits = edits_of(snapshot, variables, proof.changes)
        except HearthlineError as error:
            self.desk.tell(error)
            return
        cells = {}
        for edit in edits:
            cells[edit.cell] = edited(cells.get(edit.cell, project.cells[edit.cell]), edit)
        bench = mended_bench(self.desk.bench, variables, proof.changes)
        pairs = [(project.cells[name], cell) for name, cell in cells.items()]
        if bench != self.desk.bench:
            pairs.append((self.desk.bench, bench))
        self.desk.documents.exchange_all(pairs, proof.words)


class ProofCard(QFrame):
    """Old and new over the same random numbers."""

    def __init__(self, desk: Desk, proof: Proof, adopt) -> None:
        super().__init__()
        self.setObjectName("card")
        found, spread = proof.comparison, desk.spread
        layout = QVBoxLayout(self)
        layout.setContentsMargins(10, 6, 8, 8)
        row = QHBoxLayout()
        title = Label(f"Proved: {proof.words}")
        title.setFont(text_font(12, bold=True))
        title.setWordWrap(True)
        row.addWidget(title, 1)
        row.addWidget(chip("take over", adopt, "the drawing and the bench take this change"))
        layout.addLayout(row)
        sure = "p < 0.0001" if found.significance < 1e-4 else f"p = {found.significance:.2g}"
        lines = [
            f"old {share_text(found.old)}    new {share_text(found.new)}    foretold {percent(proof.foretold)} %",
            f"difference {100 * found.difference:+.3g} % ({100 * found.low:+.3g} to {100 * found.high:+.3g}), {sure}: "
            f"{found.mended} mended, {found.broken} broken of {found.new.count}",
        ]
        for line in lines:
            label = Label(line.replace("-", "−"))
            label.setFont(figure_font(11))
            label.setWordWrap(True)
            layout.addWidget(label)
        names = sorted(spread.judged.limits, key=lambda name: spread.judged.of(name).share)
        for name in names[:2]:
            self._add_plot(layout, spread, proof, name)

    def _add_plot(self, layout: QVBoxLayout, spread, proof: Proof, name: str) -> None:
        low, high = spread.judged.limits[name]
        new = yield_of(within(proof.samples.values[name], low, high))
        text = f"{name}: {percent(spread.judged.of(name).share)} → {percent(new.share)} %; dotted is the old"
        layout.addWidget(quiet(text))
        plot = Distribution()
        plot.setFixedHeight(104)
        plot.setEnabled(False)
        old = worst_of(spread.samples.values[name], low, high)
        plot.show_values(
            worst_of(proof.samples.values[name], low, high), low, high, spread.samples.units.get(name, ""), old
        )
        layout.addWidget(plot)


def _width_words(variable: Variable, change: Change) -> str:
    if variable.kind == TOLERANCE:
        law = variable.tolerance
        parts = [f"±{100 * law.sigma * change.spread:.3g}% sigma"] if law.sigma else []
        parts += [f"±{100 * law.within * change.spread:.3g}%"] if math.isfinite(law.within) else []
        return " ".join(parts)
    return f"area × {1.0 / change.spread**2:.3g}, σ × {change.spread:.3g}"


def _foretold(found: Prediction) -> str:
    return f"{percent(found.share)} % ({percent(found.low)} to {percent(found.high)})"


def _how(found: Prediction) -> str:
    if found.method == WEIGHTS:
        return f"samples weighed anew, {found.effective:.0f} of them count"
    if found.method == SURFACE:
        return f"by quadratic surfaces, which explain {100 * found.explained:.3g} %: prove it"
    return f"counted, {found.effective:.0f} samples"


def _share_problem(text: str) -> str:
    try:
        value = float(text.strip().removesuffix("%").strip())
    except ValueError:
        return "write a yield in percent, as 99 %"
    return "" if 0 < value <= 100 else "a yield lies above 0 % and is at most 100 %"
