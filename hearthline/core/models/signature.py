"""The one signature of all device kernels, and what its arguments mean.

A kernel evaluates every instance of its model in one lane:

    limited = kernel(wants, span, nodes, w)

four machine words: a number and three addresses, so that kernels can come from any compiler and a call costs nothing.

wants     bits: CURRENT (currents and conductances), CHARGE (charges and capacitances), READOUT (operating-point variables),
          NOISE (noise densities); PREPARE once after the values have changed, for what is made of them before; REST, beside
          CURRENT and CHARGE, where instances whose unknowns stand still since the last such call may keep what they gave
span      (11,) how many instances, where this model's stretch of `nodes` begins, and where each of its stretches of
          the work array begins
nodes     where in the work array the unknown of each terminal stands (branch currents are terminals too), instance
          after instance; ground is an unknown that is always 0
w         the work array of one worker: everything else, one stretch after the other. One array and not ten, because
          handing over an array costs as much as evaluating a small model

Stretches of w:

settings  gmin across junctions [S]; scale of independent sources; what to do about limiting: LIMIT the step, START at a
          voltage where the device conducts, or TRUST the unknowns; whether the analysis is static (1) or in time (0);
          the time [s]
unknowns  voltages [V] and branch currents [A], ground first
values    what the instance's and the model's parameters come to at this lane's temperature
memory    what limiting remembers from the last iteration
current   out: current into the device at each terminal [A] (for a branch row: the branch equation)
conductance  out: d current / d terminal, for the (row, column) pairs of the kind's pattern, in its order
charge    out: charge at each terminal [C]; capacitance: its slopes [F], by a pattern of its own
readout   out: operating-point variables
noise     out: for each source its density at 1 Hz [A²/Hz] and the exponent of 1/f
abreast   the values once more, as vectors with a lane for each instance: PREPARE puts them there; and behind them the unknowns
          at which instances were evaluated last, as far as they may rest

It returns how many instances had their step limited: then the solution is not final. Current and conductance are those of the
tangent at the limited point, extended to the unknowns.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property
from importlib import import_module

import numpy as np

from hearthline.core.models.layout import SPAN

CURRENT, CHARGE, READOUT, NOISE, PREPARE, REST = 1, 2, 4, 8, 16, 32
VALUE0, MEMORY0, CURRENT0, CONDUCTANCE0, CHARGE0, CAPACITANCE0, READOUT0, NOISE0, ABREAST0 = SPAN.values()
GMIN, SCALE, START_MODE, STATIC, TIME = range(5)
SETTINGS = 5
LIMIT, START, TRUST = 0.0, 1.0, 2.0

Array = np.ndarray
"""What lies at an address that a kernel is handed."""


class Kernel:
    """A kernel written in Python: compiled, or read from its cache, when it is first asked for and not at import."""

    def __init__(self, function: Callable):
        self.function = function
        self.__doc__ = function.__doc__

    def __reduce__(self) -> tuple[Callable, tuple]:
        return kernel_named, (self.function.__module__, self.function.__name__)

    @cached_property
    def address(self) -> int:
        """Where the compiled function is."""
        from hearthline.core.compiled.loading import code_of  # what only draws needs no machine code

        return code_of(f"{self.function.__module__}:{self.function.__name__}")


def kernel_named(module: str, name: str) -> Kernel:
    """The kernel that stands in a module of ours under its name."""
    return getattr(import_module(module), name)


def kernel(function: Callable) -> Kernel:
    """Makes a device kernel of a function."""
    return Kernel(function)
