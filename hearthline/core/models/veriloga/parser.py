"""From preprocessed text to the tree, with a plain sentence for each mistake in the grammar."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from lark import Lark, Token, v_args
from lark.exceptions import UnexpectedCharacters, UnexpectedInput, UnexpectedToken, VisitError
from lark.visitors import Transformer_NonRecursive

from hearthline.core import limits
from hearthline.core.models.veriloga import tree
from hearthline.core.models.veriloga.problems import Problems, UnusableError

GRAMMAR = Path(__file__).with_name("grammar.lark")
MOST_MISTAKES = 20
SCALES = dict(T=1e12, G=1e9, M=1e6, K=1e3, k=1e3, m=1e-3, u=1e-6, n=1e-9, p=1e-12, f=1e-15, a=1e-18)
TYPICAL = {"SEMICOLON": "';'", "RPAR": "')'", "RSQB": "']'", "END": "'end'", "COMMA": "','", "LPAR": "'('",
           "EQUAL": "'='", "COLON": "':'", "NAME": "a name", "ENDMODULE": "'endmodule'",
           "ENDFUNCTION": "'endfunction'", "ENDCASE": "'endcase'"}  # fmt: skip
"""What is worth telling a person when it is missing, the most likely first."""

DIGITAL = ("always", "assign", "wire", "reg", "initial", "generate", "specify", "task", "supply0", "supply1")


@cache
def _parser() -> Lark:
    return Lark(GRAMMAR.read_text(encoding="utf-8"), parser="lalr", lexer="basic", propagate_positions=True,
                maybe_placeholders=True)  # fmt: skip


def parse(text: str, problems: Problems) -> tuple[tree.Module, ...]:
    """The modules of a preprocessed text. Mistakes go into `problems`; what stands after one is read on from the next
    `;` where that makes sense. Raises UnusableError where nothing can be made of the text."""
    reporter = _Reporter(problems, text.split("\n"))
    try:
        found = _parser().parse(text, on_error=reporter)
    except UnexpectedInput as error:
        reporter.note(error)
        raise UnusableError() from None
    except (IndexError, KeyError, AssertionError):  # a repair that led nowhere; the mistake itself is written down
        if problems.mistakes:
            raise UnusableError() from None
        raise
    if problems.mistakes:
        raise UnusableError()
    try:
        modules = tuple(_Builder().transform(found))
    except VisitError as error:
        raise error.orig_exc from None
    _check_depth(modules, problems)
    return modules


def _check_depth(modules: tuple[tree.Module, ...], problems: Problems) -> None:
    """Refuses what stands too deep in each other; sums and products may be as long as they like."""
    waiting: list[tuple[object, int, int]] = [(module, 0, 1) for module in modules]
    while waiting:
        item, depth, line = waiting.pop()
        if isinstance(item, tree.Node):
            depth, line = depth + 1, item.line
            if depth > limits.DEPTH:
                problems.mistake(
                    line,
                    f"brackets, signs, conditions and blocks stand more than {limits.DEPTH} deep in each other here; "
                    "use variables in between",
                )
                raise UnusableError()
            for name, value in item.__dict__.items():
                chained = isinstance(item, tree.Binary) and name == "left" and isinstance(value, tree.Binary)
                waiting.append((value, depth - chained, line))
        elif isinstance(item, tuple | list):
            waiting += [(one, depth, line) for one in item]
        elif isinstance(item, dict):
            waiting += [(one, depth, line) for one in item.values()]


class _Reporter:
    """Called by the parser at each mistake: writes it down and mends the text in the likeliest way."""

    def __init__(self, problems: Problems, lines: list[str]):
        self.problems, self.lines = problems, lines

    def note(self, error: UnexpectedInput) -> None:
        line = max(error.line, 1)
        if isinstance(error, UnexpectedCharacters):
            self.problems.mistake(line, f"'{error.char}' has no meaning here")
            return
        token = error.token
        self.problems.mistake(line, self._sentence(error, token))

    def _sentence(self, error: UnexpectedToken, token: Token) -> str:
        found = "the end of the text" if token.type == "$END" else f"'{token}'"
        first = self.lines[token.line - 1].split()[:1] if token.line else []
        if digital := {str(token), *first} & set(DIGITAL):
            return (
                f"'{min(digital)}' belongs to digital descriptions; only the analog part of the language is understood"
            )
        accepted = error.interactive_parser.accepts() if hasattr(error, "interactive_parser") else set()
        if token.type == "LPAR" and accepted == {"SEMICOLON", "COMMA"}:
            return "a module inside a module is not supported; join modules in a .subckt of a deck, or in a cell"
        if accepted and "SEMICOLON" in accepted:
            return f"expected ';' before {found}"
        for name, words in TYPICAL.items():
            if name in accepted:
                return f"expected {words} before {found}"
        return f"{found} is not understood here"

    def __call__(self, error: UnexpectedInput) -> bool:
        self.note(error)
        if len(self.problems.mistakes) > MOST_MISTAKES:
            return False
        if isinstance(error, UnexpectedCharacters):
            return False
        return self._fix(error)

    def _fix(self, error: UnexpectedToken) -> bool:
        parser, token = error.interactive_parser, error.token
        if token.type == "$END":
            return False
        if "SEMICOLON" in parser.accepts():
            parser.feed_token(Token("SEMICOLON", ";"))
            if token.type in parser.accepts():
                parser.feed_token(token)
                return True
        return self._skip(parser, token)

    @staticmethod
    def _skip(parser, token: Token) -> bool:
        """Reads on after the next `;`, and gives up what stood open within the statement."""
        stream = parser.lexer_thread.lex(parser.parser_state)
        while token.type not in ("SEMICOLON", "$END"):
            token = next(stream, None) or Token("$END", "")
        if token.type == "$END":
            return False
        states, values = parser.parser_state.state_stack, parser.parser_state.value_stack
        while len(states) > 1:
            accepted = parser.accepts()
            if "SEMICOLON" in accepted and ("BEGIN" in accepted or "ENDMODULE" in accepted):
                parser.feed_token(Token("SEMICOLON", ";"))
                return True
            states.pop()
            if values:
                values.pop()
        return False


def number(text: str) -> float:
    """The value of a literal with its scale factor."""
    plain = text.replace("_", "")
    if plain[-1] in SCALES:
        return float(plain[:-1]) * SCALES[plain[-1]]
    return float(plain)


def _texts(tokens) -> tuple[str, ...]:
    return tuple(str(t).lstrip("\\") for t in tokens if isinstance(t, Token) and t.type == "NAME")


def _without_none(items) -> tuple:
    return tuple(item for item in items if item is not None)


def _split(items) -> tuple[dict[str, str], list]:
    """Attributes in front, and the rest."""
    attributes: dict[str, str] = {}
    rest = []
    for item in items:
        if isinstance(item, dict):
            attributes.update(item)
        else:
            rest.append(item)
    return attributes, rest


@v_args(meta=True)
class _Builder(Transformer_NonRecursive):
    """One method for each rule of the grammar."""

    def _line(self, meta) -> int:
        return getattr(meta, "line", 1)

    # expressions
    def number(self, meta, items):
        return tree.Number(meta.line, number(items[0]), items[0].isdigit())

    def string(self, meta, items):
        return tree.Text(meta.line, items[0][1:-1].replace('\\"', '"').replace("\\n", "\n"))

    def infinity(self, meta, items):
        return tree.Number(self._line(meta), float("inf"))

    def name(self, meta, items):
        return tree.Name(meta.line, str(items[0]).lstrip("\\"))

    def element(self, meta, items):
        return tree.Element(meta.line, str(items[0]), items[1])

    def unary(self, meta, items):
        return tree.Unary(meta.line, str(items[0]), items[1])

    def binary(self, meta, items):
        return tree.Binary(meta.line, str(items[1]), items[0], items[2])

    def bit_or(self, meta, items):
        return tree.Binary(meta.line, "|", *items)

    def bit_xor(self, meta, items):
        return tree.Binary(meta.line, "^", *items)

    def bit_and(self, meta, items):
        return tree.Binary(meta.line, "&", *items)

    def ternary(self, meta, items):
        return tree.Ternary(meta.line, *items)

    def call(self, meta, items):
        return tree.Call(meta.line, str(items[0]), _without_none(items[1:]))

    def port_call(self, meta, items):
        return tree.PortCall(meta.line, str(items[0]), str(items[2]))

    def system(self, meta, items):
        return tree.System(meta.line, str(items[0]), _without_none(items[1:]))

    def array(self, meta, items):
        return tree.Array(self._line(meta), _without_none(items))

    # attributes
    def attribute(self, meta, items):
        value = items[1]
        text = value.value if isinstance(value, tree.Text) else getattr(value, "name", "")
        return str(items[0]), str(text)

    def attributes(self, meta, items):
        return dict(items)

    # statements
    def statement(self, meta, items):
        return _split(items)[1][0]

    def nothing(self, meta, items):
        return tree.Block(self._line(meta), (), ())

    def block(self, meta, items):
        declarations, statements, attributes = [], [], {}
        for item in items:
            if isinstance(item, dict):
                attributes = item
            elif isinstance(item, list):
                declarations.extend(_with_attributes(one, attributes) for one in item)
                attributes = {}
            elif isinstance(item, tree.Node):
                statements.append(item)
        return tree.Block(self._line(meta), tuple(declarations), tuple(statements))

    def condition(self, meta, items):
        return tree.If(meta.line, *items)

    def choice(self, meta, items):
        return tree.Case(meta.line, items[0], tuple(items[1:]))

    def case(self, meta, items):
        *labels, body = items
        return (tuple(labels) or None), body

    def repeat(self, meta, items):
        return tree.Repeat(meta.line, *items)

    def assign(self, meta, items):
        return items[0]

    def assignment(self, meta, items):
        return tree.Assign(meta.line, str(items[0]), None, items[1])

    def element_assignment(self, meta, items):
        return tree.Assign(meta.line, str(items[0]), items[1], items[2])

    def contribution(self, meta, items):
        return tree.Contribute(meta.line, *items)

    def indirect(self, meta, items):
        return tree.Indirect(meta.line, *items)

    def event(self, meta, items):
        names = tuple(str(t) for t in items if isinstance(t, Token) and t.type == "NAME")
        return tree.Event(meta.line, names, items[-1])

    def task(self, meta, items):
        return tree.Task(meta.line, str(items[0]), _without_none(items[1:]))

    # declarations
    def dimension(self, meta, items):
        return tuple(items)

    def between(self, meta, items):
        return items[0], items[1], True, True

    def up_to(self, meta, items):
        return items[0], items[1], True, False

    def from_on(self, meta, items):
        return items[0], items[1], False, True

    def within(self, meta, items):
        return items[0], items[1], False, False

    def limit(self, meta, items):
        exclude, what = items[0].type == "EXCLUDE", items[1]
        if isinstance(what, tuple):
            return tree.Limit(meta.line, exclude, *what)
        return tree.Limit(meta.line, exclude, values=what.items if isinstance(what, tree.Array) else (what,))

    def parameter(self, meta, items):
        name, size, default, *limits = items
        return tree.Parameter(meta.line, str(name), "", default, tuple(limits), size)

    def parameters(self, meta, items):
        word, type_, *declared = items
        kind = str(type_) if type_ else ""
        return [_replaced(one, type=kind, fixed=word == "localparam") for one in declared]

    def variable(self, meta, items):
        name, *rest = items
        size = next((item for item in rest if isinstance(item, tuple)), None)
        start = next((item for item in rest if isinstance(item, tree.Node)), None)
        return tree.Variable(meta.line, str(name), "", size, start)

    def variables(self, meta, items):
        return [_replaced(one, type=str(items[0])) for one in items[1:]]

    def alias(self, meta, items):
        return [tree.Alias(meta.line, *map(str, items))]

    def directions(self, meta, items):
        direction, discipline, *names = items
        return [tree.Nets(meta.line, str(discipline or ""), _texts(names), str(direction))]

    def nets(self, meta, items):
        return [tree.Nets(meta.line, str(items[0]), _texts(items[1:]))]

    def grounds(self, meta, items):
        return [tree.Nets(meta.line, "ground", _texts(items))]

    def branches(self, meta, items):
        port = items[0].type == "LESS"
        if port:
            return [tree.Branch(meta.line, _texts(items[1:2]), _texts(items[4:]), True)]
        second = 1 if items[1] is None else 2
        nets = _texts(items[:second])
        return [tree.Branch(meta.line, nets, _texts(items[2:]))]

    def function_input(self, meta, items):
        direction, _, *names = items
        return [(name, str(direction)) for name in _texts(names)]

    def function(self, meta, items):
        type_, name, *rest = items
        arguments = [one for group in rest[:-1] for one in group if isinstance(one, tuple)]
        variables = [one for group in rest[:-1] for one in group if isinstance(one, tree.Variable)]
        kind = str(type_ or "real")
        return [tree.Function(meta.line, str(name), kind, tuple(arguments), tuple(variables), rest[-1])]

    def analog(self, meta, items):
        return [tree.Analog(meta.line, items[-1])]

    # modules
    def port(self, meta, items):
        attributes, rest = _split(items)
        words = [str(token) for token in rest if token is not None]
        direction = words.pop(0) if words[0] in ("inout", "input", "output") else ""
        return tree.Nets(meta.line, words[0] if len(words) > 1 else "", (words[-1],), direction, attributes)

    def ports(self, meta, items):
        return _Ports(_without_none(items))

    def module(self, meta, items):
        attributes, rest = {}, list(items)
        if isinstance(rest[0], dict):
            attributes = rest.pop(0)
        name, ports, *content = rest
        declared: list[tree.Node] = []
        pending: dict[str, str] = {}
        for item in [*(ports or ()), *content]:
            if isinstance(item, dict):
                pending = item
            elif isinstance(item, tree.Nets) and item in (ports or ()):
                declared.append(item)
            elif isinstance(item, list):
                declared.extend(_with_attributes(one, pending) for one in item)
                pending = {}
        names = tuple(port.names[0] for port in ports or ())
        return tree.Module(meta.line, str(name), names, tuple(declared), attributes)

    def nature(self, meta, items):
        return None

    def discipline(self, meta, items):
        return None

    def start(self, meta, items):
        return [item for item in items if isinstance(item, tree.Module)]


for _rule, _kind in (("for", tree.For), ("while", tree.While)):
    setattr(_Builder, _rule, v_args(meta=True)(lambda self, meta, items, kind=_kind: kind(meta.line, *items)))


class _Ports(tuple):
    """The ports of a module."""


def _replaced(node, **changes):
    return type(node)(**{**node.__dict__, **changes})


def _with_attributes(node, attributes):
    return _replaced(node, attributes=attributes) if attributes and hasattr(node, "attributes") else node
