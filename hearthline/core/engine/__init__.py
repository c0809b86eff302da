"""The equations of a circuit and their solution: lowering, Newton, time steps, small signals."""

from hearthline.core import numba_start as numba_start
