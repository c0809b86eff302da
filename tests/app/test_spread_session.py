"""Samples on the desk: limits dragged after the run, the part that costs the yield, one sample everywhere, a mend that is
proposed, proved and taken over."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton

from hearthline.app.spread.parts_page import PartCard
from hearthline.app.spread.view import SpreadView
from hearthline.core.formats.run_file import read_run
from tests.approximation import approx

KEY = "lna_868_board-yield"


@pytest.fixture
def sampled(opened, folder):
    """The amplifier on its board, with 300 samples drawn by a press."""
    person = opened(folder)
    desk = person.desk
    desk.show_bench(KEY)
    person.wait(lambda: desk.point is not None and desk.point.snapshot.bench.key == KEY)
    person.window.side.show_view("spread")
    view = spread_view(person)
    person.type_into(view.count, "300")
    person.key_in = lambda field: QTest.keyClick(field, Qt.Key.Key_Return)
    person.key_in(view.count)
    person.click(view.draw)
    person.wait(lambda: not desk.results.runner.busy and desk.spread.samples is not None)
    person.wait(lambda: not desk.spread.busy)
    return person


def spread_view(person) -> SpreadView:
    return person.window.side.view("spread")


def strip_of(person, name: str):
    return next(one for one in spread_view(person).page["yield"].strips if one.name == name)


def press(person, inside, text: str) -> None:
    """A button by its word."""
    person.click(next(one for one in inside.findChildren(QPushButton) if one.text() == text and not one.isHidden()))


def drag(widget, begin: float, end: float) -> None:
    """Along the middle of a widget, with the left button held."""
    y = widget.height() // 2
    QTest.mousePress(widget, Qt.MouseButton.LeftButton, pos=QPoint(round(begin), y))
    for share in (0.3, 0.7, 1.0):
        QTest.mouseMove(widget, QPoint(round(begin + share * (end - begin)), y))
    QTest.mouseRelease(widget, Qt.MouseButton.LeftButton, pos=QPoint(round(end), y))


def test_limits_are_dragged_left_out_and_kept(sampled):
    """Nothing is simulated: the yields are counted from the samples under the limits that are shown."""
    desk, spread = sampled.desk, sampled.desk.spread
    strip, values = strip_of(sampled, "return loss out"), spread.samples.reading("return loss out")
    assert spread.judged.of("return loss out").passed == int((values >= 20).sum())
    assert "of 300 samples" in spread_view(sampled).note.text()
    drag(strip.plot, strip.plot.place_of("low"), strip.plot.place_of("low") - 60)
    low = spread.moved["return loss out"][0]
    assert low < 20
    assert spread.judged.of("return loss out").passed == int((values >= low).sum())
    assert "limits as dragged" in spread_view(sampled).note.text()
    assert desk.bench.specifications[-1].low == "20"
    total = spread.judged.total.passed
    sampled.click(strip.counts)
    assert "return loss out" not in spread.judged.passing
    assert spread.judged.total.passed >= total
    sampled.click(strip.counts)
    press(sampled, strip, "keep")
    assert float(desk.bench.specifications[-1].low) == approx(low)
    assert not spread.moved
    desk.documents.undo.undo()
    assert desk.bench.specifications[-1].low == "20"
    drag(strip.plot, strip.plot.place_of("high"), strip.plot.place_of("high") - 80)  # there was no upper limit
    assert np.isfinite(spread.moved["return loss out"][1])
    press(sampled, strip, "back")
    assert spread.judged.of("return loss out").passed == int((values >= 20).sum())


def test_the_hearth_line_says_sigmas_and_yields(sampled):
    """Of each specification that was judged over samples."""
    spread = sampled.desk.spread
    segment = next(one for one in sampled.window.hearth.segments if one.reading == "return loss out")
    values = spread.samples.reading("return loss out")
    sigmas = (values.mean() - 20) / values.std()
    assert f"{sigmas:.1f} σ" in segment._context().replace("−", "-")
    assert f"{100 * (values >= 20).mean():.1f} % pass" in segment._context()


def test_the_guilty_resistor_stands_first_and_glows(sampled):
    """On the list, in the drawing, and against the reading that fails."""
    view = spread_view(sampled)
    sampled.click(view.words["parts"])
    cards = view.page["parts"].findChildren(PartCard)
    assert cards[0].part == "ro"
    ranking = sampled.desk.spread.analysis.ranking
    assert ranking[0].guilty
    assert {"x1.m1", "x1.m2", "ra"} <= {one.part for one in ranking if not one.guilty}
    assert ("RO", "", 1.0) in sampled.window.drawing.look().warm
    sampled.click(cards[0])
    assert sampled.desk.selection.name == "RO"
    bars = cards[0].bins.bins
    assert bars[0].share < bars[-1].share
    assert sum(one.count for one in bars) == 300
    sampled.click(view.words["scatter"])
    assert view.page["scatter"].names == ["return loss out", "ro.r"]


def test_one_sample_on_the_whole_desk(sampled):
    """Operating point, readings and curves are those of the sample; a chip leads back."""
    desk, spread, view = sampled.desk, sampled.desk.spread, spread_view(sampled)
    nominal = desk.results.readings["return loss out"][0]
    current = float(desk.point.dataset.curve("I(vdd)")[0, 0])
    sampled.click(view.words["scatter"])
    cloud = view.page["scatter"].cloud
    worst = int(np.argmin(spread.samples.reading("return loss out")))
    px, py = cloud._places()
    sampled.click(cloud, QPoint(round(px[worst]), round(py[worst])))
    assert spread.one.number == worst
    sampled.wait(lambda: not spread.busy and not desk.live.busy and not desk.results.loading)
    assert desk.results.readings["return loss out"][0] == approx(
        spread.samples.reading("return loss out")[worst], rel=1e-6
    )
    assert float(desk.point.dataset.curve("I(vdd)")[0, 0]) != approx(current, rel=1e-4)
    assert "fails return loss out" in view.page["scatter"].note.text()
    press(sampled, sampled.window.topline, f"sample {worst + 1} ✕")
    sampled.wait(lambda: not desk.live.busy and not desk.results.loading)
    assert desk.results.readings["return loss out"][0] == approx(nominal)
    assert float(desk.point.dataset.curve("I(vdd)")[0, 0]) == approx(current, rel=1e-6)


def test_a_mend_is_tried_proposed_proved_and_taken_over(sampled):
    """A slider foretells; a proposal reaches the wanted yield; the proof runs the same random numbers and is in the logbook; the
    drawing takes the change as one step."""
    desk, spread, view = sampled.desk, sampled.desk.spread, spread_view(sampled)
    sampled.click(view.words["mend"])
    page = view.page["mend"]
    assert page.variable == "ro.r"
    before = spread.judged.total.share
    page.nominal.setFocus()
    for _ in range(20):
        QTest.keyClick(page.nominal, Qt.Key.Key_Right)
    assert float(page.words[0].text().split()[0]) > 120
    foretold = float(page.foretold.text().split()[1])
    assert foretold > 100 * before + 10
    press(sampled, page, "as it is")
    assert page.nominal.value() == 0
    sampled.type_into(page.wanted, "97 %")
    sampled.key_in(page.wanted)
    sampled.click(page.ask)
    sampled.wait(lambda: not spread.mends.busy)
    first = spread.mends.proposals[0]
    assert first.prediction.share >= 0.97
    assert first.changes[0].variable == "ro.r"
    entries = len(desk.results.entries)
    press(sampled, page.proposals.itemAt(0).widget(), "prove")
    sampled.wait(lambda: not spread.mends.busy)
    proof = spread.mends.proof.comparison
    assert proof.new.share > before + 0.2
    assert proof.low > 0.15
    assert proof.mended - proof.broken == proof.new.passed - proof.old.passed
    assert len(desk.results.entries) == entries + 1
    kept = next(one for one in desk.results.entries if one.proof)
    assert "RO r 120 ±10% →" in kept.record.note
    np.testing.assert_array_equal(
        read_run(kept.path).run.samples.reading("gain"), spread.mends.proof.samples.reading("gain")
    )
    press(sampled, page, "take over")
    assert desk.cell.part("RO").values["r"] != "120 ±10%"
    assert "±" in desk.cell.part("RO").values["r"]
    sampled.wait(lambda: desk.results.stale)
    desk.documents.undo.undo()
    assert desk.cell.part("RO").values["r"] == "120 ±10%"


def test_more_samples_go_on_and_a_stored_run_has_them(sampled):
    """The first ones stay; the bench shown again has its samples."""
    desk, view = sampled.desk, spread_view(sampled)
    first = desk.spread.samples
    sampled.type_into(view.count, "400")
    sampled.key_in(view.count)
    assert view.draw.text() == "Draw more"
    sampled.click(view.draw)
    sampled.wait(lambda: not desk.results.runner.busy and desk.spread.samples.count == 400)
    np.testing.assert_array_equal(desk.spread.samples.reading("gain")[:300], first.reading("gain"))
    sampled.wait(lambda: desk.results.shown.path is not None)
    desk.show_bench("inv_x1-transfer")
    assert desk.spread.samples is None
    desk.show_bench(KEY)
    sampled.wait(lambda: desk.spread.samples is not None and desk.spread.samples.count == 400)


def test_tolerances_are_typed_where_the_value_is(sampled):
    """The field says how far the value reaches, and refuses nonsense in place; a device of the kit says what its area makes."""
    desk = sampled.desk
    desk.select("part", "RO")
    sampled.wait(lambda: sampled.window.details.page is not None)
    field = sampled.window.details.page.lines["r"]
    said = []
    field.understood.connect(lambda text, wrong: said.append((text, wrong)))
    sampled.type_into(field, "150 ±2%")
    assert said[-1] == ("= 150 Ω, 147 Ω to 153 Ω", False)
    sampled.type_into(field, "150 ±200%")
    assert said[-1][1]
    assert "below 100 %" in said[-1][0]
    assert desk.cell.part("RO").values["r"] == "150"  # the last that could be
    desk.enter("X1")
    desk.select("part", "M1")
    sampled.wait(lambda: "differs by σ of dvth" in sampled.window.details.page.differs.text())
