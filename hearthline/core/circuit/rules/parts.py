"""Names used twice, things that are not known, values that cannot be read or that the kit does not allow, parts on top
of each other."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping

from hearthline.core.circuit.cell import Cell, Part
from hearthline.core.circuit.flatten import of_file
from hearthline.core.circuit.rules.finding import ERROR, WARNING, CheckedDrawing, Finding
from hearthline.core.circuit.symbols import GROUND_SYMBOL
from hearthline.core.elements import ELEMENTS
from hearthline.core.elements.kind import Symbol, ValueField
from hearthline.core.elements.wave import parse_wave
from hearthline.core.errors import CircuitError, HearthlineError
from hearthline.core.expression import parse_exact, parse_value

ABOVE_ZERO = ("w", "l", "nf", "m", "area", "c", "td", "z0", "ron", "roff", "vh")


def duplicate_names(drawing: CheckedDrawing) -> Iterator[Finding]:
    """A name used twice."""
    for things, what in ((drawing.cell.parts, "part"), (drawing.cell.pins, "pin")):
        found = defaultdict(list)
        for thing in things:
            for name in thing.instances if isinstance(thing, Part) else (thing.name,):
                found[name.lower()].append(thing)
        for same in found.values():
            if len(same) > 1:
                yield Finding(
                    "name used twice", ERROR, f"{same[0].name}: there are {len(same)} {what}s of this name; rename one",
                    same[1].name, "", tuple(one.at for one in same),
                )  # fmt: skip


def unknown(drawing: CheckedDrawing) -> Iterator[Finding]:
    """A device, part or cell that is not there."""
    for part in drawing.cell.parts:
        try:
            drawing.library.symbol(part)
        except CircuitError as error:
            yield Finding("unknown device", ERROR, str(error), part.name, "", (part.at,))


def recursion(drawing: CheckedDrawing) -> Iterator[Finding]:
    """A cell that contains itself."""
    for part in drawing.cell.parts:
        if part.device in drawing.library.cells and drawing.library.reaches(part.device, drawing.cell.name):
            message = f"{part.name}: {part.device} contains {drawing.cell.name} itself; take the block out"
            yield Finding("cell in itself", ERROR, message, part.name, "", (part.at,))


def overlaps(drawing: CheckedDrawing) -> Iterator[Finding]:
    """Two parts in one place."""
    found = defaultdict(list)
    for part in drawing.cell.parts:
        found[part.at].append(part)
    for same in found.values():
        if len(same) > 1:
            names = ", ".join(part.name for part in same)
            yield Finding(
                "parts overlap", WARNING, f"{names} lie on each other; move one", same[1].name, "", (same[0].at,)
            )


def values(drawing: CheckedDrawing) -> Iterator[Finding]:
    """Values that are missing, not understood, out of the kit's limits, or of names that nothing has."""
    parameters, wrong = _parameters(drawing)
    yield from wrong
    for part in drawing.cell.parts:
        if part.device != GROUND_SYMBOL and drawing.known(part):
            symbol = drawing.library.symbol(part)
            check = _of_block if isinstance(symbol, Cell) else _of_part
            for message in check(drawing, part, symbol, parameters):
                yield Finding("value", ERROR, f"{part.name}: {message}", part.name, "", (part.at,))


def _parameters(drawing: CheckedDrawing) -> tuple[dict[str, float], list[Finding]]:
    """What the parameters of the cell come to, and those that come to nothing."""
    found: dict[str, float] = dict(drawing.outer)
    wrong = []
    for name, text in drawing.cell.parameters.items():
        try:
            found[name] = float(parse_exact(text, "").value(found))
        except HearthlineError as error:
            wrong.append(Finding("value", ERROR, f"parameter {name} of {drawing.cell.name}: {error}"))
    return found, wrong


def numbers_of(cell: Cell, outer: Mapping[str, float]) -> dict[str, float]:
    """What the parameters of a cell come to, as far as they come to something."""
    found: dict[str, float] = dict(outer)
    for name, text in cell.parameters.items():
        try:
            found[name] = float(parse_exact(text, "").value(found))
        except HearthlineError:
            continue
    return found


def _of_block(drawing: CheckedDrawing, part: Part, cell: Cell, parameters: Mapping[str, float]) -> Iterator[str]:
    for name, text in part.values.items():
        if name not in cell.parameters:
            known = ", ".join(cell.parameters) or "none"
            yield f"{cell.name} has no parameter '{name}'; it has {known}"
        else:
            yield from _complaint(lambda text=text: parse_exact(text, "").value(parameters), name)


def _of_part(drawing: CheckedDrawing, part: Part, symbol: Symbol, parameters: Mapping[str, float]) -> Iterator[str]:
    known = {one.name: one for one in symbol.fields}
    for name in part.values:
        if name not in known:
            yield f"there is no value '{name}'; there are {', '.join(known)}"
    for one in symbol.fields:
        text = part.values.get(one.name, "").strip() or one.default
        if not text:
            if not one.optional:
                yield f"its {one.meaning} ({one.name}) is missing; select it and type one"
        elif one.kind == "wave":
            yield from _complaint(lambda text=text: parse_wave(text), one.name)
        elif one.kind == "file":
            yield from _complaint(lambda: of_file(part, symbol, drawing.library), one.name)
        elif one.kind == "parts":
            yield from _naming(drawing.cell, one, text, symbol)
        else:
            yield from _number(drawing, part, one, text, parameters)


def _complaint(action, name: str) -> Iterator[str]:
    try:
        action()
    except HearthlineError as error:
        yield f"{name}: {error}"


def _number(
    drawing: CheckedDrawing, part: Part, one: ValueField, text: str, parameters: Mapping[str, float]
) -> Iterator[str]:
    try:
        number = float(parse_value(text, one.unit).value(parameters))
    except HearthlineError as error:
        yield f"{one.name}: {error}"
        return
    if one.name in ABOVE_ZERO and number <= 0:
        yield f"{one.name} = {text} must be above 0"
    problem = drawing.size_error(part.device, one.name, number, one.unit)
    if problem:
        yield f"{one.name} = {text}: {problem}"


def _naming(cell: Cell, one: ValueField, text: str, symbol: Symbol) -> Iterator[str]:
    """Values that name other parts."""
    wanted = ELEMENTS[ELEMENTS[symbol.kind].couples or "V"].title
    known = {part.name.lower() for part in cell.parts if part.device == wanted}
    names = text.replace(",", " ").split()
    for name in names:
        if name.lower() not in known:
            there = ", ".join(sorted(part.name for part in cell.parts if part.device == wanted)) or "none"
            yield f"{one.name}: there is no {wanted} {name} in this cell; there is {there}"
    if ELEMENTS[symbol.kind].couples and len(names) < 2:
        yield "it takes two inductors or more to be coupled"
