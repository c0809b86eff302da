"""The desk to know a device by: its sizes and conditions at the left, the numbers taken from its curves, and all its sheets."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)  # fmt: skip

from hearthline.app.device.sheets import DeviceSheets
from hearthline.app.device.text_view import TextView
from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import chip, clear, heading, offer, quiet
from hearthline.app.panels.value_field import ListLine, ValueEditor, ValueLine
from hearthline.app.state.study import DeviceStudy
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.core.errors import HearthlineError
from hearthline.core.quantity import read, write

LENGTHS = ("w", "l", "d", "s")
TEMPERATURES = "-40, 27, 125"


class NumberRow(QPushButton):
    """One extracted number; pressing it draws how it was read off."""

    def __init__(self, name: str, value: str, tip: str) -> None:
        super().__init__()
        self.setProperty("plain", True)
        self.setCheckable(True)
        self.setToolTip(tip)
        self.setAccessibleName(name)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(2, 0, 2, 0)
        self.name, self.value = Label(name), Label(value)
        self.name.setFont(text_font(12))
        self.value.setFont(figure_font(12))
        self.value.setProperty("live", True)
        layout.addWidget(self.name)
        layout.addStretch()
        layout.addWidget(self.value)
        self.setFixedHeight(23)


class DeviceDesk(QWidget):
    """Follows the study; `left` when the person is done with it."""

    left = pyqtSignal()

    def __init__(self, study: DeviceStudy, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.study = study
        self.setObjectName("desk")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.sheets = DeviceSheets(study)
        self.text = TextView()
        self.text.compiled.connect(self._take_modules)
        self.title, self.meaning, self.status = Label(), quiet(""), quiet("")
        self.title.setProperty("title", True)
        self.fields: dict[str, ValueLine] = {}
        self.corner_chips: dict[str, QPushButton] = {}
        self.numbers: list[NumberRow] = []
        self._lay_out()
        study.subject_changed.connect(self._show_subject)
        study.sheets_changed.connect(self._show_sheets)
        study.failed.connect(self._show_error)
        study.sized.connect(self._show_sizing)
        self.sheets.large_changed.connect(self._show_choice)

    # -- layout

    def _lay_out(self) -> None:
        side = QWidget()
        self.column = QVBoxLayout(side)
        self.column.setContentsMargins(14, 10, 10, 10)
        self.column.setSpacing(3)
        self.column.addWidget(self.title)
        self.column.addWidget(self.meaning)
        self.sizes, self.conditions = QVBoxLayout(), QVBoxLayout()
        self.taken, self.sizing = QVBoxLayout(), QVBoxLayout()
        for layout in (self.sizes, self.conditions, self.taken, self.sizing):
            layout.setSpacing(2)
            self.column.addLayout(layout)
        self.column.addStretch()
        scroll = QScrollArea()
        scroll.setWidget(side)
        scroll.setWidgetResizable(True)
        scroll.setFixedWidth(268)
        scroll.setFrameShape(QScrollArea.Shape.NoFrame)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        self.side = scroll
        layout.addWidget(scroll)
        self.text.setMinimumWidth(320)
        self.text.setMaximumWidth(500)
        self.text.hide()
        layout.addWidget(self.text, 1)
        right = QVBoxLayout()
        right.setContentsMargins(0, 6, 0, 0)
        right.setSpacing(0)
        right.addLayout(self._bar())
        right.addWidget(self.sheets, 1)
        layout.addLayout(right, 1)
        # behind the drawing it must not ask for more room than the drawing does
        layout.setSizeConstraint(QHBoxLayout.SizeConstraint.SetNoConstraint)
        self._show_choice()

    def _bar(self) -> QHBoxLayout:
        bar = QHBoxLayout()
        bar.setContentsMargins(12, 2, 12, 4)
        all_tip, axis_tip = "Every sheet side by side (double click on a chart)", "What colours and labels stand for"
        x_tip = "Any quantity of the sheet along the axis of the large chart"
        points_tip = "The computed points: closer where the curve bends"
        reference_tip = "Points from a CSV file over the large chart, with the error in percent"
        self.all_button = self._plain("All charts", all_tip, lambda: self.sheets.enlarge(None))
        self.axis_button = self._plain("Told apart by family", axis_tip, self._offer_axes)
        self.x_button = self._plain("Along another quantity", x_tip, self._offer_x)
        self.points_button = self._plain("Points", points_tip, self._toggle_points)
        self.reference_button = self._plain("Compare with points …", reference_tip, self._ask_reference)
        self.points_button.setCheckable(True)
        back = self._plain("Back to the cell", "Leaves the device (Backspace)", self.left.emit)
        for button in (self.all_button, self.axis_button, self.x_button, self.points_button, self.reference_button):
            bar.addWidget(button)
        self.status.setWordWrap(False)
        self.status.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.status.setAlignment(Qt.AlignmentFlag.AlignRight)
        bar.addWidget(self.status, 1)
        bar.addWidget(back)
        return bar

    def _plain(self, text: str, tip: str, action) -> QPushButton:
        button = QPushButton(text)
        button.setProperty("plain", True)
        button.setToolTip(tip)
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        button.clicked.connect(lambda _=False: action())
        return button

    # -- following the study

    def open_text(self, path: Path) -> None:
        """A device text of the project: the text in the place of sizes and numbers, its sheets beside."""
        self.side.hide()
        self.text.show()
        self.text.open(path)

    def _take_modules(self, modules) -> None:
        """The first module of a text that compiles is studied."""
        self.study.study_module(modules[0], self.text.path)

    def _show_subject(self) -> None:
        subject, study = self.study.subject, self.study
        of_text = study.path is not None
        self.text.setVisible(of_text)
        self.side.setVisible(not of_text)
        self._name_axis()
        self.title.setText(subject.name)
        self.meaning.setText(study.meaning)
        self.status.setText("computing …")
        self.fields, self.corner_chips = {}, {}
        for layout in (self.sizes, self.conditions, self.taken, self.sizing):
            clear(layout)
        if study.wishes.sizes:
            self.sizes.addWidget(heading("Size"))
        for name, text in study.wishes.sizes.items():
            self._add_field(
                self.sizes, name, name, text, "m" if name in LENGTHS else "", self._resizer(name), self._checker(name)
            )
        self._add_conditions()
        if subject.family.name == "FET":
            self._add_sizing()

    def _add_field(
        self, layout, key: str, label: str, text: str, unit: str, changed, check=lambda number: ""
    ) -> ValueLine:
        line = ValueLine(text, unit, check)
        line.setAccessibleName(key)
        line.changed.connect(changed)
        row = QHBoxLayout()
        name = Label(label)
        name.setFont(text_font(12))
        name.setFixedWidth(74)
        name.setAlignment(Qt.AlignmentFlag.AlignTop)
        name.setContentsMargins(0, 6, 0, 0)
        row.addWidget(name)
        row.addWidget(ValueEditor(line), 1)
        layout.addLayout(row)
        self.fields[key] = line
        return line

    def _resizer(self, name: str):
        return lambda text: self.study.resize(name, text)

    def _checker(self, name: str):
        kit, device = self.study.kit, self.study.subject.name
        return lambda number: kit.size_error(device, name, number, "m") if kit else ""

    def _add_conditions(self) -> None:
        study = self.study
        self.conditions.addWidget(heading("Conditions"))
        names = study.kit.models.names if study.kit else ()
        if names:
            row = QHBoxLayout()
            row.setSpacing(3)
            for name in names:
                button = chip(name, lambda name=name: self._toggle_corner(name), f"corner {name}", checkable=True)
                button.setChecked(name in study.wishes.corners)
                self.corner_chips[name] = button
                row.addWidget(button)
            row.addStretch()
            self.conditions.addLayout(row)
        line = ListLine(", ".join(f"{c:g}" for c in study.wishes.celsius), "°C")
        line.setAccessibleName("temperatures")
        line.setToolTip(f"One temperature or more, as {TEMPERATURES}")
        line.changed.connect(self._temperatures)
        row = QHBoxLayout()
        label = Label("°C")
        label.setFixedWidth(74)
        row.addWidget(label)
        row.addWidget(ValueEditor(line), 1)
        self.conditions.addLayout(row)
        self.fields["temperatures"] = line

    def _toggle_corner(self, name: str) -> None:
        chosen = tuple(key for key, button in self.corner_chips.items() if button.isChecked())
        if not chosen:
            self.corner_chips[name].setChecked(True)
            return
        self.study.wish(corners=chosen)

    def _temperatures(self, text: str) -> None:
        try:
            values = tuple(read(part, "°C") for part in ListLine.split(text))
        except HearthlineError:
            return
        self.study.wish(celsius=values)

    def _show_sheets(self) -> None:
        answer = self.study.answer
        clear(self.taken)
        self.numbers = []
        found = answer.found
        points = sum(dataset.outcomes.size for dataset in found.datasets.values())
        trouble = "; ".join(found.problems.values())
        self.status.setText(trouble or f"{points} points in {write(answer.seconds, 's', 2)}")
        if answer.numbers:
            self.taken.addWidget(heading("Taken from the curves"))
        for number in answer.numbers:
            value = write(number.found.value, number.found.unit, 3) if np.isfinite(number.found.value) else "–"
            row = NumberRow(number.found.name, value, f"{number.found.name} = {number.found.formula}")
            row.clicked.connect(self._number_shower(number))
            self.taken.addWidget(row)
            self.numbers.append(row)
        old = self.sheets.number
        if old is not None:
            self.sheets.number = next((n for n in answer.numbers if n.found.name == old.found.name), None)
            self.sheets.draw()
        self._show_choice()

    def _number_shower(self, number):
        return lambda _=False: self.sheets.show_number(number)

    def _show_choice(self) -> None:
        numbers = self.study.answer.numbers if self.study.answer else ()
        for row, number in zip(self.numbers, numbers, strict=False):
            row.setChecked(number is self.sheets.number)
        large = self.sheets.large is not None
        for button in (self.all_button, self.x_button, self.reference_button, self.points_button):
            button.setVisible(large)

    def _show_error(self, error: HearthlineError) -> None:
        self.status.setText(str(error))

    # -- sizing

    def _add_sizing(self) -> None:
        self.sizing.addWidget(heading("Width for a bias"))
        self._add_field(self.sizing, "current", "current", "100u", "A", lambda text: self._size())
        self._add_field(self.sizing, "overdrive", "overdrive", "0.2", "V", lambda text: self._size())
        line = ValueLine("", "", empty=True)
        line.setAccessibleName("gm/id")
        line.setPlaceholderText("instead of the overdrive")
        line.changed.connect(lambda text: self._size())
        row = QHBoxLayout()
        label = Label("gm/ID")
        label.setFixedWidth(74)
        row.addWidget(label)
        row.addWidget(ValueEditor(line), 1)
        self.sizing.addLayout(row)
        self.fields["gm/id"] = line
        self.sized = Label()
        self.sized.setFont(figure_font(11))
        self.sized.setProperty("live", True)
        self.sized.setWordWrap(True)
        self.sizing.addWidget(self.sized)
        self._size()

    def _size(self) -> None:
        try:
            current = read(self.fields["current"].text(), "A")
            efficiency = self.fields["gm/id"].text().strip() if "gm/id" in self.fields else ""
            overdrive = read(self.fields["overdrive"].text(), "V")
            self.study.size(current, None if efficiency else overdrive, read(efficiency) if efficiency else None)
        except HearthlineError as error:
            self._show_sizing(str(error))

    def _show_sizing(self, text: str) -> None:
        if self.study.subject and self.study.subject.family.name == "FET":
            self.sized.setText(text)

    # -- the bar

    def _name_axis(self) -> None:
        self.axis_button.setText(f"Told apart by {self.sheets.axis or 'family'}")

    def _offer_axes(self) -> None:
        def choose(name: str) -> None:
            self.sheets.choose_axis(name)
            self._name_axis()

        offer(self.axis_button, [(name, lambda name=name: choose(name)) for name in self.sheets.axes() or ["family"]])

    def _offer_x(self) -> None:
        if self.sheets.large is None:
            return
        dataset = self.study.answer.found.datasets[self.sheets.specs[self.sheets.large].sweep]
        names = [dataset.axis, *dataset.curves]
        offer(self.x_button, [(name, lambda name=name: self.sheets.choose_x(name)) for name in names])

    def _toggle_points(self) -> None:
        self.sheets.show_points(self.points_button.isChecked())

    def _ask_reference(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Points to compare with", "", "Points (*.csv *.txt)")
        if name:
            self.compare_with(Path(name))

    def compare_with(self, path: Path) -> None:
        """Lays the points of a CSV file over the large chart."""
        if self.sheets.large is None:
            return
        spec = self.sheets.specs[self.sheets.large]
        self.study.load_reference((spec.sweep, spec.x, spec.y), path)
