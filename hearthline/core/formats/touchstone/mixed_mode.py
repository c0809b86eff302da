"""Mixed-mode S-parameters of version 2.0: differences and sums of waves of two ports (Bockelman and Eisenstadt, IEEE Trans.
Microwave Theory Tech. 1995)."""

from __future__ import annotations

import re

import numpy as np

from hearthline.core.formats.touchstone.lines import Source

_MODE = re.compile(r"([DC])(\d+),(\d+)|S(\d+)", re.IGNORECASE)


def modes_of(source: Source, text: str, line: int, ports: int) -> np.ndarray:
    """The matrix (modes, ports) whose rows make each mode's wave of those of the ports. Raises FileError."""
    words = re.sub(r"\s*,\s*", ",", text).split()
    made = np.zeros((len(words), ports))
    for row, word in enumerate(words):
        found = _MODE.fullmatch(word)
        numbers = [int(n) - 1 for n in (found.groups()[1:] if found else ()) if n]
        if found is None or not all(0 <= n < ports for n in numbers):
            raise source.error(f"'{word}' is no mode; write D1,2 and C1,2 for a pair of ports, S3 for one", line)
        if found[1]:
            made[row, numbers] = np.array([1.0, -1.0 if found[1].upper() == "D" else 1.0]) / np.sqrt(2.0)
        else:
            made[row, numbers[0]] = 1.0
    if made.shape[0] != ports or not np.array_equal(np.round(made @ made.T, 9), np.eye(ports)):
        raise source.error(f"[Mixed-Mode Order] must have each of {ports} ports alone, or its pair as D and as C", line)
    return made


def single_ended(s: np.ndarray, modes: np.ndarray, impedances: np.ndarray) -> np.ndarray:
    """S at the ports themselves; both ports of a pair have the same impedance."""
    return modes.T @ s @ modes
