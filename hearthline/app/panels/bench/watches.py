"""Curves to chart, of the analysis that the charts show."""

from __future__ import annotations

from dataclasses import replace

from hearthline.app.panels.bench.line_row import LineRow, PlainLine
from hearthline.app.panels.bench.section import Section
from hearthline.core.bench.bench import Watch
from hearthline.core.data.formula import Formula


class Watches(Section):
    """Curves to chart, of the analysis that the charts show."""

    title = "Watches"

    def shape(self) -> tuple:
        """Which there are, by analysis."""
        return (self.desk.results.analysis, len(self.bench.watches), *(k for k, _ in self._own()))

    def _own(self) -> list[tuple[int, Watch]]:
        bench, analysis = self.bench, self.desk.results.analysis
        return [(k, one) for k, one in enumerate(bench.watches) if bench.analysis_of(one) == analysis]

    def build(self) -> None:
        """A row each: its title and its formula."""
        for k, watch in self._own():
            line = PlainLine(watch.formula, self._check)
            line.changed.connect(lambda text, k=k: self._put(k, formula=text))
            line.settled.connect(self.desk.documents.end_typing)
            title = self.name_line(watch.title, lambda text: "", lambda text, k=k: self._put(k, title=text))
            title.setPlaceholderText("title")
            row = self.add(str(k), LineRow(f"watch {k + 1}", title, line))
            row.removed.connect(lambda k=k: self._remove(k))
        self.offer([("formula", "a curve by a formula", self.add_new)])

    def follow(self) -> None:
        """Formulas, and what the run says of them."""
        for k, watch in self._own():
            self.rows[str(k)].line.show_text(watch.formula)
            self.rows[str(k)].name.show_text(watch.title)

    def _check(self, text: str) -> Formula:
        return Formula.parse(text, self.bench.analysis_names)

    def add_new(self, formula: str = "V(out)") -> None:
        """One more."""
        analysis = self.desk.results.analysis
        first = self.bench.analyses and self.bench.analyses[0].name == analysis
        new = Watch(formula, analysis="" if first else analysis)
        self.change("watch added", watches=(*self.bench.watches, new))
        self.focus(str(len(self.bench.watches) - 1))

    def _put(self, k: int, **changed: str) -> None:
        watches = list(self.bench.watches)
        watches[k] = replace(watches[k], **changed)
        self.change(f"watch {k + 1}", f"watch {k}", watches=tuple(watches))

    def _remove(self, k: int) -> None:
        self.change("watch removed", watches=tuple(one for j, one in enumerate(self.bench.watches) if j != k))
