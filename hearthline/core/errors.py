"""Every error the core raises, in one tree.

HearthlineError             anything a user can mend; its text is written for the user
├── QuantityError           a text that is not a number with an allowed unit
├── BenchError              an entry of a bench that cannot be; knows which, so that its file can be pointed at
├── ExpressionError         an expression or formula with a mistake in it; knows the column
├── FileError               a file that cannot be read, or says something wrong; knows file, line, column
│   ├── DeckError           the same for decks and model cards
│   └── ModelError          the same for Verilog-A texts; knows all the mistakes found
├── CircuitError            a drawing or netlist that cannot be simulated; knows part and net
│   └── AnalysisError       a line of an analysis that cannot be done in its circuit; knows which
└── SolveError              the equations could not be solved
    └── ConvergenceError    Newton and its continuations gave up; knows the nets and parts that moved last
"""

from __future__ import annotations


class HearthlineError(Exception):
    """Anything a user can mend. The text says what is wrong and what to do."""


class QuantityError(HearthlineError):
    """A text that is not a number, or has a unit that does not fit."""


class BenchError(HearthlineError):
    """An entry of a bench that cannot be: the `key` of its section (`""`: of the bench itself), of a list of them the one at
    `index`."""

    def __init__(self, message: str, section: str, key: str, index: int = 0):
        super().__init__(message)
        self.section, self.key, self.index = section, key, index


class ExpressionError(HearthlineError):
    """An expression that cannot be read or evaluated; `column` counts from 1, or is 0 where it is not known."""

    def __init__(self, message: str, column: int = 0):
        super().__init__(message)
        self.column = column


class FileError(HearthlineError):
    """A file that cannot be used; `str()` reads `file:line:column: message`, without what is not known."""

    def __init__(self, message: str, file: str, line: int = 0, column: int = 0):
        place = ":".join([file, *(str(n) for n in (line, column) if n)])
        super().__init__(f"{place}: {message}")
        self.message, self.file, self.line, self.column = message, file, line, column


class DeckError(FileError):
    """A deck or a file of model cards that says something wrong; the line is the one a person must mend."""


class ModelError(FileError):
    """A Verilog-A text that cannot be compiled. `others` are further mistakes, each with `file`, `line` and `message`;
    `str()` has one line for each."""

    def __init__(self, message: str, file: str, line: int = 0, others: tuple = ()):
        super().__init__(message, file, line)
        self.others = others
        self.args = ("\n".join([str(self.args[0]), *map(str, others)]),)


class CircuitError(HearthlineError):
    """A circuit that cannot be simulated as it is; names the part and the net it is about, and the deck line."""

    def __init__(self, message: str, part: str = "", net: str = "", file: str = "", line: int = 0):
        super().__init__(message)
        self.part, self.net, self.file, self.line = part, net, file, line


class AnalysisError(CircuitError):
    """An analysis that cannot be done as its line says; `analysis` is its name, `message` the text without it."""

    def __init__(self, analysis: str, message: str, part: str = ""):
        super().__init__(f"{analysis}: {message}", part=part)
        self.analysis, self.message = analysis, message


class SolveError(HearthlineError):
    """The equations could not be solved."""


class ConvergenceError(SolveError):
    """No solution was found; `nets` and `parts` are those that moved last, the worst first."""

    def __init__(self, message: str, nets: tuple[str, ...] = (), parts: tuple[str, ...] = ()):
        super().__init__(message)
        self.nets, self.parts = nets, parts
