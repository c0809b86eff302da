"""Samples: how readings spread, what costs the yield, and what would mend it."""
