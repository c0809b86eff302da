"""What the search finds: everything that can be placed, done or shown."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING

from hearthline.app.commands import Command
from hearthline.app.panels.search import Entry
from hearthline.app.state.desk import Desk
from hearthline.app.state.study import models_of
from hearthline.core.analyses import ANALYSES
from hearthline.core.elements.kind import Symbol
from hearthline.core.errors import HearthlineError, QuantityError
from hearthline.core.quantity import read, write

if TYPE_CHECKING:
    from hearthline.app.frame import Frame


def entries(window: Frame) -> list[Entry]:
    """All of them, for what is open now."""
    desk, found = window.desk, window.placer.entries()
    found += [_command(window, one) for one in window.commands if one.name != "Add or find anything"]
    found += _of_cell(desk)
    if desk.bench:
        found += [
            Entry(r.name, "reading", r.note or r.formula, lambda r=r: desk.show_reading.emit(r.name))
            for r in desk.bench.readings
        ]
        found += _of_bench(window)
    if desk.project:
        found += [
            Entry(b.title, "bench", b.note, lambda k=k: desk.show_bench(k)) for k, b in desk.project.benches.items()
        ]
        found += _to_study(desk)
    return found


def _command(window: Frame, command: Command) -> Entry:
    """With its key, or with what it needs where it cannot run now."""
    needs = command.needs()
    return Entry(command.name, "command", needs or command.shown_key, lambda: window.do(command))


def typed(window: Frame, text: str) -> list[Entry]:
    """A value with a part selected: what it may be of the part."""
    desk = window.desk
    part = next((one for one in desk.cell.parts if one.name in desk.picked.parts), None) if desk.cell else None
    symbol = desk.library.symbol(part) if part is not None and desk.library.knows(part) else None
    if not text or not isinstance(symbol, Symbol) or len(desk.picked.parts) != 1:
        return []
    found = []
    for one in symbol.fields:
        try:
            number = read(text, one.unit)
        except QuantityError:
            continue
        if one.kind == "number":
            change = lambda one=one: desk.change_part(part.with_value(one.name, text), one.name)  # noqa: E731
            found.append(
                Entry(f"{one.name} = {write(number, one.unit)}", "value", f"{part.name}, {one.meaning}", change)
            )
    return found


def _of_cell(desk: Desk) -> Iterator[Entry]:
    """Cells of the project, parts and pins of the shown one."""
    for name in desk.project.cells if desk.project else ():
        yield Entry(name, "cell", "show it", lambda name=name: desk.show_cell(name))
    if desk.cell is None:
        return
    for part in desk.cell.parts:
        if part.device != "ground":
            yield Entry(part.name, "part", part.device, lambda part=part: desk.select("part", part.name))
    for pin in desk.cell.pins:
        yield Entry(pin.name, "pin", f"{pin.kind} pin", lambda pin=pin: desk.select("pin", pin.name))


def _of_bench(window: Frame) -> Iterator[Entry]:
    """Analyses to add and to run, and readings that fit them."""
    desk, view = window.desk, window.side.view("bench")

    def shown(action: Callable[[], object]) -> None:
        window.side.show_view("bench")
        action()

    for one in ANALYSES.values():
        add = lambda one=one: shown(lambda: view.analyses.add_new(one.name))  # noqa: E731
        yield Entry(f"{one.name} analysis", "analysis", f"add: {one.meaning}", add)
    for name in desk.bench.analysis_names:
        yield Entry(f"run {name} alone", "analysis", "of this bench", lambda name=name: desk.run((name,)))
    for reading in view.readings.ready():
        take = lambda reading=reading: shown(lambda: view.readings.take(reading))  # noqa: E731
        yield Entry(reading.name, "reading", f"take: {reading.formula}", take)


def _to_study(desk: Desk) -> Iterator[Entry]:
    """Devices of the kit, and model cards of the project's decks; a deck that cannot be read has none here."""
    kit, study = desk.project.kit, desk.study
    for device in kit.devices.values() if kit else ():
        yield Entry(device.name, "study", device.meaning, lambda device=device: study.study_device(kit, device.name))
    for path in sorted((desk.project.folder / "decks").glob("*.cir")):
        try:
            cards = models_of(path).corner("").cards
        except HearthlineError:
            continue
        for name in cards:
            yield Entry(name, "model", f"of {path.name}", lambda path=path, name=name: study.study_card(path, name))
