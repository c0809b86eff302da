"""A process kit as a folder: `kit.toml` beside files of model cards with corner sections."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

import numpy as np

from hearthline.core.circuit.netlist import Scope
from hearthline.core.circuit.symbols import SYMBOLS
from hearthline.core.errors import FileError, QuantityError
from hearthline.core.formats.deck.flatten import template
from hearthline.core.formats.deck.reader import read_models, sections
from hearthline.core.formats.toml_table import Table, read_toml, read_version
from hearthline.core.formats.typed_numbers import number
from hearthline.core.models.module import Module
from hearthline.core.models.veriloga.compiler import compile_file
from hearthline.core.process.kit import KitDevice, ProcessKit, Statistics
from hearthline.core.process.models import Corner, ModelSet
from hearthline.core.quantity import read
from hearthline.core.texts import can_be_a_file, shortened

FORMAT = 1
SYMBOL_OF = {"NMOS": "NMOS", "PMOS": "PMOS", "NPN": "NPN", "PNP": "PNP", "NJF": "NJF", "PJF": "PJF", "D": "D"}
"""The symbol that a card's type is drawn with."""

INSTALLED = Path(__file__).resolve().parents[2] / "kits"


def installed_kits() -> tuple[str, ...]:
    """Names of the kits that came with Hearthline."""
    return tuple(sorted(folder.name for folder in INSTALLED.iterdir() if (folder / "kit.toml").is_file()))


def find_kit(name: str, project: Path) -> Path:
    """The folder of the kit `name`, or a file of model cards: in the project, or installed. Raises FileError where there
    is none."""
    for folder in (project / name, INSTALLED / name):
        if (folder / "kit.toml").is_file() or folder.is_file():
            return folder
    raise FileError(
        f"there is no kit '{name}'; installed are {', '.join(installed_kits())}, and a kit may be a folder of the project",
        "project.toml",
    )


def read_kit(folder: Path) -> ProcessKit:
    """The kit in `folder`, or that of a file of model cards. Raises FileError or DeckError with file and line."""
    if folder.is_file():
        return kit_of_models(folder)
    table = read_toml(folder / "kit.toml", f"{folder.name}/kit.toml")
    read_version(table, FORMAT)
    path = folder / _file(table, "models", table.string("models"))
    modules = _modules(folder, tuple(_file(table, "modules", name) for name in table.strings("modules", ())))
    corners = {name: _corner(path, name, modules) for name in table.strings("corners")}
    variants = {
        group: {name: _corner(path, name, modules) for name in names}
        for group, names in table.lists("variants").items()
    }
    devices = [_device(item, corners) for item in table.tables("devices")]
    kit = ProcessKit(
        table.string("name"), table.string("title"), {device.name: device for device in devices},
        ModelSet(corners, variants, _hottest(table)), table.string("note", ""), _statistics(table, devices), str(path),
    )  # fmt: skip
    table.done()
    return kit


def _hottest(table: Table) -> float | None:
    """Up to which temperature models hold [°C], where the kit says so."""
    return number(table, "hottest") if table.has("hottest") else None


def _file(table: Table, key: str, name: str) -> str:
    if not can_be_a_file(name):
        raise table.error(f"{key}: '{shortened(name)}' cannot be the name of a file", key)
    return name


def kit_of_models(path: Path) -> ProcessKit:
    """A file of model cards as a kit: each `.lib` section is a corner, each card a device by its type."""
    names = sections(path)
    corners = {name: _corner(path, name, {}) for name in names} if names else {"typ": _corner(path, None, {})}
    first = next(iter(corners.values()))
    devices = {name: KitDevice(name, SYMBOL_OF.get(card.kind, "D"), f"{card.kind} of {path.name}")
               for name, card in first.cards.items() if card.kind in SYMBOL_OF
               and all(name in corner.cards for corner in corners.values())}  # fmt: skip
    if not devices:
        raise FileError("has no model card that is there in every section", path.name)
    return ProcessKit(path.stem, f"models of {path.name}", devices, ModelSet(corners), file=str(path))


def _modules(folder: Path, names: tuple[str, ...]) -> dict[str, Module]:
    """The Verilog-A modules of a kit's own texts."""
    return {module.name.lower(): module for name in names for module in compile_file(folder / name, name)}


def _corner(path: Path, name: str | None, modules: dict[str, Module]) -> Corner:
    top = read_models(path, name, modules).top
    templates = {block.name: template(block, top.parameters) for block in top.blocks.values()}
    # a scope inside another, so that a bench's parameter of the same name does not change the process
    return Corner(top.models, Scope(Scope(), top.parameters), modules, templates=templates)


def _statistics(table: Table, devices: list[KitDevice]) -> Statistics:
    found = table.table("statistics", {})
    process, mismatch = found.quantities("process"), found.quantity_tables("mismatch")
    known = {device.name for device in devices}
    for name in mismatch:
        if name not in known:
            raise found.error(f"mismatch of '{name}': the kit has no such device", name)
    for name, values in (*process.items(), *(pair for numbers in mismatch.values() for pair in numbers.items())):
        if values < 0:
            raise found.error(f"{name}: a standard deviation cannot be below 0, and is {values:g}", name)
    statistics = Statistics(process, mismatch, dict(_correlation(one, process) for one in found.tables("correlations")))
    if process and np.linalg.eigvalsh(statistics.correlation).min() < -1e-9:
        raise found.error(
            "such correlations cannot be together: what goes with two others makes those go together too",
            "correlations",
        )
    found.done()
    return statistics


def _correlation(table: Table, process: Mapping[str, float]) -> tuple[tuple[str, str], float]:
    names, value = table.strings("of"), table.quantity("value")
    for name in names:
        if name not in process:
            raise table.error(f"'{name}' is not among the process's parameters; there are {', '.join(process)}", "of")
    if len(names) != 2 or names[0] == names[1]:
        raise table.error(f"a correlation is of two parameters, and not of {list(names)}", "of")
    if abs(value) > 1:
        raise table.error(f"a correlation lies between -1 and 1, and is {value:g}", "value")
    table.done()
    return (names[0], names[1]), value


def _device(table: Table, corners: dict[str, Corner]) -> KitDevice:
    name, symbol = table.string("name"), table.string("symbol")
    if symbol not in SYMBOLS:
        raise table.error(f"device {name}: there is no symbol '{symbol}'; there are {', '.join(SYMBOLS)}", "symbol")
    for corner_name, corner in corners.items():
        if SYMBOLS[symbol].takes_model and name not in corner.cards and name not in corner.templates:
            raise table.error(f"device {name} has no model card in corner {corner_name}", "name")
    sizes = {key: _range(table, key, ends) for key, ends in table.lists("sizes").items()}
    supply = table.quantity("supply", "1.2")
    device = KitDevice(name, symbol, table.string("meaning", ""), sizes, supply)
    table.done()
    return device


def _range(table: Table, key: str, ends: tuple[str, ...]) -> tuple[float, float]:
    try:
        minimum, maximum = (read(end, "m") for end in ends)
    except (QuantityError, ValueError):
        raise table.error(
            f"sizes of {key} should be two lengths, least and most, and are {list(ends)}", "sizes"
        ) from None
    return minimum, maximum
