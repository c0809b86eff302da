"""A process kit as a folder: `kit.toml` beside files of model cards with corner sections."""

from __future__ import annotations

from pathlib import Path

from hearthline.core.circuit.netlist import Scope
from hearthline.core.circuit.symbols import SYMBOLS
from hearthline.core.errors import FileError, QuantityError
from hearthline.core.formats.deck.reader import read_models
from hearthline.core.formats.toml_table import Table, read_toml, read_version
from hearthline.core.process.kit import KitDevice, ProcessKit
from hearthline.core.process.models import Corner, ModelSet
from hearthline.core.quantity import read

FORMAT = 1
INSTALLED = Path(__file__).resolve().parents[2] / "kits"


def installed_kits() -> tuple[str, ...]:
    """Names of the kits that came with Hearthline."""
    return tuple(sorted(folder.name for folder in INSTALLED.iterdir() if (folder / "kit.toml").is_file()))


def find_kit(name: str, project: Path) -> Path:
    """The folder of the kit `name`: in the project, or installed. Raises FileError where there is none."""
    for folder in (project / name, INSTALLED / name):
        if (folder / "kit.toml").is_file():
            return folder
    raise FileError(
        f"there is no kit '{name}'; installed are {', '.join(installed_kits())}, and a kit may be a folder of the project",
        "project.toml",
    )


def read_kit(folder: Path) -> ProcessKit:
    """The kit in `folder`. Raises FileError or DeckError with file and line."""
    table = read_toml(folder / "kit.toml", f"{folder.name}/kit.toml")
    read_version(table, FORMAT)
    path = folder / table.string("models")
    corners = {name: _corner(path, name) for name in table.strings("corners")}
    devices = [_device(item, corners) for item in table.tables("devices")]
    kit = ProcessKit(
        table.string("name"), table.string("title"), {device.name: device for device in devices}, ModelSet(corners),
        table.string("note", ""),
    )  # fmt: skip
    table.done()
    return kit


def _corner(path: Path, name: str) -> Corner:
    top = read_models(path, name).top
    # a scope inside another, so that a bench's parameter of the same name does not change the process
    return Corner(top.models, Scope(Scope(), top.parameters))


def _device(table: Table, corners: dict[str, Corner]) -> KitDevice:
    name, symbol = table.string("name"), table.string("symbol")
    if symbol not in SYMBOLS:
        raise table.error(f"device {name}: there is no symbol '{symbol}'; there are {', '.join(SYMBOLS)}", "symbol")
    for corner_name, corner in corners.items():
        if SYMBOLS[symbol].takes_model and name not in corner.cards:
            raise table.error(f"device {name} has no model card in corner {corner_name}", "name")
    sizes = {key: _range(table, key, ends) for key, ends in table.lists("sizes").items()}
    device = KitDevice(name, symbol, table.string("meaning", ""), sizes)
    table.done()
    return device


def _range(table: Table, key: str, ends: tuple[str, ...]) -> tuple[float, float]:
    try:
        least, most = (read(end, "m") for end in ends)
    except (QuantityError, ValueError):
        raise table.error(
            f"sizes of {key} should be two lengths, least and most, and are {list(ends)}", "sizes"
        ) from None
    return least, most
