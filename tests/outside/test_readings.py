"""Readings of waveforms, responses and spectra against closed forms and SciPy."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import signal
from scipy.optimize import brentq

from hearthline.core.data import cycles, densities, response, spectrum, timing, transfer
from tests.approximation import approx

TAU = 1e-6
T = np.linspace(0, 20 * TAU, 20001)
STEP = (1 - np.exp(-T / TAU))[None, :]


def one(found) -> float:
    """The reading of a single lane."""
    return float(np.asarray(found).item())


def test_rise_time_of_a_first_order_step():
    """tau * ln 9 from 10 to 90 % (closed form); the same falling."""
    assert one(timing.rise(STEP, T)) == approx(TAU * np.log(9), rel=1e-5)
    assert one(timing.fall(1 - STEP, T)) == approx(TAU * np.log(9), rel=1e-5)
    assert one(timing.rise(STEP, T, 0.2, 0.8)) == approx(TAU * np.log(4), rel=1e-5)


def test_settling_and_slew_of_a_first_order_step():
    """tau * ln(1/band), and 0.8 of the step over the rise time (closed form)."""
    assert one(timing.settling(STEP, T, 0.01)) == approx(TAU * np.log(100), rel=1e-4)
    assert one(timing.slew(STEP, T)) == approx(0.8 / (TAU * np.log(9)), rel=1e-4)


@pytest.mark.parametrize("damping", [0.1, 0.3, 0.6])
def test_overshoot_of_a_second_order_step(damping):
    """exp(-pi zeta / sqrt(1 - zeta^2)) (closed form), the step itself from SciPy."""
    t = np.linspace(0, 120, 120001)
    _, y = signal.step(signal.TransferFunction([1], [1, 2 * damping, 1]), T=t)
    expected = np.exp(-np.pi * damping / np.sqrt(1 - damping**2))
    assert one(timing.overshoot(y[None, :], t)) == approx(expected, rel=1e-3)


def test_period_frequency_and_duty_of_a_pulse_train():
    """Known by construction; two lanes of different periods."""
    x = np.linspace(0, 100e-9, 100001)
    rows = np.array([((x % p) < d * p).astype(float) for p, d in ((7e-9, 0.3), (11e-9, 0.6))])
    np.testing.assert_allclose(timing.period(rows, x)[:, 0], [7e-9, 11e-9], rtol=1e-3)
    np.testing.assert_allclose(timing.frequency(rows, x)[:, 0], [1 / 7e-9, 1 / 11e-9], rtol=1e-3)
    np.testing.assert_allclose(timing.duty(rows, x)[:, 0], [0.3, 0.6], atol=1e-3)
    assert np.isnan(one(timing.period(np.ones((1, len(x))), x)))


def test_delay_between_two_waveforms():
    """A sine and the same an eighth of a period later; a first-order step passes half at tau ln 2 (closed form)."""
    x = np.linspace(0, 4, 40001)
    a, b = np.sin(2 * np.pi * x)[None, :], np.sin(2 * np.pi * (x - 0.125))[None, :]
    assert one(timing.delay(a, x, b, 0.0, number=2)) == approx(0.125, rel=1e-4)
    ramp = np.where(T > 0, 1.0, 0.0)[None, :]
    assert one(timing.delay(ramp, T, STEP)) == approx(TAU * np.log(2), rel=2e-3)
    assert one(timing.rising(a, x, 0.5, 2)) == approx(1 + 1 / 12, rel=1e-6)
    assert one(timing.falling(a, x, 0.5, -1)) == approx(3 + 5 / 12, rel=1e-6)
    assert np.isnan(one(timing.rising(a, x, 2.0)))


F = np.logspace(0, 9, 1801)


def test_bandwidth_and_unity_gain_of_one_pole():
    """The pole itself, and a0 times it, less a share of 1/a0^2 (closed form)."""
    loop = 1000.0 / (1 + 1j * F / 1e4)
    assert one(response.bandwidth(loop[None, :], F)) == approx(1e4, rel=1e-4)
    assert one(response.unity_gain(loop[None, :], F)) == approx(1e4 * np.sqrt(1000.0**2 - 1), rel=1e-4)
    assert one(response.gain(loop[None, :], F)) == approx(60, abs=1e-6)
    assert one(response.gain(loop[None, :], F, 1e4)) == approx(60 - 10 * np.log10(2), abs=1e-3)


def test_margins_of_a_loop_against_scipy():
    """Three poles: gain and phase margin by the roots of the polynomial equations that SciPy's frequency response gives."""
    system = signal.ZerosPolesGain([], [-1e4, -3e6, -2e7], 1e3 * 1e4 * 3e6 * 2e7)
    _, h = signal.freqresp(system, w=2 * np.pi * F)
    margin = one(response.phase_margin(h[None, :], F))
    cross = one(response.unity_gain(h[None, :], F))
    _, exact = signal.freqresp(system, w=[2 * np.pi * cross])
    assert abs(exact[0]) == approx(1, rel=1e-4)
    assert margin == approx(180 + np.degrees(np.angle(exact[0])) - (360 if np.angle(exact[0]) > 0 else 0), abs=0.01)
    a, b, c = 1e4, 3e6, 2e7
    turn = np.sqrt(
        a * b + b * c + c * a
    )  # where the imaginary part of the three poles' product is nothing (closed form)
    at_turn = 1e3 * a * b * c / ((a + b + c) * turn**2 - a * b * c)
    assert one(response.gain_margin(h[None, :], F)) == approx(-20 * np.log10(at_turn), abs=0.01)


def test_amplitudes_of_a_spectrum():
    """Two sines on whole bins through a Hann window read their amplitudes; the bins are NumPy's."""
    x = np.linspace(0, 1e-3, 8193)
    y = 0.5 + 1.0 * np.sin(2 * np.pi * 20e3 * x) + 0.01 * np.sin(2 * np.pi * 60e3 * x)
    f, amplitudes = spectrum.spectrum(y[None, :], x, 8192)
    assert f[1] == approx(1e3)
    for at, expected in ((0, 0.5), (20, 1.0), (60, 0.01)):
        assert amplitudes[0, at] == approx(expected, rel=2e-3)


def test_distortion_and_noise():
    """A cubic law on a sine: third harmonic a3 A^3/4 over a1 A + 3 a3 A^3/4 (closed form); white noise of known power."""
    x = np.linspace(0, 5e-3, 100001)
    s = 0.3 * np.sin(2 * np.pi * 1e3 * x)
    y = s + 0.2 * s**3
    third, first = 0.2 * 0.3**3 / 4, 0.3 + 3 * 0.2 * 0.3**3 / 4
    assert one(spectrum.thd(y[None, :], x, 1e3)) == approx(third / first, rel=1e-3)
    np.testing.assert_allclose(spectrum.harmonics(y[None, :], x, 1e3, 3)[0, [0, 2]], [first, third], rtol=1e-3)
    square = s + 0.2 * s**2  # second harmonic a2 A^2/2
    assert one(spectrum.thd(square[None, :], x, 1e3)) == approx(0.2 * 0.3 / 2, rel=1e-3)
    times = np.linspace(0, 1, 4097)
    noisy = np.sin(2 * np.pi * 16 * times) + 0.01 * np.random.default_rng(1).standard_normal(len(times))
    expected = 10 * np.log10(0.5 / 1e-4)
    assert one(spectrum.snr(noisy[None, :], times, 16.0)) == approx(expected, abs=0.3)


def test_noise_margins_of_a_straight_transfer_curve():
    """Slope -2 from (0.4, 1) to (0.9, 0): slope -1 is passed at the two corners (closed form of the polygon)."""
    x = np.linspace(0, 1.2, 120001)
    soft = 2e-3
    y = (1.0 - soft * 2 * (np.logaddexp(0, (x - 0.4) / soft) - np.logaddexp(0, (x - 0.9) / soft)))[None, :]
    assert one(transfer.noise_margin_low(y, x)) == approx(0.4 - 0.0, abs=5e-3)
    assert one(transfer.noise_margin_high(y, x)) == approx(1.0 - 0.9, abs=5e-3)
    assert one(transfer.switching_point(y, x)) == approx(0.6, abs=1e-4)
    assert one(transfer.steepest(y, x)) == approx(-2.0, rel=1e-6)
    assert one(transfer.output_range(y, x, 0.5)) == approx(1.0 - 4 * soft * np.log(2), abs=1e-6)
    assert one(transfer.offset(y, x, 0.6)) == approx(0.05, abs=1e-6)


def test_charge_energy_and_average_of_a_cycle():
    """A sine with an offset: over a whole cycle only the offset is left (closed form)."""
    x = np.linspace(0, 3.3e-6, 33001)
    clock = np.sin(2 * np.pi * 1e6 * x - 0.3)[None, :]
    current = 2e-3 + 1e-3 * np.sin(2 * np.pi * 1e6 * x)[None, :]
    assert one(cycles.per_cycle(current, x, clock)) == approx(2e-9, rel=1e-6)
    assert one(cycles.average(current, x, clock)) == approx(2e-3, rel=1e-6)
    assert one(cycles.average(np.ones((1, len(x))), x)) == 1.0
    assert np.isnan(one(cycles.per_cycle(np.ones((1, len(x))), x)))


def test_noise_adds_up_and_bends_where_it_should():
    """White 10 nV and flicker equal to it at 1 kHz: e²·(f2 - f1 + fc·ln(f2/f1)) (closed form)."""
    f = np.logspace(0, 8, 801)
    density = 1e-8 * np.sqrt(1 + 1e3 / f)[None, :]
    expected = 1e-8 * np.sqrt(1e8 - 1 + 1e3 * np.log(1e8))
    assert one(densities.integrated_noise(density, f)) == approx(expected, rel=1e-4)
    inner = 1e-8 * np.sqrt(1e5 - 1e2 + 1e3 * np.log(1e3))
    assert one(densities.integrated_noise(density, f, 1e2, 1e5)) == approx(inner, rel=1e-3)
    assert one(densities.corner_frequency(density, f)) == approx(1e3, rel=1e-3)


def test_rejection_of_two_responses():
    """80 dB apart by construction, at a frequency 3 dB less."""
    f = np.logspace(0, 6, 601)
    wanted, unwanted = (1e3 / (1 + 1j * f / 1e3))[None, :], np.full((1, len(f)), 0.1 + 0j)
    assert one(response.rejection(wanted, f, unwanted)) == approx(80.0, abs=1e-3)
    assert one(response.rejection(wanted, f, unwanted, 1e3)) == approx(80 - 3.0103, abs=1e-2)


def test_the_place_of_each_margin():
    """Where SciPy's own search finds unity gain and -180 degrees of a loop of three poles."""
    f = np.logspace(2, 9, 7001)
    loop = signal.TransferFunction([1e3], np.polymul(np.polymul([1 / 1e4, 1], [1 / 1e6, 1]), [1 / 1e6, 1]))
    _, h = signal.freqresp(loop, 2 * np.pi * f)
    crossing = brentq(lambda w: abs(loop_at(loop, w)) - 1, 1e5, 1e8) / (2 * np.pi)
    assert one(response.unity_gain(h[None, :], f)) == approx(crossing, rel=1e-4)
    half_turn = brentq(lambda w: loop_at(loop, w).imag, 2e5, 1e7) / (2 * np.pi)
    assert one(response.margin_places(h[None, :], f)) == approx(half_turn, rel=1e-4)


def loop_at(loop, w: float) -> complex:
    """A transfer function at an angular frequency."""
    return complex(signal.freqresp(loop, [w])[1][0])
