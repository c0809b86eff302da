"""Deliberate errors, one at a time: each number and each coefficient of the device library and of the demo kit off by 10 %,
and a list of formulas of engine and readings wrong; the tests that concern it must fail. What survives is listed.

    scripts/mutants.py [--sample N] [--only WORD] [--seed N]

Every error is tried in a process of its own that has everything imported already.
"""

from __future__ import annotations

import argparse
import os
import random
import re
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
LIBRARY, KIT = ROOT / "hearthline/core/models/library", ROOT / "hearthline/kits/lm130"
NUMBER = r"(?<![\w.`])(?:\d+\.\d*|\.\d+|\d+)(?:[eE][+-]?\d+)?(?:meg|[fpnumkKMG])?(?![\w.])"
LAWS, MOS, DEVICES = (
    "tests/outside/test_published_laws.py",
    "tests/outside/test_mos_whole.py",
    "tests/outside/test_devices.py",
)
CHARGES, LEVEL1 = "tests/outside/test_mos_charges.py", "tests/outside/test_mos_level1.py"
READOUTS, DEFAULTS, FIGURES = (
    "tests/outside/test_readouts.py",
    "tests/outside/test_defaults.py",
    "tests/outside/test_kit_figures.py",
)
SMALL, READINGS = "tests/outside/test_small_signal.py", "tests/outside/test_readings.py"
VARIABLES, DRAWS = "hearthline/core/spread/variables.py", "hearthline/core/spread/draws.py"
READ = (READOUTS, DEFAULTS)
TESTS = {
    "silicon": (LAWS, MOS), "junction": (LAWS,), "diode": (LAWS, "tests/outside/test_diode.py", *READ),
    "bipolar": (LAWS, DEVICES, MOS, *READ), "jfet": (LAWS, DEVICES, *READ), "mos1": (LAWS, LEVEL1, *READ),
    "mesfet": (LAWS, DEVICES, MOS, *READ), "hemt": (LAWS, DEVICES, MOS, *READ), "nanotube": (LAWS, DEVICES, *READ),
    "varactor": (LAWS, *READ), "resistor": (LAWS, DEFAULTS), "capacitor": (LAWS, *READ),
    "memristor": ("tests/outside/test_memristor.py", *READ), "switch": (LAWS, "tests/outside/test_waveforms.py", DEFAULTS),
    "mos": (MOS, CHARGES, *READ),
    "mos_rf": ("tests/outside/test_mos_rf.py", DEFAULTS),
}  # fmt: skip
"""By the file's name without its ending; those of the folder `mos` are `mos`."""
WORDS = {
    "mos1": "mos1 or mos_level",
    "silicon": "",
    "junction": "",
    "mos": "",
    "mos_rf": "",
}
"""Which tests of these files; else those that speak of the module."""
LIMITING, GUARD = (
    "where limiting of Newton's steps begins; no result depends on it",
    "keeps a quotient or logarithm finite",
)
STEP = "a step of an iteration that arrives all the same"
REASONS = {
    "tn), 0.2)": GUARD, "critical": LIMITING, "CRITICAL": LIMITING, "pnjlim": LIMITING, "fetlim": LIMITING,
    "phix = max(0.1,": GUARD, "v * v + 1e-12": "rounds |v| within a microvolt", "1e-60": GUARD, "1e-30": GUARD, "1e-21": GUARD,
    "xcjc) > 0)": "asks whether there is a charge, which else is 0",
    "define JUNCTION(u)": "both forms are the same where one passes into the other",
    ", 3.0 * ut)": "the least that a transistor is given for the edge of saturation",
    "1e29": "stands for no breakdown", "1e30": "stands for infinity", "2.0 * isat) / isat": GUARD,
    "$fatal": "refuses sizes that cannot be",
    "x = s * (1.0 - ln1p(s)": STEP, "max(v, -300.0)": GUARD,
    "q2 = 2.0 * (1.0 + x)": STEP, "x = x * (1.0 + r": STEP, "s = max(z, 0.0)": STEP, "r = z - ln(x)": STEP,
    "f = 1.0 + x": STEP,
}  # fmt: skip
"""Why an error in a line that holds such a word need not be found."""

FORMULAS = [
    ("hearthline/core/engine/noise_sources.py", "4.0 * BOLTZMANN", "4.4 * BOLTZMANN", SMALL),
    ("hearthline/core/engine/small_signal.py", "phasors[lane] * unit", "1.1 * phasors[lane] * unit", SMALL),
    (VARIABLES, "math.sqrt(2.0)", "math.sqrt(1.0)", "tests/outside/test_monte_carlo.py"),
    (VARIABLES, "else self.sigma * normal", "else 1.1 * self.sigma * normal", FIGURES),
    (DRAWS, "@ self.root.T", "", FIGURES),
    (DRAWS, "if way == LATIN:", "if way == SOBOL:", FIGURES),
    ("hearthline/core/data/timing.py", "0.1", "0.12", READINGS),
    ("hearthline/core/data/timing.py", "0.9", "0.85", READINGS),
    ("hearthline/core/data/response.py", "180.0", "170.0", READINGS),
    ("hearthline/core/data/spectrum.py", "lines[:, 1:] *= 2.0", "lines[:, 1:] *= 2.2", READINGS),
    ("hearthline/core/data/spectrum.py", "return 2.0 * np.abs", "return 2.2 * np.abs", READINGS),
    ("hearthline/core/data/spectrum.py", "found[:, 1:] ** 2", "found[:, 2:] ** 2", READINGS),
    ("hearthline/core/elements/lossy_line.py", '1/({leak})"', '2/({leak})"', "tests/outside/test_noise_of_two_ports.py"),
    ("hearthline/core/device/sizing.py", "** 2", "** 1.9", "tests/core/test_device_sheets.py"),
    ("hearthline/core/constants.py", "1.380649e-23", "1.5e-23", "tests/outside/test_constants.py"),
]  # fmt: skip
"""File, what stands there once or more (the first is exchanged), what takes its place, and the tests."""


@dataclass(frozen=True)
class Mutant:
    """A file with one piece exchanged."""

    path: Path
    start: int
    old: str
    new: str
    tests: tuple[str, ...]
    words: str = ""
    apart: bool = False

    @property
    def text(self) -> str:
        """The file with the error in it."""
        whole = self.path.read_text(encoding="utf-8")
        return whole[: self.start] + self.new + whole[self.start + len(self.old) :]

    @property
    def line(self) -> str:
        """The line that it stands in, whole statements too."""
        whole = self.path.read_text(encoding="utf-8")
        begin = whole.rfind("\n", 0, self.start) + 1
        end = whole.find("\n", self.start)
        return whole[begin : end if end >= 0 else None].strip()

    def __str__(self) -> str:
        number = self.path.read_text(encoding="utf-8").count("\n", 0, self.start) + 1
        change = f"{self.old.strip()[:60]} -> {self.new.strip()[:60]}"
        return f"{self.path.relative_to(ROOT)}:{number}: {change} in: {self.line[:90]}"

    @property
    def reason(self) -> str:
        """Why it need not be found, or nothing."""
        if re.fullmatch(r"1e-\d+", self.old) and f", {self.old})" in self.line and "max(" in self.line:
            return GUARD
        whole = self.path.read_text(encoding="utf-8")
        if self.old == "2" and whole[: self.start].endswith("ends="):
            return "a whole number, to which it is rounded"
        if self.old == "1" and "floor(" in self.line and whole[: self.start].endswith("+ "):
            return "the same for every whole number of fingers"
        return next((why for word, why in REASONS.items() if word in self.line), "")


def _value(number: str) -> float:
    return float(re.match(r"[\d.]+(?:[eE][+-]?\d+)?", number)[0])


def off(number: str) -> str:
    """The number 10 % larger, its scale kept."""
    scale = re.fullmatch(r"[\d.]+(?:[eE][+-]?\d+)?(.*)", number)[1]
    return f"{1.1 * _value(number):.10g}{scale}"


def library() -> Iterator[Mutant]:
    """Numbers of the equations, defaults of parameters, and each value that is assigned or contributed."""
    for path in sorted([*LIBRARY.rglob("*.va"), *LIBRARY.rglob("*.vams")]):
        name = "mos" if path.parent.name == "mos" else path.stem
        text = _blanked(r'//[^\n]*|"[^"\n]*"', path.read_text(encoding="utf-8"))
        body = _blanked(r"parameter [^;]*;|\$limit\([^;]*;|`include[^\n]*|for \([^)]*\)", text)
        places = [*_defaults(text), *_numbers(body), *_right_sides(body)]
        yield from (Mutant(path, start, old, new, TESTS[name], WORDS.get(name, name)) for start, old, new in places)


def _blanked(pattern: str, text: str) -> str:
    return re.sub(pattern, lambda match: " " * len(match[0]), text)


def _defaults(text: str) -> Iterator[tuple[int, str, str]]:
    for match in re.finditer(r"parameter real \w+ = ([^;]*?)(?= from|;| exclude)", text):
        for number in re.finditer(NUMBER, match[1]):
            if _value(number[0]) != 0:
                yield match.start(1) + number.start(), number[0], off(number[0])


def _numbers(body: str) -> Iterator[tuple[int, str, str]]:
    for match in re.finditer(NUMBER, body):
        before = body[body.rfind("\n", 0, match.start()) + 1 : match.start()]
        told_apart = re.search(r"[<>]=?\s*$|==\s*$", before) and match[0] in ("0", "1")
        if _value(match[0]) != 0 and "`ifdef" not in before and "`define SILICON" not in before and not told_apart:
            yield match.start(), match[0], off(match[0])


def _right_sides(body: str) -> Iterator[tuple[int, str, str]]:
    for match in re.finditer(r"(?:<\+|(?<![<>=!])=(?!=))\s*((?:[^;={}]|[<>=!]=)+?);", body):
        if match[1].strip() not in ("0.0", "0"):
            yield match.start(1), match[1], f"1.1 * ({match[1]})"


def kit() -> Iterator[Mutant]:
    """Every number of the cards and of the corners."""
    begins = rf"^\.(?:model|subckt) (\w+)[^\n]*?(?=\()|^\.subckt (\w+)|(?<==)\{{?{NUMBER}|(?<=[{{*/(+]){NUMBER}"
    for path in sorted(KIT.glob("*.inc")):
        text = re.sub(r"^\*[^\n]*", lambda m: " " * len(m[0]), path.read_text(encoding="utf-8"), flags=re.MULTILINE)
        model = ""
        for match in re.finditer(begins, text, re.MULTILINE):
            number = match[0].lstrip("{")
            if match[1] or match[2]:
                model = match[1] or match[2]
            elif model and not re.fullmatch(r"-?[01]", number):
                yield Mutant(path, match.end() - len(number), number, off(number), (FIGURES,), f"says and {model}")
    path = KIT / "lm130.lib"
    for line in re.finditer(r"^\.param [^\n]*", path.read_text(encoding="utf-8"), re.MULTILINE):
        for match in re.finditer(r"(?<==)(-?)([\d.]+[mn]?)", line[0]):
            if match[2] not in ("0", "1"):
                start = line.start() + match.start(2)
                yield Mutant(path, start, match[2], off(match[2]), (FIGURES,), "corners or says")


def formulas() -> Iterator[Mutant]:
    """The list above."""
    for name, old, new, tests in FORMULAS:
        path = ROOT / name
        start = path.read_text(encoding="utf-8").find(old)
        if start < 0:
            raise SystemExit(f"{name} holds no '{old}' any more; mend the list")
        yield Mutant(path, start, old, new, (tests,), "", True)


def survives(mutant: Mutant) -> bool:
    """Whether all tests pass with the error in place."""
    if mutant.apart:
        return _in_a_copy(mutant)
    child = os.fork()
    if child == 0:
        code = 3
        try:
            code = _in_this_process(mutant)
        finally:
            os._exit(code)
    return os.waitstatus_to_exitcode(os.waitpid(child, 0)[1]) == 0


def _in_this_process(mutant: Mutant) -> int:
    import pytest

    import hearthline.core.models.library as models
    import tests.outside.silicon as silicon
    from hearthline.core.formats import kit_folder
    from hearthline.core.models.veriloga import kept

    with tempfile.TemporaryDirectory() as folder, open(os.devnull, "w") as nowhere:
        os.dup2(nowhere.fileno(), 1)
        os.dup2(nowhere.fileno(), 2)
        if LIBRARY in mutant.path.parents:
            copy = Path(folder) / "library"
            shutil.copytree(LIBRARY, copy)
            (copy / mutant.path.relative_to(LIBRARY)).write_text(mutant.text, encoding="utf-8")
            models.FOLDER = copy
            cache = Path(folder) / "cache"
            shutil.copytree(kept.cache_folder(), cache)
            kept.cache_folder = lambda: cache
        else:
            copy = Path(folder) / "kits"
            shutil.copytree(KIT.parent, copy)
            (copy / mutant.path.relative_to(KIT.parent)).write_text(mutant.text, encoding="utf-8")
            kit_folder.INSTALLED = copy
            silicon.LIBRARY = copy / "lm130" / "lm130.lib"
            silicon.INSTALLED = copy
        words = ["-k", mutant.words] if mutant.words else []
        code = int(pytest.main([*mutant.tests, *words, "-x", "-q", "-p", "no:cacheprovider", "-p", "no:xdist"]))
        return 0 if code in (0, 5) else 1


def _in_a_copy(mutant: Mutant) -> bool:
    with tempfile.TemporaryDirectory() as folder:
        copy = Path(folder) / "tree"
        shutil.copytree(
            ROOT, copy, ignore=shutil.ignore_patterns(".git", ".venv", "build", ".hypothesis"), symlinks=True
        )
        (copy / mutant.path.relative_to(ROOT)).write_text(mutant.text, encoding="utf-8")
        command = [sys.executable, "-m", "pytest", *mutant.tests, "-x", "-q", "-p", "no:cacheprovider"]
        environment = {**os.environ, "PYTHONPATH": str(copy), "QT_QPA_PLATFORM": "offscreen"}
        return subprocess.run(command, cwd=copy, env=environment, capture_output=True).returncode == 0


def main() -> int:
    """Tries them; exit status 1 when more than 5 % survive without a reason."""
    parser = argparse.ArgumentParser(description=__doc__.split("\n")[0])
    parser.add_argument("--sample", type=int, default=0, help="so many of them, drawn at random but always the same")
    parser.add_argument("--only", default="", help="those whose file or line matches this pattern")
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    sys.path.insert(0, str(ROOT))
    os.chdir(ROOT)
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    everything = [m for m in (*library(), *kit(), *formulas()) if re.search(options.only, str(m))]
    if options.sample and options.sample < len(everything):
        everything = random.Random(options.seed).sample(everything, options.sample)
    import tests.outside.test_devices
    import tests.outside.test_kit_figures
    import tests.outside.test_mos_whole
    import tests.outside.test_published_laws  # noqa: F401

    begin, alive, excused = time.perf_counter(), [], []
    for mutant in everything:
        if survives(mutant):
            (excused if mutant.reason else alive).append(mutant)
            print(f"survives: {mutant}{f' ({mutant.reason})' if mutant.reason else ''}", flush=True)
    share, seconds = len(alive) / max(1, len(everything)), time.perf_counter() - begin
    print(f"{len(everything)} errors in {seconds:.0f} s: {len(alive)} survive without a reason", end=" ")
    print(f"({100 * share:.1f} %), {len(excused)} with one")
    return int(share > 0.05)


if __name__ == "__main__":
    sys.exit(main())
