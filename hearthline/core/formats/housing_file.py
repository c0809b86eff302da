"""Housing files: a box of metal, what lies in it, and its ports, as plain tables."""

from __future__ import annotations

from pathlib import Path

from hearthline.core.errors import FileError
from hearthline.core.fields.box import Housing, HousingError, LinePort, Thing, Triple
from hearthline.core.formats.toml_table import Table, read_toml, read_version, write_toml
from hearthline.core.formats.typed_numbers import number, numbers, positive, share, span, whole
from hearthline.core.quantity import field_text

FORMAT = 1
SLACK = 1e-9


class HousingFile:
    """A housing with its file, so that mistakes that are found later have their line too."""

    def __init__(self, path: Path, shown: str, table: Table | None = None):
        """Of the file at a path, or of a `table` that is to stand there."""
        self.table = table or read_toml(path, shown)
        self.objects = self.table.tables("objects")
        self.ports = self.table.tables("ports")
        self.sweep = self.table.table("sweep") if self.table.has("sweep") else None
        self.housing = self._read()

    def problem(self, error: HousingError) -> FileError:
        """The mistake with its line."""
        owners = {"objects": self.objects, "ports": self.ports}
        where = owners[error.section][error.index] if error.section in owners else self.table
        if error.section == "sweep" and self.sweep is not None:
            where = self.sweep
        return where.error(str(error), error.key)

    def _read(self) -> Housing:
        table = self.table
        read_version(table, FORMAT)
        size = _triple(table, "size")
        if min(size) <= 0:
            raise table.error("every measure of size is above 0", "size")
        conductivity = positive(table, "wall_conductivity") if table.has("wall_conductivity") else None
        modes = whole(table, "modes", "10")
        mesh = positive(table, "mesh") if table.has("mesh") else None
        accuracy = share(table, "accuracy") if table.has("accuracy") else None
        things = tuple(_thing(item, size) for item in self.objects)
        ports = tuple(_port(item, size) for item in self.ports)
        given = sorted(one.number for one in ports)
        if given != list(range(1, len(ports) + 1)):
            said = ", ".join(map(str, given))
            raise self.ports[0].error(f"ports count from 1 on, each once, and these are {said}", "number")
        if ports and self.sweep is None:
            raise self.ports[0].error("with ports there is a [sweep] with from, to and points", "number")
        swept = span(self.sweep) if self.sweep is not None else None
        table.done()
        return Housing(size, conductivity, modes, mesh, things, ports, swept, accuracy)


def with_text(housing: Housing, key: str, text: str, thing: int = -1) -> Housing:
    """A housing with what was typed for a key of it, or of one of its things; nothing leaves the key out. Raises FileError, of
    no file."""
    data = housing_data(housing)
    where = data if thing < 0 else data["objects"][thing]
    if text.strip():
        where[key] = text
    else:
        where.pop(key, None)
    return HousingFile(Path(), "", Table(data, "", "")).housing


def write_housing(path: Path, housing: Housing) -> None:
    """Writes it; comments in an existing file stay. Raises FileError."""
    write_toml(path, housing_data(housing))


def housing_data(housing: Housing) -> dict:
    """As plain tables."""
    data: dict = {"format": FORMAT, "size": _said(*housing.size)}
    if housing.wall_conductivity is not None:
        data["wall_conductivity"] = _said(housing.wall_conductivity)
    data["modes"] = str(housing.modes)
    if housing.mesh is not None:
        data["mesh"] = _said(housing.mesh)
    if housing.accuracy is not None:
        data["accuracy"] = f"{100.0 * housing.accuracy:.6g}%"
    data["objects"] = [_told(one) for one in housing.things]
    data["ports"] = [_port_told(one) for one in housing.ports]
    if housing.span is not None:
        swept = housing.span
        data["sweep"] = {"from": _said(swept.low), "to": _said(swept.high), "points": str(swept.points)}
    return {key: value for key, value in data.items() if value != []}


def _told(thing: Thing) -> dict:
    found: dict = {"box": _said(*thing.low, *thing.high)}
    usual = Thing(thing.low, thing.high)
    for key in ("er", "tan_delta", "mur", "mu_tan_delta"):
        if getattr(thing, key) != getattr(usual, key):
            found[key] = _said(getattr(thing, key))
    return {**found, "metal": True} if thing.metal else found


def _port_told(port: LinePort) -> dict:
    found = {"number": str(port.number), "line": _said(*port.begin, *port.end), "impedance": _said(port.impedance)}
    if port.plane:
        found |= {"plane": _said(port.plane), "plane_er": _said(port.plane_er)}
    return found


def _said(*values: float) -> str:
    return ", ".join(field_text(one) for one in values)


def _thing(table: Table, size: Triple) -> Thing:
    corners = numbers(table, "box", 6)
    low, high = (corners[0], corners[1], corners[2]), (corners[3], corners[4], corners[5])
    if any(a >= b for a, b in zip(low, high, strict=True)):
        raise table.error("box is its lowest corner, then its highest; along some axis it has no size", "box")
    slack = SLACK * max(size)
    if any(a < -slack or b > side + slack for a, b, side in zip(low, high, size, strict=True)):
        raise table.error("the box lies outside of the housing", "box")
    metal = table.flag("metal", False)
    er, mur = number(table, "er", "1"), number(table, "mur", "1")
    losses = {key: number(table, key, "0") for key in ("tan_delta", "mu_tan_delta")}
    for key, value in (("er", er), ("mur", mur)):
        if value < 1 and not metal:
            raise table.error(f"{key} is 1 or more, and not {value:g}; for metal say metal = true", key)
    for key, value in losses.items():
        if value < 0:
            raise table.error(f"{key} is 0 or more, and not {value:g}", key)
    table.done()
    return Thing(low, high, er, losses["tan_delta"], mur, losses["mu_tan_delta"], metal)


def _port(table: Table, size: Triple) -> LinePort:
    own = whole(table, "number", "")
    ends = numbers(table, "line", 6)
    begin, end = (ends[0], ends[1], ends[2]), (ends[3], ends[4], ends[5])
    if sum(a != b for a, b in zip(begin, end, strict=True)) != 1:
        raise table.error("a port's line goes along one axis, from one point to another", "line")
    slack = SLACK * max(size)
    if any(not -slack <= x <= side + slack for point in (begin, end) for x, side in zip(point, size, strict=True)):
        raise table.error("the line leads out of the housing", "line")
    impedance = positive(table, "impedance", "50")
    plane, plane_er = number(table, "plane", "0"), number(table, "plane_er", "1")
    if plane < 0:
        raise table.error(f"the plane lies 0 or more from the port, along its line, and not {plane:g}", "plane")
    if plane_er < 1:
        raise table.error(f"plane_er is 1 or more, and not {plane_er:g}", "plane_er")
    table.done()
    return LinePort(own, begin, end, impedance, plane, plane_er)


def _triple(table: Table, key: str) -> Triple:
    a, b, c = numbers(table, key, 3)
    return a, b, c
