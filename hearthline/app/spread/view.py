"""Samples beside the drawing: the yield of all, how it is drawn, and pages that look at it from all sides."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import chip, offer, quiet
from hearthline.app.panels.text_line import TextLine
from hearthline.app.spread.conditions_page import ConditionsPage
from hearthline.app.spread.mend_page import MendPage
from hearthline.app.spread.parts_page import PartsPage
from hearthline.app.spread.rare_page import RarePage
from hearthline.app.spread.scatter_page import ScatterPage
from hearthline.app.spread.yield_page import YieldPage
from hearthline.app.state.desk import Desk
from hearthline.app.state.judging import share_text
from hearthline.app.state.shown_sample import point_of
from hearthline.app.theme.fonts import figure_font
from hearthline.app.theme.theme import theme
from hearthline.core.bench.samples import CONDITIONS, PLACES, SampleSetup, sampling_of
from hearthline.core.errors import HearthlineError
from hearthline.core.spread.draws import WAYS

PAGES = ("yield", "parts", "scatter", "mend", "conditions", "rare")
WITHOUT_SAMPLES = ("yield", "rare")
TIPS = {
    "yield": "every reading with its limits, which can be dragged",
    "parts": "which part costs the yield, and what makes each reading vary",
    "scatter": "any two readings or variables; a click shows that sample",
    "mend": "what another value or tolerance would do, what is proposed, and the proof",
    "conditions": "the yield at each condition and at all of them, and which samples fail where",
    "rare": "failures of four to six sigma, and the worst points of a reading at some sigma",
}


class SpreadView(QWidget):
    """One row of settings, one of pages."""

    def __init__(self, desk: Desk, show: Callable[[str], None]) -> None:
        super().__init__()
        self.desk, self.spread = desk, desk.spread
        self.total, self.note = Label(), quiet("")
        self.total.setFont(figure_font(15))
        self.count = TextLine("1000", self._problem)
        self.count.setAccessibleName("samples")
        self.count.setMaximumWidth(70)
        self.count.settled.connect(lambda text: self._set(count=text))
        self.draw = QPushButton("Draw samples")
        self.draw.clicked.connect(lambda _=False: self.run())
        self.way = chip("", lambda: self._offer(self.way, "way", WAYS), "how samples are spread over the variables")
        self.at = chip("", lambda: self._offer(self.at, "at", PLACES), "at which conditions each sample is run")
        self.quantiles = chip("quantiles", self._turn, "normal probability plots in the place of histograms", True)
        self.lost = chip(
            "", self._next_lost, "shows one sample without a solution after the other, and why it has none"
        )
        self.page = {
            "yield": YieldPage(desk), "parts": PartsPage(desk, show), "scatter": ScatterPage(desk), "mend": MendPage(desk),
            "conditions": ConditionsPage(desk, self._draw_everywhere), "rare": RarePage(desk),
        }  # fmt: skip
        self.stack = QStackedWidget()
        self.words: dict[str, QPushButton] = {}
        self._lay_out()
        for signal in (
            self.spread.samples_changed,
            self.spread.judged_changed,
            desk.document_changed,
            desk.bench_changed,
            self.spread.one.changed,
        ):
            signal.connect(self.refresh)
        runner = desk.results.runner
        runner.started.connect(self.refresh)
        runner.finished.connect(lambda _: self.refresh())
        theme.changed.connect(self.refresh)
        self.refresh()

    def _lay_out(self) -> None:
        head = QHBoxLayout()
        head.addWidget(self.total)
        head.addStretch()
        for widget in (self.count, self.way, self.at, self.draw):
            head.addWidget(widget)
        row, group = QHBoxLayout(), QButtonGroup(self)
        row.setSpacing(4)
        for name in PAGES:
            button = chip(name, lambda name=name: self.show_page(name), TIPS[name], True)
            button.setAccessibleName(f"page {name}")
            group.addButton(button)
            self.words[name] = button
            row.addWidget(button)
            self.stack.addWidget(self.page[name])
        row.addStretch()
        row.addWidget(self.quantiles)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 8, 0, 0)
        layout.setSpacing(4)
        for inner in (head, row):
            inner.setContentsMargins(14, 0, 12, 0)
        self.note.setContentsMargins(14, 0, 12, 0)
        layout.addLayout(head)
        said = QHBoxLayout()
        said.setContentsMargins(0, 0, 12, 0)
        said.addWidget(self.note, 1)
        said.addWidget(self.lost)
        layout.addLayout(said)
        layout.addLayout(row)
        layout.addWidget(self.stack, 1)
        self.show_page("yield")

    def show_page(self, name: str) -> None:
        """One of the pages."""
        self.words[name].setChecked(True)
        self.stack.setCurrentWidget(self.page[name])
        self.quantiles.setVisible(name == "yield")

    # -- settings

    @property
    def _setup(self) -> SampleSetup:
        bench = self.desk.bench
        return (bench.samples if bench is not None else None) or SampleSetup()

    def _problem(self, text: str) -> str:
        try:
            sampling_of(replace(self._setup, count=text))
        except HearthlineError as error:
            return str(error)
        return ""

    def _set(self, **texts: str) -> None:
        bench = self.desk.bench
        if bench is not None:
            new = replace(self._setup, **texts)
            self.desk.change_bench(replace(bench, samples=new), f"samples {' '.join(texts.values())}")

    def _offer(self, button: QPushButton, key: str, words: tuple[str, ...]) -> None:
        offer(button, [(word, lambda word=word: self._set(**{key: word})) for word in words])

    def run(self) -> None:
        """Draws the samples of the bench, or those that are still to come."""
        if self.desk.results.runner.busy:
            self.desk.stop()
            return
        self._set(count=self.count.text().strip())
        self.desk.run()

    def _draw_everywhere(self) -> None:
        self._set(at=CONDITIONS)
        self.run()

    def _next_lost(self) -> None:
        samples, shown = self.spread.samples, self.spread.one.number
        lost = sorted(samples.failures)
        number = next((k for k in lost if k > shown), lost[0])
        self.spread.one.show(point_of(samples, number), self.desk.snapshot)

    def _turn(self) -> None:
        self.page["yield"].show_quantiles(self.quantiles.isChecked())

    # -- what is said

    def refresh(self) -> None:
        """Takes everything as it is."""
        samples, judged, setup = self.spread.samples, self.spread.judged, self._setup
        self.count.show_text(setup.count)
        self.way.setText(f"{setup.way} ▾")
        self.at.setText(f"at {setup.at} ▾")
        lost = len(samples.failures) if samples is not None else 0
        self.lost.setText(f"{lost} lost")
        self.lost.setVisible(lost > 0)
        busy = self.desk.results.runner.busy
        more = samples is not None and 0 < samples.count < _number(setup.count)
        self.draw.setText("Stop" if busy else "Draw more" if more else "Draw samples")
        self.draw.setEnabled(self.desk.bench is not None and bool(self.desk.bench.name))
        if samples is None or not samples.count:
            self.total.setText("no samples yet")
            self.note.setText(
                "Each sample is the circuit with its process, the mismatch of its devices and the tolerances of its parts "
                "drawn anew. A tolerance is typed behind a value: 5k ±3%, or 5k ±1% sigma."
            )
        elif not judged.limits:
            self.total.setText(f"{samples.count} samples")
            self.note.setText("No specification has a limit, so there is no yield. Drag one in, from either edge.")
        else:
            self.total.setText(f"yield {share_text(judged.total)}")
            role = "ember_ink" if judged.total.share < 0.9 else "ink"
            self.total.setStyleSheet(f"color: {theme.color(role).name()}")
            self.note.setText(self._context())
        for name in PAGES:
            self.words[name].setEnabled(name in WITHOUT_SAMPLES or (samples is not None and samples.count > 0))

    def _context(self) -> str:
        samples, judged, shown = self.spread.samples, self.spread.judged, self.spread.one.number
        if shown in samples.failures:
            return f"Sample {shown + 1} is shown: {samples.failures[shown]}"
        words = [f"of {samples.count} samples of {len(samples.variables)} variables"]
        if samples.conditions > 1:
            words.append(f"at all of {samples.conditions} conditions")
        if self.spread.moved:
            words.append("limits as dragged")
        if samples.failures:
            words.append(f"{len(samples.failures)} without a solution fail")
        if self.desk.results.stale:
            words.append("before the last change")
        if judged.total.passed == 0:
            words.append("every sample fails: look at the reading with the least yield first")
        return ", ".join(words) + "."


def _number(text: str) -> int:
    try:
        return int(float(text))
    except ValueError:
        return 0
