"""Statistical samples of a circuit at one condition, as lanes."""

from __future__ import annotations

from dataclasses import dataclass

from hearthline.core.circuit.netlist import Netlist
from hearthline.core.engine.lanes import Lanes
from hearthline.core.process.kit import Statistics
from hearthline.core.spread.draws import RANDOM, Space, normals
from hearthline.core.spread.pvt import Condition, lane_of
from hearthline.core.spread.variables import MISMATCH, PROCESS, TOLERANCE, variables_of


@dataclass(frozen=True)
class Sampling:
    """How many samples, from which seed, spread how (`random`, `latin` hypercube, `sobol`), and of what."""

    count: int
    seed: int = 1
    way: str = RANDOM
    process: bool = True
    mismatch: bool = True
    tolerance: bool = True

    @property
    def kinds(self) -> tuple[str, ...]:
        """Of variables."""
        said = ((PROCESS, self.process), (MISMATCH, self.mismatch), (TOLERANCE, self.tolerance))
        return tuple(kind for kind, wanted in said if wanted)


def sampled(netlist: Netlist, statistics: Statistics, sampling: Sampling, at: Condition) -> Lanes:
    """One lane for each sample, all at one condition. Equal seeds give equal samples.

    Raises CircuitError for a device whose area is not known.
    """
    space = Space.of(variables_of(netlist, statistics, at, kinds=sampling.kinds), statistics)
    independent = normals(sampling.count, [one.name for one in space.variables], sampling.seed, sampling.way)
    return space.draws(space.correlated(independent)).crossed(lane_of(at))
