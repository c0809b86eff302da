"""What can be seen to be wrong with a bench before it is run: settings, parts, models."""

from __future__ import annotations

from hearthline.core.analyses.plan import Plan
from hearthline.core.bench.run import wanted_labels
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.errors import CircuitError


def labels_of(snapshot: Snapshot) -> dict[str, frozenset[str]]:
    """The quantities that each analysis will have; each is lowered at the first condition. Raises HearthlineError."""
    if not snapshot.bench.analyses:
        raise CircuitError(f"bench {snapshot.bench.title} has no analysis to run")
    conditions, found = snapshot.conditions(), {}
    for corner in dict.fromkeys(one.corner for one in conditions):
        snapshot.models.corner(corner)
    for around in dict.fromkeys(one.around for one in conditions):
        snapshot.netlist(around=around)
    wanted = wanted_labels(snapshot)
    for analysis in snapshot.bench.analyses:
        plan = Plan(snapshot.circuit, analysis, wanted[analysis.name])
        plan.points()
        for share in plan.shares(conditions[:1]):
            heating = snapshot.circuit.heating
            found[analysis.name] = plan.kind.labels(share.work.system) | (heating.labels if heating else set())
    return found
