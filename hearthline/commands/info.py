"""`hearthline info`: what a process kit holds."""

from __future__ import annotations

import argparse
from pathlib import Path

from hearthline.commands.status import DONE
from hearthline.core.errors import FileError


def run(options: argparse.Namespace) -> int:
    """Prints it. Raises FileError."""
    from hearthline.core.formats.kit_folder import INSTALLED, installed_kits, kit_of_models, read_kit
    from hearthline.core.quantity import write

    name = options.kit
    path = Path(name) if Path(name).exists() else INSTALLED / name
    if not path.exists():
        raise FileError(
            f"there is no such folder, file or kit; kits that come along are {', '.join(installed_kits())}", name
        )
    kit = read_kit(path) if path.is_dir() else kit_of_models(path)
    print(f"{kit.name}: {kit.title}")
    print(f"corners: {' '.join(kit.models.names)}")
    for device in kit.devices.values():
        sizes = ", ".join(f"{key} {write(low, 'm')} to {write(high, 'm')}" for key, (low, high) in device.sizes.items())
        print(f"{device.name:<12} {device.meaning}{f' ({sizes})' if sizes else ''}")
    for parameter, sigma in kit.statistics.process.items():
        print(f"process  {parameter}: sigma {sigma:g}")
    for name, law in kit.statistics.mismatch.items():
        print(
            f"mismatch {name}: "
            + ", ".join(f"{key} {value:g} m over the root of the area" for key, value in law.items())
        )
    return DONE
