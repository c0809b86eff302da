"""Functions of several numbers at once, in LLVM's language, for instances that are evaluated abreast.

No branches and no tables, so that they fill the lanes of a processor's vectors: the exponential by its series after the nearest
power of two is taken out; the logarithm by that of the inverse hyperbolic tangent, carried in two numbers, so that a power of
it is as good as the rest. The last bit may be another than that of the library's function of one number. `fma` must be an
instruction of the processor, or they are slow.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from decimal import Decimal, localcontext

from hearthline.core.compiled.language import Code, bits, real
from hearthline.core.models.layout import LANES

REALS, WHOLES, TRUTHS = f"<{LANES} x double>", f"<{LANES} x i64>", f"<{LANES} x i1>"
SUFFIX = f"v{LANES}f64"

_POWERS, _ODD = 14, 11
"""Terms of the exponential, up to 0.347: the next is 4e-18; and of the inverse hyperbolic tangent up to 0.172: 6e-19."""
_ROUND = 1.5 * 2.0**52
"""Added to a number, it leaves the nearest whole one in the last bits."""
_BELOW, _ABOVE = -746.0, 710.0
"""Where the exponential is 0 and infinite."""


def number(value: float) -> str:
    """A literal, bit by bit, on all lanes."""
    return f"splat (double {real(value)})"


def whole(value: int) -> str:
    """A whole literal on all lanes."""
    return f"splat (i64 {value})"


def _two_parts(cut: int) -> tuple[float, float]:
    """ln 2 as a number without its last `cut` bits, and the rest."""
    with localcontext() as context:
        context.prec = 60
        exact = Decimal(2).ln()
        scale = 2 ** (53 - cut)
        first = math.floor(exact * scale) / scale
        return first, float(exact - Decimal(first))


_LN2, _LN2_REST = _two_parts(0)
_LN2_SHORT, _LN2_SHORT_REST = _two_parts(11)
"""The second can be multiplied by any exponent of two without rounding."""


class _Text(Code):
    """Lines of one function."""

    def two(self, op: str, a: str, b: str) -> str:
        return self.put(f"{op} {REALS} {a}, {b}")

    def whole(self, op: str, a: str, b: str) -> str:
        return self.put(f"{op} {WHOLES} {a}, {b}")

    def fma(self, a: str, b: str, c: str) -> str:
        return self.put(f"call {REALS} @llvm.fma.{SUFFIX}({REALS} {a}, {REALS} {b}, {REALS} {c})")

    def negative(self, a: str) -> str:
        return self.put(f"fneg {REALS} {a}")

    def compare(self, word: str, a: str, b: str) -> str:
        return self.put(f"fcmp {word} {REALS} {a}, {b}")

    def select(self, condition: str, a: str, b: str) -> str:
        return self.put(f"select {TRUTHS} {condition}, {REALS} {a}, {REALS} {b}")

    def bits_of(self, a: str) -> str:
        return self.put(f"bitcast {REALS} {a} to {WHOLES}")

    def real(self, a: str) -> str:
        return self.put(f"bitcast {WHOLES} {a} to {REALS}")

    def series(self, x: str, coefficients: list[float]) -> str:
        """A polynomial, terms that do not wait for each other side by side (Estrin 1960)."""
        terms = [number(c) for c in coefficients]
        while len(terms) > 1:
            pairs = [self.fma(x, b, a) for a, b in zip(terms[::2], terms[1::2], strict=False)]
            terms = pairs + terms[len(pairs) * 2 :]
            x = self.two("fmul", x, x)
        return terms[0]

    def function(self, name: str, arguments: Iterable[str], result: str) -> str:
        given = ", ".join(f"{REALS} %{argument}" for argument in arguments)
        head = f"define internal {REALS} @{name}_abreast({given}) alwaysinline {{"
        return "\n".join([head, *self.lines, f"  ret {REALS} {result}", "}"])


def _power_of_two(text: _Text, exponent: str) -> str:
    shifted = text.whole("shl", text.whole("add", exponent, whole(1023)), whole(52))
    return text.real(shifted)


def _exp(less_one: bool) -> str:
    """exp(x + tail), with a small tail; or exp(x) - 1."""
    text = _Text()
    x = text.select(text.compare("ogt", "%x", number(_ABOVE)), number(_ABOVE), "%x")
    x = text.select(text.compare("olt", x, number(_BELOW)), number(_BELOW), x)
    raised = text.fma(x, number(1.0 / math.log(2.0)), number(_ROUND))
    count = text.two("fsub", raised, number(_ROUND))
    minus = text.negative(count)
    r = text.fma(minus, number(_LN2_REST), text.fma(minus, number(_LN2), x))
    if not less_one:
        r = text.two("fadd", r, "%tail")
    p = text.series(r, [1.0 / math.factorial(k) for k in range(2, _POWERS)])
    grown = text.fma(text.two("fmul", r, r), p, r)
    exponent = text.whole("sub", text.bits_of(raised), whole(bits(_ROUND)))
    half = text.whole("ashr", exponent, whole(1))
    first, second = _power_of_two(text, half), _power_of_two(text, text.whole("sub", exponent, half))
    if less_one:
        # the power of two is exact but where nothing of 1 is left anyway
        power = text.two("fmul", first, second)
        huge = text.compare("ogt", x, number(700.0))
        most = text.two("fmul", text.two("fmul", text.two("fadd", grown, number(1.0)), first), second)
        usual = text.fma(grown, power, text.two("fsub", power, number(1.0)))
        return text.function("expm1", "x", text.select(huge, most, usual))
    result = text.two("fmul", text.two("fmul", text.two("fadd", grown, number(1.0)), first), second)
    return text.function("exp", ("x", "tail"), result)


def _logarithm(text: _Text) -> tuple[str, str]:
    """ln x of a positive and finite x as a number and what is missing to it."""
    tiny = text.compare("olt", "%x", number(2.0**-1022))
    x = text.select(tiny, text.two("fmul", "%x", number(2.0**54)), "%x")
    word = text.bits_of(x)
    exponent = text.whole("ashr", text.whole("sub", word, whole(bits(math.sqrt(0.5)))), whole(52))
    m = text.real(text.whole("sub", word, text.whole("shl", exponent, whole(52))))
    power = text.two("fsub", text.real(text.whole("add", exponent, whole(bits(_ROUND)))), number(_ROUND))
    power = text.two("fsub", power, text.select(tiny, number(54.0), number(0.0)))
    f, d = text.two("fsub", m, number(1.0)), text.two("fadd", m, number(1.0))
    s = text.two("fdiv", f, d)
    lost = text.two("fsub", m, text.two("fsub", d, number(1.0)))
    missing = text.two("fsub", text.fma(text.negative(s), d, f), text.two("fmul", s, lost))
    rest = text.two("fdiv", missing, d)
    z = text.two("fmul", s, s)
    p = text.two("fmul", z, text.series(z, [2.0 / (2 * k + 1) for k in range(1, _ODD)]))
    twice = text.two("fadd", s, s)
    low = text.fma(s, p, text.two("fadd", rest, rest))
    large = text.two("fmul", power, number(_LN2_SHORT))
    high = text.two("fadd", large, twice)
    low = text.two("fadd", low, text.two("fsub", twice, text.two("fsub", high, large)))
    low = text.fma(power, number(_LN2_SHORT_REST), low)
    total = text.two("fadd", high, low)
    return total, text.two("fsub", low, text.two("fsub", total, high))


def _within(text: _Text, usual: str) -> str:
    """ln x where that is no number, or infinite."""
    finite = text.compare("olt", "%x", number(math.inf))
    positive = text.compare("ogt", "%x", number(0.0))
    beyond = text.select(text.compare("oeq", "%x", number(math.inf)), number(math.inf), number(math.nan))
    odd = text.select(text.compare("oeq", "%x", number(0.0)), number(-math.inf), beyond)
    ordinary = text.put(f"and {TRUTHS} {finite}, {positive}")
    return text.select(ordinary, usual, odd)


def _log() -> str:
    text = _Text()
    total, _ = _logarithm(text)
    return text.function("log", "x", _within(text, total))


def _log_in_two() -> list[str]:
    """The number and what is missing to it, for powers."""
    text = _Text()
    total, missing = _logarithm(text)
    pair = f"{{ {REALS}, {REALS} }}"
    first = text.put(f"insertvalue {pair} poison, {REALS} {total}, 0")
    both = text.put(f"insertvalue {pair} {first}, {REALS} {missing}, 1")
    return [
        f"define internal {pair} @log_in_two_abreast({REALS} %x) alwaysinline {{",
        *text.lines,
        f"  ret {pair} {both}",
        "}",
    ]


def _log1p() -> str:
    """By the logarithm of the sum, and what the sum has lost (Kahan)."""
    text = _Text()
    sum_ = text.two("fadd", "%x", number(1.0))
    log = text.put(f"call {REALS} @log_abreast({REALS} {sum_})")
    lost = text.two("fdiv", text.two("fsub", "%x", text.two("fsub", sum_, number(1.0))), sum_)
    finite = text.compare("olt", text.put(f"call {REALS} @llvm.fabs.{SUFFIX}({REALS} {log})"), number(math.inf))
    return text.function("log1p", "x", text.select(finite, text.two("fadd", log, lost), log))


def _tanh() -> str:
    text = _Text()
    size = text.put(f"call {REALS} @llvm.fabs.{SUFFIX}({REALS} %x)")
    few = text.select(text.compare("ogt", size, number(22.0)), number(22.0), size)
    grown = text.put(f"call {REALS} @expm1_abreast({REALS} {text.two('fadd', few, few)})")
    found = text.two("fdiv", grown, text.two("fadd", grown, number(2.0)))
    signed = text.put(f"call {REALS} @llvm.copysign.{SUFFIX}({REALS} {found}, {REALS} %x)")
    return text.function("tanh", "x", signed)


def _pow_usual() -> str:
    """Of positive and finite bases."""
    text = _Text()
    pair = f"{{ {REALS}, {REALS} }}"
    both = text.put(f"call {pair} @log_in_two_abreast({REALS} %x)")
    log, missing = (text.put(f"extractvalue {pair} {both}, {k}") for k in range(2))
    product = text.two("fmul", "%y", log)
    rest = text.fma("%y", missing, text.fma("%y", log, text.negative(product)))
    size = text.put(f"call {REALS} @llvm.fabs.{SUFFIX}({REALS} {product})")
    tail = text.select(text.compare("olt", size, number(800.0)), rest, number(0.0))
    return text.function(
        "pow_usual", ("x", "y"), text.put(f"call {REALS} @exp_abreast({REALS} {product}, {REALS} {tail})")
    )


_COMPOSED = """
define internal i1 @any_abreast(TRUTHS %c) alwaysinline {
  %word = bitcast TRUTHS %c to iLANES
  %y = icmp ne iLANES %word, 0
  ret i1 %y
}
define internal REALS @limexp_abreast(REALS %x) alwaysinline {
  %small = fcmp olt REALS %x, splat (double 700.0)
  %arg = select TRUTHS %small, REALS %x, REALS splat (double 700.0)
  %e = call REALS @exp_abreast(REALS %arg, REALS zeroinitializer)
  %over = fsub REALS %x, %arg
  %factor = fadd REALS %over, splat (double 1.0)
  %y = fmul REALS %e, %factor
  ret REALS %y
}
define internal REALS @lesser_abreast(REALS %a, REALS %b) alwaysinline {
  %c = fcmp olt REALS %b, %a
  %y = select TRUTHS %c, REALS %b, REALS %a
  ret REALS %y
}
define internal REALS @greater_abreast(REALS %a, REALS %b) alwaysinline {
  %c = fcmp ogt REALS %b, %a
  %y = select TRUTHS %c, REALS %b, REALS %a
  ret REALS %y
}
define internal REALS @pow_abreast(REALS %x, REALS %y) {
  %above = fcmp ogt REALS %x, zeroinitializer
  %below = fcmp olt REALS %x, splat (double 0x7FF0000000000000)
  %size = call REALS @llvm.fabs.SUFFIX(REALS %y)
  %mild = fcmp olt REALS %size, splat (double 1.0e300)
  %finite = and TRUTHS %above, %below
  %usual = and TRUTHS %finite, %mild
  %odd = xor TRUTHS %usual, splat (i1 true)
  %found = call REALS @pow_usual_abreast(REALS %x, REALS %y)
  %any = call i1 @any_abreast(TRUTHS %odd)
  br i1 %any, label %slow, label %fast
slow:
  %one = call REALS @llvm.pow.SUFFIX(REALS %x, REALS %y)
  %mixed = select TRUTHS %usual, REALS %found, REALS %one
  ret REALS %mixed
fast:
  ret REALS %found
}
define internal REALS @power_slope_abreast(REALS %base, REALS %exponent, REALS %power) alwaysinline {
  %zero = fcmp oeq REALS %base, zeroinitializer
  %n = fmul REALS %exponent, %power
  %q = fdiv REALS %n, %base
  %any = call i1 @any_abreast(TRUTHS %zero)
  br i1 %any, label %slow, label %fast
slow:
  %lower = fsub REALS %exponent, splat (double 1.0)
  %p = call REALS @pow_abreast(REALS %base, REALS %lower)
  %s = fmul REALS %exponent, %p
  %mixed = select TRUTHS %zero, REALS %s, REALS %q
  ret REALS %mixed
fast:
  ret REALS %q
}
declare iLANES @llvm.ctpop.iLANES(iLANES)
declare REALS @llvm.fma.SUFFIX(REALS, REALS, REALS)
declare REALS @llvm.copysign.SUFFIX(REALS, REALS)
declare WHOLES @llvm.fptosi.sat.vLANESi64.SUFFIX(REALS)
"""

OWN = frozenset({"exp", "expm1", "log", "log1p", "tanh", "pow", "limexp", "lesser", "greater", "power_slope"})
"""What is worked out for all lanes at once here."""
NATIVE = frozenset({"sqrt", "fabs", "floor", "ceil"})
"""What processors do for all lanes at once; everything else is called for one after the other."""


def stem_of(symbol: str) -> str:
    """The name of a function without what says for which numbers it is."""
    return symbol.removeprefix("llvm.").removesuffix(".f64")


_NAMES = {
    "REALS": REALS, "WHOLES": WHOLES, "TRUTHS": TRUTHS, "INTS": f"<{LANES} x i32>", "LANES": str(LANES), "SUFFIX": SUFFIX
}  # fmt: skip


def spelled(text: str) -> str:
    """A text with the types of so many lanes."""
    for name, stands_for in _NAMES.items():
        text = text.replace(name, stands_for)
    return text


def functions_abreast() -> str:
    """All of them, as text."""
    intrinsics = [f"declare REALS @llvm.{name}.SUFFIX(REALS)" for name in sorted(NATIVE)]
    intrinsics.append("declare REALS @llvm.pow.SUFFIX(REALS, REALS)")
    made = [_exp(False), _exp(True), _log(), *_log_in_two(), _log1p(), _tanh(), _pow_usual()]
    return "\n".join([*made, spelled("\n".join([_COMPOSED, *intrinsics]))])


def one_after_the_other(symbol: str, arity: int, kind: str = "double") -> str:
    """A function of all lanes that calls one of a single lane for each."""
    lanes = f"<{LANES} x {kind}>"
    given = ", ".join(f"{lanes} %a{k}" for k in range(arity))
    lines = [f"define internal {lanes} @{stem_of(symbol)}_abreast({given}) {{"]
    before = "poison"
    for lane in range(LANES):
        for k in range(arity):
            lines.append(f"  %e{lane}_{k} = extractelement {lanes} %a{k}, i64 {lane}")
        called = ", ".join(f"{kind} %e{lane}_{k}" for k in range(arity))
        lines.append(f"  %y{lane} = call {kind} @{symbol}({called})")
        lines.append(f"  %v{lane} = insertelement {lanes} {before}, {kind} %y{lane}, i64 {lane}")
        before = f"%v{lane}"
    return "\n".join([*lines, f"  ret {lanes} {before}", "}"])
