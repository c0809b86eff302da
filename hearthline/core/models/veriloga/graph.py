"""The equations of a module as a graph of values.

Each value is computed once and never changes; equal values are one node. A node knows on what it depends:

level 0   nothing: a number
level 1   parameters and temperature: worked out once for each instance and lane, before the solution
level 2   the unknowns of the circuit, or what changes while it is solved

and of which unknowns (`seeds`, a bit for each) its derivative may be non-zero. Values of level 2 that exist only while a
condition holds live in the region of that condition; a `phi` is one value on one side and another on the other.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from contextlib import contextmanager
from types import MappingProxyType

from hearthline.core.models.veriloga.functions import FUNCTIONS, INF
from hearthline.core.models.veriloga.node import Branching, Limited, Node, Probe, Region

SETTINGS_NAMES = ("gmin", "scale", "start", "static", "time")
"""In the order of the work array; see `signature`."""

TRUTHS = ("<", ">", "<=", ">=", "==", "!=", "and", "or", "not")
"""What is true or false, and a number only after `number`."""

COMPARISONS = {
    "<": lambda a, b: a < b, ">": lambda a, b: a > b, "<=": lambda a, b: a <= b,
    ">=": lambda a, b: a >= b, "==": lambda a, b: a == b, "!=": lambda a, b: a != b,
}  # fmt: skip


class Graph:
    """Makes nodes. `current` is the region that new values of level 2 go to, `static` that of new loops of level 1;
    `joined` are terminals that the solver takes for another one; to the text they are two, so that `ddx` can tell them
    apart."""

    def __init__(self, joined: Mapping[int, int] = MappingProxyType({})):
        self.joined = joined
        self.setup, self.top = Region(), Region()
        self.current = self.top
        self.static = self.setup
        self.seeds: list[Probe | Limited] = []
        self._known: dict[tuple, list[Node]] = {}
        self._count = 0

    # making nodes
    def node(self, op, args, level, seeds=0, whole=False, bounds=(-INF, INF), region=None) -> Node:
        """A node as it is, or the equal one that can be seen from the current region."""
        region = region or self._home(args, level)
        key = (op, *((a.number,) if isinstance(a, Node) else (type(a), a) for a in args))
        for known in self._known.get(key, ()):
            if region.inside(known.region):
                return known
        self._count += 1
        made = Node(op, args, level, seeds, whole, region, bounds, self._count)
        self._known.setdefault(key, []).append(made)
        return made

    def _home(self, args, level) -> Region:
        if level == 2:
            return self.current
        regions = [a.region for a in args if isinstance(a, Node)]
        return max(regions, key=lambda region: region.depth, default=self.setup)

    @contextmanager
    def within(self, region: Region):
        """New values of level 2 go to `region`."""
        before, self.current = self.current, region
        try:
            yield
        finally:
            self.current = before

    @contextmanager
    def within_static(self, region: Region):
        """New loops of level 1 stand in `region`."""
        before, self.static = self.static, region
        try:
            yield
        finally:
            self.static = before

    def const(self, value) -> Node:
        """A number: int and bool stay whole."""
        whole = isinstance(value, (int, bool))
        if isinstance(value, bool):
            value = int(value)
        bound = float(value) if not math.isnan(value) else 0.0
        return self.node("const", (value,), 0, 0, whole, (bound, bound), self.setup)

    def input(self, kind: str, index: int, whole=False, bounds=(-INF, INF)) -> Node:
        """A value that the instance or the lane gives: `parameter`, `given`, `connected`, `environment`."""
        return self.node("input", (kind, index), 1, 0, whole, bounds, self.setup)

    def setting(self, name: str, bounds=(-INF, INF)) -> Node:
        """A setting of the solver, see `signature`."""
        return self.node("setting", (name,), 2, 0, False, bounds, self.top)

    def probe(self, plus: int, minus: int = -1) -> Node:
        """The difference of two unknowns."""
        if plus == -1 and minus == -1:
            return self.const(0.0)
        if plus == -1 or Probe(minus, plus) in self.seeds:
            return self.neg(self.probe(minus, plus))
        seed = Probe(plus, minus)
        if seed not in self.seeds:
            self.seeds.append(seed)
        bit = self.seeds.index(seed)
        return self.seed(bit)

    def known_limit(self, kind: str, value: Node, arguments: tuple[Node, ...]) -> Node | None:
        """The same limited value, where there is one already."""
        for bit, known in enumerate(self.seeds):
            same = isinstance(known, Limited) and (known.kind, known.value, known.arguments) == (kind, value, arguments)
            if same and self.current.inside(known.region):
                return self.seed(bit)
        return None

    def memory(self) -> Node:
        """What the next limited value was in the last iteration."""
        index = sum(isinstance(seed, Limited) for seed in self.seeds)
        return self.node("memory", (index,), 2, 0, False, (-INF, INF), self.top)

    def limited(self, kind: str, value: Node, arguments: tuple[Node, ...], at: Node) -> Node:
        """`value`, limited in its change from one iteration to the next."""
        memory = sum(isinstance(seed, Limited) for seed in self.seeds)
        self.seeds.append(Limited(kind, value, arguments, at, memory, self.current))
        return self.seed(len(self.seeds) - 1)

    def seed(self, bit: int) -> Node:
        """The node of a seed."""
        known = self.seeds[bit]
        region = known.region if isinstance(known, Limited) else self.top
        return self.node("seed", (bit,), 2, 1 << bit, False, (-INF, INF), region)

    def settled(self) -> Region:
        """The current region, where only conditions on parameters lead to it; else that of the whole evaluation."""
        region = self.current
        while region.owner is not None:
            if not isinstance(region.owner, Branching) or region.owner.condition.level == 2:
                return self.top
            region = region.parent
        return self.current

    def exported(self, node: Node) -> Node:
        """A value that lives under conditions, as one that can be seen everywhere: 0 where they do not hold."""
        region = node.region
        while node.level == 2 and region.owner is not None:
            branching = region.owner
            with self.within(branching.region):
                sides = (node, self.const(0.0)) if region is branching.yes else (self.const(0.0), node)
                node = self.phi(branching, *sides)
            region = branching.region
        return node

    def make(self, op: str, *args: Node) -> Node:
        """A mathematical function of nodes, folded where all are numbers."""
        function = FUNCTIONS[op]
        if op == "pow" and (short := self._short_power(*args)) is not None:
            return short
        if all(a.constant for a in args):
            try:
                return self.const(float(function.fold(*(a.value for a in args))))
            except (ValueError, OverflowError, ZeroDivisionError):
                return self.const(math.nan)
        bounds = function.bounds(*((a.low, a.high) for a in args))
        level, seeds = self._depends(args)
        return self.node(op, args, level, 0 if op in ("floor", "ceil") else seeds, False, bounds)

    def _short_power(self, base: Node, exponent: Node) -> Node | None:
        """Small whole powers and roots without pow."""
        if not exponent.constant or base.constant:
            return None
        value = exponent.value
        if value == 0:
            return self.const(1.0)
        if value == 0.5:
            return self.make("sqrt", base)
        if value in (1, 2, 3, 4):
            result = base
            for _ in range(int(value) - 1):
                result = self.mul(result, base)
            return result
        if value in (-1, -2):
            return self.div(self.const(1.0), self._short_power(base, self.const(-value)))
        return None

    @staticmethod
    def _depends(args) -> tuple[int, int]:
        seeds = 0
        for a in args:
            seeds |= a.seeds
        return max(a.level for a in args), seeds

    # arithmetic
    def add(self, a: Node, b: Node) -> Node:
        """a + b."""
        if a.constant and b.constant:
            return self.const(a.value + b.value)
        if _is(a, 0):
            return self.real(b) if not a.whole else b
        if _is(b, 0):
            return self.real(a) if not b.whole else a
        if b.op == "neg":
            return self.sub(a, b.args[0])
        if a.op == "neg":
            return self.sub(b, a.args[0])
        if a.number > b.number:
            a, b = b, a
        return self._arithmetic("add", a, b, (a.low + b.low, a.high + b.high))

    def sub(self, a: Node, b: Node) -> Node:
        """a - b."""
        if a.constant and b.constant:
            return self.const(a.value - b.value)
        if _is(b, 0):
            return self.real(a) if not b.whole else a
        if _is(a, 0):
            return self.neg(b)
        if a is b:
            return self.const(0 if a.whole else 0.0)
        if b.op == "neg":
            return self.add(a, b.args[0])
        return self._arithmetic("sub", a, b, (a.low - b.high, a.high - b.low))

    def mul(self, a: Node, b: Node) -> Node:
        """a · b; factors that do not depend on the unknowns are gathered, so that they are multiplied beforehand."""
        if a.constant and b.constant:
            return self.const(a.value * b.value)
        if b.constant or (b.level < 2 and a.level == 2):
            a, b = b, a
        if a.constant:
            if a.value == 0:
                return a
            if a.value == 1:
                return b if a.whole else self.real(b)
            if a.value == -1:
                return self.neg(b)
        if b.op == "neg":
            return self.neg(self.mul(a, b.args[0]))
        if a.op == "neg":
            return self.neg(self.mul(a.args[0], b))
        gathers = a.level < 2 and b.op == "mul" and b.args[0].level < 2 and not (a.whole and b.whole)
        if gathers and (b.level == 2 or a.constant):
            return self.mul(self.mul(a, b.args[0]), b.args[1])
        if a.number > b.number and a.level == b.level:
            a, b = b, a
        if a is b:
            bounds = FUNCTIONS["abs"].bounds((a.low, a.high))
            return self._arithmetic("mul", a, b, (bounds[0] ** 2, bounds[1] ** 2 if bounds[1] < 1e150 else INF))
        return self._arithmetic("mul", a, b, _product(a, b))

    def div(self, a: Node, b: Node) -> Node:
        """a / b of real numbers; by what does not depend on the unknowns as a product, which is faster."""
        a, b = self.real(a), self.real(b)
        if a.constant and b.constant:
            if b.value == 0:
                return self.const(math.nan if a.value == 0 else math.copysign(INF, a.value))
            return self.const(a.value / b.value)
        if _is(b, 1):
            return a
        if _is(a, 0):
            return a
        if b.op == "neg":
            return self.neg(self.div(a, b.args[0]))
        if a.op == "neg":
            return self.neg(self.div(a.args[0], b))
        if a.level == 2 and b.level < 2:
            return self.mul(self.div(self.const(1.0), b), a)
        return self._arithmetic("div", a, b, _quotient(a, b))

    def neg(self, a: Node) -> Node:
        """-a."""
        if a.constant:
            return self.const(-a.value)
        if a.op == "neg":
            return a.args[0]
        if a.op == "sub":
            return self.sub(a.args[1], a.args[0])
        return self._arithmetic("neg", a, None, (-a.high, -a.low))

    def _arithmetic(self, op, a, b, bounds) -> Node:
        args = (a,) if b is None else self._alike(a, b)
        bounds = tuple(e if not math.isnan(e) else s for e, s in zip(bounds, (-INF, INF), strict=True))
        return self.node(op, args, *self._depends(args), all(x.whole for x in args), bounds)

    def _alike(self, a: Node, b: Node) -> tuple[Node, Node]:
        """Literals beside real numbers are written as real numbers."""
        if a.constant and not b.whole:
            return self.real(a), b
        return (a, self.real(b)) if b.constant and not a.whole else (a, b)

    def whole_op(self, op: str, a: Node, b: Node) -> Node:
        """Operators of whole numbers: `idiv`, `mod`, `&`, `|`, `^`, `<<`, `>>`."""
        if a.constant and b.constant:
            return self.const(_fold_whole(op, int(a.value), int(b.value)))
        return self.node(op, (self.to_whole(a), self.to_whole(b)), max(a.level, b.level), 0, True)

    def real_mod(self, a: Node, b: Node) -> Node:
        """Remainder of real numbers, with the sign of the first."""
        if a.constant and b.constant and b.value:
            return self.const(math.fmod(a.value, b.value))
        return self.node("fmod", (self.real(a), self.real(b)), *self._depends((a, b)))

    def real(self, a: Node) -> Node:
        """`a` as a real number."""
        if not a.whole:
            return a
        if a.constant:
            return self.const(float(a.value))
        return self.node("real", (a,), a.level, a.seeds, False, (a.low, a.high))

    def to_whole(self, a: Node) -> Node:
        """`a` rounded to the nearest whole number."""
        if a.whole:
            return a
        if a.constant:
            return self.const(math.floor(a.value + 0.5) if math.isfinite(a.value) else 0)
        return self.node("round", (a,), a.level, 0, True, (a.low, a.high))

    # truth
    def compare(self, op: str, a: Node, b: Node) -> Node:
        """A comparison: 1 or 0."""
        if a.constant and b.constant:
            return self.const(COMPARISONS[op](a.value, b.value))
        return self.node(op, self._alike(a, b), max(a.level, b.level), 0, True, (0, 1))

    def truth(self, a: Node) -> Node:
        """Whether `a` is not 0."""
        if a.op in COMPARISONS or a.op in ("and", "or", "not"):
            return a
        return self.compare("!=", a, self.const(0))

    def both(self, a: Node, b: Node) -> Node:
        """a and b, each a truth."""
        for x, y in ((a, b), (b, a)):
            if x.constant:
                return y if x.value else x
        return self.node("and", (a, b), max(a.level, b.level), 0, True, (0, 1))

    def either(self, a: Node, b: Node) -> Node:
        """a or b, each a truth."""
        for x, y in ((a, b), (b, a)):
            if x.constant:
                return x if x.value else y
        return self.node("or", (a, b), max(a.level, b.level), 0, True, (0, 1))

    def not_(self, a: Node) -> Node:
        """Not a, a truth."""
        if a.constant:
            return self.const(not a.value)
        if a.op == "not":
            return a.args[0]
        return self.node("not", (a,), a.level, 0, True, (0, 1))

    # choices
    def select(self, condition: Node, a: Node, b: Node) -> Node:
        """One of two values that are both worked out."""
        if condition.constant:
            return a if condition.value else b
        if a is b:
            return a
        if a.whole != b.whole:
            a, b = self.real(a), self.real(b)
        level, seeds = self._depends((condition, a, b))
        return self.node("select", (condition, a, b), level, seeds, a.whole, (min(a.low, b.low), max(a.high, b.high)))

    def phi(self, branching: Branching, a: Node, b: Node) -> Node:
        """`a` from one side of a condition or `b` from the other. Where neither depends on the unknowns, a select."""
        if a is b:
            return a
        if max(a.level, b.level, branching.condition.level) < 2:
            return self.select(branching.condition, a, b)
        if a.whole != b.whole:
            with self.within(branching.yes):
                a = self.real(a)
            with self.within(branching.no):
                b = self.real(b)
        bounds = (min(a.low, b.low), max(a.high, b.high))
        return self.node("phi", (branching, a, b), 2, a.seeds | b.seeds, a.whole, bounds, branching.region)


def _is(node: Node, value) -> bool:
    return node.constant and node.value == value


def _times(a: float, b: float) -> float:
    return 0.0 if a == 0 or b == 0 else a * b


def _product(a: Node, b: Node) -> tuple[float, float]:
    ends = [_times(x, y) for x in (a.low, a.high) for y in (b.low, b.high)]
    return min(ends), max(ends)


def _quotient(a: Node, b: Node) -> tuple[float, float]:
    if b.low <= 0 <= b.high:
        if b.low == 0 and a.low >= 0:
            return 0.0, INF
        return -INF, INF
    ends = [0.0 if math.isinf(y) else x / y for x in (a.low, a.high) for y in (b.low, b.high)]
    return min(ends), max(ends)


def _fold_whole(op: str, a: int, b: int) -> int:
    if op in ("idiv", "mod") and b == 0:
        return 0
    return {
        "idiv": lambda: int(a / b), "mod": lambda: int(math.fmod(a, b)), "&": lambda: a & b, "|": lambda: a | b,
        "^": lambda: a ^ b, "<<": lambda: a << min(max(b, 0), 62), ">>": lambda: a >> min(max(b, 0), 62),
    }[op]()  # fmt: skip
