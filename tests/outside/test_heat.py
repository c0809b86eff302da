"""Heat in the die against closed forms and finite differences, and circuits that heat themselves against closed forms."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy.sparse import coo_array, diags_array
from scipy.sparse.linalg import cg

from hearthline.core.constants import BOLTZMANN, ELEMENTARY_CHARGE
from hearthline.core.engine.electrothermal import Die as Resistances
from hearthline.core.errors import FileError, HearthlineError
from hearthline.core.thermal.die import Die, HeatSource, Plan, Via
from hearthline.core.thermal.kirchhoff import warmed
from hearthline.core.thermal.picture import picture
from hearthline.core.thermal.series import peaks, resistances, surface
from hearthline.core.thermal.vias import Columns
from tests.approximation import approx
from tests.benches import curve, data_of, ran

DIE = Die(400e-6, 300e-6, 100e-6, 148.0)
BOXES = np.array([[100e-6, 150e-6, 4e-6, 20e-6], [110e-6, 150e-6, 4e-6, 20e-6], [300e-6, 60e-6, 10e-6, 10e-6]])


def heat(*sources: str, die: str = "400u, 300u, 100u", more: str = "") -> str:
    """A [heat] of 100 W/(m K) and parts, each with its fingers."""
    text = f'[heat]\ndie = "{die}"\nconductivity = "100"\n{more}\n'
    for one in sources:
        part, at, fingers = one.split(":")
        text += (
            f'[[heat.sources]]\npart = "{part}"\nat = "{at}"\nsize = "4u, 20u"\nfingers = "{fingers}"\npitch = "10u"\n'
        )
    return text


def test_a_square_on_a_half_space():
    """Mean 0.4732 and peak 0.5611 over k and the side (Carslaw and Jaeger; Yovanovich, AIAA 1976), far from sides and back."""
    side, box = 10e-6, 3e-3
    die, square = Die(box, box, box, 1.0), np.array([[0.5 * box, 0.5 * box, side, side]])
    assert side * resistances(die, square)[0, 0] == approx(0.4732, rel=0.01)
    assert side * peaks(die, square)[0, 0] == approx(0.5611, rel=0.01)


def test_powers_act_both_ways_and_add_up():
    """Reciprocity; superposition in the map; and all heat goes through to the back: the mean of the surface is P D / (L W)."""
    matrix = resistances(DIE, BOXES)
    assert matrix == approx(matrix.T, rel=1e-12)
    x, y = ((np.arange(n) + 0.5) / n * size for n, size in ((400, DIE.length), (300, DIE.width)))
    whole = surface(DIE, BOXES, np.array([1.0, 2.0, 3.0])).grid(x, y)
    parts = sum(p * surface(DIE, BOXES, np.eye(3)[k]).grid(x, y) for k, p in enumerate((1.0, 2.0, 3.0)))
    assert whole == approx(parts, rel=1e-9)
    spots = surface(DIE, BOXES, np.array([1.0, 2.0, 3.0])).at(BOXES[:, 0], BOXES[:, 1])
    assert spots == approx(peaks(DIE, BOXES) @ np.array([1.0, 2.0, 3.0]), rel=1e-9)
    assert whole.mean() == approx(6.0 * DIE.thickness / (DIE.length * DIE.width), rel=1e-3)


def conduction(shape: tuple[int, int, int], h: float) -> tuple[coo_array, np.ndarray]:
    """Heat between the cells of a box, its back held, of a conductivity of 1, and the number of each cell."""
    index = np.arange(np.prod(shape)).reshape(shape)
    pairs = [(index[1:], index[:-1]), (index[:, 1:], index[:, :-1]), (index[:, :, 1:], index[:, :, :-1])]
    a = np.concatenate([one.ravel() for one, _ in pairs])
    b = np.concatenate([one.ravel() for _, one in pairs])
    back = index[:, :, -1].ravel()
    rows, columns = np.concatenate([a, b, a, b, back]), np.concatenate([b, a, a, b, back])
    values = h * np.concatenate([-np.ones(2 * len(a)), np.ones(2 * len(a)), 2.0 * np.ones(len(back))])
    return coo_array((values, (rows, columns))), index


def by_cells(n: int) -> tuple[float, float]:
    """Means over the heated rectangle and another one, of a box of 20 n x 15 n x 12 n cells, its back held, by SciPy."""
    h = 4e-6 / n
    found, index = conduction((20 * n, 15 * n, 12 * n), h)
    matrix = found.tocsr()
    heated, other = index[4 * n : 7 * n, 5 * n : 10 * n, 0], index[12 * n : 14 * n, 3 * n : 6 * n, 0]
    power = np.zeros(index.size)
    power[heated.ravel()] = 1.0 / heated.size
    found, _ = cg(matrix, power, rtol=1e-9)
    up = 0.5 * h / (heated.size * h * h)  # from the middle of the first cells to the surface
    return float(found[heated].mean()) + up, float(found[other].mean())


def test_the_series_is_what_finite_differences_find():
    """With cells of 2 um and of 1 um, their errors of second order taken away."""
    die = Die(80e-6, 60e-6, 48e-6, 1.0)
    boxes = np.array([[22e-6, 30e-6, 12e-6, 20e-6], [52e-6, 18e-6, 8e-6, 12e-6]])
    own, other = ((4.0 * fine - coarse) / 3.0 for coarse, fine in zip(by_cells(2), by_cells(4), strict=True))
    matrix = resistances(die, boxes)
    assert matrix[0, 0] == approx(own, rel=0.005)
    assert matrix[1, 0] == approx(other, rel=0.005)


@pytest.mark.parametrize("exponent", [-1.3, -1.0, 0.0, 0.5])
def test_conductivity_over_temperature_in_one_dimension(exponent):
    """Heat through a slab: the integral of k(T) from back to front is the flux times the thickness, by quadrature."""
    die = Die(1e-3, 1e-3, 5e-4, 148.0, exponent)
    flux, back = 2e7, 350.0
    top = float(warmed(die, np.array(back), np.array(flux * die.thickness)))
    course = np.linspace(back, top, 200_001)
    assert np.trapezoid(148.0 * (course / 300.0) ** exponent, course) == approx(flux * die.thickness, rel=1e-8)
    if exponent < -1:
        assert np.isnan(warmed(die, np.array(back), np.array(1e9)))


def resistance_of_one_finger() -> float:
    die = Die(400e-6, 300e-6, 100e-6, 100.0)
    return float(resistances(die, np.array([[200e-6, 150e-6, 4e-6, 20e-6]]))[0, 0]) / 100.0


def test_a_resistor_with_a_temperature_coefficient():
    """ΔT (1 + a ΔT) = Rth V²/R: a quadratic; its noise is that of its own temperature; the curve is in every analysis."""
    parts, a, rth = "v1 a 0 3\nr1 a 0 r=10 tc1=4e-3\n", 4e-3, resistance_of_one_finger()
    more = heat("r1:200u, 150u:1")
    lines = {"p": "point", "s": "sweep of v1 from 0 to 3 points 4", "n": "noise of a by v1 from 1k to 10k points 1"}
    run = ran(parts, lines, ports={}, celsius="27", more=more)
    drive = rth * 9.0 / 10.0
    rise = (-1.0 + np.sqrt(1.0 + 4.0 * a * drive)) / (2.0 * a)
    assert curve(run.results["p"], "r1.temperature")[0] == approx(27.0 + rise, abs=1e-3)
    assert curve(run.results["s"], "r1.temperature")[-1] == approx(27.0 + rise, abs=1e-3)
    assert curve(run.results["s"], "r1.temperature")[0] == approx(27.0, abs=1e-9)
    assert curve(run.results["n"], "r1.temperature") == approx(27.0 + rise, abs=1e-3)
    parts = "v1 a 0 3\nr1 a b r=10 tc1=4e-3\nr2 b 0 1e-3\n"
    noise = data_of(parts, "noise of b by v1 from 1k to 10k points 1", ports={}, more=more)
    hot = 27.0 + rise + 273.15
    current = np.sqrt(4 * BOLTZMANN * hot / (10.0 * (1 + a * rise)))
    assert curve(noise, "r1.thermal")[0] == approx(1e-3 * current, rel=1e-3)


def test_a_sine_heats_by_its_mean_power():
    """Half the power of the same direct voltage."""
    rth, a = resistance_of_one_finger(), 4e-3
    parts = "v1 a 0 sin(0 3 1meg)\nr1 a 0 r=10 tc1=4e-3\n"
    data = data_of(parts, "balance at 1M harmonics 3", ports={}, more=heat("r1:200u, 150u:1"))
    rise = (-1.0 + np.sqrt(1.0 + 4.0 * a * rth * 4.5 / 10.0)) / (2.0 * a)
    assert curve(data, "r1.temperature")[0] == approx(27.0 + rise, abs=1e-3)
    assert abs(curve(data, "I(v1)")[1]) == approx(3.0 / (10.0 * (1.0 + a * rise)), rel=1e-6)


def test_where_heat_runs_away():
    """R falls with b: ΔT (1 - b ΔT) = Rth V²/R has a solution up to V² = R / (4 b Rth), where all of a rise comes back."""
    b, rth = 2e-3, resistance_of_one_finger()
    limit = float(np.sqrt(10.0 / (4.0 * b * rth)))
    more = heat("r1:200u, 150u:1")
    parts = "v1 a 0 {}\nr1 a 0 r=10 tc1=-2e-3\n"
    below = data_of(parts.format(0.98 * limit), "point", ports={}, more=more)
    rise = (1.0 - np.sqrt(1.0 - 0.98**2)) / (2.0 * b)
    assert curve(below, "r1.temperature")[0] == approx(27.0 + rise, abs=1e-2)
    with pytest.raises(AssertionError, match=r"r1 runs away with its heat: no temperature stands. With (9[0-9]|8[89])"):
        data_of(parts.format(1.03 * limit), "point", ports={}, more=more)


def test_where_a_bipolar_runs_away():
    """At a fixed voltage of its base its current is A exp(-B/T), B = q (Eg - Vbe) / k: up to where T² = B (T - T0) there is a
    temperature, in closed form."""
    gap, base, at, saturation = 1.11, 0.6, 300.15, 3e-13
    rth, b = resistance_of_one_finger(), (gap - base) * ELEMENTARY_CHARGE / BOLTZMANN
    hottest = 0.5 * b * (1.0 - np.sqrt(1.0 - 4.0 * at / b))
    current = saturation * np.exp(gap * ELEMENTARY_CHARGE / (BOLTZMANN * at) - b / hottest)
    limit = (hottest - at) / (rth * current)
    assert limit > 2.0
    parts = "vc c 0 {}\nvb b 0 0.6\nq1 c b 0 fast\n.model fast npn is=3e-13 bf=1e9 xti=0 eg=1.11 tnom=27\n"
    more = heat("q1:200u, 150u:1")
    below = data_of(parts.format(0.995 * limit), "point", ports={}, more=more)
    rise = curve(below, "q1.temperature")[0] + 273.15 - at
    assert 0.8 * (hottest - at) < rise < hottest - at
    with pytest.raises(AssertionError, match="q1 runs away with its heat: no temperature stands"):
        data_of(parts.format(1.005 * limit), "point", ports={}, more=more)


def test_the_middle_finger_is_hottest_and_spreading_cools():
    """Three fingers; the same with the part alone on another place of the die."""
    parts = "v1 a 0 1\nr1 a 0 10\n"
    close = data_of(parts, "point", ports={}, more=heat("r1:200u, 150u:3"))
    hot = [curve(close, f"r1.finger{k}.hot")[0] for k in (1, 2, 3)]
    assert hot[1] > hot[0] == approx(hot[2], rel=1e-9)
    assert curve(close, "r1.peak_temperature")[0] > hot[1]
    assert sum(curve(close, f"r1.finger{k}.power")[0] for k in (1, 2, 3)) == approx(0.1, rel=1e-9)
    wide = data_of(parts, "point", ports={}, more=heat("r1:200u, 150u:3").replace('pitch = "10u"', 'pitch = "60u"'))
    assert curve(wide, "r1.peak_temperature")[0] < curve(close, "r1.peak_temperature")[0]


def test_a_hot_neighbour_warms_the_others():
    """By the same resistance both ways, through the back's resistance too."""
    parts = "v1 a 0 1\nr1 a 0 10\ni2 0 b 1m\nr2 b 0 1k\n"
    more = heat("r1:100u, 150u:1", "r2:300u, 150u:1", more='resistance = "200"')
    data = data_of(parts, "point", ports={}, more=more)
    boxes = np.array([[100e-6, 150e-6, 4e-6, 20e-6], [300e-6, 150e-6, 4e-6, 20e-6]])
    matrix = resistances(Die(400e-6, 300e-6, 100e-6, 100.0), boxes) / 100.0 + 200.0
    rise = matrix @ np.array([0.1, 1e-3])
    for part, wanted in zip(("r1", "r2"), rise, strict=True):
        assert curve(data, f"{part}.temperature")[0] == approx(27.0 + wanted, abs=1e-4)


def test_layers_below_the_die():
    """All of the top heated: their resistances in series; a die cut into two layers is the die; a layer that conducts very well is a
    back of one temperature; through one that hardly does, heat spreads over the whole die first."""
    whole = np.array([[200e-6, 150e-6, 400e-6, 300e-6]])
    layers = Die(400e-6, 300e-6, 100e-6, 148.0, layers=((25e-6, 50.0, 0.0), (500e-6, 380.0, 0.0)))
    wanted = (100e-6 / 148 + 25e-6 / 50 + 500e-6 / 380) / (400e-6 * 300e-6)
    assert resistances(layers, whole)[0, 0] / 148.0 == approx(wanted, rel=1e-9)
    cut = Die(400e-6, 300e-6, 60e-6, 148.0, layers=((40e-6, 148.0, 0.0),))
    assert resistances(cut, BOXES) == approx(resistances(DIE, BOXES), rel=1e-9)
    copper = Die(400e-6, 300e-6, 100e-6, 148.0, layers=((100e-6, 1e9, 0.0),))
    assert resistances(copper, BOXES) == approx(resistances(DIE, BOXES), rel=1e-5)
    glue = Die(400e-6, 300e-6, 100e-6, 148.0, layers=((50e-6, 0.1, 0.0),))
    alone = 148.0 * 50e-6 / 0.1 / (400e-6 * 300e-6)
    apart = resistances(glue, BOXES) - alone
    assert apart[0, 2] == approx(apart[1, 2], rel=0.2)
    assert abs(apart[0, 2]) < 0.1 * alone


@pytest.mark.parametrize(
    ("more", "said"),
    [('layers = "20u"', "thickness and its conductivity"), ('layers = "20u 0"', "above 0"), ('layers = "20u 5"\ncapacity = "1e6"', "each layer says its own")],
)  # fmt: skip
def test_layers_that_cannot_be(more, said):
    """Each with what to do."""
    with pytest.raises(HearthlineError, match=said):
        ran("v1 a 0 1\nr1 a 0 10\n", {"p": "point"}, ports={}, more=heat("r1:200u, 150u:1", more=more))


def by_cells_with_a_via() -> float:
    """By what share a column lowers the mean over a heated rectangle, of a box of 30 x 24 x 12 cells, its back held, by SciPy."""
    index = np.arange(30 * 24 * 12).reshape(30, 24, 12)
    plain = np.ones(index.shape)
    column = plain.copy()
    column[16:22, 8:16] = 390.0 / 46.0
    power = np.zeros(index.shape)
    power[8:12, 8:16, 0] = 1.0 / 32.0
    means = []
    for conducts in (plain, column):
        matrix = diags_array(np.where(np.arange(index.size) % 12 == 11, 2.0 * conducts.ravel(), 0.0))
        for axis in range(3):
            a, b = (np.moveaxis(index, axis, 0)[part].ravel() for part in (slice(None, -1), slice(1, None)))
            each = 2.0 / (1.0 / conducts.ravel()[a] + 1.0 / conducts.ravel()[b])
            rows, columns = np.concatenate([a, b, a, b]), np.concatenate([a, b, b, a])
            values = np.concatenate([each, each, -each, -each])
            matrix = matrix + coo_array((values, (rows, columns)), shape=matrix.shape)
        field, _ = cg(matrix.tocsr(), power.ravel(), rtol=1e-9)
        means.append(float(field.reshape(index.shape)[8:12, 8:16, 0].mean()) + 0.5 / 32.0)
    return 1.0 - means[1] / means[0]


def test_a_via_cools_as_finite_differences_say():
    """Beside a heated rectangle, from the top to the back; both ways alike, and a via of what the die is of does nothing."""
    h, own = 2e-6, (HeatSource("a", (20e-6, 24e-6), (8e-6, 16e-6)), HeatSource("b", (50e-6, 24e-6), (4e-6, 16e-6)))
    die, via = Die(30 * h, 24 * h, 12 * h, 46.0), Via((38e-6, 24e-6), (12e-6, 16e-6), 390.0)
    without, found = Resistances(Plan(die, own)), Resistances(Plan(die, own, (via,)))
    assert 1.0 - found.between[0, 0] / without.between[0, 0] == approx(by_cells_with_a_via(), rel=0.05)
    assert found.between[0, 1] == approx(found.between[1, 0], rel=1e-9)
    assert (found.between < without.between).all()
    same = Resistances(Plan(die, own, (replace(via, conductivity=46.0),)))
    assert same.between == approx(without.between, rel=1e-12)
    picture_of = picture(Plan(die, own, (via,)), np.array([0.01, 0.0]), 27.0)
    rises = found.tops @ np.array([0.01, 0.0]) / 46.0
    assert picture_of.peaks - 27.0 == approx(rises, rel=0.02)


@pytest.mark.parametrize("layers", [(), ((20e-6, 92.0, 0.0),)])
def test_a_via_that_is_all_of_the_die(layers):
    """Of twice the conductivity, all of the top heated: half the rise through the die, what layers below add stays."""
    die = Die(60e-6, 50e-6, 40e-6, 46.0, 0.0, 0.0, 0.0, layers)
    box = np.array([[30e-6, 25e-6, 60e-6, 50e-6]])
    away = Columns(die, (Via((30e-6, 25e-6), (60e-6, 50e-6), 92.0),)).away(box, box)[0, 0]
    assert away == approx(0.5 * 40e-6 / (60e-6 * 50e-6), rel=0.06)


@pytest.mark.parametrize(
    ("vias", "said"),
    [
        ('at = "390u, 150u"\nsize = "30u, 30u"', "via 1 lies outside of the die"),
        ('at = "200u, 150u"\nsize = "30u, 30u"', "via 1 goes through a finger of r1"),
        ('at = "300u, 150u"\nsize = "30u, 0"', "via 1: size is above 0"),
        ('at = "300u, 150u"\nsize = "30u, 30u"\nconductivity = "-1"', "via 1: conductivity is above 0"),
        ('at = "300u, 150u"\nsize = "30u, 30u"\n[[heat.vias]]\nat = "310u, 150u"\nsize = "30u, 30u"', "vias 1 and 2 overlap"),
    ],
)  # fmt: skip
def test_vias_that_cannot_be(vias, said):
    """Each with its own words."""
    with pytest.raises(FileError, match=said):
        ran(
            "v1 a 0 1\nr1 a 0 r=10\n",
            {"p": "point"},
            ports={},
            more=f"{heat('r1:200u, 150u:1')}\n[[heat.vias]]\n{vias}\n",
        )
