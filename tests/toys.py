"""Things that Hearthline does not have, each written as a newcomer would: one object and one entry in a registry."""

from __future__ import annotations

from hearthline.core.analyses.kind import NET, AnalysisKind, Lowered, Piece, Ready, Setting
from hearthline.core.analyses.point import Point


class Span(AnalysisKind):
    """How far two nets are apart at the operating point, times a factor."""

    name, meaning, called = "span", "how far two nets are apart", "apart"
    own = (Setting("of", "", "two nets with a comma", NET), Setting("times", "", "a factor"))
    ready = (Ready("distance", "I(span)", "between the two nets"),)
    drivers = Point.drivers

    def defaults(self, given, circuit):
        """From the output to ground."""
        return {"of": f"{circuit.output},0", "times": "1"}

    def lowered(self, plan, netlist, lanes) -> Lowered:
        """An operating point, of which two voltages are used."""
        inner = Point().lowered(plan, netlist, lanes)
        first, second = (f"V({net})" for net in plan.settings["of"].split(","))

        def run(job) -> Piece:
            found = inner.solve(job)
            curves = found.dataset.curves
            value = plan.number("times") * (curves[first] - curves.get(second, 0.0))
            return found.with_data(curves={**curves, "I(span)": value}, units={**found.dataset.units, "I(span)": "V"})

        return Lowered(inner.system, inner.numbers, run)

    def labels(self, system):
        """Its own beside those of the operating point."""
        return super().labels(system) | {"I(span)"}
