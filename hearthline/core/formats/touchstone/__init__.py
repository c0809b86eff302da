"""Files of n-ports: Touchstone File Format Specification 1.1 and 2.0, IBIS Open Forum."""

from __future__ import annotations

from hearthline.core.formats.touchstone.model_file import model_of
from hearthline.core.formats.touchstone.reader import read_touchstone
from hearthline.core.formats.touchstone.writer import write_touchstone

__all__ = ["model_of", "read_touchstone", "write_touchstone"]
