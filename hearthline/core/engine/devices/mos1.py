"""MOS level 1: parameters of card and instance to the kernel's values, with the temperature laws."""

from __future__ import annotations

import numpy as np

from hearthline.core.engine.devices.kind import DeviceKind, Inside, Readout
from hearthline.core.engine.devices.silicon import (
    CHARGE,
    OXIDE_PERMITTIVITY,
    SILICON_PERMITTIVITY,
    critical_voltage,
    gap,
    kelvin,
    potential_at,
    thermal_voltage,
)  # fmt: skip
from hearthline.core.engine.kernels import mos1 as kernel
from hearthline.core.engine.lanes import REFERENCE_TEMPERATURE

INTRINSIC_DENSITY = 1.45e16
"""Carriers in pure silicon at 27 degC [1/m³], the value the Berkeley equations use."""


def _prepare_card(card, celsius):
    """What all instances of a model share at each temperature."""
    polarity, nominal = card["polarity"], card["tnom"]
    kp, gamma, phi = _derived(card)
    phi_now, vt = potential_at(phi, nominal, celsius), thermal_voltage(celsius)
    if (phi_now <= 0).any():
        raise ValueError(
            "its surface potential is not above 0 at this temperature; look at PHI, TNOM and the temperature"
        )
    growth = np.exp(gap(nominal) / thermal_voltage(nominal) - gap(celsius) / vt)
    return {
        **card,
        "gain factor": kp * (kelvin(celsius) / kelvin(nominal)) ** card["bex"],
        "gamma": gamma * np.ones_like(vt), "phi": phi_now, "vt": vt,
        "threshold": polarity * _threshold(card, polarity, gamma, phi, phi_now, celsius),
        "is": card["is"] * growth,
        "js": None if card["js"] is None else card["js"] * growth,
    }  # fmt: skip


def _prepare(instance, card, celsius):
    length = instance["l"] - 2.0 * card["ld"]
    if (length <= 0).any():
        raise ValueError("its length is not above twice the lateral diffusion LD of its model")
    beta = card["gain factor"] * instance["w"] / length * instance["m"]
    drain, source = _junction(instance, card, "ad"), _junction(instance, card, "as")
    critical = critical_voltage(card["vt"], np.maximum(drain, source))
    shared = (card["threshold"], card["gamma"], card["phi"], card["lambda"])
    return [card["polarity"], beta, *shared, drain, source, card["vt"], critical]


def _junction(instance, card, area_name):
    """Saturation current of a junction [A]: JS times the area where both are given, or IS."""
    area = instance[area_name]
    if card["js"] is not None and area is not None and (area > 0).all():
        return card["js"] * area * instance["m"]
    return card["is"] * instance["m"]


def _derived(card):
    """KP, GAMMA, PHI: as given, or from mobility, oxide thickness and doping (Berkeley equations)."""
    cox = None if card["tox"] is None else OXIDE_PERMITTIVITY / card["tox"]
    kp = card["kp"]
    if kp is None:
        kp = 2e-5 if cox is None else card["uo"] * 1e-4 * cox
    gamma, phi = card["gamma"], card["phi"]
    if card["nsub"] is not None:
        density = card["nsub"] * 1e6
        if phi is None:
            phi = np.maximum(0.1, 2 * thermal_voltage(card["tnom"]) * np.log(density / INTRINSIC_DENSITY))
        if gamma is None and cox is not None:
            gamma = np.sqrt(2 * SILICON_PERMITTIVITY * CHARGE * density) / cox
    phi = 0.6 if phi is None else phi
    if np.any(np.asarray(phi) <= 0):
        raise ValueError("PHI of its model must be above 0")
    return kp, 0.0 if gamma is None else gamma, phi


def _threshold(card, polarity, gamma, phi, phi_now, celsius):
    """Threshold without body bias [V]. With TCV the straight law vto - polarity·TCV·(T - Tnom); otherwise that of the
    Berkeley equations, from the band gap and the surface potential."""
    vto = card["vto"]
    if card["tcv"] is not None:
        return vto - polarity * card["tcv"] * (celsius - card["tnom"])
    built_in = vto - polarity * gamma * np.sqrt(phi)
    built_in = built_in + 0.5 * (gap(card["tnom"]) - gap(celsius)) + polarity * 0.5 * (phi_now - phi)
    return built_in + polarity * gamma * np.sqrt(phi_now)


def _series(name, squares):
    def resistance(instance, card):
        if card[name] is not None:
            return card[name] / instance["m"]
        if card["rsh"] is None:
            return None
        count = instance[squares]
        return card["rsh"] * (1.0 if count is None else count) / instance["m"]

    return resistance


MOS1 = DeviceKind(
    kernel.mos1, 4, _prepare, kernel.VALUES,
    (
        Readout("id", "A"), Readout("vgs", "V"), Readout("vds", "V"), Readout("vbs", "V"), Readout("vth", "V"),
        Readout("vdsat", "V"), Readout("gm", "S"), Readout("gds", "S"), Readout("gmb", "S"), Readout("ron", "Ω"),
        Readout("region", ""),
    ),
    {
        "w": 1e-4, "l": 1e-4, "m": 1.0, "nf": 1.0, "ad": None, "as": None, "pd": None, "ps": None, "nrd": None,
        "nrs": None,
    },
    ("NMOS", "PMOS"),
    {
        "level": 1.0, "vto": 0.0, "kp": None, "gamma": None, "phi": None, "lambda": 0.0, "ld": 0.0, "tox": None,
        "uo": 600.0, "nsub": None, "is": 1e-14, "js": None, "rd": None, "rs": None, "rsh": None, "bex": -1.5,
        "tcv": None, "tnom": REFERENCE_TEMPERATURE,
    },
    frozenset({"cbd", "cbs", "pb", "cgso", "cgdo", "cgbo", "cj", "mj", "cjsw", "mjsw", "fc", "kf", "af", "tpg", "nss"}),
    memory=kernel.MEMORY,
    inside=(Inside(0, "d", _series("rd", "nrd")), Inside(2, "s", _series("rs", "nrs"))),
    must_be_positive=("w", "l", "m", "nf"),
    prepare_card=_prepare_card,
)  # fmt: skip
