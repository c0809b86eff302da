"""How fast: every figure beside its floor, measured in one run on one machine. `python -m benchmarks` prints the table."""
