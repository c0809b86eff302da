"""Large signals that repeat: harmonic balance, oscillations, and what small signals and noise do about them."""
