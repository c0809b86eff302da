"""The functions of formulas: what each is called, what it takes and gives, its unit, and where on the curve it was taken.

A function of curves gets `(curve, x, *others)` for one or all lanes, as in `measure`, `timing`, `response` and their like.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from hearthline.core.data import band, cycles, densities, measure, products, response, spectrum, timing, transfer
from hearthline.core.data.units import DECIBEL, DEGREE, PLAIN, Unit, unit_of

Rule = Callable[..., Unit]
"""From the units of the curve, of its axis, and of the other arguments to that of the result."""


def _of_y(y: Unit, x: Unit, *others: Unit) -> Unit:
    return y


def _of_x(y: Unit, x: Unit, *others: Unit) -> Unit:
    return x


def _always(unit: Unit) -> Rule:
    return lambda y, x, *others: unit


def _slope(y: Unit, x: Unit, *others: Unit) -> Unit:
    return y / x


def _area(y: Unit, x: Unit, *others: Unit) -> Unit:
    return y * x


@dataclass(frozen=True)
class Function:
    """`curves` of its first arguments are curves; where it gives a curve, `curve` is true. `takes` says the arguments in words;
    `places(curve, x, *others)` are x of what it read, (lanes, places), where they are not its very result
    (`itself`). One that is not for `phasors` gets the magnitude of a complex curve."""

    call: Callable
    unit: Rule
    takes: str
    meaning: str
    curves: int = 1
    curve: bool = False
    places: Callable | None = None
    itself: bool = False
    phasors: bool = False


F = Function
ON_CURVES: dict[str, Function] = {
    "deriv": F(measure.deriv, _slope, "curve", "slope by the axis", curve=True, phasors=True),
    "integral": F(measure.integral, _area, "curve", "area under the curve"),
    "mean": F(measure.mean, _of_y, "curve", "mean over the axis", phasors=True),
    "rms": F(measure.rms, _of_y, "curve", "root of the mean square"),
    "peak": F(measure.peak, _of_y, "curve", "greatest value", places=measure.peak_places),
    "least": F(lambda c, x: -measure.peak(-c, x), _of_y, "curve", "least value",
               places=lambda c, x: measure.peak_places(-c, x)),
    "at": F(measure.at, _of_y, "curve, where", "value at a place of the axis",
            places=lambda c, x, where: np.full((len(c), 1), where), phasors=True),
    "cross": F(measure.cross, _of_x, "curve, level=0, number=1", "where the curve meets a level", itself=True),
    "rising": F(timing.rising, _of_x, "curve, level, number=1", "where it passes a level upwards", itself=True),
    "falling": F(timing.falling, _of_x, "curve, level, number=1", "where it passes a level downwards", itself=True),
    "rise": F(timing.rise, _of_x, "curve, low=0.1, high=0.9", "rise time", places=timing.rise_places),
    "fall": F(timing.fall, _of_x, "curve, low=0.1, high=0.9", "fall time", places=timing.fall_places),
    "delay": F(timing.delay, _of_x, "curve, curve, level, level2, number=1", "from one passing to the next of another curve",
               2, places=timing.delay_places),
    "period": F(timing.period, _of_x, "curve, level", "mean period", places=timing.period_places),
    "frequency": F(timing.frequency, lambda y, x, *others: PLAIN / x, "curve, level", "one over the period",
              places=timing.period_places),
    "duty": F(timing.duty, _always(PLAIN), "curve, level", "share of the period above a level", places=timing.period_places),
    "slew": F(timing.slew, _slope, "curve, low=0.1, high=0.9", "mean slope of a step", places=timing.slew_places),
    "settling": F(timing.settling, _of_x, "curve, band=0.01", "time until it stays near its end",
              places=timing.settling_places),
    "overshoot": F(timing.overshoot, _always(PLAIN), "curve", "how far it goes beyond its end, as a share of the step",
                   places=timing.overshoot_places),
    "charge": F(cycles.per_cycle, _area, "current, clock", "charge of the last whole cycle", 2, places=cycles.last_cycle),
    "energy": F(cycles.per_cycle, _area, "power, clock", "energy of the last whole cycle", 2, places=cycles.last_cycle),
    "average": F(cycles.average, _of_y, "curve, clock", "mean over the last whole cycle", 2, places=cycles.last_cycle),
    "gain": F(response.gain, _always(DECIBEL), "response, frequency", "magnitude at a frequency, or at the lowest",
              places=lambda c, x, where=None: np.full((len(c), 1), x[0] if where is None else where), phasors=True),
    "bandwidth": F(response.bandwidth, _of_x, "response, down=3.01", "where the magnitude has fallen", itself=True,
                   phasors=True),
    "unity_gain": F(response.unity_gain, _of_x, "response", "where the magnitude falls through 1", itself=True, phasors=True),
    "phase_margin": F(response.phase_margin, _always(DEGREE), "loop gain", "left to -180° at unity gain",
              places=response.unity_gain, phasors=True),
    "gain_margin": F(response.gain_margin, _always(DECIBEL), "loop gain", "left to 1 at -180°",
                     places=response.margin_places, phasors=True),
    "rejection": F(response.rejection, _always(DECIBEL), "wanted, unwanted, frequency", "CMRR or PSRR from two responses", 2,
                   phasors=True),
    "integrated_noise": F(densities.integrated_noise, lambda y, x, *others: (y**2 * x) ** Fraction(1, 2), "density, low, high",
                          "root of the integral of the square"),
    "corner_frequency": F(densities.corner_frequency, _of_x, "density", "where flicker and white noise are equal", itself=True),
    "passband": F(band.passband, _of_x, "response, down=3.01", "between the frequencies about the peak where it has fallen",
              places=band.passband_ends, phasors=True),
    "flatness": F(band.flatness, _always(DECIBEL), "response, low, high", "how far the magnitude moves over a band",
                  phasors=True),
    "distance": F(band.distance, _always(PLAIN), "impedance, wanted, low, high",
                  "largest reflection against a wanted impedance, over a band or everywhere", phasors=True),
    "within": F(band.within, _of_y, "curve, low, high", "the curve between two places of the axis", curve=True, phasors=True),
    "whole": F(band.whole, _of_y, "curve", "its last value, as a whole number"),
    "thd": F(spectrum.thd, _always(PLAIN), "curve, fundamental, count=10", "total harmonic distortion, as a share"),
    "snr": F(spectrum.snr, _always(DECIBEL), "curve, fundamental, count=10", "signal to noise"),
    "at_harmonic": F(products.harmonic, _of_y, "curve, number", "phasor of a harmonic; 0 is the mean",
                  places=lambda c, x, number: np.full((len(c), 1), x[int(number)]), phasors=True),
    "picked_product": F(products.mixed, _of_y, "curve, k1, k2, number, number", "phasor of a mixing product", 3, phasors=True),
    "lock_range": F(products.lock_range, lambda y, x, *others: PLAIN / x, "shift, current, number=1",
                    "band within which a current locks an oscillation"),
    "flicker_corner": F(products.flicker_corner, _of_x, "noise", "offset where parts of slope 2 and 3 are equal"),
    "accumulated_jitter": F(products.accumulated_jitter, lambda y, x, *others: PLAIN / x, "noise, frequency, cycles=1",
                            "of the time that some cycles take, root mean square"),
    "dbc": F(products.dbc, _always(DECIBEL), "curve, number", "a harmonic over the first",
             places=lambda c, x, number: np.full((len(c), 1), x[int(number)]), phasors=True),
    "switching_point": F(transfer.switching_point, _of_y, "output, input", "input where both are equal", 2,
                         places=transfer.switching_places),
    "noise_margin_low": F(transfer.noise_margin_low, _of_y, "output, input", "from the points of slope -1", 2,
                          places=transfer.unity_slopes),
    "noise_margin_high": F(transfer.noise_margin_high, _of_y, "output, input", "from the points of slope -1", 2,
                           places=transfer.unity_slopes),
    "steepest": F(transfer.steepest, lambda y, x, *others: y / (others[0] if others else x), "output, input",
                  "slope where it is greatest: the gain", 2,
                  places=transfer.steepest_places),
    "offset": F(transfer.offset, _of_x, "output, reference=0", "input of half the output, less the reference", 2,
                places=transfer.offset_places),
    "output_range": F(transfer.output_range, _of_y, "output, share=0.5", "output over which the slope holds",
                      places=transfer.range_places),
}  # fmt: skip

ON_VALUES: dict[str, Function] = {
    "abs": F(np.abs, _of_y, "value", "size"),
    "sqrt": F(np.sqrt, lambda y, x, *others: y ** Fraction(1, 2), "value", "square root"),
    "exp": F(np.exp, _always(PLAIN), "value", "exponential"), "log": F(np.log, _always(PLAIN), "value", "natural logarithm"),
    "log10": F(np.log10, _always(PLAIN), "value", "decimal logarithm"),
    "db20": F(lambda value: 20 * np.log10(np.abs(value)), _always(DECIBEL), "value", "magnitude in decibels"),
    "db10": F(lambda value: 10 * np.log10(np.abs(value)), _always(DECIBEL), "power", "power in decibels"),
    "dbm": F(products.dbm, _always(unit_of("dBm")), "power", "power over 1 mW in decibels"),
    "phase_deg": F(response.phase_deg, _always(DEGREE), "response", "phase in degrees, continuous"),
    "re": F(np.real, _of_y, "value", "real part"), "im": F(np.imag, _of_y, "value", "imaginary part"),
    "conj": F(np.conj, _of_y, "value", "complex conjugate"),
    "min": F(np.minimum, _of_y, "value, value", "the lesser"), "max": F(np.maximum, _of_y, "value, value", "the greater"),
}  # fmt: skip

ON_NEW_AXIS: dict[str, Function] = {
    "spectrum": F(spectrum.spectrum, _of_y, "curve, count=4096, window=hann", "amplitudes over frequency", curve=True),
    "against": F(lambda curve, other: curve, _of_y, "curve, other", "one curve over another", 2, True),
}
"""Functions whose result runs over something else than their argument did."""

ON_SWEEPS: dict[str, Function] = {
    "compression_at": F(products.compression, lambda y, x, *others: others[0], "gain, power, drop=1",
                     "power at which a gain has fallen", 2),
    "over_sweep": F(lambda values, along: values, _of_y, "value, along", "a number over what an analysis is made within", 2,
                    True),
    "at_first": F(lambda values: values[:, :1], _of_y, "value", "a number at the first of what an analysis is made within"),
    "intercept_at": F(products.intercept, _of_y, "wanted, unwanted, order=3", "where both powers would be equal", 2),
}  # fmt: skip
"""Functions of numbers that an analysis has `within` the values of something, all of these together."""

WAVE = "in_time"
"""Of a formula: what is inside is taken along a period, over time."""

FUNCTIONS = {**ON_CURVES, **ON_VALUES, **ON_NEW_AXIS, **ON_SWEEPS}
WINDOWS = ("boxcar", "hann", "hamming", "blackman", "blackmanharris", "flattop")
"""Of scipy.signal, as words in a formula."""
