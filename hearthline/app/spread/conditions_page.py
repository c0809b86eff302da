"""The yield over conditions: at each, at the worst, of what passes at all; and which samples fail where."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtWidgets import QFrame, QScrollArea, QVBoxLayout, QWidget

from hearthline.app.panels.conditions import condition_words
from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import chip, quiet
from hearthline.app.spread.condition_rows import ConditionRows
from hearthline.app.state.desk import Desk
from hearthline.app.state.judging import share_text
from hearthline.app.state.shown_sample import point_of
from hearthline.app.theme.fonts import figure_font
from hearthline.app.theme.theme import theme
from hearthline.core.bench.by_condition import AtConditions, at_conditions
from hearthline.core.data.dataset import AROUND
from hearthline.core.spread.pvt import Condition


class ConditionsPage(QScrollArea):
    """`draw` runs the samples at all conditions."""

    def __init__(self, desk: Desk, draw: Callable[[], None]) -> None:
        super().__init__()
        self.desk, self.spread = desk, desk.spread
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(14, 4, 12, 8)
        self.total, self.worst = Label(), Label()
        for label in (self.total, self.worst):
            label.setFont(figure_font(12))
            label.setWordWrap(True)
        self.rows, self.note = ConditionRows(), quiet("")
        self.rows.setAccessibleName("yield at each condition")
        self.everywhere = chip("draw at all conditions", draw, "runs each sample at every condition of the bench")
        for widget in (self.total, self.worst, self.rows, self.note, self.everywhere):
            column.addWidget(widget)
        column.addStretch()
        self.setWidget(body)
        self.rows.chosen.connect(self._choose)
        for signal in (self.spread.samples_changed, self.spread.judged_changed, self.spread.one.changed, theme.changed):
            signal.connect(self.refresh)

    def showEvent(self, event) -> None:
        """Catches up."""
        super().showEvent(event)
        self.refresh()

    def refresh(self) -> None:
        """Takes samples and limits as they are; only while it can be seen."""
        samples, judged = self.spread.samples, self.spread.judged
        if not self.isVisible() or samples is None or not samples.count:
            return
        several = samples.conditions > 1 and bool(judged.limits)
        for widget in (self.total, self.worst, self.rows):
            widget.setVisible(several)
        self.everywhere.setVisible(samples.conditions < 2)
        if not several:
            self.note.setText(
                "These samples were run at one condition."
                if samples.conditions < 2
                else "No specification has a limit."
            )
            return
        found = at_conditions(samples, judged.limits)
        names = names_of(found)
        self.total.setText(f"at all {found.count} conditions  {share_text(found.total)}")
        self.worst.setText(f"at the worst, {names[found.worst]}  {share_text(found.yields[found.worst])}")
        self.rows.show_conditions(found, names, self.spread.one.number)
        self.note.setText(
            "A mark is a failure of a sample at that condition; a click shows the sample on the whole desk."
        )

    def _choose(self, sample: int) -> None:
        self.spread.one.show(point_of(self.spread.samples, sample), self.desk.snapshot)


def names_of(found: AtConditions) -> Sequence[str]:
    """Each condition in a few words, without what is the same at all of them."""
    columns = {name: column for name, column in found.columns.items() if len(set(column)) > 1}
    others = [name for name in found.columns if name not in ("corner", "temperature", AROUND)]
    words = []
    for k in range(found.count):
        parameters = {name: float(found.columns[name][k]) for name in others if name in columns}
        one = Condition(
            str(found.columns["corner"][k]) if "corner" in columns else "",
            float(found.columns["temperature"][k]),
            parameters,
            str(found.columns[AROUND][k]) if AROUND in columns else "",
        )
        words.append(condition_words(one, "temperature" in columns or not columns).strip())
    return words
