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


def _prepare(instance, card, celsius):
    polarity = card["polarity"]
    nominal = card["tnom"]
    kp, gamma, phi = _derived(card)
    phi_now = potential_at(phi, nominal, celsius)
    length = instance["l"] - 2.0 * card["ld"]
    if np.any(length <= 0):
        raise ValueError("its length is not above twice the lateral diffusion LD of its model")
    beta = kp * (kelvin(celsius) / kelvin(nominal)) ** card["bex"] * instance["w"] / length * instance["m"]
    vt = thermal_voltage(celsius)
    drain, source = _junctions(instance, card, celsius)
    one = np.ones_like(beta)
    vto = polarity * _threshold(card, polarity, gamma, phi, phi_now, celsius)
    largest = np.maximum(drain, source)
    values = [polarity, beta, vto, gamma, phi_now, card["lambda"], drain, source, vt, critical_voltage(vt, largest)]
    return [value * one for value in values]


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


def _junctions(instance, card, celsius):
    """Saturation currents of the drain and source junctions [A]: JS times the area where both are given, or IS."""
    vt, vt_nominal = thermal_voltage(celsius), thermal_voltage(card["tnom"])
    growth = np.exp(gap(card["tnom"]) / vt_nominal - gap(celsius) / vt)

    def saturation(area):
        if card["js"] is not None and area is not None and np.all(area > 0):
            return card["js"] * area * growth * instance["m"]
        return card["is"] * growth * instance["m"]

    return saturation(instance["ad"]), saturation(instance["as"])


def _series(name, squares):
    def resistance(instance, card):
        if card[name] is not None:
            return card[name] / instance["m"]
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
        "uo": 600.0, "nsub": None, "is": 1e-14, "js": None, "rd": None, "rs": None, "rsh": 0.0, "bex": -1.5,
        "tcv": None, "tnom": REFERENCE_TEMPERATURE,
    },
    frozenset({"cbd", "cbs", "pb", "cgso", "cgdo", "cgbo", "cj", "mj", "cjsw", "mjsw", "fc", "kf", "af", "tpg", "nss"}),
    memory=kernel.MEMORY,
    inside=(Inside(0, "d", _series("rd", "nrd")), Inside(2, "s", _series("rs", "nrs"))),
    must_be_positive=("w", "l", "m", "nf"),
)  # fmt: skip
