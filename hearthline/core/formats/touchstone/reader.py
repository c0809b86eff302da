"""Reads Touchstone 1.1 and 2.0."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np

from hearthline.core.errors import FileError
from hearthline.core.formats.touchstone.lines import Options, Points, Source, numbers_of, points_of, source_of
from hearthline.core.formats.touchstone.mixed_mode import modes_of, single_ended
from hearthline.core.nports.conversions import converted
from hearthline.core.nports.n_port import NoiseParameters, NPort

NOISE_NUMBERS = 5
LARGEST = 200
"""Ports."""


def read_touchstone(path: Path, shown: str = "") -> NPort:
    """The n-port of a file, in errors called as `shown`. Raises FileError by file and line."""
    source = source_of(path, shown or path.name)
    newer = "version" in source.keywords
    if newer:
        _check_version(source)
    ports = _ports(source, path.suffix, newer)
    points = points_of(source, source.network)
    if not newer and ports == 0:
        ports = _ports_of(points)
    points, noise = _split(source, points, ports, newer)
    size = _size(source, ports)
    _check(source, points, size, ports, "number of frequencies")
    pairs = points.numbers.reshape(-1, size)[:, 1:]
    matrix = _ordered(source, _complex(pairs, source.options), ports, newer)
    frequencies = points.frequencies * source.options.unit
    impedances = _impedances(source, ports)
    found = _waves(matrix, source.options, impedances, newer)
    if "mixed-mode order" in source.keywords:
        text, line = source.keywords["mixed-mode order"]
        found = single_ended(found, modes_of(source, text, line, ports), impedances)
    return NPort(frequencies, found, impedances, noise)


def _check_version(source: Source) -> None:
    version, line = source.keywords["version"]
    if version != "2.0":
        raise source.error(
            f"is of version {version or '(none)'}; versions 1.1 (without this line) and 2.0 are read", line
        )
    for wanted in ("number of ports", "network data"):
        if wanted not in source.keywords:
            raise source.error(f"[{wanted.title()}] is missing; version 2.0 needs it", source.last)


def _ports(source: Source, suffix: str, newer: bool) -> int:
    """As the file's name or its keyword says; 0 where neither does."""
    named = re.fullmatch(r"\.s(\d+)p", suffix, re.IGNORECASE)
    if not newer:
        return _whole(source, named[1], 0) if named else 0
    text, line = source.keywords["number of ports"]
    ports = _whole(source, text, line)
    if named and int(named[1]) != ports:
        raise source.error(f"says {ports} ports, and the name of the file ends in {suffix}", line)
    return ports


def _whole(source: Source, text: str, line: int) -> int:
    if not text.isdigit() or not 0 < int(text) <= LARGEST:
        raise source.error(f"'{text}' is not a number of ports; there are 1 to {LARGEST}", line)
    return int(text)


def _ports_of(points: Points) -> int:
    """By how many numbers the first point has."""
    first = int(points.sizes[0]) if len(points.starts) else 3
    return max(1, round(((first - 1) / 2) ** 0.5))


def _triangular(source: Source) -> str:
    text, line = source.keywords.get("matrix format", ("Full", 0))
    if text.lower() not in ("full", "lower", "upper"):
        raise source.error(f"'{text}' is no matrix format; there are Full, Lower and Upper", line)
    return text.lower()


def _size(source: Source, ports: int) -> int:
    """Numbers of a point."""
    whole = _triangular(source) == "full"
    return 1 + (2 * ports**2 if whole else ports * (ports + 1))


def _split(source: Source, points: Points, ports: int, newer: bool) -> tuple[Points, NoiseParameters | None]:
    """The network's points and the noise: in version 1 it begins where a two-port's points have five numbers."""
    if newer:
        noise = points_of(source, source.noise)
        if "noise data" not in source.keywords:
            return points, None
        if ports != 2:
            raise source.error("noise parameters are of two-ports", source.keywords["noise data"][1])
        return points, _noise(source, noise)
    short = np.flatnonzero(points.sizes == NOISE_NUMBERS)
    if ports != 2 or not len(short) or short[0] == 0:
        return points, None
    network, rest = points.cut_at(int(short[0]))
    return network, _noise(source, rest)


def _noise(source: Source, points: Points) -> NoiseParameters:
    _check(source, points, NOISE_NUMBERS, 2, "number of noise frequencies")
    table = points.numbers.reshape(-1, NOISE_NUMBERS)
    options = source.options
    gamma = table[:, 2] * np.exp(1j * np.radians(table[:, 3]))
    return NoiseParameters(
        table[:, 0] * options.unit,
        10 ** (table[:, 1] / 10.0),
        gamma,
        table[:, 4] * options.reference,
        options.reference,
    )


def _check(source: Source, points: Points, size: int, ports: int, counted: str) -> None:
    """Raises FileError where a point is not whole, frequencies do not rise, or there are not as many as the file says."""
    if not len(points.starts):
        raise source.error("holds no points", source.last)
    for k in np.flatnonzero(points.sizes != size)[:1]:
        raise _wrong_size(source, points, k, size, ports)
    frequencies = points.frequencies
    for k in np.flatnonzero(np.diff(frequencies) <= 0)[:1]:
        raise source.error(
            f"frequency {frequencies[k + 1]:g} comes behind {frequencies[k]:g}; sort the points, each frequency once",
            int(points.lines[k + 1]),
        )
    if frequencies[0] < 0:
        raise source.error(f"the frequency is {frequencies[0]:g}, below 0", int(points.lines[0]))
    if counted in source.keywords:
        text, line = source.keywords[counted]
        if text != str(len(frequencies)):
            raise source.error(f"says {text} frequencies, and there are {len(frequencies)}", line)


def _wrong_size(source: Source, points: Points, k: int, size: int, ports: int) -> FileError:
    here = int(points.sizes[k])
    line = int(points.lines[k])
    of = f"{ports} port{'s' * (ports != 1)}"
    message = f"the point at {points.frequencies[k]:g} has {here} numbers; a point of {of} has {size}"
    end = int(points.starts[k]) + size
    if here > size and end in points.ends:  # the next line has an even number of numbers, and begins no point
        row = int(np.searchsorted(points.ends, end, side="right"))
        last = ": the file is cut" if row == len(points.rows) - 1 else ""
        count = int(points.ends[row]) - end
        return source.error(f"a line of {count} numbers, where a point of {of} has {size}{last}", int(points.rows[row]))
    other = round(((here - 1) / 2) ** 0.5)
    if k == len(points.starts) - 1 and k > 0 and here < size:
        return source.error(f"{message}: the file is cut", line)
    if 1 + 2 * other**2 == here and k == 0:
        return source.error(f"{message}: this one is of {other}; name the file .s{other}p", line)
    return source.error(message, line)


def _complex(pairs: np.ndarray, options: Options) -> np.ndarray:
    one, other = pairs[:, 0::2], pairs[:, 1::2]
    if options.numbers == "ri":
        return one + 1j * other
    size = 10 ** (one / 20.0) if options.numbers == "db" else one
    return size * np.exp(1j * np.radians(other))


def _ordered(source: Source, entries: np.ndarray, ports: int, newer: bool) -> np.ndarray:
    """Matrices (frequencies, ports, ports)."""
    shape = _triangular(source)
    if shape != "full":
        made = np.zeros((len(entries), ports, ports), complex)
        rows, columns = np.tril_indices(ports) if shape == "lower" else np.triu_indices(ports)
        made[:, rows, columns] = made[:, columns, rows] = entries
        return made
    matrix = entries.reshape(-1, ports, ports)
    if ports != 2:
        return matrix
    text, line = source.keywords.get("two-port data order", ("21_12", 0))
    if newer and not line:
        raise source.error(
            "[Two-Port Data Order] is missing; a two-port of version 2.0 needs it: 12_21 or 21_12", source.last
        )
    if text not in ("21_12", "12_21"):
        raise source.error(f"'{text}' is no order of a two-port; there are 12_21 and 21_12", line)
    return matrix if text == "12_21" else np.swapaxes(matrix, 1, 2)


def _impedances(source: Source, ports: int) -> np.ndarray:
    if "reference" not in source.keywords:
        return np.full(ports, source.options.reference)
    found, _ = numbers_of(source, source.reference)
    line = source.keywords["reference"][1]
    if len(found) != ports:
        raise source.error(f"[Reference] has {len(found)} impedances for {ports} ports", line)
    if (found <= 0).any():
        raise source.error(f"a reference impedance must be above 0, and one is {found.min():g} Ω", line)
    return found


def _waves(matrix: np.ndarray, options: Options, impedances: np.ndarray, newer: bool) -> np.ndarray:
    """S; what is normalised to the reference in version 1 is not in 2.0."""
    form = options.form.upper()
    if form == "S":
        return matrix
    if newer:
        return converted(matrix, form, "S", impedances)
    return converted(matrix, form, "S", 1.0)
