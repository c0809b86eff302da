"""What is different between two runs, in words: `M3.w 4u → 5.2u; temperature 150 added`. From the tables that their files
hold, so that runs of any age can be compared."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np

LISTS = {
    "analyses": "line",
    "watches": "formula",
    "readings": "formula",
    "specifications": "",
    "stimuli": "",
    "blocks": "file",
    "tolerances": "",
    "statistical": "",
    "surroundings": "files",
}


def changes(before: Mapping | None, after: Mapping) -> list[str]:
    """Words for each difference. Both are `{"bench": ..., "cells": ...}`, with `kit`, `fingerprint` and the `files` of a deck
    where they are known."""
    if before is None:
        return ["first run"]
    words = [*_cells(before, after), *_bench(before["bench"], after["bench"])]
    texts = [one.get("files", {}) for one in (before, after)]
    edited = [name for name in {**texts[0], **texts[1]} if texts[0].get(name) != texts[1].get(name)]
    if edited:
        return [*words, *(f"{name} edited" for name in edited)]
    if before.get("kit") != after.get("kit"):
        words.append(f"kit {before.get('kit')} → {after.get('kit')}")
    elif before.get("fingerprint") != after.get("fingerprint"):
        words.append("models changed")
    return words


def _cells(before: Mapping, after: Mapping) -> Iterator[str]:
    names = _reached(before) | _reached(after)
    several = len(names) > 1
    for name in [one for one in {**before["cells"], **after["cells"]} if one in names]:
        old, new = before["cells"].get(name), after["cells"].get(name)
        if old is None or new is None:
            yield f"cell {name} {'added' if old is None else 'gone'}"
            continue
        yield from _cell(f"{name}/" if several and name != after["bench"].get("cell", "") else "", name, old, new)


def _reached(tables: Mapping) -> set[str]:
    """The cell of the bench and all blocks in it."""
    todo, seen = [tables["bench"].get("cell", "")], set()
    while todo:
        name = todo.pop()
        if name in tables["cells"] and name not in seen:
            seen.add(name)
            todo += [part["device"] for part in tables["cells"][name].get("parts", [])]
    return seen


def _cell(prefix: str, name: str, old: Mapping, new: Mapping) -> Iterator[str]:
    a, b = ({part["name"]: part for part in one.get("parts", [])} for one in (old, new))
    yield from (f"{prefix}{part} added" for part in b if part not in a)
    yield from (f"{prefix}{part} gone" for part in a if part not in b)
    for part in (part for part in b if part in a):
        if a[part]["device"] != b[part]["device"]:
            yield f"{prefix}{part} {a[part]['device']} → {b[part]['device']}"
        yield from _values(f"{prefix}{part}.", a[part].get("values", {}), b[part].get("values", {}))
    yield from _values(prefix, old.get("parameters", {}), new.get("parameters", {}))
    if any(old.get(what) != new.get(what) for what in ("wires", "labels", "pins")):
        yield f"{name} redrawn"


def _values(prefix: str, old: Mapping, new: Mapping) -> Iterator[str]:
    for key in dict.fromkeys([*old, *new]):
        if old.get(key) != new.get(key):
            yield f"{prefix}{key} {_short(old.get(key, 'default'))} → {_short(new.get(key, 'default'))}"


def _bench(old: Mapping, new: Mapping) -> Iterator[str]:
    yield from _axis("corner", old["grid"].get("corners", []), new["grid"].get("corners", []))
    yield from _axis("temperature", old["grid"].get("temperatures", []), new["grid"].get("temperatures", []))
    a, b = old["grid"].get("parameters", {}), new["grid"].get("parameters", {})
    for name in dict.fromkeys([*a, *b]):
        yield from _axis(name, a.get(name, []), b.get(name, []))
    if old["grid"].get("how") != new["grid"].get("how"):
        yield f"conditions {old['grid'].get('how', 'crossed')} → {new['grid'].get('how', 'crossed')}"
    if old["grid"].get("picked", []) != new["grid"].get("picked", []):
        yield "picked conditions"
    for key, telling in LISTS.items():
        yield from _named(key, telling, old.get(key, []), new.get(key, []))
    yield from _axis("surroundings", old["grid"].get("surroundings", []), new["grid"].get("surroundings", []))
    yield from _samples(old.get("samples"), new.get("samples"))
    yield from _values("", old["point"].get("parameters", {}), new["point"].get("parameters", {}))
    a, b = (one["point"].get("surroundings", "the first") for one in (old, new))
    if a != b:
        yield f"surroundings {a} → {b}"


def _samples(old: Mapping | None, new: Mapping | None) -> Iterator[str]:
    """How samples are drawn."""
    if old is None or new is None:
        if old is not new:
            yield "samples left out" if new is None else f"samples added: {new.get('count', '')}"
        return
    for key in dict.fromkeys([*old, *new]):
        if old.get(key) != new.get(key):
            yield f"samples {key} {_short(old.get(key, 'as usual'))} → {_short(new.get(key, 'as usual'))}"


def _axis(name: str, old: list, new: list) -> Iterator[str]:
    """Values of an axis that came or went."""
    if old and not new:
        yield f"{name} left out"
    elif new and not old:
        yield f"{name} added: {_short(', '.join(new))}"
    else:
        came, went = [one for one in new if one not in old], [one for one in old if one not in new]
        if len(came) == len(went) == 1:
            yield f"{name} {went[0]} → {came[0]}"
        else:
            yield from (f"{name} {one} added" for one in came)
            yield from (f"{name} {one} left out" for one in went)


def _named(kind: str, telling: str, old: list, new: list) -> Iterator[str]:
    def name_of(item: Mapping) -> str:
        own = item.get("name") or item.get("reading") or item.get("title") or item.get("formula", "")
        return own or ".".join(item[key] for key in ("part", "of") if item.get(key))

    one = {"analyses": "", "watches": "watch ", "readings": "reading ", "specifications": "limit of ", "stimuli": "",
           "blocks": "block ", "tolerances": "tolerance of ", "statistical": "statistical corner ",
           "surroundings": "surroundings "}[kind]  # fmt: skip
    a, b = ({name_of(item): item for item in items} for items in (old, new))
    yield from (f"{one}{name} added" for name in b if name not in a)
    yield from (f"{one}{name} gone" for name in a if name not in b)
    for name in (name for name in b if name in a and a[name] != b[name]):
        keys = [key for key in dict.fromkeys([*a[name], *b[name]]) if a[name].get(key) != b[name].get(key)]
        for key in keys:
            label = name if key == telling else f"{name}.{key}" if kind == "stimuli" else f"{name} {key}"
            yield f"{one}{label} {_short(a[name].get(key, 'none'))} → {_short(b[name].get(key, 'none'))}"


def _short(value: object) -> str:
    text = str(value)
    return text if len(text) <= 40 else text[:39] + "…"


@dataclass(frozen=True)
class Beside:
    """One reading of two runs side by side: middle, least and greatest of each, `None` where a run does not have it."""

    name: str
    unit: str
    first: tuple[float, float, float] | None
    second: tuple[float, float, float] | None


def side_by_side(first: Mapping[str, tuple], second: Mapping[str, tuple]) -> list[Beside]:
    """The readings of two records: `{name: (values, unit)}`. The middle is the median over the conditions."""
    names = dict.fromkeys([*first, *second])
    return [
        Beside(name, (second.get(name) or first[name])[1], _three(first.get(name)), _three(second.get(name)))
        for name in names
    ]  # fmt: skip


def _three(reading: tuple | None) -> tuple[float, float, float] | None:
    if reading is None:
        return None
    values = np.array([np.nan if one is None else one for one in reading[0]], float)
    known = values[np.isfinite(values)]
    if not len(known):
        return np.nan, np.nan, np.nan
    return float(np.median(known)), float(known.min()), float(known.max())
