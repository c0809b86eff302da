"""Names of nets that mean something by themselves."""

from __future__ import annotations

GROUND = "0"


def node(token: str) -> str:
    """The net that a node of a deck is: ground has two names."""
    return GROUND if token == "gnd" else token
