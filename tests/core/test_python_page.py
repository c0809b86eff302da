"""The page about Python shows what works: its example is run as it stands."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np

PAGE = Path(__file__).parents[2] / "docs" / "python.md"


def test_the_example_runs(tmp_path, monkeypatch, capsys):
    """And its numbers agree with each other: gain of AC, of the sweep's slope, and of the small-signal values."""
    monkeypatch.chdir(tmp_path)
    (example,) = re.findall(r"```python\n(.*?)```", PAGE.read_text(encoding="utf-8"), re.DOTALL)
    found: dict = {}
    exec(compile(example, "python.md", "exec"), found)
    assert "(6, 1)" in capsys.readouterr().out
    volts = found["sweep"].curve("V(out)")
    slope = (volts[:, 51] - volts[:, 49]) / 0.02
    np.testing.assert_allclose(found["gain"][:, 0], np.abs(slope), rtol=5e-3)
    assert len(found["run"].tracks) == 6
    assert not found["run"].failed_lanes
    late = found["time"] > 1e-6
    swing = np.ptp(found["volts"][late, 2]) / 2e-3
    assert abs(swing / found["gain"][-1, 30] - 1) < 5e-3  # at 1 MHz
