"""How a solution ended: one member for each way, whose text is the sentence a person reads."""

from __future__ import annotations

from enum import IntEnum


class Outcome(IntEnum):
    """Result code of one lane at one point, as the compiled code returns it."""

    SOLVED = 0
    NOT_RUN = 1
    NO_CONVERGENCE = 2
    SINGULAR = 3
    NOT_A_NUMBER = 4
    STOPPED = 5
    TOO_FULL = 6
    UNBALANCED = 7
    CARRIED = 8

    @property
    def sentence(self) -> str:
        """What happened and what to try."""
        return _SENTENCES[self]


_SENTENCES = {
    Outcome.SOLVED: "solved",
    Outcome.NOT_RUN: "not run",
    Outcome.NO_CONVERGENCE: "Newton's method did not settle, nor did gmin stepping, source stepping or pseudo-transient; "
    "look at the nets that moved last, or give a starting voltage with .nodeset",
    Outcome.SINGULAR: "the equations have no single solution; look for a net that nothing holds, "
    "or sources that contradict each other",
    Outcome.NOT_A_NUMBER: "a device gave a value that is not a number; look at the sizes and model of the parts named",
    Outcome.STOPPED: "stopped",
    Outcome.UNBALANCED: "no solution was found: the currents at a net do not add up where the search came to rest; look for an "
    "expression whose slope is infinite there, such as a root at 0",
    Outcome.CARRIED: "there is no solution: what is fed into a net finds no way out, only a conductance of 1e-12 S added to "
    "every net would carry it; look for a current source that nothing takes, or resistances that cancel",
    Outcome.TOO_FULL: "the factors of the matrix need too much memory; too many parts hang on the same nets",
}


class Continuation(IntEnum):
    """What it took to find a lane's solution, from the easiest on."""

    NONE = 0
    GMIN_STEPPING = 1
    SOURCE_STEPPING = 2
    PSEUDO_TRANSIENT = 3
    GMIN_LEFT = 4
    OTHER_START = 5

    @property
    def sentence(self) -> str:
        """For the log of a run."""
        return {
            Continuation.NONE: "plain Newton",
            Continuation.GMIN_STEPPING: "gmin stepping",
            Continuation.SOURCE_STEPPING: "source stepping",
            Continuation.PSEUDO_TRANSIENT: "pseudo-transient",
            Continuation.OTHER_START: "begun from another voltage at all nets",
            Continuation.GMIN_LEFT: (
                "1e-12 S left from every net to ground, which carries less than a thousandth of what flows there"
            ),
        }[self]
