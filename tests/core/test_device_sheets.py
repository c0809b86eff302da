"""The sheets of devices: adaptive points, families, corners and temperatures, numbers and sizes taken from them."""

from __future__ import annotations

import numpy as np
import pytest

from hearthline.core.device.extract import extract
from hearthline.core.device.naming import axis_of
from hearthline.core.device.sheets import characterise
from hearthline.core.device.sizing import size_by_efficiency, size_by_overdrive
from hearthline.core.device.subject import Family, of_kit, of_models, of_module
from hearthline.core.device.sweeps import Conditions, SweepPlan, run_sweep
from hearthline.core.elements import DEVICES
from hearthline.core.errors import CircuitError, FileError
from hearthline.core.formats.kit_folder import INSTALLED, kit_of_models, read_kit
from hearthline.core.models.library import library_module, library_names
from tests.approximation import approx
from tests.modules import module
from tests.outside.silicon import rf_transistor, spiral

KIT = read_kit(INSTALLED / "lm130")
ONE = Conditions(("typ",), (27.0,))


@pytest.mark.parametrize("name", [n for n in KIT.devices if n not in KIT.templates])
def test_every_device_of_the_kit_has_sheets_in_all_its_corners(name):
    """All curves in five corners at three temperatures are there, without a point that failed."""
    subject = of_kit(KIT, name)
    found = characterise(subject, Conditions(KIT.models.names, (-40.0, 27.0, 150.0)))
    assert not found.problems
    for chart in found.sheets.charts:
        dataset = found.datasets[chart.sweep]
        x, _ = axis_of(dataset, chart.x)
        y, _ = axis_of(dataset, chart.y)
        assert x.shape == y.shape == dataset.outcomes.shape
        assert np.isfinite(y).any(axis=1).all()
        assert dataset.lanes % 15 == 0


@pytest.mark.parametrize("name", library_names())
def test_every_module_of_the_library_has_sheets(name):
    """By its ports and what it can be asked for, with its parameters as they are."""
    found = characterise(of_module(library_module(name)), Conditions())
    assert not found.problems
    assert found.sheets.charts


def test_points_stand_where_curves_bend():
    """Near the knee of a diode neighbours are closer than where the curve is straight; a straight line gets no more."""
    subject = of_kit(KIT, "d_np")
    plan = SweepPlan("forward", "vp", 0.0, 1.0, kept=("id",))
    points = run_sweep(subject, plan, ONE).points
    steps = np.diff(points)
    assert steps[(points[1:] > 0.75) & (points[1:] < 0.85)].max() < 0.51 * steps[points[1:] < 0.5].max()
    straight = of_module(module('(* desc="i" *) real i; analog begin i = V(p, n); I(p, n) <+ i; end'))
    assert len(run_sweep(straight, SweepPlan("v", "vp", -1, 1, kept=("i",)), Conditions()).points) == 41


def test_a_curve_between_its_points_is_straight_enough():
    """Halfway between points the model is within half a percent of the curve's height of what is drawn."""
    subject = of_kit(KIT, "n_rvt")
    plan = SweepPlan("transfer", "vg", 0.0, 1.2, "vd", (1.2,), kept=("id",))
    found = run_sweep(subject, plan, ONE)
    middles = 0.5 * (found.points[1:] + found.points[:-1])
    current = found.curve("id")[0]
    again = run_sweep(
        subject, SweepPlan("transfer", "vg", float(middles[7]), float(middles[-7]), "vd", (1.2,), kept=("id",)), ONE
    )
    drawn = np.interp(again.points, found.points, current)
    assert np.abs(drawn - again.curve("id")[0]).max() < 5e-3 * current.max()


def test_a_condition_that_gives_no_number_leaves_the_others():
    """A device whose current is no number at some bias: the points beside it stand, and the sheets say how many failed."""
    broken = module('(* desc="i" *) real i; analog begin i = sqrt(0.5 - V(p, n)); I(p, n) <+ i; end', name="broken")
    found = characterise(of_module(broken), Conditions())
    dataset = found.datasets["voltage"]
    good = dataset.points < 0.45
    assert np.isfinite(dataset.curve("i")[0][good]).all()
    assert np.isnan(dataset.curve("i")[0][dataset.points > 0.55]).all()
    assert "1 of 1 curves" in found.problems["voltage"]


def test_numbers_of_a_transistor_agree_with_its_card():
    """The long device's thresholds are near vto, lambda is small, gm/ID ends at 1/(n UT)."""
    subject = of_kit(KIT, "n_rvt").with_values(w="10u", l="10u")
    found = {e.found.name: e.found.value for e in extract(characterise(subject, ONE), "typ", 27.0)}
    for name in ("threshold, constant current", "threshold, extrapolated", "threshold, second derivative"):
        assert found[name] == approx(0.41, abs=0.05)
    assert 0 < found["lambda"] < 0.05
    assert 25 < found["largest gm/ID"] < 38.7


def test_numbers_of_a_diode_and_a_bipolar_agree_with_their_cards():
    """Ideality 1.02 and 40 Ω of d_np; ideality near 1 and gain under BF of npn_v."""
    diode = {e.found.name: e.found.value for e in extract(characterise(of_kit(KIT, "d_np"), ONE), "typ", 27.0)}
    assert diode["ideality"] == approx(1.02, rel=2e-3)
    assert diode["series resistance"] == approx(40.0, rel=0.01)
    npn = {e.found.name: e.found.value for e in extract(characterise(of_kit(KIT, "npn_v"), ONE), "typ", 27.0)}
    assert npn["ideality"] == approx(1.0, abs=0.02)
    assert 45 < npn["largest beta"] < 62
    assert 30 < npn["Early voltage"] < 45


@pytest.mark.parametrize("name", ["n_rvt", "p_rvt"])
def test_sizes_for_a_bias(name):
    """The full model's width carries the wanted current; the square law's misses it by what is said."""
    subject = of_kit(KIT, name)
    found = size_by_overdrive(subject, 50e-6, 0.15, "typ")
    narrow = size_by_overdrive(subject.with_values(w=repr(float(found.full_model))), 50e-6, 0.15, "typ")
    assert narrow.full_model == approx(found.full_model, rel=1e-3)
    assert found.difference == approx(100 * (found.current_of_square_law / 50e-6 - 1))
    efficient = size_by_efficiency(subject, 50e-6, 15.0, "typ")
    assert efficient.full_model > 0
    with pytest.raises(CircuitError, match="out of reach"):
        size_by_efficiency(subject, 50e-6, 60.0, "typ")
    with pytest.raises(CircuitError, match="above 0"):
        size_by_overdrive(subject, -1.0, 0.2, "typ")


def test_the_square_law_is_its_own_answer():
    """Hand sizing, common practice: K = 349 µA/V², W/L = 12.96, Vov = 0.2 V gives about 90 µA, 1 %."""
    from hearthline.core.circuit.netlist import Card
    from hearthline.core.expression import Expression
    from hearthline.core.process.models import Corner, ModelSet

    values = {"kp": 349e-6, "vto": 0.4, "is": 1e-20}
    card = Card("n", "NMOS", {key: Expression.constant(value) for key, value in values.items()})
    subject = of_models(ModelSet({"": Corner({"n": card})}), "n").with_values(w="1u", l="1u")
    found = size_by_overdrive(subject, 0.5 * 349e-6 * 12.96 * 0.2**2, 0.2, "")
    assert found.wanted == approx(90e-6, rel=0.01)
    assert found.full_model == approx(12.96e-6, rel=1e-3)
    assert found.square_law == approx(12.96e-6, rel=0.01)


def test_families():
    """What a module is, from its ports and readouts."""
    expected = {"mos": Family.FET, "hemt": Family.DEPLETION, "bipolar": Family.BIPOLAR, "diode": Family.DIODE,
                "resistor": Family.RESISTIVE, "capacitor": Family.CAPACITIVE, "memristor": Family.MEMORY, "switch": Family.OTHER}  # fmt: skip
    assert {name: of_module(library_module(name)).family for name in expected} == expected
    with pytest.raises(CircuitError, match="the kit has no device 'nothing'"):
        of_kit(KIT, "nothing")
    assert set(DEVICES) == set("RCLVIPEGFHKT")


def test_a_file_of_cards_serves_as_a_kit(tmp_path):
    """Sections are corners, cards are devices."""
    path = tmp_path / "cards.lib"
    path.write_text(".lib slow\n.model nch nmos (vto=0.5 kp=100u)\n.model dd d (is=1e-15)\n.endl\n"
                    ".lib fast\n.model nch nmos (vto=0.4 kp=120u)\n.model dd d (is=2e-15)\n.endl\n")  # fmt: skip
    kit = kit_of_models(path)
    assert list(kit.devices) == ["nch", "dd"]
    assert kit.models.names == ("slow", "fast")
    found = characterise(of_kit(kit, "nch").with_values(w="1u", l="1u"), Conditions(kit.models.names))
    assert not found.problems
    (tmp_path / "none.lib").write_text(".param x=1\n")
    with pytest.raises(FileError, match="no model card"):
        kit_of_models(tmp_path / "none.lib")


def test_variants_of_a_corner():
    """ss+r_slow: the transistors of ss, resistors 18 % larger; an unknown variant is named."""
    plain, slow = (
        characterise(of_kit(KIT, "r_poly").with_values(w="5u", l="500u"), Conditions((c,)))
        .datasets["voltage"]
        .curve("res")
        for c in ("ss", "ss+r_slow")
    )
    np.testing.assert_allclose(slow[:, 0] / plain[:, 0], 1.165, rtol=2e-2)
    with pytest.raises(CircuitError, match="no variant 'r_odd'"):
        KIT.models.corner("ss+r_odd")


def test_statistics_of_the_kit():
    """One sigma of the process, what goes together, and Pelgrom's coefficients."""
    assert KIT.statistics.process["dvn"] == approx(20e-3)
    assert KIT.statistics.correlations["dvn", "dvp"] == approx(0.3)
    assert KIT.statistics.mismatch["n_rvt"] == approx({"dvth": 4.4e-9, "dbeta": 14e-9})


def test_a_transistor_as_a_two_port():
    """Its fT, fmax and least noise figure over current density are those of the same device between ports of 50 Ω with chokes."""
    subject = of_kit(KIT, "n_rf").with_values(w="80u", l="0.13u", nf="16")
    data = characterise(subject, Conditions(("typ",))).datasets["waves"]
    lane = list(data.conditions["frequency"]).index(2.4e9)
    expected = rf_transistor("n_rf")
    for name, figure, scale in (
        ("ft", "fT GHz", 1e-9),
        ("fmax", "fmax GHz", 1e-9),
        ("nfmin", "NFmin at 2.4 GHz dB", 1),
    ):
        found = np.interp(0.57, data.points, data.curves[name][lane]) * scale
        assert found == approx(expected[figure], rel=0.02), name
    np.testing.assert_allclose(data.curves["id/w"], data.curves["id"] / 80e-6)


def test_passive_parts_over_frequency():
    """A spiral's inductance is that of its deck, and it is none beyond its own resonance; a pad is a capacitance."""
    data = characterise(of_kit(KIT, "l_spiral"), Conditions(("typ",))).datasets["waves"]
    inductance, quality, resonance = spiral()
    assert data.curves["l"][0, 0] == approx(inductance, rel=1e-3)
    assert np.nanmax(data.curves["q"][0][data.points < resonance]) == approx(quality, rel=0.02)
    assert np.isfinite(data.curves["l"][0]).sum() == (data.points < resonance).sum()
    pad = characterise(of_kit(KIT, "pad"), Conditions(("typ",))).datasets["waves"]
    assert pad.curves["c"][0, 0] == approx(57.6e-15, rel=0.01)
