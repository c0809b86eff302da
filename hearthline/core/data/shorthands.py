"""Short ways to say what an RF cell is often asked: each stands for a formula, by how many arguments it gets."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True)
class Shorthand:
    """`forms` are formulas by the number of arguments, which stand for `{0}`, `{1}` in them."""

    takes: str
    meaning: str
    forms: Mapping[int, str]


S = Shorthand
SHORTHANDS: dict[str, Shorthand] = {
    "gain_at": S("frequency", "transducer gain of two ports [dB]", {1: "db10(at(twoport.gain_transducer, {0}))"}),
    "return_loss": S("port, frequency", "by how much less comes back from a port [dB]; without a frequency the least of all",
                     {2: "-db20(at(S({0},{0}), {1}))", 1: "least(-db20(S({0},{0})))"}),
    "noise_figure": S("frequency", "from port 1 into port 2 [dB]; without a frequency the largest of all",
                      {1: "db10(at(twoport.noise_factor, {0}))", 0: "peak(db10(twoport.noise_factor))"}),
    "mu_min": S("low, high", "the least of mu and mu', over a band or everywhere",
                {0: "min(least(twoport.mu), least(twoport.mu_prime))",
                 2: "min(least(within(twoport.mu, {0}, {1})), least(within(twoport.mu_prime, {0}, {1})))"}),
    "impedance_of": S("port", "seen into a port, over frequency",
                   {1: "(conj(port{0}.impedance) + S({0},{0}) * port{0}.impedance) / (1 - S({0},{0}))"}),
    "carrier_frequency": S("", "frequency of the first harmonic", {0: "at_harmonic(frequency, 1)"}),
    "mixing_product": S("curve, number, number", "phasor of a product of two tones",
                        {3: "picked_product({0}, k1, k2, {1}, {2})"}),
    "output_power": S("port, number", "into a port, of a harmonic or of the first [dBm]",
                      {1: "dbm(at_harmonic(port{0}.delivered, 1))", 2: "dbm(at_harmonic(port{0}.delivered, {1}))"}),
    "power_gain": S("out, in", "what goes into a port over what another can give, at the first harmonic [dB]",
                    {2: "db10(at_harmonic(port{0}.delivered, 1) / at_harmonic(port{1}.available, 1))"}),
    "power_efficiency": S("port, supply", "what goes into a port over what a supply gives",
                    {2: "at_harmonic(port{0}.delivered, 1) / re(at_harmonic({1}.p, 0))"}),
    "power_added": S("out, in, supply", "what is added to the power that a port can give, over what a supply gives",
        {3: "(at_harmonic(port{0}.delivered, 1) - at_harmonic(port{1}.available, 1)) / re(at_harmonic({2}.p, 0))"}),
    "third_intercept": S("port", "of two tones, the power at which products of third order would be as large [dBm]",
        {1: "1.5 * dbm(mixing_product(port{0}.delivered, 1, 0)) - 0.5 * dbm(mixing_product(port{0}.delivered, 2, -1))"}),
    "unstable_poles": S("", "how many poles of the circuit grow, by the turns of its determinant",
                        {0: "whole(stability.turns)"}),
}  # fmt: skip


def expanded(name: str, arguments: list[str]) -> str | None:
    """The formula that is meant, or None for a number of arguments that does not fit."""
    form = SHORTHANDS[name].forms.get(len(arguments))
    return None if form is None else form.format(*(one.strip() for one in arguments))
