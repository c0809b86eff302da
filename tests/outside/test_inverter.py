"""The square-law inverter in closed form: Weste and Harris, CMOS VLSI Design; Rabaey, Digital Integrated Circuits."""

from __future__ import annotations

import numpy as np
import pytest

from hearthline.core.data.dataset import Dataset
from hearthline.core.data.formula import Formula
from tests.approximation import approx
from tests.decks import solved

VDD, VTN, VTP = 1.2, 0.35, -0.36


def transfer(kn: float, kp: float, modulation: float, sweep: str = f"0 {VDD} 1m") -> Dataset:
    """Transfer curve of an inverter with gain factors kn, kp [A/V²]."""
    table = solved(
        f"vdd vdd 0 {VDD}\nvin in 0 0\nmn out in 0 0 n w=1u l=1u\nmp out in vdd vdd p w=1u l=1u\n"
        f".model n nmos kp={kn} vto={VTN} lambda={modulation} is=1e-30\n"
        f".model p pmos kp={kp} vto={VTP} lambda={modulation} is=1e-30\n.dc vin {sweep}"
    )
    curves = {name: values[None, :] for name, values in table.items() if name != "vin"}
    return Dataset("dc", "vin", "V", table["vin"], curves, {}, {}, np.zeros((1, len(table["vin"]))))


def number(dataset: Dataset, text: str) -> float:
    """A reading."""
    return float(Formula.parse(text).number(dataset)[0])


@pytest.mark.parametrize("ratio", [0.4, 1.0, 2.5])
def test_switching_point(ratio):
    """VM = (VTN + r·(VDD + VTP))/(1 + r), r = sqrt(kp/kn): closed form, to 0.1 mV.

    Without channel-length modulation the curve falls upright there, so the sweep must be finer than the answer.
    """
    r = np.sqrt(ratio)
    expected = (VTN + r * (VDD + VTP)) / (1 + r)
    found = number(transfer(200e-6, 200e-6 * ratio, 1e-6, "0.4 0.8 0.05m"), "cross(V(out) - V(in))")
    assert found == approx(expected, abs=1e-4)


def test_points_of_unity_slope_and_noise_margins():
    """Symmetric case kn = kp, |VTP| = VTN = VT: VIL = (3·VDD + 2·VT)/8, VIH = (5·VDD - 2·VT)/8; to 0.1 mV."""
    vt = 0.35
    table = solved(
        f"vdd vdd 0 {VDD}\nvin in 0 0\nmn out in 0 0 n w=1u l=1u\nmp out in vdd vdd p w=1u l=1u\n"
        f".model n nmos kp=200u vto={vt} lambda=1e-6 is=1e-30\n.model p pmos kp=200u vto={-vt} lambda=1e-6 is=1e-30\n"
        f".dc vin 0 {VDD} 0.5m"
    )
    data = Dataset("dc", "vin", "V", table["vin"], {"V(out)": table["V(out)"][None, :]}, {}, {}, np.zeros((1, 1)))
    assert number(data, "cross(deriv(V(out)) + 1)") == approx((3 * VDD + 2 * vt) / 8, abs=1e-4)
    assert number(data, "cross(deriv(V(out)) + 1, number=-1)") == approx((5 * VDD - 2 * vt) / 8, abs=1e-4)


def test_gain_at_switching_is_gm_over_gds():
    """Slope of the curve where out = in against -(gmn + gmp)/(gdsn + gdsp), from the same device laws."""
    data = transfer(200e-6, 150e-6, 0.1)
    middle = number(data, "cross(V(out) - V(in))")
    k = int(np.argmin(abs(data.points - middle)))
    g = {name: data.curves[name][0, k] for name in ("mn.gm", "mp.gm", "mn.gds", "mp.gds")}
    expected = -(g["mn.gm"] + g["mp.gm"]) / (g["mn.gds"] + g["mp.gds"])
    assert number(data, "at(deriv(V(out)), cross(V(out) - V(in)))") == approx(expected, rel=0.02)


def test_peak_supply_current_is_that_of_both_in_saturation():
    """kn/2·(VM - VTN)² at the switching point, where the current is greatest: closed form."""
    data = transfer(200e-6, 200e-6, 1e-9)
    middle = (VTN + (VDD + VTP)) / 2
    assert number(data, "peak(-I(vdd))") == approx(100e-6 * (middle - VTN) ** 2, rel=1e-3)
