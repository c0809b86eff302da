"""Mistakes and doubts found in a text, collected so that a person sees them all at once."""

from __future__ import annotations

from dataclasses import dataclass, field

from hearthline.core.errors import ModelError


@dataclass(frozen=True, order=True)
class Problem:
    """One mistake, or a doubt that does not stop the compilation, at a line of a file."""

    file: str
    line: int
    message: str

    def __str__(self) -> str:
        return f"{self.file}:{self.line}: {self.message}"


class UnusableError(Exception):
    """Raised where a mistake leaves nothing to go on with; it has been written down already."""


class TooLargeError(Exception):
    """Raised where a text grows beyond what can be compiled; where has been written down already."""


@dataclass
class Problems:
    """What has been found so far. `places[k]` is the (file, line) of line k + 1 of the preprocessed text."""

    places: list[tuple[str, int]] = field(default_factory=list)
    mistakes: list[Problem] = field(default_factory=list)
    warnings: list[Problem] = field(default_factory=list)

    def place(self, line: int) -> tuple[str, int]:
        """File and line that a line of the preprocessed text came from."""
        if not self.places:
            return "", line
        return self.places[min(max(line, 1), len(self.places)) - 1]

    def mistake(self, line: int, message: str) -> UnusableError:
        """Writes down a mistake; the caller may raise what comes back where it cannot go on."""
        return self.mistake_at(*self.place(line), message)

    def mistake_at(self, file: str, line: int, message: str) -> UnusableError:
        """The same, at a place in a file."""
        problem = Problem(file, line, message)
        if problem not in self.mistakes:
            self.mistakes.append(problem)
        return UnusableError(message)

    def warn(self, line: int, message: str) -> None:
        """Writes down a doubt, once."""
        problem = Problem(*self.place(line), message)
        if problem not in self.warnings:
            self.warnings.append(problem)

    def check(self) -> None:
        """Raises ModelError with everything that is wrong, in the order of the text; does nothing where all is well."""
        if self.mistakes:
            first, *others = self.mistakes
            raise ModelError(first.message, first.file, first.line, tuple(others))
