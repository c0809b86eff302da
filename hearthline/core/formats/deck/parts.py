"""The part lines of a deck: which tokens are nodes, model and values, letter by letter."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from hearthline.core.circuit.netlist import GROUND, Wave
from hearthline.core.circuit.wave_text import FORMS as SHAPES
from hearthline.core.circuit.wave_text import direct_value
from hearthline.core.errors import QuantityError
from hearthline.core.expression import Expression
from hearthline.core.formats.deck.behavioural import Behaviour, behaviour, polynomial, read_source
from hearthline.core.formats.deck.lines import Line, unquoted
from hearthline.core.models.module import Module
from hearthline.core.quantity import read_deck

INITIAL = "ic"
"""What a transient may begin with: a voltage, or the current of an inductor."""


@dataclass(frozen=True)
class PartLine:
    """A part as its line says: nodes, model or block name, values, and the source that controls it."""

    line: Line
    kind: str
    nodes: tuple[str, ...]
    model: str = ""
    values: dict[str, Expression] = field(default_factory=dict)
    control: str = ""
    wave: Wave | None = None
    initial: Expression | None = None
    module: Module | None = None

    @property
    def name(self) -> str:
        """The part's name."""
        return self.line.head


def read_part(line: Line) -> PartLine:
    """Reads one part line; raises DeckError saying what the line should look like."""
    letter = line.head[0]
    if letter not in _READERS:
        raise line.error(
            f"'{line.head}' begins with no letter of a part; parts are {_letters()} and cards begin with '.'"
        )
    return _READERS[letter](line)


def _letters() -> str:
    return " ".join(letter.upper() for letter in _READERS)


def _node(token: str) -> str:
    return GROUND if token == "gnd" else token


def _is_number(token: str) -> bool:
    if token[0] in "{'":
        return True
    try:
        read_deck(token)
    except QuantityError:
        return False
    return True


def _take(line: Line, alone: list[str], count: int, form: str) -> tuple[str, ...]:
    if len(alone) < count:
        raise line.error(f"{line.head} has too few nodes or values; write it as `{form}`")
    return tuple(_node(token) for token in alone[:count])


def _no_more(line: Line, rest: list[str], form: str) -> None:
    if rest:
        raise line.error(f"'{rest[0]}' at the end of {line.head} is not understood; write it as `{form}`")


def _two_terminal(kind: str, name: str, form: str) -> Callable[[Line], PartLine]:
    def read(line: Line) -> PartLine:
        alone, values = line.split()
        nodes, rest = _take(line, alone, 2, form), alone[2:]
        initial = values.pop(INITIAL, None)
        model = ""
        if rest and _is_number(rest[0]):
            values[name] = line.expression(rest.pop(0))
        if rest and kind != "L":
            model = rest.pop(0)
            if rest and _is_number(rest[0]) and name not in values:
                values[name] = line.expression(rest.pop(0))
        _no_more(line, rest, form)
        if name not in values and not model:
            raise line.error(f"{line.head} has two nodes and no value, or a node is missing; write it as `{form}`")
        return PartLine(line, kind, nodes, model, values, initial=initial)

    return read


def _source(kind: str) -> Callable[[Line], PartLine]:
    form = f"{kind.lower()}1 a b dc 1.2"

    def read(line: Line) -> PartLine:
        alone, values = line.split()
        nodes, rest = _take(line, alone, 2, form), alone[2:]
        wave = None
        if rest and rest[0] not in ("dc", "ac", *SHAPES):
            values["dc"] = line.expression(rest.pop(0))
        while rest:
            word = rest.pop(0)
            if word == "dc" and rest:
                values["dc"] = line.expression(rest.pop(0))
            elif word == "ac":
                values["mag"] = Expression.constant(1.0)
                for name in ("mag", "phase"):
                    if rest and _is_number(rest[0]):
                        values[name] = line.expression(rest.pop(0))
            elif word in SHAPES:
                wave = Wave(word, _shape_numbers(line, word, rest))
                values.setdefault("dc", direct_value(wave))
            else:
                raise line.error(f"'{word}' in source {line.head} is not understood; write it as `{form}`")
        return PartLine(line, kind, nodes, "", values, wave=wave)

    return read


def _shape_numbers(line: Line, shape: str, rest: list[str]) -> tuple[Expression, ...]:
    """Takes the numbers of a shape from `rest`."""
    numbers = []
    while rest and rest[0] not in ("dc", "ac"):
        if not _is_number(rest[0]) and not rest[0].isidentifier():
            break
        numbers.append(line.expression(rest.pop(0)))
    least = 4 if shape == "pwl" else 2
    if len(numbers) < least or (shape == "pwl" and len(numbers) % 2):
        raise line.error(f"{shape}(...) of {line.head} has too few numbers; write {SHAPES[shape]}")
    if shape != "pwl" and len(numbers) > SHAPES[shape].count(" ") + 1:
        raise line.error(f"{shape}(...) of {line.head} has too many numbers; write {SHAPES[shape]}")
    return tuple(numbers)


def _controlled_by_voltage(kind: str, name: str, which: str) -> Callable[[Line], PartLine]:
    form = f"{kind.lower()}1 out 0 inp inn 10"

    def read(line: Line) -> PartLine:
        alone, values = line.split()
        if "poly" in alone[2:3]:
            return _polynomial(line, alone, 2, which)
        if alone[2:3] == ["value"] or "value" in values or "table" in alone:
            raise line.error(f"{line.head}: write an expression as a B part, as in `b1 out 0 {which}={{2*v(in)}}`")
        nodes = _take(line, alone, 4, form)
        rest = alone[4:]
        if not rest:
            raise line.error(f"{line.head} has too few nodes or values; write it as `{form}`")
        values[name] = line.expression(rest.pop(0))
        _no_more(line, rest, form)
        return PartLine(line, kind, nodes, "", values)

    return read


def _controlled_by_current(kind: str, which: str) -> Callable[[Line], PartLine]:
    form = f"{kind.lower()}1 out 0 vsense 10"

    def read(line: Line) -> PartLine:
        alone, values = line.split()
        if "poly" in alone[2:3]:
            return _polynomial(line, alone, 1, which)
        nodes = _take(line, alone, 2, form)
        rest = alone[2:]
        if len(rest) < 2:
            raise line.error(f"{line.head} has too few nodes or values; write it as `{form}`")
        control = rest.pop(0)
        values["gain"] = line.expression(rest.pop(0))
        _no_more(line, rest, form)
        return PartLine(line, kind, nodes, "", values, control)

    return read


def _polynomial(line: Line, alone: list[str], each: int, which: str) -> PartLine:
    """`poly(n)`, the inputs, and the coefficients; `each` input is two nets or one source."""
    form = f"{line.head} out 0 poly(1) {'in 0' if each == 2 else 'vsense'} 0 1 0.5"
    count = alone[3] if len(alone) > 3 else ""
    if not count.isdigit() or not int(count) or len(alone) < 5 + each * int(count):
        raise line.error(
            f"{line.head}: a polynomial has its number of inputs, them, and coefficients; write it as `{form}`"
        )
    names, coefficients = alone[4 : 4 + each * int(count)], alone[4 + each * int(count) :]
    if each == 2:
        inputs = [f"v({a},{b})" for a, b in zip(names[::2], names[1::2], strict=True)]
    else:
        inputs = [f"i({name})" for name in names]
    text = polynomial(line, inputs, [unquoted(token) for token in coefficients])
    return _behavioural(line, _take(line, alone, 2, form), behaviour(line, which, text))


def _behavioural(line: Line, nodes: tuple[str, ...], found: Behaviour) -> PartLine:
    return PartLine(line, "B", (*nodes, *found.nets), "", found.values, " ".join(found.controls), module=found.module)


def _expression_source(line: Line) -> PartLine:
    return _behavioural(line, *read_source(line))


def _coupling(line: Line) -> PartLine:
    """Two inductors or more, and how closely each is coupled to each other."""
    alone, _ = line.split()
    if len(alone) < 3:
        raise line.error(f"{line.head} has too few inductors, or no coefficient; write it as `k1 l1 l2 0.9`")
    values = {"k": line.expression(alone[-1])}
    return PartLine(line, "K", (), "", values, " ".join(alone[:-1]))


LOSSY = {"r", "l", "g", "c", "len"}
"""What a line with losses is given by: for a length each, and the length."""


def _line(line: Line) -> PartLine:
    """Two ports; impedance with the delay or a frequency and the length in wavelengths, or what it has for a length."""
    alone, values = line.split()
    form = "t1 a 0 b 0 z0=50 td=1n"
    values = {("z0" if key == "zo" else key): value for key, value in values.items() if key != INITIAL}
    nodes = _take(line, alone, 4, form)
    _no_more(line, alone[4:], form)
    if "len" in values:
        if not {"l", "c"} <= set(values) <= LOSSY:
            raise line.error(
                f"{line.head} needs l, c and len, and may have r and g; write it as `t1 a 0 b 0 l=250n c=100p len=0.1`"
            )
        return PartLine(line, "T", nodes, "", values)
    if "td" not in values and "f" in values:
        length = values.get("nl", Expression.constant(0.25))
        values["td"] = Expression.parse(f"({length.text})/({values['f'].text})", deck=True)
    values = {key: value for key, value in values.items() if key not in ("f", "nl")}
    if set(values) != {"z0", "td"}:
        raise line.error(f"{line.head} needs its impedance z0 and its delay td (or f, and nl); write it as `{form}`")
    return PartLine(line, "T", nodes, "", values)


def _with_model(kind: str, count: int, form: str, area: bool = False) -> Callable[[Line], PartLine]:
    def read(line: Line) -> PartLine:
        alone, values = line.split()
        rest = [token for token in alone if token != "off"]
        nodes = _take(line, rest, count, form)
        rest = rest[count:]
        initial = values.pop(INITIAL, None) if kind == "D" else None
        if values.pop(INITIAL, None) is not None:
            raise line.error(f"{line.head}: ic is not available for this kind of part; write .ic v(net)=value")
        if not rest:
            raise line.error(f"{line.head} has too few nodes, or no model; write it as `{form}`")
        model = rest.pop(0)
        if area and rest:
            values["area"] = line.expression(rest.pop(0))
        _no_more(line, rest, form)
        return PartLine(line, kind, nodes, model, values, initial=initial)

    return read


def _bipolar(line: Line) -> PartLine:
    """Three or four nodes: the last word that is no number is the model."""
    alone, values = line.split()
    rest = [token for token in alone if token != "off"]
    if INITIAL in values:
        raise line.error(f"{line.head}: ic is not available for this kind of part; write .ic v(net)=value")
    form = "q1 collector base emitter npnmodel"
    if len(rest) >= 5 and _is_number(rest[-1]):
        values["area"] = line.expression(rest.pop())
    if len(rest) not in (4, 5):
        raise line.error(f"{line.head} has too few nodes or too many, or no model; write it as `{form}`")
    return PartLine(line, "Q", tuple(_node(token) for token in rest[:-1]), rest[-1], values)


def _block(line: Line) -> PartLine:
    alone, values = line.split()
    alone = [token for token in alone if token not in ("params:", "params")]
    if len(alone) < 2:
        raise line.error(f"{line.head} needs nodes and the name of a block; write it as `x1 in out vdd inverter`")
    return PartLine(line, "X", tuple(_node(token) for token in alone[:-1]), alone[-1], values)


_READERS: dict[str, Callable[[Line], PartLine]] = {
    "r": _two_terminal("R", "r", "r1 a b 10k"),
    "c": _two_terminal("C", "c", "c1 a b 100f"),
    "l": _two_terminal("L", "l", "l1 a b 2n"),
    "v": _source("V"),
    "i": _source("I"),
    "e": _controlled_by_voltage("E", "gain", "v"),
    "g": _controlled_by_voltage("G", "gm", "i"),
    "f": _controlled_by_current("F", "i"),
    "h": _controlled_by_current("H", "v"),
    "b": _expression_source,
    "k": _coupling,
    "t": _line,
    "s": _with_model("S", 4, "s1 a b cp cn switchmodel"),
    "d": _with_model("D", 2, "d1 a k dmodel", area=True),
    "m": _with_model("M", 4, "m1 drain gate source bulk nmodel w=2u l=130n"),
    "j": _with_model("J", 3, "j1 drain gate source jmodel", area=True),
    "q": _bipolar,
    "x": _block,
}
