"""The one signature of all device kernels, and what its arguments mean.

A kernel evaluates every instance of its model in one lane:

    limited = kernel(wants, span, x, nodes, values, memory, setting, flow, slope, charge, capacity, readout)

wants     bits: FLOW (currents and their slopes), CHARGE (charges and theirs), READOUT (operating-point variables)
span      (6,) how many instances, and where this model's stretch of each flat array begins
x         (unknowns + 1,) the unknowns; entry 0 is ground and always 0
nodes     index into x of each terminal (branch currents are terminals too), instance after instance
values    what the instance's and the model's parameters come to at this lane's temperature
memory    what limiting remembers from the last iteration
setting   (3,) gmin across junctions [S]; scale of independent sources; what to do about limiting: LIMIT the step,
          START at a voltage where the device conducts, or TRUST x
flow      out: current into the device at each terminal [A] (for a branch row: the branch equation)
slope     out: d flow / d terminal, row by row
charge    out: charge at each terminal [C]; capacity: its slopes [F]
readout   out: operating-point variables

It returns how many instances had their step limited: then the solution is not final. Flow and slope are those of the
tangent at the limited point, extended to x.
"""

from __future__ import annotations

import numba as nb
from numba import float64, int32, int64

FLOW, CHARGE, READOUT = 1, 2, 4
COUNT, NODE0, VALUE0, MEMORY0, READOUT0, SLOPE0 = range(6)
GMIN, SCALE, START_MODE = range(3)
LIMIT, START, TRUST = 0.0, 1.0, 2.0

_F = float64[::1]
KERNEL = int64(int64, int64[::1], _F, int32[::1], _F, _F, _F, _F, _F, _F, _F, _F)
KERNEL_TYPE = nb.types.FunctionType(KERNEL)
KERNELS = nb.types.ListType(KERNEL_TYPE)

OPTIONS = {"cache": True, "nogil": True, "error_model": "numpy"}
"""How every compiled function of the engine is compiled."""


def kernel(function):
    """Compiles a device kernel, with the signature above, at import; from the cache where there is one."""
    return nb.njit(KERNEL, **OPTIONS)(function)


@nb.njit(KERNELS(), **OPTIONS)
def no_kernels():
    """An empty list of kernels. Compiled and cached, because the list class compiles itself anew in every process."""
    return nb.typed.List.empty_list(KERNEL_TYPE)


@nb.njit(nb.void(KERNELS, KERNEL_TYPE), **OPTIONS)
def add_kernel(kernels, one):
    """Appends to such a list."""
    kernels.append(one)
