"""Samples on the desk: limits dragged after the run, the part that costs the yield, one sample everywhere, a mend that is
proposed, proved and taken over."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton

from hearthline.app.panels.label import Label
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


@pytest.fixture
def at_bench(opened, folder):
    """The window at a bench, with its spread beside the drawing."""

    def go(key: str):
        person = opened(folder)
        person.desk.show_bench(key)
        person.wait(lambda: person.desk.point is not None and person.desk.point.snapshot.bench.key == key)
        person.window.side.show_view("spread")
        person.key_in = lambda field: QTest.keyClick(field, Qt.Key.Key_Return)
        return person, spread_view(person)

    return go


def drawn(person, view) -> None:
    person.click(view.draw)
    person.wait(lambda: not person.desk.results.runner.busy and person.desk.spread.samples is not None)
    person.wait(lambda: not person.desk.spread.busy)


def test_yields_over_conditions_and_who_fails_where(at_bench):
    """At each, the worst first; a click on the strip shows the sample."""
    person, view = at_bench("bias_core_bench-process")
    drawn(person, view)
    person.click(view.words["conditions"])
    page, spread = view.page["conditions"], person.desk.spread
    samples = spread.samples
    assert samples.conditions == 9
    rows = page.rows
    current = samples.values["current"]
    inside = (current >= 10e-6) & (current <= 33e-6)
    passed = (inside & (samples.values["supply current"] <= 100e-6)).sum(axis=0)
    assert [rows.found.yields[k].passed for k in rows.order] == sorted(passed)
    assert f"at all 9 conditions  {100 * spread.judged.total.share:.1f} %" in page.total.text()
    assert "150 °C 1.32" in page.worst.text()
    sample = int(rows.found.failing[0])
    person.click(rows, QPoint(rows.strip.left() + 2, rows.strip.top() + 4))
    assert spread.one.number == sample
    person.wait(lambda: not spread.busy)
    assert f"sample {sample + 1}" in spread.one.point.name
    QTest.mouseMove(rows, QPoint(rows.strip.left() + 3, rows.strip.top() + 5))
    assert f"sample {sample + 1} at 150 °C 1.32: " in rows.toolTip()
    person.click(view.words["yield"])
    strip = strip_of(person, "current")
    person.click(strip.counts)
    person.click(view.words["conditions"])
    assert rows.found.total.passed >= spread.judged.total.passed


def test_a_rare_failure_is_found_shown_and_a_corner_kept(at_bench):
    """At the failing point the slicer decides wrongly; the corner that is kept is a condition of the next run."""
    person, view = at_bench("slicer_bench-mismatch")
    desk, rare = person.desk, person.desk.spread.rare
    person.click(view.words["rare"])
    page = view.page["rare"]
    person.type_into(page.error, "25 %")
    person.key_in(page.error)
    person.click(page.look)
    assert page.look.text() == "Stop"
    person.wait(lambda: not rare.busy)
    tail = rare.failure.tail
    assert 4.8 < tail.sigma < 5.3
    assert "σ" in page.answer.itemAt(0).widget().findChildren(type(page.note))[0].text()
    right = desk.point.dataset.curve("V(out)")[0, 0]
    press(person, page, "show")
    person.wait(lambda: not desk.spread.busy and not desk.live.busy)
    assert abs(desk.point.dataset.curve("V(out)")[0, 0] - right) > 0.5
    desk.spread.one.back()
    person.type_into(page.sigma, "4")
    person.key_in(page.sigma)
    person.click(page.find)
    person.wait(lambda: not rare.busy)
    press(person, page, "as condition")
    assert desk.bench.statistical[0].name == "offset_high_4s"
    assert desk.bench.grid.picked[0].corner == "typ+offset_high_4s"
    found = float(rare.corners[0][2].reading("offset")[0])
    desk.run(names=("up",))
    person.wait(lambda: not desk.results.runner.busy and len(desk.results.conditions) == 2)
    person.wait(lambda: len(desk.results.readings.get("offset", [()])[0:1]) > 0)
    person.wait(lambda: not desk.results.loading)
    assert desk.results.numbers["offset"].values[1] == approx(found, rel=1e-3)
    person.window.side.show_view("bench")
    section = person.window.side.view("bench").samples
    row = section.rows["offset_high_4s"]
    row.removed.emit()
    assert not desk.bench.statistical
    assert not desk.bench.grid.picked
    desk.documents.undo.undo()
    assert desk.bench.statistical


def test_a_search_is_stopped_and_leaves_nothing(at_bench):
    """Half an answer is none."""
    person, view = at_bench("slicer_bench-mismatch")
    person.click(view.words["rare"])
    page = view.page["rare"]
    person.type_into(page.error, "1 %")
    person.key_in(page.error)
    person.type_into(page.most, "1000000")
    person.key_in(page.most)
    person.click(page.look)
    person.wait(lambda: person.desk.spread.rare.job.whole[0] > 0)
    person.click(page.look)
    person.wait(lambda: not person.desk.spread.rare.busy)
    assert person.desk.spread.rare.failure is None
    assert page.look.text() == "Look"


def test_samples_are_lines_of_the_bench(at_bench):
    """Settings, a tolerance of the bench's own, and a mistake under its field."""
    person, _ = at_bench("lna_868_board-yield")
    person.window.side.show_view("bench")
    section = person.window.side.view("bench").samples
    line = section.rows["way"].line
    person.type_into(line, "halton")
    assert "there are random, latin, sobol" in section.rows["way"].echo.text()
    person.type_into(line, "sobol")
    person.key_in(line)
    assert person.desk.bench.samples.way == "sobol"
    press(person, section, "tolerance")
    line = section.rows["tolerance 0"].line
    person.type_into(line, "ra ±2% sigma ±5%")
    person.key_in(line)
    one = person.desk.bench.tolerances[0]
    assert (one.part, one.of, one.within, one.sigma) == ("ra", "", "5%", "2%")
    press(person, section, "none")
    assert person.desk.bench.samples is None


def test_samples_that_are_lost_are_shown_one_by_one(at_bench):
    """With the reason. No sample of the demo is lost, so two are marked here."""
    person, view = at_bench("lna_868_board-yield")
    spread = person.desk.spread
    person.type_into(view.count, "50")
    person.key_in(view.count)
    drawn(person, view)
    assert view.lost.isHidden()
    spread.samples = replace(spread.samples, failures={4: "waves: no solution at net out", 9: "waves: another"})
    spread.samples_changed.emit()
    spread.judge()
    assert view.lost.text() == "2 lost"
    assert "2 without a solution fail" in view.note.text()
    assert spread.judged.total.passed <= 48
    person.click(view.lost)
    assert view.note.text() == "Sample 5 is shown: waves: no solution at net out"
    person.click(view.lost)
    assert view.note.text().startswith("Sample 10 is shown")
    person.wait(lambda: not spread.busy)


def test_very_many_samples_are_asked_about_first(at_bench):
    """With their number, size and time; too many are refused with what would be right."""
    person, view = at_bench("slicer_bench-mismatch")
    person.type_into(view.count, "5M")
    person.key_in(view.count)
    person.click(view.draw)
    person.wait(lambda: not person.desk.results.runner.busy)
    said = " ".join(one.text() for one in person.window.question.findChildren(Label))
    assert "5 000 000 samples, about" in said
    assert "B and" in said
    assert person.desk.spread.samples is None
    person.type_into(view.count, "100M")
    person.key_in(view.count)
    person.click(view.draw)
    person.wait(lambda: person.desk.message is not None)
    assert "at most 2 GB are kept; ask for fewer" in str(person.desk.message)
