"""Results as labelled arrays, and the formulas that numbers are taken from them with."""
