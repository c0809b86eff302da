"""A housing driven at its ports: impedances between them over frequency, by a few fields that all others are combined of.

A current through a port's line gives (Cᵀ M_ν C - ω² M_ε) e = jω p, and its voltage is p·e. Fields solved for at some
frequencies, with what comes next of their series there, span the reduced model (rational Krylov; Grimme 1997); it is symmetric
as the whole is, so that it is reciprocal and passive. More frequencies are added where the whole equations are met least.
Walls take part as a surface impedance (1 + j) Rs, fillings by their loss tangents.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.sparse import csr_array, diags_array, eye_array

from hearthline.core.constants import LIGHT, MU0
from hearthline.core.fields.box import HousingError
from hearthline.core.fields.fronts import Division, Factors
from hearthline.core.fields.grid import Grid
from hearthline.core.fields.modal import Modal
from hearthline.core.nports.n_port import NPort
from hearthline.core.nports.planes import shifted
from hearthline.core.nports.rational import Rational

FIRST, MOST, MOMENTS = 3, 16, 3
"""Frequencies that fields are solved for at first and at most; and fields of each port at one of them."""
EXACT = 1e-4
"""By which no S-parameter may have moved with the last fields that were added."""
LOOKED = 31
"""Frequencies at which that is looked at."""
WIDTHS = np.array([0.3, 0.6, 1.0, 1.6, 2.6, 4.2, 7.0, 12.0, 20.0])
"""Half widths from a resonance that it is looked at from."""
SAME = 1e-8
"""Share of a field that nothing new is in it."""


@dataclass(frozen=True)
class Driven:
    """The n-port over the span, the same with more frequencies where it resonates, by how much its S-parameters moved at
    most when fields were added last, and a sum over poles that stands in outside of the span and in time; none where a plane is
    not at its port, since poles belong to the ports."""

    network: NPort
    resonant: NPort
    moved: float
    rational: Rational | None


def driven(grid: Grid) -> Driven:
    """Over the span of the housing. Raises HousingError for ports that do not end on metal."""
    return Reduction(grid).swept()


class Reduction:
    """The equations of the free edges, scaled so that all capacitances are 1."""

    def __init__(self, grid: Grid):
        self.grid, self.housing = grid, grid.housing
        free = grid.free
        self.scale = 1.0 / np.sqrt(grid.capacitances()[free])
        self.curl = csr_array(grid.curl[:, free] @ diags_array(self.scale))
        self.ports = np.stack([self._line(k) for k in range(len(self.housing.ports))], axis=1)
        self.basis = np.zeros((len(free), 0))

    def _line(self, k: int) -> np.ndarray:
        """Which edges a port's voltage is made of (edges,), scaled."""
        port, lines = self.housing.ports[k], self.grid.lines
        begin = tuple(int(np.argmin(np.abs(line - place))) for line, place in zip(lines, port.begin, strict=True))
        end = tuple(int(np.argmin(np.abs(line - place))) for line, place in zip(lines, port.end, strict=True))
        i, j, k0 = (min(a, b) for a, b in zip(begin, end, strict=True))
        count = abs(end[port.axis] - begin[port.axis])
        edges = self.grid.edges_along(port.axis, (i, j, k0), count)
        place = np.full(self.grid.curl.shape[1], -1)
        place[self.grid.free] = np.arange(len(self.grid.free))
        if (place[edges] < 0).any():
            raise HousingError("the line of the port runs in metal or along it", "ports", k, "line")
        for node in (begin, end):
            if np.ravel_multi_index(node, tuple(n + 1 for n in self.grid.cells)) in self._open_nodes:
                raise HousingError(
                    "a port goes from metal to metal, and one of its ends is on none", "ports", k, "line"
                )
        found = np.zeros(len(self.grid.free))
        found[place[edges]] = 1.0 if end[port.axis] > begin[port.axis] else -1.0
        return found * self.scale

    @cached_property
    def _open_nodes(self) -> set[int]:
        return set(self.grid.free_nodes.tolist())

    # -- the whole equations

    @cached_property
    def _turning(self) -> csr_array:
        return csr_array(self.curl.T @ (diags_array(self.grid.reluctances()) @ self.curl))

    @cached_property
    def _division(self) -> Division:
        return Division(self._turning, self.grid.edge_places)

    @cached_property
    def _filling(self) -> np.ndarray:
        """Loss of each edge by what fills the box, over its capacitance."""
        return self.grid.capacitances("loss")[self.grid.free] * self.scale**2

    def _losses(self, omega: float) -> tuple[np.ndarray, np.ndarray]:
        """What losses add to the reluctance of each face, and to the equation of each edge."""
        wall = self.grid.reluctances() ** 2 * self.grid.surface * self._resistance(omega) / omega
        return (1j - 1.0) * wall + 1j * self.grid.reluctances("turn"), 1j * omega**2 * self._filling

    def _resistance(self, omega: float) -> float:
        conductivity = self.housing.wall_conductivity
        return 0.0 if conductivity is None else float(np.sqrt(omega * MU0 / (2.0 * conductivity)))

    def _all(self, fields: np.ndarray, omega: float) -> np.ndarray:
        faces, edges = self._losses(omega)
        lost = self.curl.T @ (faces[:, None] * (self.curl @ fields))
        return self._turning @ fields + lost + (edges - omega**2)[:, None] * fields

    def directly(self, omega: float) -> np.ndarray:
        """Impedances between the ports in their own order (ports, ports) [Ω] at a frequency [1/s], without a reduced model."""
        faces, edges = self._losses(omega)
        lost = self.curl.T @ (diags_array(faces) @ self.curl) + diags_array(edges - omega**2)
        fields = Factors(csr_array(self._turning + lost), self._division).solve(1j * omega * self.ports)
        return np.asarray(self.ports.T @ fields)

    # -- the reduced ones

    def _grow(self, omega: float) -> None:
        """With the fields of all ports at a frequency, and what comes next of their series, by the frequency and by the losses.
        Factors are those without loss: real ones take a quarter of the time."""
        matrix = csr_array(self._turning - omega**2 * eye_array(len(self.scale)))
        solved, fields = Factors(matrix, self._division), self.ports
        faces, edges = (np.imag(one) for one in self._losses(omega))
        lossy = bool(faces.any() or edges.any())
        for _ in range(MOMENTS):
            fields = solved.solve(fields)
            fields = fields / np.maximum(np.linalg.norm(fields, axis=0), 1e-300)
            for column in fields.T:
                rest = column - self.basis @ (self.basis.T @ column)
                rest -= self.basis @ (self.basis.T @ rest)
                length = np.linalg.norm(rest)
                if length > SAME:
                    self.basis = np.hstack([self.basis, (rest / length)[:, None]])
            if lossy:
                lost = self.curl.T @ (faces[:, None] * (self.curl @ fields)) + edges[:, None] * fields
                fields = np.hstack([fields, lost])

    def _reduced(self) -> tuple[np.ndarray, ...]:
        basis, fluxes = self.basis, self.curl @ self.basis
        reluctances = self.grid.reluctances()
        return (
            basis.T @ (self._turning @ basis), fluxes.T @ ((reluctances**2 * self.grid.surface)[:, None] * fluxes),
            fluxes.T @ (self.grid.reluctances("turn")[:, None] * fluxes), basis.T @ (self._filling[:, None] * basis),
            basis.T @ self.ports,
        )  # fmt: skip

    def _fields(self, parts: tuple[np.ndarray, ...], omega: float) -> np.ndarray:
        """Of all ports at a frequency, by the basis (basis, ports), for a current of 1 A."""
        turning, wall, turn, filling, ports = parts
        matrix = turning - omega**2 * np.eye(len(turning)) + 1j * turn + 1j * omega**2 * filling
        matrix = matrix + (1j - 1.0) * self._resistance(omega) / omega * wall
        return np.linalg.solve(matrix, 1j * omega * ports)

    def swept(self) -> Driven:
        """All frequencies."""
        span = self.housing.span
        assert span is not None
        width = span.high - span.low
        for share in (np.arange(FIRST) + 0.5) / FIRST:
            self._grow(2.0 * np.pi * (span.low + share * width))
        looked = span.low + width * (np.arange(LOOKED) + 0.5) / LOOKED
        ports = len(self.housing.ports)
        parts, before, moved = self._reduced(), np.full((LOOKED, ports, ports), np.inf), np.inf
        for _ in range(MOST - FIRST):
            now = self._scattering(parts, looked)
            moved = float(np.abs(now - before).max())
            if moved <= EXACT:
                break
            before = now
            left = [self._left(parts, 2.0 * np.pi * float(f)) for f in looked]
            self._grow(2.0 * np.pi * float(looked[int(np.argmax(left))]))
            parts = self._reduced()
        modal = self._modal(parts)
        dense = np.union1d(span.frequencies, self._about_resonances(modal, span.low, span.high))
        resonant = self._n_port(parts, dense)
        at_ports = not any(one.plane for one in self.housing.ports)
        rational = modal.short(2.0 * np.pi * span.high).rational(resonant.impedances.real) if at_ports else None
        return Driven(self._n_port(parts, span.frequencies), resonant, moved, rational)

    def _n_port(self, parts: tuple[np.ndarray, ...], frequencies: np.ndarray) -> NPort:
        """By the numbers of the ports."""
        ordered = sorted(self.housing.ports, key=lambda one: one.number)
        order = [self.housing.ports.index(one) for one in ordered]
        found = self._scattering(parts, frequencies)[:, order][:, :, order]
        lengths = np.array([one.plane * np.sqrt(one.plane_er) for one in ordered])
        if lengths.any():
            found = shifted(found, -2j * np.pi / LIGHT * frequencies[:, None] * lengths)
        return NPort(frequencies, found, np.array([one.impedance for one in ordered], complex))

    def _modal(self, parts: tuple[np.ndarray, ...]) -> Modal:
        """The reduced equations in their own modes, with the losses of each at its resonance."""
        turning, wall, turn, filling, ports = parts
        squares, shapes = np.linalg.eigh(turning)
        skin = shapes.T @ wall @ shapes
        root = np.sqrt([self._resistance(w) / w for w in _frequencies(squares)])
        squares, turned = np.linalg.eigh(np.diag(squares) - root[:, None] * skin * root)  # walls are inductive too
        shapes, omega = shapes @ turned, _frequencies(squares)
        lost = np.zeros_like(turning)
        for matrix, weights in (
            (wall, [self._resistance(w) / w**2 for w in omega]),
            (turn, 1.0 / omega),
            (filling, omega),
        ):
            root = np.sqrt(weights)
            lost += root[:, None] * (shapes.T @ matrix @ shapes) * root
        order = np.argsort([one.number for one in self.housing.ports])
        return Modal(omega, shapes.T @ ports[:, order], lost)

    def _about_resonances(self, modal: Modal, low: float, high: float) -> np.ndarray:
        """Frequencies about each resonance in between, by its width alone and by that with the ports' impedances [Hz]."""
        impedances = np.array([one.impedance for one in sorted(self.housing.ports, key=lambda one: one.number)])
        inside = (modal.omega > 2.0 * np.pi * low) & (modal.omega < 2.0 * np.pi * high)
        omega, own = modal.omega[inside], np.diag(modal.losses)[inside]
        loaded = own + (modal.seen[inside] ** 2 / impedances).sum(axis=1)
        places = np.concatenate([-WIDTHS[::-1], [0.0], WIDTHS])
        every = np.concatenate([(omega[:, None] + 0.5 * width[:, None] * places).ravel() for width in (own, loaded)])
        every /= 2.0 * np.pi
        return every[(every >= low) & (every <= high)]

    def _left(self, parts: tuple[np.ndarray, ...], omega: float) -> float:
        """Of the ports' currents, by the whole equations."""
        fields = self.basis @ self._fields(parts, omega)
        wanted = 1j * omega * self.ports
        rest = wanted - self._all(fields, omega)
        return float((np.linalg.norm(rest, axis=0) / np.linalg.norm(wanted, axis=0)).max())

    def _scattering(self, parts: tuple[np.ndarray, ...], frequencies: np.ndarray) -> np.ndarray:
        """Between the ports, in their own order (frequencies, ports, ports)."""
        z = np.stack([parts[4].T @ self._fields(parts, 2.0 * np.pi * float(f)) for f in frequencies])
        root = np.sqrt([one.impedance for one in self.housing.ports])
        scaled, one = z / (root[:, None] * root[None, :]), np.eye(len(root))
        return np.linalg.solve(scaled + one, scaled - one)


def _frequencies(squares: np.ndarray) -> np.ndarray:
    """[1/s], none of them 0."""
    found = np.sqrt(np.maximum(squares, 0.0))
    return np.maximum(found, 1e-9 * found.max())
