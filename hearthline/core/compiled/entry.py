"""A compiled function as Python calls it."""

from __future__ import annotations

from array import array
from collections.abc import Callable
from threading import Lock
from typing import Any

import numpy as np

from hearthline.core.compiled.codes import FLOAT, Form, words_of


class Entry:
    """Its machine code is loaded, and made where there is none, when it is first called. Threads may call at the same time."""

    def __init__(self, function: Callable, codes: tuple[Form, ...], gives: Form | None):
        self.function, self.codes, self.gives = function, codes, gives
        self.__doc__, self.__name__ = function.__doc__, function.__name__
        self._call: Callable[[int], int] | None = None
        self._lock = Lock()

    @property
    def name(self) -> str:
        """Module and function."""
        return f"{self.function.__module__}:{self.function.__name__}"

    def load(self) -> Callable[[int], int]:
        """Its machine code. Raises HearthlineError where none can be made."""
        with self._lock:
            if self._call is None:
                from hearthline.core.compiled.loading import called_with_words, code_of

                self._call = called_with_words(code_of(self.name))
        return self._call

    def __call__(self, *arguments: Any) -> Any:
        call = self._call or self.load()
        words: list[int] = []
        words_of(self.codes, arguments, words)
        handed = array("q", words)
        found = call(handed.buffer_info()[0])
        return float(np.int64(found).view(np.float64)) if self.gives is FLOAT else None if self.gives is None else found
