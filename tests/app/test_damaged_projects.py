"""Projects with files that no window wrote: each opens, says what is wrong where something is, can be walked through, run and
left, with no trace back and no wait. One damage each."""

from __future__ import annotations

import os
import shutil

import pytest

from hearthline.app.start import DEMO

PROJECT = 'format = 1\nname = "Small"\nkit = "lm130"\ncells = ["inv_x1"]\nbenches = ["inv_x1-transfer"]\n'
CELL, BENCH, LIST = "cells/inv_x1.toml", "benches/inv_x1-transfer.toml", "project.toml"
DEVICE, HEADERS = "devices/own.va", '`include "constants.vams"\n`include "disciplines.vams"\n'
M1, M2, SUPPLY = 'name = "M1"\ndevice = "n_rvt"\nat = [-2, 5]', '"2.4u"', '[[watches]]\nformula = "-I(vdd)"'
READING, TEMPERATURES = '"peak(-I(vdd))"', '["-40", "27", "150"]'


@pytest.fixture
def small(tmp_path):
    """A project of one cell and one bench."""
    folder = tmp_path / "small"
    for name in ("cells", "benches", "devices"):
        (folder / name).mkdir(parents=True)
    (folder / LIST).write_text(PROJECT)
    for name in (CELL, BENCH):
        shutil.copy(DEMO / name, folder / name)
    return folder


def exchanged(name: str, old: str, new: str):
    """A damage: one piece of a file is another."""

    def damage(folder) -> None:
        text = (folder / name).read_text(encoding="utf-8")
        assert old in text
        (folder / name).write_text(text.replace(old, new, 1), encoding="utf-8")

    return damage


def added(name: str, text: str):
    """A damage: a file ends with this too, or is this."""

    def damage(folder) -> None:
        path = folder / name
        path.parent.mkdir(exist_ok=True)
        path.write_text((path.read_text(encoding="utf-8") if path.exists() else "") + text, encoding="utf-8")

    return damage


def device(body: str, parameters: str = ""):
    """A damage: a device text of the project."""
    return added(DEVICE, f"{HEADERS}module own(p, n); inout p, n; electrical p, n;\n{parameters}\n{body}\nendmodule\n")


def tower(folder) -> None:
    """Nine cells, each of ten of the next."""
    names = [f"t{k}" for k in range(9)]
    for k, name in enumerate(names):
        inner = names[k + 1] if k < 8 else "resistor"
        parts = "".join(f'[[parts]]\nname = "X{i}"\ndevice = "{inner}"\nat = [{30 * i}, 0]\n' for i in range(10))
        (folder / "cells" / f"{name}.toml").write_text(f"format = 1\n{parts}")
    (folder / LIST).write_text(PROJECT.replace('["inv_x1"]', f'["inv_x1", {", ".join(f"{n!r}" for n in names)}]'))


def fifo(name: str):
    """A damage: a pipe, which is waited for without end, where a file should be."""

    def damage(folder) -> None:
        (folder / name).unlink(missing_ok=True)
        os.mkfifo(folder / name)

    return damage


def note(formula: str):
    """A damage: a note of the drawing with a formula in it."""
    return added(CELL, f'\n[[notes]]\ntext = "it is {{{formula}}}"\nat = [20, 20]\n')


def parts(count: int):
    """A damage: very many parts."""
    return added(CELL, "".join(f'\n[[parts]]\nname = "R{k}"\ndevice = "resistor"\nat = [{30 + 6 * (k % 100)}, {6 * (k // 100)}]\nvalues = {{ r = "1k" }}\n' for k in range(count)))  # fmt: skip


def deep_journal(opening: str, closing: str):
    """A damage: a journal that was left over, deeper than anything."""
    return added(".unsaved/journal.json", '{"cells": {"inv_x1": ' + opening * 100_000 + closing * 100_000 + "}}")


DAMAGES = {
    "at 10^400": (exchanged(CELL, "at = [-2, 5]", f"at = [1{'0' * 400}, 5]"), "inv_x1.toml"),
    "name nul": (exchanged(CELL, '"M1"', '"M\\u0000"'), "inv_x1.toml"),
    "array 1e9": (exchanged(CELL, '"M1"', '"M1[1000000000]"'), "inv_x1.toml"),
    "array 10^5000": (exchanged(CELL, '"M1"', f'"M1[1{"0" * 5000}]"'), "inv_x1.toml"),
    "array 20000": (exchanged(CELL, '"M1"', '"M1[20000]"'), "inv_x1.toml"),
    "pin name empty": (exchanged(CELL, 'name = "in"', 'name = ""'), "inv_x1.toml"),
    "value minus 5000": (exchanged(CELL, M2, f'"{"-" * 5000}1"'), "M2"),
    "value sum 2000": (exchanged(CELL, M2, f'"1u{"+1n" * 2000}"'), ""),
    "value 1e9999..": (exchanged(CELL, M2, f'"1e{"9" * 5000}"'), "inv_x1"),
    "note spectrum": (note("peak(spectrum(V(out), 1000000000000))"), ""),
    "note _0": (note("_0"), ""),
    "note _99": (note("_99"), ""),
    "note __": (note("__"), ""),
    "note _0 with V": (note("V(out) + _0"), ""),
    "note 600m": (note("600m + 1_1"), ""),
    "parts 20000": (parts(20_000), "inv_x1.toml"),
    "wires 5000": (added(CELL, f"\n[[wires]]\npoints = [{', '.join(f'[{k}, {60 + k % 2}]' for k in range(5000))}]\n"), ""),
    "wires far": (added(CELL, "".join(f"\n[[wires]]\npoints = [[-1000000, {60 + 2 * k}], [1000000, {60 + 2 * k}]]\n" for k in range(500))), ""),
    "tower": (tower, ""),
    "journal deep lists": (deep_journal("[", "]"), ""),
    "journal deep tables": (deep_journal('{"a":', "}"), ""),
    "deep arrays": (exchanged(CELL, "at = [-2, 5]", f"at = {'[' * 3000}{']' * 3000}"), "inv_x1.toml"),
    "deep inline": (exchanged(CELL, "at = [-2, 5]", f"at = {'{a=' * 3000}1{'}' * 3000}"), "inv_x1.toml"),
    "int 5000": (exchanged(CELL, "at = [-2, 5]", f"at = [{'9' * 5000}, 5]"), "inv_x1.toml"),
    "reading 10^400": (exchanged(BENCH, READING, f'"1{"0" * 400} * peak(V(out))"'), "transfer.toml:57"),
    "reading minus 1500": (exchanged(BENCH, READING, f'"{"-" * 1500}1"'), "transfer.toml"),
    "reading minus 6000": (exchanged(BENCH, READING, f'"{"-" * 6000}1"'), "transfer.toml"),
    "reading sum 3000": (exchanged(BENCH, READING, f'"1{"+1" * 3000}"'), "transfer.toml"),
    "watch 10^400": (exchanged(BENCH, '"-I(vdd)"', f'"1{"0" * 400} * V(out)"'), ""),
    "watch 1e308": (exchanged(BENCH, '"-I(vdd)"', '"1e308 * V(out)"'), ""),
    "watch 1e300 squared": (exchanged(BENCH, '"-I(vdd)"', '"V(out) * 1e300 * 1e300"'), ""),
    "watch minus 1500": (exchanged(BENCH, '"-I(vdd)"', f'"{"-" * 1500}V(out)"'), "transfer.toml"),
    "watch spectrum": (exchanged(BENCH, '"-I(vdd)"', '"spectrum(V(out), 1000000000)"'), ""),
    "line step 1e-320": (exchanged(BENCH, "points 1001", "step 1e-320"), ""),
    "temperatures 100000": (exchanged(BENCH, TEMPERATURES, f"[{', '.join(f'{chr(34)}{k / 1000}{chr(34)}' for k in range(100_000))}]"), "transfer.toml"),
    "grid of 40": (exchanged(BENCH, 'parameters = { vdd = ["1.08", "1.2", "1.32"] }', f'parameters = {{ {", ".join(f"p{k} = [{chr(34)}1{chr(34)}, {chr(34)}2{chr(34)}]" for k in range(40))} }}'), "transfer.toml"),
    "stimulus of digits": (exchanged(BENCH, '"580m"', f'"{"5" * 5000}"'), "transfer.toml"),
    "cells long": (exchanged(LIST, '"inv_x1"', f'"{"x" * 5000}"'), "project.toml"),
    "kit long": (exchanged(LIST, '"lm130"', f'"{"x" * 5000}"'), "project.toml"),
    "kit outside": (exchanged(LIST, '"lm130"', '"../../kit"'), "project.toml"),
    "cells 20000": (exchanged(LIST, '["inv_x1"]', f"[{', '.join(f'{chr(34)}c{k}{chr(34)}' for k in range(20_000))}]"), "project.toml"),
    "device minus 30000": (device(f"analog I(p, n) <+ {'-' * 30_000}V(p, n);"), "own.va"),
    "device begin 20000": (device(f"analog {'begin ' * 20_000} I(p, n) <+ V(p, n); {'end ' * 20_000}"), "own.va"),
    "device V in a parameter": (device("analog I(p, n) <+ V(p, n);", "parameter real a = V(p, n);"), "own.va"),
    "device while in while": (device("integer k; analog begin k = 0; while (k < a) begin while (k < a) k = k + 1; end I(p, n) <+ k * V(p, n); end", "parameter integer a = 3;"), ""),
    "device array 1e400": (device("real x[0:1e400]; analog I(p, n) <+ x[0];"), "own.va"),
    "device array 1e9": (device("real x[0:1000000000]; analog I(p, n) <+ x[0];"), "own.va"),
    "device macros 2^40": (device("analog I(p, n) <+ `M40;", "".join(f"`define M{k + 1} `M{k} `M{k}\n" for k in range(40))), "own.va"),
    "device loops 2000^3": (device(f"integer i, j, k; real x; analog begin x = 0; {''.join(f'for ({v} = 0; {v} < 2000; {v} = {v} + 1) ' for v in 'ijk')} x = x + V(p, n); I(p, n) <+ x; end"), ""),
    "device int 5000": (device(f"analog I(p, n) <+ {'9' * 5000} * V(p, n);"), "own.va"),
    "device fifo": (fifo(DEVICE), "own.va"),
    "project fifo": (fifo(LIST), "project.toml"),
    "cell fifo": (fifo(CELL), "inv_x1.toml"),
    "journal fifo": (fifo(".unsaved/journal.json"), ""),
    "logbook junk": (added("runs/logbook.json", "[" * 100_000), ""),
    "logbook inf": (added("runs/logbook.json", '{"runs": [{"number": 1e999}], "shown": 1e999}'), ""),
    "markup in a name": (exchanged(LIST, '"Small"', '"<img src=\'file:///etc/passwd\'><b>Small</b>"'), ""),
}  # fmt: skip
"""What is done to the project, and what the window must name (nothing: it may go well)."""


@pytest.mark.parametrize("name", DAMAGES)
def test_a_damaged_project_is_answered(opened, small, name):
    """It opens, says what must be said, shows every cell, runs and is left."""
    damage, said = DAMAGES[name]
    (small / ".unsaved").mkdir()
    damage(small)
    person = opened(small, ready=False)
    desk = person.desk
    titles = " ".join(dict(person.window.shelf.items()))
    problems = " ".join(str(problem) for problem in desk.project.problems) if desk.project else ""
    if desk.project:
        if desk.bench is not None and desk.cell is not None and not said:
            person.wait(lambda: desk.point is not None)
        for cell in list(desk.project.cells)[:3]:
            desk.show_cell(cell)
        if desk.bench is not None and "spectrum" not in name:
            desk.run()
            person.wait(lambda: not desk.results.runner.busy)
    assert not person.window.grab().isNull()
    heard = f"{titles} {problems} {person.window.card.text.text()}"
    assert said in heard, heard[:2000]
    assert "Traceback" not in heard
