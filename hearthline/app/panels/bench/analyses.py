"""The analyses of a bench, each a line, with a button that runs it alone."""

from __future__ import annotations

from hearthline.app.panels.bench.line_row import LineRow, PlainLine
from hearthline.app.panels.bench.section import Section, free_name
from hearthline.app.panels.rows import chip
from hearthline.app.state.desk import Desk
from hearthline.core.analyses import ANALYSES
from hearthline.core.analyses.line import Analysis, parse_analysis
from hearthline.core.analyses.plan import Plan
from hearthline.core.bench.bench import Reading, Watch
from hearthline.core.bench.offered import Offer
from hearthline.core.bench.renaming import with_analysis_renamed
from hearthline.core.data.renaming import ANALYSIS, mentions
from hearthline.core.errors import HearthlineError
from hearthline.core.formats.bench_file import name_problem


class Analyses(Section):
    """Each a line, with a button that runs it alone."""

    title = "Analyses"

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        desk.offers.changed.connect(self.show_all)

    def shape(self) -> tuple:
        """Their names, and what the circuit asks for."""
        return self.bench.analysis_names, self._asked_for

    @property
    def _asked_for(self) -> tuple[Offer, ...]:
        kinds = {one.kind for one in self.bench.analyses} if self.bench else set()
        return tuple(one for one in self.desk.offers.found if one.line.split()[0] not in kinds)

    def build(self) -> None:
        """A row each."""
        for analysis in self.bench.analyses:
            name = analysis.name
            line = PlainLine(analysis.text, lambda text, name=name: parse_analysis(name, text))
            line.changed.connect(lambda text, name=name: self._put(name, text))
            line.settled.connect(self.desk.documents.end_typing)
            title = self.name_line(name, self._name_problem, lambda new, name=name: self._rename(name, new))
            row = self.add(name, LineRow(f"analysis {name}", title, line, ("▸", f"run {name} alone")))
            row.removed.connect(lambda name=name: self._remove(name))
            row.acted.connect(lambda name=name: self.desk.run((name,)))
        self.offer((one.name, one.meaning, lambda kind=one.name: self.add_new(kind)) for one in ANALYSES.values())
        for one in self._asked_for:
            take = chip(one.line, lambda one=one: self._take_offer(one), f"add this line: {one.why}")
            self.add_aside(take, one.why)

    def follow(self) -> None:
        """The line, and what the circuit says where the line does not."""
        if self.isVisible():
            self.desk.offers.ask(self.desk.snapshot)
        try:
            around = self.desk.snapshot.circuit if self.desk.snapshot else None
        except HearthlineError:
            around = None
        for analysis in self.bench.analyses:
            row = self.rows[analysis.name]
            row.line.show_text(analysis.text)
            try:
                found = Plan(around, analysis).left_out() if around else {}
                row.say("from the circuit: " + " ".join(f"{k} {v}" for k, v in found.items()) if found else "")
            except HearthlineError as error:
                row.say(str(error), wrong=True)

    def add_new(self, kind: str) -> None:
        """One with everything from the circuit."""
        new = Analysis(free_name(ANALYSES[kind].called, self.bench.analysis_names), kind)
        self.change(f"analysis {new.name}", analyses=(*self.bench.analyses, new))
        self.desk.results.show_analysis(new.name)
        self.focus(new.name)

    def _take_offer(self, offer: Offer) -> None:
        kind = offer.line.split()[0]
        new = parse_analysis(free_name(ANALYSES[kind].called, self.bench.analysis_names), offer.line)
        self.change(f"analysis {new.name}", analyses=(*self.bench.analyses, new))
        self.desk.results.show_analysis(new.name)

    def _put(self, name: str, text: str) -> None:
        new = self.bench.with_analysis(parse_analysis(name, text))
        self.desk.change_bench(new, f"{name}: {text}", f"analysis {name}")

    def _name_problem(self, name: str) -> str:
        return name_problem(name, self.bench.analysis_names)

    def _rename(self, old: str, new: str) -> None:
        self.desk.change_bench(with_analysis_renamed(self.bench, old, new), f"analysis {old} → {new}")

    def _remove(self, name: str) -> None:
        bench = self.bench
        used = [one.name for one in bench.readings if self._is_of(one, name)]
        used += [one.shown for one in bench.watches if self._is_of(one, name)]
        if used:
            self.desk.tell(HearthlineError(f"{name} is still used by {', '.join(used[:6])}; take those away first"))
            return
        self.change(f"analysis {name} removed", analyses=tuple(one for one in bench.analyses if one.name != name))

    def _is_of(self, item: Watch | Reading, name: str) -> bool:
        """Whether something is taken from an analysis, be it in a part of its formula."""
        return self.bench.analysis_of(item) == name or mentions(item.formula, ANALYSIS, name)
