"""Chains of n-ports: behind each other, without what stands before and behind, and with reference planes moved along lines."""

from __future__ import annotations

import numpy as np

from hearthline.core.nports.conversions import converted

Array = np.ndarray


def shifted(s: Array, turns: Array) -> Array:
    """S with the plane of each port moved away from the network by a matched line of `turns` (..., ports): γ l [neper + j rad],
    one way; negative takes a line away."""
    way = np.exp(-np.asarray(turns))
    return way[..., :, None] * s * way[..., None, :]


def cascaded(*networks: Array, impedances: float = 50.0) -> Array:
    """Two-ports (..., 2, 2) in a chain, first at port 1; S at one impedance [Ω]."""
    product = converted(networks[0], "S", "T", impedances)
    for one in networks[1:]:
        product = product @ converted(one, "S", "T", impedances)
    return converted(product, "T", "S", impedances)


def de_embedded(s: Array, before: Array | None = None, behind: Array | None = None, impedances: float = 50.0) -> Array:
    """A two-port without the two-ports that stand before its port 1 and behind its port 2 (their port 1 to the left).

    Raises ValueError where nothing gets through one of those: what is behind cannot be known.
    """
    product = converted(s, "S", "T", impedances)
    for one, left in ((before, True), (behind, False)):
        if one is None:
            continue
        chain = converted(one, "S", "T", impedances)
        if not np.isfinite(chain).all():
            place = "before" if left else "behind"
            raise ValueError(f"nothing gets through what stands {place} the two-port; it cannot be taken away")
        product = np.linalg.solve(chain, product) if left else product @ np.linalg.inv(chain)
    return converted(product, "T", "S", impedances)
