"""Factors front by front and block Lanczos, against dense algebra."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.sparse import csr_array, eye_array, kron

from hearthline.core.fields import fronts
from hearthline.core.fields.fronts import Division, Factors
from hearthline.core.fields.krylov import largest

SHAPES = st.tuples(st.integers(1, 12), st.integers(1, 9), st.integers(1, 6))


def meshed(shape: tuple[int, int, int], seed: int, lossy: bool) -> csr_array:
    """A symmetric matrix on a mesh, not definite."""
    random = np.random.default_rng(seed)
    nx, ny, nz = shape

    def line(n: int) -> csr_array:
        return csr_array(np.eye(n) + np.diag(random.standard_normal(n - 1), 1) if n > 1 else np.eye(1))

    upper = csr_array(kron(kron(line(nx), line(ny)), line(nz)))
    matrix = csr_array(upper + upper.T + 0.3 * eye_array(nx * ny * nz))
    return csr_array(matrix.astype(complex) * (1 + 0.2j)) if lossy else matrix


@given(SHAPES, st.integers(0, 999), st.booleans(), st.integers(3, 40))
def test_factors_solve(shape, seed, lossy, small):
    """Whatever pieces it is divided into; complex right sides of real matrices too."""
    matrix = meshed(shape, seed, lossy)
    fronts.SMALL, before = small, fronts.SMALL
    try:
        division = Division(matrix, np.indices(shape).reshape(3, -1).T)
        factors = Factors(matrix, division)
    finally:
        fronts.SMALL = before
    assert sorted(np.concatenate([one.own for one in division.pieces]).tolist()) == list(range(matrix.shape[0]))
    random = np.random.default_rng(seed + 1)
    right = random.standard_normal((matrix.shape[0], 2)) + 1j * random.standard_normal((matrix.shape[0], 2))
    dense = matrix.toarray()
    size = np.linalg.cond(dense) * np.linalg.norm(right) * 1e-11
    for one in (right, right[:, 0], right.real):
        if not lossy or np.iscomplexobj(one):
            assert np.linalg.norm(factors.solve(one) - np.linalg.solve(dense, one)) <= size


def test_halves_that_do_not_touch(monkeypatch):
    """What joins them has no unknowns of its own, and passes on what they leave."""
    places = np.indices((24, 12, 2)).reshape(3, -1).T
    matrix = meshed((24, 12, 2), 3, False).tolil()
    left = places[:, 0] < 10  # below the first cut, whose lower part falls in two
    for low, high in ((places[:, 1] < 6, places[:, 1] >= 6), (places[:, 1] >= 6, places[:, 1] < 6)):
        matrix[np.ix_(np.flatnonzero(left & low), np.flatnonzero(left & high))] = 0.0
    matrix = csr_array(matrix)
    matrix.eliminate_zeros()
    monkeypatch.setattr(fronts, "SMALL", 20)
    division = Division(matrix, places)
    assert any(len(one.own) == 0 and len(one.above) for one in division.pieces)
    right = np.random.default_rng(4).standard_normal((len(places), 3))
    found = Factors(matrix, division).solve(right)
    np.testing.assert_allclose(matrix @ found, right, atol=1e-8)


@given(st.integers(20, 60), st.integers(1, 4), st.integers(0, 999))
def test_lanczos_finds_what_is_alike(size, alike, seed):
    """As often as it is there."""
    random = np.random.default_rng(seed)
    values = np.concatenate([np.full(alike, 10.0), [8.0, 7.0], np.linspace(0.1, 4.0, size - alike - 2)])
    ways = np.linalg.qr(random.standard_normal((size, size)))[0]
    matrix = (ways * values) @ ways.T
    found, vectors = largest(lambda x: matrix @ x, random.standard_normal((size, alike + 1)), alike + 2, 1e-9)
    np.testing.assert_allclose(found, values[: alike + 2], rtol=1e-9)
    np.testing.assert_allclose(matrix @ vectors, vectors * found, atol=1e-6)
