"""Things that Hearthline does not have, each written as a newcomer would: one object and one entry in a registry."""

from __future__ import annotations

from hearthline.core.analyses.kind import NET, AnalysisKind, Lowered, Piece, Ready, Setting
from hearthline.core.analyses.point import Point
from hearthline.core.elements.deck_form import TwoNets
from hearthline.core.elements.device import CURRENT_READOUT, DeviceKind, as_given
from hearthline.core.elements.kind import ALONG, TWO, ElementKind, Symbol, ValueField
from hearthline.core.elements.outline import leads
from hearthline.core.models.layout import COUNT, NODE0
from hearthline.core.models.signature import CONDUCTANCE0, CURRENT, CURRENT0, READOUT, READOUT0, VALUE0, Array, kernel


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


@kernel
def _square(wants: int, span: Array, nodes: Array, w: Array) -> int:
    """i = k v |v|. values: k [A/V²]. readout: current."""
    for k in range(span[COUNT]):
        n, f, s = span[NODE0] + 2 * k, span[CURRENT0] + 2 * k, span[CONDUCTANCE0] + 4 * k
        factor, v = w[span[VALUE0] + k], w[nodes[n]] - w[nodes[n + 1]]
        i, g = factor * v * abs(v), 2.0 * factor * abs(v)
        if wants & CURRENT:
            w[f], w[f + 1] = i, -i
            w[s], w[s + 1], w[s + 2], w[s + 3] = g, -g, -g, g
        if wants & READOUT:
            w[span[READOUT0] + k] = i
    return 0


SQUARE = ElementKind(
    "N", "square conductor",
    {"square conductor": Symbol("N", TWO, (ValueField("k", "A/V²", "factor", first="1m"),), offered="a square law")},
    shown=("i",), conducts=ALONG, currents="pn",
    outlines={"square conductor": leads().box(-0.5, -1.3, 0.5, 1.3).line((-0.5, 1.3), (0.5, -1.3))},
    device=DeviceKind(_square, 2, as_given("k"), 1, (CURRENT_READOUT,), {"k": None}, needed=("k",), must_be_positive=("k",)),
    deck=TwoNets("N", "k", "n1 a b 1m", models=False),
)  # fmt: skip
"""A part whose current grows with the square of its voltage."""
