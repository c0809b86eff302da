"""The device under study: which one, its sizes and conditions, its sheets, and the numbers taken from them."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from hearthline.app.state.worker import NewestWins
from hearthline.core.errors import CircuitError, HearthlineError
from hearthline.core.formats.deck.flatten import flatten
from hearthline.core.formats.deck.reader import read as read_deck
from hearthline.core.process.kit import ProcessKit
from hearthline.core.process.models import ModelSet

AMBIENT = 27.0


def models_of(path: Path) -> ModelSet:
    """The model cards of a deck. Raises DeckError."""
    return flatten(read_deck(path, path.name))[1]


@dataclass(frozen=True)
class StudyAnswer:
    """Sheets, extracted numbers, and how long it took [s]."""

    found: object
    numbers: tuple
    seconds: float


@dataclass(frozen=True)
class SizingAnswer:
    """A sizing in words, or why there is none."""

    text: str


@dataclass
class Wishes:
    """What a person asked for: corners, temperatures [degC], sizes as typed."""

    corners: tuple[str, ...] = ()
    celsius: tuple[float, ...] = (AMBIENT,)
    sizes: dict[str, str] = field(default_factory=dict)


class DeviceStudy(QObject):
    """`subject_changed` when another device is studied, `sheets_changed` when curves are new, `failed` with an error."""

    subject_changed = pyqtSignal()
    sheets_changed = pyqtSignal()
    sized = pyqtSignal(str)
    text_wanted = pyqtSignal(object)
    left = pyqtSignal()
    failed = pyqtSignal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.kit: ProcessKit | None = None
        self.subject = None
        self.meaning = ""
        self.path: Path | None = None
        self.wishes = Wishes()
        self.answer: StudyAnswer | None = None
        self.error: HearthlineError | None = None
        self.references: dict[tuple[str, str, str], np.ndarray] = {}
        self.solver = NewestWins("device sheets", self)
        self.solver.answered.connect(self._take)
        self.solver.refused.connect(self._refuse)
        self.sizer = NewestWins("sizing", self)
        self.sizer.answered.connect(lambda answer: self.sized.emit(answer.text))
        self.sizer.refused.connect(lambda error: self.sized.emit(str(error)))

    def close(self) -> None:
        """Ends the threads."""
        self.solver.close()
        self.sizer.close()

    # -- what is studied

    def study_device(self, kit: ProcessKit, name: str) -> None:
        """A device of the kit."""
        from hearthline.core.device.subject import of_kit  # late: it brings the engine

        self.kit, self.path = kit, None
        try:
            subject = of_kit(kit, name)
        except CircuitError as error:
            self._refuse(error)
            return
        sizes = {key: _written(subject.number(key)) for key in subject.values}
        self.wishes = Wishes((next(iter(kit.models.corners)),), (AMBIENT,), sizes)
        self._begin(subject, kit.devices[name].meaning)

    def study_card(self, path: Path, name: str) -> None:
        """A model card of a deck."""
        from hearthline.core.device.subject import of_models

        self.kit, self.path = None, None
        try:
            subject = of_models(models_of(path), name)
        except HearthlineError as error:
            self._refuse(error)
            return
        sizes = {"w": "1u", "l": "1u"} if subject.family.name == "FET" else {}
        self.wishes = Wishes(("",), (AMBIENT,), sizes)
        self._begin(subject.with_values(**sizes), f"model of {path.name}")

    def study_module(self, module, path: Path | None = None) -> None:
        """A Verilog-A module; sizes and conditions of the same module before stay."""
        from hearthline.core.device.subject import of_module

        same = self.subject is not None and self.subject.name == module.name and self.path == path
        self.kit, self.path = None, path
        if same:  # a text that is being changed: its curves stay until the new ones are there
            self.subject = of_module(module)
            self.solve()
            return
        self.wishes = Wishes(("",), (AMBIENT,), {})
        self._begin(of_module(module), module.meaning or module.source)

    def _begin(self, subject, meaning: str) -> None:
        self.subject, self.meaning, self.answer, self.error, self.references = subject, meaning, None, None, {}
        self.subject_changed.emit()
        self.solve()

    # -- wishes

    def wish(self, corners: tuple[str, ...] | None = None, celsius: tuple[float, ...] | None = None) -> None:
        """Other corners or temperatures."""
        if corners:
            self.wishes.corners = corners
        if celsius:
            self.wishes.celsius = celsius
        self.solve()

    def resize(self, name: str, text: str) -> None:
        """Another size, as typed and understood."""
        self.wishes.sizes[name] = text
        self.solve()

    @property
    def sized_subject(self):
        """The device in the sizes that were typed."""
        from hearthline.core.quantity import read

        subject, sizes = self.subject, {}
        for name, text in self.wishes.sizes.items():
            if text.strip():
                sizes[name] = repr(read(text, "m" if name in ("w", "l", "d", "s") else ""))
        return subject.with_values(**sizes)

    def solve(self) -> None:
        """Asks for all sheets anew."""
        if self.subject is None:
            return
        subject, wishes = self.sized_subject, self.wishes
        self.solver.ask(_Asked(subject, wishes.corners, wishes.celsius))

    def size(self, current: float, overdrive: float | None, efficiency: float | None) -> None:
        """Asks for the width for a current [A] at an overdrive [V] or gm/ID [1/V]."""
        subject, corner, celsius = self.sized_subject, self.wishes.corners[0], self.wishes.celsius[0]
        self.sizer.ask(lambda report: _sizing(subject, current, overdrive, efficiency, corner, celsius))

    # -- answers

    def _take(self, answer: StudyAnswer) -> None:
        self.answer, self.error = answer, None
        self.sheets_changed.emit()

    def _refuse(self, error: HearthlineError) -> None:
        self.error = error
        self.failed.emit(error)

    def load_reference(self, key: tuple[str, str, str], path: Path) -> None:
        """Points of a CSV file to lay over a chart (sweep, x, y)."""
        from hearthline.core.formats.points_file import read_points

        try:
            self.references[key] = read_points(path)
        except HearthlineError as error:
            self._refuse(error)
            return
        self.sheets_changed.emit()


@dataclass(frozen=True)
class _Asked:
    """All sheets of a subject in some conditions."""

    subject: object
    corners: tuple[str, ...]
    celsius: tuple[float, ...]

    def __call__(self, report: Callable[[object], None]) -> StudyAnswer:
        from hearthline.core.device.extract import extract
        from hearthline.core.device.sheets import characterise
        from hearthline.core.device.sweeps import Conditions

        begin = time.perf_counter()
        found = characterise(self.subject, Conditions(self.corners, self.celsius))
        numbers = tuple(extract(found, self.corners[0], self.celsius[0]))
        return StudyAnswer(found, numbers, time.perf_counter() - begin)


def _written(number: float) -> str:
    from hearthline.core.quantity import field_text

    return field_text(number)


def _sizing(subject, current, overdrive, efficiency, corner, celsius) -> SizingAnswer:
    from hearthline.core.device.sizing import size_by_efficiency, size_by_overdrive
    from hearthline.core.quantity import write

    if overdrive:
        found = size_by_overdrive(subject, current, overdrive, corner, celsius)
    else:
        found = size_by_efficiency(subject, current, efficiency, corner, celsius)
    return SizingAnswer(
        f"full model: W = {write(float(found.full_model), 'm', 4)} at vgs = {write(float(found.vgs), 'V', 3)}\n"
        f"square law: W = {write(float(found.square_law), 'm', 4)} (K = {write(found.gain_factor, 'A/V²', 3)})\n"
        f"which would carry {write(float(found.current_of_square_law), 'A', 3)}, {found.difference:+.0f} %"
    )
