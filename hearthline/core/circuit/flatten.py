"""From a drawn cell, with the cells inside it, to a flat netlist with stable names (`x1.m3`, net `x1.tail`)."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace

from hearthline.core import limits
from hearthline.core.circuit.body import terminals_of_block
from hearthline.core.circuit.cell import Cell, Part
from hearthline.core.circuit.netlist import GROUND, Element, InDevice, Netlist, Place, Scope, Template
from hearthline.core.circuit.nets import Connections, connect
from hearthline.core.circuit.symbols import GROUND_SYMBOL, SYMBOLS, symbol_of_module
from hearthline.core.elements import n_port
from hearthline.core.elements.device import DeviceKind
from hearthline.core.elements.kind import Point, Symbol
from hearthline.core.elements.wave import Wave, direct_value, parse_wave
from hearthline.core.errors import CircuitError, HearthlineError
from hearthline.core.expression import Expression, parse_exact, parse_value
from hearthline.core.models.library import library_module, library_names
from hearthline.core.models.module import Module
from hearthline.core.nports.model import Model


@dataclass(frozen=True)
class Library:
    """What a part may be: a cell of the project, or a device of the kit by the name of its symbol."""

    cells: Mapping[str, Cell]
    devices: Mapping[str, str]
    templates: Mapping[str, Template] = field(default_factory=dict)
    modules: Mapping[str, Module] = field(default_factory=dict)
    networks: Mapping[str, Model] = field(default_factory=dict)

    def network(self, part: Part) -> Model:
        """What the file of a part holds. Raises CircuitError where there is no such file, FileError for what is wrong in it."""
        name = part.values.get("file", "").strip()
        if name not in self.networks:
            known = ", ".join(self.networks) or "none; put it into the project's folder `devices`"
            raise CircuitError(f"{part.name}: there is no file '{name}'; there is {known}", part=part.name)
        return self.networks[name]

    def symbol(self, part: Part) -> Symbol | Cell | None:
        """The symbol of a primitive, the cell of a block, None for ground; CircuitError for something unknown."""
        if part.device == GROUND_SYMBOL:
            return None
        if part.device in self.cells:
            return self.cells[part.device]
        name = self.devices.get(part.device, part.device)
        if name.lower() in self.modules:
            return symbol_of_module(self.modules[name.lower()])
        if name not in SYMBOLS and name in library_names():
            return symbol_of_module(library_module(name))
        if name not in SYMBOLS:
            known = sorted([*self.cells, *self.devices, *self.modules])
            raise CircuitError(
                f"{part.name}: there is no device, part or cell '{part.device}'; the kit and the project have "
                f"{', '.join(known)}",
                part=part.name,
            )
        return SYMBOLS[name]

    def knows(self, part: Part) -> bool:
        """Whether there is such a device, part or cell."""
        try:
            self.symbol(part)
        except CircuitError:
            return False
        return True

    def reaches(self, name: str, wanted: str) -> bool:
        """Whether the cell of that name is `wanted`, or holds a block of it at whatever depth."""
        seen, todo = set(), [name]
        while todo:
            here = todo.pop()
            if here == wanted:
                return True
            if here not in seen and here in self.cells:
                seen.add(here)
                todo += [part.device for part in self.cells[here].parts if part.device in self.cells]
        return False

    def terminals(self, part: Part) -> tuple[tuple[str, Point], ...]:
        """Names and offsets of the terminals of `part`."""
        symbol = self.symbol(part)
        if symbol is None:
            return (("0", (0, 0)),)
        return terminals_of_block(symbol) if isinstance(symbol, Cell) else symbol.terminals

    def connections(self, cell: Cell) -> Connections:
        """The nets of `cell` as drawn. Raises CircuitError where it contradicts itself or has unknown parts."""
        return connect(cell, {part.name: self.terminals(part) for part in cell.parts})

    def nets(self, cell: Cell) -> Connections | None:
        """The same, None in the place of an error."""
        try:
            return self.connections(cell)
        except CircuitError:
            return None


CUT = "@"
"""The net of a terminal that is cut off from its own."""


def flatten(cell: Cell, library: Library, root: Scope | None = None, cut: tuple[str, str] = ("", "")) -> Netlist:
    """The elements of `cell` and of all blocks inside it. Parameters of `root` stand before those of `cell` of the same name.
    A terminal of a part, `cut`, is on the net `CUT` instead of its own.

    Raises CircuitError naming the part for an unknown device, a missing or unreadable value, a name used twice, or a
    cell that contains itself.
    """
    _check_size(cell, library)
    root = root or Scope()
    scope = Scope(root, {name: value for name, value in _definitions(cell).items() if name not in root.defined})
    return Netlist(tuple(_elements(cell, library, scope, "", {}, (), cut)), root)


def _check_size(top: Cell, library: Library) -> None:
    """Raises CircuitError at the first part that makes the circuit too large, before any of it is made."""
    known: dict[str, int] = {}

    def size(cell: Cell, inside: tuple[str, ...]) -> int:
        if cell.name not in known:
            total = 0
            for part in cell.parts:
                copies = len(part.instances)
                if copies > limits.COPIES:
                    raise CircuitError(
                        f"{part.name}: at most {limits.COPIES} of a part may stand in a row", part=part.name
                    )
                inner = library.cells.get(part.device)
                leaf = inner is None or inner.name in inside or len(inside) > limits.DEPTH
                total += copies * (1 if leaf else size(inner, (*inside, inner.name)))
                if total > limits.PARTS:
                    raise CircuitError(
                        f"{part.name}: the circuit has more than {limits.PARTS} parts with what its blocks hold",
                        part=part.name,
                    )
            known[cell.name] = total
        return known[cell.name]

    size(top, (top.name,))


def _definitions(cell: Cell) -> dict[str, Expression]:
    return {
        name: _attempt(f"parameter {name} of {cell.name}", lambda text=text: parse_exact(text, ""))
        for name, text in cell.parameters.items()
    }


def _elements(
    cell: Cell, library: Library, scope: Scope, prefix: str, outside: dict[str, str], path: tuple[str, ...],
    cut: tuple[str, str],
):  # fmt: skip
    if cell.name in path:
        raise CircuitError(
            f"cell {cell.name} contains itself ({' > '.join([*path, cell.name])}); remove one of the blocks"
        )
    if len(path) > limits.DEPTH:
        raise CircuitError(f"blocks stand more than {limits.DEPTH} deep in each other, at {cell.name}")
    _refuse_twins(cell)
    connections = library.connections(cell)

    def net_of(part: Part, terminal: str) -> str:
        if cut == (prefix + part.name.lower(), terminal.lower()):
            return CUT
        net = connections.terminals[part.name, terminal].lower()
        return net if net == GROUND else outside.get(net, prefix + net)

    for part in cell.parts:
        symbol = library.symbol(part)
        if isinstance(symbol, Cell):
            yield from _block(part, symbol, library, scope, prefix, net_of, (*path, cell.name), cut)
        elif symbol is not None:
            element = _element(cell, part, symbol, prefix, scope, net_of)
            if symbol.kind == n_port.LETTER:
                element = replace(element, device=of_file(part, symbol, library))
            template = library.templates.get(part.device)
            for instance in part.instances:
                one = element if instance == part.name else replace(element, name=prefix + instance.lower())
                yield from parts_of_device(template, one) if template else (one,)


def of_file(part: Part, symbol: Symbol, library: Library) -> DeviceKind:
    """The equations of a part that a file is. Raises CircuitError for a file of another number of ports."""
    model, ports = library.network(part), len(symbol.terminals) - 1
    if model.network.ports != ports:
        there = model.network.ports
        better = f"; place a {n_port.form_name(there)}" if there <= n_port.DRAWN else ""
        raise CircuitError(
            f"{part.name}: {model.name} has {there} port{'s' * (there != 1)}, and this part {ports}{better}",
            part=part.name,
        )
    return n_port.kind_of(model)


def _block(
    part: Part, inside: Cell, library: Library, scope: Scope, prefix: str, net_of, path: tuple[str, ...], cut: tuple[str, str]
):  # fmt: skip
    """The elements of a block; those of an array of blocks stand in parallel."""
    shown = {name for name, _ in library.terminals(part)}
    nets = {pin.name.lower(): net_of(part, pin.name) for pin in inside.pins if pin.name in shown}
    given = {name: _attempt(part.name, lambda text=text: parse_exact(text, "")) for name, text in part.values.items()}
    for name in given:
        if name not in inside.parameters:
            known = ", ".join(inside.parameters) or "none"
            raise CircuitError(f"{part.name}: {inside.name} has no parameter '{name}'; it has {known}", part=part.name)
    inner = Scope(scope, _definitions(inside), given)
    for instance in part.instances:
        yield from _elements(inside, library, inner, f"{prefix}{instance.lower()}.", nets, path, cut)


def parts_of_device(template: Template, device: Element) -> Iterator[Element]:
    """The parts of a device that is a small circuit, under its name and between its nets."""
    given = {name: value for name, value in device.values.items() if value is not None and name in template.inputs}
    inside = InDevice(device.name, template.name, template.process)
    scope = Scope(device.scope, {**template.inputs, **template.defined}, given, inside)
    nets = dict(zip(template.nodes, device.nets, strict=True))
    for part in template.elements:
        ends = tuple(net if net == GROUND else nets.get(net, f"{device.name}.{net}") for net in part.nets)
        control = f"{device.name}.{part.control}" if part.control else ""
        name = f"{device.name}.{part.name}"
        yield replace(part, name=name, nets=ends, scope=scope, control=control, place=device.place)


def _element(cell: Cell, part: Part, symbol: Symbol, prefix: str, scope: Scope, net_of) -> Element:
    values, wave, control = _values(part, symbol, prefix)
    if wave is not None and "dc" not in part.values:
        values["dc"] = direct_value(wave)
    return Element(
        name=prefix + part.name.lower(),
        kind=symbol.kind,
        nets=tuple(net_of(part, terminal) for terminal, _ in symbol.terminals),
        values=values,
        model=part.device.lower() if symbol.takes_model else "",
        scope=scope,
        place=Place(file=cell.name, part=part.name),
        control=control,
        wave=wave,
    )


def _values(part: Part, symbol: Symbol, prefix: str) -> tuple[dict[str, Expression], Wave | None, str]:
    """The numbers of a part, its waveform, and the parts that control it."""
    known = {one.name: one for one in symbol.fields}
    for name in part.values:
        if name not in known:
            raise CircuitError(f"{part.name} has no value '{name}'; it takes {', '.join(known)}", part=part.name)
    values, wave, control = {}, None, ""
    for one in symbol.fields:
        text = part.values.get(one.name, "").strip() or one.default
        if not text:
            if one.optional:
                continue
            raise CircuitError(f"{part.name} needs its {one.meaning} ({one.name})", part=part.name)
        if one.kind == "wave":
            wave = _attempt(part.name, lambda text=text: parse_wave(text))
        elif one.kind == "file":
            continue
        elif one.kind == "parts":
            control = " ".join(prefix + name.lower() for name in text.replace(",", " ").split())
        else:
            values[one.name] = _value(part.name, text, one.unit)
    return values, wave, control


def _value(owner: str, text: str, unit: str) -> Expression:
    return _attempt(owner, lambda: parse_value(text, unit))


def _attempt(owner: str, action: Callable):
    try:
        return action()
    except HearthlineError as error:
        raise CircuitError(f"{owner}: {error}", part=owner) from None


def _refuse_twins(cell: Cell) -> None:
    seen: set[str] = set()
    for part in cell.parts:
        for instance in part.instances:
            if instance.lower() in seen:
                raise CircuitError(
                    f"{part.name}: this name is used twice in {cell.name}; rename one of them", part=part.name
                )
            seen.add(instance.lower())
