"""The command `hearthline`: the window by default, `solve` without one, `prepare` to compile ahead."""

from __future__ import annotations

import argparse
import json
import os
import sys
from collections.abc import Callable
from pathlib import Path

from hearthline import __version__
from hearthline.core.errors import (
    CircuitError,
    ConvergenceError,
    ExpressionError,
    FileError,
    HearthlineError,
    QuantityError,
)

SOLVED, NOT_CONVERGED, WRONG_INPUT = 0, 1, 2


def main(arguments: list[str] | None = None) -> int:
    """Runs the command; returns its exit status."""
    options = _parser().parse_args(arguments)
    return options.run(options)


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        "hearthline", description="Design and verify integrated circuits at transistor level."
    )
    parser.add_argument("--version", action="version", version=f"hearthline {__version__}")
    parser.set_defaults(run=_open, project=None, bench=None)
    commands = parser.add_subparsers(title="commands", metavar="COMMAND")
    solve = commands.add_parser("solve", help="run the analyses of a deck and write one CSV file each")
    solve.add_argument("deck", metavar="DECK")
    solve.add_argument("--out", metavar="DIR", required=True, help="folder for the results; made where it is missing")
    solve.add_argument("--corner", metavar="NAME", help="takes the place of the section in every .lib line")
    solve.add_argument("--temp", metavar="CELSIUS", help="temperature in degrees Celsius")
    solve.add_argument("--set", metavar="PARAM=VALUE", action="append", default=[], help="exchange a parameter's value")
    solve.add_argument("--stats", action="store_true", help="print one JSON line an analysis")
    solve.set_defaults(run=_solve)
    check = commands.add_parser("check", help="read a deck and say whether it could be run; nothing is solved")
    check.add_argument("deck", metavar="DECK")
    check.add_argument("--corner", metavar="NAME", help="takes the place of the section in every .lib line")
    check.set_defaults(run=_check)
    info = commands.add_parser("info", help="what a process kit holds")
    info.add_argument(
        "kit", metavar="KIT", help="a kit's folder, a file of model cards, or the name of a kit that comes along"
    )
    info.set_defaults(run=_info)
    opened = commands.add_parser("open", help="open a project in the window")
    opened.add_argument("project", metavar="FOLDER", nargs="?")
    opened.add_argument("--bench", metavar="NAME", help="the bench to show first")
    opened.set_defaults(run=_open)
    prepare = commands.add_parser("prepare", help="compile the kernels, so that no later start has to")
    prepare.set_defaults(run=_prepare)
    return parser


def _open(options: argparse.Namespace) -> int:
    from hearthline.app.start import start

    return start(options.project, options.bench)


def _prepare(options: argparse.Namespace) -> int:
    from hearthline.prepare import prepare

    prepare(print)
    return SOLVED


def _check(options: argparse.Namespace) -> int:
    return _said(lambda: _check_deck(options))


def _check_deck(options: argparse.Namespace) -> int:
    from hearthline.core.formats.deck.plan import plan
    from hearthline.core.formats.deck.reader import read

    planned = plan(read(Path(options.deck), options.deck, options.corner))
    system = planned[0].system
    analyses = ", ".join(f"{task.line.head} at line {task.line.number}" for task in planned)
    print(
        f"{options.deck}: {len(system.netlist.elements)} parts, {len(system.nets)} nets; {analyses}; no mistake found"
    )
    return SOLVED


def _info(options: argparse.Namespace) -> int:
    return _said(lambda: _print_kit(options.kit))


def _print_kit(name: str) -> int:
    from hearthline.core.formats.kit_folder import INSTALLED, installed_kits, kit_of_models, read_kit
    from hearthline.core.quantity import write

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
    for device, law in kit.statistics.mismatch.items():
        print(
            f"mismatch {device}: "
            + ", ".join(f"{key} {value:g} m over the root of the area" for key, value in law.items())
        )
    return SOLVED


def _solve(options: argparse.Namespace) -> int:
    return _said(lambda: _run_deck(options))


def _said(work: Callable[[], int]) -> int:
    """Runs a command; what is wrong with its input goes to standard error."""
    from hearthline.stopping import StoppedError

    try:
        return work()
    except BrokenPipeError:  # whoever reads has read enough; nothing is to be said to a closed pipe at exit either
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return SOLVED
    except (FileError, CircuitError, QuantityError, ExpressionError) as error:
        print(_placed(error), file=sys.stderr)
        return WRONG_INPUT
    except StoppedError as error:
        print(error, file=sys.stderr)
        return 128 + error.signal
    except MemoryError:
        print("there is not enough memory for it; take fewer points, lanes or parts", file=sys.stderr)
        return NOT_CONVERGED


def _run_deck(options: argparse.Namespace) -> int:
    from hearthline.core.formats.deck.plan import plan
    from hearthline.core.formats.deck.reader import read
    from hearthline.core.formats.results_folder import folder_for_results
    from hearthline.stopping import heed_signals

    heed_signals()
    deck = read(Path(options.deck), options.deck, options.corner)
    planned = plan(deck, _celsius(options.temp), _settings(options.set))
    with folder_for_results(Path(options.out), options.out) as out:
        return _run_tasks(planned, out, options)


def _run_tasks(planned: list, out: Path, options: argparse.Namespace) -> int:
    status, said = SOLVED, set()
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


def _run_task(task, path: Path, stats: bool) -> list[str]:
    """Solves one analysis and writes its file; gives back what is to be known of the result.

    Raises ConvergenceError, or FileError where it cannot be written.
    """
    from hearthline.stopping import stoppable

    found = stoppable(lambda job: task.run(job, path) if task.kind == "tran" else task.run(job))
    if len(found.failed_lanes):
        raise found.failure(found.failed_lanes[0])
    if task.kind != "tran":
        task.write(found, path)
    if stats:
        iterations, accepted, rejected = task.course(found)
        line = {
            "analysis": task.kind, "unknowns": len(task.system.unknowns), "newton_iterations": iterations,
            "accepted_steps": accepted, "rejected_steps": rejected, "solve_seconds": found.seconds,
        }  # fmt: skip
        print(json.dumps(line), flush=True)
    return found.notes()


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


def _placed(error: HearthlineError) -> str:
    if isinstance(error, CircuitError) and error.file and error.line:
        return f"{error.file}:{error.line}: {error}"
    return str(error)


if __name__ == "__main__":
    sys.exit(main())
