"""Poles, zeros, transfer and sensitivities against closed forms and against solving again with a changed part."""

from __future__ import annotations

import numpy as np
import pytest

from hearthline.core.engine.poles_and_zeros import poles, sensitivity, zeros
from hearthline.core.engine.small_signal import ac, dc_transfer, unit_excitation
from hearthline.core.engine.system import System
from hearthline.core.errors import CircuitError
from tests.approximation import approx
from tests.decks import circuit_of, point

OUT = ("out", "0")


def system(text: str) -> System:
    """The system of a deck's text."""
    return circuit_of(text)[0]


def test_poles_of_a_resonator_and_of_a_chain():
    """s² + R/L s + 1/LC; and the eigenvalues of an RC chain's matrix."""
    found = poles(system("v1 a 0 1\nr1 a b 10\nl1 b out 1u\nc1 out 0 1n\n"))
    np.testing.assert_allclose(np.sort_complex(found), np.sort_complex(np.roots([1, 1e7, 1e15])), rtol=1e-9)
    count = 8
    chain = "v1 n0 0 1\n" + "".join(f"r{k} n{k - 1} n{k} 1k\nc{k} n{k} 0 1p\n" for k in range(1, count + 1))
    matrix = 2 * np.eye(count) - np.eye(count, k=1) - np.eye(count, k=-1)
    matrix[-1, -1] = 1
    expected = -np.linalg.eigvalsh(matrix)[::1] / 1e-9
    np.testing.assert_allclose(np.sort(poles(system(chain)).real), np.sort(expected), rtol=1e-9)


def test_zeros_of_a_lead_network_and_of_a_transistor():
    """-1/(R1·C1); and the feed-forward zero at +gm/cgd of a stage."""
    (zero,) = zeros(system("v1 a 0 1\nr1 a out 10k\nc1 a out 1n\nr2 out 0 1k\n"), OUT, "v1")
    assert zero == approx(-1e5, rel=1e-9)
    stage = (
        "vd d 0 1\nvg g 0 0.7\nrl d out 10k\nm1 out g 0 0 n w=10u l=1u\ncf g out 0.1p\n.model n nmos vto=0.4 kp=200u\n"
    )
    (zero,) = zeros(system(stage), OUT, "vg")
    assert zero == approx(point(stage)["m1.gm"] / 0.1e-12, rel=1e-6)


def test_no_capacitance_no_poles():
    """A divider has none; a circuit that is too large is refused."""
    assert len(poles(system("v1 a 0 1\nr1 a b 1k\nr2 b 0 1k\n"))) == 0
    large = "v1 n0 0 1\n" + "".join(f"r{k} n{k} n{k + 1} 1k\nrg{k} n{k + 1} 0 1k\n" for k in range(310))
    with pytest.raises(CircuitError, match="up to 300"):
        poles(system(large))


def test_dc_transfer_of_a_divider():
    """Gain and both resistances; the same from a current source."""
    found = dc_transfer(system("v1 a 0 2\nr1 a out 1k\nr2 out 0 3k\n"), OUT, "v1")
    assert (found.gain[0], found.input_resistance[0], found.output_resistance[0]) == approx((0.75, 4e3, 750))
    found = dc_transfer(system("i1 0 out 1m\nr2 out 0 3k\n"), OUT, "i1")
    assert (found.gain[0], found.input_resistance[0], found.output_resistance[0]) == approx((3e3, 3e3, 3e3))


STAGE = "vd d 0 1.2\nvg g 0 {vg} ac 1\nrl d out {rl}\nm1 out g 0 0 n w={w} l=1u\ncl out 0 1p\n.model n nmos vto=0.4 kp=200u lambda=0.1\n"
NOMINAL = {"vg": 0.6, "rl": 10e3, "w": 10e-6}
KEYS = {"vg": ("vg", "dc"), "rl": ("rl", "r"), "w": ("m1", "w")}


def stage(**changed) -> str:
    """The stage with its numbers written in."""
    text = STAGE
    for name, value in {**NOMINAL, **changed}.items():
        text = text.replace("{" + name + "}", repr(value))
    return text


@pytest.mark.parametrize("name", NOMINAL)
def test_sensitivity_is_what_solving_again_shows(name):
    """Of the operating point and of the gain at 10 MHz, by central differences of whole solutions."""
    circuit, models = circuit_of(stage())
    excitation = unit_excitation(circuit, "vg")
    static = sensitivity(circuit, models, OUT).slopes[KEYS[name]]
    moving = sensitivity(circuit, models, OUT, 0, 1e7, excitation).slopes[KEYS[name]]
    step = 1e-4 * NOMINAL[name]
    volts, gains = [], []
    for sign in (1, -1):
        text = stage(**{name: NOMINAL[name] + sign * step})
        volts.append(point(text)["V(out)"])
        gains.append(ac(system(text), np.array([1e7])).of("V(out)")[0, 0])
    assert static.real == approx((volts[0] - volts[1]) / (2 * step), rel=1e-4)
    assert moving == approx((gains[0] - gains[1]) / (2 * step), rel=1e-4)
