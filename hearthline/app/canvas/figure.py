"""A cell as a figure for papers and reports: the drawing as SVG or PDF, in ink on nothing, with or without its values."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QMarginsF, QRect, QSize, QSizeF
from PyQt6.QtGui import QPageLayout, QPageSize, QPainter, QPdfWriter
from PyQt6.QtSvg import QSvgGenerator

from hearthline.app.canvas.brush import Look, View
from hearthline.app.canvas.live_painter import LivePainter
from hearthline.app.canvas.painter import ScenePainter
from hearthline.app.canvas.scene import Scene
from hearthline.app.canvas.words.layout import layout_of
from hearthline.app.theme.palette import DAY
from hearthline.app.theme.theme import theme
from hearthline.core.errors import FileError

SCALE, MARGIN = 12.0, 16.0
"""Pixels a grid step, and pixels around the circuit and its words."""

DOTS_AN_INCH = 96


def write_svg(path: Path, scene: Scene, look: Look) -> None:
    """Writes the figure as SVG. Raises FileError."""
    size, view = _laid_out(scene, look)
    generator = QSvgGenerator()
    generator.setFileName(str(path))
    generator.setSize(size)
    generator.setViewBox(QRect(0, 0, size.width(), size.height()))
    generator.setTitle(scene.cell.name)
    generator.setDescription("drawn with Hearthline")
    _paint(generator, scene, view, look, path)


def write_pdf(path: Path, scene: Scene, look: Look) -> None:
    """Writes the figure as a PDF page of its size. Raises FileError."""
    size, view = _laid_out(scene, look)
    writer = QPdfWriter(str(path))
    writer.setResolution(DOTS_AN_INCH)
    points = QSizeF(size.width() * 72 / DOTS_AN_INCH, size.height() * 72 / DOTS_AN_INCH)
    page = QPageSize(points, QPageSize.Unit.Point)
    writer.setPageLayout(QPageLayout(page, QPageLayout.Orientation.Portrait, QMarginsF(0, 0, 0, 0)))
    writer.setTitle(scene.cell.name)
    _paint(writer, scene, view, look, path)


def _laid_out(scene: Scene, look: Look) -> tuple[QSize, View]:
    left, top, right, bottom = (value * SCALE for value in scene.bounds)
    words = layout_of(scene, SCALE, look).bounds or (left, top, right, bottom)
    left, top = min(left, words[0]) - MARGIN, min(top, words[1]) - MARGIN
    right, bottom = max(right, words[2]) + MARGIN, max(bottom, words[3]) + MARGIN
    return QSize(round(right - left), round(bottom - top)), View(SCALE, -left, -top)


def _paint(device, scene: Scene, view: View, look: Look, path: Path) -> None:
    painter = QPainter()
    if not painter.begin(device):
        raise FileError("cannot be written; is the folder there and not protected?", str(path))
    before = theme.palette
    theme.palette = DAY  # a figure is printed on white, whatever the window looks like
    try:
        layout = layout_of(scene, view.scale, look)
        circuit = ScenePainter(painter, scene, view, look)
        circuit.paint()
        circuit.inner_words(layout.bare)
        LivePainter(painter, scene, view, look, layout).paint()
    finally:
        theme.palette = before
        painter.end()
