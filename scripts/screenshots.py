"""Renders the main views from the demo into docs/screenshots; needs no display."""

from __future__ import annotations

import os
import shutil
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from hearthline.app.start import DEMO, open_window
from hearthline.app.state.matching import Wanted
from hearthline.app.window import Window
from hearthline.core.circuit.cell import Label

FOLDER = Path(__file__).resolve().parents[1] / "docs" / "screenshots"
PATIENCE = 120.0


def wait_for(condition: Callable[[], bool]) -> None:
    """Lets the window work until `condition` holds."""
    end = time.monotonic() + PATIENCE
    while not condition():
        if time.monotonic() > end:
            sys.exit("the window did not get ready in time")
        QTest.qWait(10)


def shoot(window: Window, name: str) -> None:
    """Writes one picture."""
    QTest.qWait(150)
    window.grab().save(str(FOLDER / f"{name}.png"))
    print(f"docs/screenshots/{name}.png")


def chart_place(window: Window, strip: int, x: float, y: float):
    """A place of a chart in the pixels of its widget."""
    plot = window.sheet.strips[strip].plot
    return plot.mapFromScene(plot.getPlotItem().vb.mapViewToScene(QPointF(x, y)))


def shoot_drawings(window: Window) -> None:
    """The table of a cell inside its bench, and what the checks find on a broken drawing."""
    desk = window.desk

    def at(bench: str, *trail: str) -> None:
        desk.show_bench(bench)
        wait_for(lambda: desk.point is not None and desk.point.snapshot.bench.key == bench)
        for block in trail:
            desk.enter(block)
        wait_for(lambda: not desk.checker.busy)
        window.drawing.fit()

    at("inv_x1_bench-edges")
    window.show_side("both")
    cell = desk.cell
    broken = replace(
        cell,
        parts=tuple(part.with_value("c", "10x") if part.name == "C1" else part for part in cell.parts),
        wires=cell.wires[2:],
        labels=(*cell.labels, Label("exit", (27, 0))),
    )
    desk.documents.exchange(cell, broken, "a broken drawing")
    wait_for(lambda: len(desk.findings) > 2)
    window.side.show_view("findings")
    shoot(window, "findings")
    desk.documents.undo.undo()
    window.side.show_view("charts")
    desk.show_bench("inv_x1-transfer")
    wait_for(lambda: desk.point is not None)


def shoot_devices(window: Window) -> None:
    """The device desk."""
    desk, view = window.desk, window.device_desk
    study = desk.study

    def studied(name: str) -> None:
        wait_for(lambda: study.answer is not None and study.answer.found.subject.name == name)

    study.study_device(desk.project.kit, "n_rvt")
    studied("n_rvt")
    wait_for(lambda: "square law" in view.sized.text())
    shoot(window, "device")


def shoot_benches(window: Window) -> None:
    """Two runs, all conditions."""
    desk, results = window.desk, window.desk.results

    def run(bench: str) -> None:
        desk.show_bench(bench)
        wait_for(lambda: desk.point is not None and desk.point.snapshot.bench.key == bench)
        before = len(results.entries)
        desk.run()
        wait_for(lambda: len(results.entries) > before and not results.loading)

    def show(name: str, picture: str) -> None:
        window.side.show_view(name)
        shoot(window, picture)

    run("inv_x1-transfer")
    wider = desk.cell.part("M2").with_value("w", "4u")
    desk.change_part(wider, "w")
    before = len(results.entries)
    desk.run()
    wait_for(lambda: len(results.entries) > before)
    window.side.show_view("runs")
    log = window.side.view("runs")
    first = log.entries[1]
    results.show_ghost(first.path)
    wait_for(lambda: results.ghost is not None)
    QTest.mouseClick(log.buttons[first.path.name, "compare"], Qt.MouseButton.LeftButton)
    shoot(window, "runs")
    results.show_ghost(None)
    desk.documents.undo.undo()
    run("cnt_slicer_bench-levels")
    show("conditions", "conditions")
    window.side.show_view("charts")
    desk.show_bench("inv_x1-transfer")
    wait_for(lambda: desk.point is not None)


def shoot_waves(window: Window) -> None:
    """A Smith chart with circles and a target, a two-port over all conditions, warmth of stability, matching proposals."""
    desk, results, sheet = window.desk, window.desk.results, window.sheet

    def at(bench: str) -> None:
        desk.show_bench(bench)
        wait_for(lambda: desk.point is not None and desk.point.snapshot.bench.key == bench)
        window.drawing.fit()

    at("lna_868_bench-figures")
    window.show_side("both")
    window.side.show_view("charts")
    before = len(results.entries)
    desk.run()
    wait_for(lambda: len(results.entries) > before and not results.loading)
    results.show_analysis("waves")
    sheet.circle_kinds.update({"stability", "gain", "noise"})
    results.move_cursor(868e6)
    sheet.held = True
    shoot(window, "smith")
    sheet.clear_cursor()
    results.show_analysis("wide")
    window.show_side("charts")
    window.show_side("both")
    desk.matching.begin_with(Wanted(complex(20, -60), complex(50), 2.4e9))
    wait_for(lambda: not desk.matching.busy)
    shoot(window, "matching")
    at("driver_868_bench-stability")
    window.side.show_view("loops")
    desk.warmth.ask(desk.snapshot)
    wait_for(lambda: not desk.warmth.busy)
    desk.enter("X1")
    QTest.qWait(200)
    window.drawing.fit()
    shoot(window, "loops")
    window.side.show_view("charts")


def shoot_periodic(window: Window) -> None:
    """A power sweep with its construction and the load line, the noise of an oscillator and one of its devices, the die."""
    desk, results = window.desk, window.desk.results

    def run(bench: str, analysis: str, side: str) -> None:
        desk.show_bench(bench)
        wait_for(lambda: desk.point is not None and desk.point.snapshot.bench.key == bench)
        window.show_side(side)
        window.side.show_view("charts")
        before = len(results.entries)
        desk.run()
        wait_for(lambda: len(results.entries) > before and not results.loading)
        results.show_analysis(analysis)
        QTest.qWait(200)
        window.drawing.fit()

    run("pa_868_bench-power", "drive", "charts")
    shoot(window, "power-sweep")
    run("vco_868_bench-swing", "noise", "both")
    desk.enter("X1")
    QTest.qWait(200)
    window.drawing.fit()
    shoot(window, "phase-noise")
    desk.select("part", "M1")
    QTest.qWait(300)
    shoot(window, "oscillator")
    desk.select("", "")
    window.side.show_view("sizes")
    desk.sizes.ask(desk.snapshot)
    wait_for(lambda: desk.sizes.found is not None)
    view = window.side.view("sizes")
    view.prove(desk.sizes.found.ranked(view.reading)[1])
    wait_for(lambda: bool(desk.sizes.proofs))
    shoot(window, "sizes")
    run("pa_868_bench-hot", "drive", "both")
    desk.enter("X1")
    QTest.qWait(200)
    window.drawing.fit()
    shoot(window, "hot-and-cold")
    window.side.show_view("die")
    wait_for(lambda: desk.die.found is not None and not desk.die.busy)
    desk.select("part", "M2")
    desk.trials.ask(desk.snapshot, "x1.m2", "pitch")
    wait_for(lambda: desk.trials.found is not None)
    shoot(window, "die")
    desk.select("", "")
    window.side.show_view("charts")


def shoot_housing(window: Window) -> None:
    """A bench in four surroundings, the box with the field of a resonance and an absorber that is tried, coupled lines."""
    desk, results = window.desk, window.desk.results
    desk.show_bench("driver_868_housed-stability")
    wait_for(lambda: desk.point is not None and desk.point.snapshot.bench.key == "driver_868_housed-stability")
    window.show_side("both")
    before = len(results.entries)
    desk.run()
    wait_for(lambda: len(results.entries) > before and not results.loading)
    results.show_analysis("second")
    QTest.qWait(200)
    window.drawing.fit()
    shoot(window, "surroundings")
    window.side.show_view("housing")
    view = window.side.view("housing")
    wait_for(lambda: desk.housings.resonances.found is not None)
    view.choose(2)
    desk.housings.trials.ask(desk.housings.housing, "absorber", "2m, 5m")
    wait_for(lambda: desk.housings.trials.found is not None and not desk.housings.trials.busy)
    QTest.qWait(300)
    shoot(window, "housing")
    window.side.show_view("interconnect")
    wait_for(lambda: desk.interconnects.found is not None)
    shoot(window, "interconnect")
    window.side.show_view("charts")


def shoot_spread(window: Window) -> None:
    """Samples: a limit that was dragged and the warm part, a failure of five sigma."""
    desk, spread = window.desk, window.desk.spread

    def at(bench: str) -> None:
        desk.show_bench(bench)
        wait_for(lambda: desk.point is not None and desk.point.snapshot.bench.key == bench)
        window.drawing.fit()
        window.show_side("both")
        window.side.show_view("spread")

    def rest() -> None:
        wait_for(lambda: not spread.busy and not desk.live.busy)

    at("lna_868_board-yield")
    view = window.side.view("spread")
    view.draw.click()
    wait_for(lambda: not desk.results.runner.busy and spread.samples is not None)
    rest()
    spread.move_limit("return loss out", 18.5, float("inf"))
    rest()
    shoot(window, "spread")
    spread.take_back("return loss out")
    rest()
    at("slicer_bench-mismatch")
    view.show_page("rare")
    rare = view.page["rare"]
    for button in (rare.look, rare.find):
        button.click()
        wait_for(lambda: not spread.rare.busy)
    shoot(window, "rare")
    view.show_page("yield")
    window.side.show_view("charts")
    desk.show_bench("inv_x1-transfer")
    wait_for(lambda: desk.point is not None)


def main() -> None:
    """Every view, one after the other."""
    application = QApplication([])
    FOLDER.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as scratch:
        project = Path(scratch) / "kilnwatch"
        shutil.copytree(DEMO, project, ignore=shutil.ignore_patterns("runs"))
        window = open_window(project)
        window.show()
        desk = window.desk
        wait_for(lambda: desk.point is not None)
        desk.run()
        wait_for(lambda: desk.results.dataset is not None)
        QTest.qWait(300)
        QTest.mouseMove(window.sheet.strips[0].plot.viewport(), chart_place(window, 0, 0.63, 0.9))
        shoot(window, "desk")
        window.sheet.clear_cursor()
        desk.select("part", "M2")
        field = window.details.lines["w"]
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, "3.2u")
        QTest.keyClick(field, Qt.Key.Key_Return)
        wait_for(lambda: desk.point.snapshot.cell.part("M2").values["w"] == "3.2u")
        desk.run()
        wait_for(lambda: len(desk.results.entries) == 2)
        window.open_search()
        window.search.field.setText("m")
        window.search.put_away()
        desk.select("", "")
        shoot_drawings(window)
        shoot_benches(window)
        shoot_waves(window)
        shoot_periodic(window)
        shoot_housing(window)
        shoot_spread(window)
        shoot_devices(window)
        window.leave()
    application.quit()


if __name__ == "__main__":
    main()
