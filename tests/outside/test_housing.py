"""Housings against closed forms: resonances and their quality, filled boxes, and what ports do."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy.constants import c as light
from scipy.constants import epsilon_0, mu_0
from scipy.optimize import brentq
from scipy.sparse import csc_array, diags_array
from scipy.sparse.linalg import splu

from hearthline.core.fields.box import Housing, HousingError, LinePort, Span, Thing
from hearthline.core.fields.driven import Reduction, driven
from hearthline.core.fields.grid import Grid
from hearthline.core.fields.mesh import mesh_lines
from hearthline.core.fields.modes import Modes, resonances
from hearthline.core.fields.slices import electric, sliced
from hearthline.core.nports.n_port import NPort
from hearthline.core.nports.passivity import largest, places
from tests.approximation import approx

BOX = (22.86e-3, 10.16e-3, 40e-3)
COPPER = 5.8e7


def of(housing: Housing) -> Modes:
    return resonances(Grid(housing, mesh_lines(housing)))


def bare(size: tuple[float, float, float], count: int) -> np.ndarray:
    """c/2 √((m/a)² + (n/b)² + (p/d)²); two of each with three numbers above 0 (Pozar)."""
    reach = range(8)
    found = []
    for m in reach:
        for n in reach:
            for p in reach:
                zeros = [m, n, p].count(0)
                frequency = 0.5 * light * np.sqrt((m / size[0]) ** 2 + (n / size[1]) ** 2 + (p / size[2]) ** 2)
                found += [frequency] * {0: 2, 1: 1}.get(zeros, 0)
    return np.sort(found)[:count]


def quality_of_te101(a: float, b: float, d: float) -> float:
    """Pozar, Microwave Engineering, of a rectangular cavity with walls of copper."""
    k = np.pi * np.sqrt(1 / a**2 + 1 / d**2)
    resistance = np.sqrt(k * light * mu_0 / (2 * COPPER))
    eta = np.sqrt(mu_0 / epsilon_0)
    below = 2 * a**3 * b + 2 * b * d**3 + a**3 * d + a * d**3
    return (k * a * d) ** 3 * b * eta / (2 * np.pi**2 * resistance) / below


def test_a_bare_box():
    """Frequencies, second order in the cells; quality of the lowest; nothing lost in what fills it."""
    errors = []
    for mesh in (3e-3, 1.5e-3):
        found = of(Housing(BOX, COPPER, 4, mesh))
        errors.append(np.abs(found.frequencies / bare(BOX, 4) - 1))
    assert errors[1].max() < 7e-3
    assert errors[0][0] / errors[1][0] == approx(4.0, rel=0.25)
    assert found.walls[0] == approx(quality_of_te101(*BOX), rel=5e-3)
    assert np.isinf(found.filling).all()
    assert found.quality == approx(found.walls, rel=1e-12)


def test_each_of_those_that_are_alike_is_found():
    """A cube: three, then two, then three of one frequency."""
    size = (20e-3, 20e-3, 20e-3)
    found = of(Housing(size, None, 11, 2e-3))
    assert found.frequencies == approx(bare(size, 11), rel=1.5e-2)
    assert np.isinf(found.quality).all()


def test_a_filled_box():
    """By √er lower; 1/Q is its loss tangent; the same of a magnetic one."""
    whole = ((0.0, 0.0, 0.0), BOX)
    plain = of(Housing(BOX, None, 3, 2e-3)).frequencies
    for thing, wanted in (
        (Thing(*whole, er=9.8, tan_delta=1e-3), 1e3), (Thing(*whole, mur=9.8, mu_tan_delta=2e-3), 500.0)
    ):  # fmt: skip
        found = of(Housing(BOX, None, 3, 2e-3, (thing,)))
        assert found.frequencies == approx(plain / np.sqrt(9.8), rel=1e-5)
        assert found.filling == approx(wanted, rel=1e-6)


def test_a_slab_on_the_end():
    """tan(β1 d1)/β1 + tan(β2 d2)/β2 = 0 of the lowest wave along the box (Collin, Field Theory of Guided Waves)."""
    a, _, d = BOX
    thick, er = 8e-3, 4.0

    def rest(f: float) -> float:
        k, across = 2 * np.pi * f / light, np.pi / a
        inside, outside = (np.sqrt(complex(e * k**2 - across**2)) for e in (er, 1.0))
        one, other = (np.tan(b * x) / b for b, x in ((inside, thick), (outside, d - thick)))
        return float((one + other).real)

    exact = brentq(rest, 6.0e9, 6.5e9)
    assert abs(rest(exact)) < 1e-9  # a root, and not where a tangent jumps
    slab = Thing((0.0, 0.0, 0.0), (a, BOX[1], thick), er, 0.01)
    found = of(Housing(BOX, None, 1, 1e-3, (slab,)))
    assert found.frequencies[0] == approx(exact, rel=3e-3)
    assert 100.0 < found.filling[0] < 1000.0


def test_a_post_moves_resonances_and_metal_has_no_field():
    """A metal thing over a third of the box leaves a shorter box: the closed form of what is left."""
    wall = Thing((0.0, 0.0, 28e-3), BOX, metal=True)
    found = of(Housing(BOX, COPPER, 2, 1e-3, (wall,)))
    assert found.frequencies == approx(bare((BOX[0], BOX[1], 28e-3), 2), rel=2e-3)
    assert found.walls[0] == approx(quality_of_te101(BOX[0], BOX[1], 28e-3), rel=1e-2)


def two_ports(conductivity: float | None, points: int, low: float, high: float) -> Housing:
    ports = (
        LinePort(1, (11e-3, 0.0, 12e-3), (11e-3, BOX[1], 12e-3)), LinePort(2, (8e-3, 0.0, 30e-3), (8e-3, BOX[1], 30e-3), 75.0)
    )  # fmt: skip
    return Housing(BOX, conductivity, 2, 2.5e-3, (), ports, Span(low, high, points))


def test_ports_are_reciprocal_and_take_no_more_than_they_get():
    """Without loss all of it comes out again; with walls of copper, less."""
    for conductivity in (None, COPPER):
        housing = two_ports(conductivity, 81, 5e9, 9e9)
        found = driven(Grid(housing, mesh_lines(housing)))
        s = found.network.s
        assert found.moved < 1e-4
        assert np.abs(s - np.swapaxes(s, 1, 2)).max() < 1e-10
        gains = np.linalg.norm(s, 2, axis=(1, 2))
        assert gains.max() <= 1.0 + 1e-9
        lost = 1.0 - np.linalg.svd(s, compute_uv=False).min()
        assert lost < 1e-9 if conductivity is None else lost > 1e-4


def test_a_driven_box_is_large_where_its_modes_are():
    """The impedance seen by a port without a load has its poles at the resonances."""
    modes = of(two_ports(None, 2, 5e9, 9e9)).frequencies
    for frequency in modes:
        housing = two_ports(None, 401, 0.999 * frequency, 1.001 * frequency)
        network = driven(Grid(housing, mesh_lines(housing))).network
        open_ = network.at(1e9).s[:, 0, 0]
        z = np.abs((1 + open_) / (1 - open_))
        assert network.frequencies[np.argmax(z)] == approx(frequency, rel=1e-5)


def test_a_block_that_touches_nothing_is_a_capacitor():
    """At 1 MHz: ε A / d to the floor, the lid and the sides, and what its edges add, in which a cell counts by half."""
    low, high, gap = (2e-3, 0.2e-3, 2e-3), (20e-3, 2.2e-3, 38e-3), 0.2e-3
    width, tall, long = (b - a for a, b in zip(low, high, strict=True))
    sides = 2 * tall * width / 2e-3 + tall * long / 2e-3 + tall * long / (BOX[0] - high[0])
    plates = width * long * (1 / gap + 1 / (BOX[1] - high[1])) + sides
    over = []
    for mesh in (4e-3, 2e-3, 1e-3):
        block, port = Thing(low, high, metal=True), LinePort(1, (11e-3, 0.0, 20e-3), (11e-3, gap, 20e-3))
        housing = Housing(BOX, None, 1, mesh, (block,), (port,), Span(1e6, 2e6, 2))
        network = driven(Grid(housing, mesh_lines(housing))).network
        z = 50.0 * (1 + network.s[0, 0, 0]) / (1 - network.s[0, 0, 0])
        over.append(-1.0 / (z.imag * 2 * np.pi * 1e6) / (epsilon_0 * plates))
    assert 1.0 < over[2] < 1.17
    assert 0.0 < over[1] - over[2] < 0.7 * (over[0] - over[1])


@pytest.mark.parametrize(
    ("things", "conductivity"), [((), 5e4), ((Thing((0.0, 0.0, 0.0), (10e-3, 4e-3, 20e-3), 6.0, 0.3),), COPPER)]
)
def test_the_reduced_model_is_what_the_whole_equations_say(things, conductivity):
    """Bad walls and lossy things: impedances by SciPy's solution of all edges, written out here."""
    ports = two_ports(conductivity, 5, 5e9, 8e9)
    housing = replace(ports, things=things, ports=tuple(replace(one, impedance=50.0) for one in ports.ports))
    grid = Grid(housing, mesh_lines(housing))
    found, free = driven(grid).network, grid.free
    curl = grid.curl[:, free]
    lines = np.zeros((grid.curl.shape[1], 2))
    for k, port in enumerate(housing.ports):
        at = tuple(int(np.argmin(np.abs(line - place))) for line, place in zip(grid.lines, port.begin, strict=True))
        lines[grid.edges_along(1, at, grid.cells[1]), k] = 1.0
    for k, frequency in enumerate(found.frequencies):
        omega = 2 * np.pi * frequency
        wall = (1 + 1j) * np.sqrt(omega * mu_0 / (2 * conductivity)) * grid.surface / (1j * omega)
        inductances = 1 / (grid.reluctances() + 1j * grid.reluctances("turn"))
        permittances = grid.capacitances() - 1j * grid.capacitances("loss")
        # reluctances with the wall beside them, to first order as the model has it
        faces = 1 / inductances - grid.reluctances() ** 2 * wall
        matrix = curl.T @ (diags_array(faces) @ curl) - omega**2 * diags_array(permittances[free])
        z = 1j * omega * lines[free].T @ splu(csc_array(matrix)).solve(lines[free].astype(complex))
        wanted = np.linalg.solve(z / 50 + np.eye(2), z / 50 - np.eye(2))
        assert np.abs(found.s[k] - wanted).max() < 1e-6


def test_a_mesh_of_few_cells_has_few_resonances():
    """All that it has, and no static ones among them, with losses as without."""
    plain, lossy = (
        of(Housing(BOX, None, 40, 12e-3, (Thing((0.0, 0.0, 0.0), BOX, tan_delta=loss),))).frequencies
        for loss in (0.0, 0.3)
    )
    assert 2 <= len(plain) < 40
    assert plain[0] == approx(bare(BOX, 1)[0], rel=0.1)
    assert lossy == approx(plain * np.sqrt(1 / (1 - 0.3j)).real, rel=1e-6)
    assert len(of(Housing(BOX, None, 40, 12e-3)).frequencies) == 3


@pytest.mark.parametrize("cells", [1.0, 2.5])
def test_the_mesh_meets_every_face(cells):
    """With two cells across a thing at least."""
    thing = Thing((3e-3, 0.0, 5e-3), (3.4e-3, 1e-3, 6e-3), er=2.0)
    lines = mesh_lines(Housing(BOX, None, 1, cells * 1e-3, (thing,)))
    for axis, line in enumerate(lines):
        for place in (thing.low[axis], thing.high[axis], BOX[axis]):
            assert np.abs(line - place).min() < 1e-12
        inside = (line > thing.low[axis] + 1e-9) & (line < thing.high[axis] - 1e-9)
        assert inside.sum() >= 1
        assert np.diff(line).max() <= cells * 1e-3 + 1e-12


@pytest.mark.parametrize("loss", [0.019, 0.021, 0.5])
def test_a_box_filled_with_loss(loss):
    """ω² er (1 - j tan δ) = k² c²: Q = Re ω / 2 Im ω, by small corrections up to a loss tangent of 0.02, and exactly above."""
    whole = Thing((0.0, 0.0, 0.0), BOX, er=4.0, tan_delta=loss)
    found = of(Housing(BOX, COPPER, 2, 2.5e-3, (whole,)))
    plain = of(Housing(BOX, COPPER, 2, 2.5e-3)).frequencies
    omega = plain / np.sqrt(4.0 * (1 - 1j * loss))
    assert found.frequencies == approx(omega.real, rel=1e-3)
    assert found.filling == approx(omega.real / (2 * omega.imag), rel=1e-3)
    assert np.isfinite(found.walls).all()


def test_an_absorber_on_the_lid_damps():
    """The lowest resonance loses most of its quality; ports stay passive and reciprocal, and the fields that are added suffice."""
    absorber = Thing((0.0, 8.16e-3, 0.0), BOX, er=6.0, tan_delta=0.8, mur=2.0, mu_tan_delta=0.6)
    housing = two_ports(COPPER, 41, 5e9, 9e9)
    absorbed = Housing(BOX, COPPER, 2, 2.5e-3, (absorber,), housing.ports, housing.span)
    assert of(absorbed).quality[0] < 0.02 * of(housing).quality[0]
    found = driven(Grid(absorbed, mesh_lines(absorbed)))
    assert found.moved < 1e-4
    s = found.network.s
    assert np.abs(s - np.swapaxes(s, 1, 2)).max() < 1e-10
    assert np.linalg.norm(s, 2, axis=(1, 2)).max() < 0.999


def loaded(loss: float) -> Housing:
    """Two strips on a board in a box, one of them with a layer of loss under the lid."""
    board = Thing((0.0, 0.0, 0.0), (40e-3, 30e-3, 1e-3), 4.0, 0.002)
    strips = (
        Thing((4e-3, 14e-3, 1e-3), (17e-3, 16e-3, 1.5e-3), metal=True),
        Thing((23e-3, 14e-3, 1e-3), (36e-3, 16e-3, 1.5e-3), metal=True),
    )
    lid = (Thing((0.0, 0.0, 8e-3), (40e-3, 30e-3, 10e-3), 4.0, loss),) if loss else ()
    ports = tuple(LinePort(k + 1, (x, 15e-3, 0.0), (x, 15e-3, 1e-3)) for k, x in enumerate((4e-3, 17e-3, 23e-3, 36e-3)))
    return Housing((40e-3, 30e-3, 10e-3), COPPER, 3, 5e-3, (board, *strips, *lid), ports, Span(0.5e9, 9e9, 40))


@pytest.mark.parametrize("loss", [0.0, 0.8])
def test_a_driven_box_is_a_passive_sum_over_poles(loss):
    """Beside the numbers: no singular value above 1 at any frequency, tied together at rest, and near the numbers: as far as
    constant loss tangents and the root of the frequency allow."""
    found = driven(Grid(loaded(loss), mesh_lines(loaded(loss))))
    rational, network = found.rational, found.resonant
    omega = 2.0 * np.pi * network.frequencies
    assert (rational.poles.real < 0).all()
    assert largest(rational, places(rational, omega)).max() <= 1.0 + 1e-6
    np.testing.assert_allclose(rational.at(np.zeros(1))[0], np.kron(np.eye(2), [[0, 1], [1, 0]]), atol=1e-6)
    assert np.abs(rational.at(omega) - network.s).max() < 0.05
    assert set(found.network.frequencies) <= set(network.frequencies)


def test_strong_losses_are_in_the_reduced_model():
    """By the solution of all edges with complex numbers, by SuperLU and by our own factors."""
    housing = loaded(0.8)
    grid = Grid(housing, mesh_lines(housing))
    found = driven(grid).network
    reduction = Reduction(grid)
    for k in (3, 20, 37):
        omega = 2.0 * np.pi * found.frequencies[k]
        faces, edges = reduction._losses(omega)
        lost = reduction.curl.T @ (diags_array(faces) @ reduction.curl) + diags_array(edges - omega**2)
        fields = splu(csc_array(reduction._turning + lost)).solve(1j * omega * reduction.ports.astype(complex))
        z = reduction.ports.T @ fields
        np.testing.assert_allclose(reduction.directly(omega), z, rtol=1e-6, atol=1e-9 * np.abs(z).max())
        s = np.linalg.solve(z / 50 + np.eye(4), z / 50 - np.eye(4))
        assert np.abs(s - found.s[k]).max() < 3e-4


def test_metal_that_touches_nothing_hides_no_resonance():
    """Each such piece has a field at rest of its own, which is none."""
    found = of(replace(loaded(0.0), modes=6))
    assert len(found.frequencies) == 6
    assert found.frequencies[0] > 1e9


def test_cells_beside_small_ones_are_not_much_larger():
    """By a factor of two, and no larger than was said."""
    lines = mesh_lines(loaded(0.0))
    for one in lines:
        steps = np.diff(one)
        assert max((steps[1:] / steps[:-1]).max(), (steps[:-1] / steps[1:]).max()) < 2.1
        assert steps.max() <= 5e-3 * (1 + 1e-9)


def test_the_field_of_a_box_in_a_plane():
    """TE101 of a bare box is sin sin along the short side (Pozar), and the same in every plane across that."""
    housing = Housing(BOX, None, 1, 2e-3)
    grid = Grid(housing, mesh_lines(housing))
    field = electric(grid, resonances(grid).voltages[0])
    found = sliced(grid, field, 1, 0.3 * BOX[1])
    x, z = (0.5 * (one[1:] + one[:-1]) for one in found.lines)
    wanted = np.outer(np.sin(np.pi * x / BOX[0]), np.sin(np.pi * z / BOX[2]))
    np.testing.assert_allclose(found.size, wanted / wanted.max(), atol=0.02)
    assert max(np.abs(one).max() for one in found.along) < 1e-6


@pytest.mark.parametrize("loss", [0.0, 0.8])
@pytest.mark.parametrize("steps", [0, 10, 80, 150])
def test_a_search_can_be_stopped(loss, steps):
    """At any step of it: while the mesh is divided, factors are made, and fields are sought; with and without losses."""
    left = iter([True] * steps)
    grid = Grid(loaded(loss), mesh_lines(loaded(loss)))
    with pytest.raises(HousingError, match="stopped"):
        resonances(grid, lambda: next(left, False))
    assert next(left, None) is None


def test_a_thin_lossy_layer_by_perturbation():
    """On the floor, where TE101 stands upright: the field in it is εr times smaller, so that with its share t/b of the height the
    frequency falls by (1 - 1/εr) t/2b, and 1/Q is tan δ / εr · t/b (Pozar, cavity perturbations), each over 1 - (1 - 1/εr) t/b,
    by which less of the field is left above it."""
    a, b, d = BOX
    er, loss, thin = 4.0, 0.01, b / 80
    bare_box = Housing(BOX, None, 1, 2e-3)
    layer = Thing((0.0, 0.0, 0.0), (a, thin, d), er, loss)
    lines = mesh_lines(replace(bare_box, things=(layer,)))
    before = resonances(Grid(bare_box, lines))
    found = resonances(Grid(replace(bare_box, things=(layer,)), lines))
    shift = 1 - found.frequencies[0] / before.frequencies[0]
    rest = 1 - (1 - 1 / er) * thin / b
    assert shift == approx((1 - 1 / er) * thin / (2 * b) / rest, rel=0.03)
    assert 1 / found.filling[0] == approx(loss / er * thin / b / rest, rel=0.03)


def shorted_line(impedance: float, plane: float) -> NPort:
    """A bar of 40 mm in a box, which ends on the wall behind; the port is between its other end and the floor."""
    bar = Thing((10e-3, 3e-3, 4e-3), (50e-3, 5e-3, 5e-3), metal=True)
    port = LinePort(1, (10e-3, 4e-3, 0.0), (10e-3, 4e-3, 4e-3), impedance, plane)
    housing = Housing((50e-3, 8e-3, 8e-3), None, 1, 2e-3, (bar,), (port,), Span(0.25e9, 1.75e9, 25))
    return driven(Grid(housing, mesh_lines(housing))).network


def test_a_line_is_taken_away_up_to_a_plane():
    """A shorted line of the port's impedance reflects -exp(-2jβl) (Pozar), and at the short -1. Its impedance is that at an
    eighth of a wave, where it is j Z."""
    length, eighth = 40e-3, light / (8 * 40e-3)
    s = shorted_line(50.0, 0.0)
    z = 50.0 * (1 + s.s[:, 0, 0]) / (1 - s.s[:, 0, 0])
    impedance = float(np.interp(eighth, s.frequencies, z.imag))
    at_port, at_short = shorted_line(impedance, 0.0), shorted_line(impedance, length)
    assert np.abs(at_port.s[:, 0, 0] + 1.0).max() > 1.0
    assert np.abs(at_short.s[:, 0, 0] + 1.0).max() < 0.12
    turns = np.exp(4j * np.pi * at_port.frequencies * length / light)
    np.testing.assert_allclose(at_short.s[:, 0, 0], at_port.s[:, 0, 0] * turns, rtol=1e-9)
