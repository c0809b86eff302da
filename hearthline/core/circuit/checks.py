"""What makes a flat circuit unsolvable, found before any equation is: no ground, a net with no DC path, voltage loops."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterable, Iterator, Mapping

from hearthline.core.circuit.netlist import GROUND, Element, Netlist
from hearthline.core.circuit.sets import DisjointSets
from hearthline.core.elements import ELEMENTS
from hearthline.core.elements.kind import ALONG
from hearthline.core.errors import CircuitError

Paths = Callable[[Element], tuple[tuple[int, int], ...]]


def plain_paths(element: Element) -> tuple[tuple[int, int], ...]:
    """Pairs of terminals between which a direct current flows in an elementary part."""
    if element.device is not None:
        return element.device.conducts
    return ALONG if reacts_on_itself(element) else ELEMENTS[element.kind].conducts


def reacts_on_itself(element: Element) -> bool:
    """Whether it is a current source that depends on the voltage of one of its own nets, and so conducts."""
    return ELEMENTS[element.kind].by_voltage and bool({*element.nets[:2]} & {*element.nets[2:]} - {GROUND})


def check(netlist: Netlist, paths: Paths = plain_paths) -> None:
    """Raises CircuitError at the first thing that makes `netlist` unsolvable, naming net, part and place.

    `paths` tells between which terminals of an element a direct current flows.
    """
    for problem in problems(netlist, paths):
        raise problem


def problems(netlist: Netlist, paths: Paths = plain_paths, held: Iterable[str] = ()) -> Iterator[CircuitError]:
    """Everything that makes `netlist` unsolvable. `held` are nets that something outside it sets."""
    if not netlist.elements:
        yield CircuitError("the circuit is empty; place a part or write one in the deck")
        return
    held = tuple(held)
    if not held and not any(GROUND in element.nets for element in netlist.elements):
        yield _error(netlist.elements[0], "no part is connected to ground; connect one net to ground (node 0)", "")
    yield from _missing_paths(netlist, paths, held)
    yield from _voltage_loops(netlist)


def _missing_paths(netlist: Netlist, paths: Paths, held: tuple[str, ...]) -> Iterator[CircuitError]:
    sets = DisjointSets()
    for net in held:
        sets.join(GROUND, net)
    for element in netlist.elements:
        for a, b in paths(element):
            sets.join(element.nets[a], element.nets[b])
    told = set()
    for net in netlist.nets:
        root = sets.root(net)
        if not sets.joined(net, GROUND) and root not in told:
            told.add(root)
            yield _no_path(netlist, [other for other in netlist.nets if sets.joined(other, net)])


def _no_path(netlist: Netlist, island: list[str]) -> CircuitError:
    touching = [e for e in netlist.elements if set(e.nets) & set(island)]
    named = ", ".join(element.name for element in touching[:4])
    what = f"net {island[0]} has" if len(island) == 1 else f"nets {', '.join(island[:4])} have"
    message = (
        f"{what} no DC path to ground (only {named} connect{'s' * (len(touching) == 1)} there); "
        "add a resistor or a source that sets its voltage"
    )
    return CircuitError(message, net=island[0], file=touching[0].place.file, line=touching[0].place.line)


def _voltage_loops(netlist: Netlist) -> Iterator[CircuitError]:
    sets = DisjointSets()
    edges: dict = {}
    for element in netlist.elements:
        if ELEMENTS[element.kind].holds_voltage:
            a, b = element.nets[:2]
            if sets.joined(a, b):
                others = _way(edges, a, b)
                with_others = f" with {', '.join(others)}" if others else ""
                yield _error(
                    element,
                    f"{element.name} closes a loop of voltage sources or inductors{with_others} between nets {a} and {b}; "
                    "put a resistor in series or remove one of them",
                    a,
                )
            sets.join(a, b)
            edges.setdefault(a, []).append((b, element.name))
            edges.setdefault(b, []).append((a, element.name))


def _way(edges: Mapping[str, list[tuple[str, str]]], start: str, end: str) -> list[str]:
    """The elements along the shortest way between two nets."""
    before: dict[str, tuple[str, str]] = {start: ("", "")}
    waiting = deque([start])
    while waiting and end not in before:
        net = waiting.popleft()
        for other, name in edges.get(net, ()):
            if other not in before:
                before[other] = net, name
                waiting.append(other)
    found = []
    while end != start and end in before:
        end, name = before[end]
        found.append(name)
    return found[::-1]


def _error(element: Element, message: str, net: str) -> CircuitError:
    return CircuitError(message, part=element.name, net=net, file=element.place.file, line=element.place.line)


def nets_touched(elements: Iterable[Element], nets: Iterable[str]) -> tuple[str, ...]:
    """Names of the elements that touch any of `nets`."""
    wanted = set(nets)
    return tuple(element.name for element in elements if wanted & set(element.nets))


def likely_cause(elements: Iterable[Element], nets: Iterable[str]) -> str:
    """What about one of these nets often keeps a circuit from being solved, in words that end a sentence; or nothing."""
    elements = tuple(elements)
    for net in nets:
        ends = [(element, k) for element in elements for k, other in enumerate(element.nets) if other == net]
        if ends and all(element.kind == "M" and k == 3 for element, k in ends):
            named = ", ".join(element.name for element, _ in ends[:4])
            return f"; nothing but bulks ({named}) is at net {net}: tie it to a supply or ground"
        if len(ends) == 1:
            return f"; only {ends[0][0].name} is at net {net}: is something missing there?"
        if ends and all(element.kind == "I" for element, _ in ends):
            return f"; only current sources are at net {net}: nothing takes what they leave over"
    return ""
