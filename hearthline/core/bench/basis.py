"""What the curves of an analysis depend on, as one short text: two of the same text may be shown as one run, or completed. The
version of Hearthline is part of it, since its equations may change."""

from __future__ import annotations

from collections.abc import Iterator
from hashlib import sha256

from hearthline.core.analyses.kind import NUMBER, SWEPT
from hearthline.core.analyses.line import Analysis
from hearthline.core.analyses.plan import Plan
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.bench.surroundings import fingerprint
from hearthline.core.circuit.netlist import Element, Scope
from hearthline.core.version import VERSION


def basis_of(snapshot: Snapshot, analysis: Analysis) -> str:
    """Of circuit, stimuli, models and settings; not of the conditions, of what stands where on the drawing, or of the value of
    a source that is swept. Raises HearthlineError where there is no circuit."""
    return basis_of_plan(snapshot, Plan(snapshot.circuit, analysis))


def basis_of_plan(snapshot: Snapshot, plan: Plan) -> str:
    """The same, of an analysis that is ready."""
    swept = {plan.settings.get(one.word, "").lower() for one in plan.kind.settings if one.kind == SWEPT}
    digest = sha256(f"{VERSION} {snapshot.kit.fingerprint}".encode())
    digest.update(plan.outer.tobytes())
    digest.update(repr(snapshot.bench.heat).encode())
    digest.update(fingerprint(snapshot.bench.surroundings, snapshot.kit.networks).encode())
    for one in snapshot.bench.statistical:
        digest.update(f"{one.name} {sorted(one.numbers().items())}".encode())
    if snapshot.written:  # the parameters of a deck are no conditions
        for name, text in sorted(snapshot.written.files.items()):
            digest.update(f"{name} {text}".encode())
    for line in (*_settings(plan), *_elements(plan.circuit.netlist.elements, swept)):
        digest.update(line.encode())
    return digest.hexdigest()[:20]


def _settings(plan: Plan) -> Iterator[str]:
    yield plan.analysis.kind
    for one in plan.kind.settings:
        if one.word in plan.settings:
            value = plan.settings[one.word] if one.kind != NUMBER else repr(plan.number(one.word))
            yield f"{one.word} {value}"
    for name in plan.kind.needs(plan):
        yield from _settings(plan.beside(name))


def _elements(elements: tuple[Element, ...], swept: set[str]) -> Iterator[str]:
    scopes: dict[int, str] = {}
    for one in elements:
        values = [
            (k, v.plain) for k, v in one.values.items() if v is not None and not (k == "dc" and one.name in swept)
        ]
        wave = (one.wave.kind, [number.text for number in one.wave.numbers]) if one.wave else ()
        initial = one.initial.text if one.initial is not None else ""
        own = f"{one.name} {one.kind} {one.nets} {values} {one.model} {one.control} {wave} {initial}"
        own += f" {one.device.fingerprint}" if one.device else ""
        yield f"{own} {_scope(one.scope, scopes)}"


def _scope(scope: Scope | None, known: dict[int, str]) -> str:
    """The definitions that hold for an element; those of the outermost are conditions."""
    if scope is None or scope.parent is None:
        return ""
    if id(scope) not in known:
        texts = [
            (name, v.plain) for table in (scope.defined, scope.given) for name, v in table.items() if v is not None
        ]
        known[id(scope)] = f"{texts} {_scope(scope.parent, known)}"
    return known[id(scope)]
