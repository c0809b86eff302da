"""A system whose hot parts have other temperatures: their numbers anew, everything else as it was."""

from __future__ import annotations

from dataclasses import replace

from hearthline.core.engine.instances import DeviceInstances
from hearthline.core.engine.lanes import Lanes, is_in
from hearthline.core.engine.system import System, lower
from hearthline.core.process.models import ModelSet

MATRICES = ("static", "dynamic")


def retuned(system: System, models: ModelSet, lanes: Lanes) -> System:
    """The same circuit in lanes that differ by what is hot alone. Raises CircuitError for a value out of its range."""
    values, places = system.values.copy(), {one.name: one for one in system.instance_places}
    for part, celsius in lanes.hot.items():
        instances = DeviceInstances(system.netlist, models, replace(lanes, celsius=celsius, hot={}))
        for element in system.netlist.elements:
            if not is_in(element.name, part):
                continue
            for item in instances.of(element):
                at = places.get(item.name)
                if at is None or at.kind is not item.kind:
                    return lower(system.netlist, models, lanes)
                values[:, at.value : at.value + at.kind.values] = item.values
    made = replace(system, values=values, lanes=lanes)
    made.__dict__.update({name: system.__dict__[name] for name in MATRICES if name in system.__dict__})
    return made
