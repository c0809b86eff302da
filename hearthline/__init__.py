"""Hearthline: design and verification of integrated circuits at transistor level."""

__version__ = "0.1.0"
