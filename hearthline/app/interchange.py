"""Figures and decks of the shown cell, out; decks as cells, in."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QMimeData

from hearthline.app.canvas.drawing import Drawing
from hearthline.app.canvas.figure import write_pdf, write_svg
from hearthline.app.panels.question import Question
from hearthline.app.state.desk import Desk
from hearthline.core.circuit.edit.picked import NOTHING
from hearthline.core.errors import FileError, HearthlineError


def write_figure(desk: Desk, drawing: Drawing, question: Question) -> None:
    """Writes the drawing as SVG and PDF into the folder `figures` of the project, and says so."""
    if drawing.scene is None:
        return
    folder, look = desk.project.folder / "figures", replace(drawing.look(), findings=(), picked=NOTHING, lit_net="")
    try:
        folder.mkdir(exist_ok=True)
        write_svg(folder / f"{desk.cell.name}.svg", drawing.scene, look)
        write_pdf(folder / f"{desk.cell.name}.pdf", drawing.scene, look)
    except OSError as error:
        desk.tell(FileError(f"cannot be made: {error.strerror}", str(folder)))
    except HearthlineError as error:
        desk.tell(error)
    else:
        question.tell(f"Written: figures/{desk.cell.name}.svg and .pdf in the project.")


def usual_deck(desk: Desk) -> str:
    """The deck that is offered to be read, from the project's folder."""
    folder = desk.project.folder
    known = sorted((folder / "decks").glob("*.cir"))
    return str(known[0].relative_to(folder)) if known else "decks/"


def decks(data: QMimeData) -> list[Path]:
    """The decks among dropped files."""
    paths = [Path(url.toLocalFile()) for url in data.urls()]
    return [path for path in paths if path.suffix.lower() in (".cir", ".sp", ".net", ".spi")]
