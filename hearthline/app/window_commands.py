"""The commands of the window with their keys; those of the drawing are in `drawing_commands`."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from hearthline.app.canvas.drawing import STEP
from hearthline.app.charts.markers import CROSSING, PEAK
from hearthline.app.commands import Command
from hearthline.app.needs import Needs
from hearthline.app.shelf_doings import ask_bench, copy_cell
from hearthline.app.theme.size import NAME, USUAL, limited
from hearthline.app.theme.theme import theme
from hearthline.app.watching import look_pointed, watch_pointed
from hearthline.core.bench.samples import SampleSetup

if TYPE_CHECKING:
    from hearthline.app.frame import Frame


def window_commands(window: Frame) -> list[Command]:
    """All of them, for one window."""
    desk, drawing, sheet = window.desk, window.drawing, window.sheet
    needs = Needs(desk)
    return [
        Command("Add or find anything", ("Space",), window.open_search),
        Command("Run the bench", ("Ctrl+Return",), lambda: desk.run(), needs.bench),
        Command("Draw samples", ("Ctrl+Shift+Return",), lambda: draw_samples(window), needs.bench),
        Command("Stop the run", ("Ctrl+.",), desk.stop, needs.running),
        Command("New bench for this cell", ("Ctrl+E",), lambda: ask_bench(window, "name of the bench", desk.new_bench)),
        Command(
            "Rename the bench", (), lambda: ask_bench(window, "new name of the bench", desk.rename_bench), needs.bench
        ),
        Command("Delete the bench", (), desk.delete_bench, needs.bench),
        Command("Back out of the block, or to the cell", ("Backspace",), window.go_back),
        Command("Drawing alone", ("1",), lambda: window.show_side("drawing")),
        Command("Drawing and charts", ("2",), lambda: window.show_side("both")),
        Command("Charts alone", ("3",), lambda: window.show_side("charts")),
        Command("Shelf", ("S",), lambda: window.holder.toggle_shelf()),
        Command("Keep the details, or let them go", ("I",), lambda: window.keep_details()),
        Command("Copy the cell", (), lambda: copy_cell(window)),
        Command("Fit the drawing", ("0",), drawing.fit),
        Command("Closer", ("+", "="), lambda: drawing.zoom(STEP)),
        Command("Farther", ("-",), lambda: drawing.zoom(1 / STEP)),
        Command("Watch what is under the pointer", ("B",), lambda: watch_pointed(window)),
        Command("Look both ways at the terminal under the pointer", ("Shift+B",), lambda: look_pointed(window)),
        Command("Drop a marker on the curve", ("K",), sheet.marking.drop, needs.curves),
        Command("Clear the markers and the cursor", ("Shift+K",), sheet.clear_cursor),
        Command("Step the marker or the cursor forth", ("L",), lambda: sheet.step_cursor(1), needs.curves),
        Command("Step the marker or the cursor back", ("J",), lambda: sheet.step_cursor(-1), needs.curves),
        Command("Marker to the next crossing", ("Shift+L",), lambda: sheet.marking.step(1, CROSSING), needs.curves),
        Command("Marker to the next peak", ("Ctrl+L",), lambda: sheet.marking.step(1, PEAK), needs.curves),
        Command("Zoom of the charts back", ("U",), sheet.zoom_back, needs.curves),
        Command("All of the charts in view", ("Shift+U",), sheet.fit, needs.curves),
        Command("Undo", ("Ctrl+Z",), desk.documents.undo.undo),
        Command("Redo", ("Ctrl+Shift+Z",), desk.documents.undo.redo),
        Command("Save", ("Ctrl+S",), window.save),
        Command("New device text", ("Ctrl+N",), window.new_text),
        Command("Larger texts", (), lambda: _size_texts(window, 1)),
        Command("Smaller texts", (), lambda: _size_texts(window, -1)),
        Command("Day or night", ("Ctrl+Shift+N",), theme.toggle),
        Command("Keys and mouse", ("F1",), lambda: window.help.toggle()),
        Command("Close the window", ("Ctrl+Q",), window.close),
    ]


def draw_samples(window: Frame) -> None:
    """Of the bench as it says, or the usual ones; the spread stands beside the drawing."""
    desk = window.desk
    if desk.bench.samples is None:
        desk.change_bench(replace(desk.bench, samples=SampleSetup()), "samples")
    if not window.desk.device_shown:
        window.side.show_view("spread")
    desk.run()


def _size_texts(window: Frame, step: int) -> None:
    """One point more or less, from the next start on."""
    points = limited(limited(window.memory.get(NAME, USUAL)) + step)
    window.memory.put(NAME, points)
    window.desk.say(f"Texts of {points} points from the next start on.")
