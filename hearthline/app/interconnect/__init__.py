"""The view of coupled lines: their cross-section as it is typed, and what they have per length."""
