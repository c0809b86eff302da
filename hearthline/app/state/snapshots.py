"""What a run would be made of now, made once for as long as nothing changes."""

from __future__ import annotations

from collections.abc import Callable

from hearthline.core.bench.bench import Bench
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.errors import HearthlineError
from hearthline.core.formats.project_folder import Project


class Snapshots:
    """Keeps the last snapshot; mistakes in a deck go to `tell`."""

    def __init__(self, tell: Callable[[HearthlineError], None]) -> None:
        self._tell = tell
        self._snapshot: Snapshot | None = None
        self._made_of: tuple | None = None

    def of(self, project: Project | None, bench: Bench | None) -> Snapshot | None:
        """The same as long as bench, cells and kit are; None without bench or kit."""
        if bench is None or project is None or not project.kit:
            return None
        key = bench, project.cells, project.kit
        if self._made_of is None or any(a is not b for a, b in zip(self._made_of, key, strict=True)):
            self._made_of = key  # whoever is told of a mistake may ask again
            self._snapshot = None
            self._snapshot = self._new(project, bench)
        return self._snapshot

    def forget(self) -> None:
        """Makes it anew at the next asking, since a deck may have been edited elsewhere."""
        self._made_of = None

    def _new(self, project: Project, bench: Bench) -> Snapshot | None:
        """Over the bench's cell, or over its deck; None of a deck that cannot be read, which is told."""
        if not bench.deck:
            return Snapshot(bench, project.cells, project.kit)
        from hearthline.core.formats.deck.bench import snapshot_over_deck  # late: it loads the engine

        try:
            return snapshot_over_deck(bench, project.folder / "benches")
        except HearthlineError as error:
            self._tell(error)
            return None
