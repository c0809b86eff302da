"""What a module declares: nets, branches, parameters, variables and functions, checked and looked up by name."""

from __future__ import annotations

from dataclasses import dataclass, field

from hearthline.core.models.veriloga import tree
from hearthline.core.models.veriloga.functions import IN_THE_LANGUAGE
from hearthline.core.models.veriloga.problems import Problems, UnusableError

FLOW_OF = {"electrical": "I", "thermal": "Pwr", "current": "I", "voltage": ""}
POTENTIAL_OF = {"electrical": "V", "thermal": "Temp", "voltage": "V", "current": ""}
ACCESSES = frozenset({"V", "I", "Temp", "Pwr"})
GROUND = -1


@dataclass
class Terminal:
    """An unknown of the module: a port, an internal net, a branch current, or a state of its own."""

    name: str
    kind: str
    discipline: str = "electrical"


@dataclass(frozen=True)
class BranchKey:
    """A branch between two terminals (GROUND for the reference); `name` where it was given one."""

    plus: int
    minus: int
    name: str = ""


@dataclass
class Declared:
    """The names of a module. `internal` variables are those written inside named blocks too."""

    module: tree.Module
    problems: Problems
    terminals: list[Terminal] = field(default_factory=list)
    nets: dict[str, int] = field(default_factory=dict)
    branches: dict[str, BranchKey] = field(default_factory=dict)
    parameters: dict[str, tree.Parameter] = field(default_factory=dict)
    aliases: dict[str, str] = field(default_factory=dict)
    variables: dict[str, tree.Variable] = field(default_factory=dict)
    functions: dict[str, tree.Function] = field(default_factory=dict)
    bodies: list[tree.Node] = field(default_factory=list)

    @property
    def ports(self) -> int:
        """How many of the terminals are ports."""
        return len(self.module.ports)

    def taken(self, name: str) -> bool:
        """Whether something has that name."""
        return any(
            name in names
            for names in (self.nets, self.branches, self.parameters, self.variables, self.functions, self.aliases)
        )

    def names(self) -> list[str]:
        """Everything that an expression may name."""
        return [*self.parameters, *self.variables, *self.aliases, *self.nets, *self.branches, *self.functions]


def declare(module: tree.Module, problems: Problems) -> Declared:
    """Collects the declarations of a module; mistakes go into `problems`."""
    found = Declared(module, problems)
    _nets(found)
    for item in module.items:
        try:
            _declare_one(found, item)
        except UnusableError:
            continue
    if not found.bodies:
        problems.mistake(module.line, f"module '{module.name}' has no analog block")
    return found


def _nets(found: Declared) -> None:
    disciplines: dict[str, str] = {}
    grounds: dict[str, int] = {}
    lines: dict[str, int] = {}
    for item in found.module.items:
        if isinstance(item, tree.Nets):
            for name in item.names:
                lines.setdefault(name, item.line)
                if item.word == "ground":
                    grounds[name] = item.line
                elif item.word:
                    if item.word not in FLOW_OF:
                        known = ", ".join(FLOW_OF)
                        found.problems.mistake(item.line, f"unknown discipline '{item.word}'; there are {known}")
                    disciplines[name] = item.word
    for name in {name for name in found.module.ports if found.module.ports.count(name) > 1}:
        raise found.problems.mistake(found.module.line, f"port '{name}' stands twice in the list of ports")
    for name in dict.fromkeys([*found.module.ports, *disciplines]):
        if name in grounds:
            found.nets[name] = GROUND
            continue
        kind = "port" if name in found.module.ports else "net"
        if kind == "port" and name not in disciplines:
            line = lines.get(name, found.module.line)
            found.problems.mistake(line, f"port '{name}' has no discipline; write `electrical {name};`")
        found.nets[name] = len(found.terminals)
        found.terminals.append(Terminal(name, kind, disciplines.get(name, "electrical")))
    for item in found.module.items:
        if isinstance(item, tree.Nets) and item.direction:
            for name in item.names:
                if name not in found.module.ports:
                    found.problems.mistake(
                        item.line, f"'{name}' has a direction, but is no port of '{found.module.name}'"
                    )


def _declare_one(found: Declared, item: tree.Node) -> None:
    match item:
        case tree.Branch():
            _branch(found, item)
        case tree.Parameter():
            _new(found, item.name, item.line)
            found.parameters[item.name] = item
        case tree.Alias():
            _new(found, item.name, item.line)
            if item.parameter not in found.parameters:
                raise found.problems.mistake(item.line, f"aliasparam: there is no parameter '{item.parameter}'")
            found.aliases[item.name] = item.parameter
        case tree.Variable():
            _new(found, item.name, item.line)
            found.variables[item.name] = item
        case tree.Function():
            _new(found, item.name, item.line)
            found.functions[item.name] = item
        case tree.Analog():
            found.bodies.append(item.body)


def _new(found: Declared, name: str, line: int) -> None:
    if found.taken(name):
        raise found.problems.mistake(line, f"'{name}' is declared already")
    if name in IN_THE_LANGUAGE or name in ACCESSES:
        raise found.problems.mistake(line, f"'{name}' is a word of the language; choose another name")


def _branch(found: Declared, item: tree.Branch) -> None:
    if item.port:
        raise found.problems.mistake(item.line, "port branches are not supported; use a named branch into the port")
    ends = [net(found, name, item.line) for name in item.nets]
    for name in item.names:
        _new(found, name, item.line)
        found.branches[name] = BranchKey(ends[0], ends[1] if len(ends) > 1 else GROUND, name)


def net(found: Declared, name: str, line: int) -> int:
    """The terminal of a net. Raises UnusableError."""
    if name not in found.nets:
        known = ", ".join(found.nets) or "none"
        raise found.problems.mistake(line, f"unknown net '{name}'; there are {known}")
    return found.nets[name]
