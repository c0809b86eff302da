"""The command `hearthline`: the window by default; `solve`, `run`, `check`, `info` without one; `prepare` to compile ahead."""

from __future__ import annotations

import argparse
import os
import sys
from collections.abc import Callable
from contextlib import suppress
from importlib import import_module

from hearthline import __version__


def main(arguments: list[str] | None = None) -> int:
    """Runs the command; returns its exit status."""
    options = _parser().parse_args(arguments)
    return options.run(options)


def command() -> None:
    """The command as it is installed. All files are closed by now; taking the compiled engine apart at the end would take a
    quarter of a second."""
    status = main()
    for stream in (sys.stdout, sys.stderr):
        with suppress(OSError):  # whoever read it has gone
            stream.flush()
    os._exit(status or 0)


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
    solve.set_defaults(run=_command("solve"))
    run = commands.add_parser("run", help="run benches and hold them against their specifications")
    run.add_argument("path", metavar="PATH", help="a bench file, or a project's folder")
    run.add_argument("names", metavar="NAME", nargs="*", help="keys of the project's benches; all where none is said")
    run.add_argument("--out", metavar="DIR", required=True, help="folder for the results; made where it is missing")
    run.add_argument("--only", metavar="ANALYSIS", nargs="+", action="extend", help="these analyses alone")
    run.add_argument("--samples", metavar="N", help="so many statistical samples, whatever the bench says; 0 for none")
    run.add_argument("--seed", metavar="N", help="what they are drawn from, whatever the bench says")
    run.add_argument(
        "--isothermal", action="store_true", help="heat switched off: parts have the condition's temperature"
    )
    run.set_defaults(run=_command("run"))
    share = commands.add_parser(
        "yield", help="judge the samples of a finished run under other limits; nothing is simulated"
    )
    share.add_argument("folder", metavar="DIR", help="the results of `hearthline run`")
    share.add_argument(
        "--limit",
        metavar="READING=LOW..HIGH",
        action="append",
        default=[],
        help='other limits: "gain=10..14", "noise=..2.5m"',
    )
    share.add_argument("--without", metavar="READING", action="append", default=[], help="leave a specification out")
    share.set_defaults(run=_command("yields"))
    check = commands.add_parser("check", help="read a deck and say whether it could be run; nothing is solved")
    check.add_argument("deck", metavar="DECK")
    check.add_argument("--corner", metavar="NAME", help="takes the place of the section in every .lib line")
    check.set_defaults(run=_command("check"))
    housing = commands.add_parser("housing", help="resonances of a housing, and what it does between ports in it")
    housing.add_argument("file", metavar="FILE", help="a housing file: a box of metal, what lies in it, its ports")
    housing.add_argument("--out", metavar="DIR", required=True, help="folder for the results; made where it is missing")
    housing.set_defaults(run=_command("housing"))
    lines = commands.add_parser(
        "lines", help="what coupled lines have per length, and what they are between their ends"
    )
    lines.add_argument("file", metavar="FILE", help="a file of lines: layers, conductors, a length")
    lines.add_argument("--out", metavar="DIR", required=True, help="folder for the results; made where it is missing")
    lines.set_defaults(run=_command("lines"))
    ports = commands.add_parser("ports", help="the S-parameters of lines, wires, a substrate or a housing")
    ports.add_argument(
        "file", metavar="FILE", help="NAME.lines.toml, NAME.wires.toml, NAME.substrate.toml, NAME.housing.toml"
    )
    ports.add_argument("--out", metavar="DIR", required=True, help="folder for the results; made where it is missing")
    ports.set_defaults(run=_command("ports"))
    info = commands.add_parser("info", help="what a process kit holds")
    info.add_argument(
        "kit", metavar="KIT", help="a kit's folder, a file of model cards, or the name of a kit that comes along"
    )
    info.set_defaults(run=_command("info"))
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
    return 0


def _command(name: str) -> Callable[[argparse.Namespace], int]:
    """The command in the file of that name, loaded when it is called."""

    def run(options: argparse.Namespace) -> int:
        from hearthline.commands.status import told

        return told(lambda: import_module(f"hearthline.commands.{name}").run(options))

    return run


if __name__ == "__main__":
    sys.exit(main())
