"""Numbers go in as designers type them and come back the same."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hearthline.core.errors import QuantityError
from hearthline.core.quantity import field_text, read, read_deck, write
from tests.approximation import approx


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [
        ("200u", "", 2e-4), ("12.96 µm", "m", 1.296e-5), ("12.96um", "m", 1.296e-5), ("2.4G", "Hz", 2.4e9),
        ("2.4 GHz", "Hz", 2.4e9), ("1e-6", "m", 1e-6), ("1.5e3k", "Ω", 1.5e6), ("600m", "V", 0.6), ("-40", "°C", -40.0),
        ("−40 °C", "°C", -40.0), ("3.2 μm", "m", 3.2e-6), ("10kOhm", "Ω", 1e4), (".5", "", 0.5), ("4M", "Ω", 4e6),
    ],
)  # fmt: skip
def test_reads_prefixes_and_units(text, unit, value):
    """Every SI prefix, both letters mu, with and without the unit; the nearest float."""
    assert read(text, unit) == value


@pytest.mark.parametrize(
    ("text", "unit", "said"),
    [
        ("3.2x", "m", "'x'"),
        ("3.2 V", "m", "is in V"),
        ("", "m", "not a number"),
        ("wide", "m", "3.2u"),
        ("3,2u", "m", "is not"),
    ],
)
def test_refuses_nonsense_in_plain_words(text, unit, said):
    """The message names what was not understood and gives an example."""
    with pytest.raises(QuantityError, match=said):
        read(text, unit)


def test_too_large_a_number_is_refused():
    """No infinity slips in."""
    with pytest.raises(QuantityError, match="too large"):
        read("1e400")


@given(st.floats(allow_nan=False, allow_infinity=False))
def test_what_is_written_reads_back_to_the_same_float(value):
    """Exact round trip, in fields and in files, over all floats."""
    assert read(field_text(value)) == value
    assert read(write(value, "V"), "V") == value


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("1k", 1e3), ("2.2meg", 2.2e6), ("2.2MEG", 2.2e6), ("10pF", 1e-11), ("1f", 1e-15), ("2t", 2e12), ("1g", 1e9),
        ("4m", 4e-3), ("4M", 4e-3), ("1mil", 25.4e-6), ("1e-6", 1e-6), ("5V", 5.0), ("100nH", 1e-7), ("3u", 3e-6),
    ],
)  # fmt: skip
def test_reads_deck_numbers(text, value):
    """Berkeley scale factors, in either case; `m` is milli, `meg` mega; letters after the scale are ignored."""
    assert read_deck(text) == approx(value, rel=1e-15)


@pytest.mark.parametrize(
    ("value", "unit", "digits", "text"),
    [
        (-18.42e-6, "A", 3, "−18.4 µA"), (0.0, "V", 3, "0.00 V"), (999.96, "V", 3, "1.00 kV"), (0.4464, "", 4, "0.4464"),
        (-29.23, "", 4, "−29.23"), (2.4e-6, "m", None, "2.4 µm"), (-40, "°C", None, "−40 °C"), (float("nan"), "V", 3, "–"),
        (float("inf"), "Ω", 3, "∞"), (1e-21, "F", 3, "0.00100 aF"),
    ],
)  # fmt: skip
def test_writes_with_the_prefix_that_reads_best(value, unit, digits, text):
    """One to 999 before the point, a true minus, and no prefix on a number without a unit."""
    assert write(value, unit, digits) == text
