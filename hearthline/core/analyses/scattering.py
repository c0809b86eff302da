"""Waves between ports over frequency, and what follows from them for two ports."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

import numpy as np

from hearthline.core.analyses.ac import small_piece
from hearthline.core.analyses.frequencies import FREQUENCIES, count_of, frequencies_of
from hearthline.core.analyses.kind import AnalysisKind, Ask, Lowered, Piece, Ready
from hearthline.core.constants import BOLTZMANN
from hearthline.core.data import two_port
from hearthline.core.data.dataset import Dataset
from hearthline.core.errors import AnalysisError

if TYPE_CHECKING:
    from hearthline.core.analyses.circuit import Circuit
    from hearthline.core.circuit.netlist import Netlist
    from hearthline.core.engine.job import Job
    from hearthline.core.engine.lanes import Lanes
    from hearthline.core.engine.scattering import Scattered
    from hearthline.core.engine.system import System

TWO_PORT = {
    "k": "", "mu": "", "mu_prime": "", "delta": "", "gain_max": "", "gain_available": "", "gain_transducer": "",
    "gain_unilateral": "", "noise_factor": "", "noise_factor_min": "", "gamma_opt": "", "rn": "Ω", "delay": "s",
}  # fmt: skip
"""Figures of two ports with their units; in formulas `twoport.k`."""


class Scattering(AnalysisKind):
    """S-parameters and noise between all ports."""

    name, meaning, called = "scattering", "S-parameters and noise between ports over frequency", "waves"
    own = FREQUENCIES
    ready = (
        Ready("gain at f", "gain_at(1e9)", "transducer gain at a frequency, here 1 GHz"),
        Ready("input return loss", "return_loss(1, 1e9)", "of port 1, at a frequency"),
        Ready("output return loss", "return_loss(2, 1e9)", "of port 2, at a frequency"),
        Ready("noise figure", "noise_figure(1e9)", "from port 1 into port 2, at a frequency"),
        Ready("least noise figure", "db10(at(twoport.noise_factor_min, 1e9))", "with the best source, at a frequency"),
        Ready("smallest mu", "mu_min()", "above 1: stable with whatever passive stands at the ports"),
        Ready("isolation", "-db20(at(S(1,2), 1e9))", "from port 2 back to port 1, at a frequency"),
        Ready("bandwidth", "passband(S(2,1))", "between the frequencies 3 dB down from the peak"),
        Ready("flatness", "flatness(S(2,1), 0.9e9, 1.1e9)", "how far the gain moves over a band"),
        Ready("distance to an impedance", "distance(impedance_of(1), 50)", "largest reflection against it"),
        Ready("group delay", "at(twoport.delay, 1e9)", "from port 1 to port 2"),
    )
    drivers = ("hearthline.core.engine.drive", "hearthline.core.engine.kernels.scattering")

    def defaults(self, given: Mapping[str, str], circuit: Circuit) -> dict[str, str]:
        """Over what an RF cell of a hundred nanometres is asked."""
        return {"from": "100M", "to": "10G", "points": "50", "spaced": "decade"}

    def points(self, plan: Ask) -> int:
        """Frequencies."""
        return count_of(plan)

    def lowered(self, plan: Ask, netlist: Netlist, lanes: Lanes) -> Lowered:
        """All waves are kept, and every contributor to the noise of two ports."""
        from hearthline.core.engine.noise_sources import noise_count
        from hearthline.core.engine.scattering import ports_of, scattering

        system, frequencies = plan.circuit.system(netlist, lanes), frequencies_of(plan)
        ports = ports_of(system)
        if not ports:
            message = "the circuit has no port; tie one to a pin, as in: in port number 1 impedance 50"
            raise AnalysisError(plan.name, message)
        if frequencies[0] == 0 and any(kind.noise for kind in system.kinds):
            raise AnalysisError(plan.name, "waves of a circuit with noise begin above 0 Hz")

        def run(job: Job) -> Piece:
            answer = scattering(system, frequencies, plan.circuit.tolerances, job)
            return small_piece(answer, dataset_of(answer))

        each = 2 * len(ports) ** 2 + (15 + noise_count(system) if len(ports) == 2 else 0)
        return Lowered(system, len(lanes) * len(frequencies) * each, run)

    def labels(self, system: System) -> frozenset[str]:
        """Waves, and of two ports their figures and the contributors to the noise factor."""
        from hearthline.core.engine.noise_sources import noise_names
        from hearthline.core.engine.scattering import ports_of

        ports = frozenset(port.name for port in ports_of(system))
        count = len(ports)
        found = {wave(a, b) for a in range(1, count + 1) for b in range(1, count + 1)}
        found |= {impedance_label(a) for a in range(1, count + 1)}
        if count == 2:
            found |= {f"twoport.{name}" for name in TWO_PORT} | set(noise_names(system, ports))
        return frozenset(found)


def wave(out: int, into: int) -> str:
    """What the wave out of a port for one into another is called."""
    return f"S({out},{into})"


def impedance_label(port: int) -> str:
    """What the impedance of a port is called."""
    return f"port{port}.impedance"


def dataset_of(answer: Scattered) -> Dataset:
    """Waves as curves; of two ports their figures, and each source's part of the noise factor, largest first, which add up
    to all above 1."""
    count = len(answer.ports)
    pairs = [(a, b) for a in range(count) for b in range(count)]
    curves: dict[str, np.ndarray] = {wave(a + 1, b + 1): answer.s[..., a, b] for a, b in pairs}
    units = dict.fromkeys(curves, "")
    for port in range(count):
        curves[impedance_label(port + 1)] = answer.impedances[:, port, None].repeat(len(answer.frequencies), axis=1)
        units[impedance_label(port + 1)] = "Ω"
    if count == 2:
        figures = figures_of(answer)
        curves |= {f"twoport.{name}": values for name, values in figures.items()}
        units |= {f"twoport.{name}": unit for name, unit in TWO_PORT.items()}
        into = BOLTZMANN * two_port.NOISE_TEMPERATURE * abs(answer.s[..., 1, 0]) ** 2
        with np.errstate(divide="ignore", invalid="ignore"):  # where nothing gets through
            shares = {name: answer.parts[..., k] / into for k, name in enumerate(answer.sources)}
        largest = {name: np.max(np.where(np.isfinite(rows), rows, 0.0), initial=0.0) for name, rows in shares.items()}
        curves |= {name: shares[name] for name in sorted(shares, key=lambda name: -largest[name])}
        units |= dict.fromkeys(answer.sources, "")
    return answer.labelled("scattering", curves, units)


def figures_of(answer: Scattered) -> dict[str, np.ndarray]:
    """Everything that `TWO_PORT` names (lanes, frequencies)."""
    s = answer.s
    noise = two_port.noise_figures(s, answer.waves, answer.impedances[:, :1])
    return {
        "k": two_port.stability_factor(s), "mu": two_port.mu(s), "mu_prime": two_port.mu_prime(s), "delta": two_port.delta(s),
        "gain_max": two_port.largest_gain(s), "gain_available": two_port.available_gain(s),
        "gain_transducer": two_port.transducer_gain(s), "gain_unilateral": two_port.unilateral_gain(s),
        "noise_factor": noise.factor, "noise_factor_min": noise.least, "gamma_opt": noise.optimum, "rn": noise.resistance,
        "delay": two_port.group_delay(s[..., 1, 0], answer.slope),
    }  # fmt: skip
