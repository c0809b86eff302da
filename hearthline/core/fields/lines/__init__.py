"""Coupled lines by their cross-section: what they have per length, and what they are between their ends."""
