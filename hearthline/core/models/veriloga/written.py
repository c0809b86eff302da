"""Expressions of a text as text again, for messages."""

from __future__ import annotations

from hearthline.core.models.veriloga import tree


def written(node: tree.Node) -> str:
    """An expression as text, for messages."""
    match node:
        case tree.Number():
            return f"{node.value:g}"
        case tree.Name():
            return node.name
        case tree.Element():
            return f"{node.name}[{written(node.index)}]"
        case tree.Unary():
            return f"{node.operator}{written(node.operand)}"
        case tree.Binary():
            return f"({written(node.left)} {node.operator} {written(node.right)})"
        case tree.Ternary():
            return f"({written(node.condition)} ? {written(node.yes)} : {written(node.no)})"
        case tree.Call() | tree.System():
            return f"{node.name}({', '.join(map(written, node.arguments))})" if node.arguments else node.name
        case tree.Text():
            return f'"{node.value}"'
        case _:
            return "..."
