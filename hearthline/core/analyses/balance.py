"""Harmonic balance: what repeats for ever under large signals of one or two tones."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

import numpy as np

from hearthline.core.analyses.about import DRIVERS
from hearthline.core.analyses.kind import LIST, AnalysisKind, Ask, Counts, Lowered, Piece, Ready, Setting
from hearthline.core.analyses.temperatures import warm
from hearthline.core.errors import AnalysisError
from hearthline.core.quantity import write

if TYPE_CHECKING:
    from hearthline.core.analyses.circuit import Circuit
    from hearthline.core.circuit.netlist import Netlist
    from hearthline.core.engine.job import Job
    from hearthline.core.engine.lanes import Lanes
    from hearthline.core.engine.periodic.states import Periodic
    from hearthline.core.engine.periodic.tones import Tones
    from hearthline.core.engine.system import System

MOST_TONES, MOST_ORDER, MOST_HARMONICS = 2, 40, 1000
USUAL_ORDER = "5"
ALONG = 256
"""Points along a period, at least."""
SUPPOSED = 16
"""Harmonics that a balance is taken to need before it has run."""


class BalanceAnalysis(AnalysisKind):
    """Phasors of every voltage and current at every mixing frequency."""

    name, meaning, called = "balance", "large signals that repeat: harmonics and mixing products", "large"
    own = (
        Setting("tones", "Hz", "the frequency of the tone, or of two with a comma", LIST, said="at"),
        Setting("harmonics", "", "of one tone; left out, as many as it takes"),
        Setting("order", "", "of two tones: products of up to this order"),
    )
    ready = (
        Ready("output power", "output_power(2)", "into port 2, of the first harmonic"),
        Ready("power gain", "power_gain(2, 1)", "into port 2 over what port 1 can give"),
        Ready(
            "compression point",
            "compression_at(power_gain(2, 1), output_power(2))",
            "output power at which the gain has fallen by 1 dB, over a sweep of the power",
        ),
        Ready("efficiency", "power_efficiency(2, {supply})", "into port 2 over what the supply gives"),
        Ready("power added efficiency", "power_added(2, 1, {supply})", "the same, without what goes in"),
        Ready("third order intercept", "third_intercept(2)", "of two tones, at the output"),
        Ready("amplitude", "abs(at_harmonic(V({out}), 1))", "peak of the first harmonic"),
        Ready(
            "phase", "phase_deg(at_harmonic(V({out}), 1))", "of the first harmonic: over power, from amplitude to phase"
        ),
        Ready("second harmonic", "dbc(V({out}), 2)", "over the first"),
        Ready("third harmonic", "dbc(V({out}), 3)", "over the first"),
        Ready("largest voltage", "peak(in_time(V({out})))", "over the period"),
        Ready("mean supply current", "-re(at_harmonic(I({supply}), 0))", "from the supply"),
    )
    drivers = DRIVERS

    def defaults(self, given: Mapping[str, str], circuit: Circuit) -> dict[str, str]:
        """The tones of the circuit's own sources."""
        return {"tones": given.get("tones") or circuit.tone}

    countable = False

    def points(self, plan: Ask) -> int:
        """About how many products, and points of a period."""
        if "order" in plan.settings or len(plan.numbers("tones")) == 2:
            order = int(plan.number("order")) if "order" in plan.settings else int(USUAL_ORDER)
            return order * (order + 1) + 1
        return ALONG + 1 + (int(plan.number("harmonics")) if "harmonics" in plan.settings else SUPPOSED)

    def lowered(self, plan: Ask, netlist: Netlist, lanes: Lanes) -> Lowered:
        """All voltages and currents are kept, and device quantities as there is room."""
        from hearthline.core.engine.periodic.labelled import dataset_of
        from hearthline.core.engine.periodic.lanes import check_sources

        hertz, tones = tones_of(plan)
        system = plan.circuit.system(netlist, lanes)
        kept = plan.kept(system, len(lanes))
        check_sources(system, hertz, tones)

        def run(job: Job) -> Piece:
            found = found_for(plan, system, job)
            reach = np.arange(found.products)[:, None] if tones is None else tones.products
            data = dataset_of("balance", found, kept, reach @ hertz)
            counts = Counts(found.iterations, len(found.states))
            piece = Piece(data, found.log, dict(found.failures), found.seconds, found.notes, counts)
            return warm(plan, piece, found.system)

        return Lowered(system, 2 * len(lanes) * self.points(plan) * (len(system.unknowns) + len(kept[1])), run)

    def labels(self, system: System) -> frozenset[str]:
        """As of all analyses, powers of ports, and which products they are."""
        from hearthline.core.engine.periodic.labelled import available_label, delivered_label, power_labels
        from hearthline.core.engine.scattering import ports_of

        numbers = [port.number for port in ports_of(system)]
        powers = {label(number) for number in numbers for label in (delivered_label, available_label)}
        return super().labels(system) | powers | power_labels(system) | {"k1", "k2"}


def tones_of(plan: Ask) -> tuple[np.ndarray, Tones | None]:
    """The tones [Hz], and their products where these are known. Raises AnalysisError."""
    from hearthline.core.engine.periodic.tones import SAME, one_tone, two_tones

    name, hertz = plan.name, np.array(plan.numbers("tones"))
    if not 1 <= len(hertz) <= MOST_TONES:
        raise AnalysisError(name, f"a balance has one tone or two, as in: at 1G,1.01G, and not {len(hertz)}")
    if (hertz <= 0).any():
        raise AnalysisError(name, f"a tone is above 0 Hz, and not {write(float(hertz.min()), 'Hz', 6)}")
    if len(hertz) == 1:
        if "order" in plan.settings:
            raise AnalysisError(name, "order is for two tones; of one say harmonics")
        if "harmonics" not in plan.settings:
            return hertz, None
        harmonics = plan.count("harmonics", 1)
        if harmonics > MOST_HARMONICS:
            raise AnalysisError(name, f"there are up to {MOST_HARMONICS} harmonics, and not {harmonics}")
        return hertz, one_tone(harmonics)
    if abs(hertz[0] - hertz[1]) <= SAME * hertz.max():
        raise AnalysisError(name, f"both tones are {write(float(hertz[0]), 'Hz', 6)}; say it once")
    if "harmonics" in plan.settings:
        raise AnalysisError(name, "harmonics are of one tone; of two say order")
    order = plan.count("order", 1) if "order" in plan.settings else int(USUAL_ORDER)
    if order > MOST_ORDER:
        raise AnalysisError(name, f"the order is up to {MOST_ORDER}, and not {order}")
    return hertz, two_tones(order, hertz)


def found_for(plan: Ask, system: System, job: Job) -> Periodic:
    """The balance; the same one when asked for the same, as what is about it does. Raises CircuitError."""
    from hearthline.core.engine.periodic.lanes import balance

    hertz, tones = tones_of(plan)
    key = (tuple(hertz), None if tones is None else tones.products.tobytes())

    last: list[Periodic] = []

    def solved(system: System) -> Periodic:
        last[:] = [balance(system, hertz, tones, plan.circuit.tolerances, job, last[0] if last else None)]
        return last[0]

    def make() -> Periodic:
        heating = plan.circuit.heating
        return solved(system if heating is None else heating.about(system, solved))

    return plan.circuit.remembered(system, key, make, lambda found: not job.stopped)
