"""The followed branch across change points, as one polynomial of progress."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.mechanism.system import System

HOLE = 0.4
"""Share of a bridge about its middle where the polynomial answers alone: there the equations
say little, farther out they say all."""


@dataclass(frozen=True, slots=True)
class ChangePoint:
    """Where assemblies meet: at progress p, and the loops (bodies) that could go another way."""

    p: float
    loops: tuple[tuple[int, ...], ...]


@dataclass(frozen=True, slots=True, eq=False)
class Bridge:
    """A stretch of progress with change points in its middle.

    series : (K, n) Chebyshev series, over -1..1 for ``begin``..``end``, of the unknowns' way from
    ``reference`` (B, 3).
    """

    begin: float
    end: float
    reference: Floats
    series: Floats
    points: tuple[ChangePoint, ...] = ()

    @property
    def half(self) -> float:
        """Half the progress it spans."""
        return (self.end - self.begin) / 2

    def is_hole(self, p: Floats) -> np.ndarray:
        """(N,) whether progress lies where the polynomial answers alone."""
        middle = (self.begin + self.end) / 2
        return np.asarray(np.abs(p - middle) <= HOLE * self.half)

    def ways(self, p: Floats) -> Floats:
        """(3, N, n) the unknowns' way and its first and second rates at progress (N,)."""
        x = (p - (self.begin + self.end) / 2) / self.half
        rows = chebyshev_rows(x, len(self.series))
        scale = np.array([1.0, 1.0 / self.half, 1.0 / self.half**2])
        return np.asarray(scale[:, None, None] * (rows @ self.series))

    def states(self, system: System, p: Floats) -> tuple[Floats, Floats, Floats]:
        """Poses, first and second rates by progress, (N, B, 3) each."""
        way, first, second = self.ways(p)
        poses = system.moved(np.broadcast_to(self.reference, (len(p), *self.reference.shape)), way)
        return poses, system.scaled_rates(first), system.scaled_rates(second)


def chebyshev_rows(x: Floats, terms: int) -> Floats:
    """(3, N, terms) Chebyshev polynomials at x (N,), and their first and second derivatives."""
    out = np.zeros((3, len(x), terms))
    out[0, :, 0] = 1.0
    if terms > 1:
        out[0, :, 1], out[1, :, 1] = x, 1.0
    for k in range(1, terms - 1):
        value, slope, bend = out[:, :, k]
        out[0, :, k + 1] = 2 * x * value - out[0, :, k - 1]
        out[1, :, k + 1] = 2 * value + 2 * x * slope - out[1, :, k - 1]
        out[2, :, k + 1] = 4 * slope + 2 * x * bend - out[2, :, k - 1]
    return out
