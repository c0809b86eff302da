"""Settings for all tests: none fails on time, and random cases are the same in every run, on CI or not; `make fuzz` draws other
and many more of them (`tests/examples.py`)."""

from __future__ import annotations

from hypothesis import settings

from tests.examples import MANY, TIMES

settings.register_profile("ours", deadline=None, derandomize=True, print_blob=True)
settings.register_profile("fuzz", deadline=None, max_examples=100 * TIMES, print_blob=True)
settings.load_profile("fuzz" if MANY else "ours")
