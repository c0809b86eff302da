"""Between the descriptions of an n-port: S, Z, Y, and of two-ports H, G, ABCD and T; and between reference impedances.

Each description says what stands on its left by what stands on its right, with currents into the ports:

    Z  v = Z i                    H     v1, i2 = H (i1, v2)
    Y  i = Y v                    G     i1, v2 = G (v1, i2)
    S  b = S a                    ABCD  v1, i1 = A (v2, -i2)
                                  T     b1, a1 = T (a2, b2)

with power waves (Kurokawa, IEEE Trans. Microwave Theory Tech. 1965), a = (v + Z i) / 2 sqrt(Re Z) and
b = (v - Z* i) / 2 sqrt(Re Z). So any of them gives the voltages and currents of n experiments, and these give any other.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

Array = np.ndarray
Experiments = tuple[Array, Array]
"""Voltages and currents (..., ports, experiments)."""


LARGEST = 1e13
"""Times what is divided over what divides it, above which there was nothing to divide by."""


def waves_of(experiments: Experiments, impedances: Array) -> tuple[Array, Array]:
    """Waves in and out, a and b, at port impedances (..., ports) [Ω]."""
    v, i = experiments
    z = np.asarray(impedances, complex)[..., None]
    root = 2.0 * np.sqrt(z.real)
    return (v + z * i) / root, (v - z.conj() * i) / root


def experiments_of(a: Array, b: Array, impedances: Array) -> Experiments:
    """Voltages and currents that waves in and out make."""
    z = np.asarray(impedances, complex)[..., None]
    root = np.sqrt(z.real)
    return (z.conj() * a + z * b) / root, (a - b) / root


def _divided(out: Array, by: Array) -> Array:
    """out · by⁻¹; infinite where there is none, but for rounding."""
    try:
        made = np.linalg.solve(np.swapaxes(by, -1, -2), np.swapaxes(out, -1, -2)).swapaxes(-1, -2)
        most = LARGEST * np.abs(out).max(axis=(-2, -1)) / np.abs(by).max(axis=(-2, -1))
        return np.where((np.abs(made).max(axis=(-2, -1)) > most)[..., None, None], np.inf, made)
    except np.linalg.LinAlgError:
        made = np.full(out.shape, np.inf + 0j)
        for place in np.ndindex(out.shape[:-2]):
            try:
                made[place] = np.linalg.solve(by[place].T, out[place].T).T
            except np.linalg.LinAlgError:
                continue
        return made


def _first(m: Array) -> Array:
    return m[..., :1, :]


def _second(m: Array) -> Array:
    return m[..., 1:, :]


def _stacked(upper: Array, lower: Array) -> Array:
    return np.concatenate(np.broadcast_arrays(upper, lower), axis=-2)


def _ones(m: Array) -> Array:
    return np.broadcast_to(np.eye(m.shape[-1], dtype=complex), m.shape)


def _from_s(s: Array, impedances: Array) -> Experiments:
    return experiments_of(_ones(s), s, impedances)


def _to_s(experiments: Experiments, impedances: Array) -> Array:
    a, b = waves_of(experiments, impedances)
    return _divided(b, a)


def _from_h(m: Array, impedances: Array) -> Experiments:
    given = _ones(m)
    return _stacked(_first(m), _second(given)), _stacked(_first(given), _second(m))


def _to_h(experiments: Experiments, impedances: Array) -> Array:
    v, i = experiments
    return _divided(_stacked(_first(v), _second(i)), _stacked(_first(i), _second(v)))


def _from_g(m: Array, impedances: Array) -> Experiments:
    given = _ones(m)
    return _stacked(_first(given), _second(m)), _stacked(_first(m), _second(given))


def _to_g(experiments: Experiments, impedances: Array) -> Array:
    v, i = experiments
    return _divided(_stacked(_first(i), _second(v)), _stacked(_first(v), _second(i)))


def _from_abcd(m: Array, impedances: Array) -> Experiments:
    given = _ones(m)
    return _stacked(_first(m), _first(given)), _stacked(_second(m), -_second(given))


def _to_abcd(experiments: Experiments, impedances: Array) -> Array:
    v, i = experiments
    return _divided(_stacked(_first(v), _first(i)), _stacked(_second(v), -_second(i)))


def _from_t(m: Array, impedances: Array) -> Experiments:
    given = _ones(m)
    a, b = _stacked(_second(m), _first(given)), _stacked(_first(m), _second(given))
    return experiments_of(a, b, impedances)


def _to_t(experiments: Experiments, impedances: Array) -> Array:
    a, b = waves_of(experiments, impedances)
    return _divided(_stacked(_first(b), _first(a)), _stacked(_second(a), _second(b)))


_FORMS: dict[str, tuple[Callable[[Array, Array], Experiments], Callable[[Experiments, Array], Array]]] = {
    "S": (_from_s, _to_s),
    "Z": (lambda m, z: (m, _ones(m)), lambda e, z: _divided(e[0], e[1])),
    "Y": (lambda m, z: (_ones(m), m), lambda e, z: _divided(e[1], e[0])),
    "H": (_from_h, _to_h),
    "G": (_from_g, _to_g),
    "ABCD": (_from_abcd, _to_abcd),
    "T": (_from_t, _to_t),
}

FORMS = tuple(_FORMS)
"""Their names."""
TWO_PORT_FORMS = ("H", "G", "ABCD", "T")
"""Those that only two-ports have."""


def converted(matrix: Array, form: str, wanted: str, impedances: Array | float = 50.0) -> Array:
    """`matrix` (..., ports, ports), which is of one form, as another; impedances [Ω] (ports,) or (..., ports) of S and T.
    Infinite where the network has no such form. Raises ValueError for a form that does not exist, or not for so many ports."""
    matrix = np.asarray(matrix, complex)
    ports = matrix.shape[-1]
    for name in (form, wanted):
        if name not in _FORMS:
            raise ValueError(f"there is no form '{name}' of an n-port; there are {', '.join(FORMS)}")
        if name in TWO_PORT_FORMS and ports != 2:
            raise ValueError(f"{name} is of two-ports, and this has {ports} port{'s' * (ports != 1)}")
    z = np.broadcast_to(np.asarray(impedances, complex), (*np.shape(impedances)[:-1], ports))
    return _FORMS[wanted][1](_FORMS[form][0](matrix, z), z)


def renormalised(s: Array, before: Array | float, after: Array | float) -> Array:
    """S (..., ports, ports) at other impedances [Ω]."""
    ports = s.shape[-1]
    before, after = (np.broadcast_to(np.asarray(z, complex), (*np.shape(z)[:-1], ports)) for z in (before, after))
    return _to_s(_from_s(np.asarray(s, complex), before), after)
