"""Random valid objects for hypothesis."""

from __future__ import annotations

from dataclasses import dataclass

from hypothesis import strategies as st

from hearthline.core.circuit.cell import Cell, Label, Part, Pin
from hearthline.core.circuit.edit.draw import wired
from hearthline.core.circuit.edit.move import anchors
from hearthline.core.circuit.flatten import Library
from hearthline.core.circuit.netlist import GROUND, Element, Netlist
from hearthline.core.circuit.nets import islands
from hearthline.core.expression import Expression


@dataclass(frozen=True)
class LinearPart:
    """A resistor, source or controlled source with a plain number."""

    kind: str
    nets: tuple[str, ...]
    value: float
    control: str = ""


VALUE_NAMES = {"R": "r", "V": "dc", "I": "dc", "E": "gain", "G": "gm", "F": "gain", "H": "gain"}
sane = st.floats(0.1, 10.0)
signed = st.one_of(sane, sane.map(lambda value: -value))


@st.composite
def linear_circuits(draw) -> list[LinearPart]:
    """A chain of resistors to ground that fixes every net, and random parts on top.

    Gains are kept small, so that no random feedback makes the system singular.
    """
    count = draw(st.integers(2, 7))
    nets = [GROUND, *(f"n{k}" for k in range(1, count + 1))]
    parts = [LinearPart("R", (nets[k], nets[k - 1]), draw(sane)) for k in range(1, count + 1)]
    parts.append(LinearPart("V", ("src", GROUND), draw(signed)))
    parts.append(LinearPart("R", ("src", nets[-1]), draw(sane)))
    some_net = st.sampled_from(nets)
    for _ in range(draw(st.integers(0, 5))):
        a, b = draw(some_net), draw(some_net)
        kind = draw(st.sampled_from("RIGF"))
        if kind == "R" and a == b:
            continue
        if kind == "G":
            parts.append(LinearPart("G", (a, b, draw(some_net), draw(some_net)), draw(signed) * 0.005))
        elif kind == "F":
            parts.append(LinearPart("F", (a, b), draw(signed) * 0.01, "source"))
        else:
            parts.append(LinearPart(kind, (a, b), draw(sane if kind == "R" else signed)))
    if draw(st.booleans()):
        parts.append(LinearPart("E", ("amp", GROUND, draw(some_net), draw(some_net)), draw(signed) * 0.01))
        parts.append(LinearPart("R", ("amp", draw(some_net)), draw(sane)))
    if draw(st.booleans()):
        parts.append(LinearPart("H", ("trans", GROUND), draw(signed) * 0.01, "source"))
        parts.append(LinearPart("R", ("trans", draw(some_net)), draw(sane)))
    return parts


def netlist_of(parts: list[LinearPart]) -> Netlist:
    """The same as a netlist; F and H are controlled by the first voltage source."""
    source = next(f"p{k}" for k, part in enumerate(parts) if part.kind == "V")
    elements = tuple(
        Element(
            f"p{k}", part.kind, part.nets, {VALUE_NAMES[part.kind]: Expression.constant(part.value)},
            control=source if part.control else "",
        )
        for k, part in enumerate(parts)
    )  # fmt: skip
    return Netlist(elements)


LIBRARY = Library({}, {"n_rvt": "NMOS", "p_rvt": "PMOS"})
PITCH = 12


@st.composite
def drawings(draw) -> Cell:
    """Parts on a lattice, turned and flipped at will, with wires between some of their terminals that touch no others."""
    count = draw(st.integers(2, 6))
    places = draw(
        st.lists(st.tuples(st.integers(0, 3), st.integers(0, 2)), min_size=count, max_size=count, unique=True)
    )
    parts = tuple(
        Part(
            f"X{k}", draw(st.sampled_from(("n_rvt", "resistor", "voltage-controlled voltage", "ground"))),
            (PITCH * x, PITCH * y), draw(st.integers(0, 3)), draw(st.booleans()),
        )
        for k, (x, y) in enumerate(places)
    )  # fmt: skip
    pins = (Pin("in", "input", (-PITCH, 0)), Pin("out", "output", (4 * PITCH, PITCH)))
    cell = Cell("drawn", pins, parts, labels=(Label("mid", (PITCH // 2, PITCH // 2)),))
    ends = sorted(anchors(cell, LIBRARY).values())
    for _ in range(draw(st.integers(0, 6))):
        a, b = draw(st.sampled_from(ends)), draw(st.sampled_from(ends))
        if a != b:
            cell = wired(cell, a, b, LIBRARY)
    return cell


def partition(cell: Cell, library: Library = LIBRARY) -> set[frozenset]:
    """What is joined on a drawing: sets of anchors."""
    joined = islands(cell, {part.name: library.terminals(part) for part in cell.parts})
    groups: dict = {}
    for key, place in anchors(cell, library).items():
        name = f"label {cell.labels[int(key[1])].net}" if key[0] == "label" else key
        groups.setdefault(joined.root(place), set()).add(name)
    return {frozenset(group) for group in groups.values()}
