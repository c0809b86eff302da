"""A cell as a figure for papers and reports: the drawing as SVG or PDF, in ink on nothing, with or without its values."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QMarginsF, QRect, QSize, QSizeF
from PyQt6.QtGui import QPageLayout, QPageSize, QPainter, QPdfWriter
from PyQt6.QtSvg import QSvgGenerator

from hearthline.app.canvas.live_painter import LivePainter
from hearthline.app.canvas.painter import Look, ScenePainter, View
from hearthline.app.canvas.scene import Scene
from hearthline.app.theme.palette import DAY
from hearthline.app.theme.theme import theme
from hearthline.core.errors import FileError

SCALE, MARGIN, WORDS = 12.0, 2.0, 150.0
"""Pixels a grid step, grid steps around the circuit, and pixels for the words beside it."""

DOTS_AN_INCH = 96


def write_svg(path: Path, scene: Scene, look: Look) -> None:
    """Writes the figure as SVG. Raises FileError."""
    size, view = _laid_out(scene)
    generator = QSvgGenerator()
    generator.setFileName(str(path))
    generator.setSize(size)
    generator.setViewBox(QRect(0, 0, size.width(), size.height()))
    generator.setTitle(scene.cell.name)
    generator.setDescription("drawn with Hearthline")
    _paint(generator, scene, view, look, path)


def write_pdf(path: Path, scene: Scene, look: Look) -> None:
    """Writes the figure as a PDF page of its size. Raises FileError."""
    size, view = _laid_out(scene)
    writer = QPdfWriter(str(path))
    writer.setResolution(DOTS_AN_INCH)
    points = QSizeF(size.width() * 72 / DOTS_AN_INCH, size.height() * 72 / DOTS_AN_INCH)
    page = QPageSize(points, QPageSize.Unit.Point)
    writer.setPageLayout(QPageLayout(page, QPageLayout.Orientation.Portrait, QMarginsF(0, 0, 0, 0)))
    writer.setTitle(scene.cell.name)
    _paint(writer, scene, view, look, path)


def _laid_out(scene: Scene) -> tuple[QSize, View]:
    left, top, right, bottom = scene.bounds
    left, right = left - MARGIN - WORDS / SCALE, right + MARGIN + WORDS / SCALE
    top, bottom = top - MARGIN - 2, bottom + MARGIN
    size = QSize(round((right - left) * SCALE), round((bottom - top) * SCALE))
    return size, View(SCALE, -left * SCALE, -top * SCALE)


def _paint(device, scene: Scene, view: View, look: Look, path: Path) -> None:
    painter = QPainter()
    if not painter.begin(device):
        raise FileError("cannot be written; is the folder there and not protected?", str(path))
    before = theme.palette
    theme.palette = DAY  # a figure is printed on white, whatever the window looks like
    try:
        ScenePainter(painter, scene, view, look).paint()
        LivePainter(painter, scene, view, look).paint()
    finally:
        theme.palette = before
        painter.end()
