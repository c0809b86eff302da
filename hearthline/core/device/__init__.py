"""Devices by themselves: their sheets of curves, the numbers taken from those, widths for a current."""
