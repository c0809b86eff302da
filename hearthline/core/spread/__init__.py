"""Conditions and samples: process, voltage, temperature, Monte Carlo."""
