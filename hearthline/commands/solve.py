"""`hearthline solve`: the analyses of a deck, one CSV file each."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import TYPE_CHECKING

from hearthline.commands.status import DONE, NOT_CONVERGED
from hearthline.core.errors import ConvergenceError, FileError, QuantityError

if TYPE_CHECKING:  # loaded when something is solved
    from hearthline.core.formats.deck.tasks import Task


def run(options: argparse.Namespace) -> int:
    """Solves them in their order. Raises HearthlineError for wrong input."""
    from hearthline.core.formats.deck.plan import plan
    from hearthline.core.formats.deck.reader import read
    from hearthline.core.formats.results_folder import folder_for_results
    from hearthline.stopping import heed_signals

    heed_signals()
    deck = read(Path(options.deck), options.deck, options.corner)
    planned = plan(deck, _celsius(options.temp), _settings(options.set))
    with folder_for_results(Path(options.out), options.out) as out:
        return _run_tasks(planned, out, options)


def _run_tasks(planned: list[Task], out: Path, options: argparse.Namespace) -> int:
    status, said = DONE, set[str]()
    for number, task in enumerate(planned, 1):
        try:
            for note in _run_task(task, out / f"{number:02d}-{task.kind}.csv", options.stats):
                if note not in said:
                    print(f"{task.line.file}:{task.line.number}: {task.line.head}: note: {note}", file=sys.stderr)
                    said.add(note)
        except (ConvergenceError, FileError) as error:
            print(f"{task.line.file}:{task.line.number}: {task.line.head}: {error}", file=sys.stderr)
            status = NOT_CONVERGED
    return status


def _run_task(task: Task, path: Path, stats: bool) -> list[str]:
    """Solves one analysis and writes its file; gives back what is to be known of the result.

    Raises ConvergenceError, or FileError where it cannot be written.
    """
    from hearthline.stopping import stoppable

    found = stoppable(lambda job: task.run(job, path))
    for error in found.failures.values():
        raise error
    if stats:
        counts = found.counts
        line = {
            "analysis": task.kind, "unknowns": len(task.system.unknowns), "newton_iterations": counts.iterations,
            "accepted_steps": counts.accepted, "rejected_steps": counts.rejected, "solve_seconds": found.seconds,
        }  # fmt: skip
        print(json.dumps(line), flush=True)
    return list(found.notes)


def _celsius(text: str | None) -> float | None:
    from hearthline.core.quantity import read

    if text is None:
        return None
    try:
        return read(text, "°C")
    except QuantityError as error:
        raise FileError(str(error), "--temp") from None


def _settings(pairs: list[str]) -> dict[str, float]:
    from hearthline.core.quantity import read_deck

    settings = {}
    for pair in pairs:
        name, equals, value = pair.partition("=")
        if not equals:
            raise FileError(f"'{pair}' is not PARAM=VALUE", "--set")
        try:
            settings[name.strip().lower()] = read_deck(value.strip().lower())
        except QuantityError as error:
            raise FileError(f"{name}: {error}", "--set") from None
    return settings
