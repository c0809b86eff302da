"""Writes scheduled values in the text form of LLVM's intermediate language.

Why not Python for Numba, as for the rest of the engine: the same equations take ten to twenty times longer to compile
there (a MOS model 20 s instead of 1 s), and a device text is to be compiled while a person types.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable

from hearthline.core.compiled.language import Code, real
from hearthline.core.limits import TURNS
from hearthline.core.models.veriloga.functions import FUNCTIONS
from hearthline.core.models.veriloga.graph import TRUTHS, Graph
from hearthline.core.models.veriloga.node import Branching, Limited, Loop, Node, Region
from hearthline.core.models.veriloga.schedule import Schedule

REAL, WHOLE, TRUTH = "double", "i64", "i1"
COMPARE_REAL = {"<": "olt", ">": "ogt", "<=": "ole", ">=": "oge", "==": "oeq", "!=": "une"}
COMPARE_WHOLE = {"<": "slt", ">": "sgt", "<=": "sle", ">=": "sge", "==": "eq", "!=": "ne"}
REAL_OPS = {"add": "fadd", "sub": "fsub", "mul": "fmul", "div": "fdiv"}
WHOLE_OPS = {"add": "add", "sub": "sub", "mul": "mul", "&": "and", "|": "or", "^": "xor", "<<": "shl", ">>": "ashr"}

PREAMBLE = """
define internal double @limexp(double %x) alwaysinline {
  %small = fcmp olt double %x, 700.0
  %arg = select i1 %small, double %x, double 700.0
  %e = call double @llvm.exp.f64(double %arg)
  %over = fsub double %x, %arg
  %factor = fadd double %over, 1.0
  %y = fmul double %e, %factor
  ret double %y
}
define internal double @lesser(double %a, double %b) alwaysinline {
  %c = fcmp olt double %b, %a
  %y = select i1 %c, double %b, double %a
  ret double %y
}
define internal double @greater(double %a, double %b) alwaysinline {
  %c = fcmp ogt double %b, %a
  %y = select i1 %c, double %b, double %a
  ret double %y
}
define internal double @power_slope(double %base, double %exponent, double %power) alwaysinline {
  %zero = fcmp oeq double %base, 0.0
  br i1 %zero, label %slow, label %fast
slow:
  %lower = fsub double %exponent, 1.0
  %p = call double @llvm.pow.f64(double %base, double %lower)
  %s = fmul double %exponent, %p
  ret double %s
fast:
  %n = fmul double %exponent, %power
  %q = fdiv double %n, %base
  ret double %q
}
define internal i64 @idiv(i64 %a, i64 %b) alwaysinline {
  %zero = icmp eq i64 %b, 0
  %minus = icmp eq i64 %b, -1
  %odd = or i1 %zero, %minus
  %safe = select i1 %odd, i64 1, i64 %b
  %q = sdiv i64 %a, %safe
  %n = sub i64 0, %a
  %m = select i1 %minus, i64 %n, i64 %q
  %y = select i1 %zero, i64 0, i64 %m
  ret i64 %y
}
define internal i64 @mod(i64 %a, i64 %b) alwaysinline {
  %zero = icmp eq i64 %b, 0
  %minus = icmp eq i64 %b, -1
  %odd = or i1 %zero, %minus
  %safe = select i1 %odd, i64 1, i64 %b
  %y = srem i64 %a, %safe
  ret i64 %y
}
declare i64 @llvm.fptosi.sat.i64.f64(double)
declare double @fmod(double, double)
"""
DEFINED = {"limexp", "lesser", "greater", "power_slope"}


def declarations() -> str:
    """The functions that models may call, beside those defined in the preamble."""
    symbols = {f.symbol: f.arity for f in FUNCTIONS.values() if f.symbol not in DEFINED}
    lines = [f"declare double @{name}({', '.join(['double'] * arity)})" for name, arity in symbols.items()]
    return "\n".join([*lines, "declare void @llvm.memset.p0.i64(ptr, i8, i64, i1)"])


def kind(node: Node) -> str:
    """The type of a value."""
    if node.op in TRUTHS:
        return TRUTH
    return WHOLE if node.whole else REAL


class Writer:
    """Writes the computation of some roots into `code`. `leaf` gives the name of what comes from outside, or None."""

    def __init__(self, graph: Graph, code: Code, leaf: Callable[[Node], str | None], trusted: bool = False):
        self.graph, self.code, self.leaf, self.trusted = graph, code, leaf, trusted
        self.names: dict[int, str] = {}
        self.loops = False

    def plan(self, roots: Iterable[Node], is_leaf: Callable[[Node], bool]) -> Schedule:
        """Finds out what is needed for the roots."""
        self.schedule = Schedule(self.graph, roots, is_leaf, self.trusted)
        return self.schedule

    def write(self, region: Region) -> None:
        """Computes everything in a region."""
        for item in self.schedule.order(region):
            if isinstance(item, Branching):
                self._branching(item)
            elif isinstance(item, Loop):
                self._loop(item)
            else:
                self.names[item.number] = self._node(item)

    def value(self, node: Node, wanted: str | None = None) -> str:
        """The name of a value in the type that is wanted."""
        if node.constant:
            if wanted == REAL or (wanted is None and not node.whole):
                return self.number(node.value)
            return self.everywhere(WHOLE, str(int(node.value))) if wanted != TRUTH else self.truth(bool(node.value))
        found = self.names.get(node.number) or self.leaf(node)
        if found is None:
            raise AssertionError(f"value {node} is used before it is computed")
        return self.converted(found, kind(node), wanted or kind(node))

    def converted(self, name: str, have: str, want: str) -> str:
        """A value of one type in another."""
        put, from_type, to_type = self.code.put, self.type(have), self.type(want)
        match have, want:
            case _ if have == want:
                return name
            case "i1", "i64":
                return put(f"zext {from_type} {name} to {to_type}")
            case "i1", "double":
                return put(f"uitofp {from_type} {name} to {to_type}")
            case "i64", "double":
                return put(f"sitofp {from_type} {name} to {to_type}")
            case "i64", "i1":
                return put(f"icmp ne {from_type} {name}, zeroinitializer")
            case "double", "i1":
                return put(f"fcmp une {from_type} {name}, zeroinitializer")
        return self.to_whole(name)

    # what values are: of one instance here
    def type(self, what: str) -> str:
        """The type of values of a kind."""
        return what

    def everywhere(self, what: str, literal: str) -> str:
        """A literal of a kind."""
        return literal

    def number(self, value: float) -> str:
        """A real literal."""
        return self.everywhere(REAL, real(value))

    def truth(self, value: bool) -> str:
        """A literal that is true or not."""
        return self.everywhere(TRUTH, "true" if value else "false")

    def to_whole(self, name: str) -> str:
        """A real number without what stands behind the point."""
        return self.code.put(f"call i64 @llvm.fptosi.sat.i64.f64(double {name})")

    def call(self, symbol: str, *arguments: str, what: str = REAL) -> str:
        """What a function gives."""
        type_ = self.type(what)
        inner = ", ".join(f"{type_} {argument}" for argument in arguments)
        return self.code.put(f"call {type_} @{self.named(symbol)}({inner})")

    def named(self, symbol: str) -> str:
        """How a function is called for such values."""
        return symbol

    def unless_overrun(self, value: str) -> str:
        """A real number, or none where loops were cut off: what they would have given is not known."""
        if not self.loops:
            return value
        over = self.code.put(f"icmp sge i64 {self.code.put('load i64, ptr %turns')}, {TURNS}")
        return self.code.put(f"select i1 {over}, double {real(float('nan'))}, double {value}")

    def _branching(self, branching: Branching) -> None:
        code, condition, phis = self.code, self.value(branching.condition, TRUTH), self.phis(branching)
        if not any(self.lives(region) for region in (branching.yes, branching.no)):
            for phi in phis:
                a, b = (self.value(arg, kind(phi)) for arg in phi.args[1:])
                self.names[phi.number] = self.select(condition, a, b, kind(phi))
            return
        names = [code.name(stem) for stem in ("yes", "no", "join")]
        code.do(f"br i1 {condition}, label %{names[0]}, label %{names[1]}")
        ends = []
        for k, region in enumerate((branching.yes, branching.no)):
            code.begin(names[k])
            self.write(region)
            values = [self.value(phi.args[k + 1], kind(phi)) for phi in phis]
            ends.append((code.block, values))
            code.do(f"br label %{names[2]}")
        code.begin(names[2])
        for position, phi in enumerate(phis):
            arms = ", ".join(f"[ {values[position]}, %{block} ]" for block, values in ends)
            self.names[phi.number] = code.put(f"phi {kind(phi)} {arms}")

    def phis(self, branching: Branching) -> list[Node]:
        """The values that come out of a condition."""
        members = self.schedule.members.get(branching.region, ())
        return [node for node in members if node.op == "phi" and node.args[0] is branching]

    def select(self, condition: str, a: str, b: str, what: str) -> str:
        """One of two values."""
        type_ = self.type(what)
        return self.code.put(f"select {self.type(TRUTH)} {condition}, {type_} {a}, {type_} {b}")

    def lives(self, region: Region) -> bool:
        """Whether anything has to be computed in a region."""
        return bool(self.schedule.members.get(region)) or any(s.region is region for s in self.schedule.nested)

    def _loop(self, loop: Loop) -> None:
        code, positions = self.code, sorted(self.schedule.carried[loop])
        head, body, end = (code.name(stem) for stem in ("head", "body", "end"))
        firsts = [self.value(loop.carried[k][1], kind(loop.carried[k][0])) for k in positions]
        before = code.block
        code.do(f"br label %{head}")
        code.begin(head)
        self.loops = True
        names = [f"%{code.name('loop')}" for _ in positions]
        place = len(code.lines)
        for k, name in zip(positions, names, strict=True):
            self.names[loop.carried[k][0].number] = name
        self.write(loop.body)
        condition = self.value(loop.condition, TRUTH)
        # all loops of a device share one count, so that loops inside loops end too
        turn = code.put("load i64, ptr %turns")
        more = code.put(f"icmp slt i64 {turn}, {TURNS}")
        go_on = code.put(f"and i1 {condition}, {more}")
        code.do(f"br i1 {go_on}, label %{body}, label %{end}")
        code.begin(body)
        following = [self.value(loop.carried[k][2], kind(loop.carried[k][0])) for k in positions]
        code.do(f"store i64 {code.put(f'add i64 {turn}, 1')}, ptr %turns")
        code.do(f"br label %{head}")
        phis = []
        for k, name, first, after in zip(positions, names, firsts, following, strict=True):
            phis.append(f"  {name} = phi {kind(loop.carried[k][0])} [ {first}, %{before} ], [ {after}, %{code.block} ]")
        code.lines[place:place] = phis
        code.begin(end)
        for node in self.schedule.live.values():
            if node.op == "loop out" and node.args[0] is loop:
                self.names[node.number] = names[positions.index(node.args[1])]

    def _node(self, node: Node) -> str:
        op, args, put = node.op, node.args, self.code.put
        if op == "seed":
            return self._seed(node)
        if op in COMPARE_REAL:
            both_whole = all(a.whole for a in args)
            words, what = (COMPARE_WHOLE, WHOLE) if both_whole else (COMPARE_REAL, REAL)
            word = f"{'icmp' if both_whole else 'fcmp'} {words[op]} {self.type(what)}"
            return put(f"{word} {self.value(args[0], what)}, {self.value(args[1], what)}")
        if op in ("and", "or"):
            return put(f"{op} {self.type(TRUTH)} {self.value(args[0], TRUTH)}, {self.value(args[1], TRUTH)}")
        if op == "not":
            return put(f"xor {self.type(TRUTH)} {self.value(args[0], TRUTH)}, {self.truth(True)}")
        if op == "select":
            a, b = (self.value(arg, kind(node)) for arg in args[1:])
            return self.select(self.value(args[0], TRUTH), a, b, kind(node))
        if op == "real":
            return self.value(args[0], REAL)
        if op == "round":
            half = put(f"fadd {self.type(REAL)} {self.value(args[0], REAL)}, {self.number(0.5)}")
            return self.to_whole(self.call("llvm.floor.f64", half))
        if op == "neg":
            inner = self.value(args[0], kind(node))
            return put(
                f"sub {self.type(WHOLE)} zeroinitializer, {inner}" if node.whole else f"fneg {self.type(REAL)} {inner}"
            )
        if op in ("idiv", "mod"):
            return self.call(op, *(self.value(arg, WHOLE) for arg in args), what=WHOLE)
        if node.whole:
            return put(f"{WHOLE_OPS[op]} {self.type(WHOLE)} {self.value(args[0], WHOLE)}, {self.value(args[1], WHOLE)}")
        if op in REAL_OPS:
            return put(f"{REAL_OPS[op]} {self.type(REAL)} {self.value(args[0], REAL)}, {self.value(args[1], REAL)}")
        symbol = FUNCTIONS[op].symbol if op in FUNCTIONS else op
        return self.call(symbol, *(self.value(arg, REAL) for arg in args))

    def _seed(self, node: Node) -> str:
        seed, code = self.graph.seeds[node.args[0]], self.code
        if not isinstance(seed, Limited):
            plus = self.leaf_terminal(seed.plus)
            if seed.minus < 0:
                return plus
            return code.put(f"fsub {self.type(REAL)} {plus}, {self.leaf_terminal(seed.minus)}")
        value = self.value(seed.value, REAL)
        if self.trusted:
            return value
        at = self.value(seed.at, REAL)
        self.remember(seed.memory, at, self._moved(at, value))
        return at

    def remember(self, place: int, at: str, moved: str) -> None:
        """Keeps at what a limited value was taken, and whether that was another."""
        self.code.store(REAL, at, "%memory", place)
        # kept in a place and not in a value, because the limit may stand under a condition
        before = self.code.put("load i1, ptr %moved")
        self.code.do(f"store i1 {self.code.put(f'or i1 {before}, {moved}')}, ptr %moved")

    def _moved(self, at: str, value: str) -> str:
        """Whether limiting changed a value by more than rounding."""
        put, type_ = self.code.put, self.type(REAL)
        step = self.call("llvm.fabs.f64", put(f"fsub {type_} {at}, {value}"))
        size = self.call("llvm.fabs.f64", value)
        allowed = put(f"fadd {type_} {put(f'fmul {type_} {size}, {self.number(1e-9)}')}, {self.number(1e-12)}")
        return put(f"fcmp ogt {type_} {step}, {allowed}")

    def leaf_terminal(self, terminal: int) -> str:
        """The unknown of a terminal."""
        return f"%x{terminal}"
