"""What the titles of strips and the sheet offer: scales, order, spectrum, one curve against another, pictures and numbers."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING

from hearthline.app.charts.strip import Entries, Strip
from hearthline.app.state.matching import Wanted
from hearthline.core.bench.bench import SCALES, Watch
from hearthline.core.data.functions import WINDOWS
from hearthline.core.data.plane import POLAR, REFERENCE

if TYPE_CHECKING:
    from hearthline.app.charts.charts import Charts

REAL_SCALES = ("linear", "log", "dB")
"""Of curves of real numbers."""
WORDS = {
    "phase": "phase, going on", "angle": "phase within ±180°", "real": "real part", "imaginary": "imaginary part",
    "delay": "delay, -dφ/dω", "smith": "Smith chart", "smith y": "Smith chart of admittances",
    "smith zy": "Smith chart of both", "polar": "polar chart",
}  # fmt: skip


def strip_entries(sheet: Charts, strip: Strip, k: int) -> Entries:
    """For watch k of a strip."""
    if k >= len(strip.traces):
        return []
    watch = strip.traces[k].watch

    def scale(name: str) -> Callable[[], None]:
        return lambda: sheet.change_watch(watch, replace(watch, scale=name), f"{watch.shown} {name}")

    drawn = SCALES if strip.traces[k].is_complex else REAL_SCALES
    entries: Entries = [(WORDS.get(name, f"{name} scale"), scale(name)) for name in drawn if name != watch.scale]
    entries += strip.own_entries()
    if strip.traces[k].plane not in ("", POLAR):
        entries.append(("match it at the cursor", lambda: _match(sheet, strip, k)))
    if len(strip.traces) > 1:
        entries.append(("a strip of its own", lambda: sheet.join(watch, None)))
    others = [other for other in sheet.strips if other is not strip and other.traces]
    entries += [(f"into the strip of {o.traces[0].watch.shown}", _joiner(sheet, watch, o)) for o in others]
    entries += [("further up", _mover(sheet, watch, -1)), ("further down", _mover(sheet, watch, 1))]
    data = sheet.results.dataset
    if data is not None and data.kind == "tran" and "spectrum(" not in watch.formula:
        entries += [(f"its spectrum, {window} window", _spectrum(sheet, watch, window)) for window in WINDOWS[1:4]]
    entries += [
        (f"against {t.watch.shown}", _against(sheet, watch, t.watch))
        for t in sheet.traces
        if t.watch is not watch and t.axis == strip.traces[k].axis
    ][:6]
    entries.append(("watch no longer", lambda: sheet.change_watch(watch, None, f"{watch.shown} not watched")))
    return entries


def _match(sheet: Charts, strip: Strip, k: int) -> None:
    """Begins to match what a curve is at the cursor, or in the middle of it."""
    lane, trace = sheet.lane_read(), strip.traces[k]
    xs = trace.row(lane)[0]
    x = sheet.results.cursor if sheet.results.cursor is not None else float(xs[len(xs) // 2])
    load = trace.reflection(lane, x).impedance
    sheet.desk.matching.begin_with(Wanted(load, complex(REFERENCE), x))


def _joiner(sheet: Charts, watch: Watch, other: Strip) -> Callable[[], None]:
    return lambda: sheet.join(watch, other.traces[0].watch)


def _mover(sheet: Charts, watch: Watch, step: int) -> Callable[[], None]:
    def move() -> None:
        bench = sheet.desk.bench
        watches = list(bench.watches)
        at = next(k for k, one in enumerate(watches) if one is watch)
        to = at + step
        while 0 <= to < len(watches) and bench.analysis_of(watches[to]) != bench.analysis_of(watch):
            to += step
        if 0 <= to < len(watches):
            watches.insert(to, watches.pop(at))
            sheet.desk.change_bench(replace(bench, watches=tuple(watches)), f"order of {watch.shown}")

    return move


def _added(sheet: Charts, watch: Watch, formula: str, title: str, scale: str = "") -> Callable[[], None]:
    def add() -> None:
        bench = sheet.desk.bench
        new = Watch(formula, title, analysis=watch.analysis, scale=scale)
        sheet.desk.change_bench(replace(bench, watches=(*bench.watches, new)), title)

    return add


def _spectrum(sheet: Charts, watch: Watch, window: str) -> Callable[[], None]:
    formula = f"spectrum({watch.formula}, window={window})"
    return _added(sheet, watch, formula, f"spectrum of {watch.shown}", "dB")


def _against(sheet: Charts, watch: Watch, other: Watch) -> Callable[[], None]:
    return _added(sheet, watch, f"against({watch.formula}, {other.formula})", f"{watch.shown} against {other.shown}")


def sheet_entries(sheet: Charts) -> Entries:
    """For all strips."""
    from hearthline.app.charts import export  # late: SVG and PDF are loaded when something is to leave

    logarithmic = any(strip.log_x for strip in sheet.strips)
    shown = sheet.with_points
    return [
        ("no points on the curves" if shown else "points on the curves", lambda: sheet.show_points(not shown)),
        ("axis in equal steps" if logarithmic else "axis in decades", lambda: sheet.set_log_x(not logarithmic)),
        ("everything in view", sheet.fit),
        ("zoom back", sheet.zoom_back),
        ("copy as picture", lambda: export.copy_picture(sheet)),
        ("copy as numbers", lambda: export.copy_numbers(sheet)),
        *((f"write as {kind}", lambda kind=kind: export.write(sheet, kind)) for kind in export.KINDS),
    ]
