"""Evaluates the expressions of a netlist, scope by scope, for all lanes at once."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from types import MappingProxyType

import numpy as np

from hearthline.core.circuit.netlist import Scope
from hearthline.core.errors import ExpressionError
from hearthline.core.expression import Expression, Value


class Environment:
    """Values of parameters; `overrides` win over what the outermost scope defines, `deviations` are added to what any scope
    defines. `temper` is the temperature [degC].

    Inside devices that are small circuits, `of_process(name, template)` gives the parameters that are the process's, and the
    `shares` are added to what the device was given, by (device, parameter).
    """

    def __init__(
        self,
        overrides: Mapping[str, Value],
        celsius: Value,
        deviations: Mapping[str, Value] = MappingProxyType({}),
        of_process: Callable[[str, str], Value] | None = None,
        shares: Mapping[tuple[str, str], Value] = MappingProxyType({}),
    ):
        self._deviations, self._of_process, self._shares = deviations, of_process, shares
        self._overrides = {**overrides, "temper": celsius}
        self._known: dict[tuple[int, str], Value] = {}
        self._busy: list[tuple[int, str]] = []

    def value(self, expression: Expression, scope: Scope) -> Value:
        """The value of `expression` in `scope`: a float, or an array with one entry a lane. Raises ExpressionError."""
        return expression.value(lambda name: self._find(name, scope))

    def _find(self, name: str, scope: Scope | None) -> Value:
        while scope is not None:
            if scope.inside is not None and self._of_process is not None and name in scope.inside.process:
                return self._of_process(name, scope.inside.template)
            if name in scope.given:
                return self._evaluate(name, scope.given[name], scope, scope.parent or Scope())
            outermost = scope.parent is None
            if name in scope.defined and not (outermost and name in self._overrides):
                return self._evaluate(name, scope.defined[name], scope, scope)
            scope = scope.parent
        if name in self._overrides:
            return self._overrides[name]
        raise ExpressionError(f"unknown parameter '{name}'")

    def _evaluate(self, name: str, expression: Expression, owner: Scope, inside: Scope) -> Value:
        key = (id(owner), name)
        if key not in self._known:
            if key in self._busy:
                way = " > ".join([*(known for _, known in self._busy), name])
                raise ExpressionError(f"parameter '{name}' depends on itself ({way})")
            self._busy.append(key)
            try:
                value = self.value(expression, inside) + self._deviations.get(name, 0.0)
                if owner.inside is not None and (owner.inside.device, name) in self._shares:
                    value = value * (1.0 + self._shares[owner.inside.device, name])
                self._known[key] = value
            finally:
                self._busy.pop()
        return self._known[key]


def as_array(value: Value, lanes: int) -> np.ndarray:
    """`value` with one entry a lane."""
    return np.asarray(value) if np.shape(value) == (lanes,) else np.full(lanes, value, float)
