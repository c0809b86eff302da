"""B: watches what is under the pointer, or what is selected: a net, two nets, a terminal, a quantity of a device."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hearthline.app.panels.rows import offer
from hearthline.app.state.pointing import current_formula, device_formulas, toggled, voltage_formula, with_look
from hearthline.core.circuit.cell import Part
from hearthline.core.errors import HearthlineError

if TYPE_CHECKING:
    from hearthline.app.frame import Frame

TERMINAL_REACH, WIRE_REACH = 6, 9
"""Pixels."""


def watch_pointed(window: Frame) -> None:
    """Two selected nets give their difference; else what is nearest to the pointer counts."""
    desk, drawing = window.desk, window.drawing
    if desk.bench is None or desk.cell is None or drawing.scene is None:
        return
    if not desk.bench.analyses:
        desk.tell(HearthlineError("this bench has no analysis yet; add one under bench, then watch"))
        return
    scene, instance = drawing.scene, desk.instance
    nets = sorted({scene.net_at(wire.points[0]) for wire in desk.picked.wires})
    if len(nets) == 2:
        _watch(window, voltage_formula(instance, *nets))
        return
    x, y = drawing.view.to_grid(drawing.pointer) if drawing.pointer.x() >= 0 else (0.0, 0.0)
    scale = drawing.view.scale
    terminal = _terminal(scene, x, y, TERMINAL_REACH / scale)
    if terminal is not None:
        part = next(one for one in scene.cell.parts if one.name == terminal[0])
        formula = current_formula(instance, part, terminal[1], scene.symbol(part))
        if formula:
            _watch(window, formula)
            return
    net = scene.net_near(x, y, WIRE_REACH / scale)
    item = scene.item_at(x, y, WIRE_REACH / scale)
    if net or desk.selection.kind == "net":
        _watch(window, voltage_formula(instance, net or desk.selection.name))
        return
    if not isinstance(item, Part):
        item = next((one for one in scene.cell.parts if one.name in desk.picked.parts), None)
    if item is None:
        desk.tell(HearthlineError("point at a net, a terminal or a device, or select two nets, and press B"))
        return
    _offer_device(window, item)


def look_pointed(window: Frame) -> None:
    """Adds a look both ways at the terminal under the pointer."""
    desk, drawing = window.desk, window.drawing
    if desk.bench is None or desk.cell is None or drawing.scene is None or desk.instance is None:
        return
    x, y = drawing.view.to_grid(drawing.pointer) if drawing.pointer.x() >= 0 else (0.0, 0.0)
    found = _terminal(drawing.scene, x, y, TERMINAL_REACH / drawing.view.scale)
    if found is None:
        desk.tell(HearthlineError("point at a terminal of a part, where its lead ends"))
        return
    terminal = f"{desk.instance.part(found[0])}.{found[1].lower()}"
    desk.change_bench(with_look(desk.bench, terminal), f"look at {terminal}")
    desk.say(f"the bench looks at {terminal}: press Run")


def _terminal(scene, x: float, y: float, reach: float) -> tuple[str, str] | None:
    """The terminal of a part within reach."""
    found = [
        ((px - x) ** 2 + (py - y) ** 2, part, terminal)
        for part, terminals in scene.terminals.items()
        for terminal, (px, py) in terminals.items()
    ]
    best = min(found, default=None)
    return best[1:] if best is not None and best[0] <= reach**2 else None


def _offer_device(window: Frame, part: Part) -> None:
    """All quantities of a device, to choose from."""
    desk = window.desk
    formulas = device_formulas(desk.instance, part, desk.last_values)
    if not formulas:
        desk.tell(
            HearthlineError(
                f"nothing is known of {part.name} yet: its quantities are there when it has an operating point"
            )
        )
        return
    offer(window.drawing, [(words, lambda f=formula: _watch(window, f)) for formula, words in formulas])


def _watch(window: Frame, formula: str) -> None:
    desk = window.desk
    new = toggled(desk.bench, desk.results.analysis or desk.bench.analyses[0].name, formula)
    more = len(new.watches) > len(desk.bench.watches)
    desk.change_bench(new, f"{formula} {'watched' if more else 'no longer watched'}")
    window.side.show_view("charts")
