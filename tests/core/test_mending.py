"""What a mend changes: devices that are meant to be alike together, and only what is guilty."""

from __future__ import annotations

from dataclasses import replace

import pytest

from hearthline.app.start import DEMO
from hearthline.core.bench.mending import edits_of, group_of, groups_of, mended
from hearthline.core.bench.passing import all_pass, judged_limits, passing
from hearthline.core.bench.sampled import run_samples, sample_plan
from hearthline.core.formats.bench_source import read_benches
from hearthline.core.spread.mend import Foreteller, proposals
from hearthline.core.spread.paired import paired
from hearthline.core.spread.ranking import ranking
from hearthline.core.spread.variables import MISMATCH


@pytest.fixture(scope="module")
def sampled():
    """The amplifier's offset over 600 samples."""
    source = read_benches(DEMO, ["ota_sense_bench-offset"])[0].with_samples("600", None)
    return source.snapshot, run_samples(source.sample_plan())


def test_a_pair_grows_together_and_the_yield_with_it(sampled):
    """Offset goes with one over the root of the area (Pelgrom): what is proposed for 99 % is proved over the same numbers."""
    snapshot, samples = sampled
    together = all_pass(samples, passing(snapshot.bench, samples))
    ranked = ranking(samples, together)
    groups = groups_of(snapshot, samples.variables, ranked)
    assert set(groups[0]) == {f"x1.{name}.{what}" for name in ("m1", "m2") for what in ("dvth", "dbeta")}
    assert len(groups) == len(set(groups))
    teller = Foreteller(samples, judged_limits(snapshot.bench, samples))
    first = proposals(teller, 0.99, groups)[0]
    variables = {one.name: one for one in samples.variables}
    edits = edits_of(snapshot, variables, first.changes)
    assert [(one.part, one.value) for one in edits] == [("M1", "w"), ("M1", "l"), ("M2", "w"), ("M2", "l")]
    assert len({one.new for one in edits if one.value == "w"}) == 1
    new = run_samples(sample_plan(mended(snapshot, variables, first.changes)))
    proof = paired(together, all_pass(new, passing(snapshot.bench, new)))
    assert proof.low > 0
    assert first.prediction.low <= proof.new.high
    assert proof.new.low <= first.prediction.high
    spread = first.changes[0].spread
    before, after = samples.reading("offset").std(), new.reading("offset").std()
    own = [one for one in samples.variables if one.kind == MISMATCH and one.part in ("x1.m3", "x1.m4")]
    assert spread < after / before < 1.0  # the mirror keeps its part
    assert own


def test_a_value_in_a_block_is_one_in_every_copy(sampled):
    """A change of a cell's part is typed once, and moves all that it stands for; one of a deck is its own."""
    snapshot, samples = sampled
    cells = {**snapshot.cells}
    top = cells["ota_sense_bench"]
    twice = replace(next(part for part in top.parts if part.name == "X1"), name="X9", at=(400, 0))
    cells["ota_sense_bench"] = replace(top, parts=(*top.parts, twice))
    more = [replace(one, name=one.name.replace("x1.", "x9."), part=one.part.replace("x1.", "x9."))
            for one in samples.variables if one.part.startswith("x1.")]  # fmt: skip
    group = group_of(replace(snapshot, cells=cells), [*samples.variables, *more], "x1.m1.dvth")
    assert {"x1.m1.dvth", "x1.m2.dvth", "x9.m1.dvth", "x9.m2.dvth"} <= set(group)
    assert group_of(snapshot, samples.variables, "process.dvn") == ("process.dvn",)
