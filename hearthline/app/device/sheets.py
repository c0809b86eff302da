"""The charts of a device: all sheets side by side, or one of them large."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QScrollArea, QWidget

from hearthline.app.charts.strip import curve_color
from hearthline.app.device.chart import DeviceChart, graded
from hearthline.app.state.study import DeviceStudy
from hearthline.app.theme.palette import DASHES
from hearthline.app.theme.theme import theme
from hearthline.core.data.extraction import against_reference
from hearthline.core.device.naming import axis_of, source_name
from hearthline.core.errors import HearthlineError
from hearthline.core.quantity import write

COLUMNS = 2


class DeviceSheets(QScrollArea):
    """Follows the study. `chosen` is the chart that is large (None: all), `number` the extraction drawn on it."""

    large_changed = pyqtSignal()

    def __init__(self, study: DeviceStudy, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.study = study
        self.large: int | None = None
        self.number = None
        self.points = False
        self.axis = ""
        self.x_names: dict[int, str] = {}
        self.charts: list[DeviceChart] = []
        self.setWidgetResizable(True)
        self.setFrameShape(QScrollArea.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        body = QWidget()
        self.grid = QGridLayout(body)
        self.grid.setContentsMargins(4, 0, 8, 8)
        self.grid.setSpacing(4)
        self.setWidget(body)
        study.subject_changed.connect(self._forget)
        study.sheets_changed.connect(self.draw)
        theme.changed.connect(self.draw)

    def _forget(self) -> None:
        self.large, self.number, self.axis, self.x_names = None, None, "", {}
        for chart in self.charts:
            chart.deleteLater()
        self.charts = []

    # -- choices

    def enlarge(self, index: int | None) -> None:
        """One chart alone, or all."""
        self.large = index
        self.draw()
        self.large_changed.emit()

    def show_number(self, number) -> None:
        """Draws the construction of an extracted number on its chart."""
        self.number = None if number is self.number else number
        if self.number is not None:
            self.large = self._chart_of(self.number)
            self.x_names[self.large] = self.number.x
        self.draw()
        self.large_changed.emit()

    def _chart_of(self, number) -> int | None:
        charts = self.specs
        exact = [k for k, c in enumerate(charts) if (c.sweep, c.y) == (number.sweep, number.y) and not c.log_y]
        close = [k for k, c in enumerate(charts) if (c.sweep, c.y) == (number.sweep, number.y)]
        wanted = close if "ideality" in number.found.name or "constant current" in number.found.name else exact or close
        logs = [k for k in wanted if charts[k].log_y]
        return (logs or wanted or [None])[0] if wanted is close else wanted[0]

    def show_points(self, on: bool) -> None:
        """The computed points beside the curves."""
        self.points = on
        self.draw()

    def choose_axis(self, name: str) -> None:
        """What the curves are told apart by."""
        self.axis = name
        self.draw()

    def choose_x(self, name: str) -> None:
        """Another quantity along the axis of the large chart."""
        if self.large is not None:
            self.x_names[self.large] = name
            self.draw()

    @property
    def specs(self) -> tuple:
        """The charts of this device."""
        return self.study.answer.found.sheets.charts if self.study.answer else ()

    def axes(self) -> list[str]:
        """What the curves of the shown charts may be told apart by."""
        if not self.study.answer:
            return []
        names: dict[str, None] = {}
        for dataset in self.study.answer.found.datasets.values():
            for name, values in dataset.conditions.items():
                if len(np.unique(values)) > 1:
                    names[name if name in ("corner", "temperature") else "family"] = None
        return list(names)

    # -- drawing

    def draw(self) -> None:
        """All charts anew."""
        if not self.study.answer:
            return
        specs = self.specs
        while len(self.charts) < len(specs):
            chart = DeviceChart(self.widget())
            chart.clicked.connect(self._toggler(len(self.charts)))
            self.charts.append(chart)
        shown = [self.large] if self.large is not None and self.large < len(specs) else list(range(len(specs)))
        while self.grid.count():
            self.grid.takeAt(0)
        for index, chart in enumerate(self.charts):
            chart.setVisible(index in shown)
        for place, index in enumerate(shown):
            chart = self.charts[index]
            chart.setMinimumHeight(196)
            self.grid.addWidget(chart, place // COLUMNS, place % COLUMNS, 1, COLUMNS if len(shown) == 1 else 1)
            chart.restyle()
            self._draw(index, chart, specs[index], len(shown) == 1)

    def _toggler(self, index: int) -> Callable[[], None]:
        return lambda: self.enlarge(None if self.large is not None else index)

    def _draw(self, index: int, chart: DeviceChart, spec, large: bool) -> None:
        dataset = self.study.answer.found.datasets[spec.sweep]
        x_name = self.x_names.get(index, spec.x)
        try:
            x, x_unit = axis_of(dataset, x_name)
        except HearthlineError:
            x_name = dataset.axis
            x, x_unit = axis_of(dataset, x_name)
        y, y_unit = axis_of(dataset, spec.y)
        lanes = self._lanes(dataset, spec)
        tops = [float(np.nanmax(np.abs(v[lanes]), initial=0.0)) if len(lanes) else 0.0 for v in (x, y)]
        shown_x = source_name(self.study.subject, x_name) if x_name == dataset.axis else x_name
        chart.begin(spec.title, (shown_x, x_unit, tops[0]), (spec.y, y_unit, tops[1]), spec.log_x, spec.log_y)
        looks = self._looks(dataset, lanes)
        for lane in sorted(lanes, key=lambda lane: looks[lane][3]):
            color, width, dash, _, _ = looks[lane]
            chart.curve(x[lane], y[lane], color, width, dash, self.points and large)
        for lane in lanes:
            color, _, _, main, text = looks[lane]
            if main and text:
                self._label(chart, x[lane], y[lane], text, color, spec.log_y)
        self._reference(chart, spec, x_name, x, y, lanes, looks)
        if large and self.number and (self.number.sweep, self.number.x, self.number.y) == (spec.sweep, x_name, spec.y):
            self._construction(chart)
        chart.finish()

    def _lanes(self, dataset, spec) -> list[int]:
        """The lanes that a chart shows: all, or some steps of the family."""
        if spec.steps is None:
            return list(range(dataset.lanes))
        stepped = [name for name in dataset.conditions if name not in ("corner", "temperature")]
        if not stepped:
            return list(range(dataset.lanes))
        values = np.asarray(dataset.conditions[stepped[0]])
        order = list(dict.fromkeys(values.tolist()))
        wanted = {order[k] for k in spec.steps if k < len(order)}
        return [lane for lane in range(dataset.lanes) if values[lane] in wanted]

    def _looks(self, dataset, lanes) -> dict[int, tuple]:
        """Colour, width, dash, whether it stands out, and label of each lane's curve."""
        wishes = self.study.wishes
        stepped = next((name for name in dataset.conditions if name not in ("corner", "temperature")), "")
        steps = list(dict.fromkeys(np.asarray(dataset.conditions[stepped]).tolist())) if stepped else [0.0]
        axis = self.axis if self.axis in ("corner", "temperature") and self.axis in self.axes() else ""
        found = {}
        for lane in lanes:
            corner, celsius = dataset.conditions["corner"][lane], float(dataset.conditions["temperature"][lane])
            step = dataset.conditions[stepped][lane] if stepped else 0.0
            if axis:
                choices = list(wishes.corners) if axis == "corner" else list(wishes.celsius)
                group = choices.index(corner if axis == "corner" else celsius)
                other = celsius == wishes.celsius[0] if axis == "corner" else corner == wishes.corners[0]
                color, dash = curve_color(group, 255 if other else 60), DASHES[group % len(DASHES)]
                top = step == steps[-1] or not stepped
                text = (str(corner) if axis == "corner" else write(celsius, "°C")) if top else ""
                found[lane] = (color, 1.8 if other else 1.0, dash, other, text)
                continue
            main = corner == wishes.corners[0] and celsius == wishes.celsius[0]
            share = (steps.index(step) + 1) / len(steps)
            unit = "Hz" if stepped == "frequency" else "A" if stepped.startswith("i") else "V"
            name = source_name(self.study.subject, stepped) if stepped and unit != "Hz" else ""
            text = f"{name} {write(float(f'{step:.3g}'), unit)}".strip() if stepped else ""
            found[lane] = (graded(share, 255 if main else 60), 1.9 if main else 1.0, None, main, text)
        return found

    @staticmethod
    def _label(chart: DeviceChart, x, y, text: str, color, log_y: bool) -> None:
        """At the curve's end."""
        good = np.flatnonzero(np.isfinite(x) & np.isfinite(y) & ((np.abs(y) > 0) | (not log_y)))
        if not len(good):
            return
        order = good[np.argsort(np.abs(x[good]))]
        end = order[max(0, int(0.97 * len(order)) - 1)]
        chart.label(float(x[end]), float(y[end]), text, color, (1.0, 0.5) if x[end] >= 0 else (0.0, 0.5))

    def _reference(self, chart, spec, x_name, x, y, lanes, looks) -> None:
        """Reference points, and how far the nearest curve is off."""
        points = self.study.references.get((spec.sweep, spec.x, spec.y))
        if points is None or x_name != spec.x or not lanes:
            return
        chart.marks(points[:, 0], points[:, 1], theme.color("ember"), "d", 10)
        mains = [lane for lane in lanes if looks[lane][3]]
        errors = [against_reference(x[lane], y[lane], points)[1] for lane in mains]
        worst = [np.nanmax(np.abs(e)) if np.isfinite(e).any() else np.inf for e in errors]
        best = int(np.argmin(worst))
        for (px, py), off in zip(points, errors[best], strict=True):
            if np.isfinite(off):
                chart.label(
                    float(px), float(py), f"{off:+.1f} %".replace("-", "−"), theme.color("ember_ink"), (-0.12, 0.5)
                )
        name = looks[mains[best]][4]
        chart.explain(f"points against {name or 'the curve'}: at most {worst[best]:.1f} % off")

    def _construction(self, chart: DeviceChart) -> None:
        """Points and lines that the chosen number was read off by, with formula and value."""
        found = self.number.found
        color = theme.color("ember")
        for a, b in found.lines:
            if np.isfinite([*a, *b]).all():
                chart.line(a, b, color)
        if found.points:
            chart.marks([p[0] for p in found.points], [p[1] for p in found.points], color, "o")
        value = write(found.value, found.unit, 4) if np.isfinite(found.value) else "–"
        chart.explain(f"{found.name} = {value}   ({found.formula})")
