"""Compiled functions of the engine: made by Numba in a process of their own, kept as machine code, loaded without Numba."""
