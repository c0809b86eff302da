"""How samples are drawn, tolerances that stand in the bench, and the statistical corners that it keeps."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from hearthline.app.panels.bench.line_row import LineRow, PlainLine
from hearthline.app.panels.bench.section import Section
from hearthline.app.panels.label import Label
from hearthline.core.bench.samples import SampleSetup, ToleranceLine, sampling_of
from hearthline.core.bench.statistical import plain
from hearthline.core.errors import ExpressionError
from hearthline.core.tolerance import tolerance_of

SETTINGS = {
    "count": "how many", "seed": "same seed, same samples", "way": "random, latin, sobol",
    "of": "process, mismatch, tolerance", "at": "point, picked, conditions",
    "until": "width of the interval of the yield at which to end, as 2%",
}  # fmt: skip


class Samples(Section):
    """A row for each setting where there are samples."""

    title = "Samples"

    def shape(self) -> tuple:
        """Whether there are any, tolerances, corners."""
        bench = self.bench
        return bench.samples is None, len(bench.tolerances), *(one.name for one in bench.statistical)

    def build(self) -> None:
        """Settings, tolerances, corners."""
        bench = self.bench
        for name, tip in SETTINGS.items() if bench.samples is not None else ():
            line = PlainLine(getattr(bench.samples, name), self._checker(name))
            line.setPlaceholderText(tip)
            self._tie(line, lambda text, name=name: self._put(name, text))
            self.add(name, LineRow(f"samples {name}", Label(name), line, fixed=True))
        for k, one in enumerate(bench.tolerances):
            line = PlainLine(_tolerance_text(one), _tolerance)
            self._tie(line, lambda text, k=k: self._put_tolerance(k, text))
            row = self.add(f"tolerance {k}", LineRow(f"tolerance {k + 1}", Label("tolerance"), line))
            row.removed.connect(lambda k=k: self._remove_tolerance(k))
        for one in bench.statistical:
            label = Label(", ".join(f"{name} {z} σ" for name, z in list(one.at.items())[:3]).replace("-", "−"))
            label.setProperty("quiet", True)
            row = self.add(one.name, LineRow(f"statistical corner {one.name}", Label(one.name), label))
            row.removed.connect(lambda name=one.name: self._remove_corner(name))
        entries = [("samples", "draws the circuit anew, with its process, mismatch and tolerances", self._begin)]
        own = (
            "tolerance",
            "of a part's value, in this bench alone: a part, then ±5% or ±2% sigma",
            self._add_tolerance,
        )
        away = [("none", "this bench draws no samples", self._end)]
        self.offer([*(entries if bench.samples is None else []), own, *(away if bench.samples is not None else [])])

    def _tie(self, line: PlainLine, put: Callable[[str], None]) -> None:
        line.changed.connect(put)
        line.settled.connect(self.desk.documents.end_typing)

    def follow(self) -> None:
        """Texts."""
        bench = self.bench
        for name in SETTINGS if bench.samples is not None else ():
            self.rows[name].line.show_text(getattr(bench.samples, name))
        for k, one in enumerate(bench.tolerances):
            self.rows[f"tolerance {k}"].line.show_text(_tolerance_text(one))

    def _checker(self, name: str) -> Callable[[str], object]:
        def check(text: str) -> object:
            return sampling_of(replace(self.bench.samples or SampleSetup(), **{name: text}))

        return check

    def _begin(self) -> None:
        self.change("samples", samples=SampleSetup())
        self.focus("count")

    def _end(self) -> None:
        self.change("no samples", samples=None)

    def _put(self, name: str, text: str) -> None:
        if self.bench.samples is not None:
            setup = replace(self.bench.samples, **{name: text})
            self.change(f"samples {name} {text}", f"samples {name}", samples=setup)

    def _add_tolerance(self) -> None:
        top = self.desk.top
        part = next((one.name for one in top.parts if "r" in one.values), "r1") if top is not None else "r1"
        self.change("tolerance", tolerances=(*self.bench.tolerances, ToleranceLine(part, within="5%")))
        self.focus(f"tolerance {len(self.bench.tolerances) - 1}")

    def _put_tolerance(self, k: int, text: str) -> None:
        lines = list(self.bench.tolerances)
        lines[k] = _tolerance(text)
        self.change(f"tolerance of {lines[k].part}", f"tolerance {k}", tolerances=tuple(lines))

    def _remove_tolerance(self, k: int) -> None:
        self.change("tolerance removed", tolerances=tuple(one for j, one in enumerate(self.bench.tolerances) if j != k))

    def _remove_corner(self, name: str) -> None:
        """With every condition that was in it."""
        bench = self.bench
        gone = [one for one in bench.statistical if one.name == name]

        def without(corner: str) -> str:
            return plain(corner, gone)

        grid = replace(
            bench.grid,
            corners=tuple(dict.fromkeys(map(without, bench.grid.corners))),
            picked=tuple(one for one in bench.grid.picked if without(one.corner) == one.corner),
        )
        self.change(
            f"statistical corner {name} removed", grid=grid, point=replace(bench.point, corner=without(bench.point.corner)),
            statistical=tuple(one for one in bench.statistical if one.name != name),
        )  # fmt: skip


def _tolerance(text: str) -> ToleranceLine:
    """`r1 ±5%`, `w of m1 ±2% sigma`, `r1 ±2% sigma ±5%`."""
    named, sign, rest = text.partition("±")
    of, word, part = named.strip().rpartition(" of ")
    if not sign or not part.strip() or " " in part.strip():
        raise ExpressionError("write a part and its tolerance: r1 ±5%, w of m1 ±2% sigma", len(text) + 1)
    found = {"within": "", "sigma": ""}
    for piece in rest.split("±"):
        size, _, law = piece.strip().partition(" ")
        found["sigma" if law.strip() == "sigma" else "within"] = size
    tolerance_of(found["within"], found["sigma"])
    return ToleranceLine(part.strip(), of.strip() if word else "", **found)


def _tolerance_text(line: ToleranceLine) -> str:
    size = [f"±{line.sigma} sigma"] if line.sigma else []
    size += [f"±{line.within}"] if line.within else []
    return f"{line.of}{' of ' * bool(line.of)}{line.part} {' '.join(size)}"
