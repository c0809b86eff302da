"""How large what comes from outside may be. Whatever reads a file holds it against these before anything is made of it.

They are far above what people write, and low enough that nothing hangs, fills the memory or overflows a stack.
"""

from __future__ import annotations

DIGITS = 400
"""Digits of a number."""
TEXT = 100_000
"""Characters of an expression, a formula, or a line of a deck."""
FILE = 64_000_000
"""Bytes of a file of text."""
NAME = 200
"""Characters of a name."""
DEPTH = 60
"""How deep brackets, signs and choices may stand inside each other; sums and products may be as long as they like."""
NESTED = 60
"""How deep tables and lists of a file may stand inside each other."""
PARTS = 500_000
"""Parts of a flat circuit."""
NUMBERS = 400_000_000
"""Numbers that an analysis may keep: 3.2 GB."""
INCLUDES = 20
"""How deep files may include each other."""
STEPS = 50_000
"""Statements and calls of a device text that are gone through with all its loops unrolled and all functions written out."""
ELEMENTS = 10_000
"""Elements of an array of a device text."""
TURNS = 100_000
"""Turns of all loops of a device at one evaluation."""
FORMULA, FORMULA_DEPTH = 10_000, 120
"""Characters of a formula on curves, and how deep it may be, sums counted too."""
COORDINATE = 1_000_000
"""Largest coordinate of a drawing."""
CELL_PARTS, CELL_POINTS, COPIES = 5_000, 100_000, 1_024
"""Parts of one cell, points of all its wires, and copies of one part."""
LISTED = 2_000
"""Cells, or benches, of a project."""
AXES, AXIS_VALUES, CONDITIONS = 12, 500, 20_000
"""Parameters that a bench crosses, values of each, and conditions in all."""
SAMPLES, SAMPLE_BYTES = 100_000_000, 2e9
"""Samples of a run, and what may be kept of them."""
POINTS = 5_000_000
"""Points of one spectrum."""
SWEEP = 1e12
"""Points of one sweep; long before that a person is asked."""
WITHIN = 5_000_000
"""Values that an analysis is made within: each is a circuit of its own."""
ITEMS = 1_000_000
"""Values in a file of tables."""
