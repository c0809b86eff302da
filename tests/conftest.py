"""Settings for all tests: none fails on time, and random cases are the same in every run on CI."""

from __future__ import annotations

import os

from hypothesis import settings

settings.register_profile("ours", deadline=None, derandomize=bool(os.environ.get("CI")))
settings.load_profile("ours")
