"""The source whose value is an expression of voltages and currents."""

from __future__ import annotations

from hearthline.core.elements.kind import ElementKind

EXPRESSION_SOURCE = ElementKind("B", "expression source")
