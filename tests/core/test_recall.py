"""What is kept from one operating point to the next never changes the next one."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from hearthline.app.start import DEMO
from hearthline.core.bench.run import solve_point
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.engine.recall import Recall
from hearthline.core.formats.project_folder import read_project
from tests.examples import examples

PROJECT = read_project(DEMO)
EDITS = st.sampled_from(
    [
        ("ota_sense", "M6", "w", "30u"), ("ota_sense", "M6", "w", "40u"), ("ota_sense", "M1", "l", "600n"),
        ("ota_sense", "M2", "m", "2"), ("ota_sense", "R1", "r", "rz*2"), ("ota_sense_bench", "C1", "c", "2p"),
        ("ota_sense_bench", "I1", "dc", "12u"), ("ideal_amp", "R1", "r", "rout"), ("ota_sense", "M7", "nf", "1"),
    ]
)  # fmt: skip
CONDITIONS = st.sampled_from([("typ", "27", "1.2"), ("ss", "-40", "1.08"), ("ff", "150", "1.32")])


@examples(12)
@given(st.lists(st.tuples(EDITS, CONDITIONS), min_size=1, max_size=4))
def test_a_chain_of_edits_gives_what_each_gives_alone(steps):
    """Sizes, expressions, corners, temperatures and supplies, in any order."""
    bench, cells = PROJECT.benches["ota_sense_bench-loop"], dict(PROJECT.cells)
    recall, before = Recall(), None
    for (cell, part, name, text), (corner, celsius, supply) in steps:
        cells[cell] = cells[cell].with_part(cells[cell].part(part).with_value(name, text))
        point = replace(bench.point, corner=corner, temperature=celsius, parameters={"vdd": supply})
        snapshot = Snapshot(replace(bench, point=point), dict(cells), PROJECT.kit)
        kept = solve_point(snapshot, before, recall)
        alone = solve_point(snapshot)
        assert kept.curves.keys() == alone.curves.keys()
        for label in ("V(out)", "V(ten)", "x1.m6.id", "x1.m2.gm"):
            np.testing.assert_allclose(kept.curve(label), alone.curve(label), rtol=1e-6, err_msg=label)
        before = kept


def test_voltages_of_a_net_that_is_gone_are_no_mistake():
    """A part was deleted: its inner nets were in the point before."""
    bench = PROJECT.benches["inv_x1_bench-edges"]
    first = Snapshot(bench, PROJECT.cells, PROJECT.kit)
    before = solve_point(first)
    cell = PROJECT.cells["inv_x1_bench"]
    smaller = replace(cell, parts=tuple(part for part in cell.parts if part.name != "X2"))
    after = solve_point(Snapshot(bench, {**PROJECT.cells, cell.name: smaller}, PROJECT.kit), before, Recall())
    assert "V(next)" not in after.curves
    np.testing.assert_allclose(after.curve("V(out)"), before.curve("V(out)"), rtol=1e-6)
