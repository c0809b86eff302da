"""The pieces that a balance is solved with, each against NumPy: blocks, what mixes products, steps that are combined."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from hearthline.app.start import DEMO
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.engine.periodic import blocks, matrix, tones
from hearthline.core.engine.periodic.balance import Balance, Begin
from hearthline.core.engine.periodic.circuit import LaneCircuit
from hearthline.core.engine.periodic.ends import Ends
from hearthline.core.engine.periodic.excitation import excitation
from hearthline.core.engine.periodic.lanes import balance
from hearthline.core.engine.periodic.matrix import Jacobian, jacobian
from hearthline.core.engine.periodic.mixing import DEPTH, Mixing
from hearthline.core.engine.periodic.sidebands import Sidebands, about
from hearthline.core.engine.periodic.steps import equations
from hearthline.core.engine.periodic.tones import Tones, one_tone, two_tones
from hearthline.core.engine.small_signal import DEFAULT
from hearthline.core.formats.project_folder import read_project
from hearthline.core.spread.pvt import lanes_of
from tests.decks import circuit_of
from tests.examples import examples

PARTS = """v1 in 0 sin(0.4 0.6 1meg)
v2 o 0 sin(0 0.1 1.3meg)
r1 in a 1k
l1 a b 10u
d1 b c dio
m1 c a d 0 nm w=2u l=180n
r2 d o 2k
c1 c 0 100p
.model dio d is=1e-14 cjo=10p tt=1n
.model nm nmos vto=0.3 kp=200u cgso=1n cgdo=1n
"""
ONE, TWO = one_tone(4), two_tones(3, np.array([1e6, 1.3e6]))


def numbers(shape: tuple[int, ...], seed: int = 1) -> np.ndarray:
    """Phasors, whose mean is real."""
    drawn = np.random.default_rng(seed).standard_normal((2, *shape))
    found = drawn[0] + 1j * drawn[1]
    found[0] = found[0].real
    return found


def linearised(grid: Tones, shunted: tuple[int, ...] = ()) -> Jacobian:
    """About something that is no solution."""
    system = circuit_of(PARTS)[0]
    circuit = LaneCircuit(system, 0, DEFAULT)
    frequencies = grid.frequencies(np.array([1e6, 1.3e6])[: grid.products.shape[1]])
    along = circuit.along(grid, 0.5 / len(grid) * numbers((len(grid), circuit.size)))
    return jacobian(circuit, grid, along, 2j * np.pi * frequencies, frequencies, shunted, 1e-3 if shunted else 0.0)


def applied(found: Jacobian, x: np.ndarray) -> np.ndarray:
    """J x, from dense blocks and from samples."""
    circuit, reach = found.circuit, found.reach
    dense = np.zeros((len(x), circuit.size, circuit.size), complex)
    dense[:, circuit.rows, circuit.columns] = found.blocks.values
    y = (dense @ x[:, :, None])[:, :, 0]
    y[:, reach.rows] += found.mixed(x[:, reach.columns]) @ reach.weights.T
    y[0] = y[0].real
    return y


@pytest.mark.parametrize("shunted", [(), (2,)])
@pytest.mark.parametrize("grid", [ONE, TWO], ids=["one tone", "two tones"])
@pytest.mark.parametrize("most", [0, 1 << 30], ids=["transforms", "tables"])
@pytest.mark.parametrize("dense", [0, 1 << 30], ids=["iterated", "direct"])
def test_a_solution_solves_the_equations(monkeypatch, grid, shunted, most, dense):
    """Whichever way samples are gone to, and whichever way what is left is solved."""
    monkeypatch.setattr(tones, "MOST_IN_A_TABLE", most)
    monkeypatch.setattr(matrix, "MOST_DENSE", dense)
    found = linearised(Tones(grid.products, grid.samples), shunted)
    assert found.large == (dense == 0)
    right = numbers((len(grid), found.circuit.size), 2)
    np.testing.assert_allclose(applied(found, found.solve(right)), right, atol=1e-8 * np.abs(right).max())


@pytest.mark.parametrize("grid", [ONE, TWO], ids=["one tone", "two tones"])
def test_a_linear_step_is_what_differences_of_the_equations_say(grid):
    """So that the matrix is that of the equations, not only of itself."""
    found = linearised(grid)
    circuit, s = found.circuit, found.s
    x, way = 0.5 / len(grid) * numbers((len(grid), circuit.size)), numbers((len(grid), circuit.size), 3)

    def sums(at: np.ndarray) -> np.ndarray:
        along = circuit.along(grid, at, limits=False)
        return along.flows + s[:, None] * along.charges

    step = 1e-6
    differences = (sums(x + step * way) - sums(x - step * way)) / (2.0 * step)
    differences[0] = differences[0].real
    exact = applied(found, way)
    np.testing.assert_allclose(differences, exact, atol=1e-6 * np.abs(exact).max())


def test_what_mixes_has_an_adjoint():
    """Re(conj(z) N x) is the same from both sides, the mean's imaginary part left out."""
    found = linearised(ONE, (2,))
    z, x = numbers((len(ONE), found.reach.count), 4), numbers((len(ONE), found.circuit.size), 5)
    there = (z.conj() * found.mixed(x[:, found.columns])).real.sum()
    back = (found._adjoint(z).conj() * x).real.sum()
    assert abs(there - back) <= 1e-12 * (np.abs(z).sum() * np.abs(x).max())


@pytest.mark.parametrize("usual", [0, blocks.USUAL], ids=["room that is too small at first", "room enough"])
@pytest.mark.parametrize("transposed", [False, True])
def test_blocks_are_solved_like_dense_matrices(monkeypatch, usual, transposed):
    monkeypatch.setattr(blocks, "USUAL", usual)
    found = linearised(ONE)
    circuit = found.circuit
    dense = np.zeros((len(ONE), circuit.size, circuit.size), complex)
    dense[:, circuit.rows, circuit.columns] = found.blocks.values
    right = numbers((len(ONE), circuit.size, 3))
    wanted = np.linalg.solve(dense.swapaxes(1, 2) if transposed else dense, right)
    np.testing.assert_allclose(
        found.blocks.solve(right, transposed), wanted, rtol=1e-8, atol=1e-12 * np.abs(wanted).max()
    )


def test_a_block_without_a_solution_is_said():
    """A net that nothing holds."""
    found = linearised(ONE)
    found.blocks.values[2] = 0.0
    with pytest.raises(np.linalg.LinAlgError, match="block 2"):
        found.blocks.solve(numbers((len(ONE), found.circuit.size, 1)))


@pytest.mark.parametrize("grid", [one_tone(9), TWO], ids=["one tone", "two tones"])
def test_tables_and_transforms_go_the_same_way(monkeypatch, grid):
    x = numbers((len(grid), 5))
    fast_samples, fast = grid.to_samples(x), grid.few
    monkeypatch.setattr(tones, "MOST_IN_A_TABLE", 0)
    slow = Tones(grid.products, grid.samples)
    slow_samples = slow.to_samples(x)
    assert (fast, slow.few) == (True, False)
    np.testing.assert_allclose(fast_samples, slow_samples, atol=1e-13)
    np.testing.assert_allclose(grid.to_phasors(fast_samples), x, atol=1e-13)
    np.testing.assert_allclose(slow.to_phasors(fast_samples), x, atol=1e-13)


def test_small_signals_and_their_adjoint_are_the_same_transfer():
    """From each sideband into each other one."""
    system = circuit_of(PARTS.replace("sin(0 0.1 1.3meg)", "0.1"))[0]
    state = balance(system, np.array([1e6]), one_tone(4)).states[0]
    bands = Sidebands(state, *about(state), 1.7e5)
    excitations, outputs = numbers((len(system.unknowns),), 6), numbers((len(system.unknowns),), 7)
    for sideband in (-4, -1, 0, 3):
        there = bands.answer(excitations, sideband)[bands.place(1)] @ outputs
        back = bands.adjoint(outputs, 1)[bands.place(sideband)] @ excitations
        assert abs(there - back) <= 1e-9 * abs(there)


@examples(40)
@given(size=st.integers(1, DEPTH // 2), seed=st.integers(0, 10_000))
def test_combined_steps_solve_linear_equations_in_as_many_steps_as_unknowns(size, seed):
    """Anderson's way is then that of minimal residuals (Walker and Ni, SIAM J. Numer. Anal. 49, 2011)."""
    drawn = np.random.default_rng(seed)
    a = np.eye(2 * size) + 0.4 * drawn.standard_normal((2 * size, 2 * size)) / np.sqrt(2 * size)
    exact = drawn.standard_normal(2 * size)
    mixing, x = Mixing(np.ones(size), 1), np.zeros((1, size), complex)
    for _ in range(2 * size + 2):
        step = (a @ (exact - x.view(float).ravel())).view(complex).reshape(1, size)
        x = x + mixing.mixed(x, step)
    assert np.abs(x.view(float).ravel() - exact).max() <= 1e-6 * np.abs(exact).max()


def test_a_grid_that_a_neighbour_needed_is_tried_first():
    """And where that is too coarse as well, finer ones."""
    system = circuit_of("v1 a 0 sin(0 2 1meg)\nr1 a b 100\nd1 b 0 dio\n.model dio d is=1e-14\n")[0]
    grid = one_tone(8)
    sources = excitation(system, 0, grid, np.array([1e6]))[:, 1:]
    rest = np.zeros((len(grid), len(system.unknowns)), complex)

    def solved(likely: Tones | None) -> tuple[Tones, int]:
        circuit = LaneCircuit(system, 0, DEFAULT)
        one = Balance(circuit, grid, grid.frequencies(np.array([1e6])), sources, likely=likely)
        return one.solve([Begin(rest, np.zeros_like(sources))], rest).tones, circuit.evaluations

    alone, evaluations = solved(None)
    assert alone.count > grid.count
    told, fewer = solved(alone)
    assert told.samples == alone.samples
    assert fewer < evaluations
    assert solved(grid.finer())[0].samples == alone.samples


def test_no_state_of_a_sweep_is_farther_off_than_its_tolerance():
    """Steps are combined, and the last one is left out where it would be small: a step with the exact matrix tells what that
    would have been."""
    project, tone, grid = read_project(DEMO), np.array([868e6]), one_tone(9)
    snapshot = Snapshot(project.benches["pa_868_bench-power"], project.cells, project.kit)
    lanes = snapshot.moved(lanes_of((snapshot.condition(),))).spread(**{"parameter:pin": np.linspace(-30.0, -8.0, 12)})
    system = snapshot.circuit.system(snapshot.netlist(), lanes)
    for state in balance(system, tone, grid).states:
        circuit, x, frequencies = state.circuit, state.balanced.phasors, state.frequencies
        along = circuit.along(state.balanced.tones, x, limits=False)
        wanted = equations(circuit, frequencies, excitation(system, state.lane, grid, tone)[:, 1:])
        exact = jacobian(circuit, state.balanced.tones, along, wanted.s, frequencies)
        left = Ends(circuit).distance_of(exact.solve(wanted.missing(x, along)), x, float(np.abs(along.flows).max()))
        assert left < 1.0
