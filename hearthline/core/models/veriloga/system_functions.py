"""The functions of the system that a text may ask: `$temperature`, `$simparam`, `$limit` and their like."""

from __future__ import annotations

from collections.abc import Callable

from hearthline.core.constants import BOLTZMANN_OVER_CHARGE
from hearthline.core.models.signature import LIMIT, START
from hearthline.core.models.veriloga import tree
from hearthline.core.models.veriloga.making import Making
from hearthline.core.models.veriloga.node import Node

LIMITS = {"pnjlim": 2, "bodylim": 2, "fetlim": 1, "vdslim": 0}
"""Ways of $limit and their further arguments; the functions stand in `standard/limiting.vams`."""

SIMULATOR = {"tnom": 27.0, "scale": 1.0, "shrink": 0.0}
"""$simparam of what is the same in every run here: nominal temperature [deg C], no scaling of lengths."""


def _temperature(made: Making, node: tree.System) -> Node:
    return made.temperature()


def _vt(made: Making, node: tree.System) -> Node:
    kelvin = made.value(node.arguments[0]) if node.arguments else made.temperature()
    return made.graph.mul(made.graph.const(BOLTZMANN_OVER_CHARGE), kelvin)


def _mfactor(made: Making, node: tree.System) -> Node:
    return made.multiplicity()


def _abstime(made: Making, node: tree.System) -> Node:
    return made.graph.setting("time", (0.0, 1e30))


def _simparam(made: Making, node: tree.System) -> Node:
    name = node.arguments[0].value if node.arguments and isinstance(node.arguments[0], tree.Text) else ""
    if name == "gmin":
        return made.graph.setting("gmin", (0.0, 1.0))
    if name == "sourceScaleFactor":
        return made.graph.setting("scale", (0.0, 1.0))
    if name in SIMULATOR:
        return made.graph.const(SIMULATOR[name])
    if len(node.arguments) > 1:
        return made.value(node.arguments[1])
    raise made.problems.mistake(
        node.line, f'$simparam("{name}") is not known; give it a default: $simparam("{name}", 0)'
    )


def _param_given(made: Making, node: tree.System) -> Node:
    name = node.arguments[0].name if node.arguments and isinstance(node.arguments[0], tree.Name) else ""
    name = made.work.declared.aliases.get(name, name)
    if name not in made.work.given:
        raise made.work.unknown(name, node.line, list(made.work.given), "parameter")
    return made.work.given[name]


def _port_connected(made: Making, node: tree.System) -> Node:
    name = node.arguments[0].name if node.arguments and isinstance(node.arguments[0], tree.Name) else ""
    if name not in made.work.declared.module.ports:
        raise made.problems.mistake(node.line, f"$port_connected: '{name}' is no port")
    return made.graph.input("connected", made.work.declared.module.ports.index(name), True, (0, 1))


def _limit(made: Making, node: tree.System) -> Node:
    if len(node.arguments) < 2 or not isinstance(node.arguments[1], tree.Text):
        raise made.problems.mistake(
            node.line, '$limit takes a voltage and "pnjlim" or "fetlim"; functions of your own are not supported'
        )
    word = node.arguments[1].value
    if word not in LIMITS:
        raise made.problems.mistake(node.line, f'$limit knows {", ".join(LIMITS)}, not "{word}"')
    if len(node.arguments) != 2 + LIMITS[word]:
        raise made.problems.mistake(node.line, f'$limit(..., "{word}") takes {LIMITS[word]} further argument(s)')
    with made.graph.within(made.graph.settled()):
        value = made.graph.real(made.value(node.arguments[0]))
        arguments = tuple(made.graph.real(made.value(a)) for a in node.arguments[2:])
        here = made.graph.current
        if any(a.level == 2 and not here.inside(a.region) for a in (value, *arguments)):
            raise made.problems.mistake(node.line, "what $limit takes must not depend on a condition; limit before it")
        known = made.graph.known_limit(word, value, arguments)
        return known or _limited(made, word, value, arguments, node)


def _limited(made: Making, word: str, value: Node, arguments: tuple[Node, ...], node: tree.System) -> Node:
    """Limited in an iteration; at the start where the device conducts; else as it is."""
    graph = made.graph
    before = graph.memory()
    stepped = made.call_limit("pnjlim" if word == "bodylim" else word, (value, before, *arguments), node)
    start = {
        # a breakdown far away starts where it is
        "pnjlim": lambda: graph.select(graph.compare(">", value, graph.const(-0.5)), arguments[1], value),
        # a junction that is there beside the device, as that of a bulk
        "bodylim": lambda: graph.const(0.0),
        "fetlim": lambda: graph.add(arguments[0], graph.const(0.1)),
        "vdslim": lambda: graph.const(0.1),
    }[word]()
    mode = graph.node("mode", (), 2, region=graph.top)
    other = graph.select(graph.compare("==", mode, graph.const(START)), start, value)
    at = graph.select(graph.compare("==", mode, graph.const(LIMIT)), stepped, other)
    return graph.limited(word, value, arguments, at)


SYSTEM_FUNCTIONS: dict[str, Callable[[Making, tree.System], Node]] = {
    "temperature": _temperature,
    "vt": _vt,
    "mfactor": _mfactor,
    "abstime": _abstime,
    "simparam": _simparam,
    "param_given": _param_given,
    "port_connected": _port_connected,
    "limit": _limit,
    "realtime": _abstime,
}  # fmt: skip
"""By their names behind the `$`."""
