"""The device compiler's figures: generated kernels against the same equations by hand, and how long compiling takes."""

from __future__ import annotations

import math
import tempfile
from pathlib import Path

import numpy as np

from benchmarks.row import Row, paired, timed
from hearthline.core.compiled.codes import INT, F, I, N
from hearthline.core.compiled.jit import entry, inner
from hearthline.core.models.calling import call_kernel
from hearthline.core.models.library import FOLDER, library_module
from hearthline.core.models.module import Module
from hearthline.core.models.signature import CURRENT, SCALE, SETTINGS, Kernel
from hearthline.core.models.veriloga import compiler, kept

INSTANCES = 200
TIMES = 300


def rows() -> list[Row]:
    """All of them."""
    return [_diode(), _mos(), _compile(), _from_cache()]


@entry(INT, INT, I, N, F)
def _many(address, times, span, nodes, w):
    """Calls a kernel again and again at unknowns that change a little."""
    limited = 0
    for k in range(times):
        w[SETTINGS + 1 + k % 50] += 1e-6
        limited += call_kernel(address, CURRENT, span.ctypes.data, nodes.ctypes.data, w.ctypes.data)
    return limited


class _Setting:
    """Many instances of one model at random voltages, for the generated kernel and for one by hand."""

    def __init__(
        self, module: Module, given: dict[str, float], by_hand: Kernel, values: list[float], low: float, high: float
    ):
        module = module.collapsed or module  # the floors have no series resistances
        self.module, self.by_hand = module, by_hand
        p, g = np.zeros((1, len(module.parameters))), np.zeros((1, len(module.parameters)))
        for name, value in given.items():
            p[0, module.index[name]], g[0, module.index[name]] = value, 1.0
        out, notes = np.zeros((1, module.values)), np.zeros((1, module.notes))
        module.setup(p, g, np.ones((1, module.ports)), np.array([[300.15, 1.0]]), out, notes)
        width = len(module.terminals)
        self.ours = self._arrays(out[0], width, len(module.conductance), module.memory, low, high)
        ports = module.ports
        self.floor = self._arrays(np.array(values), ports, ports * ports, 4, low, high)

    @staticmethod
    def _arrays(values, width, slopes, memory, low, high):
        rng = np.random.default_rng(1)
        unknowns = 1 + rng.integers(0, 50, (INSTANCES, width))
        nodes = (SETTINGS + unknowns).astype(np.int32).ravel()
        sizes = [51, INSTANCES * len(values), INSTANCES * memory, INSTANCES * width, INSTANCES * slopes]
        starts = SETTINGS + np.concatenate([[0], np.cumsum(sizes)])
        w = np.zeros(starts[-1] + 10)
        w[SCALE] = 1.0  # and w[2] = 0: limiting, as in every iteration but the first
        w[SETTINGS + 1 : SETTINGS + 51] = rng.uniform(low, high, 50)
        w[starts[1] : starts[2]] = np.tile(values, INSTANCES)
        span = np.array([INSTANCES, 0, starts[1], starts[2], starts[3], starts[4], 0, 0, 0, 0])
        return span, nodes, w

    def row(self, figure: str) -> Row:
        """One evaluation of one instance, ours over the floor."""

        def run(address, arrays):
            return lambda: _many(address, TIMES, *arrays)

        ours, floor = paired(run(self.module.address, self.ours), run(self.by_hand.address, self.floor), 15)
        count = TIMES * INSTANCES
        return Row(figure, ours / count, floor / count, 1.3, "the same equations by hand in Numba")


@inner
def _limited(v, before, vt, critical):
    """Nagel's junction limit."""
    if v <= critical or abs(v - before) <= 2.0 * vt:
        return v
    if before <= 0.0:
        return vt * math.log(v / vt)
    step = 1.0 + (v - before) / vt
    return before + vt * math.log(step) if step > 0.0 else critical


@inner
def _limited_gate(v, before, threshold):
    """Nagel's gate limit."""
    if before < threshold:
        if v <= before:
            return max(v, before - (2.0 * abs(before - threshold) + 2.0))
        if v <= threshold + 0.5:
            return min(v, before + abs(before - threshold) + 1.0)
        return threshold + 0.5
    if before < threshold + 3.5:
        return max(v, threshold - 0.5) if v <= before else min(v, threshold + 4.0)
    if v > before:
        return min(v, before + 2.0 * abs(before - threshold) + 2.0)
    if v >= threshold + 3.5:
        return max(v, before - (abs(before - threshold) + 1.0))
    return max(v, threshold + 2.0)


@inner
def _limited_channel(v, before):
    """Nagel's channel limit, for either sign."""
    sign = 1.0 if before >= 0.0 else -1.0
    v, before = sign * v, sign * before
    if before >= 3.5:
        if v > before:
            return sign * min(v, 3.0 * before + 2.0)
        return sign * (max(v, 2.0) if v < 3.5 else v)
    return sign * (min(v, 4.0) if v > before else max(v, -0.5))


@inner
def _junction(u):
    """exp(u) - 1 and its slope."""
    if abs(u) < 0.5:
        y = math.expm1(u)
        return y, y + 1.0
    e = math.exp(min(u, 80.0)) * (max(u, 80.0) - 79.0)
    return e - 1.0, e


def _diode_by_hand(wants, span, nodes, w):
    limited = 0
    for k in range(span[0]):
        n, p, m, f, s = span[1] + 2 * k, span[2] + 3 * k, span[3] + k, span[4] + 2 * k, span[5] + 4 * k
        isat, nvt, critical = w[p], w[p + 1], w[p + 2]
        x = w[nodes[n]] - w[nodes[n + 1]]
        v = _limited(x, w[m], nvt, critical) if w[2] == 0.0 else x
        w[m] = v
        limited += abs(v - x) > 1e-12 + 1e-9 * abs(v)
        y, slope = _junction(v / nvt)
        i, g = isat * y + w[0] * v, isat * slope / nvt + w[0]
        i += g * (x - v)
        w[f], w[f + 1] = i, -i
        w[s], w[s + 1], w[s + 2], w[s + 3] = g, -g, -g, g
    return limited


def _diode() -> Row:
    values = [1e-14, 0.0258649, 0.0258649 * math.log(0.0258649 / (math.sqrt(2) * 1e-14))]
    setting = _Setting(library_module("diode"), {"is": 1e-14}, Kernel(_diode_by_hand), values, -0.4, 0.4)
    return setting.row("generated kernel, diode, one evaluation")


def mos_by_hand(wants, span, nodes, w):
    """Shichman and Hodges with body effect, junctions, the three limits, all slopes by hand; 4 terminals."""
    limited = 0
    for k in range(span[0]):
        n, p, m, f, s = span[1] + 4 * k, span[2] + 8 * k, span[3] + 4 * k, span[4] + 4 * k, span[5] + 16 * k
        beta, vto, gamma, phi, modulation = w[p], w[p + 1], w[p + 2], w[p + 3], w[p + 4]
        isat, vt, critical = w[p + 5], w[p + 6], w[p + 7]
        vgs_x, vds_x = w[nodes[n + 1]] - w[nodes[n + 2]], w[nodes[n]] - w[nodes[n + 2]]
        vbs_x = w[nodes[n + 3]] - w[nodes[n + 2]]
        vgs, vds, vbs = vgs_x, vds_x, vbs_x
        if w[2] == 0.0:
            vgs = _limited_gate(vgs_x, w[m + 1], vto)
            vds = _limited_channel(vgs - vgs_x + vds_x, w[m + 2])
            vbs = _limited(vbs_x, w[m], vt, critical)
        w[m], w[m + 1], w[m + 2] = vbs, vgs, vds
        moved = abs(vgs - vgs_x) + abs(vds - vds_x) + abs(vbs - vbs_x)
        limited += moved > 1e-12 + 1e-9 * (abs(vgs) + abs(vds) + abs(vbs))
        forward = vds >= 0.0
        vgx, vdx, vbx = (vgs, vds, vbs) if forward else (vgs - vds, -vds, vbs - vds)
        root = math.sqrt(phi)
        bent = math.sqrt(phi - vbx) if vbx <= 0.0 else max(root - vbx / (2.0 * root), 0.0)
        back = gamma / (2.0 * bent) if vbx <= 0.0 else (gamma / (2.0 * root) if bent > 0.0 else 0.0)
        vov = vgx - vto - gamma * (bent - root)
        factor = beta * (1.0 + modulation * vdx)
        if vov <= 0.0:
            ids, gm, gds = 0.0, 0.0, 0.0
        elif vov <= vdx:
            ids, gm, gds = 0.5 * factor * vov * vov, factor * vov, 0.5 * beta * modulation * vov * vov
        else:
            area = vdx * (vov - 0.5 * vdx)
            ids, gm, gds = factor * area, factor * vdx, factor * (vov - vdx) + beta * modulation * area
        gmb = gm * back
        ys, gs = _junction(vbs / vt)
        yd, gd = _junction((vbs - vds) / vt)
        ibs, ibd = isat * ys + w[0] * vbs, isat * yd + w[0] * (vbs - vds)
        gs, gd = isat * gs / vt + w[0], isat * gd / vt + w[0]
        if forward:
            current, dg, dd, db = ids, gm, gds, gmb
        else:
            current, dg, dd, db = -ids, -gm, gds + gm + gmb, -gmb
        extend, drawn = vbs_x - vbs, vds_x - vds
        drain = current - ibd + (db - gd) * extend + dg * (vgs_x - vgs) + (dd + gd) * drawn
        bulk = ibs + ibd + (gs + gd) * extend - gd * drawn
        w[f], w[f + 2], w[f + 3] = drain, -drain - bulk, bulk
        dd, db = dd + gd, db - gd
        w[s], w[s + 1], w[s + 2], w[s + 3] = dd, dg, -(dd + dg + db), db
        w[s + 12], w[s + 14], w[s + 15] = -gd, gd - (gs + gd), gs + gd
        w[s + 8], w[s + 9], w[s + 11] = gd - dd, -dg, -(db + gs + gd)
        w[s + 10] = dd + dg + db - gd + gs + gd
    return limited


def _mos() -> Row:
    given = {"vto": 0.4, "kp": 2e-4, "gamma": 0.4, "phi": 0.7, "lambda": 0.1, "w": 1e-5, "l": 1e-6, "is": 1e-14}
    critical = 0.0258649 * math.log(0.0258649 / (math.sqrt(2) * 1e-14))
    values = [2e-3, 0.4, 0.4, 0.7, 0.1, 1e-14, 0.0258649, critical]
    setting = _Setting(library_module("mos1"), given, Kernel(mos_by_hand), values, -0.4, 0.8)
    return setting.row("generated kernel, MOS level 1, one evaluation")


def _fresh(text: str, folder: str) -> Module:
    """A text compiled with nothing in the cache; included files stand in the library's folder."""
    (module,) = compiler.compile_text(text, "fresh.va", FOLDER)
    _ = module.address
    return module


def _compile() -> Row:
    """The charge-based MOS: about 200 lines with its includes. The first parser of a process is made beforehand."""
    text = (FOLDER / "mos.va").read_text()
    with tempfile.TemporaryDirectory() as folder:
        own, kept.cache_folder = kept.cache_folder, lambda: Path(folder)
        try:
            _fresh(text.replace("module mos(", "module warm("), folder)
            seconds = timed(lambda: _fresh(text.replace("module mos(", "module fresh("), folder))
        finally:
            kept.cache_folder = own
    return Row("compiling the charge-based MOS, first time", seconds, 10.0, 1.0, "10 s")


def _from_cache() -> Row:
    path = FOLDER / "mos.va"
    seconds = min(timed(lambda: compiler.compile_file(path)) for _ in range(5))
    return Row("the same from the cache", seconds, 0.05, 1.0, "50 ms")
