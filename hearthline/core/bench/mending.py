"""A circuit with the changes that a mend proposes: values, tolerances and sizes as they would be typed."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from hearthline.core.bench.bench import Bench
from hearthline.core.bench.samples import ToleranceLine
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.circuit.cell import Cell, Part
from hearthline.core.errors import CircuitError, HearthlineError
from hearthline.core.expression import parse_value
from hearthline.core.quantity import field_text
from hearthline.core.spread.mend import Change
from hearthline.core.spread.ranking import Guilt
from hearthline.core.spread.variables import MISMATCH, PROCESS, TOLERANCE, Variable
from hearthline.core.tolerance import Tolerance, split

SIZES = ("w", "l")
"""What an area is made of."""
DIGITS = 4


@dataclass(frozen=True)
class Edit:
    """One value of a part of a cell as it would be typed, and as it was."""

    cell: str
    part: str
    value: str
    old: str
    new: str


def edits_of(snapshot: Snapshot, variables: Mapping[str, Variable], changes: Sequence[Change]) -> list[Edit]:
    """What would be typed on the drawings, each value once. Raises CircuitError where a change cannot be typed there."""
    found = [edit for one in changes for edit in _edits(snapshot, variables[one.variable], one)]
    return list({(edit.cell, edit.part, edit.value): edit for edit in found}.values())


def groups_of(
    snapshot: Snapshot, variables: Sequence[Variable], ranking: Sequence[Guilt], most: int = 6
) -> list[tuple[str, ...]]:
    """What a mend may change, the guiltiest first: only guilty parts where any is, and nothing of the process. A group is what
    one change moves: the same value in every copy of a cell, and devices of one size, which are meant to be alike."""
    guilty = [one for one in ranking if one.guilty and not one.part.startswith(f"{PROCESS}.")]
    chosen = guilty or [one for one in ranking if not one.part.startswith(f"{PROCESS}.")][:most]
    found = [group_of(snapshot, variables, one.variables[0]) for one in chosen]
    return list(dict.fromkeys(found))


def group_of(snapshot: Snapshot, variables: Sequence[Variable], name: str) -> tuple[str, ...]:
    """The variables that change together with one, in their order."""
    wanted = next(one for one in variables if one.name == name)
    try:
        cell, part = part_at(snapshot, wanted.part)
    except CircuitError:
        return (name,)
    alike = {part.name} if wanted.kind == TOLERANCE else _twins(cell, part)
    found = []
    for one in variables:
        if one.kind != wanted.kind or (one.kind == TOLERANCE and one.parameter != wanted.parameter):
            continue
        try:
            where, there = part_at(snapshot, one.part)
        except CircuitError:
            continue
        if where.name == cell.name and there.name in alike:
            found.append(one.name)
    return tuple(found)


def _twins(cell: Cell, part: Part) -> set[str]:
    """Devices of the same kind and size in one cell."""

    def size(one: Part) -> tuple:
        return one.device, *(split(one.values.get(name, ""))[0] for name in (*SIZES, "m"))

    return {one.name for one in cell.parts if size(one) == size(part)}


def _edits(snapshot: Snapshot, variable: Variable, change: Change) -> Iterator[Edit]:
    cell, part = part_at(snapshot, variable.part)
    if variable.kind == TOLERANCE:
        old = part.values.get(variable.parameter, "")
        law = split(old)[1] or variable.tolerance or Tolerance()
        own = next((one for one in snapshot.bench.tolerances if _is_of(one, variable)), None)
        new = number_times(old, change.nominal)
        if own is None:
            new = f"{new} {_narrowed(law, change.spread).text}"
        if new != old:
            yield Edit(cell.name, part.name, variable.parameter, old, new)
        return
    if variable.kind != MISMATCH:
        raise CircuitError(f"{variable.name} is the process's, and no value of the drawing")
    for name in SIZES:  # both, so that their ratio stays, and with it what the device does
        old = part.values.get(name, "")
        if not old:
            raise CircuitError(f"{part.name} has no {name} that could be larger", part=part.name)
        yield Edit(cell.name, part.name, name, old, number_times(old, 1.0 / change.spread))


def part_at(snapshot: Snapshot, flat: str) -> tuple[Cell, Part]:
    """The part of a cell that a flat name means. Raises CircuitError where the bench is over a deck, or there is none."""
    if snapshot.written is not None:
        raise CircuitError("a deck is changed in its own file")
    cell, names = snapshot.cell, flat.split(".")
    for depth, name in enumerate(names):
        part = next((one for one in cell.parts if name in (other.lower() for other in one.instances)), None)
        if part is None:
            break
        if depth == len(names) - 1:
            return cell, part
        if part.device not in snapshot.cells:
            return cell, part
        cell = snapshot.cells[part.device]
    raise CircuitError(f"there is no part '{flat}' on the drawing", part=flat)


def _is_of(line: ToleranceLine, variable: Variable) -> bool:
    return line.part.lower() == variable.part and line.of.lower() in ("", variable.parameter)


def number_times(text: str, factor: float) -> str:
    """A value as it is typed, without its tolerance, by a factor."""
    plain = split(text)[0].strip()
    if factor == 1.0:
        return plain
    try:
        number = parse_value(plain, "").tree
    except HearthlineError:
        number = None
    if isinstance(number, float):
        return field_text(float(f"{number * factor:.{DIGITS}g}"))
    return f"{factor:.{DIGITS}g}*({plain})"


def _narrowed(law: Tolerance, factor: float) -> Tolerance:
    within = law.within if law.within == float("inf") else float(f"{law.within * factor:.3g}")
    return Tolerance(within, float(f"{law.sigma * factor:.3g}"))


def mended(snapshot: Snapshot, variables: Mapping[str, Variable], changes: Sequence[Change]) -> Snapshot:
    """The same with the changes made, on its drawings and in the tolerances of its bench. Raises CircuitError."""
    cells = dict(snapshot.cells)
    for edit in edits_of(snapshot, variables, changes):
        cells[edit.cell] = edited(cells[edit.cell], edit)
    return Snapshot(mended_bench(snapshot.bench, variables, changes), cells, snapshot.kit)


def edited(cell: Cell, edit: Edit) -> Cell:
    """A cell with one edit made."""
    part = next(one for one in cell.parts if one.name == edit.part)
    return cell.with_part(replace(part, values={**part.values, edit.value: edit.new}))


def mended_bench(bench: Bench, variables: Mapping[str, Variable], changes: Sequence[Change]) -> Bench:
    """The bench with its own tolerances changed."""
    lines = list(bench.tolerances)
    for change in changes:
        variable = variables[change.variable]
        for k, line in enumerate(lines):
            if variable.kind == TOLERANCE and _is_of(line, variable):
                law = _narrowed(variable.tolerance or Tolerance(), change.spread)
                within = "" if law.within == float("inf") else f"{100 * law.within:.6g}%"
                lines[k] = replace(line, within=within, sigma=f"{100 * law.sigma:.6g}%" if law.sigma else "")
    return replace(bench, tolerances=tuple(lines))
