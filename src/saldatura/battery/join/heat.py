"""How warm strips grow: each piece a fin between its two ends, poles held at the temperature of their cells, free nodes balanced.

k·A·T″ = h·w·(T − T_air) − I²ρ/A, with one face of the strip exposed and resistivity at 20 °C. Of a strip between two poles nearly all heat goes
into the cells; only a long free piece, a tail to a take-off, is left to the air.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from saldatura.battery.cell.curves import Array

# Beyond so many decay lengths one end of a piece knows nothing of the other.
LONGEST = 200.0


@dataclass(frozen=True)
class Fins:
    """Pieces of strip as fins: `ends` their node numbers (n, 2); metres, square metres, W/mK, Ω·m, J/m³K; `held` marks nodes that are poles."""

    ends: NDArray[np.intp]
    length_m: Array
    width_m: Array
    area_m2: Array
    k_w_mk: Array
    ohm_m: Array
    heat_j_m3_k: Array
    held: NDArray[np.bool_]
    face_w_m2k: float

    def steady(self, amps: Array, pole_k: float) -> Array:
        """The highest temperature along each piece over the air, K, under a current that lasts; poles stand at `pole_k`."""
        m, reach, admittance = self._shape()
        own = self._own(amps)
        nodes = self._nodes(m, reach, admittance, own, pole_k)
        left, right = nodes[self.ends[:, 0]] - own, nodes[self.ends[:, 1]] - own
        # φ = left·cosh(mx) + b·sinh(mx); its turn lies at tanh(mx) = −b/left, and is a maximum where φ is negative.
        b = (right - left * np.cosh(reach)) / np.sinh(reach)
        with np.errstate(divide="ignore", invalid="ignore"):
            turn = -b / left
        inside = (left < 0) & (turn > 0) & (turn < np.tanh(reach))
        top = np.where(inside, -np.sqrt(np.maximum(left**2 - b**2, 0.0)), -np.inf)
        return np.asarray(own + np.maximum(np.maximum(left, right), top))

    def peak(self, lasting: Array, amps: Array, seconds: float, pole_k: float) -> Array:
        """The same after `seconds` of another current that follows the lasting one: between all heat kept and steady.

        Between two poles the excess comes on with τ = L²/(π²·k/(ρ_m·c)), beside which the air hastens it; a piece with a free end gets no more than
        the smaller of steady and all heat kept.
        """
        before, after = self.steady(lasting, pole_k), self.steady(amps, pole_k)
        kept = (amps**2 - lasting**2) * self.ohm_m * seconds / (self.area_m2**2 * self.heat_j_m3_k)
        per_s = np.pi**2 * self.k_w_mk / (self.heat_j_m3_k * self.length_m**2) + self.face_w_m2k * self.width_m / (
            self.heat_j_m3_k * self.area_m2
        )
        between = self.held[self.ends].all(axis=1)
        come_on = np.where(between, 1 - np.exp(-seconds * per_s), 1.0)
        rises = np.minimum((after - before) * come_on, np.maximum(kept, 0.0))
        return np.asarray(np.where(after >= before, before + np.maximum(rises, 0.0), before))

    def _own(self, amps: Array) -> Array:
        """What an endless piece would reach over the air: its heat over what its face gives off."""
        return np.asarray(amps**2 * self.ohm_m / self.area_m2 / (self.face_w_m2k * self.width_m))

    def _shape(self) -> tuple[Array, Array, Array]:
        m = np.sqrt(self.face_w_m2k * self.width_m / (self.k_w_mk * self.area_m2))
        return m, np.minimum(m * self.length_m, LONGEST), self.k_w_mk * self.area_m2 * m

    def _nodes(self, m: Array, reach: Array, admittance: Array, own: Array, pole_k: float) -> Array:
        """Temperature of every node over the air: no heat is left over at a free one."""
        from scipy.sparse import coo_matrix
        from scipy.sparse.linalg import spsolve

        count = len(self.held)
        nodes = np.full(count, pole_k, dtype=float)
        free = np.flatnonzero(~self.held)
        if not len(free):
            return nodes
        near, far = admittance / np.tanh(reach), admittance / np.sinh(reach)
        a, b = self.ends[:, 0], self.ends[:, 1]
        rows, columns = np.concatenate((a, b, a, b)), np.concatenate((a, b, b, a))
        matrix = coo_matrix((np.concatenate((near, near, -far, -far)), (rows, columns)), shape=(count, count)).tocsr()
        source = np.zeros(count)
        np.add.at(source, a, (near - far) * own)
        np.add.at(source, b, (near - far) * own)
        held = np.flatnonzero(self.held)
        right = source[free] - matrix[free][:, held] @ nodes[held]
        nodes[free] = spsolve(matrix[free][:, free].tocsc(), right)
        return nodes
