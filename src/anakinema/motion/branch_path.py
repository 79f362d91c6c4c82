"""A followed stage of the program: its equations, the knots of its path, where and why it ended."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from functools import cached_property

import numpy as np
import numpy.typing as npt

from anakinema.geometry.contour import Floats
from anakinema.mechanism.dyads import Dyads, decompose
from anakinema.mechanism.frames import Indices
from anakinema.mechanism.system import System
from anakinema.motion.bridge import Bridge

FLAT_DYAD = 1e-3
"""Sine below which a dyad's closed form is left to the equations."""


class End(Enum):
    """Why following a stage ended."""

    COMPLETE = "complete"
    DEAD_POINT = "dead point"
    BLOCKED = "blocked"
    LOST = "lost"
    HELD = "held"
    SLOT_END = "slot end"
    LEFT = "left"
    TOUCHED = "touched"
    UNDECIDED = "undecided"


@dataclass(frozen=True, eq=False)
class Path:
    """A stage's equations: driver values run straight from ``start`` to ``end`` (D,)."""

    system: System
    start: Floats
    end: Floats
    anchor: Floats
    """(B, 3) pose whose held quantities are kept."""
    like: Path | None = None
    """Another path under the same system, whose closed forms serve."""

    @cached_property
    def target_rate(self) -> Floats:
        """(R,) constant rate of the right-hand sides per unit of progress."""
        return self.system.target_rates(self.end - self.start)

    @cached_property
    def dyads(self) -> Dyads | None:
        """The same equations in closed form, if they come apart so."""
        return decompose(self.system) if self.like is None else self.like.dyads

    @cached_property
    def _first_targets(self) -> Floats:
        return self.system.targets(self.start, self.anchor)

    def targets(self, p: Floats | float) -> Floats:
        """(..., R) right-hand sides at progress p (...)."""
        return np.asarray(self._first_targets + np.multiply.outer(p, self.target_rate))


@dataclass(frozen=True, slots=True, eq=False)
class Knot:
    """A point of the path: pose, progress, and first and second derivatives by arc length."""

    arc: float
    poses: Floats
    p: float
    tangent: Floats
    bend: Floats


@dataclass(frozen=True, eq=False)
class BranchPath:
    """The followed path: knots in order, where and why it ended, bridges over change points."""

    path: Path
    knots: tuple[Knot, ...]
    p_scale: float
    end: End
    end_p: float
    bridges: tuple[Bridge, ...] = ()

    def bridge_of(self, p: Floats) -> Indices:
        """(N,) index of the bridge that progress lies on, -1 for none."""
        found = np.full(len(p), -1)
        for k, bridge in enumerate(self.bridges):
            found[(p >= bridge.begin) & (p <= bridge.end)] = k
        return found

    @cached_property
    def progress(self) -> Floats:
        """(M,) progress of the knots, increasing."""
        return np.array([knot.p for knot in self.knots])

    @cached_property
    def knot_poses(self) -> Floats:
        """(M, B, 3) poses of the knots."""
        return np.array([knot.poses for knot in self.knots])

    @cached_property
    def _sines(self) -> Floats:
        assert self.path.dyads is not None
        return self.path.dyads.sines(self.knot_poses)

    @property
    def sides(self) -> Floats:
        """(M, G) the side of every dyad at the knots, by sign."""
        return self._sines

    @cached_property
    def is_regular(self) -> npt.NDArray[np.bool_]:
        """(M-1,) whether every dyad stays on its side, well away from flat, between knots."""
        before, after = self._sines[:-1], self._sines[1:]
        middles = (self.progress[1:] + self.progress[:-1]) / 2
        sound = (self.bridge_of(middles) < 0)[:, None] & (before * after > 0)
        sound &= np.minimum(np.abs(before), np.abs(after)) > FLAT_DYAD
        return np.asarray(sound.all(axis=1))

    @cached_property
    def progress_polynomials(self) -> Floats:
        """(6, M-1) quintic Hermite progress over u = 0..1 between knots."""
        slopes = np.array([knot.tangent[-1] for knot in self.knots]) / self.p_scale
        bends = np.array([knot.bend[-1] for knot in self.knots]) / self.p_scale
        return _quintic(self.progress, slopes, bends, self._lengths)

    @cached_property
    def pose_polynomials(self) -> Floats:
        """(6, M-1, B, 3) quintic Hermite poses over u = 0..1 between knots."""
        system = self.path.system
        rates = system.scaled_rates(np.array([knot.tangent[:-1] for knot in self.knots]))
        seconds = system.scaled_rates(np.array([knot.bend[:-1] for knot in self.knots]))
        return _quintic(self.knot_poses, rates, seconds, self._lengths[:, None, None])

    @property
    def _lengths(self) -> Floats:
        return np.diff([knot.arc for knot in self.knots])


def _quintic(values: Floats, slopes: Floats, bends: Floats, length: Floats) -> Floats:
    """(6, M-1, ...) coefficients that meet values and two derivatives at both ends."""
    a, b = values[:-1], values[1:]
    a1, b1 = slopes[:-1] * length, slopes[1:] * length
    a2, b2 = bends[:-1] * length**2, bends[1:] * length**2
    rise = b - a
    return np.stack(
        [
            a,
            a1,
            a2 / 2,
            10 * rise - 6 * a1 - 4 * b1 - 1.5 * a2 + 0.5 * b2,
            -15 * rise + 8 * a1 + 7 * b1 + 1.5 * a2 - b2,
            6 * rise - 3 * (a1 + b1) - 0.5 * (a2 - b2),
        ]
    )


def progress_scale(path: Path) -> float:
    """mm that a unit of progress counts for in the arc length of a path."""
    size = path.system.mechanism.size
    return max(float(np.linalg.norm(path.target_rate)), 1e-3 * size)


def by_arc(path: Path, first: Floats, second: Floats) -> tuple[Floats, Floats, Floats, Floats]:
    """Rates (N, B, 3) by progress turned into tangents and bends (N, n + 1) by arc length.

    Also the speed (N,), mm of arc by progress, and how it changes.
    """
    system = path.system
    scale = progress_scale(path)
    rates = np.column_stack([system.unknown_rates(first), np.full(len(first), scale)])
    bends = np.column_stack([system.unknown_rates(second), np.zeros(len(first))])
    speed = np.linalg.norm(rates, axis=1)
    push = np.sum(rates * bends, axis=1) / speed
    tangents = rates / speed[:, None]
    curves = (bends - push[:, None] * tangents) / speed[:, None] ** 2
    return tangents, curves, speed, push
