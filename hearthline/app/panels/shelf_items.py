"""What stands on the shelf, as rows: the kit by families, cells with their benches, benches with their runs."""

from __future__ import annotations

from collections.abc import Callable, Container, Iterator
from dataclasses import dataclass, field
from pathlib import Path

from hearthline.app.state.desk import Desk
from hearthline.app.state.logbook import LogEntry
from hearthline.app.state.memory import Memory
from hearthline.app.theme.marks import WARMTH
from hearthline.core.bench.bench import Bench
from hearthline.core.bench.verdict import State
from hearthline.core.circuit.cell import Cell
from hearthline.core.circuit.rules.finding import ERROR
from hearthline.core.formats.project_folder import DEVICES, Project
from hearthline.core.process.kit import ProcessKit

Action = Callable[[], None]

FAMILIES = {
    "NMOS": "MOS", "PMOS": "MOS", "NPN": "bipolars", "PNP": "bipolars", "NJF": "junction transistors",
    "PJF": "junction transistors", "D": "diodes", "strip resistor": "passives", "plate capacitor": "passives",
    "resistor": "passives", "capacitor": "passives", "spiral": "RF", "pad": "RF", "bond wire": "RF", "inductor": "RF",
    "varactor": "RF",
}  # fmt: skip
"""Of a kit's devices, by their symbols."""

RUNS_SHOWN = 8
ORDER = "order of the shelf"
"""What it is remembered by."""


@dataclass(frozen=True)
class Item:
    """One row: its text, how deep it stands, what stands at the right, a mark, whether it is the current one, what a click
    does, and what its menu offers. `tiny` rows carry a time first; what `stays` changes
    the shelf and nothing else."""

    text: str
    depth: int = 0
    side: str = ""
    state: State | None = None
    current: bool = False
    pressed: Action | None = field(default=None, compare=False)
    tip: str = ""
    tiny: bool = False
    menu: tuple[tuple[str, Action], ...] = field(default=(), compare=False)
    heading: bool = False
    stays: bool = False


@dataclass(frozen=True)
class Doings:
    """What menus of rows do."""

    rename_cell: Action
    delete_cell: Action
    copy_cell: Action
    rename_bench: Action
    copy_bench: Action
    delete_bench: Action
    reveal: Callable[[Path], None]


def subject_of(bench: Bench, project: Project, drawn: Container[str]) -> str:
    """The cell that a bench stands under: its own, or the first block of a cell that is drawn for the bench alone; "" over a
    deck."""
    if bench.cell in drawn:
        blocks = [part.device for part in project.cells[bench.cell].parts if part.device in project.cells]
        named = [name for name in blocks if bench.cell.startswith(name)]
        return next(iter([*named, *blocks]), bench.cell)
    return bench.cell


def drawn_for_benches(project: Project) -> set[str]:
    """Cells without pins that are nobody's block, while a bench is about them."""
    blocks = {part.device for cell in project.cells.values() for part in cell.parts}
    cells = [
        project.cells[name] for name in {bench.cell for bench in project.benches.values()} if name in project.cells
    ]
    return {
        cell.name
        for cell in cells
        if not cell.pins and cell.name not in blocks and any(part.device in project.cells for part in cell.parts)
    }


class ShelfItems:
    """Rows of the open project; `folded` are the names of groups that are put together."""

    def __init__(self, desk: Desk, doings: Doings, memory: Memory) -> None:
        self.desk, self.doings, self.memory = desk, doings, memory
        self.folded = {"kit"}

    def sections(self) -> list[tuple[str, list[Item]]]:
        """Sections with their rows."""
        project = self.desk.project
        if project is None:
            return []
        found = [("Process kit", list(self._kit(project.kit)))]
        if project.texts:
            found.append(("Device texts", list(self._texts())))
        found.append(("Cells and their benches", list(self._cells(project))))
        over_decks = [key for key, bench in project.benches.items() if not bench.cell]
        if over_decks:
            found.append(("Benches over decks", [one for key in over_decks for one in self._bench(project, key, 0)]))
        if project.problems:
            found.append((f"Problems ({len(project.problems)})", list(self._problems())))
        return found

    def fold(self, name: str) -> None:
        """Puts a group together, or opens it."""
        self.folded ^= {name}

    # -- the kit

    def _kit(self, kit: ProcessKit | None) -> Iterator[Item]:
        if kit is None:
            yield Item("missing", tip="the kit of this project could not be read", state=State.FAILS)
            return
        folded = "kit" in self.folded
        tip = f"{kit.title}: {', '.join(kit.models.names)}. A click folds its devices away, or shows them."
        yield Item(
            kit.name,
            0,
            f"{len(kit.devices)} devices {'▸' if folded else '▾'}",
            tip=tip,
            pressed=lambda: self.fold("kit"),
            stays=True,
        )
        if folded:
            return
        studied = self.desk.study.subject.name if self.desk.device_shown and self.desk.study.subject else ""
        families: dict[str, list] = {}
        for device in kit.devices.values():
            families.setdefault(FAMILIES.get(device.symbol, "others"), []).append(device)
        for family, devices in families.items():
            yield Item(family, 1, heading=True)
            for one in devices:
                study = lambda name=one.name: self.desk.study.study_device(kit, name)  # noqa: E731
                yield Item(one.name, 1, one.meaning, None, one.name == studied, study, f"{one.name}: {one.meaning}")

    def _texts(self) -> Iterator[Item]:
        """The project's own Verilog-A texts."""
        study, folder = self.desk.study, self.desk.project.folder / DEVICES
        shown = study.path.name if self.desk.device_shown and study.path else ""
        for name in self.desk.project.texts:
            show = lambda name=name: study.text_wanted.emit(folder / name)  # noqa: E731
            menu = (("Reveal the file", lambda name=name: self.doings.reveal(folder / name)),)
            yield Item(name, 0, "", None, name == shown, show, f"{DEVICES}/{name}", menu=menu)

    # -- cells

    def _cells(self, project: Project) -> Iterator[Item]:
        changed = {document.name for document in self.desk.documents.unsaved}
        drawn = drawn_for_benches(project)
        benches: dict[str, list[str]] = {}
        for key, bench in project.benches.items():
            benches.setdefault(subject_of(bench, project, drawn), []).append(key)
        for name in self.order(project):
            cell = project.cells[name]
            if name not in drawn or name in benches:
                yield self._cell(cell, changed, benches.get(name, []))
                for key in benches.get(name, ()):
                    yield from self._bench(project, key, 1)

    def order(self, project: Project) -> list[str]:
        """Cells as a person put them, new ones behind."""
        kept = [name for name in self.memory.get(ORDER, [], project.folder) if name in project.cells]
        return [*dict.fromkeys(kept), *(name for name in project.cells if name not in kept)]

    def move(self, name: str, step: int) -> None:
        """A cell with its benches one up or down, past what is not shown by itself."""
        project = self.desk.project
        names = self.order(project)
        drawn = drawn_for_benches(project)
        shown = [one for one in names if one not in drawn]
        if name not in shown or not 0 <= shown.index(name) + step < len(shown):
            return
        other = shown[shown.index(name) + step]
        a, b = names.index(name), names.index(other)
        names[a], names[b] = names[b], names[a]
        self.memory.put(ORDER, names, project.folder)

    def _cell(self, cell: Cell, changed: set[str], benches: list[str]) -> Item:
        """With what is rolled up from its benches: changes, the verdict of the one on the desk, trouble on the drawing."""
        here = self.desk.cell.name if self.desk.cell and not self.desk.device_shown else ""
        side = "changed" if {cell.name, *benches} & changed else ""
        state = self._verdict if self.desk.bench_key in benches else None
        if here == cell.name and any(one.weight == ERROR for one in self.desk.findings):
            state = State.FAILS
        folder = self.desk.project.folder / "cells"

        def with_it(action: Action) -> Action:
            def act() -> None:
                if not (self.desk.cell and self.desk.cell.name == cell.name):
                    self.desk.show_cell(cell.name)
                action()

            return act

        menu = (
            ("Rename the cell", with_it(self.doings.rename_cell)), ("Copy the cell", with_it(self.doings.copy_cell)),
            ("Delete the cell", with_it(self.doings.delete_cell)),
            ("Up on the shelf", lambda: self.move(cell.name, -1)), ("Down on the shelf", lambda: self.move(cell.name, 1)),
            ("Reveal the file", lambda: self.doings.reveal(folder / f"{cell.name}.toml")),
        )  # fmt: skip
        return Item(
            cell.name, 0, side, state, cell.name == here, lambda: self._show_cell(cell.name), cell.note, menu=menu
        )

    def _show_cell(self, name: str) -> None:
        if self.desk.cell and self.desk.cell.name == name:
            self.desk.study.left.emit()
        else:
            self.desk.show_cell(name)

    # -- benches

    @property
    def _verdict(self) -> State | None:
        """The worst of the bench on the desk."""
        states = [verdict.state for verdict in self.desk.results.verdicts.values()]
        return max(states, key=WARMTH.get, default=None)

    def _bench(self, project: Project, key: str, depth: int) -> Iterator[Item]:
        desk, bench = self.desk, project.benches[key]
        here = key == desk.bench_key and not desk.device_shown
        worst = self._verdict if key == desk.bench_key else None
        changed = any(document.name == bench.key for document in desk.documents.unsaved)

        def with_it(action: Action) -> Action:
            def act() -> None:
                if desk.bench_key != key:
                    desk.show_bench(key)
                action()

            return act

        menu = (
            ("Rename the bench", with_it(self.doings.rename_bench)), ("Copy the bench", with_it(self.doings.copy_bench)),
            ("Delete the bench", with_it(self.doings.delete_bench)),
            ("Reveal the file", lambda: self.doings.reveal(project.folder / "benches" / f"{key}.toml")),
        )  # fmt: skip
        tip = bench.note or bench.title
        yield Item(bench.name if depth else bench.title, depth, "changed" if changed else "", worst, here,
                   lambda: desk.show_bench(key), tip, menu=menu)  # fmt: skip
        if key == desk.bench_key:
            yield from self._runs(depth + 1)

    def _runs(self, depth: int) -> Iterator[Item]:
        results = self.desk.results
        entries = [entry for entry in results.entries if entry.bench == self.desk.bench_key]
        for entry in entries[:RUNS_SHOWN]:
            shown = results.shown is not None and results.shown.path == entry.path
            show = lambda path=entry.path: results.show_run(path)  # noqa: E731
            menu = (("Reveal the file", lambda path=entry.path: self.doings.reveal(path)),)
            yield Item(entry.change, depth, f"{entry.made:%H:%M}", None, shown, show, _when(entry), True, menu)

    def _problems(self) -> Iterator[Item]:
        for error in self.desk.project.problems:
            show = lambda error=error: self.desk.tell(error)  # noqa: E731
            yield Item(getattr(error, "file", "") or str(error), state=State.FAILS, tip=str(error), pressed=show)


def matching(sections: list[tuple[str, list[Item]]], words: str) -> list[tuple[str, list[Item]]]:
    """Rows that hold all words, with what they stand under."""
    wanted = words.lower().split()
    if not wanted:
        return sections
    found = []
    for name, items in sections:
        kept: dict[int, Item] = {}
        above: list[tuple[int, Item]] = []
        for k, item in enumerate(items):
            above = [(j, one) for j, one in above if one.depth < item.depth]
            if all(word in f"{item.text} {item.side} {item.tip}".lower() for word in wanted):
                kept |= dict(above)
                kept[k] = item
            above.append((k, item))
        if kept:
            found.append((name, [kept[k] for k in sorted(kept)]))
    return found


def _when(entry: LogEntry) -> str:
    """Date and all that changed, for the tip."""
    return f"{entry.made:%d %B %Y, %H:%M:%S}\n" + "\n".join(entry.words[:12])
