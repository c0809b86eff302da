"""From what is pointed at on a drawing to the formula that watches it, and back."""

from __future__ import annotations

from dataclasses import replace

from hearthline.app.state.values import LAST, TERMINAL_CURRENTS, PointValues
from hearthline.core.analyses.line import parse_analysis
from hearthline.core.bench.bench import Bench, Watch
from hearthline.core.circuit.cell import Cell, Part
from hearthline.core.circuit.flatten import Library
from hearthline.core.circuit.instance import Instance
from hearthline.core.circuit.symbols import GROUND_SYMBOL
from hearthline.core.elements import ELEMENTS
from hearthline.core.elements.kind import Symbol


def voltage_formula(instance: Instance, net: str, other: str = "") -> str:
    """The voltage of a net of the shown instance, or the difference of two."""
    names = [instance.net(one) for one in (net, other) if one]
    return f"V({', '.join(names)})"


def current_formula(instance: Instance, part: Part, terminal: str, symbol: Symbol | None) -> str:
    """The current into a terminal, counted positive where it flows into the part; nothing where no quantity tells it."""
    if symbol is None or isinstance(symbol, Cell) or part.device == GROUND_SYMBOL:
        return ""
    name = instance.part(part.name)
    if ELEMENTS[symbol.kind].by_branch and terminal in ("p", "n"):
        return f"I({name})" if terminal == "p" else f"-I({name})"
    terminals = [one for one, _ in symbol.terminals]
    if symbol.kind == "D":
        return {"p": f"{name}.id", "n": f"-{name}.id"}.get(terminal, "")
    if terminal in LAST:
        others = [f"{name}.{TERMINAL_CURRENTS[one]}" for one in LAST[terminal] if one in terminals and one != "g"]
        return f"-({' + '.join(others)})" if len(others) > 1 else f"-{others[0]}" if others else ""
    if terminal in TERMINAL_CURRENTS and not (symbol.kind in "MJ" and terminal in "gb"):
        return f"{name}.{TERMINAL_CURRENTS[terminal]}"
    return ""


def device_formulas(instance: Instance, part: Part, point: PointValues | None) -> list[tuple[str, str]]:
    """Every quantity of a device with its meaning: (formula, words)."""
    name = instance.part(part.name)
    values = point.part(name) if point is not None else {}
    return [
        (f"{name}.{key}", f"{key}: {one.meaning}")
        for key, one in values.items()
        if "/" not in key and key not in ("sat",)
    ]


def toggled(bench: Bench, analysis: str, formula: str) -> Bench:
    """The bench that watches a formula in an analysis, or no longer does."""

    def same(one: Watch) -> bool:
        return bench.analysis_of(one) == analysis and one.formula.replace(" ", "") == formula.replace(" ", "")

    if any(same(one) for one in bench.watches):
        return replace(bench, watches=tuple(one for one in bench.watches if not same(one)))
    first = bool(bench.analyses) and bench.analyses[0].name == analysis
    return replace(bench, watches=(*bench.watches, Watch(formula, analysis="" if first else analysis)))


def watched_terminals(bench: Bench, analysis: str, instance: Instance, library: Library) -> list[tuple[str, str]]:
    """The terminals of the shown cell whose current is watched: (part, terminal)."""
    wanted = {one.formula.replace(" ", "") for one in bench.watches if bench.analysis_of(one) == analysis}
    wanted = {text for text in wanted if "(" not in text or text.lstrip("-").startswith(("I(", "("))}
    if not wanted:
        return []
    found = []
    for part in instance.cell.parts:
        symbol = library.symbol(part) if library.knows(part) else None
        if symbol is None or isinstance(symbol, Cell):
            continue
        for terminal, _ in symbol.terminals:
            if current_formula(instance, part, terminal, symbol).replace(" ", "") in wanted:
                found.append((part.name, terminal))
    return found


def with_look(bench: Bench, terminal: str) -> Bench:
    """The bench with an analysis that looks both ways at a terminal (`x1.m4.g`); the same where it has one."""
    line = f"look at {terminal} from 1M to 30G points 40"
    if any(one.kind == "look" and one.settings.get("terminal") == terminal for one in bench.analyses):
        return bench
    base = "look_" + "".join(sign if sign.isalnum() else "_" for sign in terminal)
    name = next(n for k in range(1000) if (n := base if not k else f"{base}_{k}") not in bench.analysis_names)
    return replace(bench, analyses=(*bench.analyses, parse_analysis(name, line)))
