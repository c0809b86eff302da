"""Fields around a circuit: the housing that it stands in."""
