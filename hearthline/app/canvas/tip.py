"""What stands beside a part, and what had no room there, as text for the pointer that rests on it."""

from __future__ import annotations

from hearthline.app.canvas.brush import Look
from hearthline.app.canvas.scene import Scene
from hearthline.core.circuit.cell import Cell, Note, Part
from hearthline.core.circuit.symbols import GROUND_SYMBOL
from hearthline.core.quantity import write

VALUES = (
    "id",
    "ic",
    "ib",
    "i",
    "v",
    "vgs",
    "vds",
    "vbs",
    "vbe",
    "vce",
    "vth",
    "vdsat",
    "sat",
    "gm",
    "gds",
    "gm/id",
    "region",
)


def tip_at(scene: Scene, look: Look, x: float, y: float, reach: float) -> str:
    """Of the part, note or net at a place of the grid; nothing elsewhere."""
    item = scene.item_at(x, y, reach)
    if isinstance(item, Part) and item.device != GROUND_SYMBOL:
        return part_tip(scene, look, item)
    if isinstance(item, Note):
        return item.text
    net = scene.net_near(x, y, reach)
    volts = (
        look.point.voltage(look.instance.net(net))
        if net and look.point is not None and look.instance is not None
        else None
    )
    return f"net {net}: {write(volts, 'V', 4)}" if volts is not None else f"net {net}" if net else ""


def part_tip(scene: Scene, look: Look, part: Part) -> str:
    """Name, device, sizes and values of a part."""
    symbol = scene.symbol(part)
    device = symbol.name if isinstance(symbol, Cell) else part.device
    lines = [f"{part.name}  {device}"]
    sizes = "  ".join(f"{name} = {text}" for name, text in part.values.items() if text)
    if sizes:
        lines.append(sizes)
    if look.point is not None and look.instance is not None:
        values = look.point.part(look.instance.part(part.name))
        lines += [f"{name}  {values[name].text}   {values[name].meaning}" for name in VALUES if name in values]
    return "\n".join(lines)
