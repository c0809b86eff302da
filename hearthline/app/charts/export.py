"""Charts as pictures (PNG, SVG, PDF) and as numbers (CSV, netCDF), in a file of the project or in the clipboard."""

from __future__ import annotations

import csv
import io
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QMarginsF, QRectF, QSize, QSizeF
from PyQt6.QtGui import QGuiApplication, QPageSize, QPainter, QPdfWriter, QPixmap
from PyQt6.QtSvg import QSvgGenerator

from hearthline.app.theme.fonts import text_font
from hearthline.app.theme.theme import theme
from hearthline.core.bench.readings import describe_lane
from hearthline.core.errors import FileError, HearthlineError

if TYPE_CHECKING:
    from hearthline.app.charts.charts import Charts

KINDS = ("PNG", "SVG", "PDF", "CSV", "netCDF")
HEAD = 26
MOST_COPIED = 200_000
"""Numbers that go into the clipboard."""


def write(sheet: Charts, kind: str) -> Path | None:
    """Writes the sheet into the folder `figures` of the project, and says so; None where it could not."""
    desk, results = sheet.desk, sheet.results
    folder = desk.project.folder / "figures"
    ending = "nc" if kind == "netCDF" else kind.lower()
    path = folder / f"{desk.bench.key}-{results.analysis}.{ending}"
    try:
        folder.mkdir(exist_ok=True)
        {"PNG": _png, "SVG": _svg, "PDF": _pdf, "CSV": _csv, "netCDF": _netcdf}[kind](sheet, path)
    except OSError as error:
        desk.tell(FileError(f"cannot be written: {error.strerror or error}", str(path.name)))
        return None
    except HearthlineError as error:
        desk.tell(error)
        return None
    desk.say(f"Written: figures/{path.name} in the project.")
    return path


def picture(sheet: Charts, scale: float = 2.0) -> QPixmap:
    """All strips under each other."""
    size = _size(sheet)
    pixmap = QPixmap(size * int(scale))
    pixmap.fill(theme.color("paper"))
    painter = QPainter(pixmap)
    painter.scale(scale, scale)
    _paint(sheet, painter)
    painter.end()
    return pixmap


def _size(sheet: Charts) -> QSize:
    width = max((strip.width() for strip in sheet.strips), default=400)
    return QSize(width, sum(strip.plot.height() + HEAD for strip in sheet.strips) or 300)


def _paint(sheet: Charts, painter: QPainter) -> None:
    top = 0.0
    for strip in sheet.strips:
        painter.setFont(text_font(12, bold=True))
        painter.setPen(theme.color("ink"))
        titles = " · ".join(title.text() for title in strip.head.titles)
        painter.drawText(QRectF(14, top + 4, strip.width() - 28, HEAD), 0, f"{titles}   {strip.against}")
        source = QRectF(strip.plot.viewport().rect())
        target = QRectF(0, top + HEAD, source.width(), source.height())
        strip.plot.scene().prepareForPaint()
        strip.plot.render(painter, target, strip.plot.viewport().rect())
        top += HEAD + strip.plot.height()


def _png(sheet: Charts, path: Path) -> None:
    if not picture(sheet).save(str(path)):
        raise OSError("the picture could not be stored")


def _svg(sheet: Charts, path: Path) -> None:
    generator = QSvgGenerator()
    generator.setFileName(str(path))
    generator.setSize(_size(sheet))
    generator.setViewBox(QRectF(0, 0, _size(sheet).width(), _size(sheet).height()))
    generator.setTitle(f"{sheet.desk.bench.title}, {sheet.results.analysis}")
    _vector(sheet, generator)


def _pdf(sheet: Charts, path: Path) -> None:
    size = _size(sheet)
    writer = QPdfWriter(str(path))
    writer.setPageSize(QPageSize(QSizeF(size.width(), size.height()), QPageSize.Unit.Point))
    writer.setPageMargins(QMarginsF(0, 0, 0, 0))
    writer.setResolution(72)
    _vector(sheet, writer)


def _vector(sheet: Charts, device) -> None:
    painter = QPainter()
    if not painter.begin(device):
        raise OSError("the folder cannot be written to")
    _paint(sheet, painter)
    painter.end()


def columns(sheet: Charts) -> tuple[list[str], list[np.ndarray]]:
    """A column for the axis, or one for each lane that has its own, and one for each curve and lane."""
    names, data = [], []
    dataset = sheet.results.dataset
    for trace in sheet.traces:
        if not trace.y.size:
            continue
        for lane in range(trace.lanes):
            x, y = trace.row(lane)
            axis = f"{trace.axis} [{trace.axis_unit}]"
            if trace.x.ndim == 2 or axis not in names:
                names.append(axis)
                data.append(x)
            condition = describe_lane(dataset, lane) if dataset is not None else ""
            names.append(f"{trace.watch.shown} [{trace.unit}] {condition}".strip())
            data.append(y)
    return names, data


def _rows(sheet: Charts, maximum: float = np.inf) -> str:
    names, data = columns(sheet)
    length = max((len(one) for one in data), default=0)
    if length * max(1, len(data)) > maximum:
        raise HearthlineError(f"{length * len(data)} numbers are too many to copy; write them as CSV or netCDF")
    out = io.StringIO()
    table = csv.writer(out, delimiter="\t" if np.isfinite(maximum) else ",", lineterminator="\n")
    table.writerow(names)
    for k in range(length):
        table.writerow([repr(float(one[k])) if k < len(one) else "" for one in data])
    return out.getvalue()


def _csv(sheet: Charts, path: Path) -> None:
    path.write_text(_rows(sheet), encoding="utf-8")


def _netcdf(sheet: Charts, path: Path) -> None:
    """The shown analysis with all that was kept of it, not the drawn curves alone."""
    from hearthline.core.formats.run_datasets import write_dataset

    if sheet.results.dataset is None:
        raise HearthlineError("there is no run to write; press Run")
    write_dataset(path, sheet.results.dataset)


def copy_picture(sheet: Charts) -> None:
    """Into the clipboard."""
    QGuiApplication.clipboard().setPixmap(picture(sheet))


def copy_numbers(sheet: Charts) -> None:
    """Into the clipboard, with tabs between, as tables take them."""
    try:
        QGuiApplication.clipboard().setText(_rows(sheet, MOST_COPIED))
    except HearthlineError as error:
        sheet.desk.tell(error)
