"""What a Verilog-A text says, as a tree. `line` is a line of the preprocessed text."""

from __future__ import annotations

from dataclasses import dataclass, field


@dataclass(frozen=True)
class Node:
    """Anything that was written somewhere."""

    line: int


@dataclass(frozen=True)
class Number(Node):
    """A literal; `whole` where it is written as an integer."""

    value: float
    whole: bool = False


@dataclass(frozen=True)
class Text(Node):
    """A string literal."""

    value: str


@dataclass(frozen=True)
class Name(Node):
    """A parameter, variable or net by name."""

    name: str


@dataclass(frozen=True)
class Element(Node):
    """One element of an array."""

    name: str
    index: Node


@dataclass(frozen=True)
class Unary(Node):
    """`- x`, `! x`."""

    operator: str
    operand: Node


@dataclass(frozen=True)
class Binary(Node):
    """`a + b`, `a == b`, `a || b`."""

    operator: str
    left: Node
    right: Node


@dataclass(frozen=True)
class Ternary(Node):
    """`condition ? yes : no`."""

    condition: Node
    yes: Node
    no: Node


@dataclass(frozen=True)
class Call(Node):
    """A function, or an access to a branch as `V(a, b)`."""

    name: str
    arguments: tuple[Node, ...]


@dataclass(frozen=True)
class PortCall(Node):
    """`I(<port>)`: the flow into a port."""

    name: str
    port: str


@dataclass(frozen=True)
class System(Node):
    """`$temperature`, `$simparam("gmin", 0)`."""

    name: str
    arguments: tuple[Node, ...]


@dataclass(frozen=True)
class Array(Node):
    """`'{1, 2, 3}`."""

    items: tuple[Node, ...]


@dataclass(frozen=True)
class Block(Node):
    """`begin ... end`, with the variables and parameters declared in it."""

    declarations: tuple[Node, ...]
    statements: tuple[Node, ...]


@dataclass(frozen=True)
class If(Node):
    """`if (condition) yes else no`."""

    condition: Node
    yes: Node
    no: Node | None


@dataclass(frozen=True)
class Case(Node):
    """`case (subject) 1, 2: ...; default: ...; endcase`; the default's labels are None."""

    subject: Node
    choices: tuple[tuple[tuple[Node, ...] | None, Node], ...]


@dataclass(frozen=True)
class For(Node):
    """`for (first; condition; step) body`."""

    first: Assign
    condition: Node
    step: Assign
    body: Node


@dataclass(frozen=True)
class While(Node):
    """`while (condition) body`."""

    condition: Node
    body: Node


@dataclass(frozen=True)
class Repeat(Node):
    """`repeat (count) body`."""

    count: Node
    body: Node


@dataclass(frozen=True)
class Assign(Node):
    """`name = value`, `name[index] = value`."""

    name: str
    index: Node | None
    value: Node


@dataclass(frozen=True)
class Contribute(Node):
    """`I(a, b) <+ value`."""

    access: Node
    value: Node


@dataclass(frozen=True)
class Indirect(Node):
    """`V(out) : V(p, n) == 0`."""

    access: Node
    condition: Node


@dataclass(frozen=True)
class Event(Node):
    """`@(initial_step) body`."""

    names: tuple[str, ...]
    body: Node


@dataclass(frozen=True)
class Task(Node):
    """`$strobe("...", x);`."""

    name: str
    arguments: tuple[Node, ...]


@dataclass(frozen=True)
class Limit(Node):
    """One `from` or `exclude`: an interval with open or closed ends, one value, or a list of strings."""

    exclude: bool
    low: Node | None = None
    high: Node | None = None
    low_open: bool = False
    high_open: bool = False
    values: tuple[Node, ...] = ()


@dataclass(frozen=True)
class Parameter(Node):
    """A declared parameter; `fixed` for localparam; `size` of an array (first, last)."""

    name: str
    type: str
    default: Node
    limits: tuple[Limit, ...] = ()
    size: tuple[Node, Node] | None = None
    fixed: bool = False
    attributes: dict[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Variable(Node):
    """A declared variable, or an array of them."""

    name: str
    type: str
    size: tuple[Node, Node] | None = None
    start: Node | None = None
    attributes: dict[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Alias(Node):
    """`aliasparam name = parameter`."""

    name: str
    parameter: str


@dataclass(frozen=True)
class Function(Node):
    """An analog function; arguments are (name, direction), in order."""

    name: str
    type: str
    arguments: tuple[tuple[str, str], ...]
    variables: tuple[Variable, ...]
    body: Node


@dataclass(frozen=True)
class Nets(Node):
    """Names with a discipline (`electrical a, b`) or with a direction (`inout a, b`)."""

    word: str
    names: tuple[str, ...]
    direction: str = ""
    attributes: dict[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Branch(Node):
    """`branch (a, b) names`; `port` for `branch (<p>) name`."""

    nets: tuple[str, ...]
    names: tuple[str, ...]
    port: bool = False


@dataclass(frozen=True)
class Analog(Node):
    """An analog block."""

    body: Node


@dataclass(frozen=True)
class Module(Node):
    """A module: its ports in order and everything declared in it."""

    name: str
    ports: tuple[str, ...]
    items: tuple[Node, ...]
    attributes: dict[str, str] = field(default_factory=dict)
