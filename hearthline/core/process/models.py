"""Model cards by corner: what a kit or a deck offers to the circuit."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace

from hearthline.core.circuit.netlist import Card, Scope, Template
from hearthline.core.errors import CircuitError
from hearthline.core.expression import Expression
from hearthline.core.models.module import Module


@dataclass(frozen=True)
class Corner:
    """One corner section: its cards by lower-case name, the parameters their values may use (`scopes` where a card or a
    template has its own), Verilog-A modules beside those that come with Hearthline, and devices that are small circuits."""

    cards: Mapping[str, Card]
    scope: Scope = field(default_factory=Scope)
    modules: Mapping[str, Module] = field(default_factory=dict)
    scopes: Mapping[str, Scope] = field(default_factory=dict)
    templates: Mapping[str, Template] = field(default_factory=dict)

    def scope_of(self, name: str) -> Scope:
        """The parameters that the values of a card, or of a template, may use."""
        return self.scopes.get(name, self.scope)

    def said(self) -> Iterator[str]:
        """Everything it says, a line each, in an order that does not depend on how it was read."""
        for key, card in sorted(self.cards.items()):
            yield f"{key} {card.kind} {_texts(card.values)} {_texts(self.scope_of(key).defined)}"
        yield _texts(self.scope.defined)
        for key, template in sorted(self.templates.items()):
            yield f"{key} {template.nodes} {_texts(template.inputs)} {_texts(template.defined)}"
            yield from (
                f"{one.name} {one.kind} {one.nets} {_texts(one.values)} {one.model}" for one in template.elements
            )
        for key, module in sorted(self.modules.items()):
            yield f"{key} {module.parameters} {module.source}"

    def with_variant(self, other: Corner) -> Corner:
        """This corner, with the cards of another in the place of its own of the same name."""
        return replace(
            self, cards={**self.cards, **other.cards}, modules={**self.modules, **other.modules},
            scopes={**self.scopes, **dict.fromkeys([*other.cards, *other.templates], other.scope)},
            templates={**self.templates, **other.templates},
        )  # fmt: skip


def _texts(values: Mapping[str, Expression]) -> str:
    return str([(name, value.text) for name, value in sorted(values.items()) if value is not None])


@dataclass(frozen=True)
class ModelSet:
    """All corners of a process; a deck without corners has the single one `""`. `variants` are sections for some of the
    devices, by the kind of thing they vary: `ss+r_slow` is corner ss with the cards of r_slow. They are for temperatures up to
    `hottest` [°C], where that is told."""

    corners: Mapping[str, Corner]
    variants: Mapping[str, Mapping[str, Corner]] = field(default_factory=dict)
    hottest: float | None = None

    def corner(self, name: str) -> Corner:
        """The corner of that name, with its variants; CircuitError listing the known ones."""
        base, *more = name.split("+")
        if base not in self.corners:
            raise CircuitError(f"there is no corner '{base}'; the process has {', '.join(self.corners)}")
        found = self.corners[base]
        known = {key: corner for group in self.variants.values() for key, corner in group.items()}
        for variant in more:
            if variant not in known:
                others = ", ".join(known) or "none"
                raise CircuitError(f"there is no variant '{variant}' of a corner; the process has {others}")
            found = found.with_variant(known[variant])
        return found

    @property
    def names(self) -> tuple[str, ...]:
        """The corners, the typical one first as the process lists them."""
        return tuple(self.corners)
