"""Circuits as drawn and as netlists: cells, nets, hierarchy, symbols, edits, checks."""
