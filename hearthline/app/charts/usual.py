"""What is shown of an analysis of which nothing is watched yet: nothing has to be set up to see a two-port."""

from __future__ import annotations

import numpy as np

from hearthline.core.bench.bench import Bench, Watch
from hearthline.core.data.dataset import Dataset

_TWO_PORT = (
    ("S(1,1)", "S11", "smith", "reflections"), ("S(2,2)", "S22", "smith", "reflections"),
    ("db10(twoport.gain_transducer)", "gain", "", "gain"), ("db10(twoport.gain_max)", "most gain", "", "gain"),
    ("-db20(S(1,1))", "return loss in", "", "return losses"), ("-db20(S(2,2))", "return loss out", "", "return losses"),
    ("db10(twoport.noise_factor)", "noise figure", "", "noise"), ("db10(twoport.noise_factor_min)", "least", "", "noise"),
    ("min(twoport.k, 5)", "K", "", "stability"), ("twoport.mu", "mu", "", "stability"),
    ("twoport.mu_prime", "mu'", "", "stability"),
)  # fmt: skip
_LOOK = (
    ("look.gamma_into", "into the part", "smith", "seen"), ("look.gamma_back", "back into the net", "smith", "seen"),
    ("look.loop", "loop gain", "dB", ""), ("look.loop", "its phase", "phase", ""),
)  # fmt: skip
_STABILITY = (("stability.ndf", "determinant", "polar", ""), ("stability.turns", "unstable poles", "", ""))


def usual_watches(bench: Bench, analysis: str, data: Dataset | None) -> tuple[Watch, ...]:
    """For an analysis without a watch of its own, by its kind and its ports."""
    if data is None or any(bench.analysis_of(one) == analysis for one in bench.watches):
        return ()
    if data.kind == "scattering":
        rows = _TWO_PORT if "twoport.k" in data.curves else _reflections(data)
    elif data.kind in ("balance", "oscillation"):
        rows = _repeating(data)
    elif data.kind == "phase_noise":
        rows = _phase_noise(data)
    else:
        rows = {"look": _LOOK, "stability": _STABILITY}.get(data.kind, ())
    return tuple(Watch(formula, title, "", analysis, strip, scale) for formula, title, scale, strip in rows)


def _reflections(data: Dataset) -> tuple[tuple[str, str, str, str], ...]:
    """Of any number of ports: their reflections, and what gets from one to another."""
    count = 0
    while f"S({count + 1},{count + 1})" in data.curves:
        count += 1
    own = tuple((f"S({k},{k})", f"S{k}{k}", "smith", "reflections") for k in range(1, count + 1))
    others = [(a, b) for a in range(1, count + 1) for b in range(1, count + 1) if a != b][:12]
    return own + tuple((f"S({a},{b})", f"S{a}{b}", "dB", "through") for a, b in others)


def _repeating(data: Dataset) -> tuple[tuple[str, str, str, str], ...]:
    """What goes into the last port, or the net that swings most; and the courses of the three that do."""
    nets = [label for label in data.curves if label.startswith("V(") and "." not in label]
    swings = {label: float(np.nanmax(np.abs(data.curves[label][:, 1:]), initial=0.0)) for label in nets}
    loudest = sorted((label for label in nets if swings[label] > 0), key=lambda label: -swings[label])
    ports = [label for label in data.curves if label.endswith(".delivered")]
    shown = [(f"dbm({ports[-1]})", f"into {ports[-1].partition('.')[0]}", "", "")] if ports else []
    shown += [(label, label, "dB", "") for label in loudest[:1] if not ports]
    if data.wave is not None:
        shown += [(f"in_time({label})", label, "", "course") for label in loudest[:3]]
        if any(label.startswith("shift(") for label in data.wave.curves):
            shown += [
                (f"in_time(shift({label[2:-1]}))", f"shift of {label[2:-1]}", "", "shift") for label in loudest[:2]
            ]
    return tuple(shown)


def _phase_noise(data: Dataset) -> tuple[tuple[str, str, str, str], ...]:
    """All, and the five largest contributors."""
    names = list(data.curves)[:6]
    return tuple((f"db10({name})", "all" if k == 0 else name, "", "noise") for k, name in enumerate(names))
