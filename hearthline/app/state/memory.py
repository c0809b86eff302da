"""What the window remembers from one day to the next: how a desk was divided, for each project, and what was put away for good.
It is a convenience: what cannot be read is forgotten, what cannot be written is not remembered."""

from __future__ import annotations

import json
from contextlib import suppress
from pathlib import Path

from platformdirs import user_state_path

from hearthline.core.errors import FileError
from hearthline.core.formats.atomic import write_atomically

FILE = "desks.json"
MOST_PROJECTS = 100


class Memory:
    """Plain values by project and name; "" stands for all projects. Without a file nothing outlasts the window."""

    def __init__(self, file: Path | None = None) -> None:
        self.file = file
        self._all = self._read()

    def _read(self) -> dict[str, dict[str, object]]:
        if self.file is None:
            return {}
        try:
            found = json.loads(self.file.read_text(encoding="utf-8"))
        except (OSError, ValueError, RecursionError):
            return {}
        if not isinstance(found, dict):
            return {}
        return {key: value for key, value in found.items() if isinstance(value, dict)}

    def get(self, name: str, usual: object, project: Path | None = None) -> object:
        """What was last remembered, or what is usual; also where it is of another type."""
        found = self._all.get(str(project or ""), {}).get(name, usual)
        return found if isinstance(found, type(usual)) else usual

    def put(self, name: str, value: object, project: Path | None = None) -> None:
        """Remembers a plain value."""
        key = str(project or "")
        if self._all.get(key, {}).get(name) == value:
            return
        self._all[key] = {**self._all.pop(key, {}), name: value}
        for old in list(self._all)[: max(0, len(self._all) - MOST_PROJECTS)]:
            del self._all[old]
        if self.file is not None:
            with suppress(OSError, FileError):
                self.file.parent.mkdir(parents=True, exist_ok=True)
                write_atomically(self.file, json.dumps(self._all, indent=1))


def memory_file() -> Path:
    """Where a person's desks are remembered."""
    return user_state_path("hearthline", appauthor=False) / FILE
