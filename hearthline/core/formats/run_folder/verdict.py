"""The verdict of a run as JSON, and as the report that CI servers show."""

from __future__ import annotations

import json
import math
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from xml.etree import ElementTree

import numpy as np

from hearthline.core.bench.bench import Bench, Specification
from hearthline.core.bench.passing import ALL, yield_rows
from hearthline.core.bench.readings import Numbers, Run, describe_lane
from hearthline.core.bench.verdict import State, judge, limits, share_of, target_of
from hearthline.core.data.dataset import Dataset
from hearthline.core.formats.atomic import write_atomically
from hearthline.core.formats.run_folder.conditions import at_lane
from hearthline.core.spread.yields import Yield

HOLDS, CLOSE, FAILS, INCOMPLETE = "holds", "close", "fails", "incomplete"
_STATES = {
    State.HOLDS: HOLDS, State.CLOSE: CLOSE, State.FAILS: FAILS, State.AIMED: HOLDS, State.UNKNOWN: INCOMPLETE,
}  # fmt: skip


@dataclass(frozen=True)
class Judgement:
    """What is said of a run: its state, each specification as plain values, the seconds it took, why conditions failed, and the
    yield of all specifications together where there are samples."""

    bench: str
    state: str
    specifications: tuple[Mapping[str, object], ...]
    seconds: float
    failed: tuple[str, ...] = ()
    share: Mapping[str, object] | None = None

    def write(self, folder: Path) -> None:
        """`verdict.json` and `verdict.xml`. Raises FileError."""
        whole = {"yield": self.share} if self.share is not None else {}
        plain = {"state": self.state, "specifications": list(self.specifications), **whole, "seconds": self.seconds}
        write_atomically(folder / "verdict.json", json.dumps(plain, indent=1, ensure_ascii=False) + "\n")
        write_atomically(folder / "verdict.xml", self.report())

    def report(self) -> str:
        """As a JUnit report: one test case a specification."""
        states = [str(one["state"]) for one in self.specifications]
        suite = ElementTree.Element(
            "testsuite", name=self.bench, tests=str(len(states)), failures=str(states.count(FAILS)),
            errors=str(states.count(INCOMPLETE)), skipped="0", time=f"{self.seconds:.3f}",
        )  # fmt: skip
        for one in self.specifications:
            case = ElementTree.SubElement(suite, "testcase", classname=self.bench, name=str(one["reading"]), time="0")
            if one["state"] in (FAILS, INCOMPLETE):
                kind = "failure" if one["state"] == FAILS else "error"
                ElementTree.SubElement(case, kind, message=_sentence(one)).text = json.dumps(one, ensure_ascii=False)
        if self.failed:
            ElementTree.SubElement(suite, "system-err").text = "\n".join(self.failed)
        root = ElementTree.Element("testsuites")
        root.append(suite)
        ElementTree.indent(root)
        return '<?xml version="1.0" encoding="UTF-8"?>\n' + ElementTree.tostring(root, encoding="unicode") + "\n"


def _sentence(one: Mapping[str, object]) -> str:
    def said(value: object) -> str:
        return "none" if value is None else f"{value:.6g}"

    at = one["at"]
    where = ", ".join(f"{name} {value}" for name, value in at.items()) if isinstance(at, Mapping) else ""
    span = f"{said(one['low'])} to {said(one['high'])}"
    return (
        f"{one['reading']} is {said(one['worst'])} {one['unit']} and should be {span}{f' at {where}' if where else ''}"
    )


def judged(bench: Bench, run: Run, numbers: Mapping[str, Numbers]) -> Judgement:
    """The verdict of a run; a specification that only lacks what did not converge is incomplete."""
    failed = run.failed()
    yields = {row.reading: row.share for row in yield_rows(bench, run.samples)} if run.samples is not None else {}
    specifications = tuple(
        _with_yield(_said(bench, run, one, numbers[one.reading]), one, yields.get(one.reading))
        for one in bench.specifications
    )
    states = {one["state"] for one in specifications}
    whole = INCOMPLETE if failed or INCOMPLETE in states else FAILS if FAILS in states else HOLDS
    at = run.failed_at()
    reasons = tuple(f"{describe_lane(run.results[at[k][0]], at[k][1])}: {text}" for k, text in sorted(failed.items()))
    share = _plain_yield(yields[ALL]) if ALL in yields else None
    return Judgement(bench.key, whole, specifications, run.seconds, reasons, share)


def _with_yield(said: dict[str, object], spec: Specification, share: Yield | None) -> dict[str, object]:
    """With the yield, which decides where one is wanted."""
    if share is None:
        return said
    found = {**said, "yield": _plain_yield(share)}
    if share.share < share_of(spec) and found["state"] != INCOMPLETE:
        found["state"] = FAILS
    return found


def _plain_yield(share: Yield) -> dict[str, object]:
    return {"passed": share.passed, "count": share.count, "low": share.low, "high": share.high}


def _said(bench: Bench, run: Run, spec: Specification, numbers: Numbers) -> dict[str, object]:
    reading = next(one for one in bench.readings if one.name == spec.reading)
    name = bench.analysis_of(reading)
    data, verdict = run.results[name], judge(spec, numbers.unit, numbers.values)
    low, high = limits(spec, numbers.unit)
    state = _STATES[verdict.state]
    if verdict.missing and _only_unsolved(data, numbers, verdict.margin):
        state = INCOMPLETE
    return {
        "reading": spec.reading,
        "low": _plain(low),
        "high": _plain(high),
        "target": _plain(target_of(spec, numbers.unit)),
        "worst": _plain(verdict.worst),
        "unit": numbers.unit,
        "at": at_lane(bench, name, data, verdict.lane) if verdict.lane >= 0 else {},
        "margin": _plain(verdict.margin),
        "state": state,
    }


def _only_unsolved(data: Dataset, numbers: Numbers, margin: float) -> bool:
    """Whether every value that is missing belongs to a lane without a solution, and those that are there hold."""
    missing = np.isnan(numbers.values)
    return not (margin < 0) and len(missing) == data.lanes and not data.complete[missing].any()


def _plain(value: float) -> float | None:
    return float(value) if math.isfinite(value) else None
