"""Benches: what is asked of a circuit, its readings, limits, and the run over all conditions."""
