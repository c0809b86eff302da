"""Files of n-ports: Touchstone File Format Specification 1.1 and 2.0 (IBIS Open Forum), each form read, and both written."""

from __future__ import annotations

from pathlib import Path

import hypothesis.strategies as st
import numpy as np
import pytest
from hypothesis import given
from numpy.testing import assert_allclose

from hearthline.core.errors import FileError
from hearthline.core.formats.touchstone import read_touchstone, write_touchstone
from hearthline.core.nports.conversions import converted
from hearthline.core.nports.n_port import NoiseParameters, NPort

S = np.array([[0.3 - 0.2j, 0.05 + 0.04j], [2.1 + 1.3j, -0.4 + 0.1j]])
F = np.array([1e9, 2e9])


@pytest.fixture
def read(tmp_path):
    """Reads a text as a file of a name."""

    def read(text: str, name: str = "a.s2p") -> NPort:
        (tmp_path / name).write_text(text)
        return read_touchstone(tmp_path / name)

    return read


def pair(value: complex, numbers: str) -> str:
    if numbers == "RI":
        return f"{value.real} {value.imag}"
    size = abs(value) if numbers == "MA" else 20 * np.log10(abs(value))
    return f"{float(size)!r} {float(np.degrees(np.angle(value)))!r}"


@pytest.mark.parametrize("numbers", ["RI", "MA", "DB"])
@pytest.mark.parametrize("form", ["S", "Z", "Y", "H", "G"])
@pytest.mark.parametrize("newer", [False, True])
def test_every_form_of_numbers_and_parameters(read, numbers, form, newer):
    """Columns before rows in a two-port; normalised to R in version 1 (Z/R, Y R, H11/R, H22 R), not in 2.0."""
    r = 75.0
    matrix = converted(S, "S", form, r)
    if not newer:
        scale = {"S": 1, "Z": 1 / r, "Y": r, "H": np.array([[1 / r, 1], [1, r]]), "G": np.array([[r, 1], [1, 1 / r]])}[
            form
        ]
        matrix = matrix * scale
    row = " ".join(pair(complex(matrix[a, b]), numbers) for a, b in ((0, 0), (1, 0), (0, 1), (1, 1)))
    text = f"! a comment\n# MHz {form} {numbers} R 75\n1000 {row} ! more\n\n2000 {row}\n"
    if newer:
        begin = "[Version] 2.0\n# MHz {} {} R 50\n[Number of Ports] 2\n[Two-Port Data Order] 21_12\n[Number of Frequencies] 2\n[Reference] 75 75\n[Network Data]\n"
        text = begin.format(form, numbers) + text.split("R 75\n")[1] + "[End]\n"
    found = read(text)
    assert_allclose(found.frequencies, F)
    assert_allclose(found.s, [S, S], rtol=1e-9)
    assert_allclose(found.impedances, 75.0)


@pytest.mark.parametrize(("unit", "factor"), [("Hz", 1), ("kHz", 1e3), ("MHz", 1e6), ("GHz", 1e9), ("", 1e9)])
def test_units_and_what_holds_where_nothing_is_said(read, unit, factor):
    """GHz S MA R 50, in any order and in any case."""
    found = read(f"# {unit.lower()}\n1 0.5 90\n", "a.s1p")
    assert_allclose(found.frequencies, factor)
    assert_allclose(found.s[0, 0, 0], 0.5j, atol=1e-15)
    assert read(f"# R 50 ri s {unit.upper()}\n1 0.5 0.25\n", "a.s1p").s[0, 0, 0] == 0.5 + 0.25j


def test_rows_of_many_ports(read):
    """Four pairs a line at most; a row begins a line, a frequency a point."""
    five = np.arange(50).reshape(5, 5, 2) / 100
    lines, first = [], "1 "
    for row in five:
        lines.append(first + " ".join(map(str, row[:4].ravel())))
        lines.append(" ".join(map(str, row[4:].ravel())))
        first = ""
    found = read("# Hz S RI\n" + "\n".join(lines), "a.s5p")
    assert_allclose(found.s[0], five[..., 0] + 1j * five[..., 1])


def test_noise_of_a_two_port(read):
    """Behind the network, from where the frequency falls: dB, size and angle, Rn over R."""
    row = " ".join(pair(complex(S[a, b]), "MA") for a, b in ((0, 0), (1, 0), (0, 1), (1, 1)))
    found = read(f"# GHz S MA R 50\n2 {row}\n22 {row}\n! noise\n4 .7 .64 69 .38\n18 2.7 .46 -33 .40\n")
    assert_allclose(found.noise.frequencies, [4e9, 18e9])
    assert_allclose(10 * np.log10(found.noise.factor_min), [0.7, 2.7])
    assert_allclose(found.noise.gamma_opt, [0.64 * np.exp(1j * np.radians(69)), 0.46 * np.exp(-1j * np.radians(33))])
    assert_allclose(found.noise.rn, [19.0, 20.0])


@pytest.mark.parametrize("shape", ["Lower", "Upper"])
def test_halves_of_a_symmetric_matrix(read, shape):
    """Version 2.0."""
    whole = np.array([[1, 2, 3], [2, 4, 5], [3, 5, 6]]) / 10
    rows = [whole[k, : k + 1] if shape == "Lower" else whole[k, k:] for k in range(3)]
    lines = "\n".join(" ".join(f"{value} 0" for value in row) for row in rows)
    text = f"[Version] 2.0\n# GHz S RI\n[Number of Ports] 3\n[Number of Frequencies] 1\n[Matrix Format] {shape}\n[Network Data]\n1 {lines}\n[End]\n"
    assert_allclose(read(text, "a.ts").s[0], whole)


def test_order_references_information_and_noise_of_version_2(read):
    """12_21, impedances over two lines, a block of information that is passed over, and noise."""
    text = (
        "[Version] 2.0\n# GHz S RI R 50\n[Number of Ports] 2\n[Two-Port Data Order] 12_21\n[Number of Frequencies] 1\n"
        "[Number of Noise Frequencies] 1\n[Reference] 40\n 60\n[Begin Information]\n[Manufacturer] nobody\n[End Information]\n"
        "[Network Data]\n1 .1 0 .2 0 .3 0 .4 0\n[Noise Data]\n1 3 0 0 .5\n[End]\nanything\n"
    )
    found = read(text)
    assert_allclose(found.s[0], [[0.1, 0.2], [0.3, 0.4]])
    assert_allclose(found.impedances, [40, 60])
    assert_allclose(found.noise.rn, 25.0)


def test_mixed_modes(read):
    """A pair of separate lines of 50 Ω: difference and sum see the same; order D2,1 is the other sign (Bockelman 1995)."""
    through = np.zeros((4, 4))
    through[0, 2] = through[2, 0] = through[1, 3] = through[3, 1] = 1.0
    m = np.array([[1, -1, 0, 0], [1, 1, 0, 0], [0, 0, 1, -1], [0, 0, 1, 1]]) / np.sqrt(2)
    mixed = m @ through @ m.T
    lines = "\n".join(" ".join(f"{value} 0" for value in row) for row in mixed)
    text = f"[Version] 2.0\n# GHz S RI\n[Number of Ports] 4\n[Number of Frequencies] 1\n[Mixed-Mode Order] D1,2 C1,2 D3,4 C3,4\n[Network Data]\n1 {lines}\n[End]\n"
    assert_allclose(read(text, "a.s4p").s[0], through, atol=1e-12)


@given(st.integers(1, 6), st.integers(1, 5), st.booleans(), st.integers(0, 2**32))
def test_what_is_written_reads_back(tmp_path_factory, ports, count, newer, seed):
    """Every number to its last digit."""
    rng = np.random.default_rng(seed)
    s = rng.normal(size=(count, ports, ports)) + 1j * rng.normal(size=(count, ports, ports))
    impedances = rng.uniform(1, 100, ports) if newer else np.full(ports, 75.0)
    noise = None
    if ports == 2:
        f = np.cumsum(rng.uniform(1, 2, 3))
        noise = NoiseParameters(f, rng.uniform(1, 3, 3), 0.3 * s.ravel()[:1].repeat(3), rng.uniform(1, 50, 3), 50.0)
    frequencies = 10 + np.cumsum(rng.uniform(1, 2, count))
    path = tmp_path_factory.mktemp("t") / f"a.s{ports}p"
    write_touchstone(path, NPort(frequencies, s, impedances, noise), ("by a test",), newer)
    found = read_touchstone(path)
    assert np.array_equal(found.s, s)
    assert np.array_equal(found.frequencies, frequencies)
    assert np.array_equal(found.impedances, impedances)
    if noise is not None:
        seen = noise.seen_at(impedances[0])
        assert_allclose(found.noise.factor_min, noise.factor_min, rtol=1e-12)
        assert_allclose(found.noise.gamma_opt, seen.gamma_opt, rtol=1e-12)
        assert_allclose(found.noise.rn, noise.rn, rtol=1e-12)


ROW = "0 0 1 0 1 0 0 0"
NEW = "[Version] 2.0\n# GHz S RI\n[Number of Ports] 2\n[Two-Port Data Order] 12_21\n[Number of Frequencies] 1\n[Network Data]\n"


@pytest.mark.parametrize(
    ("text", "name", "where"),
    [
        (f"1 {ROW}\n2 {ROW[:-2]}\n", "a.s2p", "a.s2p:2: a line of 8 numbers, where a point of 2 ports has 9: the file is cut"),
        (f"1 {ROW}\n2 {ROW[:-4]}\n", "a.s2p", "a.s2p:2: the point at 2 has 7 numbers; a point of 2 ports has 9: the file is cut"),
        (f"1 {ROW}\n3 {ROW}\n2 {ROW}\n", "a.s2p", "a.s2p:3: frequency 2 comes behind 3"),
        (f"1 {ROW}\n", "a.s1p", "a.s1p:1: the point at 1 has 9 numbers; a point of 1 port has 3: this one is of 2; name the file .s2p"),
        ("1 0 0\n", "a.s3p", "a.s3p:1: the point at 1 has 3 numbers; a point of 3 ports has 19"),
        ("1 0 x\n", "a.s1p", "a.s1p:1: 'x' is not a number"),
        ("1 0 nan\n", "a.s1p", "a.s1p:1: 'nan' is not a number"),
        ("1 0\n", "a.s1p", "a.s1p:1: a point begins with its frequency"),
        ("# GHz S RX\n1 0 0\n", "a.s1p", "a.s1p:1: 'rx' is no option"),
        ("# GHz S RI R 0\n1 0 0\n", "a.s1p", "a.s1p:1: the reference impedance must be above 0"),
        ("# GHz S RI R\n1 0 0\n", "a.s1p", "a.s1p:1: 'r' is no option"),
        ("! nothing\n", "a.s1p", "a.s1p: holds no points"),
        ("[Version] 3.0\n", "a.s1p", "a.s1p:1: is of version 3.0"),
        ("[Versoin] 2.0\n", "a.s1p", "a.s1p:1: there is no keyword '[Versoin]'"),
        (NEW.replace("[Number of Ports] 2\n", "") + f"1 {ROW}\n[End]", "a.ts", "[Number Of Ports] is missing"),
        (NEW + f"1 {ROW}\n[End]", "a.s3p", "a.s3p:3: says 2 ports, and the name of the file ends in .s3p"),
        (NEW + f"1 {ROW}\n2 {ROW}\n[End]", "a.ts", "a.ts:5: says 1 frequencies, and there are 2"),
        (NEW.replace("12_21", "21") + f"1 {ROW}\n[End]", "a.ts", "a.ts:4: '21' is no order of a two-port"),
        (NEW.replace("[Network", "[Reference] 50\n[Network") + f"1 {ROW}\n[End]", "a.ts", "a.ts:6: [Reference] has 1 impedances for 2 ports"),
        (NEW.replace("[Network", "[Mixed-Mode Order] D1,2 S1\n[Network") + f"1 {ROW}\n[End]", "a.ts", "a.ts:6: [Mixed-Mode Order] must have each"),
        (NEW.replace("[Network", "[Begin Information]\n[Network") + f"1 {ROW}\n[End]", "a.ts", "a.ts:6: [Begin Information] has no"),
    ],
)  # fmt: skip
def test_what_is_wrong_is_named_by_line(read, text, name, where):
    """Cut, unsorted, of another number of ports, and mistakes of form."""
    with pytest.raises(FileError) as caught:
        read(text, name)
    assert where in str(caught.value)


def test_a_file_that_is_not_there(tmp_path):
    """By its name."""
    with pytest.raises(FileError, match="none.s1p: cannot be read"):
        read_touchstone(Path(tmp_path) / "none.s1p")
