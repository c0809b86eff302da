"""What the circuit stands in: a box in plan and elevation, its resonances, their fields, and what may be done about them."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from hearthline.app.housing.box_drawing import ELEVATION, PLAN, BoxDrawing
from hearthline.app.housing.mode_chart import Gain, ModeChart
from hearthline.app.housing.thing_line import ThingLine
from hearthline.app.housing.trying import TryPanel
from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import chip, clear, heading, quiet, scrolled
from hearthline.app.state.desk import Desk
from hearthline.app.state.housings import ENDING
from hearthline.app.theme.fonts import figure_font
from hearthline.core.errors import HearthlineError
from hearthline.core.fields.box import Housing, Thing
from hearthline.core.fields.mesh import effort, mesh_lines
from hearthline.core.fields.slices import sliced
from hearthline.core.fields.study import ABSORBER_ER, ABSORBER_LOSS, moved, with_thing
from hearthline.core.formats.project_folder import DEVICES
from hearthline.core.quantity import write

NOTHING = (
    "This project has no housing. Describe one in a file `devices/NAME.housing.toml`:\n\n"
    'format = 1\nsize = "60m, 40m, 12m"\nwall_conductivity = "35M"\n\n'
    '[[objects]]\nbox = "0, 0, 0, 60m, 40m, 0.6m"\ner = "9.8"\n\n'
    "With ports and a sweep it is a part as a file of S-parameters is."
)
PUT = {
    "block": Thing((0.0,) * 3, (1.0,) * 3, 4.0),
    "absorber": Thing((0.0,) * 3, (1.0,) * 3, ABSORBER_ER, ABSORBER_LOSS),
    "metal": Thing((0.0,) * 3, (1.0,) * 3, metal=True),
}
"""What can be put into a box, of its material."""


class HousingView(QWidget):
    """Follows the housings of the project; those of the shown bench first."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk, self.housings = desk, desk.housings
        self.mode, self.thing = 0, -1
        self.planes = {PLAN: 0.0, ELEVATION: 0.0}
        layout = scrolled(self)
        self.names = QHBoxLayout()
        self.names.setSpacing(4)
        layout.addLayout(self.names)
        self.said = quiet("")
        layout.addWidget(self.said)
        self.drawing, self.chart = BoxDrawing(), ModeChart()
        layout.addWidget(self.chart)
        beside = QHBoxLayout()
        beside.setSpacing(12)
        beside.addWidget(self.drawing, 1)
        column = QVBoxLayout()
        self.table = QGridLayout()
        self.table.setHorizontalSpacing(8)
        self.table.setVerticalSpacing(0)
        column.addLayout(self.table)
        column.addStretch()
        beside.addLayout(column)
        layout.addLayout(beside, 1)
        self.doings = QHBoxLayout()
        self.doings.setSpacing(4)
        layout.addLayout(self.doings)
        self.line = ThingLine()
        layout.addWidget(self.line)
        self.trying = TryPanel(self.housings)
        layout.addWidget(self.trying)
        self._connect()
        self.follow()

    def _connect(self) -> None:
        self.drawing.picked.connect(self._pick)
        self.drawing.moved.connect(self._move)
        self.drawing.cut.connect(self._cut)
        self.line.changed.connect(self.housings.change)
        self.trying.taken.connect(self.housings.change)
        self.chart.chosen.connect(self.choose)
        self.housings.changed.connect(self._show_housing)
        self.housings.resonances.changed.connect(self._show_modes)
        self.desk.project_changed.connect(self.follow)
        self.desk.bench_changed.connect(self.follow)
        for signal in (self.desk.results.run_changed, self.desk.results.lane_changed):
            signal.connect(self._show_modes)

    def showEvent(self, event) -> None:
        """What was missed meanwhile."""
        super().showEvent(event)
        self.follow()

    # -- which

    def follow(self) -> None:
        """The housings that there are; the first of the bench where none is shown yet."""
        names = self._names()
        if self.isVisible() and names and self.housings.name not in names:
            self.show_housing(names[0])
        clear(self.names)
        self.names.addWidget(heading("Housing"))
        for name in names:
            button = chip(name, lambda name=name: self.show_housing(name), f"devices/{name}.housing.toml", True)
            button.setChecked(name == self.housings.name)
            self.names.addWidget(button)
        self.names.addStretch()
        self._show_housing()

    def _names(self) -> list[str]:
        """Of the project, those of the shown bench first."""
        names, bench = self.housings.names(self.desk.project), self.desk.bench
        used = [file for one in bench.surroundings for file in one.files.values()] if bench is not None else []
        ranks = {file.removesuffix(ENDING): k for k, file in reversed(list(enumerate(used)))}
        return sorted(names, key=lambda name: ranks.get(name, len(ranks)))

    def show_housing(self, name: str) -> None:
        """Another one."""
        if self.desk.project is None:
            return
        self.mode, self.thing = 0, -1
        self.housings.show(self.desk.project, name)
        housing = self.housings.housing
        if housing is not None:
            self.planes = {PLAN: 0.5 * housing.size[2], ELEVATION: 0.5 * housing.size[1]}
        self.follow()
        if housing is not None:
            self.solve()

    def solve(self) -> None:
        """Looks for resonances of the housing as it is."""
        if self.housings.housing is not None:
            self.housings.resonances.ask(self.housings.housing)

    # -- what is shown

    def _show_housing(self) -> None:
        housing, there = self.housings.housing, self.housings.housing is not None
        for one in (self.drawing, self.chart, self.trying):
            one.setVisible(there)
        clear(self.doings)
        if housing is None:
            self.line.hide()
            self.said.setText(str(self.housings.error) if self.housings.error else NOTHING)
            return
        if self.thing >= len(housing.things):
            self.thing = -1
        self.planes = {normal: min(place, housing.size[normal]) for normal, place in self.planes.items()}
        self.drawing.show_housing(housing, self.planes)
        self.drawing.select(self.thing)
        self.line.show_thing(housing, self.thing)
        self._show_doings(housing)
        self._show_modes()

    def _show_doings(self, housing: Housing) -> None:
        self.doings.addWidget(quiet("put in", wrap=False))
        for name in PUT:
            self.doings.addWidget(chip(name, lambda name=name: self._put(name), "puts one into the middle of the box"))
        self.doings.addStretch()
        if self.housings.can_go_back:
            self.doings.addWidget(chip("take back", self.housings.back, "the housing as it was before the last change"))
        if self.housings.unsaved:
            where = f"writes {DEVICES}/{self.housings.name}.housing.toml; benches with it are solved anew"
            self.doings.addWidget(chip("save", self._save, where))
        found = self.housings.resonances.found
        if self.housings.resonances.busy:
            self.doings.addWidget(chip("stop", self.housings.resonances.stop, "ends the search"))
        elif found is None or found.housing != housing:
            self.doings.addWidget(chip("find resonances", self.solve, "of the housing as it is now"))

    def _show_modes(self) -> None:
        housing, resonances = self.housings.housing, self.housings.resonances
        if housing is None:
            return
        clear(self.doings)
        self._show_doings(housing)
        found = resonances.found
        current = found is not None and found.housing == housing
        self.said.setText(self._words(housing))
        clear(self.table)
        modes = found.modes if found is not None else None
        self.chart.setVisible(modes is not None and len(modes.frequencies) > 0)
        self.chart.show_modes(modes, self._gain(), self.mode)
        if found is None or not len(found.modes.frequencies):
            self.drawing.show_field({})
            return
        self.mode = min(self.mode, len(found.modes.frequencies) - 1)
        self._list(found.modes)
        self._show_field() if current else self.drawing.show_field({})

    def _words(self, housing: Housing) -> str:
        resonances = self.housings.resonances
        if resonances.error is not None:
            return str(resonances.error)
        if resonances.busy:
            return f"Looking for resonances: {_size(housing)} …"
        if resonances.found is None:
            return "Stopped." if resonances.job.stopped else ""
        cells = " × ".join(map(str, resonances.found.grid.cells))
        if resonances.found.housing != housing:
            return f"Changed since; the resonances below are those before ({cells} cells)."
        left = resonances.found.left
        known = "" if left is None else f", frequencies to about {100 * left:.2g} %"
        return f"{cells} cells{known}. A ring at a dashed line moves the plane of the other picture; things can be dragged."

    def _show_field(self) -> None:
        found = self.housings.resonances.found
        if found is None:
            return
        field = found.field(self.mode)
        self.drawing.show_field({
            normal: sliced(found.grid, field, normal, place) for normal, place in self.planes.items()
        })  # fmt: skip

    def _list(self, modes) -> None:
        """A row for each resonance: frequency, quality, and where its energy goes."""
        for column, word in enumerate(("", "frequency", "Q", "in the walls")):
            self.table.addWidget(quiet(word, wrap=False), 0, column)
        for k in range(len(modes.frequencies)):
            button = chip(str(k + 1), lambda k=k: self.choose(k), "shows its field", True)
            button.setFixedWidth(38)
            button.setChecked(k == self.mode)
            self.table.addWidget(button, k + 1, 0)
            quality = float(modes.quality[k])
            share = float(quality / modes.walls[k]) if np.isfinite(quality) else 0.0
            lossless = not np.isfinite(quality)
            words = (
                "nothing is lost"
                if lossless
                else f"{100 * share:.3g} % of the loss is in walls and metal, the rest inside"
            )
            texts = [write(float(modes.frequencies[k]), "Hz", 4), "no loss" if lossless else f"{quality:.4g}",
                     "–" if lossless else f"{100 * share:.0f} %"]  # fmt: skip
            for column, text in enumerate(texts):
                label = Label(text)
                label.setFont(figure_font(12))
                label.setToolTip(words)
                self.table.addWidget(label, k + 1, 1 + column, Qt.AlignmentFlag.AlignRight)

    def _gain(self) -> Gain | None:
        """Of the shown lane of a scattering analysis of the bench, where one was run."""
        results = self.desk.results
        for name, data in (results.run.results if results.run is not None else {}).items():
            for label, words in (
                ("twoport.gain_transducer", "transducer gain"),
                ("twoport.gain_max", "available gain"),
            ):
                if label in data.curves:
                    lane = results.lane if 0 <= results.lane < data.lanes else 0
                    with np.errstate(divide="ignore", invalid="ignore"):
                        decibels = 10.0 * np.log10(np.maximum(np.real(data.curves[label][lane]), 0.0))
                    return Gain(np.atleast_2d(data.points)[0], decibels, f"{words} ({name})")
        return None

    # -- doing

    def choose(self, mode: int) -> None:
        """Shows the field of another resonance."""
        self.mode = mode
        self._show_modes()

    def _cut(self, normal: int, place: float) -> None:
        self.planes[normal] = place
        self.drawing.show_housing(self.housings.housing, self.planes)
        found = self.housings.resonances.found
        if found is not None and found.housing == self.housings.housing:
            self._show_field()

    def _pick(self, thing: int) -> None:
        self.thing = thing
        self.drawing.select(thing)
        self.line.show_thing(self.housings.housing, thing)

    def _move(self, thing: int, x: float, y: float, z: float) -> None:
        if self.housings.housing is not None:
            self.housings.change(moved(self.housings.housing, thing, (x, y, z)))

    def _put(self, name: str) -> None:
        """One into the middle of the box, an eighth of it along both sides."""
        housing = self.housings.housing
        if housing is None:
            return
        material = PUT[name]
        low = tuple(float(f"{0.44 * side:.3g}") for side in housing.size)
        high = tuple(float(f"{0.56 * side:.3g}") for side in housing.size)
        thing = Thing((low[0], low[1], low[2]), (high[0], high[1], high[2]), material.er, material.tan_delta,
                      metal=material.metal)  # fmt: skip
        self.thing = len(housing.things)
        self.housings.change(with_thing(housing, thing))

    def _save(self) -> None:
        try:
            self.housings.save()
        except HearthlineError as error:
            self.desk.tell(error)


def _size(housing: Housing) -> str:
    """How many cells its mesh has, and how long that takes."""
    try:
        counts = [len(one) - 1 for one in mesh_lines(housing)]
    except HearthlineError:
        return "its mesh"
    more = ", longer with strong losses" if housing.strongly_lossy else ""
    return f"{' × '.join(map(str, counts))} cells, {effort(int(np.prod(counts)))}{more}"
