"""An element with its numbers, as the matrix gets it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.elements.device import DeviceKind
from hearthline.core.engine.module import ModuleKind
from hearthline.core.engine.transient.waves import WaveInLanes


@dataclass(frozen=True)
class DeviceInstance:
    """An element with its numbers: `values` (lanes, values) of its kernel, the nets of its terminals, and the names of
    unknowns of its own."""

    name: str
    kind: DeviceKind | ModuleKind
    nets: tuple[str, ...]
    values: np.ndarray
    control: str = ""
    unknowns: tuple[str, ...] = ()
    messages: tuple[str, ...] = ()
    wave: WaveInLanes | None = None
    initial: np.ndarray | None = None
    phasor: np.ndarray | None = None
