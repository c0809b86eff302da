"""What the curves of an analysis depend on, as one short text: two of the same text may be shown as one run, or completed."""

from __future__ import annotations

from collections.abc import Iterator
from hashlib import sha256

from hearthline.core.bench.analysis import SETTINGS, Analysis
from hearthline.core.bench.plan import Plan
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.circuit.netlist import Element, Scope


def basis_of(snapshot: Snapshot, analysis: Analysis) -> str:
    """Of circuit, stimuli, models and settings; not of the conditions, of what stands where on the drawing, or of the value of
    a source that is swept. Raises HearthlineError where there is no circuit."""
    plan = Plan(snapshot, analysis, ())
    swept = {plan.settings.get("of", "").lower(), plan.settings.get("within", "").lower()}
    digest = sha256(snapshot.kit.fingerprint.encode())
    for line in (*_settings(plan), *_elements(plan.around.elements, swept)):
        digest.update(line.encode())
    return digest.hexdigest()[:20]


def _settings(plan: Plan) -> Iterator[str]:
    yield plan.analysis.kind
    for one in SETTINGS[plan.analysis.kind]:
        if one.word in plan.settings:
            value = plan.settings[one.word] if one.kind != "number" else repr(plan.number(one.word))
            yield f"{one.word} {value}"


def _elements(elements: tuple[Element, ...], swept: set[str]) -> Iterator[str]:
    scopes: dict[int, str] = {}
    for one in elements:
        values = [(k, v.text) for k, v in one.values.items() if v is not None and not (k == "dc" and one.name in swept)]
        wave = (one.wave.kind, [number.text for number in one.wave.numbers]) if one.wave else ()
        yield f"{one.name} {one.kind} {one.nets} {values} {one.model} {one.control} {wave} {_scope(one.scope, scopes)}"


def _scope(scope: Scope | None, known: dict[int, str]) -> str:
    """The definitions that hold for an element; those of the outermost are conditions."""
    if scope is None or scope.parent is None:
        return ""
    if id(scope) not in known:
        texts = [(name, v.text) for table in (scope.defined, scope.given) for name, v in table.items() if v is not None]
        known[id(scope)] = f"{texts} {_scope(scope.parent, known)}"
    return known[id(scope)]
