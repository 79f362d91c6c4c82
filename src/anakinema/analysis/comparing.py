"""What a certified search asks of things that it compares: outlines of one plane, or slabs in
space."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Protocol, TypeVar

import numpy as np
import numpy.typing as npt

from anakinema.geometry.contour import Floats
from anakinema.mechanism.frames import Indices
from anakinema.motion.bounded import Bounded, with_bounds
from anakinema.motion.motion import States


class Compared(Protocol):
    """Two things of different bodies."""

    @property
    def bodies(self) -> tuple[int, int]:
        """Both body indices."""

    @property
    def about(self) -> frozenset[int]:
        """The bodies whose gap it is."""

    @property
    def rod(self) -> int | None:
        """The joint of the rod that it is between and a body, None between two bodies."""

    @property
    def movers(self) -> tuple[int, ...]:
        """All bodies whose motion moves the two against one another."""

    @property
    def made_of(self) -> tuple[object, ...]:
        """What it compares; those that are alike have the same."""

    def is_like(self, other: Any) -> bool:
        """Whether another of its kind compares the same, whatever poses the movers take."""


@dataclass(frozen=True, slots=True, eq=False)
class Seen:
    """How far two things are apart at N poses.

    distance (N,): mm seen. least (N,): mm that it is not less than; where that is more than was
    asked to be told apart, ``distance`` is no more than such a bound, and not ``is_exact`` (N,).
    facing (N, D): directions from the first to the second as the first body sees them, NaN where
    they touch. first, second (N, D): the nearest points in its frame.
    """

    distance: Floats
    least: Floats
    facing: Floats
    first: Floats
    second: Floats
    is_exact: npt.NDArray[np.bool_]


@dataclass(frozen=True, slots=True, eq=False)
class Around:
    """M stretches of progress, each of one of some comparisons (``which`` (M,)).

    ``states`` (K), and which of them (``row`` (M,)) is in the middle of each; ``bounds`` (L, B, 3)
    on rates, and which of them (``most`` (M,)) hold over each; ``half`` (M,) their half length.
    """

    which: Indices
    states: States
    row: Indices
    bounds: Floats
    most: Indices
    half: Floats

    def bounded(self, some: Indices) -> Bounded:
        """States in the middle of some of the stretches, with their bounds."""
        return with_bounds(self.states.taken(self.row[some]), self.bounds[self.most[some]])

    def grouped(self) -> list[tuple[int, Indices]]:
        """Comparisons, and the stretches of each."""
        return [(int(k), np.flatnonzero(self.which == k)) for k in np.unique(self.which)]


class Approach(Protocol):
    """What keeps the two sides of a comparison apart around N poses."""

    def taken(self, rows: Indices) -> Approach:
        """The same for some of the poses."""

    def strip(self, facing: Floats, reach: Floats) -> Floats:
        """(N,) mm: the gap stays above this within ``reach`` (N,) of each pose, by the strip
        between the two at right angles to ``facing`` (N, D); NaN where there is none."""

    def low(self, least: Floats, facing: Floats, reach: Floats) -> Floats:
        """(N,) mm: the same by whatever bound is better, knowing that the gap at the pose is not
        less than ``least`` (N,)."""


class Approaches(Protocol):
    """How near and how fast I comparisons can come around N states."""

    @property
    def circles(self) -> Floats:
        """(I, N) mm between the circles, or spheres, round them."""

    @property
    def speed(self) -> Floats:
        """(I, N) mm per unit of progress, bound over the whole stretch; NaN where unbounded."""

    def closer(self, kept: Indices) -> Approaches:
        """Of some of the comparisons (K,), with the best bounds of speeds there are."""

    def at(self, which: Indices, rows: Indices) -> Approach:
        """Of M pairs of a comparison (``which``) and a state (``rows``)."""


Point = tuple[float, ...]

C = TypeVar("C", bound=Compared)
Asked = TypeVar("Asked", bound=Compared, contravariant=True)


class Comparing(Protocol[Asked]):
    """A way to compare."""

    directions: int

    def seen(self, asked: Sequence[tuple[Asked, Floats]], enough: float = np.inf) -> list[Seen]:
        """Distances of comparisons, each at poses (N, B, 3) of its own; of what is ``enough`` mm
        apart or more it need not be told how much."""

    def curve(self, items: Sequence[Asked], poses: Floats) -> Floats:
        """(N,) mm, the smallest gap of comparisons at each of the poses (N, B, 3)."""

    def circles(self, items: Sequence[Asked], poses: Floats) -> list[Floats]:
        """(N,) mm between circles, or spheres, round both sides of each comparison, at poses
        (N, B, 3)."""

    def approaches(self, items: Sequence[Asked], states: Bounded, reach: Floats) -> Approaches:
        """How near and fast comparisons can come within ``reach`` (N,) of each state."""

    def around(self, items: Sequence[Asked], at: Around) -> Approach:
        """The same over stretches of several comparisons at once."""

    def rings(self, item: Asked, states: Bounded, half: Floats) -> Floats | None:
        """(N,) mm that the two stay apart by because they keep to different rings; None if there
        are none."""

    def load(self, item: Asked) -> int:
        """Pairs of edges that a look at a comparison costs."""

    def depth(self, item: Asked, poses: Floats) -> float:
        """mm by which two that overlap reach into one another at poses (B, 3)."""

    def may_rest(self, item: Asked) -> bool:
        """Whether one rests at the end of the other where they just touch."""

    def points(self, item: Asked, seen: Seen, poses: Floats) -> tuple[Point, Point]:
        """The nearest points of what was seen at poses (B, 3) alone: in the plane of both, or in
        space."""

    def near(self, item: Asked, poses: Floats) -> Indices:
        """Rows of poses (N, B, 3) at which what is round them meets."""
