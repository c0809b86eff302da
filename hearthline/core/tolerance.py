"""Tolerances of values: how far a part may be from what is written, and by which law: `5k ±3%`, `5k ±1% sigma`."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

import numpy as np

from hearthline.core.errors import QuantityError
from hearthline.core.quantity import read

_ONE = r"(?:±|\+/?-)\s*([^±%]*?)\s*%\s*(sigma)?"
_TAIL = re.compile(rf"(.*?)\s*((?:{_ONE}\s*)+)")
LEAST = 0.01
"""Of its value, which a part keeps however wide its normal law is."""


@dataclass(frozen=True)
class Tolerance:
    """The share by which a value may be off: `within` is the most either way (infinite: no end), `sigma` the standard deviation
    of a normal law (0: all shares within are equally likely). Both: normal, and cut off."""

    within: float = math.inf
    sigma: float = 0.0

    @property
    def deviation(self) -> float:
        """Standard deviation of the share."""
        if not self.sigma:
            return self.within / math.sqrt(3.0)
        if math.isinf(self.within):
            return self.sigma
        from scipy.stats import truncnorm  # late: most of a second

        reach = self.within / self.sigma
        return self.sigma * float(truncnorm(-reach, reach).std())

    def shares(self, normal: np.ndarray) -> np.ndarray:
        """The shares that belong to standard normal numbers, by equal probability."""
        from scipy.special import ndtr, ndtri

        if not self.sigma:
            return self.within * (2.0 * ndtr(normal) - 1.0)
        if math.isinf(self.within):
            return np.maximum(self.sigma * normal, LEAST - 1.0)
        outside = ndtr(-self.within / self.sigma)
        return np.clip(self.sigma * ndtri(outside + ndtr(normal) * (1.0 - 2.0 * outside)), -self.within, self.within)

    def normals(self, shares: np.ndarray) -> np.ndarray:
        """The standard normal numbers that belong to shares: what `shares` turns round."""
        from scipy.special import ndtr, ndtri

        if not self.sigma:
            return ndtri((np.clip(shares / self.within, -1.0, 1.0) + 1.0) / 2.0)
        if math.isinf(self.within):
            return shares / self.sigma
        outside = ndtr(-self.within / self.sigma)
        return ndtri(np.clip((ndtr(shares / self.sigma) - outside) / (1.0 - 2.0 * outside), 0.0, 1.0))

    @property
    def text(self) -> str:
        """As it is typed."""
        said = [f"±{percent(self.sigma)} sigma"] if self.sigma else []
        return " ".join([*said, *([] if math.isinf(self.within) else [f"±{percent(self.within)}"])])


def tolerance_of(within: str = "", sigma: str = "") -> Tolerance:
    """The tolerance that two texts say, of which one may be empty. Raises QuantityError."""
    found = Tolerance(_share(within) if within else math.inf, _share(sigma) if sigma else 0.0)
    if not within and not sigma:
        raise QuantityError("a tolerance says how far (within) or the standard deviation (sigma), as 5%")
    if found.sigma and found.within < found.sigma / 10:
        raise QuantityError(
            f"a normal law cut off at {percent(found.within)} keeps nothing of a sigma of {percent(found.sigma)}; "
            "leave sigma out"
        )
    return found


def split(text: str) -> tuple[str, Tolerance | None]:
    """A value as typed, without its tolerance, and that. Raises QuantityError for a tolerance that cannot be."""
    match = _TAIL.fullmatch(text.strip()) if "%" in text or "±" in text else None
    if match is None:
        if "±" in text:
            raise QuantityError(f"'{text.strip()}' is no value with a tolerance; write it as 5k ±3% or 5k ±1% sigma")
        return text, None
    value, tail = match[1], match[2]
    within = sigma = ""
    for number, normal in re.findall(_ONE, tail):
        if sigma if normal else within:
            raise QuantityError(f"'{tail.strip()}' says the same twice; write one ±3%, or ±1% sigma ±3%")
        if normal:
            sigma = f"{number}%"
        else:
            within = f"{number}%"
    return value, tolerance_of(within, sigma)


def _share(text: str) -> float:
    """`5%`, or a plain share."""
    text = text.strip()
    value = read(text.removesuffix("%"), "") / (100.0 if text.endswith("%") else 1.0)
    if not 0.0 < value < 1.0:
        raise QuantityError(f"a tolerance is above 0 % and below 100 %, and this is {text}")
    return value


def percent(share: float) -> str:
    """`3%`"""
    return f"{100.0 * share:.6g}%"
