"""Circuits for the benchmarks, as decks; and the same equations by hand where a floor needs them."""

from __future__ import annotations

from pathlib import Path
from tempfile import TemporaryDirectory

from hearthline.core.engine.lanes import Lanes
from hearthline.core.engine.system import System, lower
from hearthline.core.formats.deck.flatten import flatten
from hearthline.core.formats.deck.reader import read

CARDS = ".model n nmos vto=0.4 kp=200u lambda=0.1 is=1e-20\n.model p pmos vto=-0.4 kp=80u lambda=0.1 is=1e-20\n"
STAGES, FARADS = 11, 10e-15


def system_of(text: str, lanes: Lanes | None = None) -> System:
    """A deck's text, lowered."""
    with TemporaryDirectory() as folder:
        path = Path(folder) / "bench.cir"
        path.write_text("bench\n" + text)
        return lower(*flatten(read(path, "bench.cir")), lanes or Lanes())


def ring() -> str:
    """Eleven inverters of square-law transistors with a capacitor each, begun off balance."""
    lines = ["vdd vdd 0 1.2\n", CARDS]
    for k in range(STAGES):
        out, before = f"n{k}", f"n{(k - 1) % STAGES}"
        lines.append(
            f"mn{k} {out} {before} 0 0 n w=1u l=0.2u\nmp{k} {out} {before} vdd vdd p w=2u l=0.2u\nc{k} {out} 0 {FARADS}\n"
        )
    start = " ".join(f"v(n{k})={1.2 * (k % 2) if k < STAGES - 1 else 0.6}" for k in range(STAGES))
    return "".join(lines) + f".ic {start}\n"


def mesh(side: int, transistors: int) -> str:
    """A grid of resistors with a capacitor at every node, driven at one corner, with transistors hanging on it."""
    lines = ["v1 in 0 pulse(0 1 0 10p 10p 1n 2n)\nrin in g_0_0 10\n", CARDS]
    for i in range(side):
        for j in range(side):
            if i + 1 < side:
                lines.append(f"rx{i}_{j} g_{i}_{j} g_{i + 1}_{j} 100\n")
            if j + 1 < side:
                lines.append(f"ry{i}_{j} g_{i}_{j} g_{i}_{j + 1} 100\n")
            lines.append(f"c{i}_{j} g_{i}_{j} 0 1f\n")
    for k in range(transistors):
        i, j = (k * 7) % side, (k * 13) % side
        lines.append(f"m{k} g_{i}_{j} g_{j}_{i} 0 0 n w=1u l=0.2u\n")
    lines.append(f"rl g_{side - 1}_{side - 1} 0 10k\n")
    return "".join(lines)


def ladder(nets: int) -> str:
    """Resistors in a row with capacitors and inductors to ground."""
    lines = ["v1 n0 0 ac 1\n"]
    for k in range(1, nets):
        lines.append(f"r{k} n{k - 1} n{k} 50\nc{k} n{k} 0 1p\nrg{k} n{k} 0 10k\n")
    return "".join(lines)


def amplifier() -> str:
    """Twenty square-law transistors: five stages of a differential pair with a mirror, each driving the next."""
    lines = ["vdd vdd 0 1.2\nvb b 0 0.55\nvp p0 0 0.6\nvn m0 0 0.6\n", CARDS]
    for k in range(4):
        lines.append(
            f"mt{k} t{k} b 0 0 n w=4u l=0.5u\nma{k} x{k} p{k} t{k} 0 n w=8u l=0.5u\nmb{k} p{k + 1} m{k} t{k} 0 n w=8u l=0.5u\n"
            f"mc{k} x{k} x{k} vdd vdd p w=8u l=0.5u\nmd{k} p{k + 1} x{k} vdd vdd p w=8u l=0.5u\n"
            f"rf{k} p{k + 1} m{k + 1} 1k\nrg{k} m{k + 1} 0 100k\n"
        )
    return "".join(lines)
