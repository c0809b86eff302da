"""Power that each part turns into heat: what its terminals take in, without what its charges do."""

from __future__ import annotations

import numpy as np

from hearthline.core.elements.device import DeviceKind
from hearthline.core.elements.port import DEVICE
from hearthline.core.engine.kernels.power import power_at
from hearthline.core.engine.module import ModuleKind
from hearthline.core.engine.on_die import HEAT
from hearthline.core.engine.solve import Tolerances
from hearthline.core.engine.system import System
from hearthline.core.engine.worker import new_memory


def dissipators(system: System) -> tuple[str, ...]:
    """The parts that turn power into heat, by name: no sources, and nothing that only stores energy."""
    return tuple(system.instance_places[k].name for k in _places(system))


def dissipated(system: System, lane: int, points: np.ndarray, tolerances: Tolerances) -> np.ndarray:
    """Of each of them [W] at points (points, unknowns) of a lane: (points, parts)."""
    pattern, circuit = system.dynamic
    begins = np.array([*(at.node for at in system.instance_places), len(system.nodes)], np.int64)
    voltage = np.array([0.0, *(unknown.kind == "V" for unknown in system.unknowns)])
    out = np.empty((len(points), len(begins) - 1))
    grounded = np.pad(points, ((0, 0), (1, 0)))
    nodes = system.nodes.astype(np.int64)
    power_at(
        circuit, new_memory(circuit, pattern), system.values[lane], grounded, begins, nodes, voltage[nodes], out,
        tolerances.array(),
    )  # fmt: skip
    return out[:, _places(system)]


def _stores(kind: DeviceKind | ModuleKind) -> bool:
    """Whether it is a capacitor, of which nothing but charge is left."""
    return isinstance(kind, DeviceKind) and kind.charged


def _places(system: System) -> list[int]:
    return [
        k
        for k, at in enumerate(system.instance_places)
        if len(at.kind.conductance) and not (at.kind.drives or at.kind is DEVICE or at.kind.branch or _stores(at.kind))
        if not at.name.endswith(HEAT)
    ]
